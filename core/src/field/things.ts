// Everything that lies or stands on a field, told apart by the list it is in: where it is, how far it reaches, what it
// is called. Moving, turning and mirroring are one map of points and of headings.
import type { Point } from "../geometry/pose.js";
import { cos, PI, sin, TAU } from "../math/trig.js";
import { wallCorners } from "./edges.js";
import type { Field, FieldShape } from "./schema.js";
import { strokePoints } from "./strokes.js";
import { loadOutline } from "./zones.js";

export const THING_LISTS = [
  "marks",
  "ramps",
  "zones",
  "gates",
  "tags",
  "walls",
  "obstacles",
  "boulders",
  "loads",
  "begins",
] as const;
export type ThingList = (typeof THING_LISTS)[number];
export type Thing = { [L in ThingList]: Field[L][number] }[ThingList];

/** One thing of a field: its list and its place in it, as "walls/3". */
export type ThingRef = `${ThingList}/${number}`;

export const THING_WORDS: Readonly<Record<ThingList, readonly [one: string, many: string]>> = {
  marks: ["mark", "Marks"],
  ramps: ["ramp", "Ramps"],
  zones: ["zone", "Zones"],
  gates: ["gate", "Gates"],
  tags: ["tag", "Tags"],
  walls: ["wall", "Walls"],
  obstacles: ["obstacle", "Obstacles"],
  boulders: ["boulder", "Boulders"],
  loads: ["load", "Loads"],
  begins: ["start place", "Start places"],
};

export function refOf(list: ThingList, index: number): ThingRef {
  return `${list}/${index}`;
}

export function splitRef(ref: ThingRef): readonly [ThingList, number] {
  const at = ref.indexOf("/");
  return [ref.slice(0, at) as ThingList, Number(ref.slice(at + 1))];
}

/** @returns null when it is not there (any more) */
export function thingOf(field: Field, ref: ThingRef): Thing | null {
  const [list, index] = splitRef(ref);
  return (field[list] as readonly Thing[])[index] ?? null;
}

export function allRefs(field: Field): ThingRef[] {
  return THING_LISTS.flatMap((list) => field[list].map((_, i) => refOf(list, i)));
}

/** What it is called: its name, or its kind and number. */
export function thingName(field: Field, ref: ThingRef): string {
  const [list, index] = splitRef(ref);
  return thingOf(field, ref)?.name ?? `${THING_WORDS[list][0]} ${index + 1}`;
}

/** A map of the plane that keeps lengths. */
export interface PlaneMap {
  readonly point: (p: Point) => Point;
  readonly heading: (rad: number) => number;
  /** Turned by a multiple of a quarter turn, so that shapes along the axes stay so; and whether x and y change places. */
  readonly square: boolean;
  readonly swaps: boolean;
}

export function shiftBy(dx: number, dy: number): PlaneMap {
  return { point: ([x, y]) => [x + dx, y + dy], heading: (rad) => rad, square: true, swaps: false };
}

/** @param rad - counter-clockwise about a point */
export function turnAbout([cx, cy]: Point, rad: number): PlaneMap {
  const quarters = Math.floor((rad / PI) * 2 + 0.5);
  const square = Math.abs(rad - (quarters * PI) / 2) < 1e-9;
  const [c, s] = square ? (QUARTERS[((quarters % 4) + 4) % 4] as Point) : [cos(rad), sin(rad)];
  return {
    point: ([x, y]) => [cx + c * (x - cx) - s * (y - cy), cy + s * (x - cx) + c * (y - cy)],
    heading: (now) => now + rad,
    square,
    swaps: square && Math.abs(quarters % 2) === 1,
  };
}
const QUARTERS: readonly Point[] = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
];

/** Mirrors left to right (about a vertical line), or up and down. */
export function mirrorAcross(direction: "across" | "along", at: number): PlaneMap {
  return direction === "across"
    ? { point: ([x, y]) => [2 * at - x, y], heading: (rad) => PI - rad, square: true, swaps: false }
    : { point: ([x, y]) => [x, 2 * at - y], heading: (rad) => -rad, square: true, swaps: false };
}

const ROUND_CORNERS = 48;

/** An ellipse as its corners, for turns that leave the axes. */
function ellipseCorners(shape: Extract<FieldShape, { kind: "ellipse" }>): Point[] {
  return Array.from({ length: ROUND_CORNERS }, (_, i): Point => {
    const angle = (i / ROUND_CORNERS) * TAU;
    return [shape.centreM[0] + shape.radiusXM * cos(angle), shape.centreM[1] + shape.radiusYM * sin(angle)];
  });
}

type Pair = [number, number];
const pair = (p: Point): Pair => [p[0], p[1]];

function moveShape(shape: FieldShape, m: PlaneMap): FieldShape {
  if (shape.kind === "polygon") return { kind: "polygon", cornersM: shape.cornersM.map((p) => pair(m.point(p))) };
  const { radiusXM, radiusYM, centreM } = shape;
  if (!m.square && radiusXM !== radiusYM)
    return { kind: "polygon", cornersM: ellipseCorners(shape).map((p) => pair(m.point(p))) };
  return {
    kind: "ellipse",
    centreM: pair(m.point(centreM)),
    radiusXM: m.swaps ? radiusYM : radiusXM,
    radiusYM: m.swaps ? radiusXM : radiusYM,
  };
}

/** A thing somewhere else. */
export function moveThing<T extends Thing>(thing: T, m: PlaneMap): T {
  const changed: Record<string, unknown> = { ...thing };
  const both = (p: Point) => pair(m.point(p));
  if ("shape" in thing && typeof thing.shape === "object") changed.shape = moveShape(thing.shape, m);
  if ("pointsM" in thing) changed.pointsM = thing.pointsM.map(both);
  if ("cornersM" in thing) changed.cornersM = thing.cornersM.map(both);
  if ("nodes" in thing)
    changed.nodes = thing.nodes.map(({ atM, inM, outM }) => ({
      atM: both(atM),
      ...(inM ? { inM: both(inM) } : {}),
      ...(outM ? { outM: both(outM) } : {}),
    }));
  if ("fromM" in thing) {
    changed.fromM = both(thing.fromM);
    changed.toM = both(thing.toM);
  }
  if ("xM" in thing) [changed.xM, changed.yM] = m.point([thing.xM, thing.yM]);
  if ("headingRad" in thing) changed.headingRad = m.heading(thing.headingRad);
  if ("upRad" in thing) changed.upRad = m.heading(thing.upRad);
  return changed as T;
}

/** Points that show how far a thing reaches; for strokes their middle line. */
export function outlineOf(thing: Thing): readonly Point[] {
  if ("pointsM" in thing || "nodes" in thing) return strokePoints(thing);
  if ("shape" in thing && typeof thing.shape === "object")
    return thing.shape.kind === "polygon" ? thing.shape.cornersM : ellipseCorners(thing.shape);
  if ("cornersM" in thing) return thing.cornersM;
  if ("fromM" in thing) return ("heightM" in thing ? wallCorners(thing) : null) ?? [thing.fromM, thing.toM];
  if ("massKg" in thing) {
    const [c, s] = [cos(thing.headingRad), sin(thing.headingRad)];
    return loadOutline(thing).map(([x, y]): Point => [thing.xM + c * x - s * y, thing.yM + s * x + c * y]);
  }
  const reach = "radiusM" in thing ? thing.radiusM : "sizeM" in thing ? (thing.sizeM as number) / 2 : 0.05;
  return ellipseCorners({ kind: "ellipse", centreM: [thing.xM, thing.yM], radiusXM: reach, radiusYM: reach });
}

export interface Bounds {
  readonly lowX: number;
  readonly lowY: number;
  readonly highX: number;
  readonly highY: number;
}

/** @param points - at least one */
export function boundsOf(points: readonly Point[]): Bounds {
  let [lowX, lowY, highX, highY] = [
    Number.POSITIVE_INFINITY,
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
  ];
  for (const [x, y] of points) {
    lowX = Math.min(lowX, x);
    lowY = Math.min(lowY, y);
    highX = Math.max(highX, x);
    highY = Math.max(highY, y);
  }
  return { lowX, lowY, highX, highY };
}

export function middleOf({ lowX, lowY, highX, highY }: Bounds): Point {
  return [(lowX + highX) / 2, (lowY + highY) / 2];
}

/** Bounds of several things together; null for none. */
export function boundsOfRefs(field: Field, refs: readonly ThingRef[]): Bounds | null {
  const points = refs.flatMap((ref) => {
    const thing = thingOf(field, ref);
    return thing ? outlineOf(thing) : [];
  });
  return points.length > 0 ? boundsOf(points) : null;
}
