// The lines of this computer's boards while a board is still being switched on.
import { mkdtempSync, rmSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { Boards, TestClock } from "../src/index.js";
import { Cable } from "./boardSupport.js";
import { demoRobot } from "./support.js";

let folder: string;
let boards: Boards;
const stopped: string[] = [];
const plan = () => ({ id: "fog", robot: demoRobot("fog"), seed: 1, shelf: path.join(folder, "shelf") });
const ask = (cable: Cable, number: number, times = 1) => cable.out(JSON.stringify({ do: "slow", ask: number, times }));

beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-boards-"));
  boards = new Boards(new TestClock(), (why) => stopped.push(why));
});
afterEach(async () => {
  await boards.close();
  rmSync(folder, { recursive: true, force: true });
  expect(stopped).toEqual([]);
});

test("what is said to a board before it is on is heard once it is, in its order", async () => {
  const cable = new Cable();
  const opened = boards.open(plan(), "avr", cable);
  for (const number of [1, 2, 3]) ask(cable, number);
  expect(cable.told).toEqual([]);
  await opened;
  await expect.poll(() => cable.told.length).toBe(4);
  expect(cable.told[0]).toMatchObject({ told: "board", kind: "avr" });
  expect(cable.told.slice(1)).toEqual([1, 2, 3].map((number) => ({ told: "done", ask: number })));
});

test("who leaves before it is on does not keep its line; the next one has it, and one more is refused", async () => {
  const gone = new Cable();
  const opened = boards.open(plan(), "avr", gone);
  gone.close();
  await opened;
  expect(gone.told).toEqual([]);
  const next = new Cable();
  await boards.open(plan(), "avr", next);
  expect(next.told[0]).toMatchObject({ told: "board" });
  const third = new Cable();
  await boards.open(plan(), "avr", third);
  expect([third.open, third.told]).toEqual([false, []]);
});

test("who opens the line of a board that was slowed down is told its pace", async () => {
  const first = new Cable();
  await boards.open(plan(), "avr", first);
  ask(first, 1, 0.1);
  await expect.poll(() => first.told.length).toBe(2);
  first.close();
  const next = new Cable();
  await boards.open(plan(), "avr", next);
  expect([first.told[0], next.told[0]]).toMatchObject([{ pace: 1 }, { pace: 0.1 }]);
});
