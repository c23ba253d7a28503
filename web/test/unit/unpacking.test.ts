// Pictures unpacked by the platform, as pages and workers do it: the floor is the one that the library reads.
import { deflateSync } from "node:zlib";
import {
  type Field,
  FloorRaster,
  fieldSchema,
  openFloor,
  pictureText,
  randomStream,
  writePicturePng,
} from "@giddy-pebble/core";
import { describe, expect, test } from "vitest";
import { unpacked } from "../../src/shared/field/unpacking.js";

const [COLUMNS, ROWS] = [90, 60] as const;

function fieldWith(png: Uint8Array, asset: string): Field {
  const picture = { columns: COLUMNS, rows: ROWS, asset: asset.repeat(64), png: pictureText(png) };
  return fieldSchema.parse({ ...openFloor(), picture });
}

function printed(seed: number): Uint8Array {
  const chance = randomStream(seed);
  const cells = Uint8Array.from({ length: 3 * COLUMNS * ROWS }, () => Math.floor(256 * chance.uniform()));
  return writePicturePng({ columns: COLUMNS, rows: ROWS, cells });
}

/** Light over discs all over the picture. */
function lights(field: Field): number[] {
  const floor = new FloorRaster(field);
  return Array.from({ length: 40 }, (_, i) => {
    const out = { light: 0, red: 0, green: 0, blue: 0 };
    floor.disc(0.01 + 0.004 * i, 0.01 + 0.002 * i, 0.006, out);
    return out.light;
  });
}

/** The same picture, with other data in its one IDAT piece. */
function withData(png: Uint8Array, data: Uint8Array): Uint8Array {
  const at = Buffer.from(png).indexOf("IDAT");
  const length = Buffer.alloc(4);
  length.writeUInt32BE(data.length);
  const rest = at + 4 + Buffer.from(png).readUInt32BE(at - 4);
  return Buffer.concat([png.subarray(0, at - 4), length, Buffer.from("IDAT"), data, png.subarray(rest)]);
}

describe("a field's picture", () => {
  test("unpacked by the platform gives the floor that the library gives", async () => {
    const png = printed(1);
    const before = lights(fieldWith(png, "0"));
    // Another one between: only the last is kept.
    lights(fieldWith(printed(2), "1"));
    const field = fieldWith(png, "0");
    expect(await unpacked(field)).toBe(field);
    expect(lights(field)).toEqual(before);
    expect(new Set(before).size).toBeGreaterThan(30);
  });

  test.each([
    [
      "more than its size says: its first rows, which are black, are seen",
      deflateSync(new Uint8Array(5_000_000)),
      true,
    ],
    ["less than its size says: the bare floor is seen", deflateSync(new Uint8Array(500)), false],
    ["no packed data: the bare floor is seen", new Uint8Array(300).fill(7), false],
    ["data that break off: the bare floor is seen", deflateSync(new Uint8Array(20_000)).subarray(0, 12), false],
  ])("that holds %s", async (_what, data, black) => {
    const field = fieldWith(withData(printed(3), data), "2");
    expect(await unpacked(field)).toBe(field);
    const bare = lights(fieldSchema.parse(openFloor()));
    expect(lights(field)).toEqual(black ? bare.map(() => 0) : bare);
  });
});
