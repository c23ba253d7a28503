// A picture of a mat as the floor: straightened by its four corners, levelled by what is white and what is black,
// sampled to one cell of 2 mm each.
import type { Point } from "../geometry/pose.js";
import { exp, log } from "../math/exponential.js";
import { toLinear } from "./colours.js";
import { type Homography, homographyOf, isQuad, mapPoint } from "./homography.js";
import { type FloorPicture, MOST_PIXELS, type Pixels } from "./picture.js";
import { CELL_M } from "./raster.js";

interface MatOptions {
  /** Corners of the mat in the picture, pixels: lower left, lower right, upper right, upper left. */
  readonly corners: readonly Point[];
  readonly widthM: number;
  readonly heightM: number;
  /** Pixels of something white and something black; none leaves the picture's own levels. */
  readonly white?: Point | null;
  readonly black?: Point | null;
}

/** Share of light that white paper and black print send back. */
const WHITE_LIGHT = 0.85;
const BLACK_LIGHT = 0.05;
export const MOST_CELLS = 2500;

const LINEAR = Float64Array.from({ length: 256 }, (_, i) => toLinear(i / 255));

/** sRGB byte of a linear share. */
export function toByte(linear: number): number {
  const held = Math.max(0, Math.min(1, linear));
  const share = held <= 0.0031308 ? 12.92 * held : 1.055 * exp(log(held) / 2.4) - 0.055;
  return Math.floor(share * 255 + 0.5);
}

/** Corners for a picture taken from straight above, from two points and how far they are apart along the mat. */
export function cornersFromLength(
  pixels: { readonly width: number; readonly height: number },
  from: Point,
  to: Point,
  lengthM: number,
): { corners: Point[]; widthM: number; heightM: number } {
  const px = Math.sqrt((to[0] - from[0]) ** 2 + (to[1] - from[1]) ** 2);
  const perPixel = lengthM / px;
  const { width: w, height: h } = pixels;
  return {
    corners: [
      [0, h],
      [w, h],
      [w, 0],
      [0, 0],
    ],
    widthM: w * perPixel,
    heightM: h * perPixel,
  };
}

/** Mean linear colour of a spot of the picture, of 5 × 5 pixels. */
function spot({ width, height, data }: Pixels, [x, y]: Point): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  let count = 0;
  for (let dy = -2; dy <= 2; dy += 1)
    for (let dx = -2; dx <= 2; dx += 1) {
      const [px, py] = [Math.floor(x) + dx, Math.floor(y) + dy];
      if (px < 0 || py < 0 || px >= width || py >= height) continue;
      const at = 4 * (py * width + px);
      for (let k = 0; k < 3; k += 1) sum[k] = (sum[k] as number) + (LINEAR[data[at + k] as number] as number);
      count += 1;
    }
  return count === 0 ? sum : [sum[0] / count, sum[1] / count, sum[2] / count];
}

/** Scale and offset of each colour that bring white and black to the light they send back. */
function levels(pixels: Pixels, white: Point | null, black: Point | null): { scale: number; offset: number }[] {
  const light = white ? spot(pixels, white) : null;
  const dark = black ? spot(pixels, black) : null;
  return [0, 1, 2].map((k) => {
    if (light && dark) {
      const span = Math.max(0.02, (light[k] as number) - (dark[k] as number));
      const scale = (WHITE_LIGHT - BLACK_LIGHT) / span;
      return { scale, offset: BLACK_LIGHT - scale * (dark[k] as number) };
    }
    if (light) return { scale: WHITE_LIGHT / Math.max(0.02, light[k] as number), offset: 0 };
    if (dark) return { scale: 1, offset: BLACK_LIGHT - (dark[k] as number) };
    return { scale: 1, offset: 0 };
  });
}

/** One sentence that says why a picture cannot be taken; null when it can. */
export function matTrouble(
  size: { readonly width: number; readonly height: number },
  options: MatOptions,
): string | null {
  if (size.width * size.height > MOST_PIXELS)
    return `The picture has ${size.width} × ${size.height} pixels. ${MOST_PIXELS / 1e6} million is the most: make it smaller.`;
  if (!isQuad(options.corners)) return "The four corners do not go round a shape. Put each on its corner of the mat.";
  const { widthM, heightM } = options;
  if (!(Math.min(widthM, heightM) >= 0.05 && Math.max(widthM, heightM) <= MOST_CELLS * CELL_M))
    return `The mat is ${widthM} × ${heightM} m. It can be from 5 cm to ${MOST_CELLS * CELL_M} m on each side.`;
  return null;
}

/** How many samples a cell takes across: enough that no pixel of it is passed over, 4 at most. */
function samplesAcross(h: Homography, columns: number, rows: number): number {
  const [a, b] = [mapPoint(h, [columns / 2, rows / 2]), mapPoint(h, [columns / 2 + 1, rows / 2 + 1])];
  const pixels = Math.max(Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1]));
  return Math.max(1, Math.min(4, Math.floor(pixels + 0.5)));
}

/**
 * The floor a picture shows.
 *
 * @param onRow - called after each row of cells with the share done; returns false to stop
 * @returns null when it was stopped
 * @throws RangeError if the corners, the size or the picture cannot be taken: see matTrouble
 */
export function straighten(
  pixels: Pixels,
  options: MatOptions,
  onRow: (share: number) => boolean = () => true,
): FloorPicture | null {
  const trouble = matTrouble(pixels, options);
  if (trouble !== null) throw new RangeError(trouble);
  const columns = Math.max(1, Math.floor(options.widthM / CELL_M + 0.5));
  const rows = Math.max(1, Math.floor(options.heightM / CELL_M + 0.5));
  const map = homographyOf(
    [
      [0, 0],
      [columns, 0],
      [columns, rows],
      [0, rows],
    ],
    options.corners,
  );
  if (!map) throw new RangeError("Three of the corners lie in one line. Put each on its corner of the mat.");
  const level = levels(pixels, options.white ?? null, options.black ?? null);
  const cells = new Uint8Array(3 * columns * rows);
  const across = samplesAcross(map, columns, rows);
  const sum: [number, number, number] = [0, 0, 0];
  for (let row = 0; row < rows; row += 1) {
    if (row % 16 === 0 && !onRow(row / rows)) return null;
    for (let column = 0; column < columns; column += 1) {
      sampleCell(pixels, map, column, row, across, sum);
      const at = 3 * (row * columns + column);
      for (let k = 0; k < 3; k += 1) {
        const { scale, offset } = level[k] as { scale: number; offset: number };
        cells[at + k] = toByte(scale * (sum[k] as number) + offset);
      }
    }
  }
  onRow(1);
  return { columns, rows, cells };
}

/** Mean linear colour of one cell: points spread over it, each between its four nearest pixels. */
function sampleCell(
  { width, height, data }: Pixels,
  h: Homography,
  column: number,
  row: number,
  across: number,
  out: [number, number, number],
): void {
  out[0] = 0;
  out[1] = 0;
  out[2] = 0;
  const share = 1 / (across * across);
  const k = h as readonly [number, number, number, number, number, number, number, number, number];
  for (let i = 0; i < across; i += 1)
    for (let j = 0; j < across; j += 1) {
      const cx = column + (i + 0.5) / across;
      const cy = row + (j + 0.5) / across;
      const w = k[6] * cx + k[7] * cy + k[8];
      const x = Math.max(0, Math.min(width - 1.001, (k[0] * cx + k[1] * cy + k[2]) / w - 0.5));
      const y = Math.max(0, Math.min(height - 1.001, (k[3] * cx + k[4] * cy + k[5]) / w - 0.5));
      const [x0, y0] = [Math.floor(x), Math.floor(y)];
      const [fx, fy] = [x - x0, y - y0];
      const at = 4 * (y0 * width + x0);
      const below = height > 1 ? at + 4 * width : at;
      const right = width > 1 ? 4 : 0;
      for (let c = 0; c < 3; c += 1) {
        const top = mix(data[at + c] as number, data[at + right + c] as number, fx);
        const bottom = mix(data[below + c] as number, data[below + right + c] as number, fx);
        out[c] = (out[c] as number) + share * (top + (bottom - top) * fy);
      }
    }
}

function mix(a: number, b: number, t: number): number {
  const [x, y] = [LINEAR[a] as number, LINEAR[b] as number];
  return x + (y - x) * t;
}
