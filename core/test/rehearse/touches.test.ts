// What a run says of the world around it: what was touched, what was heard, and goals that ask for it.
import { describe, expect, test } from "vitest";
import { type Field, fieldSchema, openFloor, prepareMission, rehearse } from "../../src/index.js";
import { demoRobot, drizzle, missionOf, problemsOf } from "../support/demo.js";

const crate = {
  name: "crate",
  shape: "box",
  sizeM: [0.08, 0.08],
  heightM: 0.08,
  massKg: 0.1,
  friction: 0.4,
  xM: 2.5,
  yM: 2,
  colour: "#C8352B",
} as const;

const withThings = (things: Partial<Field>): Field => fieldSchema.parse({ ...openFloor(), ...things });
const run = (steps: string, field: Field, top = "") =>
  rehearse(prepareMission(missionOf(`move arm to 80 deg\n${steps}`, top), drizzle(), field), { seed: 1, ideal: true });

describe("touch", () => {
  const wall = withThings({
    walls: [{ name: "fence", fromM: [2.6, 1], toM: [2.6, 3], heightM: 0.3, reflectance: 0.7 }],
  });

  test("says what, with which part, when, how hard and where", () => {
    const { summary, trace } = run("go at 20 cm/s until bumper.pressed limit 1 m\nback 20 cm\nwait 1 s", wall);
    expect(summary.contacts.length).toBe(1);
    const [touch] = summary.contacts;
    expect(touch).toMatchObject({ what: "fence", part: "bumper" });
    expect(touch?.xM).toBeCloseTo(2.6, 2);
    // Somewhere on the bumper, which is 10 cm wide.
    expect(Math.abs((touch?.yM ?? 0) - 2)).toBeLessThan(0.051);
    const step = summary.steps.find(({ text }) => text.startsWith("go at"));
    expect(touch?.fromMs).toBeGreaterThan((step?.startMs ?? 0) + 1000);
    expect(touch?.fromMs).toBeLessThan((step?.endMs ?? 0) + 50);
    expect(trace.events.filter(({ kind }) => kind === "touch")).toMatchObject([{ stepId: "bumper", data: "fence" }]);
  });

  test("is harder the faster it drives: the impulse stops the same mass", () => {
    const hardest = (speed: number) =>
      run(`go at ${speed} cm/s until bumper.pressed limit 1 m`, wall).summary.contacts[0]?.hardestN ?? 0;
    expect(hardest(30)).toBeGreaterThan(1.5 * hardest(12));
  });

  test("pushing a load is one touch, however long; nothing touched is none", () => {
    const { summary } = run("go 60 cm at 10 cm/s", withThings({ loads: [{ ...crate, headingRad: 0 } as never] }));
    expect(summary.contacts.map(({ what }) => what)).toEqual(["crate"]);
    expect((summary.contacts[0]?.toMs ?? 0) - (summary.contacts[0]?.fromMs ?? 0)).toBeGreaterThan(500);
    expect(run("go 20 cm", wall).summary.contacts).toEqual([]);
  });

  test("untouched is a goal of the whole run, but for what is named; it says what was touched", () => {
    const push = (goal: string) =>
      run("go 60 cm at 10 cm/s", withThings({ loads: [{ ...crate, headingRad: 0 } as never] }), `goal ${goal}`).summary;
    expect(push("untouched").reason).toMatch(
      /^the goal was not met: untouched \(\w+ touched crate at [\d.]+ s with [\d.]+ N\)$/,
    );
    expect(push('untouched but "crate"').success).toBe(true);
    expect(push('clock < 60 s and untouched but "crate"').success).toBe(true);
    expect([push("robot.touching").success, push("not robot.touching").success]).toEqual([true, false]);
  });

  test("is the judge's affair: programs cannot read it, and things have to be there", () => {
    const codes = (text: string) => problemsOf(text).map(({ code }) => code);
    expect(codes(missionOf("wait until untouched"))).toContain("goal-only");
    expect(codes(missionOf("wait until robot.touching"))).toContain("goal-only");
    expect(codes(missionOf("wait 1 s", 'goal untouched but "crat"'))).toContain("unknown-thing");
  });
});

describe("echoes", () => {
  test("say what a distance sensor heard, when first, and how near it came", () => {
    const field = withThings({
      boulders: [{ name: "stone", xM: 3, yM: 2, radiusM: 0.08, heightM: 0.3, reflectance: 0.4 }],
    });
    const { summary, trace } = run("go 50 cm at 20 cm/s", field);
    const [heard] = summary.heard;
    expect(heard).toMatchObject({ sensor: "eye", what: "stone" });
    // The eye sits 8 cm ahead: from 84 cm at first to 34 cm at the end.
    expect(heard?.nearestM).toBeGreaterThan(0.3);
    expect(heard?.nearestM).toBeLessThan(0.86);
    expect(trace.events.some(({ kind, stepId, data }) => kind === "echo" && stepId === "eye" && data === "stone")).toBe(
      true,
    );
  });

  test("Fog's two proximity sensors miss nothing between them", () => {
    const fog = demoRobot("fog");
    const blind: number[] = [];
    for (let across = -0.06; across <= 0.0601; across += 0.005) {
      const field = withThings({
        boulders: [{ xM: 2.22, yM: 2 + across, radiusM: 0.01, heightM: 0.3, reflectance: 0.4 }],
      });
      const text =
        'cairn 1\nrobot "Fog"\nmission\n  wait 0.2 s\n  if near_left.blocked or near_right.blocked\n    beep\n';
      const { signs } = rehearse(prepareMission(text, fog, field), { seed: 1, ideal: true }).summary;
      if (signs.length === 0) blind.push(across);
    }
    expect(blind).toEqual([]);
  });
});
