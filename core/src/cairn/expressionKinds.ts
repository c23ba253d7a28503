// What kind of value an expression has, with every problem found on the way. Names are looked up through
// the scope; nothing here knows about steps.
import {
  ANGLE,
  type Dimension,
  dimensionWords,
  NUMBER,
  overDimension,
  rootDimension,
  sameDimension,
  TIME,
  timesDimension,
} from "../units/dimension.js";
import { defaultUnit } from "../units/units.js";
import { FUNCTIONS, nearestWord } from "../words/language.js";
import {
  type AngleOf,
  type Kind,
  kindWords,
  mixAngles,
  quantityKind,
  sameKind,
  TEXT,
  TRUTH,
  UNKNOWN,
} from "./kinds.js";
import {
  argumentCount,
  conditionAsValue,
  goalOnly,
  isOnMeasured,
  mixedAngles,
  mixedDimensions,
  needsUnit,
  notCondition,
  otherKind,
  outsideList,
  type Problem,
  type Span,
  unknownFunction,
  wallOnly,
  wantsDimension,
  wholePower,
} from "./problems.js";
import type { ListSymbol } from "./symbols.js";
import type { Expression, Name } from "./tree.js";

const MOST_POWER = 6;

export interface KindScope {
  /** Kind of a name or reading; reports what is wrong with it. */
  lookUp(expression: Extract<Expression, { type: "name" }>): { kind: Kind; measured: boolean };
  /** Whether `inside` and `score` may be used. */
  readonly inGoal: boolean;
  /** Motors and servos whose zero the mission sets anew. */
  readonly rezeroed?: ReadonlySet<string>;
  /** Inside `until` of a step that follows a wall. */
  readonly besideWall?: boolean;
  checkZone(zone: string, at: Span): void;
  /** Something of the field that can be touched. */
  checkThing?(name: string, at: Span): void;
  /** Kind of what a routine gives, with all that is wrong with calling it here; null when there is no such routine. */
  callRoutine(call: Extract<Expression, { type: "call" }>): Kind | null;
  /** A list or table by its name, with what is wrong where there is none. */
  list(name: Name): ListSymbol | null;
  /** A comparison whose sides agree. */
  compared(comparison: Extract<Expression, { type: "compare" }>): void;
  report(problem: Problem): void;
}

/** A constant made of literals only, SI; null otherwise. */
export function literalValue(expression: Expression): number | null {
  switch (expression.type) {
    case "number":
      return expression.value;
    case "minus": {
      const inner = literalValue(expression.operand);
      return inner === null ? null : -inner;
    }
    case "group":
      return literalValue(expression.inner);
    case "binary": {
      const left = literalValue(expression.left);
      const right = literalValue(expression.right);
      if (left === null || right === null) return null;
      if (expression.operator === "+") return left + right;
      if (expression.operator === "-") return left - right;
      return expression.operator === "*" ? left * right : left / right;
    }
    default:
      return null;
  }
}

function isMeasured(expression: Expression, scope: KindScope): boolean {
  if (expression.type === "name") {
    const quiet = { ...scope, report: () => {} };
    return expression.path.length > 1 && quiet.lookUp(expression).measured;
  }
  return expression.type === "binary"
    ? isMeasured(expression.left, scope) || isMeasured(expression.right, scope)
    : false;
}

/** Kind of any expression, conditions included. */
export function kindOf(expression: Expression, scope: KindScope): Kind {
  switch (expression.type) {
    case "number":
      return quantityKind(expression.dimension);
    case "text":
      return TEXT;
    case "truth":
      return TRUTH;
    case "missing":
      return UNKNOWN;
    case "name":
      return scope.lookUp(expression).kind;
    case "group":
      return kindOf(expression.inner, scope);
    case "minus":
    case "sided":
      return signedKind(expression, scope);
    case "binary":
      return binaryKind(expression, scope);
    case "call":
      return callKind(expression, scope);
    case "untouched":
      if (!scope.inGoal) scope.report(goalOnly(expression, "untouched"));
      else for (const thing of expression.but) scope.checkThing?.(thing, expression);
      return TRUTH;
    case "item": {
      const list = scope.list(expression.list);
      if (!list) return UNKNOWN;
      requireKey(expression.index, list, scope);
      return list.of;
    }
    case "has": {
      const list = scope.list(expression.list);
      if (list) requireKindOf(expression.key, list.by ?? list.of, scope);
      return TRUTH;
    }
    case "inside":
      if (!scope.inGoal) scope.report(goalOnly(expression, "inside"));
      else scope.checkZone(expression.zone, expression);
      return TRUTH;
    default:
      return conditionKind(expression, scope);
  }
}

type Of<T extends Expression["type"]> = Extract<Expression, { type: T }>;

function signedKind(expression: Of<"minus"> | Of<"sided">, scope: KindScope): Kind {
  const kind = kindOf(expression.operand, scope);
  if (kind.is === "quantity") {
    const turns = expression.type === "minus" || kind.dimension.angle !== 0;
    if (!turns) scope.report(mixedDimensions(expression, "A side", dimensionWords(kind.dimension), "put together"));
    return kind;
  }
  if (kind.is !== "unknown") scope.report(conditionAsValue(expression.operand));
  return UNKNOWN;
}

/** A value of a certain kind, with the mend for a bare number where there is one. */
export function requireKindOf(expression: Expression, wanted: Kind, scope: KindScope): void {
  if (wanted.is === "quantity") {
    requireDimension(expression, wanted.dimension, "this", defaultUnit(wanted.dimension) ?? "", scope);
    return;
  }
  const kind = kindOf(expression, scope);
  if (!sameKind(kind, wanted)) scope.report(otherKind(expression, kindWords(wanted), kindWords(kind)));
}

/** The number of a list's value, from 1, or the key of a table's. */
export function requireKey(index: Expression, list: ListSymbol, scope: KindScope): void {
  if (list.by) return requireKindOf(index, list.by, scope);
  requireDimension(index, NUMBER, `${list.line.name.name}[…]`, "", scope);
  const constant = literalValue(index);
  if (constant === null) return;
  if (constant < 1 || constant !== Math.floor(constant) || constant > list.line.most)
    scope.report(outsideList(index, list.line.name.name, list.line.most));
}

function quantityOrReport(expression: Expression, scope: KindScope): { dimension: Dimension; angle: AngleOf } | null {
  const kind = kindOf(expression, scope);
  if (kind.is === "quantity") return kind;
  if (kind.is !== "unknown") scope.report(conditionAsValue(expression));
  return null;
}

function isTextual(expression: Expression, scope: KindScope): boolean {
  if (expression.type === "text") return true;
  if (expression.type === "group") return isTextual(expression.inner, scope);
  if (expression.type === "binary")
    return expression.operator === "+" && (isTextual(expression.left, scope) || isTextual(expression.right, scope));
  if (expression.type !== "name" && expression.type !== "call" && expression.type !== "item") return false;
  return kindOf(expression, { ...scope, report: () => {} }).is === "text";
}

/** A whole number of times itself: the unit goes with it. */
function powerKind(expression: Of<"binary">, scope: KindScope): Kind {
  const base = quantityOrReport(expression.left, scope);
  const times = literalValue(expression.right);
  if (times === null || times !== Math.floor(times) || Math.abs(times) > MOST_POWER) {
    scope.report(wholePower(expression.right, MOST_POWER));
    return UNKNOWN;
  }
  if (!base) return UNKNOWN;
  let dimension = NUMBER;
  for (let i = 0; i < Math.abs(times); i += 1)
    dimension = (times > 0 ? timesDimension : overDimension)(dimension, base.dimension);
  return quantityKind(dimension, base.angle);
}

function binaryKind(expression: Of<"binary">, scope: KindScope): Kind {
  if (expression.operator === "^") return powerKind(expression, scope);
  if (expression.operator === "+" && isTextual(expression, scope)) {
    kindOf(expression.left, scope);
    kindOf(expression.right, scope);
    return TEXT;
  }
  const left = quantityOrReport(expression.left, scope);
  const right = quantityOrReport(expression.right, scope);
  if (!left || !right) return UNKNOWN;
  if (expression.operator === "*" || expression.operator === "/") {
    const dimension = (expression.operator === "*" ? timesDimension : overDimension)(left.dimension, right.dimension);
    return quantityKind(dimension, left.angle === "any" ? right.angle : left.angle);
  }
  if (bareNumber(expression.left, left, expression.right, right, scope)) return UNKNOWN;
  return agree(expression, left, right, expression.operator === "+" ? "added" : "subtracted", scope);
}

/** A number without a unit beside a value that has one: says which unit is missing. @returns whether it was so */
function bareNumber(
  left: Expression,
  leftKind: { dimension: Dimension },
  right: Expression,
  rightKind: { dimension: Dimension },
  scope: KindScope,
): boolean {
  for (const [bare, other] of [
    [right, leftKind],
    [left, rightKind],
  ] as const) {
    const literal = bare.type === "minus" ? bare.operand : bare;
    if (literal.type !== "number" || literal.unit !== "" || literal.value === 0) continue;
    const unit = defaultUnit(other.dimension);
    if (unit === null || sameDimension(other.dimension, NUMBER)) continue;
    scope.report(needsUnit(literal, literal.digits, dimensionWords(other.dimension), unit));
    return true;
  }
  return false;
}

function agree(
  at: Span,
  left: { dimension: Dimension; angle: AngleOf },
  right: { dimension: Dimension; angle: AngleOf },
  doing: string,
  scope: KindScope,
): Kind {
  if (!sameDimension(left.dimension, right.dimension)) {
    scope.report(mixedDimensions(at, capital(dimensionWords(left.dimension)), dimensionWords(right.dimension), doing));
    return UNKNOWN;
  }
  const angle = mixAngles(left.angle, right.angle);
  if (angle === null) scope.report(mixedAngles(at));
  return quantityKind(left.dimension, angle ?? "any");
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

function conditionKind(expression: Expression, scope: KindScope): Kind {
  switch (expression.type) {
    case "compare": {
      const left = quantityOrReport(expression.left, scope);
      const right = quantityOrReport(expression.right, scope);
      if (!left || !right || bareNumber(expression.left, left, expression.right, right, scope)) return TRUTH;
      if (agree(expression, left, right, "compared", scope).is !== "unknown") scope.compared(expression);
      return TRUTH;
    }
    case "heard":
      return TRUTH;
    case "wall ends":
      if (!scope.besideWall) scope.report(wallOnly(expression));
      return TRUTH;
    case "is":
      isKind(expression, scope);
      return TRUTH;
    case "logic":
      for (const part of expression.parts) requireCondition(part, scope);
      return TRUTH;
    case "not":
      requireCondition(expression.operand, scope);
      return TRUTH;
    case "held": {
      requireCondition(expression.operand, scope);
      requireDimension(expression.duration, TIME, "held", "ms", scope);
      return TRUTH;
    }
    default:
      return UNKNOWN;
  }
}

function isKind(expression: Of<"is">, scope: KindScope): void {
  const left = kindOf(expression.left, scope);
  for (const other of [expression.right, expression.to]) {
    if (!other) continue;
    const right = kindOf(other, scope);
    if (left.is === "quantity" && right.is === "quantity") {
      if (bareNumber(expression.left, left, other, right, scope)) return;
      agree(expression, left, right, "compared", scope);
    } else if (!sameKind(left, right))
      scope.report(mixedDimensions(expression, capital(kindWords(left)), kindWords(right), "compared"));
  }
  if (left.is === "quantity" && !expression.to && isMeasured(expression.left, scope))
    scope.report(isOnMeasured(expression));
}

/** Reports anything that is not a condition. */
export function requireCondition(expression: Expression, scope: KindScope): void {
  const kind = kindOf(expression, scope);
  if (kind.is !== "truth" && kind.is !== "unknown") scope.report(notCondition(expression, kindWords(kind)));
}

/**
 * Reports a value of the wrong dimension, with the mend that adds the usual unit to a bare number.
 * @returns the kind, or null when it is not a quantity of that dimension
 */
export function requireDimension(
  expression: Expression,
  wanted: Dimension,
  step: string,
  unit: string,
  scope: KindScope,
  mendPrefix = "",
): Kind | null {
  const kind = kindOf(expression, scope);
  if (kind.is === "unknown") return null;
  if (kind.is === "quantity" && sameDimension(kind.dimension, wanted)) return kind;
  const literal = expression.type === "number" ? expression : null;
  const mend = literal && unit !== "" ? `${mendPrefix}${literal.digits} ${unit}` : null;
  const got =
    literal && literal.unit === ""
      ? `${literal.digits} has no unit`
      : literal
        ? `${literal.digits} ${literal.unit} is ${kindWords(kind)}`
        : `this is ${kindWords(kind)}`;
  scope.report(wantsDimension(expression, step, dimensionWords(wanted), got, mend));
  return null;
}

function callKind(expression: Of<"call">, scope: KindScope): Kind {
  const { name, args } = expression;
  if (!(FUNCTIONS as readonly string[]).includes(name)) {
    const given = scope.callRoutine(expression);
    if (given) return given;
    scope.report(unknownFunction(expression, name, nearestWord(name, FUNCTIONS)));
    return UNKNOWN;
  }
  const counts: Record<string, readonly [number, number, string]> = {
    abs: [1, 1, "one value"],
    sign: [1, 1, "one value"],
    sqrt: [1, 1, "one value"],
    sin: [1, 1, "one angle"],
    cos: [1, 1, "one angle"],
    tan: [1, 1, "one angle"],
    wrap: [1, 1, "one angle"],
    mod: [2, 2, "a value and what it is divided by"],
    floor: [1, 2, "one value, or a value and a step"],
    ceil: [1, 2, "one value, or a value and a step"],
    atan2: [2, 2, "two values"],
    round: [1, 2, "one value, or a value and a step"],
    random: [2, 2, "a lowest and a highest value"],
    clamp: [3, 3, "a value, a lowest and a highest"],
    min: [2, 8, "two values or more"],
    max: [2, 8, "two values or more"],
  };
  const [fewest, most, words] = counts[name] as readonly [number, number, string];
  if (args.length < fewest || args.length > most) {
    scope.report(argumentCount(expression, name, words, args.length));
    return UNKNOWN;
  }
  const kinds = args.map((arg) => quantityOrReport(arg, scope));
  const first = kinds[0];
  if (kinds.some((kind) => !kind) || !first) return UNKNOWN;
  if (name === "wrap") {
    requireDimension(args[0] as Expression, ANGLE, name, "deg", scope);
    return quantityKind(ANGLE, first.angle);
  }
  if (name === "sin" || name === "cos" || name === "tan") {
    requireDimension(args[0] as Expression, ANGLE, name, "deg", scope);
    return quantityKind(NUMBER);
  }
  if (name === "sqrt") {
    const root = rootDimension(first.dimension);
    if (!root)
      scope.report(mixedDimensions(expression, "A square root", dimensionWords(first.dimension), "put together"));
    return root ? quantityKind(root) : UNKNOWN;
  }
  for (const kind of kinds.slice(1)) if (kind) agree(expression, first, kind, "put together", scope);
  if (name === "sign") return quantityKind(NUMBER);
  return name === "atan2" ? quantityKind(ANGLE) : quantityKind(first.dimension, first.angle);
}
