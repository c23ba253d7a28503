// Floor light and eyes, the steering of a car type, and the travel of an arm.
import { cos, PI, sin } from "../../math/trig.js";
import { drawnWheelbaseM, eyeOffset, robotInForce } from "../../robot/inForce.js";
import type { Robot, SensorOf } from "../../robot/schema.js";
import { traceColumn } from "../../trials/trace.js";
import type { Chart, Column, Estimate, Measured, Procedure } from "../procedure.js";
import { eyeDistance, lightLevels } from "../rest.js";
import { type Estimated, fitLine, mean, meanOf, median } from "../statistics.js";
import { DEG, intervalWords, M, MM, PERCENT, plain, RAD_PER_DEG, WHOLE, withError } from "../units.js";
import { doubtfulRows, FEW, header, knownEdit, numberOf, presentKnown, STUDENT, usable } from "./common.js";

type Floor = SensorOf<"floor">;
const floorOf = (robot: Robot): Floor | null =>
  robot.sensors.find((sensor): sensor is Floor => sensor.kind === "floor") ?? null;
type Eye = SensorOf<"eye">;
const eyeOf = (robot: Robot): Eye | null =>
  robot.sensors.find((sensor): sensor is Eye => sensor.kind === "eye") ?? null;

/** Name of the floor sensor's first spot, as its reading begins. */
function spotOf({ name, layout }: Floor): string {
  return layout === "single" ? `${name}.light` : layout === "pair" ? `${name}.left.light` : `${name}[1].light`;
}

/** Light of a sweep, split where dark and pale lie furthest apart (N. Otsu 1979, largest variance between classes). */
export function splitLevels(values: readonly number[]): { readonly dark: number[]; readonly pale: number[] } | null {
  const sorted = [...values].sort((a, b) => a - b);
  let best = -1;
  let at = 0;
  const total = sorted.reduce((sum, value) => sum + value, 0);
  let below = 0;
  for (let i = 1; i < sorted.length; i += 1) {
    below += sorted[i - 1] as number;
    const m1 = below / i;
    const m2 = (total - below) / (sorted.length - i);
    const between = i * (sorted.length - i) * (m1 - m2) * (m1 - m2);
    if (between > best) {
      best = between;
      at = i;
    }
  }
  if (at === 0 || at === sorted.length) return null;
  // Spots half on the edge belong to neither: the middle third of the gap between the means is left out.
  const low = mean(sorted.slice(0, at));
  const high = mean(sorted.slice(at));
  const third = (high - low) / 3;
  return { dark: sorted.filter((v) => v < low + third), pale: sorted.filter((v) => v > high - third) };
}

function sweep(robot: Robot, { trace }: Measured): number[] | undefined {
  const floor = floorOf(robot);
  const column = floor && trace ? traceColumn(trace, spotOf(floor)) : null;
  if (!column) return undefined;
  return [...column].filter((_, i) => i > 60 && i % 2 === 0).map((value) => Math.floor(value * 10_000 + 0.5) / 10_000);
}

const lightColumns = (robot: Robot): readonly Column[] => [
  {
    id: "dark",
    label: "dark",
    shown: PERCENT,
    least: 0,
    most: 1.2,
    from: (m) => {
      const split = splitLevels(sweep(robot, m) ?? []);
      return split && split.dark.length > 0 ? mean(split.dark) : null;
    },
  },
  {
    id: "pale",
    label: "pale",
    shown: PERCENT,
    least: 0,
    most: 1.2,
    from: (m) => {
      const split = splitLevels(sweep(robot, m) ?? []);
      return split && split.pale.length > 0 ? mean(split.pale) : null;
    },
  },
];

function allLevels(robot: Robot, rows: Parameters<Procedure["estimate"]>[1]) {
  const used = usable(rows, lightColumns(robot));
  const dark: number[] = [];
  const pale: number[] = [];
  for (const { row } of used) {
    const split = row.recorded ? splitLevels(row.recorded) : null;
    dark.push(...(split ? split.dark : [numberOf(row, "dark")]));
    pale.push(...(split ? split.pale : [numberOf(row, "pale")]));
  }
  return { dark, pale, rows: used.length };
}

export const floorLight: Procedure = {
  id: "floor-light",
  title: "Floor light",
  purpose: "Sweep across dark and pale: where does dark end, and how sure is that?",
  place: "Put the robot before a dark line, so that it drives across it.",
  measure: "Nothing to measure when linked; else type what it reads over dark and over pale.",
  rowsWanted: 3,
  settings: [],
  unfit: (robot) => (floorOf(robot) ? null : "This robot has no floor sensor."),
  columns: lightColumns,
  program: (robot) =>
    `${header(robot)}  wait 0.3 s\n  ${robot.drive.speedAtPower ? "power both 30 % for 3 s" : "go 40 cm at 10 cm/s"}\n`,
  stage: () => ({ floor: "stripe", aheadM: 0.25 }),
  record: sweep,
  estimate(robot, rows): Estimate {
    const levels = allLevels(robot, rows);
    if (levels.dark.length < 2 || levels.pale.length < 2)
      return { ok: false, why: "This needs at least two readings of dark and two of pale. Run it, or type rows." };
    const found = lightLevels(levels.dark, levels.pale);
    if (found.marginSigma <= 0) return { ok: false, why: "Dark reads lighter than pale. Are the columns swapped?" };
    const floor = floorOf(robot) as Floor;
    const gap = found.pale.value - found.dark.value;
    const wide = found.marginSigma > 4;
    // How sure the threshold is: the spread of the levels' means, at the threshold's share of each.
    const error = Math.max(found.dark.standardError ?? 0, found.pale.standardError ?? 0, gap * 0.01);
    return {
      ok: true,
      results: [
        { id: "dark", label: "Dark", shown: PERCENT, estimate: found.dark },
        { id: "pale", label: "Pale", shown: PERCENT, estimate: found.pale },
        {
          id: "threshold",
          label: "Threshold",
          shown: PERCENT,
          estimate: { value: found.threshold, standardError: error, low: null, high: null, count: levels.rows },
        },
      ],
      edits: [{ ref: floor.name, path: "dark", value: found.threshold, standardError: error }],
      doubtful: [],
      interval: STUDENT,
      verdict: {
        title: `Dark ends at ${(found.threshold * 100).toFixed(0)} % of the light`,
        text: `Dark reads ${(found.dark.value * 100).toFixed(0)} %, pale ${(found.pale.value * 100).toFixed(0)} %: a margin of ${found.marginSigma.toFixed(1)} standard deviations, which is ${
          wide ? "wide" : found.marginSigma > 2.5 ? "enough" : "narrow"
        }. Of a metre at 20 cm/s, 500 looks, ${found.misreads * 500 < 0.05 ? "none" : `about ${(found.misreads * 500).toFixed(1)}`} would be misread.`,
      },
    };
  },
  chart(robot, rows): Chart | null {
    const levels = allLevels(robot, rows);
    if (levels.dark.length + levels.pale.length === 0) return null;
    const bins = (values: readonly number[]) => {
      const counts = new Array<number>(51).fill(0);
      for (const value of values) {
        const bin = Math.max(0, Math.min(50, Math.floor(value * 50)));
        counts[bin] = (counts[bin] as number) + 1;
      }
      return counts.flatMap((count, i): [number, number][] => (count > 0 ? [[(i + 0.5) / 50, count]] : []));
    };
    return {
      title: "How often each light was read",
      x: { label: "light", shown: { ...PERCENT, digits: 0 } },
      y: { label: "readings", shown: WHOLE },
      series: [
        { label: "dark", role: "measured", points: bins(levels.dark), line: false },
        { label: "pale", role: "after", points: bins(levels.pale), line: false },
      ],
    };
  },
  present: (robot) => {
    const floor = floorOf(robot);
    return floor ? [presentKnown("threshold", "Threshold", PERCENT, floor.dark.value, 0, floor.dark)] : [];
  },
};

const BOARD_AT = [0.1, 0.2, 0.4, 0.7];

const eyeColumns: readonly Column[] = [
  { id: "trueM", label: "true", shown: MM, least: 0.005, hint: "from the eye's face to the board" },
  { id: "readM", label: "read", shown: MM, least: 0, hint: "the middle of a second's readings" },
];

export const eyeDistanceTest: Procedure = {
  id: "eye-distance",
  title: "Eye distance",
  purpose: "Hold a board at four or more distances and compare what the eye reads with the tape.",
  place: "Stand a board square to the eye's view, at 10, 20, 40 and 70 cm from its face.",
  measure: "Read the distance from the eye's face to the board.",
  rowsWanted: 8,
  settings: [],
  unfit: (robot) => (eyeOf(robot) ? null : "This robot has no range eye."),
  columns: (robot) =>
    eyeColumns.map(
      (column): Column =>
        column.id === "trueM"
          ? {
              ...column,
              from: ({ tape }, row) =>
                tape === null ? null : (BOARD_AT[row % BOARD_AT.length] as number) - towards(robot, tape),
            }
          : { ...column, from: (measured) => middleReading(robot, measured) },
    ),
  program: (robot) => `${header(robot)}  wait 1.5 s\n`,
  stage: (_settings, row) => ({ floor: "board", aheadM: BOARD_AT[row % BOARD_AT.length] as number }),
  estimate(robot, rows): Estimate {
    const used = usable(rows, eyeColumns).map(({ row, index }) => ({
      index,
      trueM: numberOf(row, "trueM"),
      readM: numberOf(row, "readM"),
    }));
    if (used.length === 0) return { ok: false, why: FEW };
    const eye = eyeOf(robot) as Eye;
    const found = eyeDistance(used);
    const now = eyeOffset(eye).value;
    // Readings have the present offset taken off already; what is left comes on top.
    const { offsetM: left } = found;
    const offset: Estimated = {
      ...left,
      value: left.value + now,
      low: left.low === null ? null : left.low + now,
      high: left.high === null ? null : left.high + now,
    };
    return {
      ok: true,
      results: [{ id: "offset", label: "Reads too far by", shown: MM, estimate: offset }],
      edits: [knownEdit(eye.name, "offsetM", offset)],
      doubtful: doubtfulRows(
        used,
        used.map(({ trueM, readM }) => readM - trueM),
        0.01,
      ),
      interval: STUDENT,
      verdict: {
        title: `The eye reads ${withError(Math.abs(offset.value), offset.standardError, MM)} too ${offset.value >= 0 ? "far" : "near"}`,
        text: `${used.length} readings put it ${intervalWords(offset, MM, 1)}; they scatter by ${(found.scatterM * 1000).toFixed(1)} mm.${
          found.line && used.length > 3 ? ` For each 10 cm it reads ${(found.scale * 100).toFixed(1)} mm.` : ""
        }`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const points = usable(rows, eyeColumns).map(({ row }): [number, number] => [
      numberOf(row, "trueM"),
      numberOf(row, "readM") - numberOf(row, "trueM"),
    ]);
    return points.length === 0
      ? null
      : {
          title: "How much too far the eye read",
          x: { label: "true distance", shown: { ...MM, digits: 0 } },
          y: { label: "too far", shown: MM },
          series: [{ label: "readings", role: "measured", points, line: false }],
        };
  },
  present: (robot) => {
    const eye = eyeOf(robot);
    if (!eye) return [];
    const { value, standardError } = eyeOffset(eye);
    return [presentKnown("offset", "Reads too far by", MM, value, standardError, eye.offsetM)];
  },
};

/** Median of what the eye read after its first half second: a look that met no echo does not count for more than one. */
function middleReading(robot: Robot, { trace }: Measured): number | null {
  const eye = eyeOf(robot);
  const column = eye && trace ? traceColumn(trace, `${eye.name}.distance`) : null;
  return column && column.length > 60 ? median([...column.slice(50)]) : null;
}

/** How far the robot moved the way its eye looks. */
function towards(robot: Robot, { alongM, asideM }: { alongM: number; asideM: number }): number {
  const aim = eyeOf(robot)?.aimRad ?? 0;
  return alongM * cos(aim) + asideM * sin(aim);
}

const STEER_SHARES = [-1, -0.5, 0, 0.5, 1];

const steeringColumns: readonly Column[] = [
  { id: "steerRad", label: "steered", shown: DEG, hint: "as told, to the left +" },
  { id: "alongM", label: "along", shown: MM, from: ({ tape }) => tape?.alongM ?? null },
  { id: "asideM", label: "aside", shown: MM, hint: "to the left +", from: ({ tape }) => tape?.asideM ?? null },
];

function mostSteer(robot: Robot): number {
  return robot.drive.kind === "car" ? robot.drive.steering.mostRad : 0;
}

export const steeringTest: Procedure = {
  id: "steering",
  title: "Steering",
  purpose: "Drive arcs full left, half, straight, half and full right, and measure where they end: centre and circle.",
  place: "Put the robot on its mark, looking along the tape; leave a metre on both sides.",
  measure: "Read where the rear axle's middle ends, along its first direction and to the left.",
  rowsWanted: 10,
  settings: [],
  unfit: (robot) =>
    robot.drive.kind !== "car"
      ? "Only a car type steers with an axle."
      : robot.drive.steering.locked
        ? "The lock pin holds the axle. Take it out first."
        : null,
  columns: (robot) =>
    steeringColumns.map(
      (column): Column =>
        column.id === "steerRad"
          ? { ...column, from: (_m, row) => mostSteer(robot) * (STEER_SHARES[row % 5] as number) }
          : column,
    ),
  program: (robot, _settings, row) => {
    const angle = mostSteer(robot) * (STEER_SHARES[row % 5] as number);
    return `${header(robot)}  steer ${angle >= 0 ? "left" : "right"} ${plain(Math.abs(angle) / RAD_PER_DEG, 2)} deg\n  wait 0.8 s\n  power both 40 % until robot.travel > 60 cm limit 8 s\n  wait 0.6 s\n`;
  },
  estimate(robot, rows): Estimate {
    const base =
      robot.drive.kind === "car" ? (robotInForce(robot).steering?.wheelbaseM.value ?? drawnWheelbaseM(robot)) : 0;
    const used = usable(rows, steeringColumns).map(({ row, index }) => {
      const [along, aside] = [numberOf(row, "alongM"), numberOf(row, "asideM")];
      // tan δ = wheelbase · curvature, with the arc's curvature from where it ended; small enough for δ itself.
      const slope = (base * 2 * aside) / (along * along + aside * aside);
      return { index, told: numberOf(row, "steerRad"), did: slope - (slope * slope * slope) / 3 };
    });
    const line = fitLine(used.map(({ told, did }) => [told, did]));
    if (!line || used.length < 3)
      return {
        ok: false,
        why: "Centre and circle need at least three arcs of different steering. Run it, or type rows.",
      };
    const centre: Estimated = meanOf(used.map(({ told, did }) => did - told * line.slope));
    const most = line.slope * mostSteer(robot);
    const radius = base / most;
    return {
      ok: true,
      results: [
        { id: "centre", label: "Told straight, it steers", shown: DEG, estimate: centre },
        {
          id: "circle",
          label: "Smallest circle, diameter",
          shown: M,
          estimate: { value: 2 * radius, standardError: null, low: null, high: null, count: used.length },
        },
      ],
      edits: [knownEdit("drive", "steering.centreRad", centre)],
      doubtful: doubtfulRows(
        used,
        used.map(({ told, did }) => did - told * line.slope),
        0.02,
      ),
      interval: STUDENT,
      verdict: {
        title: `Told to go straight it steers ${withError(Math.abs(centre.value), centre.standardError, DEG)} to the ${centre.value >= 0 ? "left" : "right"}`,
        text: `Its wheels take ${(line.slope * 100).toFixed(0)} % of the angle they are told; the smallest circle is ${(2 * radius * 100).toFixed(0)} cm across. R = wheelbase / tan of the angle, with a wheelbase of ${(base * 1000).toFixed(0)} mm.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const points = usable(rows, steeringColumns).map(({ row }): [number, number] => [
      numberOf(row, "alongM"),
      numberOf(row, "asideM"),
    ]);
    return points.length === 0
      ? null
      : {
          title: "Where each arc ended",
          x: { label: "along", shown: { ...MM, digits: 0 } },
          y: { label: "aside", shown: { ...MM, digits: 0 } },
          series: [{ label: "arcs", role: "measured", points, line: false }],
        };
  },
  present: (robot) => {
    const steering = robotInForce(robot).steering;
    return steering && robot.drive.kind === "car"
      ? [
          presentKnown(
            "centre",
            "Told straight, it steers",
            DEG,
            steering.centreRad.value,
            steering.centreRad.standardError,
            robot.drive.steering.centreRad,
          ),
        ]
      : [];
  },
};

/** Attachment with end stops and a motor that has an encoder. */
function armOf(robot: Robot) {
  return (
    robot.attachments.find(
      ({ kind, drivenBy }) =>
        (kind === "arm" || kind === "fork" || kind === "gripper" || kind === "lid") &&
        robot.motors.some((m) => m.name === drivenBy && m.encoder),
    ) ?? null
  );
}

const armColumns: readonly Column[] = [
  {
    id: "rangeRad",
    label: "stop to stop",
    shown: DEG,
    least: 0.02,
    most: 2 * PI,
    from: ({ notes }) => {
      const [low, high] = [notes.get("low_stop"), notes.get("high_stop")];
      return low === undefined || high === undefined ? null : Math.abs(high - low);
    },
  },
];

export const armTravel: Procedure = {
  id: "arm-travel",
  title: "Arm travel",
  purpose: "Touch both end stops gently: how far the arm goes, and how far it may safely be sent.",
  place: "Leave the arm room to move from stop to stop.",
  measure: "Nothing to measure with an encoder; else type the angle between both stops.",
  rowsWanted: 4,
  settings: [],
  unfit: (robot) =>
    armOf(robot) ? null : "This robot has no arm, fork, gripper or lid moved by a motor with an encoder.",
  columns: () => armColumns,
  program: (robot) => {
    const name = armOf(robot)?.drivenBy ?? "arm";
    return `${header(robot)}  home ${name} toward low\n  wait 0.3 s\n  note low_stop = ${name}.angle\n  move ${name} at 60 deg/s until ${name}.stalled limit 8 s\n  note high_stop = ${name}.angle\n  home ${name} toward low\n`;
  },
  estimate(robot, rows): Estimate {
    const used = usable(rows, armColumns).map(({ row, index }) => ({ index, range: numberOf(row, "rangeRad") }));
    const arm = armOf(robot);
    if (used.length === 0 || !arm) return { ok: false, why: FEW };
    const range = meanOf(used.map((run) => run.range));
    const drawn = arm.highRad - arm.lowRad;
    const safe = Math.max(0, range.value - 6 * RAD_PER_DEG);
    return {
      ok: true,
      results: [
        { id: "range", label: "From stop to stop", shown: DEG, estimate: range },
        {
          id: "safe",
          label: "Safe without touching",
          shown: DEG,
          estimate: { value: safe, standardError: null, low: null, high: null, count: used.length },
        },
      ],
      edits: [],
      doubtful: doubtfulRows(
        used,
        used.map((run) => run.range),
        2 * RAD_PER_DEG,
      ),
      interval: STUDENT,
      verdict: {
        title: `The arm travels ${withError(range.value, range.standardError, DEG)}`,
        text: `Send it to 3 deg from either stop at most: ${(safe / RAD_PER_DEG).toFixed(0)} deg in all. The drawing says ${(drawn / RAD_PER_DEG).toFixed(0)} deg${
          Math.abs(drawn - range.value) > 3 * RAD_PER_DEG ? "; change its end stops in the Robot workplace" : ""
        }.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, armColumns);
    return used.length === 0
      ? null
      : {
          title: "From stop to stop, run by run",
          x: { label: "run", shown: WHOLE },
          y: { label: "travel", shown: DEG },
          series: [
            {
              label: "runs",
              role: "measured",
              line: false,
              points: used.map(({ row, index }) => [index + 1, numberOf(row, "rangeRad")]),
            },
          ],
        };
  },
  present: () => [],
};
