// Our own meaning in an SVG file: what an element is, and all of its numbers, in attributes that vector editors keep.
// Where the drawn shape was changed since, the shape counts.
import * as z from "zod";
import { atan2 } from "../../math/trig.js";
import { type Field, fieldSchema } from "../schema.js";
import { THING_LISTS, type Thing, type ThingList } from "../things.js";
import { tidyNumbers } from "../tidy.js";
import type { Run } from "./shapes.js";
import type { XmlNode } from "./xml.js";

export const KIND_ATTRIBUTE = "data-field-list";
export const THING_ATTRIBUTE = "data-field-thing";
export const FIELD_ATTRIBUTE = "data-field";
/** The floor and its picture, drawn for looks: the field itself says what they are. */
export const FLOOR_ATTRIBUTE = "data-field-floor";

/** Shapes nearer than this to what was written were not changed, m. */
const SAME_M = 2e-6;

function parsed(text: string | undefined): unknown {
  try {
    return text === undefined ? null : JSON.parse(text);
  } catch {
    return null;
  }
}

type Pair = [number, number];

const HANDLE_M = 1e-5;

/** A thing with the shape of a drawn run in place of its own. */
function reshaped(thing: Thing, run: Run): Thing {
  const points = run.nodes.map(({ atM }) => atM);
  if ("pointsM" in thing) return run.straight ? { ...thing, pointsM: points } : asCurve(thing, run);
  if ("nodes" in thing) return { ...thing, nodes: run.nodes };
  if ("cornersM" in thing) return { ...thing, cornersM: points };
  if ("shape" in thing && typeof thing.shape === "object") {
    if (thing.shape.kind === "polygon") return { ...thing, shape: { kind: "polygon", cornersM: points } } as Thing;
    const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
    const [lx, hx, ly, hy] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    return {
      ...thing,
      shape: {
        kind: "ellipse",
        centreM: [(lx + hx) / 2, (ly + hy) / 2],
        radiusXM: (hx - lx) / 2,
        radiusYM: (hy - ly) / 2,
      },
    } as Thing;
  }
  if ("fromM" in thing) return { ...thing, fromM: points[0] as Pair, toM: points.at(-1) as Pair };
  return placedAnew(thing, points);
}

function asCurve(thing: Extract<Field["marks"][number], { kind: "line" }>, run: Run): Thing {
  const { pointsM: _, ...rest } = thing;
  return { ...rest, kind: "curve", nodes: run.nodes };
}

/** Things with a place: the middle of their drawn shape; boxes and flags with the direction of their first edge. */
function placedAnew(thing: Extract<Thing, { xM: number }>, points: readonly Pair[]): Thing {
  if ("headingRad" in thing && !("massKg" in thing && thing.shape === "disc")) {
    const [tail, tip] = [points[0] as Pair, points[1] as Pair];
    const headingRad = atan2(tip[1] - tail[1], tip[0] - tail[0]);
    if (!("massKg" in thing)) return { ...thing, xM: tail[0], yM: tail[1], headingRad };
    const opposite = points[2] as Pair;
    return { ...thing, xM: (tail[0] + opposite[0]) / 2, yM: (tail[1] + opposite[1]) / 2, headingRad };
  }
  const [xs, ys] = [points.map(([x]) => x), points.map(([, y]) => y)];
  const [lx, hx, ly, hy] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const place = { ...thing, xM: (lx + hx) / 2, yM: (ly + hy) / 2 };
  return "radiusM" in place ? { ...place, radiusM: Math.max((hx - lx) / 2, HANDLE_M) } : place;
}

function sameNumbers(a: unknown, b: unknown): boolean {
  if (typeof a === "number" && typeof b === "number") return Math.abs(a - b) < SAME_M;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((one, i) => sameNumbers(one, b[i]));
  if (typeof a === "object" && a !== null && typeof b === "object" && b !== null) {
    const keys = new Set([...Object.keys(a), ...Object.keys(b)]);
    return [...keys].every((key) => sameNumbers((a as never)[key], (b as never)[key]));
  }
  return a === b;
}

/** @returns what an element of ours stands for; null when it is not one of ours */
export function ownThing(
  node: XmlNode,
  runsOf: (node: XmlNode) => Run[],
): { readonly list: ThingList; readonly thing: Thing } | null {
  const list = THING_LISTS.find((one) => one === node.attributes[KIND_ATTRIBUTE]);
  if (!list) return null;
  const read = fieldSchema.shape[list].unwrap().element.safeParse(parsed(node.attributes[THING_ATTRIBUTE]));
  const run = runsOf(node)[0];
  if (!read.success || !run) return null;
  const thing = read.data as Thing;
  const drawn = reshaped(thing, run);
  return { list, thing: sameNumbers(thing, drawn) ? thing : tidyNumbers(drawn) };
}

const ownFieldSchema = z.object({
  name: fieldSchema.shape.name.optional(),
  about: fieldSchema.shape.about.optional(),
  cornerRadiusM: fieldSchema.shape.size.shape.cornerRadiusM.optional(),
  widthM: z.number().optional(),
  heightM: z.number().optional(),
  edge: fieldSchema.shape.edge.optional(),
  surface: fieldSchema.shape.surface.optional(),
  light: fieldSchema.shape.light,
  picture: fieldSchema.shape.picture,
  made: fieldSchema.shape.made,
});

/** What our own file says of the field itself; the page's size for any other. */
export function ownField(root: XmlNode, page: { readonly widthM: number; readonly heightM: number }): Partial<Field> {
  const read = ownFieldSchema.safeParse(parsed(root.attributes[FIELD_ATTRIBUTE]));
  const own = read.success ? read.data : {};
  const { cornerRadiusM = 0, widthM = 0, heightM = 0, ...rest } = own;
  const same = Math.abs(widthM - page.widthM) < SAME_M && Math.abs(heightM - page.heightM) < SAME_M;
  const size = same ? { widthM, heightM } : tidyNumbers({ widthM: page.widthM, heightM: page.heightM });
  const given = Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== undefined));
  return { ...given, size: { ...size, cornerRadiusM } };
}
