// Curves, dashes and gaps, moving and turning, handles, snapping, ready starts, comparing.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { cubicAt, FLATNESS_M, flattenCurve } from "../../src/field/curves.js";
import type { CurveNode } from "../../src/field/schema.js";
import {
  alignThings,
  allRefs,
  boundsOf,
  boundsOfRefs,
  checkField,
  compareFields,
  copyThings,
  distributeThings,
  duplicateThings,
  type Field,
  type FieldMark,
  findStart,
  handlesOf,
  lengthOf,
  lineMeaning,
  magnetsOf,
  makeField,
  mirrorThings,
  moveHandle,
  moveThings,
  outlineOf,
  PI,
  type Point,
  pasteThings,
  READY_STARTS,
  readField,
  removeThings,
  reorderThings,
  shiftBy,
  smoothNodes,
  snapOnField,
  strokePoints,
  strokeRuns,
  type ThingRef,
  thingOf,
  thingsAt,
  thingsWithin,
  tidyNumbers,
  turnThings,
} from "../../src/index.js";
import { fellside } from "../support/demo.js";

const coordinate = fc.double({ min: -2, max: 2, noNaN: true });
const point = fc.tuple(coordinate, coordinate);

/** Distance of a point from a line through points. */
function offLine(points: readonly Point[], [x, y]: Point): number {
  let least = Number.POSITIVE_INFINITY;
  for (let i = 1; i < points.length; i += 1) {
    const [a, b] = [points[i - 1] as Point, points[i] as Point];
    const [ex, ey] = [b[0] - a[0], b[1] - a[1]];
    const square = ex * ex + ey * ey;
    const t = square > 0 ? Math.max(0, Math.min(1, ((x - a[0]) * ex + (y - a[1]) * ey) / square)) : 0;
    least = Math.min(least, Math.hypot(a[0] + t * ex - x, a[1] + t * ey - y));
  }
  return least;
}

function start(id: string, numbers: Record<string, number> = {}): Field {
  const found = findStart(id);
  if (!found) throw new Error(`no ready start ${id}`);
  return makeField(found, "a field", numbers);
}

const line = (points: [number, number][], more: object = {}): FieldMark => ({
  kind: "line",
  pointsM: points,
  widthM: 0.02,
  reflectance: 0.06,
  colour: "#2B2F31",
  ...more,
});

describe("curves", () => {
  test("straight pieces stay within 0.2 mm of the curve, wherever its handles are", () => {
    fc.assert(
      fc.property(point, point, point, point, (a, b, c, d) => {
        const nodes: CurveNode[] = [
          { atM: a, outM: b },
          { atM: d, inM: c },
        ];
        const flat = flattenCurve(nodes, false);
        for (let k = 0; k <= 40; k += 1)
          expect(offLine(flat, cubicAt(a, b, c, d, k / 40))).toBeLessThan(FLATNESS_M * 1.01);
      }),
    );
  });

  test("a quarter circle of cubic pieces is as long as π r / 2, to 0.03 %", () => {
    const k = 0.5522847498;
    const nodes: CurveNode[] = [
      { atM: [1, 0], outM: [1, k] },
      { atM: [0, 1], inM: [k, 1] },
    ];
    expect(lengthOf(flattenCurve(nodes, false)) / (PI / 2)).toBeCloseTo(1, 3);
  });

  test("a smooth curve passes through its points, without a corner", () => {
    fc.assert(
      fc.property(fc.array(point, { minLength: 3, maxLength: 8 }), (points) => {
        const nodes = smoothNodes(points, false);
        const flat = flattenCurve(nodes, false);
        for (const one of points) expect(offLine(flat, one)).toBeLessThan(1e-9);
        for (const { atM, inM, outM } of nodes) {
          if (!inM || !outM) continue;
          const cross = (atM[0] - inM[0]) * (outM[1] - atM[1]) - (atM[1] - inM[1]) * (outM[0] - atM[0]);
          expect(Math.abs(cross)).toBeLessThan(1e-9);
        }
      }),
    );
  });

  test("what a line means: a circle's length and radius, a corner's angle", () => {
    const ring = Array.from({ length: 180 }, (_, i): [number, number] => [
      0.3 * Math.cos((i * PI) / 90),
      0.3 * Math.sin((i * PI) / 90),
    ]);
    const round = lineMeaning(line(ring, { closed: true }) as never);
    expect([round.lengthM / (2 * PI * 0.3), round.tightestM / 0.3]).toEqual([
      expect.closeTo(1, 3),
      expect.closeTo(1, 3),
    ]);
    const square = lineMeaning(
      line([
        [0, 0],
        [1, 0],
        [1, 1],
      ]) as never,
    );
    expect(square.sharpestRad).toBeCloseTo(PI / 2, 9);
    expect(square.tightestM).toBe(Number.POSITIVE_INFINITY);
  });
});

describe("dashes and gaps", () => {
  test("leave out what they say: the drawn length is the whole less the gaps", () => {
    const mark = line(
      [
        [0, 0],
        [1, 0],
        [1, 1],
      ],
      {
        gaps: [
          { atM: 0.4, lengthM: 0.1 },
          { atM: 0.95, lengthM: 0.1 },
        ],
      },
    );
    const runs = strokeRuns(mark as never);
    expect(runs.map((run) => lengthOf(run))).toEqual([
      expect.closeTo(0.4, 9),
      expect.closeTo(0.45, 9),
      expect.closeTo(0.95, 9),
    ]);
  });

  test("a dashed line is drawn in turns, and ends where the line ends", () => {
    const runs = strokeRuns(
      line(
        [
          [0, 0],
          [1, 0],
        ],
        { dash: { onM: 0.15, offM: 0.1 } },
      ) as never,
    );
    expect(runs.map((run) => [run[0]?.[0], run.at(-1)?.[0]])).toEqual([
      [0, expect.closeTo(0.15, 9)],
      [expect.closeTo(0.25, 9), expect.closeTo(0.4, 9)],
      [expect.closeTo(0.5, 9), expect.closeTo(0.65, 9)],
      [expect.closeTo(0.75, 9), expect.closeTo(0.9, 9)],
    ]);
  });

  test("a closed line runs back to its first point", () => {
    const closed = strokePoints(
      line(
        [
          [0, 0],
          [1, 0],
          [0, 1],
        ],
        { closed: true },
      ) as never,
    );
    expect(closed.at(-1)).toEqual([0, 0]);
  });
});

const all = allRefs(fellside());

describe("changing things", () => {
  test("a shift and its opposite, four quarter turns, and two mirrorings leave a field as it was", () => {
    const field = fellside();
    const same = (other: Field) => expect(tidyNumbers(outlines(other))).toEqual(tidyNumbers(outlines(field)));
    same(moveThings(moveThings(field, all, shiftBy(0.13, -0.07)), all, shiftBy(-0.13, 0.07)));
    same([1, 2, 3, 4].reduce((now) => turnThings(now, all, PI / 2), field));
    same(mirrorThings(mirrorThings(field, all, "across"), all, "across"));
    same(mirrorThings(mirrorThings(field, all, "along"), all, "along"));
  });

  function outlines(field: Field): (readonly Point[])[] {
    return allRefs(field).map((ref) => outlineOf(thingOf(field, ref) as never));
  }

  test("a turned robot place looks the other way, and a mirrored one too", () => {
    const field = fellside();
    const ref: ThingRef = "begins/0";
    expect(turnThings(field, [ref], PI / 2).begins[0]?.headingRad).toBeCloseTo(
      (field.begins[0]?.headingRad ?? 0) + PI / 2,
      9,
    );
    expect(mirrorThings(field, [ref], "across").begins[0]?.headingRad).toBeCloseTo(
      PI - (field.begins[0]?.headingRad ?? 0),
      9,
    );
  });

  test("pasted names stay single, and what finds no room is counted", () => {
    const field = fellside();
    const pasted = pasteThings(field, copyThings(field, ["zones/0", "loads/0"]), shiftBy(0.1, 0));
    expect(pasted.refs).toHaveLength(2);
    expect(pasted.field.zones.at(-1)?.name).toBe("hut dock 2");
    const full = {
      ...field,
      tags: Array.from({ length: 60 }, () => ({ xM: 1, yM: 1, sizeM: 0.03, colour: "#000000" })),
    };
    expect(pasteThings(full, copyThings(field, ["tags/0"]), shiftBy(0, 0)).noRoom).toBe(1);
  });

  test("copies along a line stand a step apart; aligned things share an edge; spread ones are evenly apart", () => {
    const field = start("slalom", { posts: 3 });
    const made = duplicateThings(field, ["boulders/0"], [0, 0.1], 3);
    expect(made.field.boulders.slice(-3).map(({ yM }) => yM)).toEqual([
      expect.closeTo(0.7, 9),
      expect.closeTo(0.8, 9),
      expect.closeTo(0.9, 9),
    ]);
    const refs: ThingRef[] = ["boulders/0", "boulders/1", "boulders/2"];
    const low = alignThings(moveThings(field, ["boulders/1"], shiftBy(0, 0.2)), refs, "bottom");
    expect(new Set(refs.map((ref) => boundsOf(outlineOf(thingOf(low, ref) as never)).lowY.toFixed(6))).size).toBe(1);
    const spread = distributeThings(moveThings(field, ["boulders/1"], shiftBy(0.2, 0)), refs, "x");
    expect(spread.boulders.map(({ xM }) => xM)).toEqual([
      expect.closeTo(0.5, 9),
      expect.closeTo(1, 9),
      expect.closeTo(1.5, 9),
    ]);
  });

  test("removing and reordering touch only what they name, and forget the ready start", () => {
    const field = start("push yard");
    expect(field.made?.start).toBe("push yard");
    const less = removeThings(field, ["loads/1"]);
    expect([less.loads.map(({ name }) => name), less.made]).toEqual([["box 1", "box 3"], undefined]);
    const front = reorderThings(field, ["loads/0"], "front");
    expect([front.field.loads.map(({ name }) => name), front.refs]).toEqual([["box 2", "box 3", "box 1"], ["loads/2"]]);
  });

  test("every handle of every thing of Fellside goes where it is put", () => {
    const field = fellside();
    for (const ref of all) {
      const thing = thingOf(field, ref);
      if (!thing) throw new Error(`${ref} is gone`);
      for (const { id, kind } of handlesOf(thing)) {
        if (kind === "size" || kind === "heading") continue;
        const moved = moveHandle(thing, id, [0.5, 0.5]);
        expect(handlesOf(moved).find((one) => one.id === id)?.at).toEqual([0.5, 0.5]);
      }
    }
  });

  test("a node takes its arms along, and its other arm stays in one line", () => {
    const nodes = smoothNodes(
      [
        [0, 0],
        [1, 0],
        [1, 1],
      ],
      false,
    );
    const curve: FieldMark = {
      kind: "curve",
      nodes: nodes as never,
      widthM: 0.02,
      reflectance: 0.1,
      colour: "#000000",
    };
    const moved = moveHandle(curve, "node 1", [1.5, 0.25]) as Extract<FieldMark, { kind: "curve" }>;
    const by = (p: Point | undefined, q: Point | undefined) => [
      (q?.[0] ?? 0) - (p?.[0] ?? 0),
      (q?.[1] ?? 0) - (p?.[1] ?? 0),
    ];
    expect(by(nodes[1]?.outM, moved.nodes[1]?.outM)).toEqual([expect.closeTo(0.5, 9), expect.closeTo(0.25, 9)]);
    const bent = moveHandle(curve, "out 1", [1, 0.5]) as Extract<FieldMark, { kind: "curve" }>;
    expect(bent.nodes[1]?.inM?.[0]).toBeCloseTo(1, 9);
    expect(bent.nodes[1]?.inM?.[1]).toBeLessThan(0);
  });
});

describe("pointing", () => {
  test("the topmost thing is met first, zones only where nothing else is", () => {
    const field = fellside();
    expect(thingsAt(field, [0.66, 0.2], 0.005)[0]).toBe("loads/0");
    expect(thingsAt(field, [1.5, 0.18], 0.005)).toEqual(["tags/0", "zones/3"]);
    expect(thingsAt(field, [0.05, 1.45], 0.005)).toEqual([]);
  });

  test("a box takes what lies wholly in it", () => {
    expect(thingsWithin(fellside(), [0.55, 0.1], [0.8, 0.3])).toEqual(["loads/0"]);
  });

  test("ends pull before right angles, and these before the grid; far from all it stays", () => {
    const magnets = magnetsOf(fellside(), new Set());
    const snap = (at: Point, from: Point | null = null, gridM = 0.01) =>
      snapOnField(at, { magnets, gridM, reachM: 0.01, from });
    expect(snap([1.803, 0.861])).toEqual({ at: [1.8, 0.862], to: "end" });
    expect(snap([0.9032, 1.2371], [0.9, 1])).toEqual({ at: [0.9, expect.closeTo(1.24, 9)], to: "right angle" });
    expect(snap([0.1234, 1.4143])).toMatchObject({
      at: [expect.closeTo(0.12, 9), expect.closeTo(1.41, 9)],
      to: "grid",
    });
    expect(snapOnField([0.1234, 1.4143], { magnets: null, gridM: 0, reachM: 0.01 })).toEqual({
      at: [0.1234, 1.4143],
      to: "nothing",
    });
  });
});

describe("ready starts", () => {
  test.each(READY_STARTS.map((one) => [one.id, one] as const))(
    "%s is sound at the ends of all its numbers",
    (_, ready) => {
      const ends = ["least", "value", "most"] as const;
      for (const end of ends) {
        const field = makeField(ready, "x", Object.fromEntries(ready.numbers.map((n) => [n.key, n[end]])));
        expect(readField(JSON.parse(JSON.stringify(field))).ok).toBe(true);
      }
      expect(checkField(makeField(ready, "x"))).toEqual([]);
      expect(makeField(ready, "x")).toEqual(makeField(ready, "x"));
    },
  );

  test("an oval is as long as its straights and curves, and gaps and corners come by number", () => {
    const field = start("oval", { width: 2.4, height: 1.2, radius: 0.4 });
    const [mark] = field.marks;
    if (mark?.kind !== "curve") throw new Error("no curve");
    // Straights of 2.1 - 0.8 and 0.8 - 0.8 m, and one whole circle of 0.4 m.
    expect(lengthOf(strokePoints(mark))).toBeCloseTo(2 * (2.1 - 0.8) + 2 * PI * 0.4, 3);
    const gappy = start("oval", { gaps: 3, gap: 0.05 }).marks[0];
    if (gappy?.kind !== "curve") throw new Error("no curve");
    expect(strokeRuns(gappy)).toHaveLength(4);
    const sharp = start("oval", { "right angles": 4 }).marks[0];
    if (sharp?.kind !== "curve") throw new Error("no curve");
    expect(lineMeaning(sharp).sharpestRad).toBeCloseTo(PI / 2, 6);
  });

  test("from the begin cell of any maze exactly one way leads to any other", () => {
    for (const seed of [1, 2, 3, 17]) {
      const [rows, columns, cell] = [5, 6, 0.3];
      const field = start("maze", { rows, columns, cell, seed });
      const blocked = (x: number, y: number, nx: number, ny: number) => {
        const [mx, my] = [((x + nx + 1) / 2) * cell, ((y + ny + 1) / 2) * cell];
        return field.walls.some(({ fromM, toM }) => offLine([fromM, toM], [mx, my]) < 1e-4);
      };
      const seen = new Set(["0,0"]);
      const open = [[0, 0]];
      let doors = 0;
      for (let next = open.pop(); next; next = open.pop()) {
        const [x = 0, y = 0] = next;
        for (const [nx, ny] of [
          [x + 1, y],
          [x - 1, y],
          [x, y + 1],
          [x, y - 1],
        ] as const) {
          if (nx < 0 || ny < 0 || nx >= columns || ny >= rows || blocked(x, y, nx, ny)) continue;
          doors += 1;
          if (seen.has(`${nx},${ny}`)) continue;
          seen.add(`${nx},${ny}`);
          open.push([nx, ny]);
        }
      }
      // A tree: every cell is reached, with one door less than cells.
      expect([seen.size, doors / 2]).toEqual([rows * columns, rows * columns - 1]);
    }
  });
});

test("two versions are told apart by what came, what went, and which numbers changed", () => {
  const before = fellside();
  const walls = before.walls.map((wall, i) => (i === 3 ? { ...wall, heightM: 0.2 } : wall));
  const after = { ...removeThings(before, ["loads/0"]), walls, size: { ...before.size, widthM: 2.4 } };
  const rows = compareFields(before, after).map(({ thing, what, before: a, after: b }) => [thing, what, a, b]);
  expect(rows).toEqual([
    ["floor", "size", "2.1 × 1.5 m", "2.4 × 1.5 m"],
    ["cliff", "height, m", "0.12", "0.2"],
    ["snow gauge", "removed", "there", ""],
  ]);
  expect(compareFields(before, before)).toEqual([]);
  expect(boundsOfRefs(before, [])).toBeNull();
});
