// Written brains against the rehearsal: the same steps, the same orders, the same end. In C++ by the host's compiler with
// floats of seven digits, in MicroPython by the real interpreter.
import { describe, expect, test } from "vitest";
import { generated } from "../../core/test/net/cases.mjs";
import { some } from "../../core/test/support/search.js";
import { AGREES, cppTarget, type Lockstep, lockstep, pythonTarget, type Target } from "../src/index.js";
import { demoMission, demoMissions, handsOf, missionOf } from "./support.js";

type Prepared = Parameters<typeof cppTarget>[0];
const TARGETS: readonly [string, (prepared: Prepared) => Promise<Target>][] = [
  ["cpp", cppTarget],
  ["micropython", pythonTarget],
];

async function compared(
  prepared: Prepared,
  make: (prepared: Prepared) => Promise<Target>,
  seed = 0,
): Promise<Lockstep> {
  return lockstep(prepared, await make(prepared), { seed: seed || 1, ideal: seed === 0 });
}

/** What has to hold of every mission; `differences` is looked at first because it says what is wrong. */
function expectAgreement(found: Lockstep): void {
  expect(found.differences).toEqual([]);
  expect(found.equal).toBe(true);
  expect(found.events.different).toBe(0);
  expect(found.worstDuty).toBeLessThanOrEqual(AGREES.duty);
}

describe("demo missions in C++", () => {
  const missions = demoMissions().map(({ id, prepared }) => [id, prepared] as const);

  // From the last on: the first of them takes as long as all others that are taken.
  test.each(some(missions.reverse(), 18))("%s", async (_id, prepared) => {
    const found = await compared(prepared, cppTarget);
    expectAgreement(found);
    expect(found.compared).toBeGreaterThan(0.9 * found.ticks);
    expect(found.events.same).toBeGreaterThan(0);
    // Of these not one is let off for a knife's edge at its end.
    expect(found.endMm).toBeLessThan(AGREES.mm);
    expect(found.endDeg).toBeLessThan(AGREES.deg);
  });
});

describe("demo missions in MicroPython", () => {
  // All of them by npm run boards -- --target micropython.
  const few = ["heading-hold-of-your-own", "trail-to-the-mast"];
  test.each(some(few, 2))("%s", async (name) => {
    const found = await compared(demoMission(name), pythonTarget);
    expectAgreement(found);
    expect(found.compared).toBeGreaterThan(0.9 * found.ticks);
  });
});

describe("with scatter and noise", () => {
  test.each(some(["trail-to-the-mast", "boulders-by-whiskers", "first-roll-out"], 2))("%s", async (name) => {
    expectAgreement(await compared(demoMission(name), cppTarget, 3));
  });

  test("what a mission draws by chance is the same number", async () => {
    const prepared = missionOf("repeat 5 times\n  go random(5 cm, 20 cm)\n  wait random(0.1 s, 0.4 s)");
    for (const [, make] of TARGETS) expectAgreement(await compared(prepared, make, 7));
  });
});

describe("generated missions", () => {
  const seeds = Array.from({ length: 16 }, (_, i) => i * 7 + 3);

  test.each(some(seeds, 4))("number %i in C++", async (seed) => {
    const text = generated(seed, true);
    const steps = text.slice(text.indexOf("mission\n") + 8).replaceAll(/^ {2}/gm, "");
    const [mission, routines] = steps.split("\nroutine ");
    const prepared = missionOf(
      mission?.trimEnd() ?? "",
      routines ? `routine ${routines.replaceAll(/^(?! |help)/gm, "  ")}` : "",
    );
    expectAgreement(await compared(prepared, cppTarget));
  });
});

/** What it tries, its steps, and what stands above the mission. */
const CONSTRUCTS: readonly (readonly [string, string, string])[] = [
  [
    "a handler that drives, and the body goes on",
    "during\n  go 80 cm at 20 cm/s\nwhenever clock > 1 s and many < 1\n  set many = many + 1\n  turn left 30 deg\n  resume",
    "set many = 0",
  ],
  [
    "a handler that ends the step",
    "during\n  go 80 cm at 20 cm/s\n  note after = robot.travel\nwhenever robot.travel > 20 cm and many < 1\n  set many = 1\n  skip",
    "set many = 0",
  ],
  [
    "interrupts in interrupts with routines",
    "during\n  slow_way()\n  wait 0.5 s\nwhenever clock > 1 s and many < 2\n  set many = many + 1\n  during\n    wait 0.6 s\n  whenever clock > 1.2 s and twice < 1\n    set twice = 1\n    short_way()\n    resume\n  resume",
    "set many = 0\nset twice = 0\nroutine slow_way()\n  repeat 3 times\n    go 15 cm at 15 cm/s\nroutine short_way()\n  back 5 cm",
  ],
  [
    "tasks side by side that signal",
    "together\n  go 20 cm\n  send there\n  wait until heard gone limit 3 s\nalso\n  wait until heard there limit 5 s\n  move arm to 40 deg\n  send gone",
    "",
  ],
  [
    "a routine as a task of its own, stopped",
    "start blink()\ngo 30 cm\nstop blink\nwait 0.3 s",
    "routine blink()\n  repeat\n    move arm to 20 deg\n    move arm to 0 deg",
  ],
  [
    "every, with a limit",
    "every 100 ms until clock > 3 s limit 2 s\n  set many = many + 1\n  power left 30 % right 20 %\nstop\nnote n = many",
    "set many = 0",
  ],
  [
    "lists and tables",
    "repeat 6 times\n  add many to seen\n  set many = many + 1\nset seen[2] = 4\nset worth[tag_of] = 7\nrepeat for each x in seen\n  wait x * 10 ms\nnote total = seen.sum\nnote kept = worth[tag_of]",
    "set many = 1\nset tag_of = red\nlist seen of number, at most 4, rolling\ntable worth of number by colour, at most 4",
  ],
  [
    "a value that a routine gives",
    "go twice(10 cm)\nnote far = twice(robot.travel)",
    "routine twice(x: length = 1 cm)\n  give x * 2",
  ],
  [
    "choices of values and ranges",
    "set many = floor(eye.distance / 10 cm)\nchoose many\n  is 0 to 2\n    go 5 cm\n  > 6\n    go 10 cm\n  otherwise\n    go 15 cm",
    "set many = 0",
  ],
  [
    "held and counted questions",
    "go at 15 cm/s until eye.distance < 60 cm for 200 ms limit 60 cm\nwait until bumper.pressed for 0.1 s limit 0.4 s",
    "",
  ],
  [
    "arms, heads and scans",
    "move arm to 60 deg\naim head to left 40 deg\nscan head from left 60 deg to right 60 deg with 7 looks\nturn left head.clearest\nhome arm toward low using 20 %",
    "",
  ],
  [
    "places, paths and arcs",
    "go to 60 cm, 30 cm\ngo along round look 10 cm at 18 cm/s\narc left 90 deg radius 20 cm\nface 0 deg\ngo back to 30 cm, 0 cm",
    "path round\n  80 cm, 40 cm\n  60 cm, 60 cm\n  30 cm, 50 cm",
  ],
];

describe.each(TARGETS)("constructs in %s", (target, make) => {
  // The slower of the two tries each of them in the long search.
  test.each(target === "cpp" ? CONSTRUCTS : some(CONSTRUCTS, 3))("%s", async (_title, steps, top) => {
    expectAgreement(await compared(missionOf(steps, top), make));
  });
});

describe.each(TARGETS)("driven by hand in %s", (target, make) => {
  const names = ["fog-by-hand", "sleet-by-hand", "flurry-by-hand"];
  test.each(target === "cpp" ? names : some(names, 3))("%s", async (name) => {
    const prepared = demoMission(name);
    const found = await lockstep(prepared, await make(prepared), {
      seed: 2,
      ideal: true,
      hands: handsOf(5),
      ticks: 1500,
    });
    expectAgreement(found);
    expect(found.compared).toBeGreaterThan(850);
  });
});

test("a brain that is another one is found out", async () => {
  const prepared = demoMission("first-roll-out");
  const other = missionOf("go 60 cm at 20 cm/s\nturn left 91 deg");
  const found = await lockstep(prepared, await cppTarget(other), { seed: 1, ideal: true });
  expect(found.equal).toBe(false);
  expect(found.events.different).toBeGreaterThan(0);
  expect(found.differences[0]).toMatch(/in the rehearsal, .* on the board/);
});
