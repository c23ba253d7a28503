// What a mission's file says above its steps.
import { headerValue, linePieces, openingComment, setGoal, setHeader } from "@giddy-pebble/core";
import { Pick } from "../controls.js";
import { Pieces } from "./Pieces.js";
import { namesOf, useMission } from "./state.js";
import { edit } from "./store.js";

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
        aria-label={{ robot: "Robot", field: "Field", begin: "Start place" }[word]}
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
