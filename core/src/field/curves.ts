// Smooth curves of a field: cubic Bézier pieces through nodes, made into short straight ones.
//
// A piece in n equal parts strays from its chords by at most 0.75 M / n², M the larger second difference of its four
// control points (Wang's bound, cubic case).
import type { Point } from "../geometry/pose.js";
import type { CurveNode } from "./schema.js";

/** How far a straight piece may lie from the curve, m. */
export const FLATNESS_M = 0.0002;
const MOST_PARTS = 2000;

/** @returns how many equal parts keep within FLATNESS_M */
function partsNeeded(a: Point, b: Point, c: Point, d: Point): number {
  const bend = (p: Point, q: Point, r: Point) => {
    const [x, y] = [p[0] - 2 * q[0] + r[0], p[1] - 2 * q[1] + r[1]];
    return Math.sqrt(x * x + y * y);
  };
  const most = Math.max(bend(a, b, c), bend(b, c, d));
  return Math.max(1, Math.min(MOST_PARTS, Math.floor(Math.sqrt((0.75 * most) / FLATNESS_M)) + 1));
}

/** A point of a cubic piece. @param t - 0..1 */
export function cubicAt(a: Point, b: Point, c: Point, d: Point, t: number): Point {
  const s = 1 - t;
  const [ka, kb, kc, kd] = [s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t];
  return [ka * a[0] + kb * b[0] + kc * c[0] + kd * d[0], ka * a[1] + kb * b[1] + kc * c[1] + kd * d[1]];
}

/** Points along a curve, its first and last node among them. A closed one ends where it began. */
export function flattenCurve(nodes: readonly CurveNode[], closed: boolean): Point[] {
  const first = nodes[0];
  if (!first) return [];
  const points: Point[] = [first.atM];
  const pieces = closed ? nodes.length : nodes.length - 1;
  for (let i = 0; i < pieces; i += 1) {
    const from = nodes[i] as CurveNode;
    const to = nodes[(i + 1) % nodes.length] as CurveNode;
    if (!from.outM && !to.inM) {
      points.push(to.atM);
      continue;
    }
    const [b, c] = [from.outM ?? from.atM, to.inM ?? to.atM];
    const parts = partsNeeded(from.atM, b, c, to.atM);
    for (let k = 1; k <= parts; k += 1) points.push(k === parts ? to.atM : cubicAt(from.atM, b, c, to.atM, k / parts));
  }
  return points;
}

/**
 * Handles that let a curve pass smoothly through points: each along the line between its two neighbours, a third of the
 * way to the next one (cubic Hermite form of a cardinal spline).
 */
export function smoothNodes(points: readonly Point[], closed: boolean): CurveNode[] {
  const n = points.length;
  return points.map((at, i): CurveNode => {
    const before = points[i - 1] ?? (closed ? points[n - 1] : undefined);
    const after = points[i + 1] ?? (closed ? points[0] : undefined);
    if (!before || !after) return { atM: [at[0], at[1]] };
    const [dx, dy] = [after[0] - before[0], after[1] - before[1]];
    const span = Math.sqrt(dx * dx + dy * dy);
    if (span < 1e-9) return { atM: [at[0], at[1]] };
    const reach = (p: Point) => Math.sqrt((p[0] - at[0]) ** 2 + (p[1] - at[1]) ** 2) / 3 / span;
    const [back, on] = [reach(before), reach(after)];
    return {
      atM: [at[0], at[1]],
      inM: [at[0] - dx * back, at[1] - dy * back],
      outM: [at[0] + dx * on, at[1] + dy * on],
    };
  });
}
