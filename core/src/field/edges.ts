// The field's solid faces: its walls, its obstacles, and its rim with rounded corners as short segments.
import { counterClockwise } from "../geometry/polygon.js";
import type { Point } from "../geometry/pose.js";
import { cos, PI, sin } from "../math/trig.js";
import type { Field } from "./schema.js";

const CORNER_PIECES = 6;
const RIM_REFLECTANCE = 0.6;

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

/** A straight face of something solid. */
export interface SolidFace {
  readonly ends: readonly [Point, Point];
  /** m; the rim is as high as anything that meets it. */
  readonly heightM: number;
  readonly reflectance: number;
  /** What it is called: its own name, or its kind and number. */
  readonly name: string;
}

/** The four corners of a thick wall, counter-clockwise; null for a thin one, and for one of no length. */
export function wallCorners(wall: Field["walls"][number]): Point[] | null {
  const [ax, ay] = wall.fromM;
  const [bx, by] = wall.toM;
  const length = Math.sqrt((bx - ax) ** 2 + (by - ay) ** 2);
  const { thicknessM = 0 } = wall;
  if (thicknessM === 0 || length < 1e-9) return null;
  const half = thicknessM / 2 / length;
  const [nx, ny] = [-(by - ay) * half, (bx - ax) * half];
  return [
    [ax - nx, ay - ny],
    [bx - nx, by - ny],
    [bx + nx, by + ny],
    [ax + nx, ay + ny],
  ];
}

function ring(corners: readonly Point[]): (readonly [Point, Point])[] {
  return corners.map((corner, i) => [corner, corners[(i + 1) % corners.length] as Point] as const);
}

/** All solid faces: walls, then obstacles, then the rim. */
export function solidFaces(field: Field): SolidFace[] {
  const walls = field.walls.flatMap((wall, i): SolidFace[] => {
    const { heightM, reflectance } = wall;
    const name = wall.name ?? `wall ${i + 1}`;
    const corners = wallCorners(wall);
    const sides = corners ? ring(corners) : [[wall.fromM, wall.toM] as const];
    return sides.map((ends) => ({ ends, heightM, reflectance, name }));
  });
  const obstacles = field.obstacles.flatMap(({ cornersM, heightM, reflectance, name }, i) =>
    ring(counterClockwise(cornersM)).map((ends) => ({
      ends,
      heightM,
      reflectance,
      name: name ?? `obstacle ${i + 1}`,
    })),
  );
  if (field.edge === "open") return [...walls, ...obstacles];
  const rim = ring(rimOutline(field.size)).map((ends) => ({
    ends,
    heightM: Number.POSITIVE_INFINITY,
    reflectance: RIM_REFLECTANCE,
    name: "the rim",
  }));
  return [...walls, ...obstacles, ...rim];
}

/** All solid segments, each as its two ends. */
export function solidSegments(field: Field): (readonly [Point, Point])[] {
  return solidFaces(field).map(({ ends }) => ends);
}

/** Names of everything on a field that can be touched or heard. */
export function thingNames(field: Field): string[] {
  return [
    ...field.walls.map((wall, i) => wall.name ?? `wall ${i + 1}`),
    ...field.obstacles.map((obstacle, i) => obstacle.name ?? `obstacle ${i + 1}`),
    ...field.boulders.map((boulder, i) => boulder.name ?? `boulder ${i + 1}`),
    ...field.loads.map((load) => load.name),
    ...(field.edge === "rim" ? ["the rim"] : []),
  ];
}
