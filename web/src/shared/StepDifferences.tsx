// How the steps of two runs differed: those that clearly did.
import { differenceWords, isNotable, type RunDifference } from "@giddy-pebble/core";

const MOST_ROWS = 12;
/** A step that took this much longer or shorter is worth a word, ms. */
const LONGER_MS = 500;

export function StepDifferences({ difference, same }: { difference: RunDifference; same: string }) {
  const steps = difference.steps.filter(isNotable);
  if (steps.length === 0) return <p className="quiet">{same}</p>;
  return (
    <table className="differences">
      <thead>
        <tr>
          <th scope="col">step</th>
          <th scope="col">differed</th>
        </tr>
      </thead>
      <tbody>
        {steps.slice(0, MOST_ROWS).map((step) => (
          <tr key={`${step.step}/${step.pass}`}>
            <td>
              <span className="mono">{step.step}</span> {step.text}
            </td>
            <td>
              {differenceWords(step)}
              {Math.abs(step.longerMs) > LONGER_MS &&
                `, ${Math.abs(step.longerMs / 1000).toFixed(1)} s ${step.longerMs > 0 ? "longer" : "shorter"}`}
              {step.ended && `, ${step.ended}`}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
