// What is wrong with a robot as described: each problem with its part, a sentence and what would mend it.

import { driveKind, steeringOf } from "../drives/kinds.js";
import type { Stage } from "../drives/parts.js";
import { sourceOf } from "../drives/train.js";
import { COLOUR_NAMES } from "../field/colours.js";
import { containsPoint, isConvex } from "../geometry/polygon.js";
import { PI } from "../math/trig.js";
import { GRAVITY } from "../physics/constants.js";
import { deriveMotor } from "../physics/motor.js";
import { RESERVED } from "../words/language.js";
import { type PartRef, partsOf } from "./parts.js";
import { errorAt, QUANTITIES, quantityAt, rangeFault, STAGE_QUANTITIES, shownQuantity } from "./quantities.js";
import type { Robot } from "./schema.js";

export interface RobotProblem {
  readonly code: string;
  /** With errors it cannot be rehearsed; a warning says what will go badly. */
  readonly severity: "error" | "warning";
  readonly part: PartRef;
  /** Quantity of the part it is about, or empty. */
  readonly path: string;
  readonly message: string;
  readonly mend: string;
}

type Report = (
  code: string,
  part: PartRef,
  message: string,
  mend: string,
  more?: { path?: string; severity?: "warning" },
) => void;

const COLOURS: ReadonlySet<string> = new Set(COLOUR_NAMES);
/** How far a wheel may stand from the outline of the chassis, m. */
const WHEEL_REACH_M = 0.12;
/** How far the corners of a chassis may be from the axle, m, how wide it is at least, and its moment of inertia. */
const OUTLINE = { reachM: 2, leastM: 0.005, leastKgM2: 1e-7, mostKgM2: 50 } as const;
/** Widest errors of putting it down, m and rad. */
const PLACEMENT = { positionM: 0.5, headingRad: PI } as const;
/** Of all stages of a train together. */
const MOST_RATIO = 10_000;
/** Motors that may draw at once beyond what any pack of this size gives. */
const MANY_MOTORS = 16;

/** Every problem of a robot document, errors first. */
export function checkRobot(robot: Robot): RobotProblem[] {
  const problems: RobotProblem[] = [];
  const report: Report = (code, part, message, mend, more = {}) =>
    problems.push({ code, part, message, mend, path: more.path ?? "", severity: more.severity ?? "error" });
  checkNames(robot, report);
  checkNumbers(robot, report);
  checkErrors(robot, report);
  checkRatios(robot, report);
  checkOutline(robot, report);
  checkWheels(robot, report);
  checkDrive(robot, report);
  checkMotors(robot, report);
  checkAttachments(robot, report);
  // Balance needs sound numbers and wheels that are there.
  if (problems.length === 0) checkBalance(robot, report);
  return [...problems.filter((p) => p.severity === "error"), ...problems.filter((p) => p.severity === "warning")];
}

function checkNames(robot: Robot, report: Report): void {
  const names = partsOf(robot).map((part) => part.ref);
  const twice = new Set(names.filter((name, i) => names.indexOf(name) !== i));
  for (const name of twice)
    report("name-twice", name, `Two parts are called "${name}".`, "Give one of them another name.");
  const own = [...robot.motors, ...robot.servos, ...robot.attachments, ...robot.wheels, ...robot.sensors];
  for (const { name } of own) {
    if (RESERVED.has(name) || COLOURS.has(name))
      report(
        "name-reserved",
        name,
        `"${name}" is a word of the mission language and cannot be a part's name.`,
        `Call it "${name}_part" or something of your own.`,
      );
  }
}

/** A part's name as a sentence begins with it. */
function spoken(ref: string): string {
  const words = ref.replaceAll("_", " ");
  return words.charAt(0).toUpperCase() + words.slice(1);
}

function checkNumbers(robot: Robot, report: Report): void {
  for (const part of partsOf(robot)) {
    for (const info of QUANTITIES[part.kind] ?? []) {
      const value = quantityAt(part.value, info);
      const fault = value === null ? null : rangeFault(value, info);
      if (fault)
        report(
          "out-of-range",
          part.ref,
          `${spoken(part.ref)}: ${lower(info.label)} ${fault}.`,
          "Type a value in its range.",
          {
            path: info.path,
          },
        );
    }
    const stages = (part.value as { stages?: readonly Stage[] }).stages ?? [];
    stages.forEach((stage, i) => {
      for (const info of STAGE_QUANTITIES) {
        const value = quantityAt(stage, info);
        const fault = value === null ? null : rangeFault(value, info);
        if (fault)
          report(
            "out-of-range",
            part.ref,
            `${spoken(part.ref)}, stage ${i + 1}: ${lower(info.label)} ${fault}.`,
            info.path.endsWith("Teeth") ? "A gear has 8 teeth or more." : "Type a value in its range.",
            { path: `stages.${i}.${info.path}` },
          );
      }
    });
  }
}

/** Standard errors: none is wider than the range of what it belongs to. */
function checkErrors(robot: Robot, report: Report): void {
  const tooWide = (ref: PartRef, path: string, what: string, most: string) =>
    report(
      "error-too-wide",
      ref,
      `${what} is known with an error of more than ${most}, which says nothing.`,
      "Measure it again, or clear it.",
      { path },
    );
  for (const part of partsOf(robot))
    for (const info of QUANTITIES[part.kind] ?? []) {
      const { least, over, most, shown } = info;
      const error = info.known ? errorAt(part.value, info) : null;
      const width = (most ?? 0) - (least ?? over ?? 0);
      if (error !== null && error > width)
        tooWide(part.ref, info.path, `${spoken(part.ref)}: ${lower(info.label)}`, shownQuantity(width, shown));
    }
  const { positionM, headingRad } = robot.placement;
  if ((positionM.standardError ?? 0) > PLACEMENT.positionM)
    tooWide("chassis", "", "Where it is put down", `${PLACEMENT.positionM} m`);
  if ((headingRad.standardError ?? 0) > PLACEMENT.headingRad)
    tooWide("chassis", "", "How it is turned when it is put down", "180 deg");
  for (const sensor of robot.sensors)
    if (sensor.kind === "tag")
      for (const light of Object.values(sensor.references).flatMap((lights) => Object.values(lights ?? {})))
        if (!(light.value >= 0 && light.value <= 2) || (light.standardError ?? 0) > 1)
          report(
            "out-of-range",
            sensor.name,
            `${spoken(sensor.name)}: the light of a plate must be from 0 to 200 %, and its error at most 100 %.`,
            "Measure the plates again.",
          );
}

/** All stages of a train together: turns of the motor's output for one turn at its end. */
function checkRatios(robot: Robot, report: Report): void {
  for (const { name, stages } of [...robot.wheels, ...robot.attachments]) {
    const ratio = stages.reduce((product, { driverTeeth, drivenTeeth }) => (product * drivenTeeth) / driverTeeth, 1);
    if (ratio <= MOST_RATIO && ratio >= 1 / MOST_RATIO) continue;
    // A stage out of its range was reported already.
    if (stages.some((stage) => STAGE_QUANTITIES.some((info) => rangeFault(quantityAt(stage, info) ?? 1, info))))
      continue;
    report(
      "ratio-extreme",
      name,
      `${spoken(name)}: its stages together turn ${MOST_RATIO} to 1 or more, and no gears do.`,
      "Take a stage out, or choose other teeth.",
    );
  }
}

function lower(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1);
}

function checkOutline(robot: Robot, report: Report): void {
  const { outlineM, centreOfMassM, heightM, clearanceM, inertiaKgM2 } = robot.chassis;
  if (outlineM.some((corner) => corner.some((at) => Math.abs(at) > OUTLINE.reachM)) || !isWide(outlineM))
    return report(
      "outline-size",
      "chassis",
      "The outline of the chassis is smaller than 5 mm across, or reaches further than 2 m from the axle.",
      "Move its corners to where the robot's are.",
    );
  if (inertiaKgM2 !== null && !(inertiaKgM2 >= OUTLINE.leastKgM2 && inertiaKgM2 <= OUTLINE.mostKgM2))
    report(
      "out-of-range",
      "chassis",
      `Chassis: its moment of inertia must be from ${OUTLINE.leastKgM2} to ${OUTLINE.mostKgM2} kg m2.`,
      "Leave it out: it is then worked out from the outline.",
    );
  if (!isConvex(outlineM))
    report(
      "outline-dent",
      "chassis",
      "The outline of the chassis has a dent.",
      "List the corners of its convex outline in order.",
    );
  if (clearanceM >= heightM)
    report(
      "height-order",
      "chassis",
      "The chassis ends below its own underside.",
      "Make the height more than the gap to the floor.",
    );
  if (centreOfMassM[2] > heightM)
    report("balance-high", "chassis", "The centre of mass lies above the robot.", "Lower it to within the height.");
}

/** Whether an outline is wide enough in both directions to be a body. */
function isWide(outlineM: readonly (readonly [number, number])[]): boolean {
  return [0, 1].every((axis) => {
    const along = outlineM.map((corner) => corner[axis] as number);
    return Math.max(...along) - Math.min(...along) >= OUTLINE.leastM;
  });
}

function nearOutline(robot: Robot, xM: number, yM: number): boolean {
  const { outlineM } = robot.chassis;
  if (containsPoint(outlineM, [xM, yM])) return true;
  return outlineM.some((a, i) => {
    const b = outlineM[(i + 1) % outlineM.length] as readonly [number, number];
    const ex = b[0] - a[0];
    const ey = b[1] - a[1];
    const square = ex * ex + ey * ey;
    const t = square > 0 ? Math.max(0, Math.min(1, ((xM - a[0]) * ex + (yM - a[1]) * ey) / square)) : 0;
    const dx = a[0] + t * ex - xM;
    const dy = a[1] + t * ey - yM;
    return dx * dx + dy * dy < WHEEL_REACH_M * WHEEL_REACH_M;
  });
}

function checkWheels(robot: Robot, report: Report): void {
  if (robot.wheels.length === 0) {
    report(
      "no-wheels",
      "drive",
      "The robot has no wheels.",
      "Add a left and a right wheel with Add a part, or start from a two-wheel drive.",
    );
    return;
  }
  for (const wheel of robot.wheels) {
    const source = sourceOf(robot, wheel);
    if (source.is === "unknown")
      report(
        "driven-by-nothing",
        wheel.name,
        `Wheel "${wheel.name}" is driven by "${source.name}", which is not a motor or wheel of this robot.`,
        "Choose one of its motors.",
        { path: "drivenBy" },
      );
    if (source.is === "loop")
      report(
        "gear-loop",
        wheel.name,
        `The drive of "${wheel.name}" comes back to itself: ${source.names.join(" ← ")}.`,
        "Let one of these wheels be driven by a motor.",
        { path: "drivenBy" },
      );
    if (wheel.side === "left" ? wheel.yM <= 0 : wheel.yM >= 0)
      report(
        "wrong-side",
        wheel.name,
        `Wheel "${wheel.name}" is ${wheel.side} but drawn on the other side.`,
        `Left is positive: set "to the left" to ${wheel.side === "left" ? "more" : "less"} than 0 mm.`,
        { path: "yM" },
      );
    if (!nearOutline(robot, wheel.xM, wheel.yM))
      report(
        "wheel-off",
        wheel.name,
        `Wheel "${wheel.name}" stands far off the chassis; nothing holds it.`,
        `Move it to within ${WHEEL_REACH_M * 1000} mm of the outline.`,
        { path: "xM" },
      );
  }
}

function checkDrive(robot: Robot, report: Report): void {
  if (robot.wheels.length === 0) return;
  const driven = robot.wheels.filter((wheel) => sourceOf(robot, wheel).is === "motor");
  const sides = new Set(driven.map((wheel) => wheel.side));
  if (sides.size < 2) {
    const missing = sides.has("left") ? "right" : "left";
    report(
      "one-side",
      "drive",
      driven.length === 0
        ? "No wheel is driven by a motor."
        : `Only the ${sides.has("left") ? "left" : "right"} side is driven; the robot would turn in circles.`,
      `Add a driven ${missing} wheel${driven.length === 0 ? " and a left one" : ""}.`,
    );
    return;
  }
  driveKind(robot.drive).check(robot, (code, part, message, mend, path) =>
    report(code, part, message, mend, path === undefined ? {} : { path }),
  );
}

function checkMotors(robot: Robot, report: Report): void {
  for (const motor of robot.motors) {
    const derived = deriveMotor(motor);
    if (!derived.ok)
      report(
        "motor-sheet",
        motor.name,
        `Motor "${motor.name}": ${derived.message}.`,
        "Read these four numbers from one data sheet, at one voltage.",
        { path: "stallTorqueNm" },
      );
    if (motor.thermal.recoverC >= motor.thermal.cutOutC)
      report(
        "motor-heat",
        motor.name,
        `Motor "${motor.name}" would come back while still too hot.`,
        "Let it come back at a lower temperature than it cuts out at.",
        { path: "thermal.recoverC" },
      );
  }
  const drivers = robot.motors.length + robot.servos.length;
  if (drivers > MANY_MOTORS)
    report(
      "many-motors",
      "pack",
      `${drivers} motors and servos on one pack would draw ${stallSum(robot).toFixed(1)} A together.`,
      `Keep to ${MANY_MOTORS}, or say which are not fitted by removing them.`,
      { severity: "warning" },
    );
  for (const servo of robot.servos)
    if (servo.lowRad >= servo.highRad)
      report(
        "servo-range",
        servo.name,
        `Servo "${servo.name}" has no travel: its lowest angle is not below its highest.`,
        "Swap the two angles.",
        { path: "lowRad" },
      );
}

function stallSum(robot: Robot): number {
  return [...robot.motors, ...robot.servos].reduce((sum, part) => sum + part.stallCurrentA, 0);
}

function checkAttachments(robot: Robot, report: Report): void {
  for (const part of robot.attachments) {
    const mover = [...robot.motors, ...robot.servos].find((candidate) => candidate.name === part.drivenBy);
    if (!mover)
      report(
        "attachment-driver",
        part.name,
        `"${part.name}" is moved by "${part.drivenBy}", which is not a motor or servo of this robot.`,
        "Choose one of its motors or servos.",
        { path: "drivenBy" },
      );
    else if (robot.wheels.some((wheel) => wheel.drivenBy === part.drivenBy))
      report(
        "attachment-shared",
        part.name,
        `"${part.drivenBy}" drives a wheel and "${part.name}" at once.`,
        "Give the attachment a motor or servo of its own.",
        { path: "drivenBy" },
      );
    if (part.kind !== "spinner" && part.kind !== "belt" && part.lowRad >= part.highRad)
      report(
        "attachment-stops",
        part.name,
        `"${part.name}" has no travel: its lower end stop is not below its upper one.`,
        "Swap the two angles.",
        { path: "lowRad" },
      );
  }
  for (const sensor of robot.sensors)
    if (sensor.kind === "eye" && sensor.head !== null && !robot.servos.some((servo) => servo.name === sensor.head))
      report(
        "eye-head",
        sensor.name,
        `The head of "${sensor.name}" is "${sensor.head}", which is not a servo of this robot.`,
        "Choose a servo, or fix the distance sensor to the chassis.",
        { path: "head" },
      );
  const servo = steeringOf(robot.drive)?.servo ?? null;
  if (servo !== null) {
    if (!robot.servos.some((candidate) => candidate.name === servo))
      report(
        "steering-servo",
        "drive",
        `The axle is steered by "${servo}", which is not a servo of this robot.`,
        "Choose a servo.",
      );
  }
}

/** Corners of the support area: the convex hull of wheels and support. */
function supports(robot: Robot): [number, number][] {
  const points = robot.wheels.map((wheel): [number, number] => [wheel.xM, wheel.yM]);
  if (robot.support) points.push([robot.support.xM, robot.support.yM]);
  return points;
}

/** Signed distance of a point to the edge of the hull of some points: positive inside, m. */
export function insideHullBy(points: readonly (readonly [number, number])[], at: readonly [number, number]): number {
  let least = Number.POSITIVE_INFINITY;
  let edges = 0;
  for (const a of points) {
    for (const b of points) {
      const ex = b[0] - a[0];
      const ey = b[1] - a[1];
      const length = Math.sqrt(ex * ex + ey * ey);
      if (length < 1e-9) continue;
      const side = (p: readonly [number, number]) => (ex * (p[1] - a[1]) - ey * (p[0] - a[0])) / length;
      if (points.some((p) => side(p) < -1e-9) || points.every((p) => Math.abs(side(p)) < 1e-9)) continue;
      edges += 1;
      least = Math.min(least, side(at));
    }
  }
  return edges === 0 ? Number.NEGATIVE_INFINITY : least;
}

function checkBalance(robot: Robot, report: Report): void {
  const points = supports(robot);
  const [comX, comY, comZ] = robot.chassis.centreOfMassM;
  const margin = insideHullBy(points, [comX, comY]);
  if (margin === Number.NEGATIVE_INFINITY) {
    report(
      "in-one-line",
      "support",
      "All wheels stand in one line; nothing keeps the robot from falling over.",
      "Add a ball, a skid or a caster ahead of or behind the axle.",
    );
    return;
  }
  if (margin <= 0) {
    report(
      "tips-over",
      "chassis",
      "The centre of mass lies outside of the wheels and the support, so the robot tips over.",
      "Move the pack or the support so that the centre of mass lies between them.",
    );
    return;
  }
  // It lifts a wheel when a·h > g·margin: warn where an ordinary stop of 3 m/s² would do it.
  if (comZ * 3 > GRAVITY * margin)
    report(
      "tips-easily",
      "chassis",
      `The centre of mass is ${(comZ * 1000).toFixed(0)} mm up and only ${(margin * 1000).toFixed(0)} mm from the edge: it tips at ${((GRAVITY * margin) / comZ).toFixed(1)} m/s².`,
      "Put the pack lower, or the wheels wider apart.",
      { severity: "warning" },
    );
}
