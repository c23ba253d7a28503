// Whether things lie in a zone, and what that scores.
import { containsPoint } from "../geometry/polygon.js";
import { type Point, type Pose, placePoint } from "../geometry/pose.js";
import type { Field, FieldShape } from "./schema.js";

export function shapeContains(shape: FieldShape, point: Point): boolean {
  if (shape.kind === "polygon") return containsPoint(shape.cornersM, point);
  const x = (point[0] - shape.centreM[0]) / shape.radiusXM;
  const y = (point[1] - shape.centreM[1]) / shape.radiusYM;
  return x * x + y * y <= 1;
}

/** Whether every corner of an outline, placed at a pose, lies in the shape (which should be convex). */
export function shapeHolds(shape: FieldShape, outlineM: readonly Point[], pose: Pose): boolean {
  return outlineM.every((corner) => shapeContains(shape, placePoint(pose, corner)));
}

/**
 * Points for where the robot stands at the end: each zone that counts the robot gives its points when the
 * whole outline is inside. Zones that count loads give nothing while loads do not move.
 * @returns null on a field without zones
 */
export function scoreField(field: Field, outlineM: readonly Point[], pose: Pose): number | null {
  if (field.zones.length === 0) return null;
  let points = 0;
  for (const zone of field.zones)
    if (zone.counts === "robot" && shapeHolds(zone.shape, outlineM, pose)) points += zone.points;
  return points;
}
