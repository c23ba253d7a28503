// What ready starts are made of: their numbers, begin places, zones.
import type { Field } from "./schema.js";

export interface StartNumber {
  readonly key: string;
  readonly label: string;
  readonly unit: "m" | "rad" | "kg" | "";
  readonly value: number;
  readonly least: number;
  readonly most: number;
}

export type StartNumbers = Readonly<Record<string, number>>;

export interface ReadyStart {
  readonly id: string;
  readonly title: string;
  readonly about: string;
  readonly numbers: readonly StartNumber[];
  readonly make: (numbers: StartNumbers) => Partial<Field> & { size: { widthM: number; heightM: number } };
}

export const LINE_COLOUR = "#2B2F31";
export const LINE_REFLECTANCE = 0.06;

export const length = (key: string, label: string, value: number, least: number, most: number): StartNumber => ({
  key,
  label,
  unit: "m",
  value,
  least,
  most,
});
export const count = (key: string, label: string, value: number, least: number, most: number): StartNumber => ({
  key,
  label,
  unit: "",
  value,
  least,
  most,
});

export const WIDTH = (value: number) => length("width", "Width", value, 0.3, 10);
export const HEIGHT = (value: number) => length("height", "Depth", value, 0.3, 10);
export const LINE = length("line", "Line width", 0.02, 0.005, 0.1);

export type Pair = [number, number];
export type Node = { atM: Pair; inM?: Pair; outM?: Pair };
export type Begin = Field["begins"][number];

export function begin(xM: number, yM: number, headingRad = 0): Begin[] {
  return [{ name: "begin", xM, yM, headingRad }];
}

export function zone(name: string, cornersM: Pair[], points: number): Field["zones"][number] {
  return {
    name,
    shape: { kind: "polygon", cornersM },
    points,
    counts: "robot",
    rule: "touching",
    upright: false,
    most: 1,
    beforeSec: null,
    only: null,
  };
}
