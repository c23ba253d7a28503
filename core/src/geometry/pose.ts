// Poses in the plane: x right or forward, y left, heading counter-clockwise from x.
import { cos, PI, sin, TAU } from "../math/trig.js";

export interface Pose {
  readonly xM: number;
  readonly yM: number;
  readonly headingRad: number;
}

export type Point = readonly [x: number, y: number];

/** The same direction in (-pi, pi]. */
export function wrapAngle(rad: number): number {
  const turns = Math.floor((PI - rad) / TAU);
  return rad + turns * TAU;
}

/** A point of a body, seen from the frame the body's pose is given in. */
export function placePoint(pose: Pose, point: Point): Point {
  const c = cos(pose.headingRad);
  const s = sin(pose.headingRad);
  return [pose.xM + c * point[0] - s * point[1], pose.yM + s * point[0] + c * point[1]];
}

/** Pose of `inner` (given in `outer`'s frame) in the frame `outer` is given in. */
export function composePoses(outer: Pose, inner: Pose): Pose {
  const [xM, yM] = placePoint(outer, [inner.xM, inner.yM]);
  return { xM, yM, headingRad: outer.headingRad + inner.headingRad };
}

/** The pose that undoes another: composed with it, nothing is left. */
export function inversePose({ xM, yM, headingRad }: Pose): Pose {
  const c = cos(headingRad);
  const s = sin(headingRad);
  return { xM: -(c * xM + s * yM), yM: s * xM - c * yM, headingRad: -headingRad };
}
