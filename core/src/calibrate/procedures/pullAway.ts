// Pull-away power of each wheel and its power curve: a slow ramp up and down again, wheels on the floor.

import { driveModel } from "../../control/driveModel.js";
import { driveKind } from "../../drives/kinds.js";
import { robotInForce } from "../../robot/inForce.js";
import type { Robot } from "../../robot/schema.js";
import { traceColumn } from "../../trials/trace.js";
import { foundValue } from "../../units/known.js";
import type { Chart, Column, Estimate, Measured, Procedure, TableRow } from "../procedure.js";
import { powerRamp } from "../signals.js";
import { type Estimated, mean, meanOf } from "../statistics.js";
import { CM_S, PERCENT, plain, VOLT, withError } from "../units.js";
import {
  doubtfulRows,
  FEW,
  hasEncoders,
  header,
  knownEdit,
  numberOf,
  presentKnown,
  STUDENT,
  usable,
} from "./common.js";

const RAMP_STEP = 0.01;
const SIDES = ["left", "right"] as const;
type Side = (typeof SIDES)[number];

/** Kept beside a row for each side: duty where the lines meet no speed, slope in m/s, share explained, volts of the pack. */
const KEPT = 4;

function rampOf({ trace }: Measured, side: Side) {
  const duty = trace && traceColumn(trace, `${side}Duty`);
  const speed = trace && traceColumn(trace, `${side}Speed`);
  return duty && speed ? powerRamp([...duty], [...speed]) : null;
}

/** Mean voltage of the pack over a run. */
function packOf({ trace, packVolts }: Measured): number | null {
  const volts = trace && traceColumn(trace, "battery");
  return volts && volts.length > 0 ? mean([...volts]) : packVolts;
}

const columns: readonly Column[] = [
  ...SIDES.map(
    (side): Column => ({
      id: side,
      label: `${side} up`,
      shown: { ...PERCENT, digits: 0 },
      least: 0.001,
      most: 1,
      hint: "power at which the wheel begins to turn, going up; it lags a little behind the ramp",
      from: (measured) => rampOf(measured, side)?.upDuty ?? null,
    }),
  ),
  ...SIDES.map(
    (side): Column => ({
      id: `${side}Down`,
      label: `${side} down`,
      shown: { ...PERCENT, digits: 0 },
      least: 0,
      most: 1,
      optional: true,
      hint: "power at which it stands still again",
      from: (measured) => rampOf(measured, side)?.downDuty ?? null,
    }),
  ),
  { id: "volts", label: "pack", shown: VOLT, least: 0.5, optional: true, from: (measured) => packOf(measured) },
];

interface SideFound {
  readonly side: Side;
  readonly dead: Estimated;
  /** Speed for all of the power, m/s, and how much of the scatter the line explains; null for typed rows. */
  readonly slope: Estimated | null;
  readonly rSquared: number | null;
  readonly down: Estimated | null;
}

function sideFound(side: Side, rows: ReturnType<typeof usable>): SideFound {
  const at = side === "left" ? 0 : KEPT;
  const kept = rows.flatMap(({ row }) => (row.recorded ? [row.recorded.slice(at, at + KEPT)] : []));
  const down = rows.flatMap(({ row }) => row.values[`${side}Down`] ?? []);
  return {
    side,
    dead: meanOf(rows.map(({ row }) => row.recorded?.[at] ?? numberOf(row, side))),
    slope: kept.length === 0 ? null : meanOf(kept.map((one) => one[1] as number)),
    rSquared: kept.length === 0 ? null : mean(kept.map((one) => one[2] as number)),
    down: down.length === 0 ? null : meanOf(down),
  };
}

/** Volts at the motor that pull a side away, from rows that say what the pack had. */
function pullVolts(robot: Robot, side: Side, rows: ReturnType<typeof usable>): Estimated | null {
  const { driverShare } = driveModel(robot);
  const at = side === "left" ? 0 : KEPT;
  const volts = rows.flatMap(({ row }) =>
    typeof row.values.volts === "number"
      ? [(row.recorded?.[at] ?? numberOf(row, side)) * row.values.volts * driverShare]
      : [],
  );
  return volts.length === 0 ? null : meanOf(volts);
}

export const pullAwayPower: Procedure = {
  id: "pull-away",
  title: "Breakaway duty",
  purpose: "Raise the power slowly and lower it again. It shows where each wheel begins to turn, and where it stops.",
  place: "Give it a metre and a half of free floor ahead.",
  measure: "Nothing to measure with encoders; without, type the power at which each wheel began to turn.",
  rowsWanted: 4,
  settings: [{ id: "topDuty", label: "Up to", shown: { ...PERCENT, digits: 0 }, value: 0.5, least: 0.2, most: 0.9 }],
  unfit: (robot) =>
    driveKind(robot.drive).motors === 1 ? "A car type drives both wheels with one motor: type one value twice." : null,
  columns: () => columns,
  program: (robot, { topDuty = 0.5 }) => {
    if (!hasEncoders(robot)) return null;
    const step = `${RAMP_STEP * 100} %`;
    const ramp = (way: "+" | "-", until: string) =>
      `  every 50 ms until ${until} limit 8 s\n    set share = share ${way} ${step}\n    power left share right share\n`;
    return `${header(robot)}  set share = 0 %\n  wait 0.3 s\n${ramp("+", `share > ${plain(topDuty * 100, 0)} % or robot.travel > 80 cm`)}${ramp("-", "share < 2 %")}  wait 0.3 s\n`;
  },
  record: (_robot, measured) => {
    const ramps = SIDES.map((side) => rampOf(measured, side));
    const volts = packOf(measured) ?? 0;
    return ramps.every((ramp) => ramp !== null)
      ? ramps.flatMap((ramp) => [ramp.deadDuty, ramp.slopeMS, ramp.rSquared, volts])
      : undefined;
  },
  estimate(robot, rows): Estimate {
    const used = usable(rows, columns);
    if (used.length === 0) return { ok: false, why: FEW };
    const [left, right] = SIDES.map((side) => sideFound(side, used)) as [SideFound, SideFound];
    const gap = Math.abs(left.dead.value - right.dead.value) * 100;
    const volts = SIDES.map((side) => ({ side, found: pullVolts(robot, side, used) }));
    const known = robotInForce(robot);
    const whole = { ...PERCENT, digits: 0 };
    return {
      ok: true,
      results: [left, right].flatMap(({ side, dead, slope, down }) => [
        { id: side, label: `${side === "left" ? "Left" : "Right"} pulls away at`, shown: PERCENT, estimate: dead },
        ...(down ? [{ id: `${side}-down`, label: `stops at`, shown: PERCENT, estimate: down }] : []),
        ...(slope
          ? [
              {
                id: `${side}-slope`,
                label: "for 10 % more",
                shown: { ...CM_S, perSi: CM_S.perSi / 10 },
                estimate: slope,
              },
            ]
          : []),
      ]),
      edits: volts.flatMap(({ side, found }) =>
        found ? [knownEdit(known[side].motor.name, "pullAwayVolts", found)] : [],
      ),
      doubtful: doubtfulRows(
        used,
        used.map(({ row }) => numberOf(row, "left") + numberOf(row, "right")),
        0.03,
      ),
      interval: STUDENT,
      verdict: {
        title: `Below ${withError(left.dead.value, left.dead.standardError, whole)} left and ${withError(right.dead.value, right.dead.standardError, whole)} right the wheels do not move`,
        text: `${volts.map(({ side, found }) => (found ? `That is ${found.value.toFixed(2)} V ${side}. ` : "")).join("")}${
          gap > 2
            ? `The sides differ by ${gap.toFixed(0)} %: at low power the robot starts to one side. `
            : "Both sides start alike. "
        }${
          left.rSquared === null || right.rSquared === null
            ? ""
            : `Above that, speed follows power in a line that explains ${(Math.min(left.rSquared, right.rSquared) * 100).toFixed(0)} % of the scatter; where it meets no speed stands here. In the table they begin later and stop sooner, since a wheel lags behind a ramp.`
        }`,
      },
    };
  },
  chart(_robot, rows: readonly TableRow[]): Chart | null {
    const used = usable(rows, columns);
    if (used.length === 0) return null;
    const top = 0.5;
    const sides = SIDES.map((side) => sideFound(side, used));
    return {
      title: "Speed against power: dots where it begins, a line where it rolls",
      x: { label: "power", shown: { ...PERCENT, digits: 0 } },
      y: { label: "speed", shown: CM_S },
      series: sides.flatMap(({ side, dead, slope }) => {
        const role = side === "left" ? ("measured" as const) : ("after" as const);
        const begins = used.map(({ row }): [number, number] => [
          row.recorded?.[side === "left" ? 0 : KEPT] ?? numberOf(row, side),
          0,
        ]);
        const line = slope
          ? [
              {
                label: side,
                role,
                line: true,
                points: [
                  [dead.value, 0],
                  [top, slope.value * (top - dead.value)],
                ] as const,
              },
            ]
          : [];
        return [{ label: slope ? "" : side, role, line: false, points: begins }, ...line];
      }),
    };
  },
  present: (robot) =>
    SIDES.flatMap((side) => {
      const { pullAwayVolts: known } = robotInForce(robot)[side].motor;
      const volts = foundValue(known);
      return known && volts !== null
        ? [presentKnown(side, `${side} pulls away at`, VOLT, volts, known.standardError ?? 0, known)]
        : [];
    }),
};
