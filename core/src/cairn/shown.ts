// Values as a robot's display shows them: with the unit people use.
import { COLOUR_NAMES } from "../field/colours.js";
import { plainDigits } from "../units/quantity.js";
import { dimensionUnit } from "../units/units.js";
import { type CompileScope, compileValue, kindInScope } from "./compileExpressions.js";
import { boundedValue } from "./compileRanges.js";
import type { Task } from "./task.js";
import type { Expression } from "./tree.js";

/** @param source - the words of the value, shown before it unless it is a text */
export function shownValue(expression: Expression, source: string, scope: CompileScope): (task: Task) => string {
  const value = boundedValue(compileValue(expression, scope), expression, source);
  const kind = kindInScope(expression, scope);
  if (kind.is === "text") return (task) => String(value(task));
  const plain = (task: Task): string => {
    const now = value(task);
    if (typeof now === "string") return now;
    if (kind.is === "truth") return now !== 0 ? "yes" : "no";
    if (kind.is === "colour") return COLOUR_NAMES[now] ?? "?";
    if (kind.is !== "quantity") return plainDigits(now, 3);
    const { unit, scale } = dimensionUnit(kind.dimension);
    return `${plainDigits(now / scale, 2)}${unit === "" ? "" : ` ${unit}`}`;
  };
  return (task) => `${source} ${plain(task)}`;
}
