// Ready starts with a line to follow: oval, figure eight, switchback.
import type { Point } from "../geometry/pose.js";
import { cos, PI, sin } from "../math/trig.js";
import type { Field } from "./schema.js";
import {
  begin,
  count,
  HEIGHT,
  LINE,
  LINE_COLOUR,
  LINE_REFLECTANCE,
  length,
  type Node,
  type Pair,
  type ReadyStart,
  WIDTH,
} from "./startParts.js";

/** Adds a circular arc to a curve, from where it ends: pieces of at most a quarter, handles of 4/3 tan(θ/4). */
function arcTo(nodes: Node[], centre: Point, radius: number, fromRad: number, turnRad: number): void {
  const pieces = Math.max(1, Math.floor(Math.abs(turnRad) / (PI / 2) + 0.999));
  const piece = turnRad / pieces;
  const quarter = piece / 4;
  const arm = ((4 / 3) * radius * sin(quarter)) / cos(quarter);
  for (let i = 0; i < pieces; i += 1) {
    const [a, b] = [fromRad + i * piece, fromRad + (i + 1) * piece];
    const last = nodes.at(-1);
    const start: Pair = [centre[0] + radius * cos(a), centre[1] + radius * sin(a)];
    const end: Pair = [centre[0] + radius * cos(b), centre[1] + radius * sin(b)];
    const out: Pair = [start[0] - arm * sin(a), start[1] + arm * cos(a)];
    const into: Pair = [end[0] + arm * sin(b), end[1] - arm * cos(b)];
    if (last && Math.abs(last.atM[0] - start[0]) + Math.abs(last.atM[1] - start[1]) < 1e-9) last.outM = out;
    else nodes.push({ atM: start, outM: out });
    nodes.push({ atM: end, inM: into });
  }
}

/** A closed curve's last node is its first. */
function closed(nodes: Node[]): Node[] {
  const last = nodes.at(-1);
  const first = nodes[0];
  if (!last || !first || Math.abs(last.atM[0] - first.atM[0]) + Math.abs(last.atM[1] - first.atM[1]) > 1e-6)
    return nodes;
  if (last.inM) first.inM = last.inM;
  return nodes.slice(0, -1);
}

function stroke(widthM: number) {
  return { widthM, reflectance: LINE_REFLECTANCE, colour: LINE_COLOUR };
}

/** Gaps at equal distances along a line of some length. */
function spacedGaps(lineM: number, number: number, gapM: number): { atM: number; lengthM: number }[] {
  return Array.from({ length: number }, (_, i) => ({ atM: ((i + 0.5) / number) * lineM - gapM / 2, lengthM: gapM }));
}

/** Short lines across the long straights. */
function crossingLines(number: number, x0: number, x1: number, ys: readonly number[], width: number): Field["marks"] {
  return Array.from({ length: number }, (_, i) => {
    const y = ys[i % ys.length] as number;
    const x = x0 + ((Math.floor(i / ys.length) + 0.5) / Math.max(1, Math.floor((number + 1) / ys.length))) * (x1 - x0);
    return {
      kind: "line" as const,
      name: `crossing ${i + 1}`,
      pointsM: [
        [x, y - 0.12],
        [x, y + 0.12],
      ] as Pair[],
      ...stroke(width),
    };
  });
}

export const oval: ReadyStart = {
  id: "oval",
  title: "Oval line",
  about: "A closed line with two straights. Gaps, crossings and right angles by number.",
  numbers: [
    WIDTH(2.4),
    HEIGHT(1.2),
    length("radius", "Curve radius", 0.4, 0.05, 4),
    LINE,
    count("gaps", "Gaps", 0, 0, 12),
    length("gap", "Gap length", 0.08, 0.01, 0.5),
    count("crossings", "Crossings", 0, 0, 8),
    count("right angles", "Right angles", 0, 0, 4),
  ],
  make: (n) => {
    const { width: w = 2.4, height: h = 1.2, line = 0.02, gaps = 0, gap = 0.08, crossings = 0 } = n;
    const angles = n["right angles"] ?? 0;
    const margin = Math.max(0.15, line);
    const r = Math.min(n.radius ?? 0.4, h / 2 - margin, w / 2 - margin);
    const x0 = margin;
    const x1 = w - margin;
    const [y0, y1] = [Math.max(margin, h / 2 - Math.max(r, 0.4)), Math.min(h - margin, h / 2 + Math.max(r, 0.4))];
    const corners: readonly [Point, number][] = [
      [[x1 - r, y0 + r], -PI / 2],
      [[x1 - r, y1 - r], 0],
      [[x0 + r, y1 - r], PI / 2],
      [[x0 + r, y0 + r], PI],
    ];
    const sharp: readonly Pair[] = [
      [x1, y0],
      [x1, y1],
      [x0, y1],
      [x0, y0],
    ];
    const nodes: Node[] = [{ atM: [w / 2, y0] }];
    corners.forEach(([centre, from], i) => {
      if (i < angles) nodes.push({ atM: sharp[i] as Pair });
      else arcTo(nodes, centre, r, from, PI / 2);
    });
    const around = 2 * (x1 - x0 + (y1 - y0)) - (4 - angles) * (2 - PI / 2) * r;
    return {
      size: { widthM: w, heightM: h, cornerRadiusM: 0 },
      marks: [
        {
          kind: "curve",
          name: "line",
          nodes,
          closed: true,
          ...stroke(line),
          ...(gaps > 0 ? { gaps: spacedGaps(around, gaps, gap) } : {}),
        },
        ...crossingLines(crossings, x0 + r + 0.1, x1 - r - 0.1, [y1, y0], line),
      ],
      begins: begin(w / 2, y0),
    };
  },
};

export const eight: ReadyStart = {
  id: "eight",
  title: "Figure eight line",
  about: "Two circles that meet: the line crosses itself in the middle.",
  numbers: [length("radius", "Circle radius", 0.35, 0.1, 3), LINE, length("border", "Room around", 0.25, 0.1, 2)],
  make: ({ radius: r = 0.35, line = 0.02, border = 0.25 }) => {
    const [w, h] = [4 * r + 2 * border, 2 * r + 2 * border];
    const nodes: Node[] = [];
    // Straight through the middle at 45 degrees would be a crossing; two circles touch, so that the line runs on.
    arcTo(nodes, [border + r, h / 2], r, 0, 2 * PI);
    arcTo(nodes, [border + 3 * r, h / 2], r, PI, -2 * PI);
    return {
      size: { widthM: w, heightM: h, cornerRadiusM: 0 },
      marks: [{ kind: "curve", name: "line", nodes: closed(nodes), closed: true, ...stroke(line) }],
      begins: begin(border + r, h / 2 - r),
    };
  },
};

export const switchback: ReadyStart = {
  id: "switchback",
  title: "Switchback line",
  about: "A line that runs to and fro with tight turns, as a path up a hill.",
  numbers: [
    length("long", "Length of a lane", 1.4, 0.3, 6),
    count("lanes", "Lanes", 4, 2, 12),
    length("radius", "Turn radius", 0.14, 0.04, 1),
    LINE,
  ],
  make: ({ long = 1.4, lanes = 4, radius: r = 0.14, line = 0.02 }) => {
    const margin = 0.2;
    const [w, h] = [long + 2 * margin, 2 * r * (lanes - 1) + 2 * margin];
    const [x0, x1] = [margin + r, w - margin - r];
    const nodes: Node[] = [{ atM: [margin, margin] }];
    for (let i = 0; i < lanes - 1; i += 1) {
      const y = margin + 2 * r * i + r;
      if (i % 2 === 0) arcTo(nodes, [x1, y], r, -PI / 2, PI);
      else arcTo(nodes, [x0, y], r, -PI / 2, -PI);
    }
    nodes.push({ atM: [lanes % 2 === 0 ? margin : w - margin, margin + 2 * r * (lanes - 1)] });
    return {
      size: { widthM: w, heightM: h, cornerRadiusM: 0 },
      marks: [{ kind: "curve", name: "line", nodes, ...stroke(line) }],
      begins: begin(margin + 0.1, margin),
    };
  },
};
