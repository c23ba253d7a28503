// Type a step, press Enter: it goes in after the selected one. What does not read says why and stays typed.
import { insertStep, type Problem, parseMission, prepareMission, STEP_FORMS } from "@giddy-pebble/core";
import { type Ref, useState } from "react";
import { insertionPlace } from "./StepList.js";
import { useMission } from "./state.js";
import { edit } from "./store.js";

interface Trial {
  readonly change: ReturnType<typeof insertStep>;
  readonly line: number;
  readonly problem: Problem | null;
  /** Where the typed words begin in the text they were tried in. */
  readonly offset: number;
}

/** Tries the step in its place; blocks get a first step, so that they are whole. */
function tryStep(words: string): Trial {
  const { mission, robot, field } = useMission.getState();
  const opens = /^(repeat|if)\b/.test(words);
  const place = insertionPlace();
  const plain = insertStep(mission, words, place);
  const indent = " ".repeat((place?.block.indent ?? 2) + 2);
  const change = opens ? { ...plain, insert: plain.insert.replace(/(\n?)$/, `\n${indent}wait 1 s$1`) } : plain;
  const text = mission.text.slice(0, change.start) + change.insert + mission.text.slice(change.end);
  const offset = change.start + change.insert.indexOf(words);
  const line = text.slice(0, offset).split("\n").length - 1;
  const problems =
    robot && field ? prepareMission(text, robot.document, field.document).check.problems : parseMission(text).problems;
  const end = offset + words.length;
  const problem =
    problems.find(
      (candidate) => candidate.severity === "error" && candidate.start >= offset && candidate.start <= end,
    ) ?? null;
  return { change, line, problem, offset };
}

export function QuickAdd({ inputRef, toList }: { inputRef: Ref<HTMLInputElement>; toList: () => void }) {
  const [words, setWords] = useState("");
  const [refused, setRefused] = useState<Trial | null>(null);
  const first = words.trim().split(/\s/)[0] ?? "";
  const form =
    words.trim() !== "" && !words.trim().includes(" ")
      ? Object.entries(STEP_FORMS).find(([word]) => word.startsWith(first) && word !== words.trim())?.[1]
      : undefined;

  const add = () => {
    const typed = words.trim();
    if (typed === "") return;
    const trial = tryStep(typed);
    if (trial.problem) return setRefused(trial);
    edit(trial.change, "adding a step", trial.line);
    setWords("");
    setRefused(null);
  };

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

  return (
    <div className="quickadd">
      <div className="line">
        <input
          ref={inputRef}
          value={words}
          aria-label="Type a step"
          placeholder="Type a step: go 30 cm at 20 cm/s"
          spellCheck={false}
          autoComplete="off"
          onChange={(event) => {
            setWords(event.target.value);
            setRefused(null);
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter") add();
            if (event.key === "Tab" && form && !event.shiftKey) {
              event.preventDefault();
              setWords(form);
            }
            if (event.key === "Escape") toList();
          }}
        />
        {form ? <span className="quiet mono">Tab: {form}</span> : <span className="quiet">Enter</span>}
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
