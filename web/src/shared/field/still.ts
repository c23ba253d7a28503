// What stays as it is from frame to frame is drawn once and kept as a picture: a long path takes a processor without
// graphics longer to draw than a frame lasts.
import type { Pen } from "./drawField.js";

/** Counts when letters look different because their font has come. */
let fonts = 0;
if (typeof document !== "undefined")
  document.fonts.addEventListener("loadingdone", () => {
    fonts += 1;
  });

/** @returns whether two lists hold the same values, one by one */
function sameValues(a: readonly unknown[], b: readonly unknown[]): boolean {
  return a.length === b.length && a.every((value, i) => Object.is(value, b[i]));
}

/** A line over what lies still that gets longer: only what it got longer by is drawn. */
interface Growing {
  /** Points it has by now. */
  readonly count: number;
  /** Draws the points from..count, the first of them drawn before. */
  readonly draw: (pen: Pen, from: number) => void;
}
const NONE: Growing = { count: 0, draw: () => {} };

export class Still {
  private picture: HTMLCanvasElement | null = null;
  private of: readonly unknown[] = [];
  private grown = 0;

  /**
   * Puts the picture on the canvas of the pen; it is drawn anew when something of it changed.
   * @param of - all that the drawing depends on, beside the pen @param draw - draws it @param growing - over it
   */
  put(pen: Pen, of: readonly unknown[], draw: (pen: Pen) => void, growing: Growing = NONE): void {
    const { context, view, colours, dark, blocked } = pen;
    const { width, height } = context.canvas;
    if (width === 0 || height === 0) return;
    const { scale, originX, originY } = view;
    const boxes = (blocked ?? []).flatMap(({ left, top, right, bottom }) => [left, top, right, bottom]);
    const all = [...of, width, height, scale, originX, originY, colours, dark, fonts, ...boxes];
    const anew = !this.picture || growing.count < this.grown || !sameValues(all, this.of);
    if (!this.picture || anew) {
      this.picture ??= document.createElement("canvas");
      // This empties it too.
      this.picture.width = width;
      this.picture.height = height;
    }
    const own = this.picture.getContext("2d");
    if (!own) {
      draw(pen);
      return growing.draw(pen, 0);
    }
    if (anew) {
      own.setTransform(context.getTransform());
      draw({ ...pen, context: own });
      this.of = all;
      this.grown = 0;
    }
    if (growing.count > this.grown) growing.draw({ ...pen, context: own }, Math.max(0, this.grown - 1));
    this.grown = growing.count;
    context.save();
    context.resetTransform();
    context.drawImage(this.picture, 0, 0);
    context.restore();
  }
}
