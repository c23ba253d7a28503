// An SVG drawing as a field. What we wrote ourselves comes back as it was; of other drawings, strokes become marks and
// filled shapes patches, unless something else was chosen for a colour or a group.
//
// One unit of the file is one millimetre through its width, height and viewBox; the field's y runs up, the file's down.
import { toLinear } from "../colours.js";
import { flattenCurve } from "../curves.js";
import { FIELD_LIMITS, type Field, fieldSchema } from "../schema.js";
import { THING_LISTS, type Thing, type ThingList } from "../things.js";
import { tidyNumbers } from "../tidy.js";
import { FLOOR_ATTRIBUTE, ownField, ownThing } from "./own.js";
import { atMost, joinedRings } from "./rings.js";
import { type Chain, isShape, pathData, type Run, runsOf, scaleOf } from "./shapes.js";
import { type Declarations, lengthMm, paintOf, pxPerInch, readRules, shown, styleOf, userUnits } from "./style.js";
import { readXml, type XmlNode } from "./xml.js";

/** What shapes of a colour or a group can become. */
export const SVG_KINDS = ["mark", "wall", "obstacle", "zone", "nothing"] as const;
export type SvgKind = (typeof SVG_KINDS)[number];

interface SvgChoice {
  /** "stroke #RRGGBB", "fill #RRGGBB" or "group NAME". */
  readonly key: string;
  /** How many shapes it is about. */
  readonly count: number;
  readonly becomes: SvgKind;
}

export type SvgReading =
  | {
      readonly ok: true;
      readonly field: Field;
      readonly choices: readonly SvgChoice[];
      /** Sentences about what is not in the field. */
      readonly leftOut: readonly string[];
    }
  | { readonly ok: false; readonly problem: string };

const MOST_SHAPES = 20_000;
const MOST_POINTS = 400_000;
const SIDE_M = { least: 0.05, most: 50 } as const;
const LEAST_WIDTH_M = 1e-4;
const WALL_HEIGHT_M = 0.06;
/** A shape that covers this share of the page, in white, is its paper. */
const PAPER_SHARE = 0.98;
const MOST_CORNERS = 400;
/** What is left out, when it is one. */
const SINGLE: Readonly<Record<string, string>> = {
  texts: "text",
  pictures: "picture",
  "scripts and animations": "script or animation",
  "references to other files": "reference to another file",
  "shapes that are too small, too large or too far away": "shape that is too small, too large or too far away",
};
const PICTURES = new Set(["image", "text", "tspan", "flowRoot", "foreignObject"]);
const ACTIVE = new Set(["script", "animate", "set", "animateTransform", "animateMotion", "handler", "iframe"]);
const UNDRAWN = new Set([
  "defs",
  "symbol",
  "clipPath",
  "mask",
  "pattern",
  "marker",
  "linearGradient",
  "radialGradient",
  "filter",
  "style",
  "title",
  "desc",
  "metadata",
  "namedview",
]);

interface Page {
  readonly widthM: number;
  readonly heightM: number;
  /** User units to field metres. */
  readonly toField: readonly number[];
  /** px */
  readonly perInch: number;
}

type PageReading = { readonly page: Page } | { readonly problem: string };

/** Size of the drawing and how its units become metres. */
function readPage(root: XmlNode): PageReading {
  const box = (root.attributes.viewBox ?? "")
    .trim()
    .split(/[\s,]+/)
    .map(Number);
  const viewBox = box.length === 4 && box.every(Number.isFinite) && (box[2] ?? 0) > 0 && (box[3] ?? 0) > 0 ? box : null;
  const perInch = pxPerInch(root);
  let widthMm = lengthMm(root.attributes.width, perInch);
  let heightMm = lengthMm(root.attributes.height, perInch);
  if (viewBox) {
    const [, , w, h] = viewBox as [number, number, number, number];
    // A viewBox alone: its units are millimetres.
    if (widthMm === null && heightMm === null) [widthMm, heightMm] = [w, h];
    widthMm ??= ((heightMm as number) * w) / h;
    heightMm ??= (widthMm * h) / w;
  }
  if (widthMm === null || heightMm === null)
    return { problem: "The drawing does not say how large it is. Give it a width and a height, for example in mm." };
  const [widthM, heightM] = [widthMm / 1000, heightMm / 1000];
  if (!(Math.min(widthM, heightM) >= SIDE_M.least && Math.max(widthM, heightM) <= SIDE_M.most))
    return {
      problem: `The drawing is ${said(widthM)} × ${said(heightM)} m. A field is from ${SIDE_M.least} to ${SIDE_M.most} m on each side.`,
    };
  const [x, y, w, h] = viewBox ?? [0, 0, widthMm / (25.4 / perInch), heightMm / (25.4 / perInch)];
  const [sx, sy] = [widthM / (w as number), heightM / (h as number)];
  if (/\bnone\b/.test(root.attributes.preserveAspectRatio ?? ""))
    return {
      page: { widthM, heightM, toField: [sx, 0, 0, -sy, -sx * (x as number), heightM + sy * (y as number)], perInch },
    };
  const s = Math.min(sx, sy);
  const dx = (widthM - s * (w as number)) / 2 - s * (x as number);
  const dy = heightM - (heightM - s * (h as number)) / 2 + s * (y as number);
  return { page: { widthM, heightM, toField: [s, 0, 0, -s, dx, dy], perInch } };
}

function said(metres: number): string {
  return String(Math.floor(metres * 1000 + 0.5) / 1000);
}

/** A shape of a drawing with how it is drawn. */
interface Drawn {
  readonly node: XmlNode;
  readonly chain: Chain;
  readonly style: Declarations;
  readonly group: string | null;
}

class Walk {
  readonly shapes: Drawn[] = [];
  readonly leftOut = new Map<string, number>();
  tooMany = false;
  private readonly ids = new Map<string, XmlNode>();
  private readonly rules: ReturnType<typeof readRules>;
  private visited = 0;

  /** @param perInch - px */
  constructor(
    root: XmlNode,
    private readonly perInch: number,
  ) {
    const sheets: string[] = [];
    const index = (node: XmlNode): void => {
      if (node.attributes.id) this.ids.set(node.attributes.id, node);
      if (node.name === "style") sheets.push(node.text);
      node.children.forEach(index);
    };
    index(root);
    this.rules = readRules(sheets.join("\n"));
    for (const child of root.children) this.visit(child, [], styleOf(root, {}, this.rules), null, new Set());
  }

  leave(why: string): void {
    this.leftOut.set(why, (this.leftOut.get(why) ?? 0) + 1);
  }

  private visit(
    node: XmlNode,
    chain: Chain,
    inherited: Declarations,
    group: string | null,
    through: ReadonlySet<XmlNode>,
  ): void {
    this.visited += 1;
    if (this.visited > MOST_SHAPES) {
      this.tooMany = true;
      return;
    }
    const { name, attributes } = node;
    if (ACTIVE.has(name)) return this.leave("scripts and animations");
    if (name === "image" && attributes[FLOOR_ATTRIBUTE] !== undefined) return;
    if (PICTURES.has(name)) return name === "tspan" ? undefined : this.leave(name === "image" ? "pictures" : "texts");
    if (UNDRAWN.has(name)) return;
    const style = styleOf(node, inherited, this.rules);
    if (!shown(style)) return;
    const mine = attributes.transform ? [attributes.transform, ...chain] : chain;
    if (isShape(name)) {
      if (attributes[FLOOR_ATTRIBUTE] !== undefined) return;
      this.shapes.push({ node, chain: mine, style, group });
      return;
    }
    if (name === "use") return this.visitUse(node, mine, style, group, through);
    if (!["g", "svg", "a", "switch"].includes(name)) return;
    const label = attributes["inkscape:label"] ?? attributes["data-name"] ?? (name === "g" ? attributes.id : undefined);
    const moved = name === "svg" ? [this.shift(attributes), ...mine] : mine;
    for (const child of node.children) this.visit(child, moved, style, label ?? group, through);
  }

  /** The transform by an element's x and y. */
  private shift({ x, y }: XmlNode["attributes"]): string {
    return `translate(${userUnits(x, 0, this.perInch)} ${userUnits(y, 0, this.perInch)})`;
  }

  private visitUse(
    node: XmlNode,
    chain: Chain,
    style: Declarations,
    group: string | null,
    through: ReadonlySet<XmlNode>,
  ): void {
    const href = node.attributes.href ?? node.attributes["xlink:href"] ?? "";
    if (!href.startsWith("#")) return this.leave("references to other files");
    const target = this.ids.get(href.slice(1));
    if (!target) return this.leave("uses of something that is not there");
    if (through.has(target) || through.size > 30) return this.leave("uses that go round in a circle");
    const inner = new Set(through).add(target);
    const moved = [this.shift(node.attributes), ...chain];
    if (target.name === "symbol" || target.name === "svg") {
      for (const child of target.children) this.visit(child, moved, styleOf(target, style, this.rules), group, inner);
    } else this.visit(target, moved, style, group, inner);
  }
}

/** Share of light a colour sends back: its luminance. */
export function reflectanceOf(hex: string): number {
  const part = (at: number) => toLinear(Number.parseInt(hex.slice(at, at + 2), 16) / 255);
  return 0.2126729 * part(1) + 0.7151522 * part(3) + 0.072175 * part(5);
}

interface Made {
  readonly list: ThingList;
  readonly thing: Thing;
}

type Node = Run["nodes"][number];

function pieces<T>(items: readonly T[], most: number): T[][] {
  const out: T[][] = [];
  for (let at = 0; at < items.length - 1 || out.length === 0; at += most - 1) out.push(items.slice(at, at + most));
  return out;
}

function dashOf(style: Declarations, scale: number, perInch: number): { dash?: { onM: number; offM: number } } {
  const numbers = (style["stroke-dasharray"] ?? "none")
    .split(/[\s,]+/)
    .map((part) => userUnits(part, Number.NaN, perInch) * scale)
    .filter((value) => value > 0);
  const [on, off = on] = numbers;
  return on !== undefined && off !== undefined ? { dash: { onM: on, offM: off } } : {};
}

function strokeMarks(run: Run, drawn: Drawn, colour: string, scale: number, perInch: number): Made[] {
  const width = Math.max(LEAST_WIDTH_M, userUnits(drawn.style["stroke-width"], 1, perInch) * scale);
  const common = {
    widthM: width,
    reflectance: reflectanceOf(colour),
    colour,
    ...dashOf(drawn.style, scale, perInch),
  };
  const name = drawn.node.attributes["inkscape:label"];
  const named = name ? { name: name.slice(0, 60) } : {};
  const most = run.straight ? 400 : 200;
  const whole = run.nodes.length <= most;
  const nodes: Node[] = run.closed && !whole ? [...run.nodes, run.nodes[0] as Node] : run.nodes;
  const closed = run.closed && whole ? { closed: true } : {};
  return (whole ? [nodes] : pieces(nodes, most)).map((part) => ({
    list: "marks" as const,
    thing: run.straight
      ? { kind: "line" as const, ...named, pointsM: part.map(({ atM }) => atM), ...common, ...closed }
      : { kind: "curve" as const, ...named, nodes: part, ...common, ...closed },
  }));
}

function wallsOf(run: Run, widthM: number, reflectance: number): Made[] {
  const points = flattenCurve(run.nodes, run.closed);
  const thin = run.straight ? points : atMost(points, Math.max(2, Math.min(60, points.length)));
  const ends = run.straight && run.closed ? points : thin;
  return ends.slice(1).map((to, i) => {
    const from = ends[i] as readonly [number, number];
    return {
      list: "walls",
      thing: {
        fromM: [from[0], from[1]],
        toM: [to[0], to[1]],
        heightM: WALL_HEIGHT_M,
        thicknessM: Math.min(1, widthM),
        reflectance,
      },
    };
  });
}

function filledThings(
  kind: SvgKind,
  rings: readonly [number, number][][],
  colour: string,
  name: string,
  n: number,
): Made[] {
  return rings.map((ring, i) => {
    if (kind === "obstacle" || kind === "wall")
      return {
        list: "obstacles",
        thing: {
          cornersM: atMost(ring, FIELD_LIMITS.corners),
          heightM: WALL_HEIGHT_M,
          reflectance: reflectanceOf(colour),
        },
      };
    const shape = { kind: "polygon" as const, cornersM: atMost(ring, MOST_CORNERS) };
    if (kind === "zone")
      return {
        list: "zones",
        thing: {
          name: `${name} ${n + i + 1}`.slice(0, 60),
          shape,
          points: 0,
          counts: "robot",
          rule: "inside",
          upright: false,
          most: 100,
          beforeSec: null,
          only: null,
        },
      };
    return { list: "marks", thing: { kind: "area", shape, reflectance: reflectanceOf(colour), colour } };
  });
}

interface Import {
  readonly page: Page;
  readonly choices: ReadonlyMap<string, SvgKind>;
  readonly seen: Map<string, { count: number; becomes: SvgKind }>;
  readonly leave: (why: string) => void;
  points: number;
  zones: number;
}

/** What is chosen for a shape: its group before its colour, else a mark. */
function kindOf(work: Import, drawn: Drawn, paint: string): SvgKind {
  const keys = [...(drawn.group ? [`group ${drawn.group}`] : []), paint];
  for (const key of keys) {
    const known = work.seen.get(key);
    work.seen.set(key, { count: (known?.count ?? 0) + 1, becomes: work.choices.get(key) ?? "mark" });
  }
  return keys.map((key) => work.choices.get(key)).find((kind) => kind !== undefined) ?? "mark";
}

function isPaper(page: Page, colour: string, rings: readonly (readonly (readonly [number, number])[])[]): boolean {
  if (reflectanceOf(colour) < 0.9 || rings.length !== 1) return false;
  const ring = rings[0] as readonly (readonly [number, number])[];
  const xs = ring.map(([x]) => x);
  const ys = ring.map(([, y]) => y);
  return (
    Math.max(...xs) - Math.min(...xs) >= PAPER_SHARE * page.widthM &&
    Math.max(...ys) - Math.min(...ys) >= PAPER_SHARE * page.heightM
  );
}

function ellipseOf(drawn: Drawn, page: Page, colour: string): Made | null {
  const { node, chain } = drawn;
  if (node.name !== "circle" && node.name !== "ellipse") return null;
  const runs = runsOf(pathData(node, page.perInch), chain, page.toField);
  const points = runs[0]?.nodes.map(({ atM }) => atM) ?? [];
  // Two half turns are made of pieces whose ends are the ends of the axes: along x and y they stay an ellipse.
  const [low, high] = [
    [Math.min(...points.map(([x]) => x)), Math.min(...points.map(([, y]) => y))],
    [Math.max(...points.map(([x]) => x)), Math.max(...points.map(([, y]) => y))],
  ] as [[number, number], [number, number]];
  const centreM: [number, number] = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2];
  const [radiusXM, radiusYM] = [(high[0] - low[0]) / 2, (high[1] - low[1]) / 2];
  const along = points.every(
    ([x, y]) => Math.abs(x - centreM[0]) < 1e-6 * (1 + radiusXM) || Math.abs(y - centreM[1]) < 1e-6 * (1 + radiusYM),
  );
  if (!along || points.length !== 4 || !(radiusXM > LEAST_WIDTH_M && radiusYM > LEAST_WIDTH_M)) return null;
  return {
    list: "marks",
    thing: {
      kind: "area",
      shape: { kind: "ellipse", centreM, radiusXM, radiusYM },
      reflectance: reflectanceOf(colour),
      colour,
    },
  };
}

function thingsOf(work: Import, drawn: Drawn): Made[] {
  const { page } = work;
  const runs = runsOf(pathData(drawn.node, page.perInch), drawn.chain, page.toField);
  work.points += runs.reduce((sum, { nodes }) => sum + nodes.length, 0);
  if (work.points > MOST_POINTS) {
    work.leave("shapes beyond the first 400,000 points");
    return [];
  }
  const made: Made[] = [];
  const fill = paintOf("fill", drawn.style);
  const open = drawn.node.name === "line" || runs.every(({ closed, nodes }) => !closed && nodes.length < 3);
  if (fill !== null && !open) {
    const rings = joinedRings(
      runs.map(({ nodes }) => flattenCurve(nodes, false).concat(closing(nodes))),
      drawn.style["fill-rule"] === "evenodd",
    );
    if (!isPaper(page, fill, rings)) {
      const kind = kindOf(work, drawn, `fill ${fill}`);
      const round = kind === "mark" ? ellipseOf(drawn, page, fill) : null;
      if (round) made.push(round);
      else if (kind !== "nothing") {
        const things = filledThings(kind, rings, fill, drawn.group ?? "zone", work.zones);
        if (kind === "zone") work.zones += things.length;
        made.push(...things);
      }
    }
  }
  const stroke = paintOf("stroke", drawn.style);
  const scale = stroke === null ? 0 : scaleOf(drawn.chain, page.toField);
  const width = userUnits(drawn.style["stroke-width"], 1, page.perInch) * scale;
  if (stroke !== null && width > 0) {
    const kind = kindOf(work, drawn, `stroke ${stroke}`);
    for (const run of runs) {
      if (kind === "mark") made.push(...strokeMarks(run, drawn, stroke, scale, page.perInch));
      else if (kind === "wall" || kind === "obstacle") made.push(...wallsOf(run, width, reflectanceOf(stroke)));
      else if (kind === "zone") {
        const ring = flattenCurve(run.nodes, false);
        if (ring.length >= 3)
          made.push(
            ...filledThings(
              "zone",
              [ring.map(([x, y]): [number, number] => [x, y])],
              stroke,
              drawn.group ?? "zone",
              work.zones++,
            ),
          );
      }
    }
  }
  return made;
}

/** The piece that closes a run, when it is a curved one: its points after the last node, without the first. */
function closing(nodes: readonly Node[]): (readonly [number, number])[] {
  const [last, first] = [nodes.at(-1), nodes[0]];
  if (!last || !first || (!last.outM && !first.inM)) return [];
  return flattenCurve([last, first], false).slice(1, -1) as (readonly [number, number])[];
}

/**
 * Reads an SVG drawing.
 *
 * @param text - the file
 * @param choices - what colours and groups become that shall not be marks, by their keys
 */
export function importSvg(text: string, name: string, choices: ReadonlyMap<string, SvgKind> = new Map()): SvgReading {
  const xml = readXml(text);
  if (!xml.ok) return xml;
  const { root } = xml;
  if (root.name !== "svg") return { ok: false, problem: `This is not an SVG drawing: it begins with <${root.name}>.` };
  const read = readPage(root);
  if ("problem" in read) return { ok: false, problem: read.problem };
  const { page } = read;
  const walk = new Walk(root, page.perInch);
  const lists: Record<ThingList, Thing[]> = Object.fromEntries(THING_LISTS.map((list) => [list, []])) as never;
  const full = new Map<ThingList, number>();
  const work: Import = {
    page,
    choices,
    seen: new Map(),
    leave: (why) => walk.leave(why),
    points: 0,
    zones: 0,
  };
  for (const drawn of walk.shapes) {
    const own = ownThing(drawn.node, (node) => runsOf(pathData(node, page.perInch), drawn.chain, page.toField));
    const made = own ? [own] : thingsOf(work, drawn).map(({ list, thing }) => ({ list, thing: tidyNumbers(thing) }));
    for (const { list, thing } of made) {
      const item = fieldSchema.shape[list].unwrap().element.safeParse(thing);
      if (!item.success) walk.leave("shapes that are too small, too large or too far away");
      else if (lists[list].length >= FIELD_LIMITS[list]) full.set(list, (full.get(list) ?? 0) + 1);
      else lists[list].push(item.data as Thing);
    }
  }
  const leftOut = [...walk.leftOut].map(
    ([what, count]) => `Left out: ${count} ${count === 1 ? (SINGLE[what] ?? what) : what}.`,
  );
  for (const [list, count] of full) leftOut.push(`Left out: ${count} ${list} beyond the first ${FIELD_LIMITS[list]}.`);
  if (walk.tooMany) leftOut.push(`Left out: everything beyond the first ${MOST_SHAPES} elements.`);
  const field = fieldSchema.parse({
    format: "giddy-pebble/field",
    version: 2,
    name,
    surface: {},
    ...ownField(root, page),
    ...lists,
  });
  return {
    ok: true,
    field,
    choices: [...work.seen].map(([key, { count, becomes }]) => ({ key, count, becomes })),
    leftOut,
  };
}
