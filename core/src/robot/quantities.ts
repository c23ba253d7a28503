// Every number of a robot a person may edit: what it is called, its unit, and the range that makes sense. The
// inspector shows this table, and check.ts holds documents to it.

import { TAU } from "../math/trig.js";
import { SENSOR_KINDS } from "../sensors/kinds/all.js";
import {
  AH,
  AMP,
  CELSIUS,
  DEG,
  DEG_S,
  foundIn,
  G,
  GCM2,
  KG,
  MM,
  MNM,
  MS,
  NEWTON,
  OHM,
  PERCENT,
  PLACE,
  PLAIN,
  type QuantityInfo,
  quantity,
  RPM,
  type Rule,
  UF,
  VOLT,
  WHOLE,
} from "../units/quantityInfo.js";
import { type ShownUnit, shownIn } from "../units/shown.js";

export type { QuantityInfo } from "../units/quantityInfo.js";
export type { ShownUnit } from "../units/shown.js";

const SHARE: Rule = { least: 0.01, most: 1 };
const VOLTS: Rule = { least: 0.5, most: 60 };
const STALL_AMPS: Rule = { least: 0.001, most: 500 };
export const STAGE_QUANTITIES: readonly QuantityInfo[] = [
  quantity("driverTeeth", "Driving teeth", WHOLE, { least: 1, most: 500 }),
  quantity("drivenTeeth", "Driven teeth", WHOLE, { least: 1, most: 500 }),
  quantity("efficiency", "Efficiency", PERCENT, SHARE),
  quantity("backlashRad", "Free play", DEG, { least: 0, most: 1 }),
  quantity("slipTorqueNm", "Belt slips at", MNM, { least: 1e-4, most: 100 }),
];

/** By the kind of part, as partKind() names it. */
export const QUANTITIES: Readonly<Record<string, readonly QuantityInfo[]>> = {
  chassis: [
    quantity("massKg", "Mass, whole robot", KG, { least: 0.01, most: 40 }),
    quantity("heightM", "Height", MM, { least: 0.001, most: 1 }),
    quantity("clearanceM", "Gap to the floor", MM, { least: 0, most: 0.3 }),
    quantity("centreOfMassM.0", "Centre of mass ahead of the axle", MM, PLACE),
    quantity("centreOfMassM.1", "Centre of mass to the left", MM, PLACE),
    quantity("centreOfMassM.2", "Centre of mass height", MM, { least: 0.001, most: 1 }),
    quantity("wallFriction", "Rubs on walls", PLAIN, { least: 0, most: 2, hint: "friction coefficient", seldom: true }),
  ],
  drive: [
    quantity("trackWidthM", "Track width", MM, { least: 0.005, most: 2, known: true, hint: "what it turns with" }),
    quantity("slideShare", "Slides, of what the wheels say", shownIn("%", 1), { least: 0.5, most: 1.5, known: true }),
    quantity("wheelbaseM", "Wheelbase", MM, { least: 0.005, most: 2, known: true }),
    quantity("steering.mostRad", "Steers at most", DEG, { least: 0.005, most: 1.2 }),
    quantity("steering.rateRadS", "Steers as fast as", DEG_S, { least: 0.05, most: 100 }),
    quantity("steering.centreRad", "Straight is at", DEG, { least: -0.5, most: 0.5, known: true }),
    quantity("speedAtPower.speedPerVolt", "Speed for one volt", shownIn("mm/s/V", 1), {
      least: 1e-4,
      most: 10,
      known: true,
    }),
    quantity("speedAtPower.deadTimeSec", "Time before it moves", MS, {
      least: -0.5,
      most: 2,
      known: true,
      hint: "less than nothing when it rolls on after its time",
    }),
    quantity("speedAtPower.deadVolts", "Volts before it moves", VOLT, foundIn(0, 20)),
    quantity("turnVolts", "Turns by time at", VOLT, foundIn(0, 60)),
    quantity("turnsWithRadS", "Turns then with", DEG_S, foundIn(0, 100)),
    quantity("turnsAfterSec", "Turns begin after", MS, foundIn(-0.5, 2)),
    quantity("turnPastRad", "Turns end early by", DEG, foundIn(-0.5, 0.5)),
    quantity("turnRateRadS", "Turns by themselves at", DEG_S, foundIn(0.05, 30)),
    quantity("holdGainPerRad", "Heading hold", shownIn("%/deg", 1), foundIn(0, 60)),
    quantity("stopsWithMS2", "Stops with", shownIn("m/s/s", 2), foundIn(0.01, 100)),
    quantity("stopsAfterSec", "Stops after", MS, foundIn(-0.5, 2)),
    quantity("speedMSPerVolt", "Faster for a volt more", shownIn("cm/s/V", 1), foundIn(-1, 1)),
    quantity("asideMPerVolt", "Aside for a volt more", shownIn("mm/V", 0), foundIn(-2, 2)),
  ],
  wheel: [
    quantity("diameterM", "Diameter", MM, { least: 0.003, most: 1, hint: "nominal, stamped on the tyre" }),
    quantity("rollPerTurnM", "Rolls per turn", MM, { least: 0.01, most: 4, known: true }),
    quantity("widthM", "Width", MM, { least: 0.0005, most: 0.3 }),
    quantity("xM", "Ahead of the axle", MM, PLACE),
    quantity("yM", "To the left", MM, PLACE),
    quantity("grip", "Grip on the field", PLAIN, { least: 0.01, most: 3, known: true, hint: "friction coefficient" }),
    quantity("rollingResistance", "Rolling resistance", { ...PLAIN, digits: 3 }, { least: 0, most: 0.5, seldom: true }),
    quantity("inertiaKgM2", "Moment of inertia", GCM2, { least: 1e-10, most: 0.1, seldom: true }),
    quantity("aimRad", "Rolls to the left by", DEG, { least: -TAU, most: TAU, hint: "0 is straight ahead" }),
    quantity("rollers.axleRad", "Rollers lie at", DEG, {
      least: -1.3,
      most: 1.3,
      hint: "to the left of where it rolls",
    }),
    quantity("rollers.friction", "Rollers resist with", { ...PLAIN, digits: 3 }, { least: 0, most: 0.5, seldom: true }),
  ],
  support: [
    quantity("xM", "Ahead of the axle", MM, PLACE),
    quantity("yM", "To the left", MM, PLACE),
    quantity("friction", "Friction on the floor", PLAIN, { least: 0, most: 1.5 }),
    quantity("trailM", "Trails its pivot by", MM, { least: 0.001, most: 0.1 }),
  ],
  motor: [
    quantity("nominalVolts", "Nominal voltage", VOLT, VOLTS),
    quantity("freeSpeedRadS", "Free speed of the motor", RPM, { least: 1, most: 10_000 }),
    quantity("freeCurrentA", "Free current", AMP, { least: 0, most: 50 }),
    quantity("stallTorqueNm", "Stall torque of the motor", MNM, { least: 1e-5, most: 100 }),
    quantity("stallCurrentA", "Stall current", AMP, STALL_AMPS),
    quantity("coulombTorqueNm", "Friction torque", MNM, { least: 0, most: 100, seldom: true }),
    quantity("viscousNmS", "Viscous friction", shownIn("uN m s", 2), { least: 0, most: 1, seldom: true }),
    quantity("rotorInertiaKgM2", "Rotor inertia", GCM2, { least: 1e-11, most: 0.01, seldom: true }),
    quantity("gearboxRatio", "Gearbox: motor turns per turn", PLAIN, { least: 0.01, most: 5000 }),
    quantity("gearboxEfficiency", "Gearbox efficiency", PERCENT, { ...SHARE, seldom: true }),
    quantity("encoder.countsPerTurn", "Encoder counts per turn", WHOLE, { least: 1, most: 1e6 }),
    quantity("strength", "Strength against its sheet", PERCENT, { least: 0.05, most: 2, known: true }),
    quantity("pullAwayVolts", "Pulls away at", VOLT, foundIn(0, 60)),
    quantity("thermal.resistanceKPerW", "Warms for each watt", shownIn("K/W", 1), {
      least: 0.01,
      most: 1000,
      seldom: true,
    }),
    quantity("thermal.capacityJPerK", "Heat it stores", shownIn("J/K", 1), { least: 0.01, most: 10_000, seldom: true }),
    quantity("thermal.cutOutC", "Cuts out at", CELSIUS, { over: 30, most: 250, seldom: true }),
    quantity("thermal.recoverC", "Comes back at", CELSIUS, { over: 25, most: 250, seldom: true }),
  ],
  servo: [
    quantity("nominalVolts", "Nominal voltage", VOLT, VOLTS),
    quantity("speedRadS", "Speed without load", DEG_S, { least: 0.05, most: 200 }),
    quantity("settleSec", "Settles in", MS, { least: 0, most: 2, seldom: true }),
    quantity("lowRad", "Lowest angle", DEG, { least: -TAU, most: TAU }),
    quantity("highRad", "Highest angle", DEG, { least: -TAU, most: TAU }),
    quantity("stallTorqueNm", "Stall torque", MNM, { least: 1e-5, most: 100 }),
    quantity("stallCurrentA", "Stall current", AMP, STALL_AMPS),
  ],
  attachment: [
    quantity("xM", "Hinge ahead of the axle", MM, PLACE),
    quantity("yM", "Hinge to the left", MM, PLACE),
    quantity("zM", "Hinge height", MM, { least: 0, most: 1 }),
    quantity("aimRad", "Points to the left by", DEG, { least: -TAU, most: TAU }),
    quantity("lengthM", "Length", MM, { least: 0.001, most: 1 }),
    quantity("widthM", "Width", MM, { least: 0.001, most: 1 }),
    quantity("massKg", "Mass", G, { least: 0, most: 10 }),
    quantity("gripN", "Drags loads with", NEWTON, { least: 0, most: 50 }),
    quantity("lowRad", "Lower end stop", DEG, { least: -TAU, most: TAU }),
    quantity("highRad", "Upper end stop", DEG, { least: -TAU, most: TAU }),
    quantity("travelRad", "From stop to stop", DEG, foundIn(0.01, TAU)),
    quantity("playRad", "Play", DEG, foundIn(0, 1)),
  ],
  ...Object.fromEntries(SENSOR_KINDS.map(([kind, { quantities }]) => [kind, quantities])),
  board: [
    quantity("driverDropVolts", "Lost in the motor driver", VOLT, { least: 0, most: 5 }),
    quantity("currentA", "Draw of the board", AMP, { least: 0, most: 5 }),
    quantity("brownOutVolts", "Restarts below", VOLT, { least: 0, most: 30 }),
    quantity("capacitorUf", "Capacitor on the servo rail", UF, { least: 0, most: 100000 }),
  ],
  pack: [
    quantity("cells", "Cells in a row", WHOLE, { least: 1, most: 12, whole: true }),
    quantity("nominalVolts", "Nominal voltage", VOLT, VOLTS),
    quantity("capacityAh", "Capacity", AH, { least: 0.01, most: 200 }),
    quantity("internalResistanceOhm", "Internal resistance", OHM, { least: 0, most: 10 }),
    quantity("mostCurrentA", "May give", AMP, { least: 0.05, most: 500 }),
    quantity("charge", "Charge at the start", PERCENT, { least: 0.02, most: 1 }),
  ],
};

function lookUp(part: unknown, { path }: QuantityInfo): unknown {
  let at: unknown = part;
  for (const key of path.split(".")) {
    if (typeof at !== "object" || at === null || !Object.hasOwn(at, key)) return null;
    at = (at as Record<string, unknown>)[key];
  }
  return at;
}

/** The value at a path inside a part; for a known, its value. Null where the part has none. */
export function quantityAt(part: unknown, info: QuantityInfo): number | null {
  const found = lookUp(part, info);
  const value =
    info.known && typeof found === "object" && found !== null ? (found as { value?: unknown }).value : found;
  return typeof value === "number" ? value : null;
}

/** The standard error of a known at a path inside a part; null where there is none. */
export function errorAt(part: unknown, info: QuantityInfo): number | null {
  const found = lookUp(part, info) as { standardError?: unknown } | null;
  return typeof found?.standardError === "number" ? found.standardError : null;
}

/** A number as people read it, with its unit. */
export function shownQuantity(value: number, { unit, perSi, digits }: ShownUnit): string {
  const scaled = value * perSi;
  const text = trimmed(scaled, digits);
  return unit === "" ? text : `${text} ${unit}`;
}

/** "194.1 ± 0.3 mm": the error with one digit, two when it begins with 1; the value to the same place. */
export function withError(value: number, standardError: number | null, shown: ShownUnit): string {
  const scaled = value * shown.perSi;
  const unit = shown.unit === "" ? "" : ` ${shown.unit}`;
  if (standardError === null || standardError === 0) return `${scaled.toFixed(shown.digits)}${unit}`;
  const error = standardError * shown.perSi;
  let digits = 0;
  let scale = error;
  while (scale < 1 && digits < 6) {
    scale *= 10;
    digits += 1;
  }
  if (scale < 2 && digits < 6) digits += 1;
  return `${scaled.toFixed(digits)} ± ${error.toFixed(digits)}${unit}`;
}

function trimmed(value: number, digits: number): string {
  const text = value.toFixed(digits);
  const kept = digits > 0 ? text.replace(/\.?0+$/, "") : text;
  return kept === "-0" ? "0" : kept;
}

/** An end of a range with its unit, and as many digits as it has: never as nothing when it is something. */
function boundWords(bound: number, { unit, perSi }: ShownUnit): string {
  const scaled = Number((bound * perSi).toPrecision(3));
  const text = trimmed(scaled, 9);
  return unit === "" ? text : `${text} ${unit}`;
}

/** Why a value is out of its range, as the end of a sentence; null when it is fine. */
export function rangeFault(value: number, info: QuantityInfo): string | null {
  const { over, least, most, shown, whole } = info;
  if (over !== undefined && !(value > over)) return `must be more than ${boundWords(over, shown)}`;
  if (least !== undefined && !(value >= least)) return `must be at least ${boundWords(least, shown)}`;
  if (most !== undefined && !(value <= most)) return `must be at most ${boundWords(most, shown)}`;
  return whole && Math.floor(value) !== value ? "must be a whole number" : null;
}
