// Closed polygons given by their corners: area, balance point, convexity, containment.
import type { Point } from "./pose.js";

/** Signed area, m²; positive when the corners run counter-clockwise. */
export function signedAreaM2(corners: readonly Point[]): number {
  let twice = 0;
  for (let i = 0; i < corners.length; i += 1) {
    const a = corners[i] as Point;
    const b = corners[(i + 1) % corners.length] as Point;
    twice += a[0] * b[1] - b[0] * a[1];
  }
  return twice / 2;
}

/** The same corners, counter-clockwise. */
export function counterClockwise(corners: readonly Point[]): Point[] {
  return signedAreaM2(corners) >= 0 ? [...corners] : [...corners].reverse();
}

/** Second moment of area about the point, per unit area, m²: times mass it is a plate's inertia. */
export function gyrationM2(corners: readonly Point[], about: Point): number {
  let moment = 0;
  let twiceArea = 0;
  for (let i = 0; i < corners.length; i += 1) {
    const p = corners[i] as Point;
    const q = corners[(i + 1) % corners.length] as Point;
    const ax = p[0] - about[0];
    const ay = p[1] - about[1];
    const bx = q[0] - about[0];
    const by = q[1] - about[1];
    const cross = ax * by - bx * ay;
    twiceArea += cross;
    moment += cross * (ax * ax + ax * bx + bx * bx + ay * ay + ay * by + by * by);
  }
  return moment / (6 * twiceArea);
}

export function isConvex(corners: readonly Point[]): boolean {
  const ring = counterClockwise(corners);
  return ring.every((a, i) => {
    const b = ring[(i + 1) % ring.length] as Point;
    const c = ring[(i + 2) % ring.length] as Point;
    return (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]) >= 0;
  });
}

/** Whether a point lies in a polygon (even-odd rule). */
export function containsPoint(corners: readonly Point[], point: Point): boolean {
  let inside = false;
  for (let i = 0; i < corners.length; i += 1) {
    const a = corners[i] as Point;
    const b = corners[(i + 1) % corners.length] as Point;
    const crosses = a[1] > point[1] !== b[1] > point[1];
    if (crosses && point[0] < a[0] + ((b[0] - a[0]) * (point[1] - a[1])) / (b[1] - a[1])) inside = !inside;
  }
  return inside;
}
