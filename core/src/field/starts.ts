// Ready starts: whole fields made from a few numbers, to begin with instead of an empty table.
//
// Each is a function of its numbers alone: the same numbers give the same field. Lengths in m, angles in rad.
import type { Point } from "../geometry/pose.js";
import { randomStream } from "../math/random.js";
import { cos, PI, sin } from "../math/trig.js";
import { type Field, fieldSchema } from "./schema.js";
import { tidyNumbers } from "./tidy.js";

export interface StartNumber {
  readonly key: string;
  readonly label: string;
  readonly unit: "m" | "rad" | "kg" | "";
  readonly value: number;
  readonly least: number;
  readonly most: number;
}

export type StartNumbers = Readonly<Record<string, number>>;

export interface ReadyStart {
  readonly id: string;
  readonly title: string;
  readonly about: string;
  readonly numbers: readonly StartNumber[];
  readonly make: (numbers: StartNumbers) => Partial<Field> & { size: { widthM: number; heightM: number } };
}

const LINE_COLOUR = "#2B2F31";
const LINE_REFLECTANCE = 0.06;

const length = (key: string, label: string, value: number, least: number, most: number): StartNumber => ({
  key,
  label,
  unit: "m",
  value,
  least,
  most,
});
const count = (key: string, label: string, value: number, least: number, most: number): StartNumber => ({
  key,
  label,
  unit: "",
  value,
  least,
  most,
});

const WIDTH = (value: number) => length("width", "Width", value, 0.3, 10);
const HEIGHT = (value: number) => length("height", "Depth", value, 0.3, 10);
const LINE = length("line", "Line width", 0.02, 0.005, 0.1);

type Pair = [number, number];
type Node = { atM: Pair; inM?: Pair; outM?: Pair };
type Begin = Field["begins"][number];

function begin(xM: number, yM: number, headingRad = 0): Begin[] {
  return [{ name: "begin", xM, yM, headingRad }];
}

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

const oval: ReadyStart = {
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

const eight: ReadyStart = {
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

const switchback: ReadyStart = {
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

/** A maze without loops: from any cell exactly one way leads to any other (depth-first carving). */
function carve(rows: number, columns: number, seed: number): { east: boolean[]; north: boolean[] } {
  const chance = randomStream(seed);
  const east = Array.from({ length: rows * columns }, () => true);
  const north = [...east];
  const seen = new Set([0]);
  const stack = [0];
  while (stack.length > 0) {
    const cell = stack.at(-1) as number;
    const [r, c] = [Math.floor(cell / columns), cell % columns];
    const ways = [
      c + 1 < columns ? cell + 1 : -1,
      c > 0 ? cell - 1 : -1,
      r + 1 < rows ? cell + columns : -1,
      r > 0 ? cell - columns : -1,
    ].filter((next) => next >= 0 && !seen.has(next));
    if (ways.length === 0) {
      stack.pop();
      continue;
    }
    const next = ways[Math.min(ways.length - 1, Math.floor(chance.uniform() * ways.length))] as number;
    if (next === cell + 1) east[cell] = false;
    else if (next === cell - 1) east[next] = false;
    else if (next === cell + columns) north[cell] = false;
    else north[next] = false;
    seen.add(next);
    stack.push(next);
  }
  return { east, north };
}

const maze: ReadyStart = {
  id: "maze",
  title: "Maze",
  about: "Planks on a grid. One way leads from the begin place to the exit.",
  numbers: [
    count("rows", "Rows", 4, 2, 16),
    count("columns", "Columns", 5, 2, 16),
    length("cell", "Cell size", 0.4, 0.15, 1.5),
    length("thick", "Plank thickness", 0.012, 0, 0.1),
    length("plank", "Plank height", 0.1, 0.02, 1),
    count("seed", "Which maze", 1, 1, 9999),
  ],
  make: ({ rows = 4, columns = 5, cell = 0.4, thick = 0.012, plank = 0.1, seed = 1 }) => {
    const { east, north } = carve(rows, columns, seed);
    const walls: Field["walls"] = [];
    const add = (x0: number, y0: number, x1: number, y1: number) =>
      walls.push({
        fromM: [x0 * cell, y0 * cell],
        toM: [x1 * cell, y1 * cell],
        heightM: plank,
        thicknessM: thick,
        reflectance: 0.7,
      });
    // Planks in one line are one plank.
    for (let c = 0; c + 1 < columns; c += 1)
      for (let r = 0; r < rows; ) {
        if (!east[r * columns + c]) {
          r += 1;
          continue;
        }
        const from = r;
        while (r < rows && east[r * columns + c]) r += 1;
        add(c + 1, from, c + 1, r);
      }
    for (let r = 0; r + 1 < rows; r += 1)
      for (let c = 0; c < columns; ) {
        if (!north[r * columns + c]) {
          c += 1;
          continue;
        }
        const from = c;
        while (c < columns && north[r * columns + c]) c += 1;
        add(from, r + 1, c, r + 1);
      }
    const [w, h] = [columns * cell, rows * cell];
    const exit: Pair[] = [
      [w - cell, h - cell],
      [w, h - cell],
      [w, h],
      [w - cell, h],
    ];
    return {
      size: { widthM: w, heightM: h, cornerRadiusM: 0 },
      walls,
      zones: [zone("exit", exit, 10)],
      begins: begin(cell / 2, cell / 2, north[0] ? 0 : PI / 2),
    };
  },
};

function zone(name: string, cornersM: Pair[], points: number): Field["zones"][number] {
  return {
    name,
    shape: { kind: "polygon", cornersM },
    points,
    counts: "robot",
    rule: "touching",
    upright: false,
    most: 1,
    beforeSec: null,
    only: null,
  };
}

const slalom: ReadyStart = {
  id: "slalom",
  title: "Slalom",
  about: "Posts in a row to drive around, left and right in turns.",
  numbers: [
    count("posts", "Posts", 5, 2, 20),
    length("apart", "From post to post", 0.5, 0.2, 2),
    length("post", "Post diameter", 0.05, 0.01, 0.5),
    HEIGHT(1.2),
  ],
  make: ({ posts = 5, apart = 0.5, post = 0.05, height: h = 1.2 }) => {
    const w = apart * (posts + 1);
    return {
      size: { widthM: w, heightM: h, cornerRadiusM: 0 },
      boulders: Array.from({ length: posts }, (_, i) => ({
        name: `post ${i + 1}`,
        xM: apart * (i + 1),
        yM: h / 2,
        radiusM: post / 2,
        heightM: 0.2,
        reflectance: 0.7,
      })),
      zones: [
        zone(
          "finish",
          [
            [w - apart * 0.6, 0],
            [w, 0],
            [w, h],
            [w - apart * 0.6, h],
          ],
          10,
        ),
      ],
      begins: begin(apart * 0.35, h / 2),
    };
  },
};

const corridor: ReadyStart = {
  id: "corridor",
  title: "Corridor with doors",
  about: "A corridor between two walls, with doors to rooms along it.",
  numbers: [
    length("long", "Length", 2.4, 0.6, 10),
    length("wide", "Corridor width", 0.5, 0.2, 2),
    count("doors", "Doors", 3, 1, 8),
    length("door", "Door width", 0.3, 0.12, 1),
    length("room", "Depth of the rooms", 0.5, 0.2, 2),
    length("wall", "Wall height", 0.1, 0.02, 1),
  ],
  make: ({ long = 2.4, wide = 0.5, doors = 3, door = 0.3, room = 0.5, wall = 0.1 }) => {
    const walls: Field["walls"] = [];
    const add = (x0: number, y0: number, x1: number, y1: number) =>
      walls.push({ fromM: [x0, y0], toM: [x1, y1], heightM: wall, thicknessM: 0.012, reflectance: 0.7 });
    const zones: Field["zones"] = [];
    const each = long / doors;
    for (let i = 0; i < doors; i += 1) {
      const [x0, middle] = [i * each, (i + 0.5) * each];
      const half = Math.min(door, each * 0.8) / 2;
      add(x0, wide, middle - half, wide);
      add(middle + half, wide, x0 + each, wide);
      if (i > 0) add(x0, wide, x0, wide + room);
      zones.push(
        zone(
          `room ${i + 1}`,
          [
            [x0 + 0.02, wide + 0.02],
            [x0 + each - 0.02, wide + 0.02],
            [x0 + each - 0.02, wide + room],
            [x0 + 0.02, wide + room],
          ],
          5,
        ),
      );
    }
    return {
      size: { widthM: long, heightM: wide + room, cornerRadiusM: 0 },
      walls,
      zones,
      begins: begin(Math.min(0.25, each / 2), wide / 2),
    };
  },
};

const pushYard: ReadyStart = {
  id: "push yard",
  title: "Push yard",
  about: "Boxes to push into a bay at the far side.",
  numbers: [
    WIDTH(2.1),
    HEIGHT(1.5),
    count("boxes", "Boxes", 3, 1, 12),
    length("box", "Box edge", 0.1, 0.02, 0.5),
    { key: "mass", label: "Box mass", unit: "kg", value: 0.12, least: 0.005, most: 20 },
    { key: "friction", label: "Friction on the floor", unit: "", value: 0.35, least: 0.05, most: 1.5 },
  ],
  make: ({ width: w = 2.1, height: h = 1.5, boxes = 3, box = 0.1, mass = 0.12, friction = 0.35 }) => ({
    size: { widthM: w, heightM: h, cornerRadiusM: 0 },
    loads: Array.from({ length: boxes }, (_, i) => ({
      name: `box ${i + 1}`,
      shape: "box" as const,
      sizeM: [box, box] as Pair,
      heightM: box,
      massKg: mass,
      friction,
      xM: w * 0.5,
      yM: (h * (i + 1)) / (boxes + 1),
      headingRad: 0,
      colour: "#E8B04A",
    })),
    zones: [
      {
        ...zone(
          "bay",
          [
            [w - Math.max(0.3, 2 * box), 0],
            [w, 0],
            [w, h],
            [w - Math.max(0.3, 2 * box), h],
          ],
          10,
        ),
        counts: "load",
        rule: "inside",
        most: boxes,
      },
    ],
    begins: begin(0.25, h / (boxes + 1)),
  }),
};

const parking: ReadyStart = {
  id: "parking",
  title: "Parking strip",
  about: "A kerb with parked boxes and one gap between them.",
  numbers: [
    length("long", "Length of the strip", 2.4, 1, 8),
    length("gap", "Gap length", 0.5, 0.15, 2),
    length("deep", "Depth of the strip", 0.26, 0.1, 1),
    length("lane", "Lane width", 0.6, 0.25, 3),
    length("box", "Height of the boxes", 0.12, 0.02, 1),
  ],
  make: ({ long = 2.4, gap = 0.5, deep = 0.26, lane = 0.6, box = 0.12 }) => {
    const h = deep + lane;
    const from = long * 0.55;
    const block = (name: string, x0: number, x1: number): Field["obstacles"][number] => ({
      name,
      cornersM: [
        [x0, lane],
        [x1, lane],
        [x1, h],
        [x0, h],
      ],
      heightM: box,
      reflectance: 0.6,
    });
    return {
      size: { widthM: long, heightM: h, cornerRadiusM: 0 },
      obstacles: [
        block("first parked", long * 0.2, from),
        block("second parked", Math.min(long - 0.1, from + gap), long),
      ],
      zones: [
        {
          ...zone(
            "gap",
            [
              [from, lane],
              [from + gap, lane],
              [from + gap, h],
              [from, h],
            ],
            10,
          ),
          rule: "inside",
        },
      ],
      begins: begin(0.25, lane / 2),
    };
  },
};

const table: ReadyStart = {
  id: "table",
  title: "Empty table",
  about: "A table with a rim, of any size.",
  numbers: [WIDTH(2.4), HEIGHT(1.2), length("corner", "Corner radius", 0, 0, 2)],
  make: ({ width: w = 2.4, height: h = 1.2, corner = 0 }) => ({
    size: { widthM: w, heightM: h, cornerRadiusM: corner },
    begins: begin(Math.min(0.3, w / 2), h / 2),
  }),
};

const open: ReadyStart = {
  id: "floor",
  title: "Open floor",
  about: "A floor without a rim: it goes on beyond what is drawn.",
  numbers: [WIDTH(4), HEIGHT(4)],
  make: ({ width: w = 4, height: h = 4 }) => ({
    size: { widthM: w, heightM: h, cornerRadiusM: 0 },
    edge: "open",
    begins: begin(w / 2, h / 2),
  }),
};

export const READY_STARTS: readonly ReadyStart[] = [
  table,
  open,
  oval,
  eight,
  switchback,
  maze,
  slalom,
  corridor,
  pushYard,
  parking,
];

export function findStart(id: string): ReadyStart | null {
  return READY_STARTS.find((start) => start.id === id) ?? null;
}

/** Numbers as a start takes them: its own where none is given, whole where it counts, within its range. */
export function startNumbers(start: ReadyStart, given: StartNumbers): Record<string, number> {
  return Object.fromEntries(
    start.numbers.map(({ key, value, least, most, unit }) => {
      const wanted = given[key] ?? value;
      const held = Math.max(least, Math.min(most, wanted));
      return [key, unit === "" && Number.isInteger(value) ? Math.floor(held + 0.5) : held];
    }),
  );
}

/** A field from a ready start. @param given - numbers that are not its own ones */
export function makeField(start: ReadyStart, name: string, given: StartNumbers = {}): Field {
  const numbers = startNumbers(start, given);
  const field = fieldSchema.parse({
    format: "giddy-pebble/field",
    version: 2,
    name,
    about: start.about,
    surface: {},
    ...start.make(numbers),
  });
  return { ...tidyNumbers(field), made: { start: start.id, numbers } };
}
