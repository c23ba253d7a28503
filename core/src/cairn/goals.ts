// The goal in its parts: a goal that was not met says which part of it failed, what was found, and by how much.
import { plainDigits } from "../units/quantity.js";
import { dimensionUnit } from "../units/units.js";
import { type CompileScope, compileCondition, compileNumber, kindInScope } from "./compileExpressions.js";
import { shownValue } from "./shown.js";
import type { NumberOf, Task } from "./task.js";
import type { Expression } from "./tree.js";

export interface GoalPart {
  /** As written. */
  readonly text: string;
  readonly test: NumberOf;
  /** What was found instead, in words; empty where there is nothing to say beyond that it failed. */
  readonly found: (task: Task) => string;
}

/** Parts that all have to be true. */
function partsOf(condition: Expression): readonly Expression[] {
  if (condition.type === "group") return partsOf(condition.inner);
  return condition.type === "logic" && condition.operator === "and" ? condition.parts.flatMap(partsOf) : [condition];
}

/** @param source - the words of an expression */
export function goalParts(
  condition: Expression,
  scope: CompileScope,
  source: (expression: Expression) => string,
): GoalPart[] {
  return partsOf(condition).map((part) => ({
    text: source(part),
    test: compileCondition(part, scope),
    found: foundWords(part, scope, source),
  }));
}

function foundWords(
  part: Expression,
  scope: CompileScope,
  source: (expression: Expression) => string,
): GoalPart["found"] {
  if (part.type === "untouched") return ({ machine }) => machine.judge.touched(part.but);
  if (part.type === "inside") {
    return ({ machine }) => {
      const outsideM = machine.judge.outsideM(part.zone);
      return outsideM > 0 ? `the robot stands ${plainDigits(outsideM * 100, 1)} cm outside` : "";
    };
  }
  if (part.type === "name" || part.type === "is") {
    const value = shownValue(part.type === "is" ? part.left : part, "", scope);
    return (task) => `it was ${value(task).trim()}`;
  }
  if (part.type !== "compare") return () => "";
  const kind = kindInScope(part.left, scope);
  if (kind.is !== "quantity") return () => "";
  const [left, right] = [compileNumber(part.left, scope), compileNumber(part.right, scope)];
  const { unit, scale } = dimensionUnit(kind.dimension);
  const written = (value: number) => `${plainDigits(value / scale, 2)}${unit === "" ? "" : ` ${unit}`}`;
  const words = source(part.left);
  return (task) => {
    const value = left(task);
    const off = value - right(task);
    return `${words} was ${written(value)}, ${written(Math.abs(off))} too ${off > 0 ? "much" : "little"}`;
  };
}

/** The parts that failed, each with what was found: the end of "the goal was not met: …". */
export function failedWords(parts: readonly GoalPart[], task: Task): string {
  return parts
    .filter(({ test }) => test(task) === 0)
    .map(({ text, found }) => {
      const words = found(task);
      return words === "" ? text : `${text} (${words})`;
    })
    .join("; ");
}
