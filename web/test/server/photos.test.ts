// Photographs: made smaller and upright, without what a camera writes into them; what is no picture is refused.
import { createHash } from "node:crypto";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import type { Loose } from "../support/mission.js";
import { type RunningServer, request, startServer } from "../support/server.js";

let server: RunningServer;
beforeAll(async () => {
  server = await startServer({ demo: false });
});
afterAll(() => server.leave());

function post(bytes: Uint8Array): Promise<{ status: number; data: Loose }> {
  return request(server, "/api/photos", {
    method: "POST",
    headers: { "content-type": "application/octet-stream" },
    body: bytes as never,
  });
}

/** A wide picture, red on the left, as a camera held sideways writes it, with a place in it. */
function camera(width: number, height: number, orientation: number): Promise<Buffer> {
  return sharp({ create: { width, height, channels: 3, background: "#0000ff" } })
    .composite([
      {
        input: { create: { width: width / 2, height, channels: 3, background: "#ff0000" } },
        left: 0,
        top: 0,
      },
    ])
    .withExif({ IFD0: { Make: "Camera of Ours" }, IFD3: { GPSLatitudeRef: "N", GPSLatitude: "54/1 27/1 0/1" } })
    .withMetadata({ orientation })
    .jpeg()
    .toBuffer();
}

async function kept(asset: string): Promise<Buffer> {
  const answer = await fetch(`${server.url}/api/assets/${asset}`);
  expect(answer.headers.get("content-type")).toBe("image/jpeg");
  return Buffer.from(await answer.arrayBuffer());
}

describe("a photograph", () => {
  test("is turned upright, made no larger than 1600 px, and named by its content", async () => {
    const { status, data } = await post(await camera(2400, 1200, 6));
    expect([status, data.width, data.height]).toEqual([201, 800, 1600]);
    const bytes = await kept(data.asset);
    expect(createHash("sha256").update(bytes).digest("hex")).toBe(data.asset);
    // What was on the left is above after a turn to the right.
    const { data: pixels, info } = await sharp(bytes).raw().toBuffer({ resolveWithObject: true });
    const at = (x: number, y: number) => [...pixels.subarray(3 * (y * info.width + x), 3 * (y * info.width + x) + 3)];
    expect(at(400, 100)[0]).toBeGreaterThan(200);
    expect(at(400, 1500)[2]).toBeGreaterThan(200);
  });

  test("has neither place nor camera in it any more", async () => {
    const before = await camera(400, 200, 1);
    expect((await sharp(before).metadata()).exif?.toString("latin1")).toContain("Camera of Ours");
    const { data } = await post(before);
    const bytes = await kept(data.asset);
    expect((await sharp(bytes).metadata()).exif).toBeUndefined();
    expect(bytes.toString("latin1")).not.toContain("Camera of Ours");
  });

  test("that is small stays as large as it is", async () => {
    const { data } = await post(await camera(300, 200, 1));
    expect([data.width, data.height]).toEqual([300, 200]);
  });
});

describe("refused with a reason", () => {
  const png = sharp({ create: { width: 20_000, height: 6000, channels: 3, background: "#fff" } })
    .png()
    .toBuffer();
  test.each<[string, () => Promise<Uint8Array>, number, RegExp]>([
    ["text", async () => Buffer.from("hello"), 422, /could not be read as a picture/],
    ["nothing", async () => new Uint8Array(0), 422, /could not be read as a picture/],
    ["half a picture", async () => (await camera(800, 600, 1)).subarray(0, 900), 422, /could not be read as a picture/],
    ["120 million pixels", () => png, 422, /more than 100 million pixels/],
    ["an SVG with a script", async () => Buffer.from("<svg><script>alert(1)</script></svg>"), 422, /could not be read/],
    ["more than 30 MB", async () => Buffer.alloc(31 * 1024 * 1024), 413, /larger than 30 MB/],
  ])("%s", async (_, make, status, words) => {
    const answer = await post(await make());
    expect([answer.status, words.test(answer.data.detail), answer.data.detail]).toEqual([
      status,
      true,
      answer.data.detail,
    ]);
  });
});
