// Values of a running mission in their physical ranges: one that grew beyond ends the mission with a sentence,
// before a step is told to go there.
import { type Dimension, NUMBER } from "../units/dimension.js";
import { LARGEST_NUMBER, largestOf } from "../units/ranges.js";
import { type CompileScope, kindInScope } from "./compileExpressions.js";
import type { NumberOf, Task, ValueOf } from "./task.js";
import type { Expression } from "./tree.js";

/** As written, shortened: for the reason a mission stopped. */
const LONGEST_QUOTE = 40;

function beyond(task: Task, text: string, words: string): void {
  const quoted = text.length > LONGEST_QUOTE ? `${text.slice(0, LONGEST_QUOTE)}…` : text;
  const where = task.record ? `, after step ${task.record.step}` : "";
  task.machine.stop(`the value of "${quoted}" grew beyond ${words}, the most there is here${where}`);
}

function dimensionOf(expression: Expression, scope: CompileScope): Dimension {
  const kind = kindInScope(expression, scope);
  return kind.is === "quantity" ? kind.dimension : NUMBER;
}

/** @param text - the expression as written. @returns its value, 0 once it is beyond its range */
export function boundedNumber(inner: NumberOf, expression: Expression, text: string, scope: CompileScope): NumberOf {
  if (expression.type === "number" || expression.type === "truth") return inner;
  const { most, words } = largestOf(dimensionOf(expression, scope));
  return (task) => {
    const value = inner(task);
    if (value >= -most && value <= most) return value;
    beyond(task, text, words);
    return 0;
  };
}

/** The same for what is kept or told: a text, or a number of any dimension. */
export function boundedValue(inner: ValueOf, expression: Expression, text: string): ValueOf {
  if (expression.type === "number" || expression.type === "truth" || expression.type === "text") return inner;
  return (task) => {
    const value = inner(task);
    if (typeof value !== "number" || (value >= -LARGEST_NUMBER && value <= LARGEST_NUMBER)) return value;
    beyond(task, text, "1000000000000");
    return 0;
  };
}
