// The mission's named values, as chips above the steps.
import {
  deleteLine,
  deleteLines,
  inlineValue,
  insertTopLine,
  insertValue,
  isTopLine,
  linePieces,
} from "@giddy-pebble/core";
import { useState } from "react";
import { Typed } from "../../shared/controls.js";
import { Pieces } from "../../shared/mission/Pieces.js";
import { useMission } from "../../shared/mission/state.js";
import { edit } from "../../shared/mission/store.js";

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
