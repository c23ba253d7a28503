// The pieces of a line: words as words, numbers, names and sides to edit.
import { NEVER_NAMES, nameNumber, type Piece } from "@giddy-pebble/core";
import { useRef, useState } from "react";
import { Typed } from "../controls.js";
import { QuantityField } from "../quantity/QuantityField.js";
import { currentNames } from "./names.js";
import { useMission } from "./state.js";
import { edit } from "./store.js";

/** A line's pieces: words as words, numbers, names and sides to edit. */
export function Pieces({ pieces }: { pieces: readonly Piece[] }) {
  return pieces.map((piece, i) => (
    <PieceView
      key={`${piece.kind}${pieces.slice(0, i).filter((other) => other.kind === piece.kind).length}`}
      piece={piece}
      before={pieces[i - 1]?.text ?? pieces[0]?.text ?? ""}
    />
  ));
}

function PieceView({ piece, before }: { piece: Piece; before: string }) {
  const replace = (insert: string, label: string, typing?: string) =>
    edit({ start: piece.start, end: piece.end, insert }, label, undefined, typing);
  switch (piece.kind) {
    case "verb":
      return <span className="verb">{piece.text}</span>;
    case "quantity":
      return (
        <QuantityField
          digits={piece.digits}
          unit={piece.unit}
          label={`${before}, ${piece.unit || "number"}`}
          nameIt={(name) => giveName(piece, name)}
          onChange={(text, how) =>
            replace(
              text,
              how === "stepped" ? "changing a number" : `changing ${piece.text} to ${text}`,
              how === "stepped" ? `number/${piece.start}` : undefined,
            )
          }
        />
      );
    case "side":
      return (
        <button
          type="button"
          className="field-q"
          aria-label={`${piece.text}, press for the other side`}
          onClick={(event) => {
            event.stopPropagation();
            replace(piece.text === "left" ? "right" : "left", "changing the side");
          }}
        >
          {piece.text}
        </button>
      );
    case "name":
      return <NameField piece={piece} onChange={(text) => replace(text, `changing ${piece.text} to ${text}`)} />;
    default:
      return (
        <span className={`${piece.kind === "text" ? "mono" : "quiet"}${piece.tight ? " tight" : ""}`}>
          {piece.text}
        </span>
      );
  }
}

/** A named value or a reading: press it for the names that could stand here, or type another. */
function NameField({ piece, onChange }: { piece: Piece; onChange: (text: string) => void }) {
  const [editing, setEditing] = useState<string | null>(null);
  const box = useRef<HTMLSpanElement>(null);
  if (editing === null) {
    return (
      <button
        type="button"
        className="field-q"
        aria-label={`${piece.text}, press to change`}
        onClick={(event) => {
          event.stopPropagation();
          setEditing(piece.text);
        }}
      >
        {piece.text}
      </button>
    );
  }
  const take = (text: string) => {
    setEditing(null);
    if (text.trim() !== "" && text.trim() !== piece.text) onChange(text.trim());
  };
  const { readings, values, parts } = currentNames();
  const known = [...values.keys(), ...parts, ...readings.keys()];
  const kept = known.filter((name) => name.startsWith(editing));
  const offers = (editing === piece.text || kept.length === 0 ? known : kept).filter((name) => name !== piece.text);
  return (
    <span ref={box} className="namefield">
      <Typed
        className="editor-in"
        aria-label={`Instead of ${piece.text}`}
        autoFocus
        size={Math.max(6, editing.length)}
        value={editing}
        onChange={(event) => setEditing(event.target.value)}
        onClick={(event) => event.stopPropagation()}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") take(editing);
          if (event.key === "Escape") setEditing(null);
        }}
        onBlur={() => take(editing)}
      />
      <span className="names" role="listbox" aria-label="Names to choose from">
        {offers.slice(0, 30).map((name) => (
          <button
            type="button"
            key={name}
            role="option"
            aria-selected={false}
            tabIndex={-1}
            onPointerDown={(event) => event.preventDefault()}
            onClick={(event) => {
              event.stopPropagation();
              take(name);
            }}
          >
            {name}
          </button>
        ))}
      </span>
    </span>
  );
}

/** Gives the number a name at the top of the mission. @returns why not, or null */
function giveName(piece: Piece, name: string): string | null {
  const { mission, prepared } = useMission.getState();
  if (!/^[A-Za-z_]\w*$/.test(name)) return "A name has letters, digits and _, and begins with a letter.";
  if (NEVER_NAMES.has(name)) return `"${name}" is a word of the language.`;
  if (prepared?.check.symbols.globals.has(name)) return `"${name}" is taken already.`;
  edit(nameNumber(mission, piece, name), `naming ${piece.text} ${name}`);
  return null;
}
