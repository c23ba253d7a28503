// The floor as cells: what lies on top, what a change costs, the same everywhere; and colours by their names.
import { describe, expect, test } from "vitest";
import { labOf } from "../../src/field/colours.js";
import type { FloorPatch } from "../../src/field/picture.js";
import { COLOUR_NAMES, type Field, FloorRaster, linearRgb, nameColour, openFloor } from "../../src/index.js";
import { fellside } from "../support/demo.js";

function patch(raster: FloorRaster, x: number, y: number, diameter = 0.008): FloorPatch {
  const out = { light: 0, red: 0, green: 0, blue: 0 };
  raster.disc(x, y, diameter, out);
  return out;
}

const line = (points: [number, number][], reflectance = 0.1) => ({
  kind: "line" as const,
  pointsM: points,
  widthM: 0.02,
  reflectance,
  colour: "#202020",
});
const withMarks = (marks: Field["marks"]): Field => ({ ...fellside(), marks });

describe("the floor raster", () => {
  test("bare floor sends back the surface's light, a mark its own, half of each on an edge", () => {
    const raster = new FloorRaster(
      withMarks([
        line([
          [0.5, 0.5],
          [1, 0.5],
        ]),
      ]),
    );
    expect(patch(raster, 0.7, 0.7).light).toBeCloseTo(0.82, 12);
    expect(patch(raster, 0.7, 0.5).light).toBeCloseTo(0.1, 12);
    // Half of the spot on the line; a cell of 2 mm is a quarter of a spot of 8 mm.
    expect(patch(raster, 0.7, 0.51).light).toBeCloseTo((0.82 + 0.1) / 2, 0.9);
  });

  test("the mark drawn last lies on top", () => {
    const marks = [
      line(
        [
          [0.5, 0.5],
          [1, 0.5],
        ],
        0.1,
      ),
      line(
        [
          [0.7, 0.3],
          [0.7, 0.7],
        ],
        0.5,
      ),
    ];
    expect(patch(new FloorRaster(withMarks(marks)), 0.7, 0.5).light).toBeCloseTo(0.5, 12);
    expect(patch(new FloorRaster(withMarks([...marks].reverse())), 0.7, 0.5).light).toBeCloseTo(0.1, 12);
  });

  test("areas are filled, round and angular", () => {
    const raster = new FloorRaster(
      withMarks([
        {
          kind: "area",
          shape: { kind: "ellipse", centreM: [0.5, 0.5], radiusXM: 0.2, radiusYM: 0.1 },
          reflectance: 0.3,
          colour: "#808080",
        },
        {
          kind: "area",
          shape: {
            kind: "polygon",
            cornersM: [
              [1, 1],
              [1.2, 1],
              [1.1, 1.3],
            ],
          },
          reflectance: 0.2,
          colour: "#404040",
        },
      ]),
    );
    expect(patch(raster, 0.65, 0.5).light).toBeCloseTo(0.3, 12);
    expect(patch(raster, 0.5, 0.65).light).toBeCloseTo(0.82, 12);
    expect(patch(raster, 1.1, 1.1).light).toBeCloseTo(0.2, 12);
    expect(patch(raster, 1.02, 1.25).light).toBeCloseTo(0.82, 12);
  });

  test("beyond a rim nothing comes back, beyond an open edge the floor goes on", () => {
    expect(patch(new FloorRaster(fellside()), -0.05, 0.5).light).toBe(0);
    expect(patch(new FloorRaster(openFloor()), -0.05, 0.5).light).toBe(0.85);
    const open: Field = {
      ...withMarks([
        line([
          [0.5, 0.5],
          [1, 0.5],
        ]),
      ]),
      edge: "open",
    };
    expect(patch(new FloorRaster(open), 3, 0.5).light).toBeCloseTo(0.82, 12);
  });

  test("is made only where it is looked at, and anew only where a mark changed", () => {
    const field = fellside();
    const raster = new FloorRaster(field);
    expect(raster.tilesMade).toBe(0);
    const look = (r: FloorRaster) => {
      for (let x = 0.02; x < 2.1; x += 0.02) for (let y = 0.02; y < 1.5; y += 0.02) patch(r, x, y);
      return r.tilesMade;
    };
    const whole = look(raster);
    expect(whole).toBeGreaterThan(20);
    const marks = field.marks.map((mark) => (mark.name === "trail end" ? { ...mark, reflectance: 0.5 } : mark));
    const changed = raster.changed({ ...field, marks });
    const again = look(changed);
    expect(again).toBeGreaterThan(0);
    expect(again).toBeLessThan(whole / 3);
    expect(patch(changed, 1.72, 1.1).light).toBeCloseTo(0.5, 6);
    expect(
      look(
        changed.changed({
          ...field,
          marks: [
            ...marks,
            line([
              [0, 0],
              [1, 1],
            ]),
          ],
        }),
      ),
    ).toBeGreaterThan(whole);
  });

  test("a changed floor is cell for cell the one made from nothing", () => {
    const before = fellside();
    const raster = new FloorRaster(before);
    for (let x = 0; x < 1050; x += 3) raster.cell(x, 300);
    const after: Field = {
      ...before,
      marks: before.marks.map((mark) =>
        mark.name === "trail" && mark.kind === "line" ? { ...mark, widthM: 0.04 } : mark,
      ),
    };
    const changed = raster.changed(after);
    const fresh = new FloorRaster(after);
    for (let x = 0; x < 1050; x += 7)
      for (let y = 0; y < 750; y += 7) expect(changed.cell(x, y)).toBe(fresh.cell(x, y));
  });
});

describe("colours", () => {
  test("white, black and red have the Lab values of CIE 15 (D65)", () => {
    const [l, a, b] = labOf(linearRgb("#FFFFFF"));
    expect(l).toBeCloseTo(100, 3);
    expect(Math.abs(a) + Math.abs(b)).toBeLessThan(0.02);
    expect(labOf(linearRgb("#000000"))[0]).toBeCloseTo(0, 6);
    // Published: sRGB red is L 53.24, a 80.09, b 67.20.
    const red = labOf(linearRgb("#FF0000"));
    expect(red[0]).toBeCloseTo(53.24, 1);
    expect(red[1]).toBeCloseTo(80.09, 1);
    expect(red[2]).toBeCloseTo(67.2, 1);
  });

  test.each([
    ["#C8352B", "red"],
    ["#D03020", "red"],
    ["#3060B0", "blue"],
    ["#F4F4F4", "white"],
    ["#181818", "black"],
    ["#E8C840", "yellow"],
    ["#509048", "green"],
  ])("%s is %s", (hex, name) => {
    expect(COLOUR_NAMES[nameColour(linearRgb(hex)).index]).toBe(name);
  });
});
