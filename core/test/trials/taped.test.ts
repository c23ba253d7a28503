// Goals judged by the tape: what a goal needs of the robot's place, and what the tape says to that.
import { describe, expect, test } from "vitest";
import { judgedByTape, parseMission } from "../../src/index.js";
import { drizzle, fellside } from "../support/demo.js";

const field = fellside();
const robot = drizzle();
const dock = { xM: 0.24, yM: 0.7, headingRad: 0 };
const away = { ...dock, xM: 0.6 };
const judged = (goal: string, pose = dock) =>
  judgedByTape(parseMission(`cairn 1\ngoal ${goal}\n\nmission\n  beep\n`), field, robot, pose);

describe("a goal judged by the tape", () => {
  test("that asks for the robot's place is met where its whole outline is inside", () => {
    expect(judged('inside "hut dock"')).toEqual({ zone: "hut dock", inside: true, alone: true });
    expect(judged('inside "hut dock"', away)).toEqual({ zone: "hut dock", inside: false, alone: true });
    // A hand's breadth off, one corner sticks out.
    expect(judged('inside "hut dock"', { ...dock, yM: 0.79 })?.inside).toBe(false);
  });

  test("and for something else too is only ever refused by it", () => {
    expect(judged('inside "hut dock" and clock < 40 s', away)).toMatchObject({ inside: false, alone: false });
    expect(judged('clock < 40 s and (inside "hut dock")')).toMatchObject({ inside: true, alone: false });
  });

  test("is not judged where the place is one of several ways to meet it, or is not asked for", () => {
    expect(judged('inside "hut dock" or clock < 40 s', away)).toBeNull();
    expect(judged("clock < 40 s", away)).toBeNull();
    expect(judged('inside "nowhere"', away)).toBeNull();
  });
});
