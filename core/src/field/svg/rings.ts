// Filled paths as single outlines: holes are joined to the outline around them by a cut of no width, which the
// even-odd rule of our polygons leaves out again; outlines with too many corners are thinned.
import { containsPoint, signedAreaM2 } from "../../geometry/polygon.js";
import type { Point } from "../../geometry/pose.js";

type Pair = [number, number];

/** The same outline without points that lie within `tolM` of the line between those that stay (Ramer, Douglas, Peucker). */
export function thinned(points: readonly Point[], tolM: number): Pair[] {
  const keep = new Uint8Array(points.length);
  const stack: [number, number][] = [[0, points.length - 1]];
  keep[0] = 1;
  keep[points.length - 1] = 1;
  while (stack.length > 0) {
    const [from, to] = stack.pop() as [number, number];
    const [ax, ay] = points[from] as Point;
    const [bx, by] = points[to] as Point;
    const [ex, ey] = [bx - ax, by - ay];
    const square = ex * ex + ey * ey;
    let worst = tolM * tolM;
    let at = -1;
    for (let i = from + 1; i < to; i += 1) {
      const [x, y] = points[i] as Point;
      const t = square > 0 ? Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / square)) : 0;
      const off = (ax + t * ex - x) ** 2 + (ay + t * ey - y) ** 2;
      if (off > worst) {
        worst = off;
        at = i;
      }
    }
    if (at < 0) continue;
    keep[at] = 1;
    stack.push([from, at], [at, to]);
  }
  return points.filter((_, i) => keep[i] === 1).map(([x, y]): Pair => [x, y]);
}

const FINEST_M = 0.0001;

/** At most so many corners: thinned as little as that takes. */
export function atMost(corners: readonly Point[], most: number): Pair[] {
  if (corners.length <= most) return corners.map(([x, y]): Pair => [x, y]);
  for (let tol = FINEST_M; ; tol *= 1.5) {
    const thin = thinned([...corners, corners[0] as Point], tol).slice(0, -1);
    if (thin.length <= most) return thin;
  }
}

/** Outlines of a filled path: each with its holes cut in. @param evenOdd - the fill rule; else a hole runs the other way */
export function joinedRings(rings: readonly (readonly Point[])[], evenOdd: boolean): Pair[][] {
  const real = rings.filter((ring) => ring.length >= 3);
  const depth = real.map(
    (ring, i) =>
      real.filter((other, j) => {
        if (j === i || !containsPoint(other, ring[0] as Point)) return false;
        return evenOdd || signedAreaM2(other) * signedAreaM2(ring) < 0;
      }).length,
  );
  const outer = real.flatMap((ring, i) => ((depth[i] as number) % 2 === 0 ? [{ ring, holes: [] as Point[][] }] : []));
  real.forEach((ring, i) => {
    if ((depth[i] as number) % 2 === 0) return;
    const around = outer
      .filter((one) => containsPoint(one.ring, ring[0] as Point))
      .sort((a, b) => Math.abs(signedAreaM2(a.ring)) - Math.abs(signedAreaM2(b.ring)))[0];
    around?.holes.push([...ring]);
  });
  return outer.map(({ ring, holes }) => {
    const first = ring[0] as Point;
    const joined: Pair[] = [...ring.map(([x, y]): Pair => [x, y])];
    for (const hole of holes) {
      joined.push([first[0], first[1]]);
      joined.push(...hole.map(([x, y]): Pair => [x, y]), [(hole[0] as Point)[0], (hole[0] as Point)[1]]);
    }
    return joined;
  });
}
