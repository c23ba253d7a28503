// Whether things lie in a zone, and what that scores.
import { containsPoint } from "../geometry/polygon.js";
import { type Point, type Pose, placePoint } from "../geometry/pose.js";
import { cos, sin, TAU } from "../math/trig.js";
import type { Field, FieldShape } from "./schema.js";

/** Corners an ellipse or a disc is looked at with. */
const ROUND_CORNERS = 24;

export function shapeContains(shape: FieldShape, point: Point): boolean {
  if (shape.kind === "polygon") return containsPoint(shape.cornersM, point);
  const x = (point[0] - shape.centreM[0]) / shape.radiusXM;
  const y = (point[1] - shape.centreM[1]) / shape.radiusYM;
  return x * x + y * y <= 1;
}

/** Distance of a point from a shape, m; 0 inside. For an ellipse along the line to its middle. */
function distanceOutside(shape: FieldShape, point: Point): number {
  if (shapeContains(shape, point)) return 0;
  if (shape.kind === "ellipse") {
    const [dx, dy] = [point[0] - shape.centreM[0], point[1] - shape.centreM[1]];
    const times = Math.sqrt((dx / shape.radiusXM) ** 2 + (dy / shape.radiusYM) ** 2);
    return Math.sqrt(dx * dx + dy * dy) * (1 - 1 / times);
  }
  let least = Number.POSITIVE_INFINITY;
  shape.cornersM.forEach((a, i) => {
    const b = shape.cornersM[(i + 1) % shape.cornersM.length] as Point;
    const [ex, ey] = [b[0] - a[0], b[1] - a[1]];
    const square = ex * ex + ey * ey;
    const t = square > 0 ? Math.max(0, Math.min(1, ((point[0] - a[0]) * ex + (point[1] - a[1]) * ey) / square)) : 0;
    const [dx, dy] = [a[0] + t * ex - point[0], a[1] + t * ey - point[1]];
    least = Math.min(least, Math.sqrt(dx * dx + dy * dy));
  });
  return least;
}

/** How far the farthest corner of an outline, placed at a pose, is outside of the shape, m; 0 when all are inside. */
export function outsideByM(shape: FieldShape, outlineM: readonly Point[], pose: Pose): number {
  return outlineM.reduce((most, corner) => Math.max(most, distanceOutside(shape, placePoint(pose, corner))), 0);
}

/** Whether every corner of an outline, placed at a pose, lies in the shape (which should be convex). */
export function shapeHolds(shape: FieldShape, outlineM: readonly Point[], pose: Pose): boolean {
  return outlineM.every((corner) => shapeContains(shape, placePoint(pose, corner)));
}

/** Whether any part of an outline, placed at a pose, lies in the shape: a corner, a point of an edge, or all of it. */
export function shapeTouches(shape: FieldShape, outlineM: readonly Point[], pose: Pose): boolean {
  const placed = outlineM.map((corner) => placePoint(pose, corner));
  const middle = shape.kind === "ellipse" ? shape.centreM : (shape.cornersM[0] as Point);
  if (containsPoint(placed, middle)) return true;
  return placed.some((a, i) => {
    const b = placed[(i + 1) % placed.length] as Point;
    // Points every 2 mm along the edge: finer than any outline that matters.
    const pieces = Math.max(1, Math.floor(Math.sqrt((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2) / 0.002));
    for (let k = 0; k < pieces; k += 1)
      if (shapeContains(shape, [a[0] + ((b[0] - a[0]) * k) / pieces, a[1] + ((b[1] - a[1]) * k) / pieces])) return true;
    return false;
  });
}

/** A load as zones look at it. */
export interface PlacedLoad {
  readonly name: string;
  readonly outlineM: readonly Point[];
  readonly pose: Pose;
  readonly upright: boolean;
  /** Held by the robot: it is not in a zone yet. */
  readonly held: boolean;
}

/** Everything a score is made from. */
export interface PlacedThings {
  readonly robotOutlineM: readonly Point[];
  readonly robotPose: Pose;
  readonly loads: readonly PlacedLoad[];
  readonly clockSec: number;
  /** Counts of zones whose time has passed, as they stood then. */
  readonly counted?: ReadonlyMap<string, number>;
}

/** Outline of a load about its own middle. */
export function loadOutline(load: Pick<Field["loads"][number], "shape" | "sizeM">): Point[] {
  const [w, h] = load.sizeM;
  if (load.shape === "disc")
    return Array.from({ length: ROUND_CORNERS }, (_, i): Point => {
      const angle = (i / ROUND_CORNERS) * TAU;
      return [(cos(angle) * w) / 2, (sin(angle) * w) / 2];
    });
  return [
    [w / 2, h / 2],
    [-w / 2, h / 2],
    [-w / 2, -h / 2],
    [w / 2, -h / 2],
  ];
}

type Zone = Field["zones"][number];

function fits(zone: Zone, outlineM: readonly Point[], pose: Pose): boolean {
  return (zone.rule === "inside" ? shapeHolds : shapeTouches)(zone.shape, outlineM, pose);
}

/** How many things count in a zone now. */
export function zoneCount(zone: Zone, standing: PlacedThings): number {
  if (zone.beforeSec !== null && standing.clockSec > zone.beforeSec) return standing.counted?.get(zone.name) ?? 0;
  if (zone.counts === "robot") return fits(zone, standing.robotOutlineM, standing.robotPose) ? 1 : 0;
  const counting = standing.loads.filter(
    (load) =>
      !load.held &&
      (zone.only === null || zone.only === load.name) &&
      (load.upright || !zone.upright) &&
      fits(zone, load.outlineM, load.pose),
  );
  return Math.min(zone.most, counting.length);
}

interface ZoneScore {
  readonly zone: string;
  readonly count: number;
  readonly points: number;
}

export function zoneScores(field: Field, standing: PlacedThings): ZoneScore[] {
  return field.zones.map((zone) => {
    const count = zoneCount(zone, standing);
    return { zone: zone.name, count, points: count * zone.points };
  });
}

/** Points for how everything stands. @returns null on a field without zones */
export function scoreField(field: Field, standing: PlacedThings): number | null {
  if (field.zones.length === 0) return null;
  return zoneScores(field, standing).reduce((sum, { points }) => sum + points, 0);
}
