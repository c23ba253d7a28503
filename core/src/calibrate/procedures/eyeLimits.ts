// Where a distance sensor goes blind: nearer than it can hear, and at smooth faces met too slantingly.

import type { Robot } from "../../robot/schema.js";
import type { SensorOf } from "../../sensors/kinds/all.js";
import { nearLimitM, silentRad } from "../../sensors/kinds/eye.js";
import { traceColumn } from "../../trials/trace.js";
import type { Chart, Column, Estimate, Measured, Procedure, TableRow } from "../procedure.js";
import { deviation, type Estimated, mean, meanOf, studentT95, widened } from "../statistics.js";
import { DEG, MM, PERCENT, plain, RAD_PER_DEG, withError } from "../units.js";
import { eyeOf, FEW, header, knownEdit, middleReading, numberOf, presentKnown, towards, usable } from "./common.js";

type Eye = SensorOf<"eye">;

/** Boards square on, nearer and nearer, as shares of the near limit of the data sheet; then one turned away, deg. */
const NEAR_SHARES = [2, 1.6, 1.3, 1.15, 1, 0.85, 0.7, 0.5];
const SLANTS_DEG = [30, 36, 40, 43, 46, 49, 53, 60];
const SLANT_AT_M = 0.3;
/** A reading further off than this is not of the board, m. */
const RIGHT_WITHIN_M = 0.002;
/** Boards this many times the data sheet's near limit away are surely read: they tell what the eye is off by. */
const SURELY_READ = 1.25;

function boardOf(robot: Robot, row: number): { readonly atM: number; readonly slantRad: number } {
  const i = row % (NEAR_SHARES.length + SLANTS_DEG.length);
  const share = NEAR_SHARES[i];
  return share === undefined
    ? { atM: SLANT_AT_M, slantRad: (SLANTS_DEG[i - NEAR_SHARES.length] as number) * RAD_PER_DEG }
    : { atM: (eyeOf(robot)?.nearM ?? 0.03) * share, slantRad: 0 };
}

/** Share of the looks after its first half second that met an echo. */
function seenShare(robot: Robot, { trace }: Measured): number | null {
  const eye = eyeOf(robot);
  const column = eye && trace ? traceColumn(trace, `${eye.name}.seen`) : null;
  return column && column.length > 60 ? mean([...column.slice(50)]) : null;
}

const columns = (robot: Robot): readonly Column[] => [
  {
    id: "trueM",
    label: "true",
    shown: MM,
    least: 0.001,
    hint: "from the distance sensor's face to the board",
    from: ({ tape }, row) => (tape === null ? null : boardOf(robot, row).atM - towards(robot, tape)),
  },
  {
    id: "slantRad",
    label: "turned away",
    shown: { ...DEG, digits: 0 },
    least: 0,
    most: 89 * RAD_PER_DEG,
    hint: "0 is square on",
    from: (_measured, row) => boardOf(robot, row).slantRad,
  },
  {
    id: "readM",
    label: "read",
    shown: MM,
    least: 0,
    hint: "the middle of a second's readings",
    from: (measured) => middleReading(robot, measured),
  },
  {
    id: "seen",
    label: "answered",
    shown: { ...PERCENT, digits: 0 },
    least: 0,
    most: 1,
    hint: "share of looks that met an echo",
    from: (measured) => seenShare(robot, measured),
  },
];

/**
 * Limit between values at which something works and those beyond: the middle of the gap, even odds within it.
 * @returns null when one side is missing
 */
export function limitBetween(
  works: readonly number[],
  fails: readonly number[],
  worksAbove: boolean,
): Estimated | null {
  if (works.length === 0 || fails.length === 0) return null;
  const edge = worksAbove ? Math.min(...works) : Math.max(...works);
  // Failures on the working side are chance misses; only those beyond it count.
  const beyond = fails.filter((value) => (worksAbove ? value < edge : value > edge));
  if (beyond.length === 0) return null;
  const other = worksAbove ? Math.max(...beyond) : Math.min(...beyond);
  const [low, high] = edge < other ? [edge, other] : [other, edge];
  const count = works.length + fails.length;
  return { value: (low + high) / 2, standardError: (high - low) / Math.sqrt(12), low, high, count };
}

interface Board {
  readonly trueM: number;
  readonly readM: number;
  readonly slantRad: number;
  readonly seen: boolean;
}

function boards(robot: Robot, rows: readonly TableRow[]): { square: Board[]; slanted: Board[] } {
  const all = usable(rows, columns(robot)).map(
    ({ row }): Board => ({
      trueM: numberOf(row, "trueM"),
      readM: numberOf(row, "readM"),
      slantRad: numberOf(row, "slantRad"),
      seen: numberOf(row, "seen") > 0.5,
    }),
  );
  const isSquare = ({ slantRad }: Board) => slantRad < 5 * RAD_PER_DEG;
  return { square: all.filter(isSquare), slanted: all.filter((board) => !isSquare(board)) };
}

/** Near limit: what an eye reads that reads its limit for anything nearer, or between the boards it hears and those not. */
function nearOf(eye: Eye, square: readonly Board[]): Estimated | null {
  const far = square.filter(({ seen, trueM }) => seen && trueM > SURELY_READ * eye.nearM);
  if (far.length === 0) return null;
  const off = mean(far.map(({ readM, trueM }) => readM - trueM));
  const wrong = ({ readM, trueM, seen }: Board) => !seen || readM - off - trueM > RIGHT_WITHIN_M;
  const stuck = square.filter((board) => board.seen && wrong(board));
  // What the eye is off by is known from the far boards only, by readings of their own.
  const offs = far.map(({ readM, trueM }) => readM - trueM);
  const offError = deviation(offs) / Math.sqrt(offs.length);
  if (stuck.length > 0)
    return widened(meanOf(stuck.map(({ readM }) => readM - off)), offError, studentT95(Math.max(1, offs.length - 1)));
  const at = (list: readonly Board[]) => list.map(({ trueM }) => trueM);
  return limitBetween(at(square.filter((board) => !wrong(board))), at(square.filter(wrong)), true);
}

function silentOf(slanted: readonly Board[]): Estimated | null {
  const at = (seen: boolean) => slanted.filter((board) => board.seen === seen).map(({ slantRad }) => slantRad);
  return limitBetween(at(true), at(false), false);
}

export const eyeLimits: Procedure = {
  id: "eye-limits",
  title: "Distance sensor limits",
  purpose:
    "Bring a board nearer until the distance sensor reads it wrong. Then turn a board away until the sensor hears nothing.",
  place: "Stand a smooth board before the distance sensor: square on and nearer each time, then 30 cm away and turned.",
  measure: "Read the distance from the distance sensor's face, and by how much the board is turned.",
  rowsWanted: NEAR_SHARES.length + SLANTS_DEG.length,
  settings: [],
  unfit: (robot) => (eyeOf(robot) ? null : "This robot has no distance sensor."),
  columns,
  program: (robot) => `${header(robot)}  wait 1.5 s\n`,
  stage: (_settings, row, robot) => {
    const { atM, slantRad } = boardOf(robot, row);
    return { floor: "board", aheadM: atM, slantRad };
  },
  next: (_settings, row, robot) => {
    const { atM, slantRad } = boardOf(robot, row);
    const turned = slantRad === 0 ? "square on" : `turned away by ${plain(slantRad / RAD_PER_DEG, 0)} deg`;
    return `Next: ${plain(atM * 1000, 0)} mm away, ${turned}.`;
  },
  estimate(robot, rows): Estimate {
    const eye = eyeOf(robot) as Eye;
    const { square, slanted } = boards(robot, rows);
    const [near, silent] = [nearOf(eye, square), silentOf(slanted)];
    if (!near && !silent)
      return {
        ok: false,
        why: rows.length === 0 ? FEW : "No row lies beyond a limit yet: go nearer, or turn the board further.",
      };
    const words = [
      near
        ? `Nearer than ${withError(near.value, near.standardError, MM)} it reads wrong.`
        : "Its near limit was not reached.",
      silent
        ? `Smooth faces turned away by more than ${withError(silent.value, silent.standardError, DEG)} send nothing back: come at walls more squarely, or take two distance sensors.`
        : "It heard the board at every angle tried.",
    ];
    return {
      ok: true,
      results: [
        ...(near ? [{ id: "near", label: "Reads from", shown: MM, estimate: near }] : []),
        ...(silent ? [{ id: "silent", label: "Silent beyond", shown: DEG, estimate: silent }] : []),
      ],
      edits: [
        ...(near ? [knownEdit(eye.name, "nearLimitM", near)] : []),
        // Of its cone the side that meets the board most squarely still hears it.
        ...(silent ? [knownEdit(eye.name, "silentRad", { ...silent, value: silent.value - eye.coneRad / 2 })] : []),
      ],
      doubtful: [],
      interval: "between the last row that worked and the first that did not",
      verdict: {
        title: near
          ? `The distance sensor reads from ${withError(near.value, near.standardError, MM)} on`
          : `The distance sensor is silent beyond ${withError((silent as Estimated).value, (silent as Estimated).standardError, DEG)}`,
        text: words.join(" "),
      },
    };
  },
  chart(robot, rows): Chart | null {
    const slanted = usable(rows, columns(robot)).filter(({ row }) => numberOf(row, "slantRad") >= 5 * RAD_PER_DEG);
    if (slanted.length === 0) return null;
    return {
      title: "Share of looks that were answered",
      x: { label: "turned away", shown: { ...DEG, digits: 0 } },
      y: { label: "answered", shown: { ...PERCENT, digits: 0 } },
      series: [
        {
          label: "looks",
          role: "measured",
          line: false,
          points: slanted.map(({ row }): [number, number] => [numberOf(row, "slantRad"), numberOf(row, "seen")]),
        },
      ],
    };
  },
  present: (robot) => {
    const eye = eyeOf(robot);
    if (!eye) return [];
    const known = (value: number) => eye.nearLimitM ?? { ...eye.offsetM, value, source: "drawing" as const, count: 0 };
    return [
      presentKnown("near", "Reads from", MM, nearLimitM(eye), eye.nearLimitM?.standardError ?? 0, known(eye.nearM)),
      ...(eye.silentRad
        ? [
            presentKnown(
              "silent",
              "Silent beyond",
              DEG,
              silentRad(eye) + eye.coneRad / 2,
              eye.silentRad.standardError ?? 0,
              eye.silentRad,
            ),
          ]
        : []),
    ];
  },
};
