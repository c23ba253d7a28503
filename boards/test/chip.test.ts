// Missions on an emulated ATmega328P: in lock-step with the rehearsal, measured, and as a whole chip with its lines.
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { linearRgb, plateHex } from "@giddy-pebble/core";
import { afterEach, describe, expect, test } from "vitest";
import { generated } from "../../core/test/net/cases.mjs";
import { some } from "../../core/test/support/search.js";
import { AGREES, avrTarget, buildAvrBoard, exportMission, lockstep } from "../src/index.js";
import { Bench } from "./bench.js";
import { demoMission, demoMissions, missionOf } from "./support.js";

/** The chip has this long for a tick, ms. */
const TICK_MS = 10;

async function compared(prepared: ReturnType<typeof missionOf>, ticks?: number) {
  const found = await lockstep(prepared, await avrTarget(prepared), {
    seed: 1,
    ideal: true,
    ...(ticks === undefined ? {} : { ticks }),
  });
  expect(found.differences).toEqual([]);
  expect(found.worstDuty).toBeLessThanOrEqual(AGREES.duty);
  const { chip } = found;
  if (!chip) throw new Error("the chip told nothing");
  expect(chip.longestTickMs).toBeGreaterThan(0.1);
  expect(chip.longestTickMs).toBeLessThan(TICK_MS);
  return { ...found, chip };
}

describe("in lock-step", () => {
  const missions = ["trail-to-the-mast", "boulders-by-whiskers", "crab-along-the-cliff", "into-the-garage"];

  test.each(some(missions, 4))("%s", async (name) => {
    const found = await compared(demoMission(name), 600);
    expect(found.chip.name).toBe("atmega328p");
    expect(found.chip.leastFreeBytes).toBeGreaterThan(300);
  });

  test("one that the chip is too small for is tried on a larger one of its family", async () => {
    const { chip } = await compared(demoMission("batteries-to-the-shelters"), 300);
    expect(chip.flashBytes).toBeGreaterThan(32_768);
    expect(chip.name).toBe("atmega1284p");
  });

  test.each(some([5, 22, 61], 3))("generated mission %i", async (seed) => {
    const text = generated(seed, true);
    const [mission, routines] = text
      .slice(text.indexOf("mission\n") + 8)
      .replaceAll(/^ {2}/gm, "")
      .split("\nroutine ");
    const top = routines ? `routine ${routines.replaceAll(/^(?! |help)/gm, "  ")}` : "";
    const found = await compared(missionOf(mission?.trimEnd() ?? "", top));
    expect(found.equal).toBe(true);
  });
});

/** 40 steps with a line, two tasks and an interrupt. */
const LARGE = [
  "start watch()",
  "wait 0.2 s",
  "during",
  "  follow line on centre with floor at 15 cm/s until floor.crossing limit 5 s",
  "  go 10 cm at 12 cm/s",
  "whenever eye.distance < 8 cm and turns < 2",
  "  set turns = turns + 1",
  "  back 6 cm",
  "  turn left 20 deg",
  "  resume",
  ...Array.from({ length: 10 }, (_, i) => [
    `go ${3 + i / 2} cm at ${10 + i} cm/s`,
    `turn left ${8 + i} deg`,
    "wait 0.1 s",
  ]).flat(),
  "stop",
].join("\n");
const WATCH =
  "set turns = 0\nroutine watch()\n  repeat\n    wait until bumper.pressed\n    set turns = turns + 1\n    wait 0.5 s";

describe("room on the chip", () => {
  test("40 steps with a line, two tasks and an interrupt fit, with 300 bytes never touched", async () => {
    const prepared = missionOf(LARGE, WATCH, "gust");
    expect(prepared.program?.instructions.filter((instruction) => "text" in instruction).length).toBeGreaterThanOrEqual(
      40,
    );
    const { chip, problems } = await exportMission("avr", prepared.program as never, prepared.context.robot, "Large");
    expect(problems).toEqual([]);
    expect(chip?.flashBytes).toBeLessThanOrEqual(32_768);
    const found = await compared(prepared);
    expect(found.chip.leastFreeBytes).toBeGreaterThanOrEqual(300);
    // And as a whole chip, with its interrupts.
    const bench = await Bench.with(prepared);
    for (const pin of ["C0", "C1"]) await bench.volts(pin, 4);
    await bench.run(3000);
    expect(await bench.free()).toBeGreaterThanOrEqual(300);
    bench.close();
  });

  test("one that is too large says by how much, and what takes most", async () => {
    const prepared = demoMission("batteries-to-the-shelters");
    const { chip, problems, files } = await exportMission(
      "avr",
      prepared.program as never,
      prepared.context.robot,
      "Large",
    );
    const most = chip?.flashMost ?? 0;
    const over = ((chip?.flashBytes ?? 0) - most).toLocaleString("en");
    expect(problems[0]?.message).toContain(`${over} bytes too large`);
    expect(problems[0]?.message).toMatch(/Most is taken by: following lines [\d,]+ bytes, .*Use fewer/);
    expect(files.has("mission.hex")).toBe(false);
  });

  test("values that do not fit the memory are told", async () => {
    const prepared = missionOf("add 1 to seen\nshow seen.sum", "list seen of number, at most 400, rolling");
    const { problems } = await exportMission("avr", prepared.program as never, prepared.context.robot, "Large");
    expect(problems.map(({ message }) => message).join()).toMatch(/too large for the chip's memory.*Use shorter lists/);
  });

  const one = new Map(demoMissions().map(({ prepared }) => [prepared.context.robot.name, prepared]));
  test.each(some([...one], 6))("a mission of %s compiles for the chip", async (_name, prepared) => {
    const { chip, missing } = await exportMission("avr", prepared.program as never, prepared.context.robot, "One");
    expect(missing).toBeNull();
    expect(chip?.flashBytes).toBeGreaterThan(5000);
  });

  test("with every kind of step in use, no two files of the runtime and of the board have one name for two things", async () => {
    const { program, context } = missionOf("go 10 cm");
    if (!program) throw new Error("the mission has errors");
    const { files } = await exportMission("avr", program, context.robot, "All of it");
    const uses = files.get("uses.h") ?? "";
    expect(uses).toContain("false");
    const { flashBytes } = await buildAvrBoard(new Map([...files, ["uses.h", uses.replaceAll("false", "true")]]));
    expect(flashBytes).toBeGreaterThan(20_000);
  });

  test("the script that leaves with a mission makes the same file for the chip", async () => {
    const { program, context } = demoMission("trail-to-the-mast");
    const { files } = await exportMission("avr", program as never, context.robot, "One");
    const folder = mkdtempSync(path.join(os.tmpdir(), "giddy-chip-"));
    for (const [name, text] of files) if (name !== "mission.hex") writeFileSync(path.join(folder, name), text);
    execFileSync("sh", ["compile.sh"], { cwd: folder, stdio: "pipe" });
    expect(readFileSync(path.join(folder, "mission.hex"), "utf8")).toBe(files.get("mission.hex"));
    rmSync(folder, { recursive: true, force: true });
  });

  test("lines that the chip does not have are counted", async () => {
    const prepared = demoMission("flurry-by-hand");
    const { problems } = await exportMission("avr", prepared.program as never, prepared.context.robot, "Large");
    expect(problems.map(({ message }) => message).join()).toContain("too few lines");
  });
});

describe("a whole chip with its lines", () => {
  let bench: Bench | null = null;
  afterEach(() => bench?.close());
  const on = async (steps: string, top = "", robot = "drizzle") => {
    bench = await Bench.with(missionOf(steps, top, robot));
    return bench;
  };

  test("motors: free in reset, off before the program starts, braked at rest, pulsed while it drives", async () => {
    const chip = await on("wait 0.3 s\npower left 50 % right -25 % for 1 s\nstop\nwait 2 s");
    const [left, right] = [chip.pin("MOTOR_PULSE", 0), chip.pin("MOTOR_PULSE", 1)];
    const [leftWay, rightWay] = [chip.pin("MOTOR_WAY", 0), chip.pin("MOTOR_WAY", 1)];
    for (const pin of [left, right, leftWay, rightWay])
      expect(await chip.look(pin)).toMatchObject({ out: false, share: 0 });
    await chip.run(100);
    // Both lines high: braked.
    for (const pin of [left, right, leftWay, rightWay])
      expect(await chip.look(pin)).toMatchObject({ out: true, share: 1 });
    await chip.run(400);
    // A motor that is mounted the other way round turns backwards to drive forward; of half both look alike.
    expect((await chip.look(left)).share).toBeCloseTo(0.5, 1);
    const back = await chip.look(rightWay);
    expect((await chip.look(right)).share).toBeCloseTo(back.share === 1 ? 0.75 : 0.25, 1);
    await chip.run(1500);
    for (const pin of [left, right, leftWay, rightWay]) expect((await chip.look(pin)).share).toBe(1);
    await chip.run(2000);
    expect((await chip.serial()).at(-1)).toBe("end finished");
    for (const pin of [left, right, leftWay, rightWay]) expect((await chip.look(pin)).share).toBe(1);
  });

  test("a program that hangs is ended by the watchdog, and the motors are off and stay off", async () => {
    const chip = await on("power left 60 % right 60 % for 20 s");
    const pins = [0, 1].flatMap((i) => [chip.pin("MOTOR_PULSE", i), chip.pin("MOTOR_WAY", i)]);
    await chip.run(500);
    const shares = await Promise.all(pins.map(async (pin) => (await chip.look(pin)).share));
    expect(shares.some((share) => share > 0.3 && share < 0.9)).toBe(true);
    await chip.hang();
    await chip.run(300);
    for (const pin of pins) expect((await chip.look(pin)).share).toBe(0);
    await chip.run(2000);
    for (const pin of pins) expect((await chip.look(pin)).share).toBe(0);
  });

  test("encoders count both ways, by interrupt", async () => {
    const chip = await on(
      "wait 1 s\nnote turned = left_motor.angle / 1 deg\nwait 1 s\nnote turned = left_motor.angle / 1 deg",
    );
    const [a, b] = [chip.pin("ENCODER_A"), chip.pin("ENCODER_B")];
    const order = [
      [false, false],
      [false, true],
      [true, true],
      [true, false],
    ] as const;
    let at = 0;
    const turn = async (edges: number, way: 1 | -1) => {
      for (let i = 0; i < edges; i += 1) {
        at = (at + way + 4) % 4;
        await chip.set(a, order[at]?.[0] ?? false);
        await chip.set(b, order[at]?.[1] ?? false);
        await chip.run(1);
      }
    };
    await chip.set(a, false);
    await chip.set(b, false);
    await chip.run(20);
    await chip.serial();
    await turn(90, 1);
    await chip.run(1000);
    const first = Number(/turned = (-?[\d.]+)/.exec((await chip.serial()).join())?.[1]);
    await turn(180, -1);
    await chip.run(1000);
    const second = Number(/turned = (-?[\d.]+)/.exec((await chip.serial()).join())?.[1]);
    expect(Math.abs(first)).toBeGreaterThan(5);
    expect(second).toBeCloseTo(-first, 1);
  });

  test("a switch counts once it has stayed for two ticks, an echo is a distance, a gyro turns, light is a share", async () => {
    const shows = ["eye.distance / 1 cm", "floor.left.light", "gyro.heading / 1 deg"].map(
      (what) => `show ${what}\nwait 0.05 s`,
    );
    const chip = await on(["wait until bumper.pressed", ...shows, "go at 5 cm/s until bumper.pressed"].join("\n"));
    const bumper = chip.pin("SENSOR", 1);
    await chip.set(bumper, true);
    await chip.echo(chip.pin("SENSOR", 2), chip.pin("SENSOR_ECHO", 2), 2000);
    await chip.volts(chip.pin("SENSOR_LEVEL", 6), 2);
    await chip.gyro(1000);
    await chip.run(1000);
    await chip.serial();
    // A bounce of less than two ticks is none.
    await chip.set(bumper, false);
    await chip.run(8);
    await chip.set(bumper, true);
    await chip.run(200);
    expect((await chip.serial()).join()).not.toContain("show");
    await chip.set(bumper, false);
    await chip.run(400);
    const [far, light, turned] = (await chip.serial())
      .filter((line) => line.startsWith("show"))
      .map((line) => Number(/ ([\d.-]+)$/.exec(line)?.[1]));
    // 2 ms of sound there and back are 34.3 cm, less how deep the sensor sits in the robot.
    expect(far).toBeGreaterThan(25);
    expect(far).toBeLessThan(35);
    expect(light).toBeCloseTo(0.4, 1);
    // 1000 of the gyro's steps are 15.3 deg/s.
    expect(turned).toBeGreaterThan(15);
    expect(turned).toBeLessThan(25);
  });

  test("a colour is read over the two-wire bus and named, and the pack's voltage by its divider", async () => {
    const wanted = ["red", "yellow", "blue"] as const;
    const chip = await on(wanted.map(() => "wait 0.5 s\nshow tag.colour\nshow tag.red").join("\n"), "", "thaw");
    // A quarter of 8.2 V.
    await chip.volts(chip.pin("BATTERY"), 2.05);
    const said: string[] = [];
    let packVolts = Number.NaN;
    for (const name of wanted) {
      const light = linearRgb(plateHex(name));
      await chip.colour(light);
      const before = said.length;
      for (let i = 0; i < 20 && said.length < before + 2; i += 1) {
        await chip.run(50);
        for (const word of await chip.words()) {
          if (word.kind === "said") said.push(word.text);
          if (word.kind === "state") packVolts = word.packVolts;
        }
      }
      // What it sees of red, as the display has it.
      expect(said.at(-1)).toBe(`tag.red ${Number(light[0].toFixed(2))}`);
    }
    expect(said.filter((_, i) => i % 2 === 0)).toEqual(wanted.map((name) => `tag.colour ${name}`));
    // A step of its converter is 20 V / 1024.
    expect(Math.abs(packVolts - 8.2)).toBeLessThan(0.03);
  });

  test("a servo gets a pulse of 1.5 ms in its middle, and longer ones to the left", async () => {
    const chip = await on("aim head to 0 deg\nwait 0.5 s\naim head to left 45 deg\nwait 1 s");
    const pin = chip.pin("SERVO");
    await chip.run(500);
    expect((await chip.look(pin)).pulseUs).toBeCloseTo(1500, -2);
    await chip.run(1500);
    const left = (await chip.look(pin)).pulseUs;
    expect(left).toBeGreaterThan(1900);
    expect(left).toBeLessThan(2100);
  });
});
