// Pull-away power of each wheel.
import { type Trace, traceColumn } from "../../trials/trace.js";
import type { Chart, Column, Estimate, Measured, Procedure } from "../procedure.js";
import { pullAwayDuty } from "../rest.js";
import { meanOf } from "../statistics.js";
import { PERCENT, WHOLE, withError } from "../units.js";
import { doubtfulRows, FEW, hasEncoders, header, numberOf, STUDENT, usable } from "./common.js";

const RAMP_STEP = 0.01;
/** A wheel turns from here on, m/s. */
const TURNS_MS = 0.01;

function pullAway(trace: Trace | null, side: "left" | "right"): number | null {
  const duty = trace && traceColumn(trace, `${side}Duty`);
  const speed = trace && traceColumn(trace, `${side}Speed`);
  return duty && speed ? pullAwayDuty([...duty], [...speed], TURNS_MS) : null;
}

const pullColumns: readonly Column[] = (["left", "right"] as const).map((side) => ({
  id: side,
  label: side,
  shown: { ...PERCENT, digits: 0 },
  least: 0.001,
  most: 1,
  hint: "power at which the wheel begins to turn",
  from: ({ trace }: Measured) => pullAway(trace, side),
}));

export const pullAwayPower: Procedure = {
  id: "pull-away",
  title: "Pull-away power",
  purpose: "Raise the power slowly until each wheel turns: below that, power only warms the motor.",
  place: "Give it a metre of free floor ahead.",
  measure: "Nothing to measure with encoders; without, type the power at which each wheel began to turn.",
  rowsWanted: 4,
  settings: [],
  unfit: (robot) =>
    robot.drive.kind === "car" ? "A car type drives both wheels with one motor: type one value twice." : null,
  columns: () => pullColumns,
  program: (robot) =>
    hasEncoders(robot)
      ? `${header(robot)}  set share = 0 %\n  wait 0.3 s\n  every 50 ms until robot.travel > 6 cm limit 6 s\n    set share = share + ${RAMP_STEP * 100} %\n    power left share right share\n  wait 0.3 s\n`
      : null,
  estimate(robot, rows): Estimate {
    const used = usable(rows, pullColumns).map(({ row, index }) => ({
      index,
      left: numberOf(row, "left"),
      right: numberOf(row, "right"),
    }));
    if (used.length === 0) return { ok: false, why: FEW };
    const left = meanOf(used.map((run) => run.left));
    const right = meanOf(used.map((run) => run.right));
    const gap = Math.abs(left.value - right.value) * 100;
    const volts = robot.pack.nominalVolts;
    return {
      ok: true,
      results: [
        { id: "left", label: "Left pulls away at", shown: PERCENT, estimate: left },
        { id: "right", label: "Right pulls away at", shown: PERCENT, estimate: right },
      ],
      edits: [],
      doubtful: doubtfulRows(
        used,
        used.map((run) => run.left + run.right),
        0.03,
      ),
      interval: STUDENT,
      verdict: {
        title: `Below ${withError(left.value, left.standardError, { ...PERCENT, digits: 0 })} left and ${withError(right.value, right.standardError, { ...PERCENT, digits: 0 })} right the wheels do not move`,
        text: `That is ${(left.value * volts).toFixed(1)} V and ${(right.value * volts).toFixed(1)} V. ${gap > 2 ? `The sides differ by ${gap.toFixed(0)} %: at low power the robot starts to one side.` : "Both sides start alike."}`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, pullColumns);
    if (used.length === 0) return null;
    return {
      title: "Power at which each wheel began to turn",
      x: { label: "run", shown: WHOLE },
      y: { label: "power", shown: { ...PERCENT, digits: 0 } },
      series: (["left", "right"] as const).map((side) => ({
        label: side,
        role: side === "left" ? ("measured" as const) : ("after" as const),
        line: false,
        points: used.map(({ row, index }): [number, number] => [index + 1, numberOf(row, side)]),
      })),
    };
  },
  present: () => [],
};
