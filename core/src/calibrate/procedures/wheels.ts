// Wheel size, by driving and by hand, and straight driving.
import { atan } from "../../math/trig.js";
import { robotInForce } from "../../robot/inForce.js";
import type { Robot } from "../../robot/schema.js";
import { ratioOfRecorded, type StraightRun, sideFactors, straightness, travelPerTurn } from "../odometry.js";
import type { Chart, Column, Estimate, Procedure, Settings, TableRow } from "../procedure.js";
import { type Estimated, meanOf, through, widened } from "../statistics.js";
import { intervalWords, M, MM, PERCENT, plain, TURNS, withError } from "../units.js";
import {
  doubtfulRows,
  FEW,
  header,
  needsEncoders,
  needsTwoSides,
  noteTurns,
  numberOf,
  presentKnown,
  recordedTurns,
  rollEdits,
  STUDENT,
  travelOf,
  usable,
  wheelTurns,
} from "./common.js";

const lengthSetting = { id: "lengthM", label: "Distance", shown: M, value: 2, least: 0.3, most: 10 } as const;

/** Length of the arc whose chord is measured: it turns twice the angle under which its end is seen. */
function arcLength(alongM: number, asideM: number): number {
  const seen = atan(asideM / alongM);
  return Math.sqrt(alongM * alongM + asideM * asideM) * (1 + (seen * seen) / 6);
}

const distanceColumns: readonly Column[] = [
  {
    id: "alongM",
    label: "along",
    shown: M,
    least: 0.02,
    from: ({ tape }) => tape?.alongM ?? null,
  },
  {
    id: "asideM",
    label: "aside",
    shown: MM,
    optional: true,
    hint: "to the left +; empty counts as none",
    from: ({ tape }) => tape?.asideM ?? null,
  },
];

function sizeRows(rows: readonly TableRow[], columns: readonly Column[]) {
  return usable(rows, columns).map(({ row, index }) => ({
    index,
    distanceM: arcLength(numberOf(row, "alongM"), row.values.asideM ?? 0),
    turns: numberOf(row, "turns"),
  }));
}

function sizeEstimate(robot: Robot, rows: readonly TableRow[], columns: readonly Column[], byHand: boolean): Estimate {
  const runs = sizeRows(rows, columns);
  if (runs.length === 0) return { ok: false, why: FEW };
  const c = travelPerTurn(runs);
  const known = robotInForce(robot);
  const believed = (known.left.rollPerTurnM.value + known.right.rollPerTurnM.value) / 2;
  const factor = c.value / believed;
  const scaled = (value: number) => ({
    value: value * factor,
    standardError: c.standardError === null ? null : (c.standardError / c.value) * value * factor,
  });
  // A width found by odometry grows with the wheels it was reckoned by; one from the drawing does not.
  const width = robot.drive.trackWidthM;
  const widthEdits =
    width.source === "measured"
      ? [{ ref: "drive", path: "trackWidthM", value: width.value * factor, standardError: width.standardError }]
      : [];
  const percent = (factor - 1) * 100;
  return {
    ok: true,
    results: [{ id: "roll", label: "Rolls per turn", shown: MM, estimate: c }],
    edits: [
      ...rollEdits(robot, scaled(known.left.rollPerTurnM.value), scaled(known.right.rollPerTurnM.value)),
      ...widthEdits,
    ],
    doubtful: doubtfulRows(
      runs,
      runs.map((run) => run.distanceM / run.turns),
      byHand ? 0.001 : 0.0005,
    ),
    interval: STUDENT,
    verdict: {
      title: `One turn of the wheels rolls ${withError(c.value, c.standardError, MM)}`,
      text: `That is ${Math.abs(percent).toFixed(2)} % ${percent < 0 ? "less" : "more"} than is in use now: a go of 2 m ${
        Math.abs(percent) < 0.05
          ? "hardly changes"
          : `ends ${Math.abs(percent * 20).toFixed(0)} mm ${percent < 0 ? "short" : "too far"} now`
      }. ${runs.length} runs put it ${intervalWords(c, MM, 2)}.`,
    },
  };
}

function sizeChart(rows: readonly TableRow[], columns: readonly Column[]): Chart | null {
  const points = (struck: boolean) =>
    rows.flatMap((row, i): [number, number][] => {
      const { alongM, turns } = row.values;
      return row.struck === struck && columns.length > 0 && alongM && turns
        ? [[i + 1, arcLength(alongM, row.values.asideM ?? 0) / turns]]
        : [];
    });
  if (points(false).length + points(true).length === 0) return null;
  return {
    title: "Travel for one turn of the wheels, run by run",
    x: { label: "run", shown: { unit: "", perSi: 1, digits: 0 } },
    y: { label: "rolls per turn", shown: MM },
    series: [
      { label: "measured", role: "measured", points: points(false), line: false },
      { label: "struck out", role: "struck", points: points(true), line: false },
    ],
  };
}

function presentRoll(robot: Robot) {
  const { left, right } = robotInForce(robot);
  const value = (left.rollPerTurnM.value + right.rollPerTurnM.value) / 2;
  return [presentKnown("roll", "Rolls per turn", MM, value, left.rollPerTurnM.standardError, left.wheel.rollPerTurnM)];
}

const driveSizeColumns = (robot: Robot): readonly Column[] => [
  ...distanceColumns,
  {
    id: "turns",
    label: "wheel turns",
    shown: TURNS,
    least: 0.1,
    hint: "mean of both wheels, as their encoders counted",
    from: (measured) => {
      const left = wheelTurns(robot, measured, "left");
      const right = wheelTurns(robot, measured, "right");
      return left === null || right === null ? null : (left + right) / 2;
    },
  },
];

export const wheelSize: Procedure = {
  id: "wheel-size",
  title: "Wheel size",
  purpose: "Drive a measured distance straight and count the turns of the wheels.",
  place: "Put the robot at the end of a tape, its axle on zero, along the tape.",
  measure: "Read where the axle stands along the tape, and how far to its side.",
  rowsWanted: 5,
  settings: [lengthSetting],
  unfit: needsEncoders,
  columns: driveSizeColumns,
  program: (robot, { lengthM = 2 }) =>
    `${header(robot)}  wait 0.5 s\n  go ${plain(lengthM)} m at 25 cm/s\n  wait 0.6 s\n${noteTurns(robot)}`,
  estimate: (robot, rows) => sizeEstimate(robot, rows, driveSizeColumns(robot), false),
  chart: (robot, rows) => sizeChart(rows, driveSizeColumns(robot)),
  present: presentRoll,
};

const handColumns: readonly Column[] = [
  { id: "alongM", label: "length", shown: MM, least: 0.01, hint: "of the string, or along the tape" },
  { id: "turns", label: "wheel turns", shown: TURNS, least: 0.2, hint: "1 for a string around the tyre" },
];

export const wheelSizeByHand: Procedure = {
  id: "wheel-size-by-hand",
  title: "Wheel size by hand",
  purpose: "A string around the tyre, a roll along a tape, or a caliper: type what you measured.",
  place: "Take the wheel, or push the robot along a tape by hand.",
  measure: "Type the length and how many turns of the wheel it was.",
  rowsWanted: 3,
  settings: [],
  unfit: () => null,
  columns: () => handColumns,
  program: () => null,
  estimate: (robot, rows) => sizeEstimate(robot, rows, handColumns, true),
  chart: (_robot, rows) => sizeChart(rows, handColumns),
  present: () => [],
};

const straightColumns = (robot: Robot): readonly Column[] => [
  ...distanceColumns.map((column): Column => {
    if (column.id !== "asideM") return column;
    const { optional: _, ...needed } = column;
    return { ...needed, hint: "of its line, to the left +" };
  }),
  {
    id: "turnsRatio",
    label: "right / left turns",
    shown: { unit: "", perSi: 1, digits: 5 },
    optional: true,
    least: 0.5,
    most: 2,
    hint: "by the encoders; empty counts as alike",
    from: (measured) => {
      const left = wheelTurns(robot, measured, "left");
      const right = wheelTurns(robot, measured, "right");
      return left === null || right === null || left === 0 ? null : right / left;
    },
  },
];

/** Difference of the sides as people say it: positive when the left wheel rolls further, share. */
export function leftFurther(ratio: Estimated): Estimated {
  return through(ratio, (value) => 1 - value);
}

/** The same, from the recorded turns: the tape says by the way how long the wheels' metre really is. */
function recordedRatio(robot: Robot, run: StraightRun, travelM: readonly number[], width: number): number | null {
  const reckoned = travelM.reduce((sum, travel) => sum + travel, 0) / 2;
  if (reckoned <= 0) return null;
  const scale = arcLength(run.alongM, run.asideM) / reckoned;
  // A measured width was found by these same wheels and is as long or short as they are; a drawn one is not.
  const inTheirMetres = robot.drive.trackWidthM.source === "drawing" ? width / scale : width;
  return ratioOfRecorded(travelM, run.asideM / scale, inTheirMetres);
}

/** D_right / D_left of one run: by its recorded wheel turns where there are any, else from where it ended. */
function rowRatio(
  robot: Robot,
  run: StraightRun & { readonly recorded: readonly number[] | null },
  width: number,
): number {
  const { left, right } = robotInForce(robot);
  const onTop = run.recorded ? recordedRatio(robot, run, travelOf(robot, run.recorded), width) : null;
  return onTop === null
    ? straightness([run], width).value
    : (onTop * right.rollPerTurnM.value) / left.rollPerTurnM.value;
}

/** Share by which a drawn track width may be off: contact points lie elsewhere than the wheels' middles. */
const DRAWN_WIDTH_ERROR = 0.03;

function straightEstimate(robot: Robot, rows: readonly TableRow[]): Estimate {
  const runs = usable(rows, straightColumns(robot)).map(({ row, index }) => ({
    index,
    alongM: numberOf(row, "alongM"),
    asideM: numberOf(row, "asideM"),
    turnsRatio: row.values.turnsRatio ?? 1,
    recorded: row.recorded ?? null,
  }));
  if (runs.length === 0) return { ok: false, why: FEW };
  const known = robotInForce(robot);
  const { value: width } = known.trackWidthM;
  // The curvature becomes a wheel ratio through the track width, whose own error comes along.
  const fromDrawing = robot.drive.trackWidthM.source === "drawing";
  const widthError = fromDrawing ? DRAWN_WIDTH_ERROR : known.trackWidthM.standardError / width;
  const found = meanOf(runs.map((run) => rowRatio(robot, run, width)));
  const ratio = widened(found, Math.abs(found.value - 1) * widthError);
  const { left, right } = known;
  const believed = right.rollPerTurnM.value / left.rollPerTurnM.value;
  // Ratios are of true travel for one turn, whatever is believed; the mean of both sides stays.
  const mean = (left.rollPerTurnM.value + right.rollPerTurnM.value) / 2;
  const factors = sideFactors(ratio.value);
  const error = ratio.standardError === null ? null : (ratio.standardError / 2) * mean;
  const further = leftFurther(ratio);
  const percent = Math.abs(further.value * 100);
  const side = further.value >= 0 ? "left" : "right";
  const other = side === "left" ? "right" : "left";
  const size: Estimated =
    further.value >= 0
      ? further
      : {
          ...further,
          value: -further.value,
          low: further.high === null ? null : -further.high,
          high: further.low === null ? null : -further.low,
        };
  const change = (ratio.value / believed - 1) * 100;
  return {
    ok: true,
    results: [{ id: "left-further", label: "Left wheel rolls further by", shown: PERCENT, estimate: further }],
    edits: rollEdits(
      robot,
      { value: mean * factors.left, standardError: error },
      { value: mean * factors.right, standardError: error },
    ),
    doubtful: doubtfulRows(
      runs,
      runs.map((run) => run.asideM),
      0.008,
    ),
    interval: STUDENT,
    verdict: {
      title:
        percent < 0.005
          ? "Both wheels roll alike"
          : `The ${side} wheel rolls ${percent.toFixed(2)} % further than the ${other}`,
      text: `Robot steps will turn the ${side} wheel ${(percent / 2).toFixed(2)} % less and the ${other} ${(percent / 2).toFixed(2)} % more${
        Math.abs(believed - 1) > 0.0001 ? `, ${Math.abs(change).toFixed(2)} % away from what is in use now` : ""
      }. ${runs.length} run${runs.length === 1 ? "" : "s"} put the difference ${intervalWords(size, PERCENT)}.${
        fromDrawing && percent > 0.5
          ? " The track width is from the drawing: measured first, it would make this surer."
          : ""
      }`,
    },
  };
}

function straightChart(robot: Robot, rows: readonly TableRow[], { lengthM = 2 }: Settings): Chart | null {
  const curves = rows.flatMap((row) => {
    const { alongM, asideM } = row.values;
    if (typeof alongM !== "number" || typeof asideM !== "number" || alongM <= 0) return [];
    // The arc from the start to where it ended.
    const points = Array.from({ length: 25 }, (_, i): [number, number] => {
      const s = i / 24;
      return [alongM * s, asideM * s * s];
    });
    return [{ label: "", role: row.struck ? ("struck" as const) : ("measured" as const), points, line: true }];
  });
  const ends = rows.flatMap((row): [number, number][] =>
    !row.struck && typeof row.values.alongM === "number" && typeof row.values.asideM === "number"
      ? [[row.values.alongM, row.values.asideM]]
      : [],
  );
  if (curves.length === 0 || robot.wheels.length === 0) return null;
  return {
    title: "Where each run ended, mm to the left (+) of the line",
    x: { label: `along, of ${plain(lengthM)} m`, shown: { unit: "m", perSi: 1, digits: 1 } },
    y: { label: "aside", shown: { unit: "mm", perSi: 1000, digits: 0 } },
    series: [...curves, { label: "runs", role: "measured", points: ends, line: false }],
  };
}

export const straightDriving: Procedure = {
  id: "straight-driving",
  title: "Straight driving",
  purpose: "Drive straight with equal wheel turns, then measure how far the robot ended to the side of its line.",
  place: "Put the robot in a jig or against a straight edge, so that it looks along its line.",
  measure: "Read how far it got along the line, and how far to its side, to the left positive.",
  rowsWanted: 5,
  settings: [lengthSetting],
  unfit: needsTwoSides,
  columns: straightColumns,
  record: recordedTurns,
  program: (robot, { lengthM = 2 }) =>
    `${header(robot)}  wait 0.5 s\n  wheels left 25 cm/s right 25 cm/s until robot.travel > ${plain(lengthM)} m\n  wait 0.6 s\n${noteTurns(robot)}`,
  estimate: straightEstimate,
  chart: straightChart,
  present: (robot) => {
    const { left, right } = robotInForce(robot);
    const { rollPerTurnM } = left.wheel;
    return [
      presentKnown(
        "left-further",
        "Left wheel rolls further by",
        PERCENT,
        1 - right.rollPerTurnM.value / left.rollPerTurnM.value,
        left.rollPerTurnM.standardError / left.rollPerTurnM.value,
        {
          ...rollPerTurnM,
          standardError: rollPerTurnM.standardError && (2 * rollPerTurnM.standardError) / rollPerTurnM.value,
        },
      ),
    ];
  },
};
