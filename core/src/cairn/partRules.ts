// What steps with parts of the robot need: arms, heads, followers, the steered axle, signs to people.

import { fastestOnLine } from "../control/followLine.js";
import { PI } from "../math/trig.js";
import { endStopsRad } from "../robot/found.js";
import type { Robot, Servo } from "../robot/schema.js";
import { floorOffsets } from "../sensors/floorSensor.js";
import type { Sensor } from "../sensors/kinds/all.js";
import { ACCELERATION, ANGLE, LENGTH, NUMBER, SPEED, TURN_ACCELERATION, TURN_RATE } from "../units/dimension.js";
import { plainDigits } from "../units/quantity.js";
import { nearestWord } from "../words/language.js";
import type { CheckContext } from "./checkContext.js";
import { endsItself, moverOf } from "./effects.js";
import { type KindScope, kindOf, literalValue, requireDimension } from "./expressionKinds.js";
import {
  cannotFollow,
  cannotHome,
  cannotMove,
  cannotReset,
  cannotSteer,
  driveMotor,
  fastLine,
  mixedAngles,
  needsEncoders,
  needsEnd,
  notAHead,
  nothingAhead,
  oneSpot,
  pastStop,
  sensorTooFarBack,
  unknownMotor,
  wholeLooks,
} from "./problems.js";
import { anglesKnown, potentiometerOn } from "./readings.js";
import { checkSided, checkTails, isCar, requireShare, type TailRule } from "./stepRules.js";
import type { Expression, Name, Statement } from "./tree.js";

const FOLLOWING: TailRule = {
  allowed: ["at", "using", "gain", "damp", "bridge", "crossings", "corners", "ramp", "for", "until", "limit", "then"],
  at: [SPEED, "cm/s"],
  ramp: [ACCELERATION, "cm/s/s"],
};
const PRESSING: TailRule = { ...FOLLOWING, allowed: ["using", "for", "until", "limit", "then"] };
const MOVING: TailRule = {
  allowed: ["at", "using", "for", "until", "limit", "then"],
  at: [TURN_RATE, "deg/s"],
  ramp: [TURN_ACCELERATION, "deg/s/s"],
};

/** Reports what is wrong with a step that is about a part; false when the step is of another kind. */
export function checkPartStep(statement: Statement, context: CheckContext, scope: KindScope): boolean {
  switch (statement.type) {
    case "steer":
      if (!isCar(context)) scope.report(cannotSteer(statement, context.robot.name));
      checkSided("steer", statement.angle, scope);
      return true;
    case "press":
      checkTails("press", statement.tails, PRESSING, context, scope);
      if (!context.drive.hasEncoders && !statement.tails.some((tail) => tail.word === "for"))
        scope.report(needsEncoders(statement, "press"));
      return true;
    case "follow line":
      checkLine(statement, context, scope);
      return true;
    case "follow wall":
      checkWall(statement, context, scope);
      return true;
    case "move":
      checkMove(statement, context, scope);
      return true;
    case "home":
      checkHome(statement, context, scope);
      return true;
    case "aim":
      checkHead(statement.part, context, scope, false);
      checkSided("aim", statement.angle, scope);
      checkTravel(statement.part, statement.angle, context, scope);
      return true;
    case "scan":
      checkScan(statement, context, scope);
      return true;
    case "show":
      for (const value of statement.values) kindOf(value, scope);
      return true;
    case "light":
      requireShare(statement.share, "light", scope);
      return true;
    case "reset":
      checkReset(statement.what, context, scope);
      return true;
    default:
      return false;
  }
}

type Of<T extends Statement["type"]> = Extract<Statement, { type: T }>;

/** The floor sensor a step names, and which of its spots; null when there is none. */
export function floorNamed(
  sensors: readonly Sensor[],
  name: string,
): { sensor: Extract<Sensor, { kind: "floor" }>; spot: string } | null {
  for (const sensor of sensors) {
    if (sensor.kind !== "floor") continue;
    if (name === sensor.name) return { sensor, spot: "" };
    if (name.startsWith(`${sensor.name}.`)) return { sensor, spot: name.slice(sensor.name.length + 1) };
    if (name.startsWith(`${sensor.name}[`)) return { sensor, spot: name.slice(sensor.name.length) };
  }
  return null;
}

function checkLine(statement: Of<"follow line">, context: CheckContext, scope: KindScope): void {
  const { sensors } = context.robot;
  const floors = sensors.filter((sensor) => sensor.kind === "floor");
  const found = floorNamed(sensors, statement.sensor.name);
  const fits = found ? lineFits(found, statement.edge !== null) : false;
  if (!fits) {
    const likely = floors[0] ? suggested(floors[0], statement.edge !== null) : null;
    scope.report(cannotFollow(statement.sensor, statement.sensor.name, statement.edge !== null, likely));
  }
  if (found && fits) adviseLine(statement, found.sensor, scope);
  const crossings = statement.tails.find((tail) => tail.word === "crossings");
  if (crossings && statement.edge !== null && crossings.choice !== "straight") scope.report(oneSpot(crossings));
  checkTails("follow line", statement.tails, FOLLOWING, context, scope);
  if (!statement.tails.some((tail) => tail.word === "for" || tail.word === "until"))
    if (crossings?.choice !== "stop") scope.report(needsEnd(statement, "follow line", "until robot.travel > 60 cm"));
}

/** Curves a floor for line followers usually has, m: what a speed is advised for. */
const USUAL_CURVE_M = 0.4;

/** Says where the sensor sits too far back to follow by, and which speed it can hold. */
function adviseLine(statement: Of<"follow line">, sensor: Extract<Sensor, { kind: "floor" }>, scope: KindScope): void {
  if (sensor.xM < 0.02) scope.report(sensorTooFarBack(statement.sensor, sensor.name));
  const at = statement.tails.find((tail) => tail.word === "at");
  const asked = at?.value ? literalValue(at.value) : null;
  const widest = Math.max(0, ...floorOffsets(sensor.layout, sensor.count, sensor.spacingM));
  const most = statement.edge !== null ? sensor.spotM / 2 : sensor.layout === "pair" ? widest / 2 : widest;
  const fastest = fastestOnLine(most, sensor.spotM, sensor.periodMs / 1000, USUAL_CURVE_M);
  if (at?.value && asked !== null && asked > fastest * 1.05)
    scope.report(fastLine(at.value, `${plainDigits(Math.floor(fastest * 100), 0)} cm/s`, `${USUAL_CURVE_M * 100} cm`));
}

function lineFits(
  { sensor, spot }: { sensor: Extract<Sensor, { kind: "floor" }>; spot: string },
  onEdge: boolean,
): boolean {
  if (!onEdge) return sensor.layout !== "single" && spot === "";
  if (sensor.layout === "single") return spot === "";
  if (sensor.layout === "pair") return spot === "left" || spot === "right";
  const index = /^\[([0-9]+)\]$/.exec(spot);
  return index !== null && Number(index[1]) >= 1 && Number(index[1]) <= sensor.count;
}

function suggested(sensor: Extract<Sensor, { kind: "floor" }>, onEdge: boolean): string | null {
  if (!onEdge) return sensor.layout === "single" ? null : sensor.name;
  return sensor.layout === "single" ? sensor.name : `${sensor.name}${sensor.layout === "pair" ? ".left" : "[1]"}`;
}

function checkWall(statement: Of<"follow wall">, context: CheckContext, scope: KindScope): void {
  requireDimension(statement.away, LENGTH, "follow wall", "cm", scope);
  const eyes = context.robot.sensors.filter((sensor) => sensor.kind === "eye").map((sensor) => sensor.name);
  if (!eyes.includes(statement.sensor.name))
    scope.report(unknownMotor(statement.sensor, statement.sensor.name, eyes[0] ?? null, "eye"));
  checkTails("follow wall", statement.tails, FOLLOWING, context, { ...scope, besideWall: true });
  const corners = statement.tails.find((tail) => tail.word === "corners");
  if (corners && aheadOf(context.robot, statement.sensor.name) === null) scope.report(nothingAhead(corners));
  if (corners?.choice !== "stop" && !statement.tails.some((tail) => tail.word === "for" || tail.word === "until"))
    scope.report(needsEnd(statement, "follow wall", "until wall ends"));
}

/** What of a robot looks ahead while an eye looks to the side: another eye, or a bumper; null without either. */
export function aheadOf(robot: Robot, side: string): Sensor | null {
  const ahead = ({ aimRad }: { aimRad: number }) => Math.abs(aimRad) < 0.5;
  const eye = robot.sensors.find(
    (sensor) => sensor.kind === "eye" && sensor.name !== side && sensor.head === null && ahead(sensor),
  );
  return eye ?? robot.sensors.find((sensor) => sensor.kind === "bumper" && sensor.xM > 0 && ahead(sensor)) ?? null;
}

/** Names that can be moved: motors beside the drive, servos, and the attachments they turn. */
function movableNames({ robot }: CheckContext): string[] {
  const driving = new Set(robot.wheels.map((wheel) => wheel.drivenBy));
  const motors = robot.motors.filter((motor) => !driving.has(motor.name));
  const parts = robot.attachments.filter((part) => part.drivenBy !== null);
  return [...new Set([...motors, ...robot.servos, ...parts].map((part) => part.name))];
}

function checkPart(part: Name, context: CheckContext, scope: KindScope): boolean {
  const names = movableNames(context);
  if (names.includes(part.name)) return true;
  const drives = context.robot.wheels.some((wheel) => wheel.drivenBy === part.name);
  scope.report(drives ? driveMotor(part, part.name) : unknownMotor(part, part.name, nearestWord(part.name, names)));
  return false;
}

function servoOf(part: Name, context: CheckContext): Servo | undefined {
  const mover = moverOf(context.robot, part.name);
  return context.robot.servos.find((servo) => servo.name === mover);
}

function checkMove(statement: Of<"move">, context: CheckContext, scope: KindScope): void {
  const known = checkPart(statement.part, context, scope);
  if (statement.angle) {
    const kind = requireDimension(statement.angle, ANGLE, "move", "deg", scope);
    if (kind?.is === "quantity" && kind.angle === "robot") scope.report(mixedAngles(statement.angle));
    if (statement.how === "to") checkTravel(statement.part, statement.angle, context, scope);
  } else if (!statement.tails.some((tail) => tail.word === "at"))
    scope.report(needsEnd(statement, "move", `move ${statement.part.name} to 90 deg`));
  checkTails("move", statement.tails, MOVING, context, scope);
  if (!known) return;
  const servo = servoOf(statement.part, context);
  const mover = moverOf(context.robot, statement.part.name);
  const motor = context.robot.motors.find((candidate) => candidate.name === mover);
  const { attachments } = context.robot;
  const fitted = attachments.find((part) => part.name === statement.part.name || part.drivenBy === mover);
  const angles =
    Boolean(motor?.encoder) ||
    potentiometerOn(context.robot, mover) !== null ||
    (fitted ? anglesKnown(context.robot, fitted) : false);
  const canMove = servo ? (servo.kind === "positional") === (statement.how !== null) : angles;
  if (!canMove)
    scope.report(cannotMove(statement.part, statement.part.name, servo ? servo.kind : "motor", statement.how !== null));
}

function checkHome(statement: Of<"home">, context: CheckContext, scope: KindScope): void {
  const known = checkPart(statement.part, context, scope);
  checkTails("home", statement.tails, { ...MOVING, allowed: ["at", "using", "limit", "until"] }, context, scope);
  const mover = moverOf(context.robot, statement.part.name);
  if (known && !context.robot.motors.find((motor) => motor.name === mover)?.encoder)
    scope.report(cannotHome(statement.part, statement.part.name));
}

function checkHead(part: Name, context: CheckContext, scope: KindScope, withEye: boolean): void {
  const servos = context.robot.servos.filter((servo) => servo.kind === "positional");
  const heads = withEye
    ? servos.filter((servo) => context.robot.sensors.some((s) => s.kind === "eye" && s.head === servo.name))
    : servos;
  const names = heads.map((servo) => servo.name);
  if (!names.includes(part.name)) scope.report(notAHead(part, part.name, withEye, names));
}

function checkScan(statement: Of<"scan">, context: CheckContext, scope: KindScope): void {
  checkHead(statement.part, context, scope, true);
  for (const angle of [statement.from, statement.to]) {
    checkSided("scan", angle, scope);
    checkTravel(statement.part, angle, context, scope);
  }
  requireDimension(statement.looks, NUMBER, "looks", "", scope);
  const looks = literalValue(statement.looks);
  if (looks !== null && (looks < 2 || looks > 60 || looks !== Math.floor(looks)))
    scope.report(wholeLooks(statement.looks));
}

/** Warns of an angle beyond the stops of a part. */
function checkTravel(part: Name, angle: Expression, context: CheckContext, scope: KindScope): void {
  const value = signedLiteral(angle);
  if (value === null || scope.rezeroed?.has(moverOf(context.robot, part.name))) return;
  const { robot } = context;
  const servo = servoOf(part, context);
  const fitted = robot.attachments.find(
    (candidate) => candidate.name === part.name || candidate.drivenBy === part.name,
  );
  const turning = fitted?.kind === "spinner" || fitted?.kind === "belt";
  const range =
    servo?.kind === "positional"
      ? ([servo.lowRad, servo.highRad] as const)
      : fitted && !turning
        ? endStopsRad(fitted)
        : null;
  if (!range || (value >= range[0] - 1e-6 && value <= range[1] + 1e-6)) return;
  const words = (rad: number) => `${plainDigits((rad * 180) / PI, 1)} deg`;
  scope.report(pastStop(angle, part.name, words(range[0]), words(range[1])));
}

function signedLiteral(expression: Expression): number | null {
  if (expression.type !== "sided") return literalValue(expression);
  const value = literalValue(expression.operand);
  return value === null ? null : expression.side === "left" ? value : -value;
}

function checkReset(what: Name, context: CheckContext, scope: KindScope): void {
  const { robot } = context;
  const gyros = robot.sensors.filter((sensor) => sensor.kind === "gyro").map((sensor) => sensor.name);
  const driving = robot.wheels.map((wheel) => wheel.drivenBy);
  const motors = robot.motors.filter((motor) => motor.encoder && !driving.includes(motor.name)).map((m) => m.name);
  const names = ["robot", ...gyros, ...motors];
  if (!names.includes(what.name)) scope.report(cannotReset(what, what.name, names));
}

/** Whether a `move` sets and passes on. */
export function movePassesOn(statement: Of<"move">): boolean {
  return statement.how === null && !endsItself(statement.tails);
}
