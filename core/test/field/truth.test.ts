// What is drawn is what robots meet: the floor's light and picture, lamps and shadows, slopes, thick walls and obstacles,
// and the probe, which reads what a rehearsal reads.
import { describe, expect, test } from "vitest";
import { isQuad } from "../../src/field/homography.js";
import { FloorLight, lampShare } from "../../src/field/light.js";
import { toByte } from "../../src/field/mat.js";
import { type FloorPatch, readPicturePng } from "../../src/field/picture.js";
import {
  beginOf,
  type Field,
  FloorRaster,
  fieldSchema,
  fieldSha,
  fittingPng,
  fromBase64,
  homographyOf,
  mapPoint,
  matTrouble,
  openFloor,
  PI,
  type Point,
  Probe,
  parseMission,
  pictureText,
  prepareMission,
  randomStream,
  readField,
  readPictureImage,
  rehearse,
  solidFaces,
  straighten,
  traceColumn,
  writePicturePng,
} from "../../src/index.js";
import { GRAVITY } from "../../src/physics/constants.js";
import { World } from "../../src/physics/world.js";
import { box, r1 } from "../physics/r1.js";
import { drizzle, fellside } from "../support/demo.js";

const floorOf = (things: object): Field => fieldSchema.parse({ ...openFloor(), ...things });
const patch = (): FloorPatch => ({ light: 0, red: 0, green: 0, blue: 0 });

describe("the upgrade from version 1", () => {
  test("leaves everything as it was; what version 2 added may be left out", () => {
    const { format, version, ...rest } = fellside();
    const old = { format, version: 1, ...rest };
    const read = readField(old);
    expect([version, read.ok ? read.document : null]).toEqual([2, fellside()]);
  });
});

describe("marks on the floor", () => {
  test("a curve darkens what it covers, to half its width; its gap does not", () => {
    const k = 0.5522847498 * 0.3;
    const arc = {
      kind: "curve",
      nodes: [
        { atM: [1.3, 1], outM: [1.3, 1 + k] },
        { atM: [1, 1.3], inM: [1 + k, 1.3] },
      ],
      widthM: 0.03,
      reflectance: 0,
      colour: "#000000",
    };
    const light = (field: Field, angle: number, radius: number) => {
      const out = patch();
      new FloorRaster(field).disc(1 + radius * Math.cos(angle), 1 + radius * Math.sin(angle), 0.004, out);
      return out.light;
    };
    const field = floorOf({ marks: [arc] });
    for (const angle of [0.1, 0.7, 1.4]) {
      expect(light(field, angle, 0.3)).toBe(0);
      expect(light(field, angle, 0.3 + 0.011)).toBe(0);
      expect(light(field, angle, 0.3 + 0.019)).toBeGreaterThan(0.8);
    }
    const gapped = floorOf({ marks: [{ ...arc, gaps: [{ atM: 0.2, lengthM: 0.08 }] }] });
    expect([light(gapped, 0.24 / 0.3, 0.3), light(gapped, 0.05, 0.3)]).toEqual([expect.closeTo(0.85, 6), 0]);
  });

  test("the same floor, changed in one mark only, makes anew only the tiles it touches", () => {
    const line = (y: number) => ({
      kind: "line",
      pointsM: [
        [0.5, y],
        [1.5, y],
      ],
      widthM: 0.02,
      reflectance: 0,
      colour: "#000000",
    });
    const floor = new FloorRaster(floorOf({ marks: [line(1), line(3)] }));
    const out = patch();
    floor.disc(1, 1, 0.01, out);
    floor.disc(1, 3, 0.01, out);
    const next = floor.changed(floorOf({ marks: [line(1), line(2)] }));
    next.disc(1, 1, 0.01, out);
    expect(next.tilesMade).toBe(0);
    next.disc(1, 2, 0.01, out);
    expect([out.light, next.tilesMade > 0]).toEqual([0, true]);
  });
});

describe("a picture as the floor", () => {
  /** A mat of 1 × 0.6 m with a disc and a corner mark, photographed askew by a known map, with noise. */
  function photo(corners: readonly Point[], noise: number) {
    const [width, height] = [900, 700];
    const map = homographyOf(corners, [
      [0, 0],
      [1, 0],
      [1, 0.6],
      [0, 0.6],
    ]);
    if (!map) throw new Error("no map");
    const chance = randomStream(3);
    const data = new Uint8Array(4 * width * height);
    for (let y = 0; y < height; y += 1)
      for (let x = 0; x < width; x += 1) {
        const [u, v] = mapPoint(map, [x + 0.5, y + 0.5]);
        const dark = Math.hypot(u - 0.4, v - 0.3) < 0.1 || (u > 0.9 && v > 0.5);
        for (let k = 0; k < 3; k += 1)
          data[4 * (y * width + x) + k] = Math.max(0, Math.min(255, (dark ? 40 : 190) + noise * chance.normal()));
      }
    return { width, height, data };
  }
  const askew: readonly Point[] = [
    [110, 620],
    [820, 580],
    [760, 120],
    [180, 60],
  ];

  test("taken askew and noisy, edges come out within 3 mm, level by its white and black", () => {
    const mat = { corners: askew, widthM: 1, heightM: 0.6 };
    const pixels = photo(askew, 6);
    const map = homographyOf(
      [
        [0, 0],
        [1, 0],
        [1, 0.6],
        [0, 0.6],
      ],
      askew,
    );
    if (!map) throw new Error("no map");
    const picture = straighten(pixels, { ...mat, white: mapPoint(map, [0.7, 0.2]), black: mapPoint(map, [0.4, 0.3]) });
    if (!picture) throw new Error("stopped");
    expect([picture.columns, picture.rows]).toEqual([500, 300]);
    const field = floorOf({ size: { widthM: 1, heightM: 0.6 }, edge: "rim", begins: [] });
    const png = pictureText(writePicturePng(picture));
    const floor = new FloorRaster({ ...field, picture: { columns: 500, rows: 300, asset: "0".repeat(64), png } });
    const out = patch();
    const light = (x: number, y: number) => {
      floor.disc(x, y, 0.004, out);
      return out.light;
    };
    expect([light(0.7, 0.2), light(0.4, 0.3)]).toEqual([expect.closeTo(0.85, 1), expect.closeTo(0.05, 1)]);
    for (let deg = 0; deg < 360; deg += 10) {
      const [c, s] = [Math.cos((deg * PI) / 180), Math.sin((deg * PI) / 180)];
      let edge = 0;
      for (let r = 0.08; r < 0.12; r += 0.0005) if (light(0.4 + r * c, 0.3 + r * s) < 0.45) edge = r;
      expect(Math.abs(edge - 0.1)).toBeLessThan(0.003);
    }
  });

  test("the map of four corners takes each to its partner, and back; folded corners are refused", () => {
    const square: readonly Point[] = [
      [0, 0],
      [2, 0],
      [2, 1],
      [0, 1],
    ];
    const there = homographyOf(square, askew);
    const back = homographyOf(askew, square);
    if (!there || !back) throw new Error("no map");
    for (const point of [
      [0, 0],
      [2, 1],
      [0.3, 0.8],
    ] as const) {
      const [x, y] = mapPoint(back, mapPoint(there, point));
      expect([x, y]).toEqual([expect.closeTo(point[0], 9), expect.closeTo(point[1], 9)]);
    }
    expect(
      homographyOf(
        [
          [0, 0],
          [1, 1],
          [2, 2],
          [0, 1],
        ],
        square,
      ),
    ).toBeNull();
    expect(
      isQuad([
        [0, 0],
        [1, 1],
        [1, 0],
        [0, 1],
      ]),
    ).toBe(false);
    const trouble = matTrouble(
      { width: 10, height: 10 },
      {
        corners: [
          [0, 0],
          [1, 1],
          [1, 0],
          [0, 1],
        ],
        widthM: 1,
        heightM: 1,
      },
    );
    expect(trouble).toMatch(/do not go round/);
    expect(matTrouble({ width: 30_000, height: 30_000 }, { corners: askew, widthM: 1, heightM: 1 })).toMatch(
      /50 million/,
    );
    expect(matTrouble({ width: 10, height: 10 }, { corners: askew, widthM: 9, heightM: 1 })).toMatch(/up|to 5 m/);
  });

  test("its PNG comes back to the byte; where it is too large it keeps fewer bits; a damaged one is no picture", async () => {
    const chance = randomStream(1);
    const cells = Uint8Array.from({ length: 3 * 80 * 60 }, () => Math.floor(chance.uniform() * 256));
    const picture = { columns: 80, rows: 60, cells };
    const png = writePicturePng(picture);
    expect(readPicturePng(png)).toEqual(picture);
    const small = fittingPng(picture, 9000);
    if (!small) throw new Error("does not fit");
    expect(small.length).toBeLessThanOrEqual(9000);
    const again = readPicturePng(small);
    const worst = again.cells.reduce((most, value, i) => Math.max(most, Math.abs(value - (cells[i] ?? 0))), 0);
    expect(worst).toBeLessThan(40);
    expect(fittingPng(picture, 10)).toBeNull();
    expect(await fieldSha(pictureText(png))).toMatch(/^[0-9a-f]{64}$/);
    expect(readPictureImage(png.subarray(0, 900))).toMatchObject({ ok: false });
    expect(readPictureImage(new Uint8Array(50))).toEqual({ ok: false, problem: "This is not a PNG picture." });
    const huge = Uint8Array.from(png);
    new DataView(huge.buffer).setUint32(16, 30_000);
    new DataView(huge.buffer).setUint32(20, 30_000);
    const refused = readPictureImage(huge);
    expect(refused.ok ? "" : refused.problem).toMatch(/30000 × 30000.*50 million/);
    expect(fromBase64(pictureText(png))).toEqual(png);
    for (const byte of [0, 1, 90, 200, 255])
      expect(toByte(((byte / 255 + 0.055) / 1.055) ** 2.4)).toBeCloseTo(byte, -1);
  });
});

describe("light of the room", () => {
  test("a lamp lights by the inverse square and Lambert's cosine", () => {
    expect(lampShare(0.8, 0)).toBe(1);
    for (const r of [0.3, 1, 2.5]) {
      const distance = Math.hypot(r, 0.8);
      // E / E0 = (h² / d²) · cos, and cos = h / d.
      expect(lampShare(0.8, r)).toBeCloseTo((0.8 / distance) ** 3, 9);
    }
  });

  test("the shadow of a wall ends where the ray over its edge meets the floor: h · r / (H − h) behind it", () => {
    const lamp = { xM: 1, yM: 2, heightM: 1, level: 2 };
    const walls = [{ fromM: [2, 1], toM: [2, 3], heightM: 0.2 }];
    const field = floorOf({ light: { level: 0.5, lamp }, walls });
    const light = new FloorLight(field, solidFaces(field));
    const end = 2 + (0.2 * 1) / (1 - 0.2);
    expect([
      light.shaded(2.01, 2),
      light.shaded(end - 0.001, 2),
      light.shaded(end + 0.001, 2),
      light.shaded(1.9, 2),
    ]).toEqual([true, true, false, false]);
    expect(light.at(2.1, 2)).toBe(0.5);
    expect(light.at(1, 2)).toBe(2.5);
    // Beside its end there is no shadow.
    expect(light.shaded(2.01, 3.2)).toBe(false);
  });

  test("a boulder casts one too; an even room is as it was", () => {
    const lamp = { xM: 1, yM: 2, heightM: 0.5, level: 1 };
    const field = floorOf({ light: { lamp }, boulders: [{ xM: 1.5, yM: 2, radiusM: 0.05, heightM: 0.1 }] });
    const light = new FloorLight(field, solidFaces(field));
    // The ray that grazes its far upper edge.
    const edge = 1.55;
    const end = edge + (0.1 * (edge - 1)) / (0.5 - 0.1);
    expect([light.shaded(end - 0.002, 2), light.shaded(end + 0.05, 2), light.shaded(1.56, 2.2)]).toEqual([
      true,
      false,
      false,
    ]);
    expect(new FloorLight(openFloor(), []).at(1, 1)).toBe(1);
  });

  test("a light sensor reads more under the lamp, by its share of room light", () => {
    const robot = drizzle((body) => {
      for (const sensor of body.sensors) if (sensor.kind === "floor") sensor.ambient = 0.1;
    });
    const at = { xM: 2, yM: 2, headingRad: 0 };
    const read = (field: Field) =>
      new Probe(robot, field).at(at).readings.find(({ id }) => id === "floor.left.light")?.value ?? 0;
    const lit = floorOf({ light: { level: 1, lamp: { xM: 2.065, yM: 2, heightM: 1, level: 1 } } });
    expect(read(lit) - read(openFloor())).toBeCloseTo(0.1 * lampShare(1, 0.012), 6);
  });
});

describe("slopes", () => {
  const slopeRad = 0.2;
  const ramp = {
    cornersM: [
      [-9, -9],
      [9, -9],
      [9, 9],
      [-9, 9],
    ] as Point[],
    slopeRad,
    upRad: 0,
  };

  /** The reference robot with free wheels on a slope. */
  function onSlope(more: object = {}): World {
    const plain = r1();
    const spec = { ...plain.spec, ramps: [ramp], ...more };
    return new World({ ...spec, wheels: spec.wheels.map((wheel) => ({ ...wheel, drive: null })) });
  }

  test("free wheels roll down it with g sin θ, less what the turning wheels take", () => {
    const world = onSlope();
    for (let i = 0; i < 200; i += 1) world.step(0.005);
    // Two wheels of 2e-5 kg m² on 30 mm carry 2 I / r² of mass besides the robot's 1.2 kg.
    const wheels = (2 * 2e-5) / 0.03 ** 2;
    const expected = -GRAVITY * Math.sin(slopeRad) * (1.2 / (1.2 + wheels));
    expect(world.velocityX / 1).toBeCloseTo(expected, 2);
    expect(Math.abs(world.velocityY)).toBeLessThan(1e-6);
  });

  test("a flat floor beside it pulls nothing; a slope the other way pulls the other way", () => {
    const beside = onSlope({ ramps: [{ ...ramp, cornersM: ramp.cornersM.map(([x, y]) => [x + 50, y]) }] });
    for (let i = 0; i < 100; i += 1) beside.step(0.005);
    expect(beside.velocityX).toBe(0);
    const other = onSlope({ ramps: [{ ...ramp, upRad: PI / 2 }] });
    other.place({ xM: 0, yM: 0, headingRad: PI / 2 });
    for (let i = 0; i < 100; i += 1) other.step(0.005);
    expect(other.velocityY).toBeLessThan(-0.5);
  });

  test("a load stays while tan θ is less than its friction, and slides with g (sin θ − μ cos θ) beyond it", () => {
    const run = (friction: number) => {
      const world = onSlope({ loads: [box(2, 2, 0.2, friction)] });
      for (let i = 0; i < 200; i += 1) world.step(0.005);
      const load = world.bodies[1];
      if (!load) throw new Error("no load");
      return { moved: load.xM - 2, speed: load.velocityX };
    };
    expect(run(Math.tan(slopeRad) * 1.05).moved).toBe(0);
    const friction = Math.tan(slopeRad) * 0.5;
    const expected = -GRAVITY * (Math.sin(slopeRad) - friction * Math.cos(slopeRad));
    expect(run(friction).speed).toBeCloseTo(expected, 1);
  });

  test("weight shifts to the lower wheels as if it accelerated uphill, and less of it presses", () => {
    const world = onSlope();
    for (let i = 0; i < 3; i += 1) {
      world.place({ xM: 0, yM: 0, headingRad: 0 });
      world.step(0.005);
    }
    const sum = world.loads.loadsN.reduce((total, load) => total + load, 0);
    expect(sum).toBeCloseTo(1.2 * GRAVITY * Math.cos(slopeRad), 2);
  });
});

describe("thick walls and obstacles", () => {
  test("a thick wall has four faces of one name; a thin one has one, and one of no length none to be met", () => {
    const wall = (more: object) => floorOf({ walls: [{ fromM: [1, 1], toM: [2, 1], ...more }] });
    expect(solidFaces(wall({ thicknessM: 0.04, name: "plank" })).map(({ name }) => name)).toEqual(
      Array(4).fill("plank"),
    );
    expect(solidFaces(wall({}))).toHaveLength(1);
    const ys = solidFaces(wall({ thicknessM: 0.04 })).flatMap(({ ends }) => ends.map(([, y]) => y));
    expect([Math.min(...ys), Math.max(...ys)]).toEqual([expect.closeTo(0.98, 9), expect.closeTo(1.02, 9)]);
  });

  test("the distance sensor hears the near face, and the touch names the obstacle once", () => {
    const cornersM = [
      [2.5, 1.5],
      [2.9, 1.5],
      [2.9, 2.5],
      [2.5, 2.5],
    ];
    const field = floorOf({ obstacles: [{ name: "shed", cornersM, heightM: 0.2 }] });
    const { readings, eyes } = new Probe(drizzle(), field).at({ xM: 2, yM: 2, headingRad: 0 });
    expect(readings.find(({ id }) => id === "eye.distance")?.value).toBeCloseTo(0.5 - 0.08, 6);
    expect(eyes[0]?.hears).toBe("shed");
    const prepared = prepareMission(
      'cairn 1\nrobot "Drizzle"\nmission\n  move arm to 80 deg\n  go 60 cm until bumper.pressed\n  wait 0.5 s\n',
      drizzle(),
      field,
    );
    const { summary } = rehearse(prepared, { seed: 1, ideal: true });
    expect(summary.contacts.map(({ what }) => what)).toEqual(["shed"]);
  });
});

describe("the probe", () => {
  test("reads what a rehearsal reads at that pose, to the bit", () => {
    const robot = drizzle();
    for (const [xM, yM, headingRad] of [
      [0.24, 0.7, 0],
      [0.79, 0.53, -0.7],
      [1.3, 0.62, 2.1],
    ] as const) {
      const field = { ...fellside(), begins: [{ name: "here", xM, yM, headingRad }] };
      const prepared = prepareMission('cairn 1\nrobot "Drizzle"\nmission\n  wait 0.5 s\n', robot, field);
      const { trace } = rehearse(prepared, { seed: 9, ideal: true });
      const probed = new Probe(robot, fellside()).at(beginOf(parseMission("cairn 1\nmission\n"), field));
      for (const id of ["floor.left.light", "floor.right.light", "eye.distance", "bumper.pressed"]) {
        const column = traceColumn(trace, id);
        const value = probed.readings.find((one) => one.id === id)?.value;
        expect(value === undefined ? null : Math.fround(value)).toBe(column?.[44]);
      }
    }
  });

  test("hears what stands beside the middle of its cone, and says what it is", () => {
    const { eyes } = new Probe(drizzle(), fellside()).at({ xM: 0.5, yM: 0.69, headingRad: 0 });
    const [eye] = eyes;
    expect([eye?.hears, eye?.points.length]).toEqual(["boulder 5", 120]);
    const ahead = eye?.points.find(({ bearingRad }) => Math.abs(bearingRad) < 1e-6);
    // A boulder beside the middle of the cone is heard, and nothing nearer than it stands straight ahead.
    expect(ahead?.heardM).toBeLessThan(ahead?.thereM ?? 0);
  });
});
