// What a robot's description means: speeds, pushes, distances and times, each with its formula and the numbers
// in it. Steady states and closed forms; the physics engine is tested against the same ones.

import { type DriveModel, driveModel, type SideModel } from "../control/driveModel.js";
import { driveKind } from "../drives/kinds.js";
import { exp, log } from "../math/exponential.js";
import { PI, tan } from "../math/trig.js";
import { cellCurve, openCircuitVolts } from "../physics/battery.js";
import { GRAVITY } from "../physics/constants.js";
import { WheelLoads } from "../physics/wheelLoads.js";
import { insideHullBy } from "../robot/check.js";
import { driveWeightN } from "../robot/found.js";
import { type RobotInForce, robotInForce } from "../robot/inForce.js";
import { type ShownUnit, shownQuantity } from "../robot/quantities.js";
import type { Robot } from "../robot/schema.js";
import { shownIn } from "../units/shown.js";
import { type Straight, straightOf } from "./straight.js";

interface FigureTerm {
  readonly symbol: string;
  readonly label: string;
  readonly shown: string;
}

export interface Figure {
  readonly id: string;
  readonly label: string;
  /** SI. */
  readonly value: number;
  readonly unit: string;
  /** As people read it: "61 cm/s". */
  readonly shown: string;
  readonly formula: string;
  readonly terms: readonly FigureTerm[];
  /** Amber: worth a thought. */
  readonly caution: string | null;
}

/** Share of full power that counts as a gentle start. */
const GENTLE = 0.2;
/** Below this margin a start is uneven: friction of two motors differs by tens of per cent. */
export const EVEN_START = 1.5;
/** A pack this far down is tired. */
const TIRED_CHARGE = 0.1;

const CM_S = shownIn("cm/s", 0);
const CM = shownIn("cm", 1);
const MM = shownIn("mm", 1);
const SEC = shownIn("s", 2);
const NEWTON = shownIn("N", 1);
const VOLT = shownIn("V", 2);
const TURNS = shownIn("turns", 2);
const TIMES = shownIn("", 1);
const MINUTES = shownIn("min", 0);
const PER_VOLT = shownIn("N/V", 3);
const VOLT_SPEED = shownIn("V s/m", 2);
const AMP = shownIn("A", 2);
const ACCEL = shownIn("m/s/s", 2);
const DEG = shownIn("deg", 1);
const PLAIN = shownIn("", 2);
const PERCENT = shownIn("%", 0);
const AH = shownIn("Ah", 2);

function term(symbol: string, label: string, value: number, unit: ShownUnit): FigureTerm {
  return { symbol, label, shown: shownQuantity(value, unit) };
}

function figure(
  id: string,
  label: string,
  value: number,
  unit: ShownUnit,
  formula: string,
  terms: FigureTerm[],
  more: { shown?: string; caution?: string | null } = {},
): Figure {
  return {
    id,
    label,
    value,
    unit: unit.unit,
    shown: more.shown ?? shownQuantity(value, unit),
    formula,
    terms,
    caution: more.caution ?? null,
  };
}

interface Basis {
  readonly robot: Robot;
  readonly known: RobotInForce;
  readonly model: DriveModel;
  /** The weaker side, told by the robot's way. */
  readonly side: SideModel;
  readonly straight: Straight;
  readonly fullVolts: number;
  readonly tiredVolts: number;
  readonly driveN: number;
}

function basisOf(robot: Robot): Basis {
  const known = robotInForce(robot);
  const model = driveModel(robot, known);
  const spec = {
    cells: robot.pack.cells,
    internalResistanceOhm: 0,
    capacityAh: robot.pack.capacityAh,
    curve: cellCurve(robot.pack.chemistry),
  };
  const drop = robot.board.driverDropVolts;
  const straight = straightOf(robot, known, model);
  return {
    robot,
    known,
    model,
    side: straight.ahead(model.left.voltsPerNewton > model.right.voltsPerNewton ? model.left : model.right),
    straight,
    fullVolts: Math.max(0.5, openCircuitVolts(spec, 1) - drop),
    tiredVolts: Math.max(0.5, openCircuitVolts(spec, TIRED_CHARGE) - drop),
    driveN: driveWeightN(robot, known.left.wheel.xM),
  };
}

function topSpeed({ model, side }: Basis): Figure {
  const v = model.topSpeedMS;
  return figure("top-speed", "Top speed", v, CM_S, "v = (V − F / s) ÷ e", [
    term("V", "pack, less the driver's drop", model.nominalVolts, VOLT),
    term("F", "friction of one side", side.frictionN, NEWTON),
    term("s", "push for one volt", 1 / side.voltsPerNewton, PER_VOLT),
    term("e", "back voltage at the wheel", side.voltsPerSpeed, VOLT_SPEED),
  ]);
}

function travel({ known }: Basis): Figure {
  const { wheel, rollPerTurnM } = known.left;
  const measured = wheel.rollPerTurnM.source !== "drawing";
  return figure(
    "travel-per-turn",
    "Travel per wheel turn",
    rollPerTurnM.value,
    MM,
    measured ? "as measured" : "c = π · D",
    measured ? [] : [term("D", "wheel diameter", wheel.diameterM, MM)],
  );
}

function turnsEach({ known, robot }: Basis): Figure[] {
  if (!driveKind(robot.drive).turnsOnSpot) return [];
  const b = known.trackWidthM.value;
  const c = known.left.rollPerTurnM.value;
  const terms = [term("b", "track width it turns with", b, MM), term("c", "travel per turn", c, MM)];
  const whole = (PI * b) / c;
  return [
    figure("wheel-turns", "Wheel turns per robot turn", whole, TURNS, "n = π · b ÷ c", terms, {
      shown: `${shownQuantity(whole, TURNS)} each`,
    }),
    figure("quarter-turn", "90 deg on the spot", whole / 4, TURNS, "n = π · b ÷ (4 · c)", terms, {
      shown: `${shownQuantity(whole / 4, TURNS)} each`,
    }),
  ];
}

/** Time constant of speeding up at full duty: M/D, s. */
function timeConstant({ straight, side }: Basis): number {
  return (straight.massKg * side.voltsPerNewton) / side.voltsPerSpeed;
}

function toSpeed(basis: Basis): Figure {
  const { model } = basis;
  const tau = timeConstant(basis);
  const t = tau * log(10);
  const x = model.topSpeedMS * (t - 0.9 * tau);
  const first = model.topSpeedMS / tau;
  const most = basis.straight.holdsN / basis.robot.chassis.massKg;
  return figure(
    "to-speed",
    "To 90 % of speed",
    t,
    SEC,
    "t = τ · ln 10,  x = v · (t − 0.9 τ)",
    [
      term("τ", "mass over damping", tau, SEC),
      term("v", "top speed", model.topSpeedMS, CM_S),
      term("a", "at first, v ÷ τ", first, ACCEL),
    ],
    {
      shown: `${shownQuantity(t, SEC)} · ${shownQuantity(x, CM)}`,
      caution:
        first > most
          ? `At full power the wheels spin first: they hold ${shownQuantity(most, ACCEL)}, the motors want ${shownQuantity(first, ACCEL)}.`
          : null,
    },
  );
}

function push(basis: Basis): Figure[] {
  const { known, driveN, side, model, straight } = basis;
  const mu = known.left.grip.value;
  const slip = straight.holdsN;
  const { motors } = straight;
  const motorN = motors * Math.max(0, model.nominalVolts / side.voltsPerNewton - side.frictionN);
  return [
    figure(
      "push-before-slip",
      "Push before the wheels slip",
      slip,
      NEWTON,
      known.mixing ? "P = μ · N · h" : "P = μ · N",
      [
        term("μ", "grip", mu, PLAIN),
        term("N", "weight on driven wheels", driveN, NEWTON),
        ...(known.mixing ? [term("h", "part that rollers hold with along the way", slip / (mu * driveN), PLAIN)] : []),
      ],
      {
        caution: motorN < slip ? `The motors stall at ${shownQuantity(motorN, NEWTON)}, before the wheels slip.` : null,
      },
    ),
    figure("stall-push", "Push the motors can give", motorN, NEWTON, `P = ${motors} · (s · V − F)`, [
      term("s", "push for one volt", 1 / side.voltsPerNewton, PER_VOLT),
      term("V", "pack, less the driver's drop", model.nominalVolts, VOLT),
      term("F", "friction of one side", side.frictionN, NEWTON),
    ]),
  ];
}

/** How many times the friction a gentle start overcomes, at a voltage. */
export function pullAwayMargin(side: SideModel, volts: number): number {
  return (GENTLE * volts) / side.voltsPerNewton / side.frictionN;
}

function pullAway({ side, fullVolts, tiredVolts }: Basis): Figure[] {
  const one = (id: string, label: string, volts: number) => {
    const margin = pullAwayMargin(side, volts);
    return figure(
      id,
      label,
      margin,
      TIMES,
      "m = 20 % · V · s ÷ F",
      [
        term("V", "volts at the motors", volts, VOLT),
        term("s", "push for one volt", 1 / side.voltsPerNewton, PER_VOLT),
        term("F", "friction of one side", side.frictionN, NEWTON),
      ],
      {
        shown: `×${margin.toFixed(1)}`,
        caution:
          margin < EVEN_START
            ? `Little is left to pull away with at ${shownQuantity(volts, VOLT)}: it starts unevenly and pulls to one side.`
            : null,
      },
    );
  };
  return [
    one("pull-away-full", "Breakaway margin, full pack", fullVolts),
    one("pull-away-tired", "Breakaway margin, tired pack", tiredVolts),
  ];
}

function turningCircle({ robot, known, model }: Basis): Figure {
  const { steering } = model;
  const corners = robot.chassis.outlineM;
  if (steering) {
    const r = steering.leastRadiusM;
    const outer = corners.reduce(
      (most, [x, y]) => Math.max(most, Math.sqrt((x - known.left.wheel.xM) ** 2 + (r + Math.abs(y)) ** 2)),
      0,
    );
    return figure("turning-circle", "Turning circle", 2 * outer, CM, "d = 2 · √(x² + (L ÷ tan δ + y)²)", [
      term("L", "wheelbase", steering.wheelbaseM, MM),
      term("δ", "most steering", steering.mostRad, DEG),
      term("r", "radius of its middle, L ÷ tan δ", steering.wheelbaseM / Math.max(1e-6, tan(steering.mostRad)), CM),
    ]);
  }
  const middle = driveKind(robot.drive).turnsAboutM(robot, known.left.wheel);
  const wheelCorners = robot.wheels.map((w) => Math.sqrt((w.xM - middle) ** 2 + (Math.abs(w.yM) + w.widthM / 2) ** 2));
  const reach = corners.reduce(
    (most, [x, y]) => Math.max(most, Math.sqrt((x - middle) ** 2 + y * y)),
    Math.max(...wheelCorners),
  );
  return figure("turning-circle", "Turning circle", 2 * reach, CM, "d = 2 · farthest corner from the axle's middle", [
    term("r", "farthest corner", reach, MM),
  ]);
}

function stopping(basis: Basis): Figure {
  const { model, straight, robot } = basis;
  const tau = timeConstant(basis);
  const v = model.cruiseMS;
  const byMotor = v * tau;
  const a = straight.holdsN / robot.chassis.massKg;
  const byGrip = (v * v) / (2 * a);
  return figure(
    "stopping-distance",
    "Stops from cruise in",
    Math.max(byMotor, byGrip),
    CM,
    byMotor >= byGrip ? "d = v · τ" : "d = v² ÷ (2 · a)",
    [
      term("v", "cruise, 55 % of top speed", v, CM_S),
      term("τ", "braking motors", tau, SEC),
      term("a", "what the grip holds", a, ACCEL),
    ],
  );
}

function runTime({ robot, model, side, straight: { motors } }: Basis): Figure {
  const duty = (side.voltsPerSpeed * model.cruiseMS + side.voltsPerNewton * side.frictionN) / model.nominalVolts;
  const motor = robot.motors.find((candidate) => candidate.name === robotInForce(robot).left.motor.name);
  const ohm = motor ? motor.nominalVolts / motor.stallCurrentA : 1;
  const each = (side.voltsPerNewton * side.frictionN) / ohm;
  const total = motors * duty * each + robot.board.currentA;
  const sec = (robot.pack.capacityAh * 3600) / total;
  return figure("run-time", "Pack lasts, driving on", sec, MINUTES, "t = C ÷ (n · d · I + B)", [
    term("C", "capacity", robot.pack.capacityAh, AH),
    term("n", "motors", motors, PLAIN),
    term("d", "duty at cruise", duty, PERCENT),
    term("I", "current of a motor", each, AMP),
    term("B", "board", robot.board.currentA, AMP),
  ]);
}

function supportPoints(robot: Robot): [number, number][] {
  const points = robot.wheels.map((wheel): [number, number] => [wheel.xM, wheel.yM]);
  if (robot.support) points.push([robot.support.xM, robot.support.yM]);
  return points;
}

function tipping({ robot }: Basis): Figure {
  const [x, y, z] = robot.chassis.centreOfMassM;
  const edge = insideHullBy(supportPoints(robot), [x, y]);
  const a = (GRAVITY * edge) / z;
  return figure(
    "tips-at",
    "Tips at",
    a,
    ACCEL,
    "a = g · e ÷ h",
    [term("e", "centre of mass to the edge of the wheels", edge, MM), term("h", "its height", z, MM)],
    { caution: a < 3 ? "A sharp stop can tip it. Put the pack lower, or the wheels wider apart." : null },
  );
}

function pivotDuty({ robot, model, side }: Basis): Figure[] {
  if (!driveKind(robot.drive).scrubs) return [];
  const duty = ((model.scrubN + side.frictionN) * side.voltsPerNewton) / model.nominalVolts;
  return [
    figure(
      "pivot-duty",
      "Turns on the spot from",
      duty,
      PERCENT,
      "d = (S + F) ÷ (s · V)",
      [
        term("S", "sideways scrub of one side", model.scrubN, NEWTON),
        term("F", "friction of one side", side.frictionN, NEWTON),
        term("s", "push for one volt", 1 / side.voltsPerNewton, PER_VOLT),
        term("V", "pack, less the driver's drop", model.nominalVolts, VOLT),
      ],
      { caution: duty > 0.9 ? "It can hardly turn: use more gearing, less grip or a shorter wheelbase." : null },
    ),
  ];
}

/** All figures of a robot that readRobot accepts. */
export function robotFigures(robot: Robot): Figure[] {
  const basis = basisOf(robot);
  return [
    topSpeed(basis),
    travel(basis),
    ...turnsEach(basis),
    toSpeed(basis),
    ...push(basis),
    ...pullAway(basis),
    ...pivotDuty(basis),
    turningCircle(basis),
    stopping(basis),
    runTime(basis),
    tipping(basis),
  ];
}

export interface SupportLoad {
  /** Wheel's name, or "support". */
  readonly part: string;
  readonly xM: number;
  readonly yM: number;
  readonly loadN: number;
}

/** What each wheel and the support carries at rest, N; empty when nothing keeps it upright. */
export function supportLoads(robot: Robot): SupportLoad[] {
  const [comX, comY, comZ] = robot.chassis.centreOfMassM;
  const parts = [
    ...robot.wheels.map(({ name, xM, yM }) => ({ part: name, xM, yM })),
    ...(robot.support ? [{ part: "support", xM: robot.support.xM, yM: robot.support.yM }] : []),
  ];
  try {
    const { loadsN } = new WheelLoads(
      parts.map(({ xM, yM }) => [xM - comX, yM - comY]),
      robot.chassis.massKg,
      comZ,
    );
    return parts.map((part, i) => ({ ...part, loadN: loadsN[i] as number }));
  } catch {
    return [];
  }
}

/** Speed after some time at full duty from rest, no slip: v (1 − e^(−t/τ)), m/s. */
export function speedAfter(robot: Robot, sec: number): number {
  const basis = basisOf(robot);
  return basis.model.topSpeedMS * (1 - exp(-sec / timeConstant(basis)));
}
