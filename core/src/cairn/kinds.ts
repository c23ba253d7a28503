// Kinds of values: a quantity with its dimension (and, for angles, whose angle it is), a truth, a text.
import {
  ANGLE,
  type Dimension,
  dimensionWords,
  LENGTH,
  NUMBER,
  SPEED,
  sameDimension,
  TIME,
  TURN_RATE,
  VOLTAGE,
} from "../units/dimension.js";
import type { TypeWord } from "../words/language.js";

export type AngleOf = "any" | "robot" | "shaft";

export type Kind =
  | { readonly is: "quantity"; readonly dimension: Dimension; readonly angle: AngleOf }
  | { readonly is: "truth" }
  | { readonly is: "text" }
  | { readonly is: "colour" }
  | { readonly is: "unknown" };

export const TRUTH: Kind = { is: "truth" };
export const TEXT: Kind = { is: "text" };
export const COLOUR: Kind = { is: "colour" };
/** After a problem: agrees with everything, so that one mistake is reported once. */
export const UNKNOWN: Kind = { is: "unknown" };

export function quantityKind(dimension: Dimension, angle: AngleOf = "any"): Kind {
  return { is: "quantity", dimension, angle };
}

export function kindWords(kind: Kind): string {
  if (kind.is === "quantity") return dimensionWords(kind.dimension);
  if (kind.is === "colour") return "a colour";
  return kind.is === "truth" ? "a truth (yes or no)" : kind.is === "text" ? "a text" : "something unknown";
}

export function sameKind(a: Kind, b: Kind): boolean {
  if (a.is === "unknown" || b.is === "unknown") return true;
  if (a.is === "quantity" && b.is === "quantity") return sameDimension(a.dimension, b.dimension);
  return a.is === b.is;
}

/** The kind a routine's parameter is declared with. */
export function kindOfType(word: TypeWord): Kind {
  const dimensions: Partial<Record<TypeWord, Dimension>> = {
    length: LENGTH,
    angle: ANGLE,
    time: TIME,
    speed: SPEED,
    rate: TURN_RATE,
    share: NUMBER,
    number: NUMBER,
    voltage: VOLTAGE,
  };
  const dimension = dimensions[word];
  if (dimension) return quantityKind(dimension);
  if (word === "colour") return COLOUR;
  return word === "truth" ? TRUTH : TEXT;
}

/** Angle owner of two combined angles: null when they do not mix. */
export function mixAngles(a: AngleOf, b: AngleOf): AngleOf | null {
  if (a === "any") return b;
  return b === "any" || a === b ? a : null;
}
