// Planning again from a moment: the same to the bit as from the start, and no further back than it has to go.
import { describe, expect, test } from "vitest";
import { type Program, prepareMission, Replan, rehearse } from "../../src/index.js";
import { drizzle, fellside, missionOf } from "../support/demo.js";

const robot = drizzle();
const field = fellside();
const top = 'field "Fellside"\nbegin "hut dock"\n';
const ready = (steps: string, above = top) => {
  const made = prepareMission(missionOf(steps, above), robot, field);
  if (!made.program) throw new Error(made.check.problems.map(({ message }) => message).join("; "));
  return { ...made, program: made.program as Program };
};
const BASE = ["go 30 cm", "turn left 90 deg", "go 40 cm", "wait 5 s", "turn right 45 deg", "go 20 cm"];
const options = { seed: 9, ideal: false };

/** Runs a mission, changes it, and runs it on. */
function changed(before: string, after: string, above = top) {
  const plan = new Replan(ready(before, above), options);
  while (!plan.advance(1000));
  const whole = ready(after, above);
  const tick = plan.change(whole.program);
  if (tick !== null) while (!plan.advance(1000));
  return { tick, plan, fresh: rehearse(whole, options) };
}

describe("a change of a later step", () => {
  test.each([
    ["another length in the last step", [...BASE.slice(0, 5), "go 25 cm"], 1000],
    ["another angle before it", [...BASE.slice(0, 4), "turn right 60 deg", "go 20 cm"], 900],
    ["a step more at the end", [...BASE, "turn left 20 deg"], 1000],
    ["the last step taken out", BASE.slice(0, 5), 900],
    ["a step between", [...BASE.slice(0, 3), "beep", ...BASE.slice(3)], 300],
  ])("%s", (_, steps, least) => {
    const { tick, plan, fresh } = changed(BASE.join("\n"), steps.join("\n"));
    expect(tick).toBeGreaterThanOrEqual(least);
    expect(plan.result().summary).toEqual(fresh.summary);
    expect(plan.result().trace).toEqual(fresh.trace);
  });

  test("in the first step it goes back to the start; with other values it is made anew", () => {
    const first = changed(BASE.join("\n"), ["go 31 cm", ...BASE.slice(1)].join("\n"));
    expect(first.tick).toBeNull();
    const set = "set far = 30 cm\n";
    expect(changed("go far\nwait 3 s", "go far\nwait 3 s", `${top}${set}`).tick).toBeGreaterThan(300);
    const before = new Replan(ready("wait 3 s\ngo far", `${top}${set}`), options);
    before.advance(400);
    expect(before.change(ready("wait 3 s\ngo far", `${top}set far = 31 cm\n`).program)).toBeNull();
  });

  test("a run in the middle of it can be changed too, again and again", () => {
    const plan = new Replan(ready(BASE.join("\n")), options);
    plan.advance(450);
    let last = BASE.join("\n");
    for (let cm = 21; cm < 30; cm += 1) {
      last = [...BASE.slice(0, 5), `go ${cm} cm`].join("\n");
      expect(plan.change(ready(last).program)).not.toBeNull();
      plan.advance(cm * 40);
    }
    while (!plan.advance(1000));
    expect(plan.result().summary).toEqual(rehearse(ready(last), options).summary);
  });

  test("the goal alone changes nothing of the way", () => {
    const plan = new Replan(ready("go 30 cm", `${top}goal clock < 60 s\n`), options);
    plan.advance(120);
    const other = ready("go 30 cm", `${top}goal clock > 60 s\n`);
    expect(plan.change(other.program)).toBe(100);
    while (!plan.advance(1000));
    expect(plan.result().summary).toEqual(rehearse(other, options).summary);
    expect(plan.result().summary.success).toBe(false);
  });

  test("of a long run moments are thinned out, and it still ends the same", () => {
    const long = ["wait 90 s", "go 20 cm"];
    const { tick, plan, fresh } = changed(long.join("\n"), "wait 90 s\ngo 30 cm");
    expect(tick).toBeGreaterThan(8600);
    expect(plan.result().summary).toEqual(fresh.summary);
  });
});
