// The ways a robot is put down, and the one a robot's placing was measured for.
import { PI } from "../math/trig.js";
import type { Robot } from "./schema.js";

export const PLACED_BY = ["eye", "jig", "wall"] as const;
export type PlacedBy = (typeof PLACED_BY)[number];

export const PLACED_WORDS: Readonly<Record<PlacedBy, string>> = {
  eye: "by eye",
  jig: "in a jig",
  wall: "against a wall",
};

/** How exactly each way of putting a robot down is: standard deviations of its place, m, and its heading, rad. */
export const PLACING: Readonly<Record<PlacedBy, { readonly positionM: number; readonly headingRad: number }>> = {
  eye: { positionM: 0.003, headingRad: PI / 180 },
  wall: { positionM: 0.001, headingRad: (0.25 * PI) / 180 },
  jig: { positionM: 0.0004, headingRad: (0.1 * PI) / 180 },
};

/** How a known of placing came about: its method says the way. */
export function placingMethod(by: PlacedBy): string {
  return `Start placement, ${PLACED_WORDS[by]}`;
}

/** The way this robot is put down by what is known of it; by eye where nobody measured. Older documents say "Placing". */
export function placedBy({ placement }: Robot): PlacedBy {
  return (
    PLACED_BY.find((by) => [placingMethod(by), `Placing, ${PLACED_WORDS[by]}`].includes(placement.headingRad.method)) ??
    "eye"
  );
}
