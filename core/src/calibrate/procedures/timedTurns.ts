// Turns by time: a line tells the time for any angle.

import { driveModel } from "../../control/driveModel.js";
import type { Robot } from "../../robot/schema.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { timedTurn, timeForTurn } from "../signals.js";
import { estimated, fitLine, mean } from "../statistics.js";
import { DEG, DEG_S, plain, RAD_PER_DEG, SEC, VOLT } from "../units.js";
import { hasEncoders, header, knownEdit, notCar, numberOf, of, presentKnown, usable } from "./common.js";

/** Angles the three times are meant for; friction and slip make them less. */
const TURN_ANGLES_DEG = [25, 50, 90];
const TURN_POWER = 0.5;
const RATE = { ...DEG_S, digits: 1 };

/** Power of these turns: what a drawing needs for its usual rate, scrubbing taken along; half for robots with encoders. */
function turnPower(robot: Robot): number {
  const { timed, turnRadS, trackWidthM, scrubN, left, driverShare, nominalVolts } = driveModel(robot);
  if (!timed || hasEncoders(robot)) return TURN_POWER;
  const scrubVolts = (scrubN * left.voltsPerNewton) / driverShare;
  const share = ((turnRadS * trackWidthM) / 2 / timed.speedPerVolt + scrubVolts) / nominalVolts;
  return Math.floor(Math.max(TURN_POWER, Math.min(0.8, share)) * 100 + 0.5) / 100;
}

/** Whole hundredths of a second for a turn, by the drawing. */
function turnTime(robot: Robot, row: number): number {
  const { topTurnRadS, turnRadS } = driveModel(robot);
  const rate = hasEncoders(robot) ? topTurnRadS * TURN_POWER : turnRadS;
  return Math.floor((100 * of(TURN_ANGLES_DEG, row) * RAD_PER_DEG) / rate + 10) / 100;
}

const timedColumns = (robot: Robot): readonly Column[] => [
  { id: "timeSec", label: "time", shown: SEC, least: 0.05, from: (_m, row) => turnTime(robot, row) },
  {
    id: "angleRad",
    label: "turned",
    shown: DEG,
    hint: "left +; add 360 deg for a whole turn",
    from: ({ tape }) => (tape ? unwrapped(tape.headingRad) : null),
  },
  {
    id: "volts",
    label: "pack",
    shown: VOLT,
    least: 0.5,
    optional: true,
    hint: "before it turned; with it, turns of missions are driven like these",
    from: ({ notes, packVolts }) => notes.get("volts") ?? packVolts,
  },
];

/** A turn to the left is read from 0 to 360 deg. */
function unwrapped(rad: number): number {
  return rad < -0.5 ? rad + 360 * RAD_PER_DEG : rad;
}

export const timedTurns: Procedure = {
  id: "timed-turn",
  title: "Timed turn",
  purpose: "Turn for two or three times at one power and measure the angles: a line tells the time for any angle.",
  place: "Put the robot on a mark with its side along a line.",
  measure: "Read its heading after the turn, to the left positive.",
  rowsWanted: 3,
  settings: [],
  unfit: notCar,
  columns: timedColumns,
  program: (robot, _settings, row) => {
    const share = plain(turnPower(robot) * 100, 0);
    return `${header(robot)}  wait 0.5 s\n  note volts = battery.voltage\n  note given = ${share} %\n  power left -${share} % right ${share} % for ${plain(turnTime(robot, row))} s\n  wait 0.8 s\n`;
  },
  // The power they were driven with: another version of the robot would choose another.
  record: (_robot, { notes }) => {
    const power = notes.get("given");
    return power === undefined ? undefined : [power];
  },
  estimate(robot, rows): Estimate {
    const used = usable(rows, timedColumns(robot)).map(({ row }) => ({
      timeSec: numberOf(row, "timeSec"),
      angleRad: numberOf(row, "angleRad"),
    }));
    const turn = timedTurn(used);
    if (!turn)
      return { ok: false, why: "A line needs two turns of different times, of which the longer turned further." };
    const next = timeForTurn(turn, 90 * RAD_PER_DEG);
    const { line } = turn;
    const { dropVolts } = driveModel(robot);
    const given = usable(rows, timedColumns(robot)).flatMap(({ row }) =>
      typeof row.values.volts === "number"
        ? [(row.recorded?.[0] ?? turnPower(robot)) * (row.values.volts - dropVolts)]
        : [],
    );
    const volts = given.length === 0 || hasEncoders(robot) ? null : mean(given);
    const rate = estimated(turn.rateRadS, line.slopeError, used.length, used.length - 2);
    const dead = { value: turn.deadTimeSec, standardError: null };
    const none = { standardError: null, low: null, high: null, count: used.length };
    return {
      ok: true,
      results: [
        {
          id: "rate",
          label: "Turn rate",
          shown: RATE,
          estimate: rate,
        },
        { id: "next", label: "Time for 90 deg", shown: SEC, estimate: { ...none, value: next } },
      ],
      edits:
        volts === null
          ? []
          : [
              { ref: "drive", path: "turnVolts", value: volts, standardError: null },
              knownEdit("drive", "turnsWithRadS", rate),
              { ref: "drive", path: "turnsAfterSec", ...dead },
            ],
      doubtful: [],
      interval: used.length > 2 ? "standard error of the line" : "none: two points make a line without error",
      verdict: {
        title: `Try ${next.toFixed(2)} s for 90 deg`,
        text: `At ${plain(turnPower(robot) * 100, 0)} % power it turns ${(turn.rateRadS / RAD_PER_DEG).toFixed(0)} deg/s after ${(turn.deadTimeSec * 1000).toFixed(0)} ms. ${
          turn.bent
            ? "One line does not describe these turns: short and long ones differ. Use turns near the angle you want."
            : used.length < 3
              ? "Drive that time as the third turn: it shows whether one line is enough."
              : "One line is enough for these turns."
        }${volts === null ? "" : ` In use, turns of missions that name no rate are driven with these ${volts.toFixed(1)} V.`}`,
      },
    };
  },
  chart(robot, rows): Chart | null {
    const points = usable(rows, timedColumns(robot)).map(({ row }): [number, number] => [
      numberOf(row, "timeSec"),
      numberOf(row, "angleRad"),
    ]);
    if (points.length === 0) return null;
    const line = fitLine(points);
    return {
      title: "Angle against time",
      x: { label: "time", shown: SEC },
      y: { label: "turned", shown: { ...DEG, digits: 0 } },
      series: [
        { label: "turns", role: "measured", points, line: false },
        ...(line
          ? [
              {
                label: "line",
                role: "fit" as const,
                line: true,
                points: [0, Math.max(...points.map(([x]) => x)) * 1.1].map((x): [number, number] => [
                  x,
                  line.intercept + line.slope * x,
                ]),
              },
            ]
          : []),
      ],
    };
  },
  present: (robot) => {
    const known = robot.drive.turnsWithRadS;
    return known ? [presentKnown("rate", "Turn rate", RATE, known.value, known.standardError ?? 0, known)] : [];
  },
};
