// Whether two outlines share ground: an edge of one crosses an edge of the other, or one lies in the other.
import { containsPoint } from "../geometry/polygon.js";
import type { Point } from "../geometry/pose.js";
import { boundsOf, middleOf } from "./things.js";

export function edgesCross(a: Point, b: Point, c: Point, d: Point): boolean {
  const side = (p: Point, q: Point, r: Point) => (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
  return side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
}

/** @param other - an outline, or the two ends of a thin wall */
export function polygonsMeet(one: readonly Point[], other: readonly Point[]): boolean {
  const [a, b] = [boundsOf(one), boundsOf(other)];
  if (a.lowX > b.highX || b.lowX > a.highX || a.lowY > b.highY || b.lowY > a.highY) return false;
  for (let i = 0; i < one.length; i += 1)
    for (let j = 0; j < (other.length === 2 ? 1 : other.length); j += 1)
      if (
        edgesCross(
          one[i] as Point,
          one[(i + 1) % one.length] as Point,
          other[j] as Point,
          other[(j + 1) % other.length] as Point,
        )
      )
        return true;
  // One in the other; a corner may lie on an edge, so the middle is asked as well.
  const inside = (outline: readonly Point[], of: readonly Point[], bounds: typeof a) =>
    containsPoint(outline, of[0] as Point) ||
    (containsPoint(outline, middleOf(bounds)) && (of.length === 2 || containsPoint(of, middleOf(bounds))));
  return inside(one, other, b) || (other.length > 2 && inside(other, one, a));
}
