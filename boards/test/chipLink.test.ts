// The robot link on an emulated chip, over its serial line: greeting, running, halting, silence, and what is no frame at all.
import { type BoardWord, randomStream, SERIAL_BAUD, writeBoardOrder } from "@giddy-pebble/core";
import { afterEach, describe, expect, test } from "vitest";
import { Bench } from "./bench.js";
import { missionOf } from "./support.js";

let bench: Bench | null = null;
afterEach(() => bench?.close());

const DRIVES = "power left 50 % right 50 % for 900 s";

async function on(steps: string, top = "", robot = "drizzle", change?: (text: string) => string): Promise<Bench> {
  bench = await Bench.with(missionOf(steps, top, robot), change);
  await bench.alone(30);
  return bench;
}

type Of<K extends BoardWord["kind"]> = Extract<BoardWord, { kind: K }>;
function only<K extends BoardWord["kind"]>(words: readonly BoardWord[], kind: K): Of<K>[] {
  return words.filter((word): word is Of<K> => word.kind === kind);
}

/** Whether both motors are braked: all their lines high. */
async function braked(chip: Bench): Promise<boolean> {
  const pins = [0, 1].flatMap((i) => [chip.pin("MOTOR_PULSE", i), chip.pin("MOTOR_WAY", i)]);
  const looks = await Promise.all(pins.map((pin) => chip.look(pin)));
  return looks.every(({ share }) => share === 1);
}

describe("a chip on its serial line", () => {
  test("begins by itself a second after its start when nobody is there, and waits for whoever says hello", async () => {
    const chip = await on(DRIVES);
    await chip.alone(900);
    expect(await braked(chip)).toBe(true);
    await chip.alone(200);
    expect(await braked(chip)).toBe(false);
    chip.close();
    const other = await on(DRIVES);
    await other.send({ kind: "hello" });
    await other.alone(3000);
    expect(await braked(other)).toBe(true);
    const words = await other.words();
    expect(only(words, "greeting")[0]).toMatchObject({ speaks: 1, robot: "Drizzle", version: other.version });
    expect(only(words, "state").every(({ doing }) => doing === "idle")).toBe(true);
  });

  test("runs and halts when it is told to, and runs again from the start", async () => {
    const chip = await on(`note first = clock / 1 s\n${DRIVES}`);
    await chip.send({ kind: "hello" });
    await chip.send({ kind: "run", ask: 7, limitTicks: 0 });
    await chip.alone(200);
    const begun = await chip.words();
    expect(only(begun, "done").map(({ ask }) => ask)).toEqual([7]);
    expect(only(begun, "state").at(-1)?.doing).toBe("running");
    expect(await braked(chip)).toBe(false);
    // Only one thing at a time.
    await chip.send({ kind: "run", ask: 8, limitTicks: 0 });
    await chip.send({ kind: "drive", seq: 1, left: 1, right: 1 });
    await chip.alone(50);
    expect(only(await chip.words(), "refused").map(({ why }) => why)).toEqual(["busy", "busy"]);
    await chip.send({ kind: "halt", ask: 9 });
    await chip.alone(50);
    const halted = await chip.words();
    expect(only(halted, "ended").map(({ why }) => why)).toEqual(["halted"]);
    expect(only(halted, "done").map(({ ask }) => ask)).toEqual([9]);
    expect(await braked(chip)).toBe(true);
    await chip.send({ kind: "run", ask: 10, limitTicks: 0 });
    await chip.alone(400);
    const again = await chip.words();
    expect(only(again, "done").map(({ ask }) => ask)).toEqual([10]);
    expect(only(again, "greeting").length).toBe(1);
    expect(only(again, "said").map(({ text }) => text)).toEqual(["first = 0"]);
    expect(only(again, "state").at(-1)?.doing).toBe("running");
    expect(await braked(chip)).toBe(false);
  });

  test("stops 300 ms after the last that it heard, and no sooner", async () => {
    const chip = await on(DRIVES);
    await chip.send({ kind: "hello" });
    await chip.send({ kind: "run", ask: 1, limitTicks: 30 });
    for (let i = 0; i < 20; i += 1) {
      await chip.send({ kind: "beat" });
      await chip.alone(100);
    }
    expect(await braked(chip)).toBe(false);
    await chip.alone(180);
    expect(await braked(chip)).toBe(false);
    await chip.alone(40);
    expect(await braked(chip)).toBe(true);
    expect(only(await chip.words(), "ended").map(({ why }) => why)).toEqual(["silent"]);
  });

  test("driven by hand it stops when the hands fall silent, whoever else is still there", async () => {
    const chip = await on(DRIVES);
    await chip.send({ kind: "hello" });
    for (let i = 0; i < 10; i += 1) {
      await chip.send({ kind: "drive", seq: i, left: 0.5, right: -0.5 });
      await chip.alone(50);
    }
    expect(await braked(chip)).toBe(false);
    for (let i = 0; i < 3; i += 1) {
      await chip.send({ kind: "beat" });
      await chip.alone(100);
    }
    await chip.alone(20);
    expect(await braked(chip)).toBe(true);
    expect(only(await chip.words(), "ended").map(({ why }) => why)).toEqual(["silent"]);
  });

  test("a program that hangs says so when its watchdog has switched it off, and waits", async () => {
    const chip = await on(DRIVES);
    await chip.send({ kind: "hello" });
    await chip.send({ kind: "run", ask: 1, limitTicks: 0 });
    await chip.alone(500);
    await chip.words();
    await chip.hang();
    await chip.alone(3000);
    const words = await chip.words();
    expect(only(words, "greeting").length).toBe(1);
    expect(only(words, "state").at(-1)).toMatchObject({ doing: "idle", why: "crashed" });
    await chip.send({ kind: "run", ask: 2, limitTicks: 0 });
    await chip.alone(200);
    expect(await braked(chip)).toBe(false);
  });

  test("20 readings 50 times a second and a driver's sticks go over the line at once", async () => {
    // As many as there may be, whatever the mission reads.
    const slots = Array.from({ length: 20 }, (_, i) => i).join(", ");
    const twenty = (text: string) =>
      text
        .replace(/WATCHED\[\] FLASH = \{[^}]*\}/, `WATCHED[] FLASH = {${slots}}`)
        .replace(/WATCHED_COUNT = \d+/, "WATCHED_COUNT = 20");
    const chip = await on("hand over", "remote\n  drive tank dead 10 % curve 1\n", "fog", twenty);
    await chip.send({ kind: "hello" });
    await chip.send({ kind: "tell", ask: 1, everyTicks: 2 });
    await chip.send({ kind: "run", ask: 2, limitTicks: 0 });
    await chip.alone(200);
    await chip.words();
    const handset = { sticks: [0, 0, 0, 0], levels: [0, 0, 0, 0], buttons: 0 } as const;
    for (let i = 0; i < 100; i += 1) {
      await chip.send({ kind: "hands", seq: i, handset });
      await chip.alone(20);
    }
    const words = await chip.words();
    const poses = only(words, "pose");
    expect(poses.length).toBeGreaterThan(98);
    const told = only(words, "values").reduce((sum, { values }) => sum + values.length, 0);
    expect(told).toBeGreaterThan(20 * 98);
    // Each of the driver's frames was answered.
    expect(only(words, "heard").length).toBeGreaterThan(98);
    expect(chip.reader.bad).toBe(0);
  });

  // A hundred thousand take half a minute: GIDDY_FRAMES asks for as many.
  const frames = Number(process.env.GIDDY_FRAMES ?? 10_000);
  test(`${frames} damaged frames do it no harm, and it still stops`, async () => {
    const chip = await on(DRIVES);
    const chance = randomStream(11);
    await chip.send({ kind: "hello" });
    await chip.send({ kind: "run", ask: 1, limitTicks: 0 });
    const below = (n: number) => Math.floor(chance.uniform() * n);
    for (let i = 0; i < frames / 10; i += 1) {
      const pieces = Array.from({ length: 10 }, () => {
        const frame = Uint8Array.from(writeBoardOrder({ kind: "beat" }));
        const noise = Uint8Array.from({ length: below(40) }, () => below(256));
        // Half a frame, a frame with one wrong byte, or noise.
        if (chance.uniform() < 0.3) return frame.subarray(0, below(frame.length));
        if (chance.uniform() < 0.5) frame[below(frame.length)] = below(256);
        return chance.uniform() < 0.5 ? frame : noise;
      });
      const bytes = Uint8Array.from(pieces.flatMap((piece) => [...piece]));
      await chip.sendBytes(bytes);
      await chip.alone(Math.ceil((bytes.length * 10_000) / SERIAL_BAUD) + 1);
    }
    await chip.words();
    expect(await braked(chip)).toBe(false);
    await chip.sendBytes(Uint8Array.of(0));
    await chip.send({ kind: "halt", ask: 3 });
    await chip.alone(50);
    expect(only(await chip.words(), "ended").map(({ why }) => why)).toEqual(["halted"]);
    expect(await braked(chip)).toBe(true);
  }, 120_000);
});
