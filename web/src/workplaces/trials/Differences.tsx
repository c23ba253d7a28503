// What changed between two runs: the text, the versions, and what each step did.

import { compareRuns, compareTexts, differenceWords, poseDifference } from "@giddy-pebble/core";
import { Fold } from "../../shared/Fold.js";
import { RobotDifferences } from "../../shared/RobotDifferences.js";
import { StepDifferences } from "../../shared/StepDifferences.js";
import { type ShownTrial, tapeOf, useTrials } from "./store.js";

function name({ trial }: ShownTrial): string {
  return `${trial.mission.name} ${trial.mission.number}, ${trial.source !== "rehearsal" ? trial.robot.name : "rehearsed"}`;
}

/** What was changed on the robot between both runs; of two robots only their names are told. */
function RobotChange({ before, after }: { before: ShownTrial; after: ShownTrial }) {
  const [old, now] = [before.trial.robot, after.trial.robot];
  if (old.document !== now.document || old.number === now.number || !before.robot || !after.robot) return null;
  return (
    <Fold opened summary={`${now.name} ${old.number} and ${now.number}`}>
      <RobotDifferences before={before.robot} after={after.robot} />
    </Fold>
  );
}

export function Differences() {
  const shown = useTrials((state) => state.shown);
  const [first, second] = shown;
  if (!first || !second)
    return shown.length === 1 ? <p className="quiet">Choose a second run to see what changed.</p> : null;
  const changes = compareTexts(first.text, second.text).filter(({ is }) => is !== "same");
  const ran = compareRuns(
    { trace: first.trace, steps: first.summary.steps ?? [] },
    { trace: second.trace, steps: second.summary.steps ?? [] },
  );
  const [from, to] = [tapeOf(first), tapeOf(second)];
  const taped = from && to ? poseDifference(from, to) : null;
  return (
    <section className="card" aria-label="What changed">
      <h2>
        From {name(first)} to {name(second)}
      </h2>
      <p>
        {changes.length === 0 ? "The same text" : `${changes.length} lines differ`} ·{" "}
        {first.trial.robot.number === second.trial.robot.number && first.trial.robot.name === second.trial.robot.name
          ? "the same version of the robot"
          : `robot ${first.trial.robot.name} ${first.trial.robot.number}, then ${second.trial.robot.name} ${second.trial.robot.number}`}{" "}
        ·{" "}
        {Math.abs(second.trial.durationMs - first.trial.durationMs) < 20
          ? "as long"
          : `${(Math.abs(second.trial.durationMs - first.trial.durationMs) / 1000).toFixed(1)} s ${second.trial.durationMs > first.trial.durationMs ? "longer" : "shorter"}`}
        {ran.end && ` · ended ${differenceWords(ran.end)}`}
        {taped && `, by the tape ${differenceWords(taped)}`}
      </p>
      <RobotChange before={first} after={second} />
      {changes.length > 0 && (
        <pre className="linechanges">
          {changes.slice(0, 24).map(({ is, text, line }) => (
            <span key={`${is}${line}`} className={is}>
              {is === "gone" ? "− " : "+ "}
              {text}
              {"\n"}
            </span>
          ))}
        </pre>
      )}
      <StepDifferences difference={ran} same="No step went clearly otherwise." />
    </section>
  );
}
