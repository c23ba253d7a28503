// What turns by the gyro go past, at several rates.

import { TAU } from "../../math/trig.js";
import { turnPastRad } from "../../robot/found.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { deviation, fitLine, lineAt, meanOf } from "../statistics.js";
import { DEG, DEG_S, RAD_PER_DEG, withError } from "../units.js";
import {
  doubtfulRows,
  FEW,
  header,
  knownEdit,
  needsEncoders,
  needsGyro,
  notCar,
  numberOf,
  presentKnown,
  STUDENT,
  usable,
} from "./common.js";

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
  settings: [
    {
      id: "wishedRad",
      label: "Wished within",
      shown: DEG,
      value: RAD_PER_DEG,
      least: 0.1 * RAD_PER_DEG,
      most: 10 * RAD_PER_DEG,
    },
  ],
  unfit: (robot) => needsGyro(robot) ?? needsEncoders(robot) ?? notCar(robot),
  columns: () => turnColumns,
  program: (robot, _settings, row) =>
    `${header(robot)}  wait 0.5 s\n  turn left 90 deg at ${RATES_DEG_S[row % RATES_DEG_S.length]} deg/s\n  wait 0.6 s\n`,
  estimate(robot, rows, { wishedRad = RAD_PER_DEG }): Estimate {
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
    // Taken off, the mean past leaves each rate its own rest and twice its spread.
    const left = (group: { past: number; spread: number }) => Math.abs(group.past - past.value) + 2 * group.spread;
    const within = groups.filter((group) => left(group) <= wishedRad);
    const best =
      within.length > 0 ? within[within.length - 1] : [...groups].sort((one, other) => left(one) - left(other))[0];
    const rates = used.map(({ rate }) => rate);
    const atBest = line && best && used.length > 2 ? lineAt(line, rates, best.rate * RAD_PER_DEG) : past;
    const clear = atBest.low !== null && atBest.high !== null && (atBest.low > 0 || atBest.high < 0);
    const inForce = turnPastRad(robot);
    const earlier = (atBest.value + inForce) / RAD_PER_DEG;
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
      edits: [
        ...(clear ? [knownEdit("drive", "turnPastRad", { ...atBest, value: atBest.value + inForce })] : []),
        ...(best ? [{ ref: "drive", path: "turnRateRadS", value: best.rate * RAD_PER_DEG, standardError: null }] : []),
      ],
      doubtful: doubtfulRows(
        used,
        used.map(({ past }) => past),
        1.5 * RAD_PER_DEG,
      ),
      interval: STUDENT,
      verdict: {
        title: `A quarter turn ends ${withError(Math.abs(past.value), past.standardError, DEG)} ${past.value >= 0 ? "past" : "short"}, and repeats within ${(spread / RAD_PER_DEG).toFixed(1)} deg`,
        text: `${line ? `For each 100 deg/s more it goes ${Math.abs(line.slope * 100).toFixed(2)} deg ${line.slope > 0 ? "further" : "less far"}. ` : ""}${
          best
            ? `${best.rate} deg/s is ${within.length > 0 ? `the quickest rate tried that stays within ${(wishedRad / RAD_PER_DEG).toFixed(1)} deg` : "the surest of the rates tried, though no rate stays within what is wished"}. `
            : ""
        }${
          clear
            ? `In use, turns end ${Math.abs(earlier).toFixed(2)} deg ${earlier >= 0 ? "early" : "late"}, and turns that name no rate take this one.`
            : "What they end past is less than the rows can tell apart: turns keep their end."
        } When all rates are off alike, it is the gyro's scale: see Gyro scale.`,
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
  present: (robot) => {
    const known = robot.drive.turnPastRad;
    return known ? [presentKnown("past", "Turns end early by", DEG, known.value, known.standardError ?? 0, known)] : [];
  },
};
