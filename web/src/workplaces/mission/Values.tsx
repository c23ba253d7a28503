// The mission's named values, as chips above the steps.
import {
  deleteLine,
  deleteLines,
  headerValue,
  inlineValue,
  insertTopLine,
  insertValue,
  isTopLine,
  linePieces,
  openingComment,
  setGoal,
  setHeader,
} from "@giddy-pebble/core";
import { useState } from "react";
import { Pick, Typed } from "../../shared/controls.js";
import { Pieces } from "./StepRow.js";
import { namesOf, useMission } from "./state.js";
import { edit } from "./store.js";

export function Values() {
  const mission = useMission((state) => state.mission);
  const [adding, setAdding] = useState<string | null>(null);
  const add = () => {
    if (isTopLine(adding ?? "")) {
      edit(insertTopLine(mission, adding ?? ""), `adding ${(adding ?? "").trim()}`);
      setAdding(null);
      return;
    }
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
            <span>
              {line.remembered && <span className="quiet">remember </span>}
              {line.name.name}
            </span>
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
      <Declared />
      {adding === null ? (
        <button type="button" className="chip" onClick={() => setAdding("")}>
          + value
        </button>
      ) : (
        <Typed
          className="editor-in"
          autoFocus
          aria-label="Name and value"
          placeholder="slow 10 cm/s, or list looks of length, at most 7"
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

/** What else stands above the steps: collections that are used, lists, tables and paths. */
function Declared() {
  const mission = useMission((state) => state.mission);
  const uses = mission.headers.filter(({ word }) => word === "use");
  const chips = [
    ...uses.map(({ value, line }) => ({ words: `use "${value}"`, first: line, end: line + 1 })),
    ...mission.lists.map(({ name, of, by, most, rolling, line }) => ({
      words: `${by ? "table" : "list"} ${name.name} of ${of}${by ? ` by ${by}` : ""}, at most ${most}${rolling ? ", rolling" : ""}`,
      first: line,
      end: line + 1,
    })),
    ...mission.paths.map(({ name, places, line }) => ({
      words: `path ${name.name}, ${places.length} place${places.length === 1 ? "" : "s"}`,
      first: line,
      end: (places.at(-1)?.line ?? line) + 1,
    })),
  ];
  return chips.map(({ words, first, end }) => (
    <span className="chip" key={first}>
      <span>{words}</span>
      <button
        type="button"
        className="drop"
        aria-label={`Delete ${words}`}
        onClick={() => edit(deleteLines(mission, first, end), `deleting ${words}`)}
      >
        ×
      </button>
    </span>
  ));
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
      <Pick
        aria-label={{ robot: "Robot", field: "Field", begin: "Begin place" }[word]}
        value={value ?? ""}
        onChange={(event) => edit(setHeader(mission, word, event.target.value), `choosing the ${word}`)}
      >
        {value === null && <option value="">{word === "field" ? "an open floor" : "the first one"}</option>}
        {listed.map((name) => (
          <option key={name}>{name}</option>
        ))}
      </Pick>
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
      <Pick
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
      </Pick>
    </label>
  );
}
