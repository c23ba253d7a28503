// A heading hold of one's own: which gain gets there soon and does not swing.
import { driveKind } from "../../drives/kinds.js";
import { type Trace, traceColumn } from "../../trials/trace.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { stepAnswer } from "../signals.js";
import { PERCENT, plain, RAD_PER_DEG, SEC, WHOLE } from "../units.js";
import { FEW, gyroName, header, needsGyro, numberOf, presentKnown, usable } from "./common.js";

/** Kept as power for each rad. */
const GAIN_UNIT = { unit: "%/deg", perSi: 100 * RAD_PER_DEG, digits: 1 };
const GAINS = [0.5, 1, 1.5, 2.5, 4];
const HOLD_DEG = 10;

const holdColumns: readonly Column[] = [
  {
    id: "gain",
    label: "gain",
    shown: { unit: "%/deg", perSi: 1, digits: 1 },
    least: 0.01,
    from: (_measured, row) => GAINS[row % GAINS.length] as number,
  },
  {
    id: "overshoot",
    label: "overshoot",
    shown: { ...PERCENT, digits: 0 },
    least: 0,
    from: (measured) => holdAnswer(measured.trace)?.overshoot ?? null,
  },
  {
    id: "settledSec",
    label: "settled in",
    shown: SEC,
    least: 0,
    from: (measured) => holdAnswer(measured.trace)?.settledSec ?? null,
  },
  {
    id: "rings",
    label: "rings",
    shown: WHOLE,
    least: 0,
    most: 1,
    hint: "1 when it swings on and on",
    from: (measured) => {
      const answer = holdAnswer(measured.trace);
      return answer === null ? null : answer.rings ? 1 : 0;
    },
  },
];

/** After half a second of standing, the heading is wanted 10 deg to the left. */
function holdAnswer(trace: Trace | null) {
  const heading = trace ? traceColumn(trace, "gyroHeading") : null;
  if (!trace || !heading || heading.length < 100) return null;
  const from = Math.floor(500 / trace.tickMs);
  return stepAnswer([...heading.slice(from)], HOLD_DEG * RAD_PER_DEG, trace.tickMs / 1000);
}

export const headingHold: Procedure = {
  id: "heading-hold",
  title: "Heading hold",
  purpose:
    "Ask for a heading 10 deg away while rolling, at several gains: which one gets there soon and does not swing?",
  place: "Give it two metres of free floor ahead.",
  measure: "Nothing to measure: the gyro's own trace is looked at.",
  rowsWanted: 5,
  settings: [
    { id: "power", label: "Rolling power", shown: { ...PERCENT, digits: 0 }, value: 0.3, least: 0.1, most: 0.8 },
  ],
  unfit: (robot) =>
    needsGyro(robot) ?? (driveKind(robot.drive).steers ? "A car type holds its heading with its axle." : null),
  columns: () => holdColumns,
  program: (robot, { power = 0.3 }, row) => {
    const gain = GAINS[row % GAINS.length] as number;
    const name = gyroName(robot);
    const share = plain(power * 100, 0);
    const correction = `${plain(gain, 2)} %/deg * (${HOLD_DEG} deg - ${name}.heading)`;
    return `${header(robot)}  wait 0.5 s\n  every 10 ms until clock > 3.5 s\n    power left ${share} % - ${correction} right ${share} % + ${correction}\n`;
  },
  estimate(_robot, rows): Estimate {
    const used = usable(rows, holdColumns).map(({ row }) => ({
      gain: numberOf(row, "gain"),
      overshoot: numberOf(row, "overshoot"),
      settled: numberOf(row, "settledSec"),
      rings: numberOf(row, "rings") > 0.5,
    }));
    if (used.length === 0) return { ok: false, why: FEW };
    const calm = used.filter(({ rings, overshoot }) => !rings && overshoot < 0.3);
    const best = [...(calm.length > 0 ? calm : used)].sort((a, b) => a.settled - b.settled)[0];
    if (!best) return { ok: false, why: FEW };
    const ringing = used.filter(({ rings }) => rings).map(({ gain }) => gain);
    return {
      ok: true,
      results: [
        {
          id: "gain",
          label: "Gain to use",
          shown: { unit: "%/deg", perSi: 1, digits: 1 },
          estimate: { value: best.gain, standardError: null, low: null, high: null, count: used.length },
        },
      ],
      edits: [{ ref: "drive", path: "holdGainPerRad", value: best.gain / 100 / RAD_PER_DEG, standardError: null }],
      doubtful: [],
      interval: "none: gains are compared, not averaged",
      verdict: {
        title: `Hold a heading with ${best.gain} %/deg`,
        text: `It settles in ${best.settled.toFixed(2)} s and overshoots ${(best.overshoot * 100).toFixed(0)} %. ${
          ringing.length > 0 ? `From ${Math.min(...ringing)} %/deg on it swings on and on. ` : ""
        }In use, robot.hold_gain in a mission is that number, for loops of your own; go, roll and arc hold their heading with gains of their own.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, holdColumns);
    if (used.length === 0) return null;
    return {
      title: "Overshoot against gain",
      x: { label: "gain", shown: { unit: "%/deg", perSi: 1, digits: 1 } },
      y: { label: "overshoot", shown: { ...PERCENT, digits: 0 } },
      series: [
        {
          label: "measured",
          role: "measured",
          line: false,
          points: used.map(({ row }) => [numberOf(row, "gain"), numberOf(row, "overshoot")]),
        },
      ],
    };
  },
  present: (robot) => {
    const known = robot.drive.holdGainPerRad;
    return known ? [presentKnown("gain", "Gain to use", GAIN_UNIT, known.value, 0, known)] : [];
  },
};
