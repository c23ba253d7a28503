// The robot document: parts with places, sizes and masses, in SI units and the robot frame.
//
// Robot frame: origin midway between the driven wheels on the floor, x forward, y left, z up. The schema takes
// any finite number: what a person typed stays readable, and check.ts says what is wrong with it and where.
import { z } from "zod";
import { COLOUR_NAMES } from "../field/colours.js";
import { PI } from "../math/trig.js";
import { RANGES } from "../units/ranges.js";
import { knownSchema } from "./known.js";

/** Any number that is one; check.ts holds it to the range of what it says. */
const finite = z
  .number({ error: "must be a number" })
  .min(RANGES.any.least, { error: "is a number too large to mean anything" })
  .max(RANGES.any.most, { error: "is a number too large to mean anything" });
const name = z
  .string()
  .min(1)
  .max(40)
  .regex(/^[a-z][a-z0-9_]*$/, {
    error: "must start with a small letter and hold only small letters, digits and _",
  });
const point = z.tuple([finite, finite]);
/** A known that no drawing gives: null until somebody measured it. */
const found = knownSchema.nullable().default(null);

export const motorSchema = z.object({
  name,
  /** The board turns it the other way round: what its mounting and its gears make necessary, or do not. */
  reversed: z.boolean().default(false),
  /** Where its shaft points: away from the robot's middle, or to it. Positive duty turns it left round, seen from its end. */
  shaft: z.enum(["outward", "inward"]).default("outward"),
  nominalVolts: finite,
  freeSpeedRadS: finite,
  freeCurrentA: finite,
  stallTorqueNm: finite,
  stallCurrentA: finite,
  coulombTorqueNm: finite.default(0),
  viscousNmS: finite.default(0),
  rotorInertiaKgM2: finite,
  /** Turns of the motor for one turn of its output shaft. */
  gearboxRatio: finite.default(1),
  gearboxEfficiency: finite.default(1),
  /** Counts for one turn of the output shaft; null when there is no encoder. */
  encoder: z.object({ countsPerTurn: finite }).nullable().default(null),
  /** Its strength as a share of the data sheet's. */
  strength: knownSchema,
  /** Volts at which its wheel begins to turn, everything that drags included. */
  pullAwayVolts: found,
  /** Winding: kelvin for each watt, joule for each kelvin, and where its protection opens and closes, deg C. */
  thermal: z
    .object({
      resistanceKPerW: finite.default(14),
      capacityJPerK: finite.default(18),
      cutOutC: finite.default(110),
      recoverC: finite.default(85),
    })
    .prefault({}),
});

const stageSchema = z.object({
  /** Gears flip the direction; belts and chains keep it. */
  kind: z.enum(["gears", "belt", "chain"]).default("gears"),
  /** Teeth, or pulley diameters in any one measure. */
  driverTeeth: finite,
  drivenTeeth: finite,
  efficiency: finite.default(0.95),
  /** Free play of the driven shaft. */
  backlashRad: finite.default(0),
  /** Torque on the driven shaft at which a belt slips; null never. */
  slipTorqueNm: finite.nullable().default(null),
});

export const wheelSchema = z.object({
  name,
  side: z.enum(["left", "right"]),
  xM: finite,
  yM: finite,
  diameterM: finite,
  widthM: finite,
  /** Travel of the robot for one turn of the wheel. */
  rollPerTurnM: knownSchema,
  /** Friction coefficient on a surface of grip 1. */
  grip: knownSchema,
  rollingResistance: finite.default(0.01),
  inertiaKgM2: finite,
  /** A motor, or another wheel it is tied to; null rolls freely. */
  drivenBy: name.nullable().default(null),
  steered: z.boolean().default(false),
  /** From what drives it to the wheel. */
  stages: z.array(stageSchema).max(12).default([]),
});

export const servoSchema = z.object({
  name,
  kind: z.enum(["positional", "continuous"]).default("positional"),
  nominalVolts: finite.default(5),
  /** Without load, at its nominal voltage. */
  speedRadS: finite,
  /** Lag of its inner loop. */
  settleSec: finite.default(0.04),
  lowRad: finite.default(0),
  highRad: finite.default(PI),
  stallTorqueNm: finite,
  stallCurrentA: finite.default(0.7),
});

export const attachmentSchema = z.object({
  name,
  /** An arm lifts, a fork carries, a gripper holds, a spinner and a belt turn, a lid opens. */
  kind: z.enum(["arm", "fork", "gripper", "spinner", "belt", "lid"]),
  /** The motor or servo that moves it. */
  drivenBy: name,
  /** Where it is hinged. */
  xM: finite,
  yM: finite,
  zM: finite.default(0.03),
  aimRad: finite.default(0),
  lengthM: finite,
  widthM: finite.default(0.02),
  massKg: finite.default(0.02),
  /** Force with which a spinner drags loads along; null for what does not. */
  gripN: finite.nullable().default(null),
  /** End stops, at its own shaft; 0 is level or closed. Spinners and belts have none. */
  lowRad: finite.default(0),
  highRad: finite.default(PI / 2),
  /** From stop to stop, and how far it moves while its motor holds. */
  travelRad: found,
  playRad: found,
  stages: z.array(stageSchema).max(12).default([]),
});

const place = {
  name,
  xM: finite,
  yM: finite,
  zM: finite.default(0.02),
  aimRad: finite.default(0),
};

export const sensorSchema = z.discriminatedUnion("kind", [
  z.object({
    ...place,
    kind: z.literal("gyro"),
    scale: knownSchema,
    restRadS: knownSchema,
    noiseRadS: finite,
    rangeRadS: finite,
    /** Wander of the rest drift, rad/s for the square root of a second. */
    wanderRadS: finite.default(0),
    periodMs: finite.default(10),
  }),
  z.object({
    ...place,
    kind: z.literal("bumper"),
    widthM: finite,
    pullUp: z.boolean().default(true),
    /** Push that closes it. */
    forceN: finite.default(0.3),
    bounceMs: finite.default(4),
  }),
  z.object({
    ...place,
    kind: z.literal("eye"),
    coneRad: finite,
    nearM: finite,
    farM: finite,
    offsetM: knownSchema,
    noiseM: finite.default(0.003),
    cycleMs: finite.default(40),
    /** Smooth faces met more slantingly than this send no echo back. */
    slantRad: finite.default(PI / 4),
    /** The same two limits as they were found. */
    nearLimitM: found,
    silentRad: found,
    nearReads: z.enum(["nearest", "nothing"]).default("nearest"),
    dropOut: finite.default(0.004),
    /** Servo that turns the head, if any. */
    head: name.nullable().default(null),
  }),
  z.object({
    ...place,
    kind: z.literal("near"),
    /** Whole width of the cone it looks into. */
    coneRad: finite.default(0.16),
    thresholdM: knownSchema,
    hysteresis: finite.default(0.12),
    periodMs: finite.default(10),
  }),
  z.object({
    ...place,
    kind: z.literal("floor"),
    /** Single, a pair across the robot, or a row of 3 to 8. */
    layout: z.enum(["single", "pair", "row"]).default("single"),
    count: finite.default(1),
    spacingM: finite.default(0.014),
    spotM: finite,
    /** Light below this counts as dark. */
    dark: knownSchema,
    noise: finite.default(0.01),
    /** Light of the room that reaches it however dark the floor is. */
    ambient: finite.default(0.02),
    periodMs: finite.default(10),
  }),
  z.object({
    ...place,
    kind: z.literal("tag"),
    gapM: finite,
    noise: finite.default(0.02),
    periodMs: finite.default(50),
    /** Light of each plate as this reader sees it; with any, it names only those. Else it goes by what is printed. */
    references: z
      .partialRecord(z.enum(COLOUR_NAMES), z.object({ red: knownSchema, green: knownSchema, blue: knownSchema }))
      .default({}),
  }),
  z.object({ ...place, kind: z.literal("potentiometer"), travelRad: finite, on: name.nullable().default(null) }),
  z.object({
    ...place,
    kind: z.literal("tilt"),
    /** It settles on a new slope with this time constant, so that bumps and starts hardly show. */
    settleMs: finite.default(150),
    noiseRad: finite.default(0.004),
    /** Steeper than this it reads this. */
    rangeRad: finite.default(0.785),
    periodMs: finite.default(20),
  }),
  z.object({ ...place, kind: z.literal("button"), pullUp: z.boolean().default(true) }),
]);

/** How the whole robot was found to drive, beyond its sizes. */
const manner = {
  speedAtPower: z
    .object({ speedPerVolt: knownSchema, deadTimeSec: knownSchema, deadVolts: found })
    .nullable()
    .default(null),
  /** Turns by the gyro end this far past what was asked; turns take it off. */
  turnPastRad: found,
  /** Rate of turns that name none. */
  turnRateRadS: found,
  /** Robots without encoders turn by time: with these volts at the motors, so fast, after so long. */
  turnVolts: found,
  turnsWithRadS: found,
  turnsAfterSec: found,
  /** Gain of a heading hold of one's own, duty for each rad. */
  holdGainPerRad: found,
  /** How it stops: with this deceleration, after this time. */
  stopsWithMS2: found,
  stopsAfterSec: found,
  /** Of the check drive of the battery procedure: speed and place aside for one volt more. */
  speedMSPerVolt: found,
  asideMPerVolt: found,
};

const driveSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("two-wheel"), trackWidthM: knownSchema, ...manner }),
  /** Two tied pairs: skid steering. Its track width is the one it turns with, wider than the drawn one. */
  z.object({ kind: z.literal("four-wheel"), trackWidthM: knownSchema, ...manner }),
  z.object({
    kind: z.literal("car"),
    trackWidthM: knownSchema,
    wheelbaseM: knownSchema,
    /** What the driven axle has: a differential, or both wheels on one shaft. */
    rear: z.enum(["differential", "solid"]).default("differential"),
    steering: z.object({
      servo: name.nullable().default(null),
      /** Largest angle of the middle of the steered axle. */
      mostRad: finite.default(0.5),
      rateRadS: finite.default(4),
      /** Angle at which it drives straight, as built. */
      centreRad: knownSchema,
      /** A pin that holds the axle straight. */
      locked: z.boolean().default(false),
    }),
    ...manner,
  }),
]);

const supportSchema = z.object({
  kind: z.enum(["ball", "skid", "caster"]),
  xM: finite,
  yM: finite,
  friction: finite,
  /** A free caster's wheel trails its pivot by this. */
  trailM: finite.default(0.012),
});

const wireSchema = z.object({
  /** Part, one of its terminals, and the board's terminal it goes to. */
  part: name,
  terminal: z.string().min(1).max(20),
  to: z.string().min(1).max(20),
});

export const robotSchema = z.object({
  format: z.literal("giddy-pebble/robot"),
  version: z.literal(3),
  name: z.string().min(1, { error: "must not be empty" }).max(40),
  about: z.string().max(2000).default(""),
  chassis: z.object({
    /** Corners of the convex outline, robot frame. */
    outlineM: z.array(point).min(3, { error: "needs at least three corners" }).max(16),
    heightM: finite,
    /** Gap between the floor and its underside. */
    clearanceM: finite.default(0.01),
    /** Whole robot, wheels and pack included. */
    massKg: finite,
    centreOfMassM: z.tuple([finite, finite, finite]),
    /** About the centre of mass, upright axis; null takes that of an even plate of the outline. */
    inertiaKgM2: finite.nullable().default(null),
    wallFriction: finite.default(0.25),
  }),
  drive: driveSchema,
  wheels: z.array(wheelSchema).max(12).default([]),
  support: supportSchema.nullable().default(null),
  motors: z.array(motorSchema).max(100).default([]),
  servos: z.array(servoSchema).max(40).default([]),
  attachments: z.array(attachmentSchema).max(20).default([]),
  sensors: z.array(sensorSchema).max(60).default([]),
  board: z.object({
    profile: z.string().max(40).default("smart-ten"),
    /** Volts lost in the motor driver while it conducts. */
    driverDropVolts: finite.default(0),
    /** Whether the motor driver can be given a share of the voltage, or only on and off. */
    driver: z.enum(["pwm", "on-off"]).default("pwm"),
    currentA: finite.default(0.12),
    /** Below this at the pack for longer than a moment, the board restarts. */
    brownOutVolts: finite.default(4.5),
    /** Across the servo rail; 0 is none. */
    capacitorUf: finite.default(0),
  }),
  pack: z.object({
    chemistry: z.enum(["lithium", "nickel"]).default("lithium"),
    cells: finite,
    nominalVolts: finite,
    capacityAh: finite,
    internalResistanceOhm: finite,
    /** Most it may give for long, and its leads can carry. */
    mostCurrentA: finite.default(6),
    /** Share of a full charge at the start of a rehearsal. */
    charge: finite.default(0.6),
  }),
  wiring: z.array(wireSchema).max(400).default([]),
  /** How exactly a person puts it on its begin place: value 0, the standard error counts. */
  placement: z.object({ positionM: knownSchema, headingRad: knownSchema }),
});

export type Robot = z.infer<typeof robotSchema>;
export type Motor = z.infer<typeof motorSchema>;
export type Servo = z.infer<typeof servoSchema>;
export type Stage = z.infer<typeof stageSchema>;
export type Wheel = z.infer<typeof wheelSchema>;
export type Attachment = z.infer<typeof attachmentSchema>;
export type Sensor = z.infer<typeof sensorSchema>;
type SensorKind = Sensor["kind"];
export type SensorOf<K extends SensorKind> = Extract<Sensor, { kind: K }>;
export type Drive = z.infer<typeof driveSchema>;
export type Wire = z.infer<typeof wireSchema>;
