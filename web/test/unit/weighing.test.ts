// What each known is worth on a mission: worked out once for the same mission and robot, anew for others.
import { readFileSync } from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

interface Question {
  readonly id: number;
  readonly robot: { readonly chassis: { readonly massKg: number } };
}

/** A worker of this process: answers at once, with the mass of the robot it was asked about. */
class FakeWorker extends EventTarget {
  static asked: Question[] = [];
  static broken = false;
  ended = false;
  terminate(): void {
    this.ended = true;
  }
  postMessage(question: Question): void {
    FakeWorker.asked.push(question);
    const data = { id: question.id, worth: [{ key: String(question.robot.chassis.massKg) }] };
    const answer = FakeWorker.broken ? new Event("error") : Object.assign(new Event("message"), { data });
    queueMicrotask(() => !this.ended && this.dispatchEvent(answer));
  }
}

const drawn = JSON.parse(readFileSync(path.resolve(import.meta.dirname, "../../../demo/drizzle.robot.json"), "utf8"));
const drizzle = (massKg: number) => ({ ...drawn, chassis: { ...drawn.chassis, massKg } });
const TEXT = 'cairn 1\nrobot "Drizzle"\nmission\n  go 20 cm\n';

let weighOn: (text: string, robot: unknown) => Promise<readonly unknown[] | null>;
beforeEach(async () => {
  FakeWorker.asked = [];
  FakeWorker.broken = false;
  vi.stubGlobal("Worker", FakeWorker);
  // The server is there.
  vi.stubGlobal("fetch", async () => ({ ok: true }));
  vi.resetModules();
  ({ weighOn } = await import("../../src/shared/weighing.js"));
});
afterEach(() => vi.unstubAllGlobals());

test("the same mission and robot is worked out once, also while it is being worked out", async () => {
  const [first, second] = await Promise.all([weighOn(TEXT, drizzle(1)), weighOn(TEXT, drizzle(1))]);
  expect(first).toEqual([{ key: "1" }]);
  expect(second).toEqual(first);
  expect(await weighOn(TEXT, drizzle(1))).toEqual(first);
  expect(FakeWorker.asked).toHaveLength(1);
});

test("another robot or another mission is worked out for itself", async () => {
  await weighOn(TEXT, drizzle(1));
  expect(await weighOn(TEXT, drizzle(1.1))).toEqual([{ key: "1.1" }]);
  await weighOn(`${TEXT}  go 30 cm\n`, drizzle(1));
  expect(FakeWorker.asked).toHaveLength(3);
});

test("the newest eight are remembered, and what is asked again is new again", async () => {
  const masses = [1, 1.1, 1.2, 1.3, 1.4, 1.5, 1.6, 1.7];
  for (const mass of masses) await weighOn(TEXT, drizzle(mass));
  await weighOn(TEXT, drizzle(1));
  await weighOn(TEXT, drizzle(1.8));
  expect(FakeWorker.asked).toHaveLength(9);
  expect(await weighOn(TEXT, drizzle(1))).toEqual([{ key: "1" }]);
  expect(FakeWorker.asked).toHaveLength(9);
  // The oldest went.
  await weighOn(TEXT, drizzle(1.1));
  expect(FakeWorker.asked).toHaveLength(10);
});

test("a worker that cannot be loaded answers nothing, and the same question is asked again", async () => {
  FakeWorker.broken = true;
  expect(await weighOn(TEXT, drizzle(1))).toBeNull();
  FakeWorker.broken = false;
  expect(await weighOn(TEXT, drizzle(1))).toEqual([{ key: "1" }]);
  expect(FakeWorker.asked).toHaveLength(2);
});

test("a mission with errors is worth nothing, and nobody is asked", async () => {
  expect(await weighOn(`${TEXT}  go until noon\n`, drizzle(1))).toEqual([]);
  expect(FakeWorker.asked).toHaveLength(0);
});
