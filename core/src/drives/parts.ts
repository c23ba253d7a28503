// What a drivetrain is made of: motors, stages, wheels and what else holds the robot up, as its document says them.
import * as z from "zod";
import { knownSchema } from "../units/known.js";
import { RANGES } from "../units/ranges.js";

/** Any number that is one; check.ts holds it to the range of what it says. */
export const finite = z
  .number({ error: "must be a number" })
  .min(RANGES.any.least, { error: "is a number too large to mean anything" })
  .max(RANGES.any.most, { error: "is a number too large to mean anything" });
export const partName = z
  .string()
  .min(1)
  .max(40)
  .regex(/^[a-z][a-z0-9_]*$/, {
    error: "must start with a small letter and hold only small letters, digits and _",
  });
/** A known that no drawing gives: null until somebody measured it. */
export const found = knownSchema.nullable().default(null);

export const motorSchema = z.object({
  name: partName,
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

export const stageSchema = z.object({
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
  name: partName,
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
  drivenBy: partName.nullable().default(null),
  /** Direction it rolls in, left of the robot's forward. */
  aimRad: finite.default(0),
  /** Rollers round its rim: the angle between its rolling and their axles, left positive, and what they resist with. */
  rollers: z
    .object({ axleRad: finite, friction: finite.default(0.02) })
    .nullable()
    .default(null),
  steered: z.boolean().default(false),
  /** From what drives it to the wheel. */
  stages: z.array(stageSchema).max(12).default([]),
});

/** How the whole robot was found to drive, beyond its sizes. */
export const manner = {
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

export const supportSchema = z.object({
  kind: z.enum(["ball", "skid", "caster"]),
  xM: finite,
  yM: finite,
  friction: finite,
  /** A free caster's wheel trails its pivot by this. */
  trailM: finite.default(0.012),
});

export type Motor = z.infer<typeof motorSchema>;
export type Stage = z.infer<typeof stageSchema>;
export type Wheel = z.infer<typeof wheelSchema>;
