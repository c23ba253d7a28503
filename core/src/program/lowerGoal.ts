// The goal in its parts: a goal that was not met says which part of it failed, what was found, and by how much.
import type { Expression } from "../cairn/tree.js";
import { dimensionUnit } from "../units/units.js";
import type { FoundCode, GoalCode } from "./instructions.js";
import { boundedValue, kindInScope, type LowerScope, lowerValue, wordingOf } from "./lowerCode.js";

/** Parts that all have to be true. */
function partsOf(condition: Expression): readonly Expression[] {
  if (condition.type === "group") return partsOf(condition.inner);
  return condition.type === "logic" && condition.operator === "and" ? condition.parts.flatMap(partsOf) : [condition];
}

/** @param source - the words of an expression */
export function goalCode(
  condition: Expression,
  scope: LowerScope,
  source: (expression: Expression) => string,
): GoalCode {
  return {
    code: [...lowerValue(condition, scope)],
    text: source(condition),
    parts: partsOf(condition).map((part) => ({
      text: source(part),
      code: [...lowerValue(part, scope)],
      found: foundCode(part, scope, source),
    })),
  };
}

function foundCode(part: Expression, scope: LowerScope, source: (expression: Expression) => string): FoundCode {
  if (part.type === "untouched") return { is: "touched", but: [...part.but] };
  if (part.type === "inside") return { is: "outside", zone: part.zone };
  if (part.type === "name" || part.type === "is") {
    const asked = part.type === "is" ? part.left : part;
    const kind = kindInScope(asked, scope);
    const value = [...boundedValue(lowerValue(asked, scope), asked, "")];
    return { is: "value", value, words: kind.is === "text" ? null : wordingOf(kind) };
  }
  if (part.type !== "compare") return { is: "nothing" };
  const kind = kindInScope(part.left, scope);
  if (kind.is !== "quantity") return { is: "nothing" };
  const { unit, scale } = dimensionUnit(kind.dimension);
  const [left, right] = [[...lowerValue(part.left, scope)], [...lowerValue(part.right, scope)]];
  return { is: "off", left, right, unit, scale, words: source(part.left) };
}
