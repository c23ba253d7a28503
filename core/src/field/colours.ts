// Colours as sensors see them: written "#RRGGBB", mixed in linear light, compared in CIE Lab.
//
// Source: sRGB transfer curve and primaries of IEC 61966-2-1; Lab of CIE 15 with the D65 white point.
import { exp, log } from "../math/exponential.js";

export type LinearRgb = readonly [red: number, green: number, blue: number];
export type Lab = readonly [lightness: number, a: number, b: number];

const WHITE: readonly [number, number, number] = [0.95047, 1, 1.08883];

function power(base: number, exponent: number): number {
  return base <= 0 ? 0 : exp(exponent * log(base));
}

/** Linear light of an sRGB share, both 0..1. */
export function toLinear(share: number): number {
  return share <= 0.04045 ? share / 12.92 : power((share + 0.055) / 1.055, 2.4);
}

/** @param hex - "#RRGGBB"; anything else reads as middle grey */
export function linearRgb(hex: string): LinearRgb {
  const match = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(hex);
  if (!match) return [0.2, 0.2, 0.2];
  const part = (i: number) => toLinear(Number.parseInt(match[i] as string, 16) / 255);
  return [part(1), part(2), part(3)];
}

function curve(t: number): number {
  return t > 216 / 24389 ? power(t, 1 / 3) : ((24389 / 27) * t + 16) / 116;
}

export function labOf([r, g, b]: LinearRgb): Lab {
  const x = curve((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / WHITE[0]);
  const y = curve((0.2126729 * r + 0.7151522 * g + 0.072175 * b) / WHITE[1]);
  const z = curve((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / WHITE[2]);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

/** Colours a mission can name, with what stands for each. */
export const COLOUR_NAMES = [
  "black",
  "white",
  "grey",
  "red",
  "orange",
  "yellow",
  "green",
  "blue",
  "violet",
  "brown",
] as const;
export type ColourName = (typeof COLOUR_NAMES)[number];

const REFERENCES: readonly string[] = [
  "#202225",
  "#F2F0EA",
  "#8A8C8E",
  "#C8352B",
  "#E0802F",
  "#E9C53B",
  "#4E8F47",
  "#2F5FA8",
  "#6B4B9B",
  "#6E4A2E",
];
/** Light that a plate of a named colour sends back. */
export function plateLight(name: ColourName): LinearRgb {
  return linearRgb(REFERENCES[COLOUR_NAMES.indexOf(name)] as string);
}

/** "#RRGGBB" of a plate of a named colour. */
export function plateHex(name: ColourName): string {
  return REFERENCES[COLOUR_NAMES.indexOf(name)] as string;
}

/** What a reading is compared with. */
export interface ColourReference {
  /** Into COLOUR_NAMES. */
  readonly index: number;
  readonly lab: Lab;
}

export const PRINTED_COLOURS: readonly ColourReference[] = REFERENCES.map((hex, index) => ({
  index,
  lab: labOf(linearRgb(hex)),
}));

/** Distance of two colours, CIE 1976. */
export function labDistance(a: Lab, b: Lab): number {
  const [l, m, n] = [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
  return Math.sqrt(l * l + m * m + n * n);
}

interface ColourGuess {
  /** Index into COLOUR_NAMES. */
  readonly index: number;
  /** Distance to the nearest reference over that to the next one: 0 certain, 1 a toss-up. */
  readonly doubt: number;
}

/** Nearest of some references by distance in Lab. @param references - at least one; those of the printed colours unless given */
export function nameColour(rgb: LinearRgb, references: readonly ColourReference[] = PRINTED_COLOURS): ColourGuess {
  const lab = labOf(rgb);
  let index = 0;
  let best = Number.POSITIVE_INFINITY;
  let next = Number.POSITIVE_INFINITY;
  for (const reference of references) {
    const d = labDistance(lab, reference.lab);
    if (d < best) {
      next = best;
      best = d;
      index = reference.index;
    } else if (d < next) next = d;
  }
  return { index, doubt: next === Number.POSITIVE_INFINITY ? 0 : next > 0 ? best / next : 1 };
}
