// How often each version of a mission worked, with its 95 % interval: whether a change helped, or only chance did.
import { wilson95 } from "@giddy-pebble/core";
import { scaleLinear, scalePoint } from "d3";
import { useTrials } from "./store.js";

const WIDTH = 640;
const HEIGHT = 180;
const PAD = { left: 48, right: 16, top: 22, bottom: 40 } as const;
/** Versions that are shown: the newest. */
const MOST = 24;

export function SuccessRate() {
  const versions = useTrials((state) => state.counts?.versions ?? NONE);
  const name = useTrials((state) => state.missions.find(({ id }) => id === state.filter.mission)?.name ?? "");
  if (versions.length === 0) return null;
  const shown = versions.slice(-MOST);
  const x = scalePoint(
    shown.map(({ number }) => number),
    [PAD.left, WIDTH - PAD.right],
  ).padding(0.6);
  const y = scaleLinear([0, 1], [HEIGHT - PAD.bottom, PAD.top]);
  const labelled = Math.ceil(shown.length / 12);
  return (
    <section className="card" aria-label="How often it worked">
      <h2>How often {name} worked</h2>
      <svg className="chart" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={rateWords(shown)}>
        {[0, 0.25, 0.5, 0.75, 1].map((share) => (
          <g key={share} transform={`translate(0 ${y(share)})`}>
            <line x1={PAD.left} x2={WIDTH - PAD.right} className="grid" />
            <text x={PAD.left - 6} dy="0.32em" textAnchor="end">
              {share * 100} %
            </text>
          </g>
        ))}
        {shown.map(({ number, runs, successes }, i) => {
          const [low, high] = wilson95(successes, runs);
          const at = x(number) ?? 0;
          return (
            <g key={number}>
              <line x1={at} x2={at} y1={y(low)} y2={y(high)} stroke="var(--water)" strokeWidth="2" />
              <line x1={at - 5} x2={at + 5} y1={y(low)} y2={y(low)} stroke="var(--water)" strokeWidth="2" />
              <line x1={at - 5} x2={at + 5} y1={y(high)} y2={y(high)} stroke="var(--water)" strokeWidth="2" />
              <circle cx={at} cy={y(successes / runs)} r="4.5" fill="var(--water)" />
              {i % labelled === 0 && (
                <text x={at} y={HEIGHT - PAD.bottom + 15} textAnchor="middle">
                  version {number}
                </text>
              )}
              {i % labelled === 0 && (
                <text x={at} y={HEIGHT - PAD.bottom + 30} textAnchor="middle">
                  {successes} of {runs}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <p className="quiet">
        A dot is the share that worked. Its bar holds the true share 95 times in 100. Bars that lie apart differ for
        sure.
      </p>
    </section>
  );
}
const NONE: readonly { number: number; runs: number; successes: number }[] = [];

function rateWords(versions: readonly { number: number; runs: number; successes: number }[]): string {
  return versions.map(({ number, runs, successes }) => `version ${number}: ${successes} of ${runs} worked`).join("; ");
}
