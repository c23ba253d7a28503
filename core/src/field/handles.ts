// The points of a thing that can be taken and moved, and where a pointer meets what.
import { containsPoint } from "../geometry/polygon.js";
import type { Point } from "../geometry/pose.js";
import { atan2, cos, sin } from "../math/trig.js";
import type { Field } from "./schema.js";
import { allRefs, outlineOf, splitRef, type Thing, type ThingRef, thingOf } from "./things.js";
import { shapeContains } from "./zones.js";

export interface Handle {
  /** "point 2", "out 1", "from", "radius", "heading", … */
  readonly id: string;
  readonly at: Point;
  readonly kind: "point" | "arm" | "size" | "heading";
}

/** How far a heading's handle stands from its thing, m. */
const HEADING_ARM_M = 0.16;

export function handlesOf(thing: Thing): Handle[] {
  const point = (id: string, at: Point, kind: Handle["kind"] = "point"): Handle => ({ id, at, kind });
  if ("pointsM" in thing) return thing.pointsM.map((p, i) => point(`point ${i}`, p));
  if ("nodes" in thing)
    return thing.nodes.flatMap(({ atM, inM, outM }, i) => [
      point(`node ${i}`, atM),
      ...(inM ? [point(`in ${i}`, inM, "arm")] : []),
      ...(outM ? [point(`out ${i}`, outM, "arm")] : []),
    ]);
  if ("cornersM" in thing) return thing.cornersM.map((p, i) => point(`corner ${i}`, p));
  if ("shape" in thing && typeof thing.shape === "object") {
    const { shape } = thing;
    if (shape.kind === "polygon") return shape.cornersM.map((p, i) => point(`corner ${i}`, p));
    return [
      point("radius x", [shape.centreM[0] + shape.radiusXM, shape.centreM[1]], "size"),
      point("radius y", [shape.centreM[0], shape.centreM[1] + shape.radiusYM], "size"),
    ];
  }
  if ("fromM" in thing) return [point("from", thing.fromM), point("to", thing.toM)];
  if ("radiusM" in thing) return [point("radius", [thing.xM + thing.radiusM, thing.yM], "size")];
  if ("headingRad" in thing) {
    const reach = "massKg" in thing ? thing.sizeM[0] / 2 + 0.05 : HEADING_ARM_M;
    return [
      point("heading", [thing.xM + reach * cos(thing.headingRad), thing.yM + reach * sin(thing.headingRad)], "heading"),
    ];
  }
  return [];
}

const LEAST_SIZE_M = 0.002;
type Pair = [number, number];

function replaced(points: readonly Point[], index: number, to: Point): Pair[] {
  return points.map((p, i): Pair => (i === index ? [to[0], to[1]] : [p[0], p[1]]));
}

/** A thing with one handle put elsewhere. A node takes its arms along. */
export function moveHandle<T extends Thing>(thing: T, id: string, to: Point): T {
  const [word = "", number = "0"] = id.split(" ");
  const index = Number(number);
  const pair: Pair = [to[0], to[1]];
  if ("pointsM" in thing) return { ...thing, pointsM: replaced(thing.pointsM, index, to) };
  if ("nodes" in thing) return { ...thing, nodes: movedNodes(thing.nodes, word, index, to) };
  if ("cornersM" in thing) return { ...thing, cornersM: replaced(thing.cornersM, index, to) };
  if ("shape" in thing && typeof thing.shape === "object") {
    const { shape } = thing;
    if (shape.kind === "polygon")
      return { ...thing, shape: { ...shape, cornersM: replaced(shape.cornersM, index, to) } };
    const { centreM } = shape;
    const [rx, ry] = [Math.abs(to[0] - centreM[0]), Math.abs(to[1] - centreM[1])];
    return {
      ...thing,
      shape:
        id === "radius x"
          ? { ...shape, radiusXM: Math.max(LEAST_SIZE_M, rx) }
          : { ...shape, radiusYM: Math.max(LEAST_SIZE_M, ry) },
    };
  }
  if ("fromM" in thing) return id === "from" ? { ...thing, fromM: pair } : { ...thing, toM: pair };
  if ("radiusM" in thing) {
    const [dx, dy] = [to[0] - thing.xM, to[1] - thing.yM];
    return { ...thing, radiusM: Math.max(LEAST_SIZE_M, Math.sqrt(dx * dx + dy * dy)) };
  }
  if ("headingRad" in thing) return { ...thing, headingRad: atan2(to[1] - thing.yM, to[0] - thing.xM) };
  return thing;
}

type Nodes = Extract<Field["marks"][number], { kind: "curve" }>["nodes"];

function movedNodes(nodes: Nodes, word: string, index: number, to: Point): Nodes {
  return nodes.map((node, i) => {
    if (i !== index) return node;
    const { atM, inM, outM } = node;
    if (word === "node") {
      const [dx, dy] = [to[0] - atM[0], to[1] - atM[1]];
      const along = (p: Point): Pair => [p[0] + dx, p[1] + dy];
      return { atM: [to[0], to[1]], ...(inM ? { inM: along(inM) } : {}), ...(outM ? { outM: along(outM) } : {}) };
    }
    // The other arm stays in one line with this one, as long as it was.
    const other = word === "in" ? outM : inM;
    const [dx, dy] = [to[0] - atM[0], to[1] - atM[1]];
    const span = Math.sqrt(dx * dx + dy * dy);
    const length = other ? Math.sqrt((other[0] - atM[0]) ** 2 + (other[1] - atM[1]) ** 2) : 0;
    const opposite: Pair | null =
      other && span > 1e-9 ? [atM[0] - (dx / span) * length, atM[1] - (dy / span) * length] : null;
    const [mine, theirs] = word === "in" ? (["inM", "outM"] as const) : (["outM", "inM"] as const);
    return { ...node, [mine]: [to[0], to[1]], ...(opposite ? { [theirs]: opposite } : {}) };
  });
}

/** How far a point is from a thing, m; 0 on it. */
function distanceTo(thing: Thing, point: Point): number {
  const outline = outlineOf(thing);
  const stroke = "pointsM" in thing || "nodes" in thing;
  const filled = !stroke && outline.length > 2;
  if ("kind" in thing && thing.kind === "area" && shapeContains(thing.shape, point)) return 0;
  if (filled && containsPoint(outline, point)) return 0;
  const half = stroke ? thing.widthM / 2 : 0;
  let least = Number.POSITIVE_INFINITY;
  const last = filled ? outline.length : outline.length - 1;
  for (let i = 0; i < last; i += 1) {
    const [ax, ay] = outline[i] as Point;
    const [bx, by] = outline[(i + 1) % outline.length] as Point;
    const [ex, ey] = [bx - ax, by - ay];
    const square = ex * ex + ey * ey;
    const t = square > 0 ? Math.max(0, Math.min(1, ((point[0] - ax) * ex + (point[1] - ay) * ey) / square)) : 0;
    const [dx, dy] = [ax + t * ex - point[0], ay + t * ey - point[1]];
    least = Math.min(least, dx * dx + dy * dy);
  }
  return Math.max(0, Math.sqrt(least) - half);
}

/** What is drawn later lies on top. Wide floor things come last, so that what lies on them can be taken. */
const RIM_ONLY = new Set(["zones", "ramps"]);

/** Things at a point, the topmost first. @param reachM - how near counts as met */
export function thingsAt(field: Field, point: Point, reachM: number): ThingRef[] {
  const met: { ref: ThingRef; area: number }[] = [];
  for (const ref of allRefs(field).reverse()) {
    const thing = thingOf(field, ref);
    if (!thing || distanceTo(thing, point) > reachM) continue;
    met.push({ ref, area: RIM_ONLY.has(splitRef(ref)[0]) ? 1 : 0 });
  }
  return met.sort((a, b) => a.area - b.area).map(({ ref }) => ref);
}

/** Things that lie wholly in a box. */
export function thingsWithin(field: Field, a: Point, b: Point): ThingRef[] {
  const [lowX, highX] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
  const [lowY, highY] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
  return allRefs(field).filter((ref) => {
    const thing = thingOf(field, ref);
    return thing && outlineOf(thing).every(([x, y]) => x >= lowX && x <= highX && y >= lowY && y <= highY);
  });
}
