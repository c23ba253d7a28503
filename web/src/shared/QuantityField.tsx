// A quantity edited where it stands: click or type, drag sideways, arrow keys by one digit, Shift by ten.
// The unit is converted, never dropped; what cannot be read says why and stays as it was typed.
import { findUnit, plainDigits, readQuantity, sameDimension } from "@giddy-pebble/core";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { Typed } from "./controls.js";

interface Props {
  /** As typed: "30". */
  digits: string;
  unit: string;
  /** For screen readers: what the number is. */
  label: string;
  onChange(text: string, how: "typed" | "stepped"): void;
  /** Why a value may not be taken, as a sentence; null when it may. Digits in the unit shown. */
  refuse?(digits: string): string | null;
  /** For screen readers and tests: a description that stands beside it. */
  describedBy?: string;
  /** Offers to give the number a name; returns why a name may not be taken, or null once it is. */
  nameIt?(name: string): string | null;
}

/** Units a robot's parts have that missions do not write: read as they stand, without conversion. */
function readPlain(text: string, unit: string): { ok: true; digits: string } | { ok: false; message: string } {
  const match = /^([+-]?\d+(?:\.\d+)?)\s*(.*)$/.exec(text);
  if (!match) return { ok: false, message: `"${text}" is not a number. Write for example 3 ${unit}.` };
  const [, digits = "0", written = ""] = match;
  if (written !== "" && written.replace(/\s+/g, "") !== unit.replace(/\s+/g, ""))
    return { ok: false, message: `This is kept in ${unit}. Write ${digits} ${unit}.` };
  return { ok: true, digits: digits.replace(/^\+/, "") };
}

const PIXELS_PER_STEP = 6;

/** One in the last written digit. */
function lastDigit(digits: string): number {
  const point = digits.indexOf(".");
  return point === -1 ? 1 : 10 ** -(digits.length - point - 1);
}

function places(digits: string): number {
  const point = digits.indexOf(".");
  return point === -1 ? 0 : digits.length - point - 1;
}

function written(digits: string, unit: string): string {
  return unit === "" ? digits : `${digits} ${unit}`;
}

/** Digits of a value in the unit the field shows. */
function inShownUnit(value: number, digits: string, from: string, to: string): string {
  if (from === to || to === "") return digits;
  const unit = findUnit(to);
  return unit ? plainDigits(value / unit.scale, 6) : digits;
}

export function QuantityField({ digits, unit, label, onChange, refuse, describedBy, nameIt }: Props) {
  const [editing, setEditing] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [naming, setNaming] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const spin = useRef<HTMLSpanElement>(null);
  const drag = useRef<{ x: number; start: number; moved: boolean } | null>(null);
  const refocus = useRef(false);

  useEffect(() => {
    if (editing !== null && input.current && document.activeElement !== input.current) {
      input.current.focus();
      if (editing === written(digits, unit)) input.current.select();
    }
    if (editing === null && refocus.current) {
      refocus.current = false;
      spin.current?.focus();
    }
  }, [editing, digits, unit]);

  const dimension = unit === "" ? null : (findUnit(unit)?.dimension ?? null);

  const commit = (text: string, stay: boolean): void => {
    const trimmed = text.trim();
    if (trimmed === written(digits, unit) || trimmed === "") return close(stay);
    if (unit !== "" && dimension === null) return commitPlain(trimmed, stay);
    const number = findUnit("%")?.dimension;
    const wanted = dimension ?? number;
    if (!wanted) return close(stay);
    const read = readQuantity(trimmed, wanted, unit === "" ? undefined : unit);
    if (!read.ok) return setTrouble(read.message);
    const { quantity } = read;
    const refused = refuse?.(inShownUnit(quantity.value, quantity.digits, quantity.unit, unit)) ?? null;
    if (refused !== null) return setTrouble(refused);
    close(stay);
    onChange(written(quantity.digits, quantity.unit), "typed");
  };

  const commitPlain = (text: string, stay: boolean): void => {
    const read = readPlain(text, unit);
    const refused = read.ok ? (refuse?.(read.digits) ?? null) : read.message;
    if (!read.ok || refused !== null) return setTrouble(refused);
    close(stay);
    onChange(written(read.digits, unit), "typed");
  };

  const close = (stay: boolean): void => {
    refocus.current = stay;
    setTrouble(null);
    setEditing(null);
  };

  const step = (by: number): void => {
    const size = lastDigit(digits);
    const next = Number(digits) + by * size;
    const lowest =
      sameDimension(dimension ?? { length: 0, angle: 0, time: 0, voltage: 0, mass: 0 }, {
        length: 0,
        angle: 0,
        time: 1,
        voltage: 0,
        mass: 0,
      }) || unit === ""
        ? 0
        : Number.NEGATIVE_INFINITY;
    const text = plainDigits(Math.max(lowest, next), places(digits));
    if (text !== digits && !refuse?.(text)) onChange(written(text, unit), "stepped");
  };

  const keys = (event: KeyboardEvent): void => {
    if (event.key === "ArrowUp" || event.key === "ArrowDown") {
      if (event.altKey) return;
      event.preventDefault();
      event.stopPropagation();
      step((event.key === "ArrowUp" ? 1 : -1) * (event.shiftKey ? 10 : 1));
    } else if (event.key === "Enter" || event.key === "F2") {
      event.preventDefault();
      event.stopPropagation();
      setEditing(written(digits, unit));
    } else if (nameIt && event.key.toLowerCase() === "n" && !event.ctrlKey && !event.metaKey && !event.altKey) {
      event.preventDefault();
      event.stopPropagation();
      setNaming("");
    } else if (/^[0-9]$/.test(event.key) && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      event.stopPropagation();
      setEditing(event.key);
    }
  };

  const pointerDown = (event: PointerEvent): void => {
    drag.current = { x: event.clientX, start: Number(digits), moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const pointerMove = (event: PointerEvent): void => {
    const held = drag.current;
    if (!held) return;
    const steps = Math.trunc((event.clientX - held.x) / PIXELS_PER_STEP);
    if (steps === 0 && !held.moved) return;
    held.moved = true;
    const text = plainDigits(held.start + steps * lastDigit(digits) * (event.shiftKey ? 10 : 1), places(digits));
    if (text !== digits && (refuse ? !refuse(text) : Number(text) >= 0 || held.start < 0))
      onChange(written(text, unit), "stepped");
  };
  const pointerUp = (): void => {
    const held = drag.current;
    drag.current = null;
    if (held && !held.moved) setEditing(written(digits, unit));
  };

  if (naming !== null) {
    const take = () => {
      const why = naming.trim() === "" ? null : (nameIt?.(naming.trim()) ?? null);
      setTrouble(why);
      if (why === null) setNaming(null);
    };
    return (
      <span>
        <Typed
          className="editor-in"
          aria-label={`Name for ${written(digits, unit)}`}
          placeholder="name"
          autoFocus
          size={10}
          value={naming}
          onChange={(event) => setNaming(event.target.value)}
          onClick={(event) => event.stopPropagation()}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") take();
            if (event.key === "Escape") close(true);
            if (event.key === "Escape") setNaming(null);
          }}
          onBlur={take}
        />
        {trouble && (
          <span className="bubble" role="alert">
            {" "}
            {trouble}
          </span>
        )}
      </span>
    );
  }
  if (editing !== null) {
    return (
      <span>
        <Typed
          ref={input}
          className="editor-in"
          aria-label={label}
          aria-invalid={trouble !== null}
          size={Math.max(5, editing.length + 1)}
          value={editing}
          onChange={(event) => {
            setEditing(event.target.value);
            setTrouble(null);
          }}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") commit(editing, true);
            if (event.key === "Escape") close(true);
          }}
          onBlur={() => commit(editing, false)}
        />
        {nameIt && (
          <button
            type="button"
            className="mend"
            onPointerDown={(event) => event.preventDefault()}
            onClick={(event) => {
              event.stopPropagation();
              setEditing(null);
              setNaming("");
            }}
          >
            name it
          </button>
        )}
        {trouble && (
          <span className="bubble" role="alert">
            {" "}
            {trouble}
          </span>
        )}
      </span>
    );
  }
  return (
    <span
      ref={spin}
      className="field-q quantity"
      role="spinbutton"
      tabIndex={0}
      aria-label={label}
      aria-valuenow={Number(digits)}
      aria-valuetext={written(digits, unit)}
      aria-describedby={describedBy}
      onKeyDown={keys}
      onPointerDown={pointerDown}
      onPointerMove={pointerMove}
      onPointerUp={pointerUp}
      onPointerCancel={() => {
        drag.current = null;
      }}
    >
      {written(digits, unit)}
    </span>
  );
}
