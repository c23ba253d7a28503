// The ways a robot is put down, and the one a robot's placing was measured for.
import type { Robot } from "../robot/schema.js";

export const PLACED_BY = ["eye", "jig", "wall"] as const;
export type PlacedBy = (typeof PLACED_BY)[number];

export const PLACED_WORDS: Readonly<Record<PlacedBy, string>> = {
  eye: "by eye",
  jig: "in a jig",
  wall: "against a wall",
};

/** How a known of placing came about: its method says the way. */
export function placingMethod(by: PlacedBy): string {
  return `Placing, ${PLACED_WORDS[by]}`;
}

/** The way this robot is put down by what is known of it; by eye where nobody measured. */
export function placedBy({ placement }: Robot): PlacedBy {
  return PLACED_BY.find((by) => placement.headingRad.method === placingMethod(by)) ?? "eye";
}
