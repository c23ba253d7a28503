// The mission's named values, as chips above the steps.
import {
  deleteLine,
  headerValue,
  inlineValue,
  insertValue,
  linePieces,
  openingComment,
  setGoal,
  setHeader,
} from "@giddy-pebble/core";
import { useState } from "react";
import { Pieces } from "./StepRow.js";
import { namesOf, useMission } from "./state.js";
import { edit } from "./store.js";

export function Values() {
  const mission = useMission((state) => state.mission);
  const [adding, setAdding] = useState<string | null>(null);
  const add = () => {
    const [, name, value] =
      /^\s*([a-z_][a-z0-9_]*)\s*=?\s+?(.+)$/i.exec(adding ?? "") ??
      /^\s*([a-z_]\w*)\s*=\s*(.+)$/i.exec(adding ?? "") ??
      [];
    if (name && value) {
      edit(insertValue(mission, name, value.replace(/^=\s*/, "")), `adding the value ${name}`);
      setAdding(null);
    }
  };
  return (
    <div className="values">
      {mission.sets.map((line) => {
        const pieces = linePieces(mission.text, mission.lines[line.line] as (typeof mission.lines)[number]);
        return (
          <span className="chip" key={line.name.name}>
            <span>{line.name.name}</span>
            <Pieces pieces={pieces.slice(3)} />
            <button
              type="button"
              className="drop"
              title="Put the number back into the steps"
              aria-label={`Put ${line.name.name} back into the steps as a number`}
              onClick={() => putBack(line.name.name)}
            >
              ↩
            </button>
            <button
              type="button"
              className="drop"
              aria-label={`Delete the value ${line.name.name}`}
              onClick={() => edit(deleteLine(mission, line.line), `deleting the value ${line.name.name}`)}
            >
              ×
            </button>
          </span>
        );
      })}
      {adding === null ? (
        <button type="button" className="chip" onClick={() => setAdding("")}>
          + value
        </button>
      ) : (
        <input
          className="editor-in"
          // biome-ignore lint/a11y/noAutofocus: it appears where the person has just pressed
          autoFocus
          aria-label="Name and value"
          placeholder="slow 10 cm/s"
          value={adding}
          onChange={(event) => setAdding(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") add();
            if (event.key === "Escape") setAdding(null);
          }}
          onBlur={() => (adding.trim() === "" ? setAdding(null) : add())}
        />
      )}
    </div>
  );
}

function putBack(name: string): void {
  const change = inlineValue(useMission.getState().mission, name);
  if (change) edit(change, `putting ${name} back as a number`);
  else useMission.setState({ message: `${name} is set again in the steps, so it cannot be a plain number.` });
}

/** What the file says above its steps: comment, robot, field, begin place, goal. */
export function About() {
  const mission = useMission((state) => state.mission);
  const library = useMission((state) => state.library);
  const field = useMission((state) => state.field?.document);
  const comment = openingComment(mission);
  const goal = mission.goal && mission.lines[mission.goal.line];
  return (
    <div className="about">
      {comment !== "" && <p>{comment}</p>}
      <p className="quiet">
        <Header word="robot" before="for" names={namesOf(library, "robot")} />{" "}
        <Header word="field" before="on" names={namesOf(library, "field")} />{" "}
        <Header word="begin" before="from" names={field?.begins.map((begin) => begin.name) ?? []} />
      </p>
      {goal ? (
        <p className="words">
          <Pieces pieces={linePieces(mission.text, goal)} />
        </p>
      ) : (
        <GoalPicker zones={field?.zones.map((zone) => zone.name) ?? []} />
      )}
    </div>
  );
}

function Header({
  word,
  before,
  names,
}: {
  word: "robot" | "field" | "begin";
  before: string;
  names: readonly string[];
}) {
  const mission = useMission((state) => state.mission);
  const value = headerValue(mission, word);
  const listed = value === null || names.includes(value) ? names : [value, ...names];
  if (listed.length === 0) return null;
  return (
    <label className="headerpick">
      {before}{" "}
      <select
        aria-label={{ robot: "Robot", field: "Field", begin: "Begin place" }[word]}
        value={value ?? ""}
        onChange={(event) => edit(setHeader(mission, word, event.target.value), `choosing the ${word}`)}
      >
        {value === null && <option value="">{word === "field" ? "an open floor" : "the first one"}</option>}
        {listed.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </select>
    </label>
  );
}

/** A mission without a goal counts as good when it comes to its end; a zone makes a better one. */
function GoalPicker({ zones }: { zones: readonly string[] }) {
  const mission = useMission((state) => state.mission);
  if (zones.length === 0) return null;
  return (
    <label className="headerpick quiet">
      goal{" "}
      <select
        aria-label="Goal"
        value=""
        onChange={(event) => edit(setGoal(mission, event.target.value), "setting the goal")}
      >
        <option value="">to come to the end</option>
        {zones.map((zone) => (
          <option key={zone} value={`inside "${zone}" and clock < 60 s`}>
            inside {zone} within 60 s
          </option>
        ))}
      </select>
    </label>
  );
}
