// The floor's picture: one cell of 2 mm each pixel, straightened and levelled, so that the linear light of a pixel is
// the share of light its cell sends back. Kept as a PNG; rows of a PNG run down, rows of the floor run up.
import { decode, encode, hasPngSignature } from "fast-png";
import { fromBase64, toBase64 } from "../math/base64.js";
import { toLinear } from "./colours.js";
import type { Field } from "./schema.js";

declare const crypto: { readonly subtle: { digest(algorithm: "SHA-256", bytes: Uint8Array): Promise<ArrayBuffer> } };

/** What a patch of floor looks like. */
export interface FloorPatch {
  /** Share of light sent back, 0..1. */
  light: number;
  red: number;
  green: number;
  blue: number;
}

/** A decoded picture, rows from the top. */
export interface Pixels {
  readonly width: number;
  readonly height: number;
  /** Red, green, blue, alpha of each pixel, 0..255 in sRGB. */
  readonly data: Uint8Array | Uint8ClampedArray;
}

export const MOST_PIXELS = 50_000_000;

/** Weights of red, green and blue in light: the Y row of the sRGB primaries, IEC 61966-2-1. */
const LIGHT = [0.2126729, 0.7151522, 0.072175] as const;
const LINEAR = Float64Array.from({ length: 256 }, (_, i) => toLinear(i / 255));

export interface FloorPicture {
  readonly columns: number;
  readonly rows: number;
  /** Red, green, blue of each cell, 0..255 in sRGB, row by row from the lower left. */
  readonly cells: Uint8Array;
}

/** Adds a cell's light and colour to a patch. */
export function addCell(picture: FloorPicture, column: number, row: number, share: number, out: FloorPatch): void {
  const at = 3 * (row * picture.columns + column);
  const red = LINEAR[picture.cells[at] as number] as number;
  const green = LINEAR[picture.cells[at + 1] as number] as number;
  const blue = LINEAR[picture.cells[at + 2] as number] as number;
  out.light += share * (LIGHT[0] * red + LIGHT[1] * green + LIGHT[2] * blue);
  out.red += share * red;
  out.green += share * green;
  out.blue += share * blue;
}

/** The picture that was unpacked last: a field is drawn, probed and driven on many times with the same one. */
let unpacked: { readonly png: string; readonly cells: FloorPicture } | null = null;

/** The picture of a field; null when it has none, or its PNG is not at hand or is of another size. */
export function pictureOf(field: Pick<Field, "picture">): FloorPicture | null {
  const { picture } = field;
  if (!picture?.png) return null;
  try {
    if (unpacked?.png !== picture.png) unpacked = { png: picture.png, cells: readPicturePng(fromBase64(picture.png)) };
    const { cells } = unpacked;
    return cells.columns === picture.columns && cells.rows === picture.rows ? cells : null;
  } catch {
    return null;
  }
}

/** Inflates a zlib stream, as the platform does it. @param length - of what comes out, bytes; more than that is refused */
export type Inflate = (packed: Uint8Array, length: number) => Promise<Uint8Array>;

/**
 * Unpacks the picture of a field before its floor is looked at: what a platform inflates by itself takes a fraction of
 * the time. Pictures of another make, or damaged ones, are left to be unpacked when they are looked at.
 */
export async function unpackPicture(field: Pick<Field, "picture">, inflate: Inflate): Promise<void> {
  const png = field.picture?.png;
  if (!png || unpacked?.png === png) return;
  try {
    const cells = await plainPicture(fromBase64(png), inflate);
    if (cells) unpacked = { png, cells };
  } catch {
    // It is told where it is looked at.
  }
}

/** A PNG of 8 bits red, green, blue, row after row; null for one of another make. Source: PNG, third edition, W3C. */
async function plainPicture(bytes: Uint8Array, inflate: Inflate): Promise<FloorPicture | null> {
  const size = pngSize(bytes);
  const [depth, colours, , , interlaced] = bytes.subarray(24, 29);
  if (!size || depth !== 8 || colours !== 2 || interlaced !== 0 || size.width * size.height > MOST_PIXELS) return null;
  const { width, height } = size;
  const stride = 3 * width + 1;
  const rows = await inflate(pngData(bytes), stride * height);
  if (rows.length !== stride * height) return null;
  const cells = new Uint8Array(3 * width * height);
  let above = new Uint8Array(3 * width);
  for (let y = 0; y < height; y += 1) {
    const row = cells.subarray(3 * width * (height - 1 - y), 3 * width * (height - y));
    if (!unfilter(rows[y * stride] as number, rows.subarray(y * stride + 1, (y + 1) * stride), above, row)) return null;
    above = row;
  }
  return { columns: width, rows: height, cells };
}

/** All packed bytes of a PNG, from its IDAT chunks. */
function pngData(bytes: Uint8Array): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const pieces: Uint8Array[] = [];
  for (let at = 8; at + 8 <= bytes.length; at += 12 + view.getUint32(at)) {
    if (view.getUint32(at + 4) === IDAT) pieces.push(bytes.subarray(at + 8, at + 8 + view.getUint32(at)));
  }
  const all = new Uint8Array(pieces.reduce((sum, piece) => sum + piece.length, 0));
  let to = 0;
  for (const piece of pieces) {
    all.set(piece, to);
    to += piece.length;
  }
  return all;
}

/** "IDAT" */
const IDAT = 0x49444154;

/** One row of three bytes a pixel from what was filtered. @returns whether the filter is known */
function unfilter(filter: number, from: Uint8Array, above: Uint8Array, to: Uint8Array): boolean {
  const n = from.length;
  if (filter === 0) to.set(from);
  else if (filter === 1) {
    for (let i = 0; i < 3; i += 1) to[i] = from[i] as number;
    for (let i = 3; i < n; i += 1) to[i] = (from[i] as number) + (to[i - 3] as number);
  } else if (filter === 2) for (let i = 0; i < n; i += 1) to[i] = (from[i] as number) + (above[i] as number);
  else if (filter === 3)
    for (let i = 0; i < n; i += 1) {
      const left = i < 3 ? 0 : (to[i - 3] as number);
      to[i] = (from[i] as number) + ((left + (above[i] as number)) >> 1);
    }
  else if (filter === 4) {
    for (let i = 0; i < 3; i += 1) to[i] = (from[i] as number) + (above[i] as number);
    for (let i = 3; i < n; i += 1) {
      const left = to[i - 3] as number;
      const up = above[i] as number;
      const corner = above[i - 3] as number;
      // The one of three neighbours nearest to left + up - corner.
      const a = up > corner ? up - corner : corner - up;
      const b = left > corner ? left - corner : corner - left;
      const far = left + up - 2 * corner;
      const c = far < 0 ? -far : far;
      to[i] = (from[i] as number) + (a <= b && a <= c ? left : b <= c ? up : corner);
    }
  } else return false;
  return true;
}

/** @throws Error if it is not a PNG of 8 bits */
export function readPicturePng(bytes: Uint8Array): FloorPicture {
  const { width, height, data, channels, depth, palette } = decode(bytes);
  if (depth !== 8) throw new Error(`the picture has ${depth} bits a channel, 8 are wanted`);
  const cells = new Uint8Array(3 * width * height);
  for (let y = 0; y < height; y += 1) {
    const to = 3 * width * (height - 1 - y);
    if (channels === 3) {
      cells.set(data.subarray(3 * width * y, 3 * width * (y + 1)) as Uint8Array, to);
      continue;
    }
    for (let x = 0; x < width; x += 1) {
      const from = (y * width + x) * channels;
      const colour = palette?.[data[from] as number];
      for (let k = 0; k < 3; k += 1)
        cells[to + 3 * x + k] = colour?.[k] ?? (data[channels < 3 ? from : from + k] as number);
    }
  }
  return { columns: width, rows: height, cells };
}

export function writePicturePng({ columns, rows, cells }: FloorPicture): Uint8Array {
  const data = new Uint8Array(3 * columns * rows);
  for (let row = 0; row < rows; row += 1)
    data.set(cells.subarray(3 * columns * row, 3 * columns * (row + 1)), 3 * columns * (rows - 1 - row));
  return encode({ width: columns, height: rows, data, channels: 3, depth: 8 });
}

/** Largest picture that is kept, bytes. */
export const LARGEST_PICTURE = 4 * 1024 * 1024;

/** The same picture with so many bits a channel: the lowest ones are noise of the camera. */
function withBits(picture: FloorPicture, bits: number): FloorPicture {
  const steps = (1 << bits) - 1;
  const table = Uint8Array.from({ length: 256 }, (_, i) =>
    Math.floor((Math.floor((i * steps) / 255 + 0.5) * 255) / steps + 0.5),
  );
  return { ...picture, cells: picture.cells.map((value) => table[value] as number) };
}

/** The PNG of a picture, with as many bits a channel as keep it within `most` bytes; null when not even 3 do. */
export function fittingPng(picture: FloorPicture, most: number = LARGEST_PICTURE): Uint8Array | null {
  for (const bits of [8, 6, 5, 4, 3]) {
    const png = writePicturePng(bits === 8 ? picture : withBits(picture, bits));
    if (png.length <= most) return png;
  }
  return null;
}

/** For the document: the PNG as text. */
export function pictureText(png: Uint8Array): string {
  return toBase64(png);
}

/** Hex SHA-256 of a picture's PNG, given as base64: how its asset is named. */
export async function fieldSha(png: string): Promise<string> {
  const digest = await crypto.subtle.digest("SHA-256", fromBase64(png));
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** A PNG of any kind as pixels to straighten; its size is looked at before anything is unpacked. */
export function readPictureImage(
  bytes: Uint8Array,
): { readonly ok: true; readonly pixels: Pixels } | { readonly ok: false; readonly problem: string } {
  const size = pngSize(bytes);
  if (!size) return { ok: false, problem: "This is not a PNG picture." };
  if (size.width * size.height > MOST_PIXELS)
    return {
      ok: false,
      problem: `The picture has ${size.width} × ${size.height} pixels. ${MOST_PIXELS / 1e6} million is the most: make it smaller.`,
    };
  try {
    const { width, height, data, channels, depth, palette } = decode(bytes);
    const pixels = new Uint8Array(4 * width * height);
    const wide = depth === 16 ? 257 : 1;
    for (let i = 0; i < width * height; i += 1) {
      const from = i * channels;
      const colour = palette?.[data[from] as number];
      for (let k = 0; k < 3; k += 1)
        pixels[4 * i + k] = colour?.[k] ?? Math.floor((data[channels < 3 ? from : from + k] as number) / wide);
      pixels[4 * i + 3] = 255;
    }
    return { ok: true, pixels: { width, height, data: pixels } };
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    return { ok: false, problem: `The picture is damaged: ${why}. Save it again as PNG.` };
  }
}

/** Width and height from the header of a PNG; null when it is none. */
export function pngSize(bytes: Uint8Array): { width: number; height: number } | null {
  if (bytes.length < 33 || !hasPngSignature(bytes)) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return { width: view.getUint32(16), height: view.getUint32(20) };
}
