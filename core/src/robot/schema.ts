// The robot document: parts with places, sizes and masses, in SI units and the robot frame.
//
// Robot frame: origin midway between the driven wheels on the floor (of roller wheels: the middle of all), x forward, y left, z up. The schema takes
// any finite number: what a person typed stays readable, and check.ts says what is wrong with it and where.
import * as z from "zod";
import { driveSchema } from "../drives/kinds.js";
import { finite, found, motorSchema, partName, stageSchema, supportSchema, wheelSchema } from "../drives/parts.js";
import { PI } from "../math/trig.js";
import { sensorSchema } from "../sensors/kinds/all.js";
import { knownSchema } from "../units/known.js";

const point = z.tuple([finite, finite]);

export const servoSchema = z.object({
  name: partName,
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
  name: partName,
  /** An arm lifts, a fork carries, a gripper holds, a spinner and a belt turn, a lid opens. */
  kind: z.enum(["arm", "fork", "gripper", "spinner", "belt", "lid"]),
  /** The motor or servo that moves it. */
  drivenBy: partName,
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

const wireSchema = z.object({
  /** Part, one of its terminals, and the board's terminal it goes to. */
  part: partName,
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
export type Servo = z.infer<typeof servoSchema>;
export type Attachment = z.infer<typeof attachmentSchema>;
export type Wire = z.infer<typeof wireSchema>;
