// Drawings that other programs wrote, kept as files: a drawing library (cairo.svg) and an office suite (office.svg), whose
// shapes are known; and a drawing program (inkscape-*.svg), whose outlines a library of its own tells (outlines.json).
import { readFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import { cubicAt } from "../../src/field/curves.js";
import { type Field, importSvg, outlineOf, type Point, strokePoints } from "../../src/index.js";

function read(name: string): { field: Field; leftOut: readonly string[] } {
  const found = importSvg(readFileSync(path.join(import.meta.dirname, "drawings", name), "utf8"), name);
  if (!found.ok) throw new Error(found.problem);
  return found;
}

/** Largest distance, mm, of wanted places (mm from the upper left) from a line. */
function worst(field: Field, points: readonly Point[], wanted: readonly Point[]): number {
  const off = ([x, y]: Point) => {
    const [px, py] = [x / 1000, field.size.heightM - y / 1000];
    let least = Number.POSITIVE_INFINITY;
    for (let i = 1; i < points.length; i += 1) {
      const [a, b] = [points[i - 1] as Point, points[i] as Point];
      const [ex, ey] = [b[0] - a[0], b[1] - a[1]];
      const square = ex * ex + ey * ey;
      const t = square > 0 ? Math.max(0, Math.min(1, ((px - a[0]) * ex + (py - a[1]) * ey) / square)) : 0;
      least = Math.min(least, Math.hypot(a[0] + t * ex - px, a[1] + t * ey - py));
    }
    return least * 1000;
  };
  return Math.max(...wanted.map(off));
}

function ring(x: number, y: number, radius: number): Point[] {
  return Array.from({ length: 24 }, (_, i) => [
    x + radius * Math.cos((i * Math.PI) / 12),
    y + radius * Math.sin((i * Math.PI) / 12),
  ]);
}

function bow(a: Point, b: Point, c: Point, d: Point): Point[] {
  return Array.from({ length: 21 }, (_, i) => cubicAt(a, b, c, d, i / 20));
}

function stroke(field: Field, colour: string, index = 0): { points: readonly Point[]; widthM: number } {
  const lines = field.marks.flatMap((mark) => (mark.kind !== "area" && mark.colour === colour ? [mark] : []));
  const mark = lines[index];
  if (!mark) throw new Error(`no line ${index} of ${colour}`);
  return { points: strokePoints(mark), widthM: mark.widthM };
}

function patch(field: Field): readonly Point[] {
  const mark = field.marks.find(({ kind }) => kind === "area");
  if (!mark) throw new Error("no patch");
  const outline = outlineOf(mark);
  return [...outline, outline[0] as Point];
}

interface Drawn {
  readonly sizeMm: Point;
  readonly outlinesMm: readonly (readonly Point[])[];
}

const DRAWN = JSON.parse(readFileSync(path.join(import.meta.dirname, "drawings", "outlines.json"), "utf8")) as Readonly<
  Record<string, Drawn>
>;

/** All marks as lines, mm from the upper left. */
function linesOf(field: Field): Point[][] {
  return field.marks.map((mark) => {
    const points = mark.kind === "area" ? outlineOf(mark) : strokePoints(mark);
    const whole = mark.kind === "area" ? [...points, points[0] as Point] : points;
    return whole.map(([x, y]): Point => [1000 * x, 1000 * (field.size.heightM - y)]);
  });
}

/** Largest distance of the corners of some lines from the nearest of others, mm. */
function apart(lines: readonly (readonly Point[])[], others: readonly (readonly Point[])[]): number {
  const pieces = others.flatMap((line) => line.slice(1).map((b, i) => [line[i] as Point, b] as const));
  const off = ([x, y]: Point) =>
    Math.min(
      ...pieces.map(([[ax, ay], [bx, by]]) => {
        const [ex, ey] = [bx - ax, by - ay];
        const square = ex * ex + ey * ey;
        const t = square > 0 ? Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / square)) : 0;
        return Math.hypot(ax + t * ex - x, ay + t * ey - y);
      }),
    );
  return Math.max(...lines.flat().map(off));
}

describe("drawings of Inkscape, from its versions 0.37 to 0.42", () => {
  test.each(Object.entries(DRAWN))("%s: size and outlines within half a millimetre, both ways", (name, drawn) => {
    const { field, leftOut } = read(name);
    expect(leftOut).toEqual([]);
    expect(Math.abs(1000 * field.size.widthM - drawn.sizeMm[0])).toBeLessThan(0.5);
    expect(Math.abs(1000 * field.size.heightM - drawn.sizeMm[1])).toBeLessThan(0.5);
    const lines = linesOf(field);
    expect(apart(lines, drawn.outlinesMm)).toBeLessThan(0.5);
    expect(apart(drawn.outlinesMm, lines)).toBeLessThan(0.5);
  });

  test("px of an early version are 1/90 inch, those of a later one and of others 1/96", () => {
    const read = (attributes: string) => {
      const found = importSvg(
        `<svg xmlns="http://www.w3.org/2000/svg" width="900" height="900" ${attributes}><line x1="9" x2="90pt" stroke="red" stroke-width="10mm"/></svg>`,
        "x",
      );
      if (!found.ok) throw new Error(found.problem);
      const [line] = found.field.marks;
      if (line?.kind !== "line") throw new Error("no line");
      return [found.field.size.widthM, line.pointsM[0]?.[0], line.pointsM[1]?.[0], line.widthM];
    };
    const early = [0.254, 0.00254, 0.03175, 0.01].map((metres) => expect.closeTo(metres, 4));
    const later = [0.23813, 0.00238, 0.03175, 0.01].map((metres) => expect.closeTo(metres, 4));
    for (const attributes of ['inkscape:version="0.91 r13725"', 'inkscape:version="0.48.4"', 'sodipodi:version="0.32"'])
      expect([attributes, ...read(attributes)]).toEqual([attributes, ...early]);
    for (const attributes of [
      'inkscape:version="0.92.5" sodipodi:version="0.32"',
      'inkscape:version="1.2.2 (b0a8486541, 2022-12-01)"',
      'inkscape:version="new"',
      "",
    ])
      expect([attributes, ...read(attributes)]).toEqual([attributes, ...later]);
  });
});

describe("within half a millimetre", () => {
  test("a drawing in points: a line that bends, a disc, a turned frame", () => {
    const { field, leftOut } = read("cairo.svg");
    expect([field.size.widthM, field.size.heightM, leftOut]).toEqual([
      expect.closeTo(0.6, 4),
      expect.closeTo(0.4, 4),
      [],
    ]);
    const track = stroke(field, "#1A1A1F");
    expect(track.widthM).toBeCloseTo(0.02, 5);
    const curve = bow([300, 350], [450, 350], [550, 300], [550, 200]);
    expect(worst(field, track.points, [[50, 350], [180, 350], ...curve])).toBeLessThan(0.5);
    expect(worst(field, patch(field), ring(150, 150, 60))).toBeLessThan(0.5);
    const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
    const corners = [
      [-40, -20],
      [40, -20],
      [40, 20],
      [-40, 20],
    ] as const;
    const turned = corners.map(([x, y]): Point => [400 + c * x - s * y, 120 + s * x + c * y]);
    const frame = stroke(field, "#000000");
    expect(worst(field, [...frame.points, frame.points[0] as Point], turned)).toBeLessThan(0.5);
  });

  test("a drawing in hundredths of a millimetre, in groups: lines, a bow, a disc", () => {
    const { field } = read("office.svg");
    expect([field.size.widthM, field.size.heightM]).toEqual([expect.closeTo(0.21, 4), expect.closeTo(0.297, 4)]);
    expect(
      worst(field, stroke(field, "#1A1A1A").points, [
        [20, 270],
        [70, 270],
        [120, 270],
      ]),
    ).toBeLessThan(0.5);
    expect(
      worst(field, stroke(field, "#1A1A1A", 1).points, [
        [140, 250],
        [190, 250],
        [190, 100],
      ]),
    ).toBeLessThan(0.5);
    expect(
      worst(field, stroke(field, "#1A1A1A", 2).points, bow([40, 200], [40, 155.82], [75.82, 120], [120, 120])),
    ).toBeLessThan(0.5);
    expect(worst(field, patch(field), ring(60, 60, 30))).toBeLessThan(0.5);
    expect(stroke(field, "#1A1A1A").widthM).toBeCloseTo(0.01, 5);
  });
});
