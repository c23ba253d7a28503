// Turning width by spins, and the square both ways round.
import { TAU } from "../../math/trig.js";
import { robotInForce } from "../../robot/inForce.js";
import type { Robot } from "../../robot/schema.js";
import { fitSquares, paperSquare, replay, sideFactors, spinWidth, turnError } from "../odometry.js";
import type { Chart, Column, Estimate, Procedure, TableRow } from "../procedure.js";
import { type Estimated, studentT95, widened } from "../statistics.js";
import { DEG, intervalWords, M, MM, PERCENT, plain, RAD_PER_DEG, TURNS, WHOLE, withError } from "../units.js";
import {
  doubtfulRows,
  FEW,
  header,
  knownEdit,
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
import { leftFurther } from "./wheels.js";

/** Runs take turns: the first counter-clockwise, the second clockwise. */
export const wayOfRow = (row: number): 1 | -1 => (row % 2 === 0 ? 1 : -1);
const side = (row: number) => (wayOfRow(row) === 1 ? "left" : "right");

export const wayColumn: Column = {
  id: "way",
  label: "way",
  shown: WHOLE,
  least: -1,
  most: 1,
  choices: [
    { value: 1, words: "left" },
    { value: -1, words: "right" },
  ],
  hint: "left is counter-clockwise, seen from above",
  from: (_measured, row) => wayOfRow(row),
};

const spinColumns = (robot: Robot): readonly Column[] => [
  wayColumn,
  {
    id: "leftOverRad",
    label: "left over",
    shown: DEG,
    hint: "heading beyond whole turns, counter-clockwise +",
    least: -180 * RAD_PER_DEG,
    most: 180 * RAD_PER_DEG,
    from: ({ tape }) => tape?.headingRad ?? null,
  },
  {
    id: "reckonedTurns",
    label: "by the wheels",
    shown: TURNS,
    hint: "turns of the robot by its wheels, counter-clockwise +",
    from: (measured) => {
      const left = wheelTurns(robot, measured, "left");
      const right = wheelTurns(robot, measured, "right");
      if (left === null || right === null) return null;
      const known = robotInForce(robot);
      const across = right * known.right.rollPerTurnM.value - left * known.left.rollPerTurnM.value;
      return across / known.trackWidthM.value / TAU;
    },
  },
];

function spins(robot: Robot, rows: readonly TableRow[], turns: number) {
  return usable(rows, spinColumns(robot)).map(({ row, index }) => {
    const way = numberOf(row, "way") < 0 ? -1 : 1;
    return {
      index,
      way,
      reckonedRad: numberOf(row, "reckonedTurns") * TAU,
      turnedRad: way * turns * TAU + numberOf(row, "leftOverRad"),
    };
  });
}

/** A width is as long or short as the wheels it is reckoned by: what is unsure about them comes along. */
function withWheelError(robot: Robot, width: Estimated): Estimated {
  const { left } = robotInForce(robot);
  const { source, count } = left.wheel.rollPerTurnM;
  const share = source === "drawing" ? 0 : left.rollPerTurnM.standardError / left.rollPerTurnM.value;
  return widened(width, width.value * share, count > 1 ? studentT95(count - 1) : undefined);
}

export const turningWidth: Procedure = {
  id: "turning-width",
  title: "Effective track width",
  purpose: "Spin whole turns on the spot, both ways, and measure the heading that is left over.",
  place: "Put the robot on a mark with its side along a line.",
  measure: "Read by how much it looks past its line, counter-clockwise positive.",
  rowsWanted: 6,
  settings: [{ id: "turns", label: "Whole turns", shown: WHOLE, value: 5, least: 1, most: 20 }],
  unfit: needsTwoSides,
  columns: spinColumns,
  program: (robot, { turns = 5 }, row) =>
    `${header(robot)}  wait 0.5 s\n  turn ${side(row)} ${plain(turns * 360, 0)} deg at 120 deg/s\n  wait 0.6 s\n${noteTurns(robot)}`,
  estimate(robot, rows, { turns = 5 }): Estimate {
    const runs = spins(robot, rows, turns);
    if (runs.length === 0) return { ok: false, why: FEW };
    if (runs.some(({ turnedRad }) => Math.abs(turnedRad) < TAU / 2))
      return { ok: false, why: "A row turned less than half a turn. Check its sign: counter-clockwise is positive." };
    const before = robotInForce(robot).trackWidthM.value;
    const spun = spinWidth(runs, before);
    const width = withWheelError(robot, spun);
    const off = (width.value / before - 1) * 360;
    const error = turnError(spun);
    const ways = new Set(runs.map(({ way }) => way));
    return {
      ok: true,
      results: [{ id: "width", label: "Track width", shown: MM, estimate: width }],
      edits: [knownEdit("drive", "trackWidthM", width)],
      doubtful: doubtfulRows(
        runs,
        runs.map(({ reckonedRad, turnedRad }) => (before * reckonedRad) / turnedRad),
        0.0008,
      ),
      interval: STUDENT,
      verdict: {
        title: `It turns with a width of ${withError(width.value, width.standardError, MM)}`,
        text: `With the width in use now a full turn by the wheels is ${Math.abs(off).toFixed(1)} deg ${off > 0 ? "short" : "too far"}. ${runs.length} spins put the width ${intervalWords(width, MM, 2)}${
          error === null
            ? ""
            : `, so a full turn may then be ${(error / RAD_PER_DEG).toFixed(error < 0.2 * RAD_PER_DEG ? 2 : 1)} deg out`
        }.${ways.size < 2 ? " Spin the other way too: one way alone hides what the wheels do differently." : ""}`,
      },
    };
  },
  chart(robot, rows, { turns = 5 }): Chart | null {
    const runs = spins(robot, rows, turns);
    if (runs.length === 0) return null;
    const points = (way: number) =>
      runs
        .filter((run) => run.way === way)
        .map((run): [number, number] => [run.index + 1, run.reckonedRad / run.turnedRad]);
    return {
      title: "Turns by the wheels for one true turn",
      x: { label: "run", shown: WHOLE },
      y: { label: "by the wheels", shown: TURNS },
      series: [
        { label: "to the left", role: "measured", points: points(1), line: false },
        { label: "to the right", role: "after", points: points(-1), line: false },
      ],
    };
  },
  present: (robot) => {
    const { trackWidthM } = robotInForce(robot);
    return [
      presentKnown("width", "Track width", MM, trackWidthM.value, trackWidthM.standardError, robot.drive.trackWidthM),
    ];
  },
};

const squareColumns: readonly Column[] = [
  wayColumn,
  {
    id: "xM",
    label: "x",
    shown: MM,
    hint: "from where it began, along its first side",
    from: ({ tape }) => tape?.alongM ?? null,
  },
  {
    id: "yM",
    label: "y",
    shown: MM,
    hint: "to the left of its first side +",
    from: ({ tape }) => tape?.asideM ?? null,
  },
];

export const squareBothWays: Procedure = {
  id: "square",
  title: "Square, both ways",
  purpose:
    "Drive squares both ways round on the wheels alone; how far from its start each ends tells wheels and width at once.",
  place: "Put the robot on its mark, looking along the first side; leave room on the side it turns to.",
  measure: "Read where it stands from its mark: along its first side, and to the left of it.",
  rowsWanted: 10,
  settings: [{ id: "sideM", label: "Side", shown: M, value: 1, least: 0.3, most: 4 }],
  unfit: needsTwoSides,
  columns: () => squareColumns,
  program: (robot, { sideM = 1 }, row) =>
    `${header(robot)}  wait 0.5 s\n  repeat 4 times\n    go ${plain(sideM)} m at 25 cm/s\n    turn ${side(row)} 90 deg at 90 deg/s\n  wait 0.6 s\n`,
  record: recordedTurns,
  estimate(robot, rows, { sideM = 1 }): Estimate {
    const all = usable(rows, squareColumns);
    const known = robotInForce(robot);
    const before = known.trackWidthM.value;
    const recorded = all.flatMap(({ row }) =>
      row.recorded
        ? [{ travelM: travelOf(robot, row.recorded), endXM: numberOf(row, "xM"), endYM: numberOf(row, "yM") }]
        : [],
    );
    // True place less reckoned place; a robot that drives by its wheels alone reckons itself back at its start.
    const errorOf = (row: TableRow) => {
      const [x, y] = row.recorded ? replay(travelOf(robot, row.recorded), 1, before) : [0, 0];
      return { xM: numberOf(row, "xM") - x, yM: numberOf(row, "yM") - y };
    };
    const of = (way: number) =>
      all.filter(({ row }) => (numberOf(row, "way") < 0 ? -1 : 1) === way).map(({ row }) => errorOf(row));
    if (of(1).length === 0 || of(-1).length === 0)
      return { ok: false, why: "The square needs at least one run of each way: counter-clockwise and clockwise." };
    const mean = (known.left.rollPerTurnM.value + known.right.rollPerTurnM.value) / 2;
    const believedRatio = known.right.rollPerTurnM.value / known.left.rollPerTurnM.value;
    const fit = recorded.length === all.length ? fitSquares(recorded, before) : null;
    const paper = paperSquare(of(-1), of(1), sideM, before);
    const ratio = fit
      ? fit.wheelRatio
      : { value: paper.wheelRatio, standardError: null, low: null, high: null, count: all.length };
    const width = fit
      ? withWheelError(robot, fit.trackWidthM)
      : { value: before * paper.widthFactor, standardError: null, low: null, high: null, count: all.length };
    // The fit's ratio stands on top of the one in force; typed squares were driven by what was in force, too.
    const whole = ratio.value * believedRatio;
    const factors = sideFactors(whole);
    const error = ratio.standardError === null ? null : (ratio.standardError / 2) * mean;
    const mm = (metres: number) => `${(metres * 1000).toFixed(0)} mm`;
    return {
      ok: true,
      results: [
        {
          id: "left-further",
          label: "Left wheel rolls further by",
          shown: PERCENT,
          estimate: leftFurther({
            ...ratio,
            value: whole,
            low: ratio.low && ratio.low * believedRatio,
            high: ratio.high && ratio.high * believedRatio,
          }),
        },
        { id: "width", label: "Track width", shown: MM, estimate: width },
        {
          id: "return",
          label: "Systematic return error",
          shown: MM,
          estimate: {
            value: fit ? fit.worstBeforeM : paper.worstM,
            standardError: null,
            low: null,
            high: null,
            count: all.length,
          },
        },
      ],
      edits: [
        ...rollEdits(
          robot,
          { value: mean * factors.left, standardError: error },
          { value: mean * factors.right, standardError: error },
        ),
        knownEdit("drive", "trackWidthM", width),
      ],
      doubtful: [],
      interval: fit ? `${STUDENT}, from the fit's residuals` : "none: typed squares give no interval",
      verdict: {
        title: `Its squares end ${mm(fit ? fit.worstBeforeM : paper.worstM)} out of place`,
        text: fit
          ? `One wheel size and width that fit all ${all.length} squares leave ${mm(fit.worstAfterM)} of that. From run to run it scatters by ${mm(fit.residualM)}. The width is ${intervalWords(width, MM, 2)}. By Borenstein and Feng's formulas for small errors: ${paperWords(paper, before)}.`
          : `By Borenstein and Feng's formulas for small errors: ${paperWords(paper, before)}. With a linked robot its recorded wheel turns are used instead, which holds for large errors too.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const points = (way: number) =>
      rows.flatMap((row): [number, number][] =>
        !row.struck &&
        typeof row.values.xM === "number" &&
        typeof row.values.yM === "number" &&
        ((row.values.way ?? 1) < 0 ? -1 : 1) === way
          ? [[row.values.xM, row.values.yM]]
          : [],
      );
    if (points(1).length + points(-1).length === 0) return null;
    return {
      title: "Where each square ended, from its start",
      x: { label: "x", shown: { unit: "mm", perSi: 1000, digits: 0 } },
      y: { label: "y", shown: { unit: "mm", perSi: 1000, digits: 0 } },
      series: [
        { label: "to the left", role: "after", points: points(1), line: false },
        { label: "to the right", role: "measured", points: points(-1), line: false },
      ],
    };
  },
  present: () => [],
};

function paperWords(paper: ReturnType<typeof paperSquare>, before: number): string {
  const { widthFactor, wheelRatio, worstM } = paper;
  const further = (1 - wheelRatio) * 100;
  return `largest systematic error ${(worstM * 1000).toFixed(0)} mm, width ${(before * widthFactor * 1000).toFixed(1)} mm, the ${
    further >= 0 ? "left" : "right"
  } wheel ${Math.abs(further).toFixed(2)} % further than in use now`;
}
