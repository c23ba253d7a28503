// The robot document: parts with places, sizes and masses, in SI units and the robot frame.
//
// Robot frame: origin midway between the driven wheels on the floor, x forward, y left, z up.
import { z } from "zod";
import { knownSchema, positiveKnownSchema } from "./known.js";

const finite = z.number({ error: "must be a number" });
const positive = finite.positive({ error: "must be more than 0" });
const notNegative = finite.nonnegative({ error: "must not be negative" });
const name = z
  .string()
  .min(1)
  .max(40)
  .regex(/^[a-z][a-z0-9_]*$/, {
    error: "must start with a small letter and hold only small letters, digits and _",
  });
const point = z.tuple([finite, finite]);

export const motorSchema = z.object({
  name,
  port: z.string().default(""),
  /** Mounted so that positive duty turns the wheel backwards. */
  reversed: z.boolean().default(false),
  nominalVolts: positive,
  freeSpeedRadS: positive,
  freeCurrentA: notNegative,
  stallTorqueNm: positive,
  stallCurrentA: positive,
  coulombTorqueNm: notNegative.default(0),
  viscousNmS: notNegative.default(0),
  rotorInertiaKgM2: notNegative,
  /** Turns of the motor for one turn of its output shaft. */
  gearboxRatio: positive.default(1),
  gearboxEfficiency: positive.max(1, { error: "must be at most 1" }).default(1),
  /** Counts for one turn of the output shaft; null when there is no encoder. */
  encoder: z.object({ countsPerTurn: positive }).nullable().default(null),
  /** Its strength as a share of the data sheet's. */
  strength: positiveKnownSchema,
});

export const wheelSchema = z.object({
  name,
  side: z.enum(["left", "right"]),
  xM: finite,
  yM: finite,
  diameterM: positive,
  widthM: positive,
  /** Travel of the robot for one turn of the wheel. */
  rollPerTurnM: positiveKnownSchema,
  /** Friction coefficient on a surface of grip 1. */
  grip: positiveKnownSchema,
  rollingResistance: notNegative.default(0.01),
  inertiaKgM2: positive,
  motor: name,
  /** Teeth pairs from the motor's output shaft to the wheel; each stage flips the direction. */
  gears: z
    .array(z.object({ driverTeeth: positive, drivenTeeth: positive, efficiency: positive.max(1).default(0.95) }))
    .default([]),
});

const place = {
  name,
  port: z.string().default(""),
  xM: finite,
  yM: finite,
  zM: notNegative.default(0.02),
  aimRad: finite.default(0),
};

export const sensorSchema = z.discriminatedUnion("kind", [
  z.object({
    ...place,
    kind: z.literal("gyro"),
    scale: positiveKnownSchema,
    restRadS: knownSchema,
    noiseRadS: notNegative,
    rangeRadS: positive,
    periodMs: positive.default(10),
  }),
  z.object({ ...place, kind: z.literal("bumper"), widthM: positive, pullUp: z.boolean().default(true) }),
  z.object({
    ...place,
    kind: z.literal("eye"),
    coneRad: positive,
    nearM: notNegative,
    farM: positive,
    offsetM: knownSchema,
    /** Servo that turns the head, if any. */
    head: name.nullable().default(null),
  }),
  z.object({ ...place, kind: z.literal("near"), thresholdM: positiveKnownSchema }),
  z.object({ ...place, kind: z.literal("floor"), spotM: positive, dark: knownSchema }),
  z.object({ ...place, kind: z.literal("tag"), gapM: positive }),
  z.object({ ...place, kind: z.literal("potentiometer"), travelRad: positive }),
  z.object({ ...place, kind: z.literal("button") }),
]);

export const robotSchema = z.object({
  format: z.literal("giddy-pebble/robot"),
  version: z.literal(1),
  name: z.string().min(1, { error: "must not be empty" }).max(40),
  about: z.string().default(""),
  chassis: z.object({
    /** Corners of the convex outline, robot frame. */
    outlineM: z.array(point).min(3, { error: "needs at least three corners" }).max(16),
    heightM: positive,
    /** Whole robot, wheels and pack included. */
    massKg: positive,
    centreOfMassM: z.tuple([finite, finite, positive]),
    /** About the centre of mass, upright axis; null takes that of an even plate of the outline. */
    inertiaKgM2: positive.nullable().default(null),
    wallFriction: notNegative.default(0.25),
  }),
  drive: z.object({
    kind: z.literal("two-wheel"),
    trackWidthM: positiveKnownSchema,
    /** For timed steps of a robot without encoders: m/s for one volt at the motors, and s before it moves. */
    speedAtPower: z.object({ speedPerVolt: positiveKnownSchema, deadTimeSec: knownSchema }).nullable().default(null),
  }),
  wheels: z.array(wheelSchema).length(2, { error: "a two-wheel drive has exactly two driven wheels" }),
  support: z.object({ kind: z.enum(["ball", "skid", "caster"]), xM: finite, yM: finite, friction: notNegative }),
  motors: z.array(motorSchema).min(1),
  sensors: z.array(sensorSchema).default([]),
  board: z.object({
    profile: z.string().default("smart-ten"),
    /** Volts lost in the motor driver while it conducts. */
    driverDropVolts: notNegative.default(0),
    currentA: notNegative.default(0.12),
  }),
  pack: z.object({
    cells: z.number().int().positive(),
    nominalVolts: positive,
    capacityAh: positive,
    internalResistanceOhm: notNegative,
    /** Share of a full charge at the start of a rehearsal. */
    charge: finite.min(0.02, { error: "must be at least 0.02" }).max(1, { error: "must be at most 1" }).default(0.6),
  }),
  /** How exactly a person puts it on its begin place: value 0, the standard error counts. */
  placement: z.object({ positionM: knownSchema, headingRad: knownSchema }),
});

export type Robot = z.infer<typeof robotSchema>;
export type Motor = z.infer<typeof motorSchema>;
export type Wheel = z.infer<typeof wheelSchema>;
export type Sensor = z.infer<typeof sensorSchema>;
