// Contact points of every pairing of outlines: against plain geometry, and what must hold however they lie.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { discPairContacts, discSegmentContacts, polygonContacts } from "../../src/physics/collide.js";
import { ContactSet } from "../../src/physics/contacts.js";
import { evenly } from "../support/evenly.js";

interface Found {
  readonly x: number;
  readonly y: number;
  readonly nx: number;
  readonly ny: number;
  readonly gap: number;
}

function contacts(fill: (set: ContactSet) => void): Found[] {
  const set = new ContactSet();
  set.begin();
  fill(set);
  return Array.from({ length: set.count }, (_, i) => ({
    x: set.x[i] as number,
    y: set.y[i] as number,
    nx: set.nx[i] as number,
    ny: set.ny[i] as number,
    gap: set.gap[i] as number,
  }));
}

/** A box of w × h at a place, turned, counter-clockwise. */
function boxAt(x: number, y: number, turn: number, w: number, h: number): [Float64Array, Float64Array] {
  const corners: [number, number][] = [
    [w / 2, h / 2],
    [-w / 2, h / 2],
    [-w / 2, -h / 2],
    [w / 2, -h / 2],
  ];
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  return [
    Float64Array.from(corners, ([px, py]) => x + c * px - s * py),
    Float64Array.from(corners, ([px, py]) => y + s * px + c * py),
  ];
}

type Box = readonly [number, number, number, number, number];
const between = (a: Box, b: Box) => {
  const [ax, ay] = boxAt(...a);
  const [bx, by] = boxAt(...b);
  return contacts((set) => polygonContacts(ax, ay, bx, by, 0, set));
};

/** How deep a point lies inside a polygon: positive inside, the distance to its nearest side's line. */
function depth(px: Float64Array, py: Float64Array, x: number, y: number): number {
  let least = Number.POSITIVE_INFINITY;
  for (let i = 0; i < px.length; i += 1) {
    const j = (i + 1) % px.length;
    const [ex, ey] = [(px[j] as number) - (px[i] as number), (py[j] as number) - (py[i] as number)];
    least = Math.min(least, (ex * (y - (py[i] as number)) - ey * (x - (px[i] as number))) / Math.hypot(ex, ey));
  }
  return least;
}

describe("two boxes", () => {
  test("face to face touch at two points, as far apart as they are", () => {
    const found = between([0, 0, 0, 0.1, 0.06], [0.102, 0, 0, 0.1, 0.04]);
    expect(found).toHaveLength(2);
    for (const { gap, nx, ny, y } of found) {
      expect(gap).toBeCloseTo(0.002, 12);
      // Towards the first of the pair.
      expect(nx).toBe(-1);
      expect(ny).toBeCloseTo(0, 12);
      expect(Math.abs(y)).toBeLessThanOrEqual(0.02 + 1e-12);
    }
  });

  test("corner on face touches at the corner", () => {
    const found = between([0, 0, 0, 0.1, 0.1], [0.05 + 0.05 * Math.SQRT2 + 0.001, 0, Math.PI / 4, 0.1, 0.1]);
    const [nearest] = [...found].sort((a, b) => a.gap - b.gap);
    expect(nearest?.gap).toBeCloseTo(0.001, 9);
    expect(nearest?.x).toBeCloseTo(0.051, 9);
    expect(nearest?.y).toBeCloseTo(0, 9);
  });

  test("farther apart than the margin do not touch", () => {
    expect(between([0, 0, 0, 0.1, 0.1], [0.12, 0, 0.3, 0.1, 0.1])).toEqual([]);
    expect(between([0, 0, 0, 0.1, 0.1], [0.08, 0.15, 0, 0.1, 0.1])).toEqual([]);
  });

  test("one within the other are pushed out the shortest way", () => {
    const found = between([0, 0, 0, 0.2, 0.1], [0, 0.06, 0, 0.05, 0.05]);
    for (const { gap, nx, ny } of found) {
      expect(gap).toBeCloseTo(-0.015, 12);
      expect(nx).toBeCloseTo(0, 12);
      expect(ny).toBe(-1);
    }
  });

  const unit = evenly(-1, 1);
  const boxes = fc
    .array(unit, { minLength: 8, maxLength: 8 })
    .map(([x = 0, y = 0, t = 0, w = 0, h = 0, u = 0, w2 = 0, h2 = 0]): [Box, Box] => [
      [0, 0, 3 * t, 0.08 + 0.05 * w, 0.08 + 0.05 * h],
      [0.12 * x, 0.12 * y, 3 * u, 0.06 + 0.04 * w2, 0.06 + 0.04 * h2],
    ]);

  test("however they lie, moving them apart by the deepest gap lets them touch and no more", () => {
    fc.assert(
      fc.property(boxes, ([a, b]) => {
        const found = between(a, b);
        if (found.length === 0) return;
        const deepest = found.reduce((least, one) => (one.gap < least.gap ? one : least));
        const moved: Box = [a[0] - deepest.nx * deepest.gap, a[1] - deepest.ny * deepest.gap, a[2], a[3], a[4]];
        const [ax, ay] = boxAt(...moved);
        const [bx, by] = boxAt(...b);
        for (let i = 0; i < 4; i += 1) {
          expect(depth(ax, ay, bx[i] as number, by[i] as number)).toBeLessThan(1e-9);
          expect(depth(bx, by, ax[i] as number, ay[i] as number)).toBeLessThan(1e-9);
        }
      }),
      { numRuns: 500 },
    );
  });

  test("the other way round the normals turn, and depths of overlaps stay", () => {
    fc.assert(
      fc.property(boxes, ([a, b]) => {
        const [one, other] = [between(a, b), between(b, a)];
        const least = (found: readonly Found[]) => Math.min(...found.map(({ gap }) => gap));
        if (one.length === 0 || least(one) > 0) return;
        // Which of two nearly equal faces is the reference may differ by the tenth of a millimetre that keeps it steady.
        expect(Math.abs(least(one) - least(other))).toBeLessThan(2e-4);
      }),
      { numRuns: 500 },
    );
  });

  test("normals have length one and points lie on one of the two", () => {
    fc.assert(
      fc.property(boxes, ([a, b]) => {
        const [ax, ay] = boxAt(...a);
        const [bx, by] = boxAt(...b);
        for (const { x, y, nx, ny } of between(a, b)) {
          expect(Math.hypot(nx, ny)).toBeCloseTo(1, 12);
          const nearest = Math.min(Math.abs(depth(ax, ay, x, y)), Math.abs(depth(bx, by, x, y)));
          expect(nearest).toBeLessThan(1e-9);
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe("discs", () => {
  const pair = (x: number, y: number) => contacts((set) => discPairContacts(x, y, 0.03, 0, 0, 0.02, 0, set));

  test("touch on the line of their middles", () => {
    const [found] = pair(0.03, 0.04);
    expect(found?.gap).toBeCloseTo(0, 12);
    expect(found?.nx).toBeCloseTo(0.6, 12);
    expect(found?.ny).toBeCloseTo(0.8, 12);
    expect(found?.x).toBeCloseTo(0.012, 12);
    expect(found?.y).toBeCloseTo(0.016, 12);
  });

  test("out of reach, and one on top of the other, have no contact", () => {
    expect(pair(0.1, 0)).toEqual([]);
    // Without a direction between their middles nothing says where to push.
    expect(pair(0, 0)).toEqual([]);
  });

  const wall = (x: number, y: number) => contacts((set) => discSegmentContacts(x, y, 0.03, 0, 0, 0.2, 0, 0, set));

  test("meet a wall square on in its middle and round its ends", () => {
    expect(wall(0.1, 0.032)[0]).toMatchObject({ x: 0.1, y: 0, nx: 0, ny: 1 });
    const [atEnd] = wall(0.2 + 0.018, 0.024);
    expect(atEnd?.gap).toBeCloseTo(0, 12);
    expect(atEnd?.nx).toBeCloseTo(0.6, 12);
    expect(wall(0.3, 0)).toEqual([]);
  });

  test("meet a wall of no length as a post", () => {
    const [post] = contacts((set) => discSegmentContacts(0.03, 0, 0.028, 0, 0, 0, 0, 0, set));
    expect(post?.gap).toBeCloseTo(0.002, 12);
  });
});
