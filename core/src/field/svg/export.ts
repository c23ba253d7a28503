// A field as an SVG drawing in millimetres, with our own meaning in data- attributes.
import type { Point } from "../../geometry/pose.js";
import { cos, sin } from "../../math/trig.js";
import { rimOutline } from "../edges.js";
import type { Field, StrokeMark } from "../schema.js";
import { THING_LISTS, type Thing, type ThingList } from "../things.js";
import { loadOutline } from "../zones.js";
import { FIELD_ATTRIBUTE, FLOOR_ATTRIBUTE, KIND_ATTRIBUTE, THING_ATTRIBUTE } from "./own.js";

type Attributes = Readonly<Record<string, string | number>>;

function escaped(text: string): string {
  return text.replace(/&/g, "&amp;").replace(/</g, "&lt;").replace(/>/g, "&gt;").replace(/"/g, "&quot;");
}

function element(name: string, attributes: Attributes, inside = ""): string {
  const words = Object.entries(attributes).map(([key, value]) => ` ${key}="${escaped(String(value))}"`);
  return inside === "" ? `<${name}${words.join("")}/>` : `<${name}${words.join("")}>${inside}</${name}>`;
}

/** Millimetres of the file to a ten-thousandth. */
function mm(metres: number): string {
  return String(Math.floor(metres * 1e7 + 0.5) / 1e4);
}

class Drawing {
  constructor(private readonly field: Field) {}

  private at([x, y]: Point): string {
    return `${mm(x)} ${mm(this.field.size.heightM - y)}`;
  }

  private points(points: readonly Point[], closed: boolean): string {
    return points.map((p, i) => `${i === 0 ? "M" : "L"}${this.at(p)}`).join("") + (closed ? "Z" : "");
  }

  private strokeData(mark: StrokeMark): string {
    if (mark.kind === "line") return this.points(mark.pointsM, mark.closed === true);
    const { nodes, closed } = mark;
    const pieces = closed === true ? nodes.length : nodes.length - 1;
    let data = `M${this.at((nodes[0] as (typeof nodes)[number]).atM)}`;
    for (let i = 0; i < pieces; i += 1) {
      const [a, b] = [nodes[i], nodes[(i + 1) % nodes.length]] as [(typeof nodes)[number], (typeof nodes)[number]];
      data +=
        a.outM || b.inM
          ? `C${this.at(a.outM ?? a.atM)} ${this.at(b.inM ?? b.atM)} ${this.at(b.atM)}`
          : `L${this.at(b.atM)}`;
    }
    return closed === true ? `${data}Z` : data;
  }

  private outline(corners: readonly Point[], look: Attributes): Attributes & { d: string } {
    return { d: this.points(corners, true), ...look };
  }

  /** Element name and attributes of a thing's shape. */
  private shape(list: ThingList, thing: Thing): readonly [string, Attributes] {
    if ("pointsM" in thing || "nodes" in thing) {
      const dash = thing.dash ? { "stroke-dasharray": `${mm(thing.dash.onM)} ${mm(thing.dash.offM)}` } : {};
      return [
        "path",
        {
          d: this.strokeData(thing),
          fill: "none",
          stroke: thing.colour,
          "stroke-width": mm(thing.widthM),
          "stroke-linejoin": "round",
          "stroke-linecap": "round",
          ...dash,
        },
      ];
    }
    const look = LOOKS[list];
    const fill = "colour" in thing && list !== "tags" ? { ...look, fill: thing.colour } : look;
    if ("shape" in thing && typeof thing.shape === "object") {
      if (thing.shape.kind === "polygon") return ["path", this.outline(thing.shape.cornersM, fill)];
      const { centreM, radiusXM, radiusYM } = thing.shape;
      const [cx, cy] = this.at(centreM).split(" ") as [string, string];
      return ["ellipse", { cx, cy, rx: mm(radiusXM), ry: mm(radiusYM), ...fill }];
    }
    if ("cornersM" in thing) return ["path", this.outline(thing.cornersM, look)];
    if ("fromM" in thing) {
      const width = "heightM" in thing ? Math.max(0.003, thing.thicknessM ?? 0) : 0.002;
      return ["path", { d: this.points([thing.fromM, thing.toM], false), ...look, "stroke-width": mm(width) }];
    }
    return this.placed(list, thing, fill);
  }

  private placed(
    list: ThingList,
    thing: Extract<Thing, { xM: number }>,
    look: Attributes,
  ): readonly [string, Attributes] {
    const [cx, cy] = this.at([thing.xM, thing.yM]).split(" ") as [string, string];
    if ("radiusM" in thing) return ["circle", { cx, cy, r: mm(thing.radiusM), ...look }];
    if ("massKg" in thing) {
      if (thing.shape === "disc") return ["circle", { cx, cy, r: mm(thing.sizeM[0] / 2), ...look }];
      const [c, s] = [cos(thing.headingRad), sin(thing.headingRad)];
      const [one, two, three, four] = loadOutline(thing).map(
        ([x, y]): Point => [thing.xM + c * x - s * y, thing.yM + s * x + c * y],
      ) as [Point, Point, Point, Point];
      // From its rear right corner along its heading: the first edge tells the direction.
      return ["path", this.outline([three, four, one, two], look)];
    }
    if ("sizeM" in thing) {
      const half = (thing.sizeM as number) / 2;
      const corner = this.at([thing.xM - half, thing.yM + half]).split(" ") as [string, string];
      const side = mm(2 * half);
      return ["rect", { x: corner[0], y: corner[1], width: side, height: side, ...look, fill: thing.colour }];
    }
    const tip: Point = [thing.xM + 0.1 * cos(thing.headingRad), thing.yM + 0.1 * sin(thing.headingRad)];
    return ["path", { d: this.points([[thing.xM, thing.yM], tip], false), ...LOOKS[list], "stroke-width": mm(0.004) }];
  }

  thing(list: ThingList, thing: Thing): string {
    const [name, shape] = this.shape(list, thing);
    return element(
      name,
      { ...shape, [KIND_ATTRIBUTE]: list, [THING_ATTRIBUTE]: JSON.stringify(thing) },
      thing.name === undefined ? "" : element("title", {}, escaped(thing.name)),
    );
  }
}

const LOOKS: Readonly<Record<ThingList, Attributes>> = {
  marks: {},
  ramps: { fill: "#8A8C8E", "fill-opacity": 0.15, stroke: "#8A8C8E", "stroke-width": 2 },
  zones: { fill: "none", stroke: "#0E6A6B", "stroke-width": 2, "stroke-dasharray": "8 6" },
  gates: { fill: "none", stroke: "#8A5200" },
  tags: { stroke: "#1E2B33", "stroke-width": 1 },
  walls: { fill: "none", stroke: "#5B4A3A" },
  obstacles: { fill: "#8D8375", stroke: "#5B4A3A", "stroke-width": 2 },
  boulders: { fill: "#8D8375" },
  loads: { stroke: "#8A5200", "stroke-width": 2 },
  begins: { fill: "none", stroke: "#0E6A6B" },
};

/** @returns the text of an SVG file; reading it again gives the same field */
export function exportSvg(field: Field): string {
  const { widthM, heightM } = field.size;
  const drawing = new Drawing(field);
  const { name, about, size, edge, surface, light, picture, made } = field;
  const own = { name, about, ...size, edge, surface, light, picture, made };
  const floor = rimOutline(size)
    .map(([x, y], i) => `${i === 0 ? "M" : "L"}${mm(x)} ${mm(heightM - y)}`)
    .join("");
  const picturePart = picture?.png
    ? [
        element("image", {
          x: 0,
          y: mm(heightM - picture.rows * 0.002),
          width: mm(picture.columns * 0.002),
          height: mm(picture.rows * 0.002),
          "image-rendering": "pixelated",
          [FLOOR_ATTRIBUTE]: "picture",
          href: `data:image/png;base64,${picture.png}`,
        }),
      ]
    : [];
  const parts = [
    element("path", { d: `${floor}Z`, fill: surface.colour, [FLOOR_ATTRIBUTE]: "colour" }),
    ...picturePart,
    ...THING_LISTS.flatMap((list) => field[list].map((thing) => drawing.thing(list, thing as Thing))),
  ];
  return `${element(
    "svg",
    {
      xmlns: "http://www.w3.org/2000/svg",
      width: `${mm(widthM)}mm`,
      height: `${mm(heightM)}mm`,
      viewBox: `0 0 ${mm(widthM)} ${mm(heightM)}`,
      [FIELD_ATTRIBUTE]: JSON.stringify(own),
    },
    `\n${parts.join("\n")}\n`,
  )}\n`;
}
