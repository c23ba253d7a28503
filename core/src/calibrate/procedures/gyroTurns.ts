// The gyro's scale: whole turns against a mark.
import { driveKind } from "../../drives/kinds.js";
import { TAU } from "../../math/trig.js";
import { robotInForce } from "../../robot/inForce.js";
import { gyroScale } from "../odometry.js";
import type { Chart, Column, Estimate, Procedure, TableRow } from "../procedure.js";
import type { Estimated } from "../statistics.js";
import { DEG, intervalWords, PLAIN, plain, RAD_PER_DEG, WHOLE, withError } from "../units.js";
import {
  doubtfulRows,
  FEW,
  gyroName,
  header,
  knownEdit,
  needsGyro,
  numberOf,
  presentKnown,
  STUDENT,
  usable,
} from "./common.js";
import { wayColumn, wayOfRow } from "./turning.js";

const SCALE_TURNS = 10;

const scaleColumns: readonly Column[] = [
  wayColumn,
  {
    id: "leftOverRad",
    label: "left over",
    shown: DEG,
    hint: "true heading beyond ten whole turns, counter-clockwise +",
    least: -180 * RAD_PER_DEG,
    most: 180 * RAD_PER_DEG,
    from: ({ tape }) => tape?.headingRad ?? null,
  },
  {
    id: "readRad",
    label: "gyro read",
    shown: DEG,
    hint: "as corrected now",
    from: ({ notes }) => {
      const [from, to] = [notes.get("heading_before"), notes.get("heading_after")];
      return from === undefined || to === undefined ? null : to - from;
    },
  },
];

function scaleRuns(rows: readonly TableRow[], turns: number) {
  return usable(rows, scaleColumns).map(({ row, index }) => ({
    index,
    trueRad: (numberOf(row, "way") < 0 ? -1 : 1) * turns * TAU + numberOf(row, "leftOverRad"),
    readRad: numberOf(row, "readRad"),
  }));
}

export const gyroTurns: Procedure = {
  id: "gyro-scale",
  title: "Gyro scale",
  purpose: "Turn ten whole turns, by hand or on the spot, and compare the true heading with what the gyro read.",
  place: "Put the robot on a mark with its side along a line.",
  measure: "Read by how much it looks past its line, counter-clockwise positive.",
  rowsWanted: 6,
  settings: [{ id: "turns", label: "Whole turns", shown: WHOLE, value: SCALE_TURNS, least: 1, most: 20 }],
  unfit: (robot) =>
    needsGyro(robot) ??
    (!driveKind(robot.drive).turnsOnSpot
      ? "A car type cannot turn on the spot: turn it by hand and type the row."
      : null),
  columns: () => scaleColumns,
  program: (robot, { turns = SCALE_TURNS }, row) =>
    `${header(robot)}  wait 0.5 s\n  note heading_before = ${gyroName(robot)}.heading\n  turn ${wayOfRow(row) === 1 ? "left" : "right"} ${plain(turns * 360, 0)} deg at 150 deg/s\n  wait 0.6 s\n  note heading_after = ${gyroName(robot)}.heading\n`,
  estimate(robot, rows, { turns = SCALE_TURNS }): Estimate {
    const runs = scaleRuns(rows, turns);
    if (runs.length === 0) return { ok: false, why: FEW };
    if (runs.some(({ readRad, trueRad }) => readRad * trueRad <= 0))
      return {
        ok: false,
        why: "A row's gyro and mark turned opposite ways. Check its signs: counter-clockwise is positive.",
      };
    const share = gyroScale(runs);
    const before = robotInForce(robot).gyro?.scale.value ?? 1;
    const scale: Estimated = {
      ...share,
      value: share.value * before,
      standardError: share.standardError === null ? null : share.standardError * before,
      low: share.low === null ? null : share.low * before,
      high: share.high === null ? null : share.high * before,
    };
    const off = (share.value - 1) * 90;
    return {
      ok: true,
      results: [{ id: "scale", label: "Scale, true over read", shown: PLAIN, estimate: scale }],
      edits: [knownEdit(gyroName(robot), "scale", scale)],
      doubtful: doubtfulRows(
        runs,
        runs.map(({ trueRad, readRad }) => trueRad / readRad),
        0.0008,
      ),
      interval: STUDENT,
      verdict: {
        title: `The gyro's scale is ${withError(scale.value, scale.standardError, PLAIN)}`,
        text: `A turn of 90 deg by the gyro as it is used now ends at ${(90 + off).toFixed(2)} deg. ${runs.length} runs put the scale ${intervalWords(scale, PLAIN, 4)}.`,
      },
    };
  },
  chart(_robot, rows, { turns = SCALE_TURNS }): Chart | null {
    const runs = scaleRuns(rows, turns);
    if (runs.length === 0) return null;
    return {
      title: "True over read, run by run",
      x: { label: "run", shown: WHOLE },
      y: { label: "scale", shown: PLAIN },
      series: [
        {
          label: "measured",
          role: "measured",
          line: false,
          points: runs.map((run) => [run.index + 1, run.trueRad / run.readRad]),
        },
      ],
    };
  },
  present: (robot) => {
    const gyro = robotInForce(robot).gyro;
    return gyro
      ? [
          presentKnown(
            "scale",
            "Scale, true over read",
            PLAIN,
            gyro.scale.value,
            gyro.scale.standardError,
            gyro.part.scale,
          ),
        ]
      : [];
  },
};
