// Every sensor: what it sees, how it lags, how it fails.
import { describe, expect, test } from "vitest";
import {
  COLOUR_NAMES,
  type Field,
  FloorRaster,
  floorOffsets,
  linearRgb,
  mixSeed,
  openFloor,
  randomStream,
  World,
} from "../../src/index.js";
import { GearPlay } from "../../src/sensors/encoder.js";
import { EyeSensor, type EyeTruth, SOUND_M_S } from "../../src/sensors/eye.js";
import { FloorSensor, isCrossing } from "../../src/sensors/floorSensor.js";
import { GyroSensor } from "../../src/sensors/gyro.js";
import { NearSensor, switchingDistanceM } from "../../src/sensors/near.js";
import { potentiometerReading } from "../../src/sensors/potentiometer.js";
import { SensorScene } from "../../src/sensors/scene.js";
import { SwitchSensor } from "../../src/sensors/switch.js";
import { gapShade, nameTag, TagSensor } from "../../src/sensors/tag.js";
import { r1 } from "../physics/r1.js";
import { fellside, runSteps } from "../support/demo.js";

/** A robot frame at the origin of an open floor with these things on it; its centre of mass is its origin. */
function scene(change: Partial<Field>, pose = { xM: 0, yM: 0, headingRad: 0 }): SensorScene {
  const field: Field = { ...openFloor(), ...change };
  const world = new World({ ...r1().spec, segments: [], discs: [], loads: field.loads });
  world.place(pose);
  return new SensorScene(field, new FloorRaster(field), world, 0, 0);
}

const wall = (fromM: [number, number], toM: [number, number], heightM = 0.1, reflectance = 0.7) => ({
  fromM,
  toM,
  heightM,
  reflectance,
});
const eyeTruth: EyeTruth = {
  xM: 0,
  yM: 0,
  zM: 0.05,
  aimRad: 0,
  coneRad: 0.26,
  nearM: 0.03,
  farM: 2,
  noiseM: 0,
  offsetM: 0,
  cycleTicks: 4,
  silentRad: Math.PI / 4,
  dropOut: 0,
  nearReads: "nearest",
};
const crate = (xM: number, heightM: number): Field["loads"][number] => ({
  name: "crate",
  shape: "box",
  sizeM: [0.1, 0.1],
  heightM,
  massKg: 0.1,
  friction: 0.4,
  xM,
  yM: 0,
  headingRad: 0,
  colour: "#C8352B",
});

function look(eye: EyeSensor, at: SensorScene, ticks = 12, still = true): EyeSensor {
  for (let i = 0; i < ticks; i += 1) eye.tick(at, 0, still, 0.01);
  return eye;
}

describe("the distance sensor", () => {
  test("measures a wall square on to the millimetre", () => {
    expect(look(new EyeSensor(eyeTruth, null), scene({ walls: [wall([0.8, -1], [0.8, 1])] })).distanceM).toBeCloseTo(
      0.8,
      9,
    );
  });

  test("the nearest echo in the cone wins", () => {
    const near = scene({ walls: [wall([0.8, -1], [0.8, 1]), wall([0.5, 0.04], [0.5, 0.3])] });
    expect(look(new EyeSensor(eyeTruth, null), near).distanceM).toBeLessThan(0.52);
  });

  test("a smooth face met too slantingly is silent, a boulder never is", () => {
    const slanted = scene({ walls: [wall([0.2, -0.2], [1.4, 0.36])] });
    expect(look(new EyeSensor(eyeTruth, null), slanted).seen).toBe(false);
    const boulder = scene({ boulders: [{ xM: 0.6, yM: 0.04, radiusM: 0.06, heightM: 0.1, reflectance: 0.4 }] });
    expect(look(new EyeSensor(eyeTruth, null), boulder).distanceM).toBeCloseTo(0.545, 1.8);
  });

  test("looks over what is lower than it, and sees a load that is not", () => {
    expect(look(new EyeSensor(eyeTruth, null), scene({ loads: [crate(0.5, 0.04)] })).seen).toBe(false);
    expect(look(new EyeSensor(eyeTruth, null), scene({ loads: [crate(0.5, 0.08)] })).distanceM).toBeCloseTo(0.45, 9);
  });

  test("nearer than its limit it reads the limit, or nothing, by its type", () => {
    const close = scene({ walls: [wall([0.01, -1], [0.01, 1])] });
    expect(look(new EyeSensor(eyeTruth, null), close).distanceM).toBe(0.03);
    expect(look(new EyeSensor({ ...eyeTruth, nearReads: "nothing" }, null), close).seen).toBe(false);
  });

  test("beyond its limit it reads the limit and has seen nothing", () => {
    const far = look(new EyeSensor(eyeTruth, null), scene({ walls: [wall([2.4, -1], [2.4, 1])] }));
    expect([far.distanceM, far.seen]).toEqual([2, false]);
  });

  test("delivers after the sound came back, 2 d / 343 m/s, and a new ping each cycle", () => {
    const eye = new EyeSensor(eyeTruth, null);
    const at = scene({ walls: [wall([1.9, -1], [1.9, 1])] });
    const sec = (2 * 1.9) / SOUND_M_S;
    const ticks = Math.ceil(sec / 0.01);
    for (let i = 0; i < ticks; i += 1) eye.tick(at, 0, true, 0.01);
    expect(eye.seen).toBe(false);
    eye.tick(at, 0, true, 0.01);
    expect(eye.seen).toBe(true);
  });

  test("is stale while its head moves", () => {
    const eye = new EyeSensor(eyeTruth, null);
    look(eye, scene({ walls: [wall([0.8, -1], [0.8, 1])] }));
    const nearer = scene({ walls: [wall([0.4, -1], [0.4, 1])] });
    look(eye, nearer, 30, false);
    expect(eye.distanceM).toBeCloseTo(0.8, 9);
    expect(eye.ageTicks).toBeGreaterThan(20);
    expect(look(eye, nearer).distanceM).toBeCloseTo(0.4, 9);
  });

  test("scatters by its noise and misses now and then", () => {
    const eye = new EyeSensor({ ...eyeTruth, noiseM: 0.003, dropOut: 0.1, cycleTicks: 1 }, randomStream(5));
    const at = scene({ walls: [wall([0.3, -1], [0.3, 1])] });
    const read: number[] = [];
    let missed = 0;
    for (let i = 0; i < 4000; i += 1) {
      eye.tick(at, 0, true, 0.01);
      if (eye.seen) read.push(eye.distanceM);
      else missed += 1;
    }
    const mean = read.reduce((sum, d) => sum + d, 0) / read.length;
    const sd = Math.sqrt(read.reduce((sum, d) => sum + (d - mean) ** 2, 0) / read.length);
    // Standard errors: 3 mm/sqrt(3600) of the mean, 1.2 % of sd, 0.5 % of the share.
    expect(mean).toBeCloseTo(0.3, 3);
    expect(Math.abs(sd - 0.003)).toBeLessThan(0.0002);
    expect(Math.abs(missed / 4000 - 0.1)).toBeLessThan(0.025);
  });
});

describe("the proximity sensor", () => {
  const truth = { xM: 0, yM: 0, zM: 0.03, aimRad: 0, thresholdM: 0.1, coneRad: 0.16, hysteresis: 0.2, periodTicks: 1 };
  const blocked = (sensor: NearSensor, x: number, reflectance: number) => {
    sensor.tick(scene({ walls: [wall([x, -1], [x, 1], 0.1, reflectance)] }));
    return sensor.blocked;
  };
  test("switches where light over distance squared reaches that of white at its threshold", () => {
    expect(switchingDistanceM(0.1, 0.9)).toBeCloseTo(0.1, 12);
    expect(switchingDistanceM(0.1, 0.225)).toBeCloseTo(0.05, 12);
    expect(blocked(new NearSensor(truth), 0.095, 0.9)).toBe(true);
    expect(blocked(new NearSensor(truth), 0.105, 0.9)).toBe(false);
    expect(blocked(new NearSensor(truth), 0.08, 0.2)).toBe(false);
  });
  test("lets go only a share farther away", () => {
    const sensor = new NearSensor(truth);
    expect([0.15, 0.095, 0.115, 0.125, 0.115].map((x) => blocked(sensor, x, 0.9))).toEqual([
      false,
      true,
      true,
      false,
      false,
    ]);
  });
});

describe("light sensors", () => {
  const field: Partial<Field> = {
    size: { widthM: 2, heightM: 2, cornerRadiusM: 0 },
    marks: [
      {
        kind: "line",
        pointsM: [
          [0, 1],
          [2, 1],
        ],
        widthM: 0.02,
        reflectance: 0.05,
        colour: "#202020",
      },
    ],
  };
  const truth = {
    xM: 0,
    yM: 0,
    zM: 0.008,
    offsetsM: [0.015, -0.015],
    spotM: 0.008,
    noise: 0,
    ambient: 0,
    periodTicks: 1,
  };
  const DARK = 0.35;
  const read = (y: number, change: Partial<typeof truth> = {}, headingRad = 0) => {
    const sensor = new FloorSensor({ ...truth, ...change }, null);
    sensor.tick(scene(field, { xM: 1, yM: y, headingRad }));
    return sensor;
  };
  test("a pair astride a line sees light on both, on it dark on one", () => {
    const dark = (y: number) => [...read(y).light].map((light) => light < DARK);
    expect([dark(1), dark(0.985), dark(1.015)]).toEqual([
      [false, false],
      [true, false],
      [false, true],
    ]);
  });
  test("across a line both are dark: a crossing", () => {
    expect(isCrossing(read(1, {}, Math.PI / 2).light, 2, DARK)).toBe(true);
    expect(isCrossing(read(1).light, 2, DARK)).toBe(false);
    expect(isCrossing([0], 1, DARK)).toBe(false);
  });
  test("a row has its places left first, and a crossing is most of it", () => {
    expect(floorOffsets("row", 5, 0.01)).toEqual([0.02, 0.01, 0, -0.01, -0.02]);
    expect(floorOffsets("single", 5, 0.01)).toEqual([0]);
    expect(isCrossing(read(1, { offsetsM: floorOffsets("row", 5, 0.01) }, Math.PI / 2).light, 5, DARK)).toBe(true);
    expect(isCrossing([0.1, 0.1, 0.1, 0.8, 0.8], 5, DARK)).toBe(false);
  });
  test("higher up the spot grows, and the light fades with the square of the height", () => {
    const high = read(0.5, { zM: 0.016 });
    expect(high.light[0]).toBeCloseTo(0.85 / 4, 6);
    expect(read(0.5, { ambient: 0.1 }).light[0]).toBeCloseTo(0.85 * 0.9 + 0.1, 6);
  });
  test("names the colour under it", () => {
    expect(COLOUR_NAMES[read(0.985).colour[0] as number]).toBe("black");
  });
});

describe("switches", () => {
  const pressed = (sensor: SwitchSensor, forces: number[]) =>
    forces.map((force) => {
      sensor.tick(force);
      return sensor.pressed;
    });
  test("close at a push, and open at two thirds of it", () => {
    const sensor = new SwitchSensor({ forceN: 0.3, bounceTicks: 0, pullUp: true }, randomStream(1), true);
    expect(pressed(sensor, [0, 0.29, 0.31, 0.25, 0.19])).toEqual([false, false, true, true, false]);
  });
  test("bounce after a change, for a while", () => {
    const states = new Set<string>();
    for (let seed = 0; seed < 20; seed += 1) {
      const sensor = new SwitchSensor(
        { forceN: 0.3, bounceTicks: 3, pullUp: true },
        randomStream(mixSeed(7, seed)),
        true,
      );
      const seen = pressed(sensor, [0, 1, 1, 1, 1, 1]);
      states.add(seen.slice(1, 4).join());
      expect(seen.slice(4)).toEqual([true, true]);
    }
    expect(states.size).toBeGreaterThan(3);
  });
  test("wired without a pull-up an open one reads anything, a closed one is sure", () => {
    const sensor = new SwitchSensor({ forceN: 0.3, bounceTicks: 0, pullUp: false }, randomStream(3), false);
    const open = pressed(sensor, new Array(400).fill(0));
    const share = open.filter(Boolean).length / 400;
    expect(share).toBeGreaterThan(0.25);
    expect(share).toBeLessThan(0.75);
    expect(pressed(sensor, [1, 1, 1])).toEqual([true, true, true]);
  });
});

describe("tags, potentiometers, gears and gyros", () => {
  const plain = { gains: [1, 1, 1] as const };
  const named = (sensor: TagSensor) => {
    const { colour, sure } = nameTag(sensor.light, null);
    return [COLOUR_NAMES[colour], sure && sensor.lit];
  };
  const truth = { xM: 0, yM: 0, zM: 0.008, aimRad: 0, gapM: 0.008, noise: 0, periodTicks: 1, ...plain };
  test("a plate on the floor is read at its gap, unsurely from farther up, and not at all elsewhere", () => {
    const plate: Partial<Field> = { tags: [{ xM: 1, yM: 1, sizeM: 0.03, colour: "#2F5FA8" }] };
    const sensor = new TagSensor(truth, null);
    sensor.tick(scene(plate, { xM: 1, yM: 1, headingRad: 0 }));
    expect(named(sensor)).toEqual(["blue", true]);
    const high = new TagSensor({ ...truth, zM: 0.02 }, null);
    high.tick(scene(plate, { xM: 1, yM: 1, headingRad: 0 }));
    expect([high.told, high.lit]).toEqual([true, false]);
    const beside = new TagSensor(truth, null);
    beside.tick(scene(plate, { xM: 1.02, yM: 1, headingRad: 0 }));
    expect([beside.told, beside.lit]).toEqual([false, false]);
    expect(gapShade(0.008, 0.008)).toBe(1);
    expect(gapShade(0.016, 0.008)).toBe(0.5);
  });
  test("a load in front shows its colour", () => {
    const sensor = new TagSensor({ ...truth, zM: 0.03 }, null);
    sensor.tick(scene({ loads: [crate(0.058, 0.06)] }));
    expect(named(sensor)).toEqual(["red", true]);
    expect(linearRgb("nonsense")).toEqual([0.2, 0.2, 0.2]);
  });
  test("a potentiometer has 1024 steps and ends", () => {
    expect(potentiometerReading(1, 4)).toBeCloseTo(1, 2);
    expect(potentiometerReading(1, 4)).toBe(potentiometerReading(1 + 3.9e-3 * 0.9, 4));
    expect(potentiometerReading(9, 4)).toBeLessThan(4);
    expect(potentiometerReading(-9, 4)).toBeGreaterThan(0);
  });
  test("free play is taken up anew with each change of direction, and costs exactly its width", () => {
    const play = new GearPlay(0.02);
    play.tick(1, 1);
    expect(play.leadRad).toBe(0.01);
    play.tick(-1, 0.005);
    expect(play.leadRad).toBeCloseTo(0.005, 12);
    play.tick(-1, 1);
    expect(play.leadRad).toBeCloseTo(-0.01, 12);
    play.tick(0, 1);
    expect(play.leadRad).toBeCloseTo(-0.01, 12);
  });
  test("a gyro's rest drift wanders with the square root of time", () => {
    const ends = Array.from({ length: 300 }, (_, seed) => {
      const gyro = new GyroSensor(
        { scale: 1, restRadS: 0, noiseRadS: 0, rangeRadS: 9, periodTicks: 1, wanderRadS: 0.01 },
        0,
        randomStream(seed),
      );
      for (let i = 0; i < 400; i += 1) gyro.tick(0, 0.01);
      return gyro.rateRadS;
    });
    const sd = Math.sqrt(ends.reduce((sum, rate) => sum + rate * rate, 0) / ends.length);
    // sqrt(4 s) * 0.01; 300 runs know it within 8 %.
    expect(Math.abs(sd / 0.02 - 1)).toBeLessThan(0.13);
  });
});

describe("sensors in missions", () => {
  test.each([
    ["go at 10 cm/s until bumper.pressed limit 3 m", "until"],
    ["go at 10 cm/s until eye.distance < 20 cm limit 3 m", "until"],
    ["turn right 90 deg\ngo at 10 cm/s until floor.right.dark limit 1 m", "until"],
  ])("%s ends by %s", (step, endedBy) => {
    const { summary } = runSteps(`turn left 90 deg\n${step}`, { field: fellside() }, 'field "Fellside"');
    expect(summary.steps.at(-1)?.endedBy).toBe(endedBy);
    if (step.includes("bumper")) expect(summary.end.yM).toBeGreaterThan(0.95);
    if (step.includes("eye")) expect(summary.end.yM).toBeLessThan(1.3);
  });

  test("the pair finds the trail and the colour of the floor is a colour", () => {
    const text =
      "turn left 60 deg\nset seen = 0\nif floor.left.colour is white\n  set seen = 1\nnote colour_known = seen\nnote brightness = floor.right.light\ngo 5 cm";
    const { summary } = runSteps(text, { field: fellside() }, 'field "Fellside"');
    expect(summary.notes.find((note) => note.name === "brightness")?.value).toBeGreaterThan(0.5);
    expect(summary.notes.find((note) => note.name === "colour_known")?.value).toBe(1);
  });
});
