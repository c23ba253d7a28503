// What each driving step needs: dimensions, sides, an end, and values a robot can follow.
import { driveKind } from "../drives/kinds.js";
import { PI } from "../math/trig.js";
import {
  ACCELERATION,
  ANGLE,
  type Dimension,
  LENGTH,
  NUMBER,
  SPEED,
  sameDimension,
  TIME,
  TURN_ACCELERATION,
  TURN_RATE,
} from "../units/dimension.js";
import { plainDigits } from "../units/quantity.js";
import { nearestWord, type TailWord } from "../words/language.js";
import type { CheckContext } from "./checkContext.js";
import { type KindScope, literalValue, requireCondition, requireDimension } from "./expressionKinds.js";
import {
  cannotSlide,
  cannotTurn,
  carFacing,
  driveMotor,
  lockedAxle,
  mixedAngles,
  needsEncoders,
  needsEnd,
  needsOdometry,
  negativeSpeed,
  notPositive,
  oneMotor,
  overHundred,
  tailNotHere,
  tightCircle,
  tooFast,
  unknownMotor,
  whichSide,
  wholeTimes,
} from "./problems.js";
import type { Expression, Name, Statement, Tail } from "./tree.js";

export interface TailRule {
  readonly allowed: readonly TailWord[];
  /** Dimension and usual unit of `at`, and of `ramp`. */
  readonly at: readonly [Dimension, string];
  readonly ramp: readonly [Dimension, string];
  /** `at` is a speed sideways. */
  readonly aside?: true;
}

const ALL: readonly TailWord[] = ["at", "using", "ramp", "for", "until", "limit", "then"];
const STRAIGHT: TailRule = { allowed: ALL, at: [SPEED, "cm/s"], ramp: [ACCELERATION, "cm/s/s"] };
const SLIDING: TailRule = { ...STRAIGHT, aside: true };
const TURNING: TailRule = { allowed: ALL, at: [TURN_RATE, "deg/s"], ramp: [TURN_ACCELERATION, "deg/s/s"] };
const FREE: TailRule = { ...STRAIGHT, allowed: ["ramp", "for", "until", "limit", "then"] };
const HANDING: TailRule = { ...STRAIGHT, allowed: ["for", "until", "limit"] };
const RAW: TailRule = { ...STRAIGHT, allowed: ["for", "until", "limit", "then"] };

/** Reports what is wrong with one driving or motor step. */
export function checkMotion(statement: Statement, context: CheckContext, scope: KindScope): void {
  switch (statement.type) {
    case "go":
      return checkGo(statement, context, scope);
    case "slide":
      return checkSlide(statement, context, scope);
    case "go to":
      return checkGoTo(statement, context, scope);
    case "go along":
      if (statement.look) {
        requireDimension(statement.look, LENGTH, "look", "cm", scope);
        const look = literalValue(statement.look);
        if (look !== null && look <= 0) scope.report(notPositive(statement.look, "The distance it looks ahead"));
      }
      checkTails("go along", statement.tails, STRAIGHT, context, scope);
      return checkOdometry(statement, "go along", context, scope);
    case "turn":
      return checkTurn(statement, context, scope);
    case "hand over":
      return checkTails("hand over", statement.tails, HANDING, context, scope);
    case "face":
      if (statement.angle) requireRobotAngle(statement.angle, "face", scope);
      if (isPinned(context)) scope.report(lockedAxle(statement, context.robot.name));
      else if (isCar(context)) scope.report(cannotTurn(statement, leastRadius(context)));
      checkTails("face", statement.tails, TURNING, context, scope);
      return checkTimed(statement, "face", context, scope);
    case "arc":
      return checkArc(statement, context, scope);
    case "roll":
      requireDimension(statement.speed, SPEED, "roll", "cm/s", scope);
      if (statement.turning) requireDimension(statement.turning, TURN_RATE, "turning", "deg/s", scope, "left ");
      return checkTails("roll", statement.tails, FREE, context, scope);
    case "wheels":
      for (const side of [statement.left, statement.right]) requireDimension(side, SPEED, "wheels", "cm/s", scope);
      if (isCar(context)) scope.report(oneMotor(statement, "wheels"));
      return checkTails("wheels", statement.tails, FREE, context, scope);
    case "power":
      return checkPower(statement, context, scope);
    case "stop":
    case "coast":
      if (statement.motor) checkMotorName(statement.motor, context, scope, false);
      return;
    case "repeat":
      return checkTimes(statement.times, scope);
    default:
  }
}

export function isCar(context: CheckContext): boolean {
  return driveKind(context.robot.drive).steers;
}

/** A car type whose axle cannot turn. */
function isPinned({ drive }: CheckContext): boolean {
  return drive.steering !== null && drive.steering.mostRad < 0.002;
}

/** Smallest radius a car type can drive, rounded up to a whole centimetre. */
function leastRadius(context: CheckContext): string {
  const least = context.drive.steering?.leastRadiusM ?? 0;
  return `${-Math.floor(-least * 100)} cm`;
}

function has(tails: readonly Tail[], ...words: readonly TailWord[]): boolean {
  return tails.some((tail) => words.includes(tail.word));
}

function checkGo(statement: Extract<Statement, { type: "go" }>, context: CheckContext, scope: KindScope): void {
  const word = statement.back ? "back" : "go";
  if (statement.distance) requireDimension(statement.distance, LENGTH, word, "cm", scope);
  else if (!has(statement.tails, "for", "until"))
    scope.report(needsEnd(statement, word, `${word} until robot.travel > 60 cm`));
  checkTails(word, statement.tails, STRAIGHT, context, scope);
  checkTimed(statement, word, context, scope);
}

function checkSlide(statement: Extract<Statement, { type: "slide" }>, context: CheckContext, scope: KindScope): void {
  if (statement.distance) requireDimension(statement.distance, LENGTH, "slide", "cm", scope);
  else if (!has(statement.tails, "for", "until"))
    scope.report(needsEnd(statement, "slide", `slide ${statement.side ?? "left"} 20 cm`));
  checkTails("slide", statement.tails, SLIDING, context, scope);
  if (!driveKind(context.robot.drive).slides) scope.report(cannotSlide(statement, context.robot.name));
  else checkOdometry(statement, "slide", context, scope);
}

function checkGoTo(statement: Extract<Statement, { type: "go to" }>, context: CheckContext, scope: KindScope): void {
  if (statement.place)
    for (const side of [statement.place.x, statement.place.y]) requireDimension(side, LENGTH, "go to", "cm", scope);
  if (statement.facing) {
    requireRobotAngle(statement.facing, "face", scope);
    if (isCar(context)) scope.report(carFacing(statement.facing));
  }
  checkTails("go to", statement.tails, STRAIGHT, context, scope);
  checkOdometry(statement, "go to", context, scope);
}

/** A place is found by the wheels' turns: without encoders nothing tells where the robot is. */
function checkOdometry(at: Statement, word: string, context: CheckContext, scope: KindScope): void {
  if (!context.drive.hasEncoders) scope.report(needsOdometry(at, word));
}

/** Amount of `turn` and `arc`: an angle of the robot, whose side is said or carried by a name. */
function checkAmount(
  word: string,
  amount: Expression | null,
  sideAlone: boolean,
  tails: readonly Tail[],
  at: Statement | null,
  scope: KindScope,
): void {
  if (amount) {
    const constant = literalValue(amount);
    const bare = amount.type === "number" && amount.unit === "";
    const known = requireRobotAngle(amount, word, scope);
    if (known && constant !== null && constant !== 0 && !bare)
      scope.report(whichSide(amount, degrees(amount, constant)));
  } else if (at && sideAlone && !has(tails, "for", "until")) scope.report(needsEnd(at, word, `${word} left 90 deg`));
}

/** An angle of the robot that says its side. */
export function checkSided(word: string, angle: Expression, scope: KindScope): void {
  checkAmount(word, angle, false, [], null, scope);
}

function degrees(amount: Expression, constant: number): string {
  if (amount.type === "number") return `${amount.digits} ${amount.unit}`;
  return `${plainDigits((Math.abs(constant) * 180) / PI, 2)} deg`;
}

function requireRobotAngle(expression: Expression, word: string, scope: KindScope): boolean {
  const kind = requireDimension(expression, ANGLE, word, "deg", scope, word === "face" ? "" : "left ");
  if (kind?.is === "quantity" && kind.angle === "shaft") scope.report(mixedAngles(expression));
  return kind !== null;
}

function checkTurn(statement: Extract<Statement, { type: "turn" }>, context: CheckContext, scope: KindScope): void {
  if (isPinned(context)) scope.report(lockedAxle(statement, context.robot.name));
  else if (isCar(context)) scope.report(cannotTurn(statement, leastRadius(context)));
  checkAmount("turn", statement.amount, statement.side !== null, statement.tails, statement, scope);
  checkTails("turn", statement.tails, TURNING, context, scope);
  checkTimed(statement, "turn", context, scope);
}

function checkArc(statement: Extract<Statement, { type: "arc" }>, context: CheckContext, scope: KindScope): void {
  checkAmount("arc", statement.amount, statement.side !== null, statement.tails, statement, scope);
  requireDimension(statement.radius, LENGTH, "radius", "cm", scope);
  const radius = literalValue(statement.radius);
  if (radius !== null && radius <= 0) scope.report(notPositive(statement.radius, "The radius"));
  const least = context.drive.steering?.leastRadiusM ?? 0;
  if (isPinned(context)) scope.report(lockedAxle(statement, context.robot.name));
  else if (radius !== null && radius > 0 && radius < least * 0.999)
    scope.report(tightCircle(statement.radius, context.robot.name, leastRadius(context)));
  checkTails("arc", statement.tails, STRAIGHT, context, scope);
  checkTimed(statement, "arc", context, scope);
}

function checkPower(statement: Extract<Statement, { type: "power" }>, context: CheckContext, scope: KindScope): void {
  const values = statement.left === statement.right ? [statement.left] : [statement.left, statement.right];
  for (const value of values) requireShare(value, "power", scope);
  if (statement.motor) checkMotorName(statement.motor, context, scope, true);
  else if (isCar(context) && statement.left !== statement.right) scope.report(oneMotor(statement, "power"));
  checkTails("power", statement.tails, RAW, context, scope);
}

function checkMotorName(name: Name, context: CheckContext, scope: KindScope, freeOnly: boolean): void {
  const turning = context.robot.servos.filter((servo) => servo.kind === "continuous");
  const names = [...context.robot.motors, ...turning].map((motor) => motor.name);
  if (!names.includes(name.name)) scope.report(unknownMotor(name, name.name, nearestWord(name.name, names)));
  else if (freeOnly && context.robot.wheels.some((wheel) => wheel.drivenBy === name.name))
    scope.report(driveMotor(name, name.name));
}

export function requireShare(value: Expression, word: string, scope: KindScope): void {
  requireDimension(value, NUMBER, word, "%", scope);
  const constant = literalValue(value);
  if (constant === null || Math.abs(constant) <= 1.0000001) return;
  const literal =
    value.type === "number" ? value : value.type === "minus" && value.operand.type === "number" ? value.operand : null;
  const sign = value.type === "minus" ? "-" : "";
  const likely = literal && literal.unit === "" && Math.abs(constant) <= 100 ? `${sign}${literal.digits} %` : null;
  scope.report(
    overHundred(value, literal ? `${sign}${literal.digits}${literal.unit ? ` ${literal.unit}` : ""}` : "This", likely),
  );
}

function checkTimes(times: Expression | null, scope: KindScope): void {
  if (!times) return;
  requireDimension(times, NUMBER, "repeat", "", scope);
  const constant = literalValue(times);
  if (constant !== null && (constant < 0 || constant !== Math.floor(constant))) scope.report(wholeTimes(times));
}

export function checkTails(
  step: string,
  tails: readonly Tail[],
  rule: TailRule,
  context: CheckContext,
  scope: KindScope,
): void {
  for (const tail of tails) {
    if (!rule.allowed.includes(tail.word)) {
      scope.report(tailNotHere(tail, tail.word, step));
      continue;
    }
    const value = tail.value;
    if (!value) continue;
    if (tail.word === "until") requireCondition(value, scope);
    else if (tail.word === "using") requireShare(value, "using", scope);
    else if (tail.word === "gain" || tail.word === "damp") requireDimension(value, NUMBER, tail.word, "%", scope);
    else if (tail.word === "bridge") requireDimension(value, LENGTH, "bridge", "cm", scope);
    else if (tail.word === "for") requireDimension(value, TIME, "for", "s", scope);
    else if (tail.word === "limit") requireLimit(value, rule, scope);
    else {
      const [dimension, unit] = tail.word === "at" ? rule.at : rule.ramp;
      requireDimension(value, dimension, tail.word, unit, scope);
      checkPositive(tail, value, scope);
      if (tail.word === "at") checkReach(value, rule, context, scope);
    }
  }
}

/** `limit` takes a time, or for straight steps also a length, for turns an angle. */
function requireLimit(value: Expression, rule: TailRule, scope: KindScope): void {
  if (value.type === "number" && sameDimension(value.dimension, TIME)) return;
  const also = rule.at[0] === SPEED ? LENGTH : ANGLE;
  const quiet: KindScope = { ...scope, report: () => {} };
  if (requireDimension(value, also, "limit", "", quiet)) return;
  requireDimension(value, TIME, "limit", "s", scope);
}

function checkPositive(tail: Tail, value: Expression, scope: KindScope): void {
  const constant = literalValue(value);
  if (constant === null) return;
  if (constant < 0 && tail.word === "at") {
    const literal = value.type === "minus" && value.operand.type === "number" ? value.operand : null;
    scope.report(negativeSpeed(value, literal ? `${literal.digits} ${literal.unit}` : null));
  } else if (constant <= 0) scope.report(notPositive(value, tail.word === "at" ? "The speed" : "The ramp"));
}

function checkReach(value: Expression, rule: TailRule, context: CheckContext, scope: KindScope): void {
  const constant = literalValue(value);
  if (constant === null) return;
  const { topSpeedMS, topTurnRadS, mixing } = context.drive;
  const straight = rule.at[0] === SPEED;
  const most = straight ? (rule.aside ? (mixing?.topAsideMS ?? topSpeedMS) : topSpeedMS) : topTurnRadS;
  if (constant <= most) return;
  scope.report(
    tooFast(
      value,
      straight ? `${plainDigits(most * 100, 0)} cm/s` : `${plainDigits((topTurnRadS * 180) / PI, 0)} deg/s`,
    ),
  );
}

/** Without encoders a measured amount runs by time, which needs the speed at power. */
function checkTimed(at: Statement, word: string, context: CheckContext, scope: KindScope): void {
  const { drive, robot } = context;
  const byGyro = (word === "turn" || word === "face") && robot.sensors.some((sensor) => sensor.kind === "gyro");
  if (!drive.hasEncoders && drive.timed === null && !byGyro) scope.report(needsEncoders(at, word));
}
