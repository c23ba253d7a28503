// Generic parts to build from: typical catalogue values, with the range such parts come in. No brands.

import { type Motor, motorSchema, type Wheel, wheelSchema } from "../drives/parts.js";
import { PI, TAU } from "../math/trig.js";
import { SENSOR_KINDS, sensorSchema } from "../sensors/kinds/all.js";
import { drawnKnown } from "../units/known.js";
import { type Attachment, attachmentSchema, type Robot, robotSchema, type Servo, servoSchema } from "./schema.js";

export type CatalogueList = "wheels" | "motors" | "servos" | "attachments" | "sensors" | "support";

interface CatalogueEntry {
  readonly id: string;
  readonly title: string;
  readonly about: string;
  readonly list: CatalogueList;
  /** First name offered; a number follows when it is taken. */
  readonly name: string;
  make(name: string): unknown;
}

const RPM = TAU / 60;

function wheel(name: string, diameterM: number, widthM: number, grip: number, massKg: number): Wheel {
  return wheelSchema.parse({
    name,
    side: name.startsWith("right") ? "right" : "left",
    xM: 0,
    yM: name.startsWith("right") ? -0.069 : 0.069,
    diameterM,
    widthM,
    rollPerTurnM: drawnKnown(PI * diameterM),
    grip: drawnKnown(grip),
    rollingResistance: 0.012,
    inertiaKgM2: 0.5 * massKg * (diameterM / 2) ** 2,
  });
}

/** With rollers as they lie at the front of its side. */
function rollerWheel(plain: Wheel): Wheel {
  const axleRad = plain.side === "left" ? -PI / 4 : PI / 4;
  return { ...plain, rollers: { axleRad, friction: 0.02 } };
}

function motor(
  name: string,
  sheet: { volts: number; rpm: number; freeA: number; stallNm: number; stallA: number; ratio: number; counts: number },
): Motor {
  return motorSchema.parse({
    name,
    nominalVolts: sheet.volts,
    freeSpeedRadS: sheet.rpm * RPM,
    freeCurrentA: sheet.freeA,
    stallTorqueNm: sheet.stallNm,
    stallCurrentA: sheet.stallA,
    coulombTorqueNm: sheet.stallNm * 0.045,
    viscousNmS: 1e-7,
    rotorInertiaKgM2: 1e-7,
    gearboxRatio: sheet.ratio,
    gearboxEfficiency: 0.8,
    encoder: sheet.counts > 0 ? { countsPerTurn: sheet.counts } : null,
    strength: drawnKnown(1),
  });
}

function servo(name: string, kind: "positional" | "continuous", degS: number, stallNm: number, stallA: number): Servo {
  return servoSchema.parse({
    name,
    kind,
    speedRadS: (degS * PI) / 180,
    lowRad: -PI / 2,
    highRad: PI / 2,
    stallTorqueNm: stallNm,
    stallCurrentA: stallA,
  });
}

function attachment(name: string, kind: Attachment["kind"], part: Partial<Attachment>): Attachment {
  return attachmentSchema.parse({ name, kind, drivenBy: "arm_motor", xM: 0.07, yM: 0, lengthM: 0.08, ...part });
}

function entry(
  list: CatalogueList,
  id: string,
  name: string,
  title: string,
  about: string,
  make: (name: string) => unknown,
): CatalogueEntry {
  return { list, id, name, title, about, make };
}

export const CATALOGUE: readonly CatalogueEntry[] = [
  entry(
    "wheels",
    "wheel-62",
    "left_wheel",
    "Rubber wheel, 62 mm",
    "24 mm wide, 30 g; such wheels have 55 to 70 mm",
    (name) => wheel(name, 0.062, 0.024, 0.85, 0.03),
  ),
  entry(
    "wheels",
    "wheel-43",
    "left_wheel",
    "Small wheel, 43 mm",
    "20 mm wide, 16 g; for low, quick robots; such wheels have 32 to 50 mm",
    (name) => wheel(name, 0.043, 0.02, 0.8, 0.016),
  ),
  entry(
    "wheels",
    "wheel-85",
    "left_wheel",
    "Tall wheel, 85 mm",
    "28 mm wide, 55 g; rolls over cables; such wheels have 75 to 100 mm",
    (name) => wheel(name, 0.085, 0.028, 0.9, 0.055),
  ),
  entry(
    "wheels",
    "wheel-rollers",
    "left_wheel",
    "Roller wheel, 60 mm",
    "30 mm wide, 60 g, rollers round its rim at 45 deg; lets a robot slide; such wheels have 48 to 100 mm",
    (name) => rollerWheel(wheel(name, 0.06, 0.03, 0.7, 0.06)),
  ),
  entry(
    "motors",
    "motor-encoder",
    "left_motor",
    "Geared motor with encoder",
    "7.4 V, 200 rpm at the wheel, 0.9 A held; 30 : 1; such motors turn 100 to 500 rpm and draw 0.6 to 1.6 A held",
    (name) => motor(name, { volts: 7.4, rpm: 6000, freeA: 0.05, stallNm: 0.0085, stallA: 0.9, ratio: 30, counts: 720 }),
  ),
  entry(
    "motors",
    "motor-plain",
    "left_motor",
    "Plain geared motor",
    "6 V, 180 rpm at the wheel, 0.8 A held; 48 : 1, no encoder; such motors turn 90 to 250 rpm, one from the other by 10 %",
    (name) => motor(name, { volts: 6, rpm: 8600, freeA: 0.12, stallNm: 0.0032, stallA: 0.8, ratio: 48, counts: 0 }),
  ),
  entry(
    "motors",
    "motor-strong",
    "arm_motor",
    "Slow, strong motor with encoder",
    "7.4 V, 50 rpm, 0.9 A held; 120 : 1, for arms; such motors turn 20 to 80 rpm",
    (name) =>
      motor(name, { volts: 7.4, rpm: 6000, freeA: 0.05, stallNm: 0.0085, stallA: 0.9, ratio: 120, counts: 2880 }),
  ),
  entry(
    "servos",
    "servo-small",
    "head",
    "Small servo",
    "180 deg, 600 deg/s, 0.7 A held; for heads and light grippers; 400 to 700 deg/s, 0.1 to 0.25 N m",
    (name) => servo(name, "positional", 600, 0.18, 0.7),
  ),
  entry(
    "servos",
    "servo-standard",
    "lift",
    "Standard servo",
    "180 deg, 350 deg/s, 1.2 A held; for arms and steering; 250 to 450 deg/s, 0.3 to 1 N m",
    (name) => servo(name, "positional", 350, 0.6, 1.2),
  ),
  entry(
    "servos",
    "servo-turning",
    "spin",
    "Continuous servo",
    "turns on and on, 360 deg/s, 0.8 A held; 250 to 500 deg/s",
    (name) => servo(name, "continuous", 360, 0.25, 0.8),
  ),
  entry("support", "ball", "support", "Ball", "slides in every direction; friction 0.05 to 0.12", () => ({
    kind: "ball",
    xM: -0.06,
    yM: 0,
    friction: 0.08,
    trailM: 0.012,
  })),
  entry("support", "skid", "support", "Skid", "a smooth foot; friction 0.15 to 0.3", () => ({
    kind: "skid",
    xM: -0.06,
    yM: 0,
    friction: 0.2,
    trailM: 0.012,
  })),
  entry(
    "support",
    "caster",
    "support",
    "Free caster",
    "swings round when the robot backs; rolls with 0.01 to 0.04",
    () => ({
      kind: "caster",
      xM: -0.06,
      yM: 0,
      friction: 0.02,
      trailM: 0.012,
    }),
  ),
  entry("attachments", "arm", "lever", "Arm", "lifts and presses, between two end stops 60 to 180 deg apart", (name) =>
    attachment(name, "arm", { highRad: PI / 2, xM: 0.06, zM: 0.05 }),
  ),
  entry("attachments", "fork", "fork", "Fork", "goes under a load and carries it; 60 to 120 mm long", (name) =>
    attachment(name, "fork", { highRad: 0.9, xM: 0.08, zM: 0.01, widthM: 0.07, lengthM: 0.09 }),
  ),
  entry("attachments", "gripper", "gripper", "Gripper", "closes on a load and holds it; opens 40 to 110 mm", (name) =>
    attachment(name, "gripper", { highRad: 1, xM: 0.08, zM: 0.02, widthM: 0.09, lengthM: 0.07 }),
  ),
  entry(
    "attachments",
    "spinner",
    "spinner",
    "Spinning wheel",
    "pulls light things in or throws them out, with 0.5 to 3 N",
    (name) => attachment(name, "spinner", { xM: 0.08, widthM: 0.05, lengthM: 0.04, gripN: 1 }),
  ),
  entry(
    "attachments",
    "belt",
    "belt",
    "Sorting belt",
    "turns either way and drops things left or right; 60 to 200 mm long",
    (name) => attachment(name, "belt", { xM: -0.02, widthM: 0.06, lengthM: 0.1, zM: 0.1 }),
  ),
  entry("attachments", "lid", "lid", "Lid", "opens and shuts a hopper, by 45 to 120 deg", (name) =>
    attachment(name, "lid", { xM: -0.06, zM: 0.1, lengthM: 0.05 }),
  ),
  ...SENSOR_KINDS.flatMap(([kind, { offers }]) =>
    offers.map(({ id, name, title, about, body }) =>
      entry("sensors", id, name, title, about, (given) =>
        sensorSchema.parse({ kind, name: given, xM: 0.07, yM: 0, ...body }),
      ),
    ),
  ),
];

/** A name for a new part that is not taken: "sonar", "sonar_2", … ; a second wheel or motor becomes the right one. */
export function freeName(robot: Robot, wanted: string): string {
  const taken = new Set(
    [...robot.wheels, ...robot.motors, ...robot.servos, ...robot.attachments, ...robot.sensors].map(
      (part) => part.name,
    ),
  );
  if (!taken.has(wanted)) return wanted;
  const right = wanted.replace(/^left_/, "right_");
  if (right !== wanted && !taken.has(right)) return right;
  for (let n = 2; ; n += 1) if (!taken.has(`${wanted}_${n}`)) return `${wanted}_${n}`;
}

/** The robot with a part from the catalogue added, and what the part is called. */
export function addPart(robot: Robot, entryId: string): { robot: Robot; ref: string } {
  const found = CATALOGUE.find((candidate) => candidate.id === entryId);
  if (!found) throw new RangeError(`no catalogue part "${entryId}"`);
  if (found.list === "support")
    return { robot: { ...robot, support: found.make("support") as Robot["support"] }, ref: "support" };
  const name = freeName(robot, found.name);
  const part = found.make(name) as { name: string };
  const changed = { ...robot, [found.list]: [...robot[found.list], part] } as Robot;
  return { robot: joined(changed, name), ref: name };
}

/** What belongs together finds each other: a wheel its side's motor, an attachment a motor that drives nothing. */
function joined(robot: Robot, name: string): Robot {
  const busy = new Set(
    [...robot.wheels, ...robot.attachments].map((part) => (part.name === name ? null : part.drivenBy)),
  );
  const idle = [...robot.motors, ...robot.servos].find((mover) => !busy.has(mover.name));
  const wheels = robot.wheels.map((wheel) => {
    if (wheel.drivenBy !== null) return wheel;
    const motor = robot.motors.find((candidate) => candidate.name === `${wheel.side}_motor`);
    return motor && (wheel.name === name || motor.name === name) && !busy.has(motor.name)
      ? { ...wheel, drivenBy: motor.name }
      : wheel;
  });
  const attachments = robot.attachments.map((part) =>
    part.name === name && idle ? { ...part, drivenBy: idle.name } : part,
  );
  // A head without an eye takes the first fixed one.
  const heads = new Set(robot.sensors.map((s) => (s.kind === "eye" ? s.head : null)));
  const head = robot.servos.find(
    (candidate) => candidate.name === name && candidate.name.startsWith("head") && !heads.has(name),
  );
  const sensors = robot.sensors.map((s) =>
    s.kind === "eye" && s.head === null && head ? { ...s, head: head.name } : s,
  );
  return { ...robot, wheels, attachments, sensors };
}

/** Takes a part away, and every wire, drive and head that named it. */
export function removePart(robot: Robot, ref: string): Robot {
  if (ref === "support") return { ...robot, support: null };
  const others = <T extends { name: string }>(list: readonly T[]) => list.filter((part) => part.name !== ref);
  return {
    ...robot,
    wheels: others(robot.wheels).map((wheel) => (wheel.drivenBy === ref ? { ...wheel, drivenBy: null } : wheel)),
    motors: others(robot.motors),
    servos: others(robot.servos),
    attachments: others(robot.attachments).filter((part) => part.drivenBy !== ref),
    sensors: others(robot.sensors).map((sensor) =>
      sensor.kind === "eye" && sensor.head === ref ? { ...sensor, head: null } : sensor,
    ),
    wiring: robot.wiring.filter((wire) => wire.part !== ref),
  };
}

/** An empty robot: a chassis, a board and a pack, nothing that turns. */
export function emptyRobot(name: string): Robot {
  return robotSchema.parse({
    format: "giddy-pebble/robot",
    version: 3,
    name,
    chassis: {
      outlineM: [
        [0.085, 0.055],
        [-0.08, 0.055],
        [-0.08, -0.055],
        [0.085, -0.055],
      ],
      heightM: 0.09,
      massKg: 0.7,
      centreOfMassM: [-0.014, 0, 0.045],
    },
    drive: { kind: "two-wheel", trackWidthM: drawnKnown(0.138) },
    board: {},
    pack: { cells: 2, nominalVolts: 7.4, capacityAh: 2, internalResistanceOhm: 0.18 },
    placement: { positionM: drawnKnown(0), headingRad: drawnKnown(0) },
  });
}

/** The robot with another board: its driver and limits come from the profile, wires are taken off. */
export function withBoard(
  robot: Robot,
  profile: {
    id: string;
    driver: { dropVolts: number; kind: "pwm" | "on-off" };
    currentA: number;
    brownOutVolts: number;
  },
): Robot {
  return {
    ...robot,
    board: {
      ...robot.board,
      profile: profile.id,
      driverDropVolts: profile.driver.dropVolts,
      driver: profile.driver.kind,
      currentA: profile.currentA,
      brownOutVolts: profile.brownOutVolts,
    },
    wiring: [],
  };
}
