// What a line or curve leaves on the floor: runs of straight pieces, after its dashes and gaps.
import type { Point } from "../geometry/pose.js";
import { flattenCurve } from "./curves.js";
import type { StrokeMark } from "./schema.js";

const SHORTEST_M = 1e-6;

/** Points of the whole stroke, as if it had no gaps. */
export function strokePoints(mark: StrokeMark): readonly Point[] {
  if (mark.kind === "curve") return flattenCurve(mark.nodes, mark.closed === true);
  const first = mark.pointsM[0];
  return mark.closed === true && first ? [...mark.pointsM, first] : mark.pointsM;
}

export function lengthOf(points: readonly Point[]): number {
  let length = 0;
  for (let i = 1; i < points.length; i += 1) {
    const [a, b] = [points[i - 1] as Point, points[i] as Point];
    length += Math.sqrt((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2);
  }
  return length;
}

/** Stretches of a length that are drawn, [from, to] in m along it, in order. */
function drawnStretches(mark: StrokeMark, length: number): [number, number][] {
  let stretches: [number, number][] = [[0, length]];
  const { dash } = mark;
  if (dash) {
    stretches = [];
    for (let at = 0; at < length; at += dash.onM + dash.offM) stretches.push([at, Math.min(length, at + dash.onM)]);
  }
  for (const { atM, lengthM } of mark.gaps ?? [])
    stretches = stretches.flatMap(([from, to]): [number, number][] => [
      [from, Math.min(to, atM)],
      [Math.max(from, atM + lengthM), to],
    ]);
  return stretches.filter(([from, to]) => to - from > SHORTEST_M);
}

/** A stretch of a line. @param from, to - m along it */
function cutOut(points: readonly Point[], from: number, to: number): Point[] {
  const out: Point[] = [];
  let at = 0;
  for (let i = 1; i < points.length; i += 1) {
    const [a, b] = [points[i - 1] as Point, points[i] as Point];
    const length = Math.sqrt((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2);
    if (length > 0 && at + length >= from && at <= to) {
      const [t, u] = [Math.max(0, (from - at) / length), Math.min(1, (to - at) / length)];
      if (out.length === 0) out.push([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]);
      out.push([a[0] + (b[0] - a[0]) * u, a[1] + (b[1] - a[1]) * u]);
    }
    at += length;
  }
  return out;
}

/** The drawn runs of a line or curve. */
export function strokeRuns(mark: StrokeMark): readonly (readonly Point[])[] {
  const points = strokePoints(mark);
  if (!mark.dash && !mark.gaps?.length) return [points];
  return drawnStretches(mark, lengthOf(points)).map(([from, to]) => cutOut(points, from, to));
}
