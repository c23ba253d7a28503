// Ready starts with things that stand on them: maze, slalom, corridor, push yard, parking strip.
import { randomStream } from "../math/random.js";
import { PI } from "../math/trig.js";
import type { Field } from "./schema.js";
import { begin, count, HEIGHT, length, type Pair, type ReadyStart, WIDTH, zone } from "./startParts.js";

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

export const maze: ReadyStart = {
  id: "maze",
  title: "Maze",
  about: "Planks on a grid. One way leads from the start place to the exit.",
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

export const slalom: ReadyStart = {
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

export const corridor: ReadyStart = {
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

export const pushYard: ReadyStart = {
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

export const parking: ReadyStart = {
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
