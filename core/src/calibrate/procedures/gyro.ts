// The gyro: drift at rest, scale, what its turns overshoot, and a heading hold's gain.
import { TAU } from "../../math/trig.js";
import { robotInForce } from "../../robot/inForce.js";
import type { Robot } from "../../robot/schema.js";
import { type Trace, traceColumn } from "../../trials/trace.js";
import { gyroScale } from "../odometry.js";
import type { Chart, Column, Estimate, Procedure, TableRow } from "../procedure.js";
import { gyroRest, stepAnswer } from "../rest.js";
import { deviation, type Estimated, fitLine, meanOf, widened } from "../statistics.js";
import { DEG, DEG_S, intervalWords, PERCENT, PLAIN, plain, RAD_PER_DEG, SEC, WHOLE, withError } from "../units.js";
import {
  doubtfulRows,
  FEW,
  header,
  knownEdit,
  needsEncoders,
  numberOf,
  presentKnown,
  STUDENT,
  usable,
} from "./common.js";
import { wayColumn, wayOfRow } from "./turning.js";

function gyroName(robot: Robot): string {
  return robotInForce(robot).gyro?.part.name ?? "gyro";
}

export function needsGyro(robot: Robot): string | null {
  return robotInForce(robot).gyro
    ? null
    : "This robot has no gyro. Add one in the Robot workplace, or use timed turns.";
}

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
  title: "Gyro rest",
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
        text: `Left as it is, that turns the robot's idea of its heading by ${Math.abs((rate.value * 150) / RAD_PER_DEG).toFixed(1)} deg in a match of 2.5 minutes; taken off, ${
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
  title: "Gyro turns",
  purpose: "Turn ten whole turns, by hand or on the spot, and compare the true heading with what the gyro read.",
  place: "Put the robot on a mark with its side along a line.",
  measure: "Read by how much it looks past its line, counter-clockwise positive.",
  rowsWanted: 6,
  settings: [{ id: "turns", label: "Whole turns", shown: WHOLE, value: SCALE_TURNS, least: 1, most: 20 }],
  unfit: (robot) =>
    needsGyro(robot) ??
    (robot.drive.kind === "car" ? "A car type cannot turn on the spot: turn it by hand and type the row." : null),
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

const RATES_DEG_S = [40, 80, 120, 160];

const turnColumns: readonly Column[] = [
  {
    id: "rateRadS",
    label: "rate",
    shown: { ...DEG_S, digits: 0 },
    least: 0.05,
    from: (_measured, row) => (RATES_DEG_S[row % RATES_DEG_S.length] as number) * RAD_PER_DEG,
  },
  {
    id: "turnedRad",
    label: "turned",
    shown: DEG,
    hint: "true heading after a turn left of 90 deg",
    from: ({ tape }) => tape?.headingRad ?? null,
  },
];

export const turnByGyro: Procedure = {
  id: "turn-by-gyro",
  title: "Turn by gyro",
  purpose: "Turn 90 deg at several rates, several times each: how far past does it go, and how well does it repeat?",
  place: "Put the robot on a mark with its side along a line.",
  measure: "Read its heading after the turn, counter-clockwise from where it looked.",
  rowsWanted: 12,
  settings: [],
  unfit: (robot) =>
    needsGyro(robot) ??
    needsEncoders(robot) ??
    (robot.drive.kind === "car" ? "A car type cannot turn on the spot." : null),
  columns: () => turnColumns,
  program: (robot, _settings, row) =>
    `${header(robot)}  wait 0.5 s\n  turn left 90 deg at ${RATES_DEG_S[row % RATES_DEG_S.length]} deg/s\n  wait 0.6 s\n`,
  estimate(_robot, rows): Estimate {
    const used = usable(rows, turnColumns).map(({ row, index }) => ({
      index,
      rate: numberOf(row, "rateRadS"),
      past: numberOf(row, "turnedRad") - TAU / 4,
    }));
    if (used.length === 0) return { ok: false, why: FEW };
    const past = meanOf(used.map(({ past }) => past));
    const spread = deviation(used.map(({ past }) => past));
    const line = fitLine(used.map(({ rate, past }) => [rate, past]));
    const groups = RATES_DEG_S.flatMap((rate) => {
      const own = used.filter((run) => Math.abs(run.rate - rate * RAD_PER_DEG) < 0.01).map((run) => run.past);
      return own.length < 2 ? [] : [{ rate, spread: deviation(own), past: meanOf(own).value }];
    });
    const best = [...groups].sort((a, b) => Math.abs(a.past) + a.spread - (Math.abs(b.past) + b.spread))[0];
    return {
      ok: true,
      results: [
        { id: "past", label: "Goes past by", shown: DEG, estimate: past },
        {
          id: "repeat",
          label: "Repeats within",
          shown: DEG,
          estimate: { value: spread, standardError: null, low: null, high: null, count: used.length },
        },
      ],
      edits: [],
      doubtful: doubtfulRows(
        used,
        used.map(({ past }) => past),
        1.5 * RAD_PER_DEG,
      ),
      interval: STUDENT,
      verdict: {
        title: `A quarter turn ends ${withError(Math.abs(past.value), past.standardError, DEG)} ${past.value >= 0 ? "past" : "short"}, and repeats within ${(spread / RAD_PER_DEG).toFixed(1)} deg`,
        text: `${line ? `For each 100 deg/s more it goes ${Math.abs(line.slope * 100).toFixed(2)} deg ${line.slope > 0 ? "further" : "less far"}. ` : ""}${
          best ? `Of the rates tried, ${best.rate} deg/s comes nearest. ` : ""
        }End a turn of your own making ${Math.abs(past.value / RAD_PER_DEG).toFixed(1)} deg ${past.value >= 0 ? "early" : "late"}. When all rates are off alike, it is the gyro's scale: see Gyro turns.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, turnColumns);
    if (used.length === 0) return null;
    const points = used.map(({ row }): [number, number] => [
      numberOf(row, "rateRadS"),
      numberOf(row, "turnedRad") - TAU / 4,
    ]);
    const line = fitLine(points);
    const ends = [Math.min(...points.map(([x]) => x)), Math.max(...points.map(([x]) => x))];
    return {
      title: "How far past 90 deg each turn went",
      x: { label: "rate", shown: { ...DEG_S, digits: 0 } },
      y: { label: "past", shown: DEG },
      series: [
        { label: "turns", role: "measured", points, line: false },
        ...(line
          ? [
              {
                label: "line",
                role: "fit" as const,
                line: true,
                points: ends.map((x): [number, number] => [x, line.intercept + line.slope * x]),
              },
            ]
          : []),
      ],
    };
  },
  present: () => [],
};

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
    needsGyro(robot) ?? (robot.drive.kind === "car" ? "A car type holds its heading with its axle." : null),
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
      edits: [],
      doubtful: [],
      interval: "none: gains are compared, not averaged",
      verdict: {
        title: `Hold a heading with ${best.gain} %/deg`,
        text: `It settles in ${best.settled.toFixed(2)} s and overshoots ${(best.overshoot * 100).toFixed(0)} %. ${
          ringing.length > 0 ? `From ${Math.min(...ringing)} %/deg on it swings on and on. ` : ""
        }Use it in a loop of your own; go, roll and arc hold their heading with gains of their own.`,
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
  present: () => [],
};
