import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { evenly } from "../../../core/test/support/evenly.js";
import { fitField, nearestOnPath, pan, scaleBarM, toField, zoomAt } from "../../src/shared/field/fieldView.js";

const view = fitField(872, 500, { widthM: 2.1, heightM: 1.5 });

describe("the field on the screen", () => {
  test("a fitted field lies wholly in its pane", () => {
    const [left, top] = [view.originX, view.originY - 1.5 * view.scale];
    expect(left).toBeGreaterThan(0);
    expect(top).toBeGreaterThan(0);
    expect(left + 2.1 * view.scale).toBeLessThan(872);
    expect(view.originY).toBeLessThan(500);
  });

  test("zooming keeps the point under the pointer, panning moves all alike", () => {
    fc.assert(
      fc.property(evenly(0, 800), evenly(0, 500), evenly(0.2, 5), (x, y, factor) => {
        const [bx, by] = toField(view, x, y);
        const [ax, ay] = toField(zoomAt(view, x, y, factor), x, y);
        expect(ax).toBeCloseTo(bx, 9);
        expect(ay).toBeCloseTo(by, 9);
        const [px, py] = toField(pan(view, 10, 20), x + 10, y + 20);
        expect(px).toBeCloseTo(bx, 9);
        expect(py).toBeCloseTo(by, 9);
      }),
    );
  });

  test("zoom has bounds", () => {
    expect(zoomAt(view, 0, 0, 1e9).scale).toBe(6000);
    expect(zoomAt(view, 0, 0, 1e-9).scale).toBe(20);
  });

  test("the scale bar is a round length of a handy size at any zoom", () => {
    fc.assert(
      fc.property(evenly(20, 6000), (scale) => {
        const metres = scaleBarM({ ...view, scale });
        expect(metres * scale).toBeGreaterThan(40);
        expect(metres * scale).toBeLessThan(200);
        expect(Number((metres / 10 ** Math.floor(Math.log10(metres) + 1e-9)).toFixed(6)) % 1).toBe(0);
      }),
    );
  });

  test("the path answers within reach only", () => {
    const xs = Float32Array.from({ length: 100 }, (_, i) => i / 100);
    const ys = new Float32Array(100).fill(0.5);
    const at = (x: number, y: number) =>
      nearestOnPath(view, xs, ys, view.originX + x * view.scale, view.originY - y * view.scale, 9);
    expect(at(0.5, 0.51)).toBe(50);
    expect(at(0.5, 0.7)).toBeNull();
  });
});
