// Type a step, press Enter: it goes in after the selected one. What it could become is listed as it is typed, and
// can be taken by Tab, the arrow keys or a press. What does not read says why and stays typed.
import {
  type Completion,
  completeStep,
  insertStep,
  type Problem,
  parseMission,
  prepareMission,
  wordProblems,
} from "@giddy-pebble/core";
import { type Ref, useEffect, useMemo, useRef, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { currentNames } from "../../shared/mission/names.js";
import { useMission } from "../../shared/mission/state.js";
import { edit } from "../../shared/mission/store.js";
import { insertionPlace } from "./StepList.js";

interface Trial {
  readonly change: ReturnType<typeof insertStep>;
  readonly line: number;
  readonly problem: Problem | null;
  /** Where the typed words begin in the text they were tried in. */
  readonly offset: number;
}

/** Lines that make a block whole, at its own indent: its first step, and what it cannot be without. */
function restOfBlock(words: string): readonly string[] {
  const head = /^[a-z]+/.exec(words)?.[0] ?? "";
  switch (head) {
    case "repeat":
    case "if":
      return ["  wait 1 s"];
    case "every":
      return ["  note time = clock"];
    case "together":
      return ["  wait 1 s", "also", "  wait 1 s"];
    case "during":
      return ["  wait 1 s", "whenever robot.stalled", "  leave"];
    case "choose":
      return [`  ${armFor(words)}`, "    wait 1 s", "  otherwise", "    wait 1 s"];
    default:
      return [];
  }
}

function armFor(words: string): string {
  if (/\.colour\s*$/.test(words)) return "is green";
  return /\.(distance|travel)\s*$/.test(words) ? "< 20 cm" : "is 1";
}

/** Tries the step in its place; blocks get a first step, so that they are whole. */
function tryStep(words: string): Trial {
  const { mission, robot, field, collections } = useMission.getState();
  const place = insertionPlace();
  const plain = insertStep(mission, words, place);
  const indent = " ".repeat(place?.block.indent ?? 2);
  const rest = restOfBlock(words)
    .map((line) => `\n${indent}${line}`)
    .join("");
  const change = rest === "" ? plain : { ...plain, insert: plain.insert.replace(/(\n?)$/, `${rest}$1`) };
  const text = mission.text.slice(0, change.start) + change.insert + mission.text.slice(change.end);
  const offset = change.start + change.insert.indexOf(words);
  const line = text.slice(0, offset).split("\n").length - 1;
  const problems =
    robot && field
      ? prepareMission(text, robot.document, field.document, undefined, collections).check.problems
      : wordProblems(parseMission(text));
  const end = offset + words.length;
  const problem =
    problems.find(
      (candidate) => candidate.severity === "error" && candidate.start >= offset && candidate.start <= end,
    ) ?? null;
  return { change, line, problem, offset };
}

/** Goes in at once when pressed: a whole step, not the beginning of one. */
function isWhole(words: string): boolean {
  return tryStep(words.trim()).problem === null;
}

export function QuickAdd({ inputRef, toList }: { inputRef: Ref<HTMLInputElement>; toList: () => void }) {
  const [words, setWords] = useState("");
  const [refused, setRefused] = useState<Trial | null>(null);
  const [open, setOpen] = useState(false);
  const [marked, setMarked] = useState(-1);
  const box = useRef<HTMLDivElement>(null);
  const text = useMission((state) => state.history.present.text);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the names to offer come from the text
  const offers = useMemo(() => (open ? completeStep(words, currentNames()) : []), [words, open, text]);

  useEffect(() => {
    if (!open) return;
    const away = (event: PointerEvent) => {
      if (event.target instanceof Node && !box.current?.contains(event.target)) setOpen(false);
    };
    window.addEventListener("pointerdown", away);
    return () => window.removeEventListener("pointerdown", away);
  }, [open]);

  const change = (next: string) => {
    setWords(next);
    setRefused(null);
    setMarked(-1);
    setOpen(true);
  };
  const add = (typed: string) => {
    if (typed === "") return;
    const trial = tryStep(typed);
    if (trial.problem) {
      setWords(typed);
      return setRefused(trial);
    }
    edit(trial.change, "adding a step", trial.line);
    setWords("");
    setRefused(null);
    setMarked(-1);
    setOpen(false);
  };
  const take = (offer: Completion) => change(offer.text);
  const press = (offer: Completion) => (isWhole(offer.text) ? add(offer.text.trim()) : take(offer));

  const mend = refused?.problem?.mend ?? null;
  const applyMend = () => {
    if (!mend || !refused) return;
    const typed = words.trim();
    setWords(
      typed.slice(0, Math.max(0, mend.start - refused.offset)) +
        mend.text +
        typed.slice(Math.max(0, mend.end - refused.offset)),
    );
    setRefused(null);
  };
  const inside =
    mend !== null &&
    refused !== null &&
    mend.start >= refused.offset &&
    mend.end <= refused.offset + words.trim().length;
  const first = offers[marked === -1 ? 0 : marked];
  const shown = open && offers.length > 0;

  const keys = (event: React.KeyboardEvent<HTMLInputElement>) => {
    if (event.key === "Enter") {
      const offer = marked === -1 ? undefined : offers[marked];
      if (offer) take(offer);
      else add(words.trim());
    } else if (event.key === "Tab" && shown && first && !event.shiftKey && words.trim() !== "" && first.text !== words)
      take(first);
    else if (event.key === "ArrowDown" && shown) setMarked((marked + 1) % offers.length);
    else if (event.key === "ArrowUp" && shown) setMarked(marked <= 0 ? offers.length - 1 : marked - 1);
    else if (event.key === "Escape" && shown) setOpen(false);
    else if (event.key === "Escape") return toList();
    else return;
    event.preventDefault();
  };

  return (
    <div className="quickadd" ref={box}>
      {shown && (
        <div className="offers" id="step-offers" role="listbox" aria-label="Steps to choose from">
          {offers.map((offer, i) => (
            <div
              key={offer.text}
              id={`offer-${i}`}
              role="option"
              tabIndex={-1}
              aria-selected={i === marked}
              onPointerDown={(event) => event.preventDefault()}
              onClick={() => press(offer)}
              onKeyDown={() => {}}
            >
              <code>{offer.label}</code>
              <small>{offer.help}</small>
            </div>
          ))}
        </div>
      )}
      <div className="line">
        <Typed
          ref={inputRef}
          value={words}
          role="combobox"
          aria-label="Type a step"
          aria-expanded={shown}
          aria-controls="step-offers"
          aria-autocomplete="list"
          aria-activedescendant={shown && marked >= 0 ? `offer-${marked}` : undefined}
          placeholder="Type a step: go 30 cm at 20 cm/s"
          spellCheck={false}
          autoComplete="off"
          onChange={(event) => change(event.target.value)}
          onClick={() => setOpen(true)}
          onBlur={() => setOpen(false)}
          onKeyDown={keys}
        />
        {shown && first && words.trim() !== "" && first.text !== words ? (
          <span className="quiet mono">Tab: {first.label}</span>
        ) : (
          <span className="quiet">Enter</span>
        )}
      </div>
      {refused?.problem && (
        <div className="bubble" role="alert">
          {refused.problem.message}{" "}
          {inside && (
            <button type="button" className="mend" onClick={applyMend}>
              {mend?.label}
            </button>
          )}
        </div>
      )}
    </div>
  );
}
