// Where a pointer's place snaps to: ends and middles of what is drawn, right angles with what is being drawn, the grid.
import type { Point } from "../geometry/pose.js";
import type { Field } from "./schema.js";
import { allRefs, boundsOf, middleOf, outlineOf, type ThingRef, thingOf } from "./things.js";

export interface Snapped {
  readonly at: Point;
  readonly to: "end" | "middle" | "edge" | "right angle" | "grid" | "nothing";
}

/** Points of a field that pull: ends, corners and middles. Found once for a drag. */
export interface Magnets {
  readonly points: readonly { readonly at: Point; readonly to: "end" | "middle" }[];
}

export function magnetsOf(field: Field, except: ReadonlySet<ThingRef>): Magnets {
  const points = allRefs(field).flatMap((ref): { at: Point; to: "end" | "middle" }[] => {
    const thing = except.has(ref) ? null : thingOf(field, ref);
    if (!thing) return [];
    if ("nodes" in thing) return thing.nodes.map(({ atM }) => ({ at: atM, to: "end" }));
    const outline = outlineOf(thing);
    const round = outline.length > 24;
    const ends = round ? [] : outline.map((at) => ({ at, to: "end" as const }));
    const pieces = round ? 0 : outline.length - 1;
    const middles = Array.from({ length: Math.max(0, pieces) }, (_, i) => ({
      at: middleOf(boundsOf([outline[i] as Point, outline[i + 1] as Point])),
      to: "middle" as const,
    }));
    return [...ends, ...middles, { at: middleOf(boundsOf(outline)), to: "middle" as const }];
  });
  const { widthM: w, heightM: h } = field.size;
  return { points: [...points, { at: [w / 2, h / 2], to: "middle" }] };
}

/** @param gridM - 0 for none; from - the point before, for right angles; reachM - how near a magnet pulls */
export function snapOnField(
  at: Point,
  options: {
    readonly magnets: Magnets | null;
    readonly gridM: number;
    readonly reachM: number;
    readonly from?: Point | null;
  },
): Snapped {
  const { magnets, gridM, reachM, from } = options;
  let best = reachM * reachM;
  let found: Snapped | null = null;
  for (const magnet of magnets?.points ?? []) {
    const square = (magnet.at[0] - at[0]) ** 2 + (magnet.at[1] - at[1]) ** 2;
    if (square < best) {
      best = square;
      found = magnet;
    }
  }
  if (found) return found;
  const onGrid = (value: number) => (gridM > 0 ? Math.floor(value / gridM + 0.5) * gridM : value);
  if (from) {
    if (Math.abs(at[0] - from[0]) < reachM) return { at: [from[0], onGrid(at[1])], to: "right angle" };
    if (Math.abs(at[1] - from[1]) < reachM) return { at: [onGrid(at[0]), from[1]], to: "right angle" };
  }
  return gridM > 0 ? { at: [onGrid(at[0]), onGrid(at[1])], to: "grid" } : { at, to: "nothing" };
}
