// The field's solid lines: its walls, and its rim with rounded corners as short segments.
import type { Point } from "../geometry/pose.js";
import { cos, PI, sin } from "../math/trig.js";
import type { Field } from "./schema.js";

const CORNER_PIECES = 6;

/** Corners of the rim, counter-clockwise, field frame, metres. */
export function rimOutline(size: Field["size"]): Point[] {
  const { widthM: w, heightM: h } = size;
  const r = Math.min(size.cornerRadiusM, w / 2, h / 2);
  if (r === 0)
    return [
      [0, 0],
      [w, 0],
      [w, h],
      [0, h],
    ];
  const centres: readonly Point[] = [
    [w - r, r],
    [w - r, h - r],
    [r, h - r],
    [r, r],
  ];
  return centres.flatMap(([cx, cy], corner) =>
    Array.from({ length: CORNER_PIECES + 1 }, (_, i): Point => {
      const angle = -PI / 2 + ((corner + i / CORNER_PIECES) * PI) / 2;
      return [cx + r * cos(angle), cy + r * sin(angle)];
    }),
  );
}

/** All solid segments, each as its two ends. */
export function solidSegments(field: Field): (readonly [Point, Point])[] {
  const walls = field.walls.map((wall) => [wall.fromM, wall.toM] as const);
  if (field.edge === "open") return walls;
  const rim = rimOutline(field.size);
  return [...walls, ...rim.map((corner, i) => [corner, rim[(i + 1) % rim.length] as Point] as const)];
}
