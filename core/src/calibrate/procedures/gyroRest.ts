// The gyro at rest: its drift, over blocks, and whether the robot was touched.
import { robotInForce } from "../../robot/inForce.js";
import type { Robot } from "../../robot/schema.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { gyroRest } from "../signals.js";
import { meanOf, widened } from "../statistics.js";
import { DEG, DEG_S, RAD_PER_DEG, SEC, withError } from "../units.js";
import { FEW, gyroName, header, knownEdit, needsGyro, numberOf, presentKnown, STUDENT, usable } from "./common.js";

const BLOCK_SEC = 4;
const BLOCKS = 6;

/** Rates of blocks at rest, as the gyro itself reads: what is in force is put back. */
function rawRates(robot: Robot, headings: readonly number[]): number[] {
  const gyro = robotInForce(robot).gyro;
  const scale = gyro?.scale.value ?? 1;
  const rest = gyro?.restRadS.value ?? 0;
  return headings.map((heading, i) => heading / scale + rest * i * BLOCK_SEC);
}

const restColumns: readonly Column[] = [
  {
    id: "rateRadS",
    label: "drift",
    shown: DEG_S,
    hint: "heading read after a time at rest, over that time",
    least: -0.5,
    most: 0.5,
    from: (measured) => {
      const first = measured.notes.get("heading_1");
      const last = measured.notes.get(`heading_${BLOCKS + 1}`);
      return first === undefined || last === undefined ? null : (last - first) / (BLOCK_SEC * BLOCKS);
    },
  },
];

export const gyroAtRest: Procedure = {
  id: "gyro-rest",
  title: "Gyro drift",
  purpose: "Stand still and watch what the gyro reads: its drift at rest is taken off from then on.",
  place: "Put the robot on something that does not shake, and leave it alone.",
  measure: "Nothing to measure: do not touch it for half a minute.",
  rowsWanted: 2,
  settings: [],
  unfit: needsGyro,
  columns: () => restColumns,
  program: (robot) =>
    `${header(robot)}  wait 0.5 s\n${Array.from(
      { length: BLOCKS + 1 },
      (_, i) => `  note heading_${i + 1} = ${gyroName(robot)}.heading\n${i < BLOCKS ? `  wait ${BLOCK_SEC} s\n` : ""}`,
    ).join("")}`,
  record: (_robot, { notes }) => {
    const headings = Array.from({ length: BLOCKS + 1 }, (_, i) => notes.get(`heading_${i + 1}`));
    return headings.every((heading) => heading !== undefined) ? headings : undefined;
  },
  estimate(robot, rows): Estimate {
    const used = usable(rows, restColumns);
    if (used.length === 0) return { ok: false, why: FEW };
    const gyro = robotInForce(robot).gyro;
    const rested = used.map(({ row, index }) => ({
      index,
      typed: numberOf(row, "rateRadS") / (gyro?.scale.value ?? 1) + (gyro?.restRadS.value ?? 0),
      reading: row.recorded ? gyroRest(rawRates(robot, row.recorded), BLOCK_SEC) : null,
      rates: row.recorded
        ? rawRates(robot, row.recorded).flatMap((heading, i, all) =>
            i === 0 ? [] : [(heading - (all[i - 1] as number)) / BLOCK_SEC],
          )
        : null,
    }));
    const touched = rested.filter(({ reading }) => reading?.moved);
    const still = rested.filter(({ reading }) => !reading?.moved);
    if (still.length === 0)
      return {
        ok: false,
        why: "The robot was moved while it should stand still: its blocks do not agree. Strike the row out and run it again.",
      };
    // The drift walks on its own while it is watched: the mean of a walk over T scatters by wander·sqrt(T/3).
    const walked = (gyro?.part.wanderRadS ?? 0) * Math.sqrt((BLOCK_SEC * BLOCKS) / 3 / still.length);
    const rate = widened(meanOf(still.flatMap(({ rates, typed }) => rates ?? [typed])), walked);
    const perMatch = rate.standardError === null ? null : (rate.standardError * 150) / RAD_PER_DEG;
    const drifts = still.flatMap(({ reading }) =>
      reading?.driftRadS2 === null || reading === null ? [] : [reading.driftRadS2],
    );
    const drift = drifts.length === 0 ? null : Math.abs(meanOf(drifts).value) * 60;
    return {
      ok: true,
      results: [{ id: "rest", label: "Drift at rest", shown: DEG_S, estimate: rate }],
      edits: [knownEdit(gyroName(robot), "restRadS", rate)],
      doubtful: touched.map(({ index }) => ({
        row: index,
        why: "The robot was moved during this one: its blocks do not agree.",
      })),
      interval: `${STUDENT}, over blocks of ${BLOCK_SEC} s`,
      verdict: {
        title: `At rest the gyro drifts ${withError(rate.value, rate.standardError, DEG_S)}`,
        text: `Left as it is, the heading is wrong by ${Math.abs((rate.value * 150) / RAD_PER_DEG).toFixed(1)} deg after a match of 2.5 minutes. Taken off, ${
          perMatch === null ? "an unknown part" : `about ${perMatch.toFixed(1)} deg`
        } is left.${drift === null ? "" : ` While it stood, the drift itself changed by ${(drift / RAD_PER_DEG).toFixed(3)} deg/s in a minute.`}`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const series = rows.flatMap((row, i) =>
      row.recorded
        ? [
            {
              label: `run ${i + 1}`,
              role: row.struck ? ("struck" as const) : ("measured" as const),
              line: true,
              // As it was read then: rows of before keep their slope when the drift in use changes.
              points: row.recorded.map((heading, k): [number, number] => [
                k * BLOCK_SEC,
                heading - (row.recorded?.[0] ?? 0),
              ]),
            },
          ]
        : [],
    );
    return series.length === 0
      ? null
      : {
          title: "What the gyro read while the robot stood",
          x: { label: "time", shown: SEC },
          y: { label: "heading", shown: DEG },
          series,
        };
  },
  present: (robot) => {
    const gyro = robotInForce(robot).gyro;
    return gyro
      ? [
          presentKnown(
            "rest",
            "Drift at rest",
            DEG_S,
            gyro.restRadS.value,
            gyro.restRadS.standardError,
            gyro.part.restRadS,
          ),
        ]
      : [];
  },
};
