// Drawings that other programs wrote, kept as files: a drawing library (cairo.svg) and an office suite (office.svg). Their
// shapes are known, so that what comes in can be measured.
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
