// A wheel seen from above.
import type { Point } from "../geometry/pose.js";
import { cos, sin } from "../math/trig.js";
import type { Wheel } from "./parts.js";

/** Corners of a wheel from above, m, robot frame. */
export function wheelOutline({ xM, yM, diameterM, widthM, aimRad }: Wheel): Point[] {
  const [c, s] = [cos(aimRad), sin(aimRad)];
  return [
    [1, 1],
    [1, -1],
    [-1, -1],
    [-1, 1],
  ].map(([a = 0, b = 0]): Point => {
    const [along, across] = [(a * diameterM) / 2, (b * widthM) / 2];
    return [xM + c * along - s * across, yM + s * along + c * across];
  });
}
