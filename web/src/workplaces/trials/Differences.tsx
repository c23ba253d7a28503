// What changed between two runs: the text, the versions, and what each step did.
import { compareRuns, differenceWords, isNotable } from "@giddy-pebble/core";
import { compareTexts } from "../../shared/compareTexts.js";
import { type ShownTrial, useTrials } from "./store.js";

function name({ trial }: ShownTrial): string {
  return `${trial.mission.name} ${trial.mission.number}, ${trial.source !== "rehearsal" ? trial.robot.name : "rehearsed"}`;
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
  const steps = ran.steps.filter(isNotable);
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
      </p>
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
      {steps.length > 0 ? (
        <table className="differences">
          <thead>
            <tr>
              <th scope="col">step</th>
              <th scope="col">differed</th>
            </tr>
          </thead>
          <tbody>
            {steps.slice(0, 12).map((step) => (
              <tr key={`${step.step}/${step.pass}`}>
                <td>
                  <span className="mono">{step.step}</span> {step.text}
                </td>
                <td>
                  {differenceWords(step)}
                  {step.ended && `, ${step.ended}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="quiet">No step went clearly otherwise.</p>
      )}
    </section>
  );
}
