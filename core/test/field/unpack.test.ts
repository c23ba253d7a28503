// A picture unpacked by the platform's own inflate has the cells it has by the library, whatever filters its rows have.
import { crc32, deflateSync, inflateSync } from "node:zlib";
import { describe, expect, test } from "vitest";
import { pictureOf, readPicturePng, unpackPicture } from "../../src/field/picture.js";
import { pictureText, randomStream, writePicturePng } from "../../src/index.js";

const WIDTH = 37;
const HEIGHT = 25;
const chance = randomStream(6);
const pixels = Uint8Array.from({ length: 3 * WIDTH * HEIGHT }, () => Math.floor(chance.uniform() * 256));

/** What a filter takes from a byte: by its left, upper and upper left neighbour. */
const FILTERS = [
  () => 0,
  (left: number) => left,
  (_: number, up: number) => up,
  (left: number, up: number) => (left + up) >> 1,
  (left: number, up: number, corner: number) => {
    const guess = left + up - corner;
    const off = [left, up, corner].map((one) => Math.abs(guess - one));
    return [left, up, corner][off.indexOf(Math.min(...off))] as number;
  },
];

function chunk(kind: string, data: Uint8Array): Uint8Array {
  const bytes = Buffer.alloc(12 + data.length);
  bytes.writeUInt32BE(data.length, 0);
  bytes.write(kind, 4, "latin1");
  bytes.set(data, 8);
  bytes.writeUInt32BE(crc32(bytes.subarray(4, 8 + data.length)), 8 + data.length);
  return bytes;
}

/** A PNG whose rows are filtered as asked, its data in two pieces. */
function png(filterOf: (row: number) => number): Uint8Array {
  const stride = 3 * WIDTH;
  const rows = Buffer.alloc((stride + 1) * HEIGHT);
  const at = (x: number, y: number) => (x < 0 || y < 0 ? 0 : (pixels[y * stride + x] as number));
  for (let y = 0; y < HEIGHT; y += 1) {
    const filter = filterOf(y);
    rows[y * (stride + 1)] = filter;
    for (let x = 0; x < stride; x += 1) {
      const taken = (FILTERS[filter] as (typeof FILTERS)[number])(at(x - 3, y), at(x, y - 1), at(x - 3, y - 1));
      rows[y * (stride + 1) + 1 + x] = (at(x, y) - taken) & 255;
    }
  }
  const header = Buffer.alloc(13);
  header.writeUInt32BE(WIDTH, 0);
  header.writeUInt32BE(HEIGHT, 4);
  header.set([8, 2, 0, 0, 0], 8);
  const packed = deflateSync(rows);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
    chunk("IHDR", header),
    chunk("IDAT", packed.subarray(0, 100)),
    chunk("IDAT", packed.subarray(100)),
    chunk("IEND", new Uint8Array(0)),
  ]);
}

const fieldWith = (bytes: Uint8Array) => ({
  picture: { columns: WIDTH, rows: HEIGHT, asset: "0".repeat(64), png: pictureText(bytes) },
});

describe("unpacking", () => {
  test.each([
    ["none", () => 0],
    ["left", () => 1],
    ["above", () => 2],
    ["the mean of both", () => 3],
    ["the nearest of three", () => 4],
    ["each in turn", (row: number) => row % 5],
  ])("rows filtered by %s", async (_, filterOf) => {
    const bytes = png(filterOf);
    let inflated = 0;
    await unpackPicture(fieldWith(bytes), async (packed) => {
      inflated += 1;
      return new Uint8Array(inflateSync(packed));
    });
    expect(inflated).toBe(1);
    const found = pictureOf(fieldWith(bytes));
    expect(found).toEqual(readPicturePng(bytes));
    // Rows of a PNG run down, rows of the floor up.
    expect([...(found?.cells.subarray(3 * WIDTH * (HEIGHT - 1)) ?? [])]).toEqual([...pixels.subarray(0, 3 * WIDTH)]);
  });

  test("is done once, and what is damaged or of another make is left to the library", async () => {
    const bytes = png(() => 4);
    let asked = 0;
    const inflate = async (packed: Uint8Array) => {
      asked += 1;
      return new Uint8Array(inflateSync(packed));
    };
    await unpackPicture(fieldWith(bytes), inflate);
    await unpackPicture(fieldWith(bytes), inflate);
    expect(asked).toBe(1);
    const own = writePicturePng({ columns: WIDTH, rows: HEIGHT, cells: pixels });
    await unpackPicture(fieldWith(own.subarray(0, 200)), inflate);
    expect(pictureOf(fieldWith(own.subarray(0, 200)))).toBeNull();
    await unpackPicture(fieldWith(own), () => Promise.reject(new Error("it cannot")));
    expect(pictureOf(fieldWith(own))?.cells).toEqual(pixels);
  });
});
