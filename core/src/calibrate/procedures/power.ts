// Without encoders and below them: speed at power, timed turns, pull-away power, stopping, and what the pack does.
import { driveModel } from "../../control/driveModel.js";
import type { Robot } from "../../robot/schema.js";
import { type Trace, traceColumn } from "../../trials/trace.js";
import type { Chart, Column, Estimate, Measured, Procedure } from "../procedure.js";
import { pullAwayDuty, speedAtPower, stopping, timedTurn, timeForTurn } from "../rest.js";
import { deviation, fitLine, meanOf } from "../statistics.js";
import {
  CM_S,
  DEG,
  DEG_S,
  M,
  MM,
  MS,
  PERCENT,
  plain,
  RAD_PER_DEG,
  SEC,
  SPEED_PER_VOLT,
  VOLT,
  WHOLE,
  withError,
} from "../units.js";
import {
  doubtfulRows,
  FEW,
  hasEncoders,
  header,
  knownEdit,
  needsEncoders,
  numberOf,
  presentKnown,
  STUDENT,
  usable,
} from "./common.js";

const notCar = (robot: Robot) => (robot.drive.kind === "car" ? "A car type cannot turn on the spot." : null);

const POWERS = [0.6, 0.6, 0.9, 0.9];
const TIMES = [1.2, 2.4, 1, 2];
const of = (list: readonly number[], row: number) => list[row % list.length] as number;

const speedColumns: readonly Column[] = [
  { id: "timeSec", label: "time", shown: SEC, least: 0.05, from: (_m, row) => of(TIMES, row) },
  {
    id: "volts",
    label: "volts given",
    shown: VOLT,
    least: 0.2,
    hint: "pack voltage while driving, times the power",
    from: (m, row) => {
      const pack = m.notes.get("volts") ?? m.packVolts;
      return pack === null || pack === undefined ? null : pack * of(POWERS, row);
    },
  },
  { id: "alongM", label: "along", shown: M, least: 0.01, from: ({ tape }) => tape?.alongM ?? null },
];

function speedDrives(rows: Parameters<Procedure["estimate"]>[1]) {
  return usable(rows, speedColumns).map(({ row }) => {
    const volts = numberOf(row, "volts");
    return { volts, voltSec: volts * numberOf(row, "timeSec"), distanceM: numberOf(row, "alongM") };
  });
}

export const speedAtPowerTest: Procedure = {
  id: "speed-at-power",
  title: "Speed at power",
  purpose: "Drive for a time at two or three powers along a tape: what a robot without encoders drives lengths by.",
  place: "Put the robot at the end of a tape, its axle on zero, along the tape.",
  measure: "Read where the axle stands along the tape.",
  rowsWanted: 8,
  settings: [],
  unfit: (robot) =>
    hasEncoders(robot) ? "This robot measures its way with encoders; it does not drive by time." : null,
  columns: () => speedColumns,
  program: (robot, _settings, row) => {
    const power = plain(of(POWERS, row) * 100, 0);
    const time = of(TIMES, row);
    return `${header(robot)}  wait 0.5 s\n  together\n    power both ${power} % for ${plain(time)} s\n  also\n    wait ${plain(time * 0.8)} s\n    note volts = battery.voltage\n  wait 0.8 s\n`;
  },
  estimate(_robot, rows): Estimate {
    const drives = speedDrives(rows);
    const found = drives.length < 3 ? null : speedAtPower(drives);
    if (!found)
      return {
        ok: false,
        why: "Speed and dead time need at least three drives of different times. Run it, or type what you measured.",
      };
    const { speedPerVolt: speed, deadTimeSec: dead } = found;
    return {
      ok: true,
      results: [
        { id: "speed", label: "Speed for one volt", shown: SPEED_PER_VOLT, estimate: speed },
        { id: "dead", label: "Time before it moves", shown: MS, estimate: dead },
      ],
      edits: [
        knownEdit("drive", "speedAtPower.speedPerVolt", speed),
        knownEdit("drive", "speedAtPower.deadTimeSec", dead),
      ],
      doubtful: [],
      interval: `${STUDENT}, from the line`,
      verdict: {
        title: `${withError(speed.value, speed.standardError, SPEED_PER_VOLT)} for each volt`,
        text: `After ${withError(dead.value, dead.standardError, MS)} it drives as if at once at that speed; what it rolls on after the time is in it. The line explains ${(found.line.rSquared * 100).toFixed(1)} % of the scatter${
          found.line.rSquared < 0.98 ? ", which is little: power and floor differ from drive to drive" : ""
        }.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const drives = speedDrives(rows);
    if (drives.length === 0) return null;
    const points = drives.map(({ voltSec, volts, distanceM }): [number, number] => [
      voltSec / volts,
      distanceM / volts,
    ]);
    const line = fitLine(points);
    return {
      title: "Distance for each volt against time",
      x: { label: "time", shown: SEC },
      y: { label: "distance for one volt", shown: { unit: "mm/V", perSi: 1000, digits: 0 } },
      series: [
        { label: "drives", role: "measured", points, line: false },
        ...(line
          ? [
              {
                label: "line",
                role: "fit" as const,
                line: true,
                points: [0, Math.max(...points.map(([x]) => x))].map((x): [number, number] => [
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
    const known = robot.drive.speedAtPower;
    return known
      ? [
          presentKnown(
            "speed",
            "Speed for one volt",
            SPEED_PER_VOLT,
            known.speedPerVolt.value,
            known.speedPerVolt.standardError ?? 0,
            known.speedPerVolt,
          ),
        ]
      : [];
  },
};

/** Angles the three times are meant for; friction and slip make them less. */
const TURN_ANGLES_DEG = [25, 50, 90];
const TURN_POWER = 0.5;

/** Whole hundredths of a second for a turn, by the drawing. */
function turnTime(robot: Robot, row: number): number {
  const rate = driveModel(robot).topTurnRadS * TURN_POWER;
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
    const share = plain(TURN_POWER * 100, 0);
    return `${header(robot)}  wait 0.5 s\n  power left -${share} % right ${share} % for ${plain(turnTime(robot, row))} s\n  wait 0.8 s\n`;
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
    const none = { standardError: null, low: null, high: null, count: used.length };
    return {
      ok: true,
      results: [
        {
          id: "rate",
          label: "Turn rate",
          shown: { ...DEG_S, digits: 1 },
          estimate: { ...none, value: turn.rateRadS, standardError: used.length > 2 ? line.slopeError : null },
        },
        { id: "next", label: "Time for 90 deg", shown: SEC, estimate: { ...none, value: next } },
      ],
      edits: [],
      doubtful: [],
      interval: used.length > 2 ? "standard error of the line" : "none: two points make a line without error",
      verdict: {
        title: `Try ${next.toFixed(2)} s for 90 deg`,
        text: `At ${TURN_POWER * 100} % power it turns ${(turn.rateRadS / RAD_PER_DEG).toFixed(0)} deg/s after ${(turn.deadTimeSec * 1000).toFixed(0)} ms. ${
          turn.bent
            ? "One line does not describe these turns: short and long ones differ. Use turns near the angle you want."
            : used.length < 3
              ? "Drive that time as the third turn: it shows whether one line is enough."
              : "One line is enough for these turns."
        }`,
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
  present: () => [],
};

const RAMP_STEP = 0.01;
/** A wheel turns from here on, m/s. */
const TURNS_MS = 0.01;

function pullAway(trace: Trace | null, side: "left" | "right"): number | null {
  const duty = trace && traceColumn(trace, `${side}Duty`);
  const speed = trace && traceColumn(trace, `${side}Speed`);
  return duty && speed ? pullAwayDuty([...duty], [...speed], TURNS_MS) : null;
}

const pullColumns: readonly Column[] = (["left", "right"] as const).map((side) => ({
  id: side,
  label: side,
  shown: { ...PERCENT, digits: 0 },
  least: 0.001,
  most: 1,
  hint: "power at which the wheel begins to turn",
  from: ({ trace }: Measured) => pullAway(trace, side),
}));

export const pullAwayPower: Procedure = {
  id: "pull-away",
  title: "Pull-away power",
  purpose: "Raise the power slowly until each wheel turns: below that, power only warms the motor.",
  place: "Give it a metre of free floor ahead.",
  measure: "Nothing to measure with encoders; without, type the power at which each wheel began to turn.",
  rowsWanted: 4,
  settings: [],
  unfit: (robot) =>
    robot.drive.kind === "car" ? "A car type drives both wheels with one motor: type one value twice." : null,
  columns: () => pullColumns,
  program: (robot) =>
    hasEncoders(robot)
      ? `${header(robot)}  set share = 0 %\n  wait 0.3 s\n  every 50 ms until robot.travel > 6 cm limit 6 s\n    set share = share + ${RAMP_STEP * 100} %\n    power left share right share\n  wait 0.3 s\n`
      : null,
  estimate(robot, rows): Estimate {
    const used = usable(rows, pullColumns).map(({ row, index }) => ({
      index,
      left: numberOf(row, "left"),
      right: numberOf(row, "right"),
    }));
    if (used.length === 0) return { ok: false, why: FEW };
    const left = meanOf(used.map((run) => run.left));
    const right = meanOf(used.map((run) => run.right));
    const gap = Math.abs(left.value - right.value) * 100;
    const volts = robot.pack.nominalVolts;
    return {
      ok: true,
      results: [
        { id: "left", label: "Left pulls away at", shown: PERCENT, estimate: left },
        { id: "right", label: "Right pulls away at", shown: PERCENT, estimate: right },
      ],
      edits: [],
      doubtful: doubtfulRows(
        used,
        used.map((run) => run.left + run.right),
        0.03,
      ),
      interval: STUDENT,
      verdict: {
        title: `Below ${withError(left.value, left.standardError, { ...PERCENT, digits: 0 })} left and ${withError(right.value, right.standardError, { ...PERCENT, digits: 0 })} right the wheels do not move`,
        text: `That is ${(left.value * volts).toFixed(1)} V and ${(right.value * volts).toFixed(1)} V. ${gap > 2 ? `The sides differ by ${gap.toFixed(0)} %: at low power the robot starts to one side.` : "Both sides start alike."}`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, pullColumns);
    if (used.length === 0) return null;
    return {
      title: "Power at which each wheel began to turn",
      x: { label: "run", shown: WHOLE },
      y: { label: "power", shown: { ...PERCENT, digits: 0 } },
      series: (["left", "right"] as const).map((side) => ({
        label: side,
        role: side === "left" ? ("measured" as const) : ("after" as const),
        line: false,
        points: used.map(({ row, index }): [number, number] => [index + 1, numberOf(row, side)]),
      })),
    };
  },
  present: () => [],
};

const STOP_SPEEDS = [0.15, 0.25, 0.35];

const stopColumns: readonly Column[] = [
  { id: "speedMS", label: "speed", shown: CM_S, least: 0.01, from: ({ notes }) => notes.get("speed") ?? null },
  {
    id: "distanceM",
    label: "rolled on",
    shown: MM,
    least: 0,
    from: ({ notes }) => {
      const [from, to] = [notes.get("travel_before"), notes.get("travel_after")];
      return from === undefined || to === undefined ? null : Math.max(0, to - from);
    },
  },
];

export const stoppingTest: Procedure = {
  id: "stopping",
  title: "Stopping",
  purpose: "Brake from several speeds and measure how far it rolls on.",
  place: "Give it two metres of free floor ahead.",
  measure: "With encoders nothing; without, mark where it was told to stop, and measure from there.",
  rowsWanted: 6,
  settings: [],
  unfit: () => null,
  columns: () => stopColumns,
  program: (robot, _settings, row) =>
    needsEncoders(robot) === null && robot.drive.kind !== "car"
      ? `${header(robot)}  wait 0.3 s\n  wheels left ${plain(of(STOP_SPEEDS, row) * 100)} cm/s right ${plain(of(STOP_SPEEDS, row) * 100)} cm/s for 1.5 s then keep\n  set before = robot.travel\n  wait 0.1 s\n  note speed = (robot.travel - before) / 0.1 s\n  note travel_before = robot.travel\n  stop\n  wait 0.8 s\n  note travel_after = robot.travel\n`
      : null,
  estimate(_robot, rows): Estimate {
    const stops = usable(rows, stopColumns).map(({ row }) => ({
      speedMS: numberOf(row, "speedMS"),
      distanceM: numberOf(row, "distanceM"),
    }));
    const found = stopping(stops);
    if (!found)
      return { ok: false, why: "A line needs stops from at least two speeds, of which the faster rolled further." };
    const at = (speed: number) => found.line.intercept + found.line.slope * speed * speed;
    const none = { standardError: null, low: null, high: null, count: stops.length };
    return {
      ok: true,
      results: [
        {
          id: "deceleration",
          label: "Brakes with",
          shown: { unit: "m/s2", perSi: 1, digits: 2 },
          estimate: { ...none, value: found.decelerationMS2 },
        },
        { id: "at30", label: "Rolls on from 30 cm/s", shown: MM, estimate: { ...none, value: Math.max(0, at(0.3)) } },
      ],
      edits: [],
      doubtful: [],
      interval: "standard error of the line",
      verdict: {
        title: `From 30 cm/s it rolls on ${(Math.max(0, at(0.3)) * 1000).toFixed(0)} mm`,
        text: `Distance grows with the square of the speed, ${(found.line.rSquared * 100).toFixed(0)} % of the scatter explained. A step that ends on a sensor stops that much later than the sensor says.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, stopColumns);
    if (used.length === 0) return null;
    const points = used.map(({ row }): [number, number] => [
      numberOf(row, "speedMS") * numberOf(row, "speedMS"),
      numberOf(row, "distanceM"),
    ]);
    const line = fitLine(points);
    return {
      title: "Distance rolled on against the square of the speed",
      x: { label: "speed squared", shown: { unit: "m2/s2", perSi: 1, digits: 2 } },
      y: { label: "rolled on", shown: MM },
      series: [
        { label: "stops", role: "measured", points, line: false },
        ...(line
          ? [
              {
                label: "line",
                role: "fit" as const,
                line: true,
                points: [0, Math.max(...points.map(([x]) => x))].map((x): [number, number] => [
                  x,
                  line.intercept + line.slope * x,
                ]),
              },
            ]
          : []),
      ],
    };
  },
  present: () => [],
};

const batteryColumns: readonly Column[] = [
  { id: "volts", label: "pack", shown: VOLT, least: 0.5, from: (m) => m.notes.get("volts") ?? m.packVolts },
  { id: "alongM", label: "along", shown: M, least: 0.01, from: ({ tape }) => tape?.alongM ?? null },
  { id: "asideM", label: "aside", shown: MM, from: ({ tape }) => tape?.asideM ?? null },
  { id: "timeSec", label: "took", shown: SEC, least: 0.1, from: ({ notes }) => notes.get("took") ?? null },
];

export const batteryTest: Procedure = {
  id: "battery",
  title: "Battery",
  purpose: "Drive the same check at two charges of the pack: what a tired pack does to speed and straightness.",
  place: "Put the robot at the end of a tape. Drive some runs with a full pack, then some with a tired one.",
  measure: "Read where it ends along the tape and to its side.",
  rowsWanted: 6,
  settings: [],
  unfit: () => null,
  columns: () => batteryColumns,
  program: (robot) =>
    `${header(robot)}  wait 0.5 s\n  set began = clock\n  power both 70 % for 2 s\n  note volts = battery.voltage\n  note took = clock - began\n  wait 0.8 s\n`,
  estimate(_robot, rows): Estimate {
    const used = usable(rows, batteryColumns);
    const volts = used.map(({ row }) => numberOf(row, "volts"));
    if (used.length < 3 || deviation(volts) < 0.05)
      return { ok: false, why: "This needs runs at two charges at least: change the pack, and run it again." };
    const speed = fitLine(
      used.map(({ row }) => [numberOf(row, "volts"), numberOf(row, "alongM") / numberOf(row, "timeSec")]),
    );
    const aside = fitLine(used.map(({ row }) => [numberOf(row, "volts"), numberOf(row, "asideM")]));
    if (!speed || !aside) return { ok: false, why: FEW };
    const estimate = (value: number, error: number) => ({
      value,
      standardError: error,
      low: null,
      high: null,
      count: used.length,
    });
    return {
      ok: true,
      results: [
        {
          id: "speed",
          label: "Speed for one volt more",
          shown: { unit: "cm/s/V", perSi: 100, digits: 1 },
          estimate: estimate(speed.slope, speed.slopeError),
        },
        {
          id: "aside",
          label: "Aside for one volt more",
          shown: { unit: "mm/V", perSi: 1000, digits: 1 },
          estimate: estimate(aside.slope, aside.slopeError),
        },
      ],
      edits: [],
      doubtful: [],
      interval: "standard error of the line",
      verdict: {
        title: `One volt less makes it ${Math.abs(speed.slope * 100).toFixed(1)} cm/s slower at 70 % power`,
        text: `Its end moves ${Math.abs(aside.slope * 1000).toFixed(0)} mm to the ${aside.slope < 0 ? "left" : "right"} for each volt less. Steps that measure their way keep their length; steps by time and power do not.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, batteryColumns);
    if (used.length === 0) return null;
    return {
      title: "Speed against the pack's voltage",
      x: { label: "pack", shown: VOLT },
      y: { label: "speed", shown: CM_S },
      series: [
        {
          label: "runs",
          role: "measured",
          line: false,
          points: used.map(({ row }) => [numberOf(row, "volts"), numberOf(row, "alongM") / numberOf(row, "timeSec")]),
        },
      ],
    };
  },
  present: () => [],
};
