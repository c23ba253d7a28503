// The mission's named values, as chips above the steps.
import { deleteLine, headerValue, insertValue, linePieces, openingComment } from "@giddy-pebble/core";
import { useState } from "react";
import { Pieces } from "./StepRow.js";
import { useMission } from "./state.js";
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

/** What the file says above its steps: comment, robot, field, begin place, goal. */
export function About() {
  const mission = useMission((state) => state.mission);
  const comment = openingComment(mission);
  const [robot, field, begin] = (["robot", "field", "begin"] as const).map((word) => headerValue(mission, word));
  const where = [robot && `for ${robot}`, field && `on ${field}`, begin && `from ${begin}`].filter(Boolean).join(" ");
  const goal = mission.goal && mission.lines[mission.goal.line];
  return (
    <div className="about">
      {comment !== "" && <p>{comment}</p>}
      {where !== "" && <p className="quiet">{where}</p>}
      {goal && (
        <p className="words">
          <Pieces pieces={linePieces(mission.text, goal)} />
        </p>
      )}
    </div>
  );
}
