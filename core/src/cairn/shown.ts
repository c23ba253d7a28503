// Values as a robot's display shows them: with the unit people use.
import { type CompileScope, compileValue, kindInScope } from "./compileExpressions.js";
import { boundedValue } from "./compileRanges.js";
import type { Task } from "./task.js";
import type { Expression } from "./tree.js";
import { valueWords } from "./wording.js";

/** @param source - the words of the value, shown before it unless it is a text */
export function shownValue(expression: Expression, source: string, scope: CompileScope): (task: Task) => string {
  const value = boundedValue(compileValue(expression, scope), expression, source);
  const kind = kindInScope(expression, scope);
  if (kind.is === "text") return (task) => String(value(task));
  return (task) => `${source} ${valueWords(kind, value(task))}`;
}
