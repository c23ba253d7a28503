// What is being drawn: points so far and where the pointer is; and what it becomes when it is done. Pure.
import {
  atan2,
  cos,
  type Field,
  type FieldMark,
  freeThingName,
  type Point,
  sin,
  smoothNodes,
  type Thing,
  type ThingList,
} from "@giddy-pebble/core";

export const TOOLS = [
  { id: "choose", title: "Choose", key: "v", list: null },
  { id: "line", title: "Line", key: "l", list: "marks" },
  { id: "curve", title: "Curve", key: "c", list: "marks" },
  { id: "patch", title: "Patch", key: "p", list: "marks" },
  { id: "wall", title: "Wall", key: "w", list: "walls" },
  { id: "obstacle", title: "Obstacle", key: "o", list: "obstacles" },
  { id: "boulder", title: "Boulder", key: "b", list: "boulders" },
  { id: "load", title: "Load", key: "d", list: "loads" },
  { id: "tag", title: "Tag", key: "t", list: "tags" },
  { id: "zone", title: "Zone", key: "z", list: "zones" },
  { id: "gate", title: "Gate", key: "g", list: "gates" },
  { id: "ramp", title: "Ramp", key: "s", list: "ramps" },
  { id: "begin", title: "Begin", key: "h", list: "begins" },
  { id: "measure", title: "Measure", key: "m", list: null },
] as const satisfies readonly { id: string; title: string; key: string; list: ThingList | null }[];

export type ToolId = (typeof TOOLS)[number]["id"];

/** How a tool takes points: one, two ends, a chain of any number, or a box or outline. */
export type Takes = "one" | "two" | "chain" | "outline";

export const TAKES: Readonly<Record<Exclude<ToolId, "choose" | "measure">, Takes>> = {
  line: "chain",
  curve: "chain",
  patch: "outline",
  wall: "two",
  obstacle: "outline",
  boulder: "one",
  load: "one",
  tag: "one",
  zone: "outline",
  gate: "two",
  ramp: "outline",
  begin: "one",
};

export interface Drawing {
  readonly tool: keyof typeof TAKES;
  readonly points: readonly Point[];
  /** Where the next point would go. */
  readonly now: Point;
  /** A drag with the pointer down: a box, or from end to end. */
  readonly dragged: boolean;
}

export function takesOf(tool: ToolId): Takes | null {
  return tool === "choose" || tool === "measure" ? null : TAKES[tool];
}

const LINE = { widthM: 0.02, reflectance: 0.06, colour: "#2B2F31" } as const;
const SHORTEST_M = 0.003;

function far(a: Point, b: Point): boolean {
  return Math.hypot(a[0] - b[0], a[1] - b[1]) >= SHORTEST_M;
}

type Pair = [number, number];
const pair = ([x, y]: Point): Pair => [x, y];

function box(a: Point, b: Point): Pair[] {
  return [
    [Math.min(a[0], b[0]), Math.min(a[1], b[1])],
    [Math.max(a[0], b[0]), Math.min(a[1], b[1])],
    [Math.max(a[0], b[0]), Math.max(a[1], b[1])],
    [Math.min(a[0], b[0]), Math.max(a[1], b[1])],
  ];
}

/** Width and colour of the lines that are there, so that the next is like the last. */
function likeLast(field: Field): { widthM: number; reflectance: number; colour: string } {
  const last = [...field.marks].reverse().find((mark) => mark.kind !== "area");
  return last ? { widthM: last.widthM, reflectance: last.reflectance, colour: last.colour } : LINE;
}

function outlined(tool: "patch" | "obstacle" | "zone" | "ramp", corners: Pair[], field: Field): Thing {
  const names = (list: readonly { name?: string | undefined }[]) => list.map(({ name }) => name);
  if (tool === "obstacle") return { cornersM: corners, heightM: 0.08, reflectance: 0.5 };
  if (tool === "ramp") return { cornersM: corners, slopeRad: 0.1, upRad: 0 };
  if (tool === "zone")
    return {
      name: freeThingName("zone", names(field.zones)),
      shape: { kind: "polygon", cornersM: corners },
      points: 10,
      counts: "robot",
      rule: "inside",
      upright: false,
      most: 100,
      beforeSec: null,
      only: null,
    };
  return {
    kind: "area",
    shape: { kind: "polygon", cornersM: corners },
    reflectance: LINE.reflectance,
    colour: LINE.colour,
  } satisfies FieldMark;
}

/**
 * What a drawing becomes now.
 * @returns null while there are too few points, or they lie in one place
 */
export function finished(drawing: Drawing, field: Field): { list: ThingList; thing: Thing } | null {
  const { tool, points } = drawing;
  const first = points[0];
  const last = points.at(-1);
  if (!first || !last) return null;
  const names = (list: readonly { name?: string | undefined }[]) => list.map(({ name }) => name);
  switch (tool) {
    case "line":
    case "curve": {
      const whole = points.filter((p, i) => i === 0 || far(p, points[i - 1] as Point));
      if (whole.length < 2) return null;
      const closed = whole.length > 3 && !far(whole[0] as Point, whole.at(-1) as Point);
      const kept = closed ? whole.slice(0, -1) : whole;
      const look = { ...likeLast(field), ...(closed ? { closed: true } : {}) };
      const thing: FieldMark =
        tool === "line"
          ? { kind: "line", pointsM: kept.map(pair), ...look }
          : { kind: "curve", nodes: smoothNodes(kept, closed), ...look };
      return { list: "marks", thing };
    }
    case "patch":
    case "obstacle":
    case "zone":
    case "ramp": {
      const list = { patch: "marks", obstacle: "obstacles", zone: "zones", ramp: "ramps" } as const;
      const boxed = points.length === 2;
      const corners = boxed ? box(first, last) : points.map(pair);
      const wide = boxed
        ? Math.abs(first[0] - last[0]) > SHORTEST_M && Math.abs(first[1] - last[1]) > SHORTEST_M
        : true;
      if (corners.length < 3 || !wide) return null;
      return { list: list[tool], thing: outlined(tool, corners, field) };
    }
    case "wall":
      if (points.length < 2 || !far(first, last)) return null;
      return {
        list: "walls",
        thing: { fromM: pair(first), toM: pair(last), heightM: 0.08, thicknessM: 0.012, reflectance: 0.7 },
      };
    case "gate":
      if (points.length < 2 || !far(first, last)) return null;
      return {
        list: "gates",
        thing: { name: freeThingName("gate", names(field.gates)).slice(0, 12), fromM: pair(first), toM: pair(last) },
      };
    case "boulder": {
      const radiusM = points.length > 1 ? Math.hypot(last[0] - first[0], last[1] - first[1]) : 0.06;
      if (radiusM < SHORTEST_M) return null;
      return { list: "boulders", thing: { xM: first[0], yM: first[1], radiusM, heightM: 0.1, reflectance: 0.4 } };
    }
    case "load":
      return {
        list: "loads",
        thing: {
          name: freeThingName("box", names(field.loads)),
          shape: "box",
          sizeM: [0.08, 0.08],
          heightM: 0.08,
          massKg: 0.1,
          friction: 0.35,
          xM: first[0],
          yM: first[1],
          headingRad: points.length > 1 && far(first, last) ? atan2(last[1] - first[1], last[0] - first[0]) : 0,
          colour: "#E8B04A",
        },
      };
    case "tag":
      return { list: "tags", thing: { xM: first[0], yM: first[1], sizeM: 0.03, colour: "#C8352B" } };
    case "begin":
      return {
        list: "begins",
        thing: {
          name: freeThingName("begin", names(field.begins)),
          xM: first[0],
          yM: first[1],
          headingRad: points.length > 1 && far(first, last) ? atan2(last[1] - first[1], last[0] - first[0]) : 0,
        },
      };
  }
}

/** Whether a drawing is done with the points it has. */
export function isWhole({ tool, points, dragged }: Drawing): boolean {
  const takes = TAKES[tool];
  if (takes === "one") return points.length >= (dragged ? 2 : 1);
  if (takes === "two") return points.length >= 2;
  return takes === "outline" && dragged && points.length >= 2;
}

/** A point so far in a direction from another, or at a place of its own where there is none. */
export function pointFrom(from: Point | null, firstM: number, second: number): Point {
  return from ? [from[0] + firstM * cos(second), from[1] + firstM * sin(second)] : [firstM, second];
}
