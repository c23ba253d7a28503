// Completion of a step as it is typed, and help for every word of the language.
import { describe, expect, test } from "vitest";
import { completeStep, readingHelp, readingsOf, TAIL_ORDER, WORD_HELP } from "../../src/index.js";
import { MORE_FORMS, PARTNERS, REMOTE_FORMS, STEP_FORMS } from "../../src/words/language.js";
import { drizzle, missionOf, problemsOf } from "../support/demo.js";

const names = {
  readings: readingsOf(drizzle()),
  values: new Map([["cruise", { is: "unknown" as const }]]),
  routines: ["corner"],
  parts: ["arm", "head"],
};
const labels = (line: string) => completeStep(line, names).map((one) => one.label);
const texts = (line: string) => completeStep(line, names).map((one) => one.text);

describe("completion", () => {
  test("go 45 offers cm first; turn 90 offers both sides", () => {
    expect(texts("go 45")[0]).toBe("go 45 cm");
    expect(texts("turn 90")).toEqual(["turn left 90 deg", "turn right 90 deg"]);
    expect(texts("turn left 90 deg at 80")[0]).toBe("turn left 90 deg at 80 deg/s");
    expect(texts("wait 2")[0]).toBe("wait 2 s");
  });

  test("a started word offers its forms, and routines", () => {
    expect(labels("fo")).toEqual([
      "follow line on centre with floor until floor.crossing",
      "follow wall on right 20 cm away with eye until wall ends",
    ]);
    expect(labels("cor")).toEqual(["corner()"]);
    expect(labels("").length).toBeGreaterThan(30);
  });

  test("conditions offer this robot's readings, and then something to compare with", () => {
    expect(labels("go until ")).toContain("bumper.pressed");
    expect(texts("go until eye.d")).toEqual(["go until eye.distance"]);
    expect(texts("go until eye.distance")).toEqual(["go until eye.distance < 20 cm", "go until eye.distance > 20 cm"]);
    expect(labels("move ")).toEqual(["arm", "head"]);
  });

  test("a whole step offers the tails it does not have yet", () => {
    expect(labels("go 30 cm at 20 cm/s ")).toEqual(["for 2 s", "until", "limit 10 s", "then keep"]);
  });

  test("every form is a step that Drizzle can drive, or says plainly why not", () => {
    const opens = new Set(["repeat", "if", "every", "choose", "together", "during"]);
    const inside = new Set([
      "next",
      "leave",
      "skip",
      "resume",
      "give",
      "send",
      "start",
      "steer",
      "slide",
      "set",
      "hand",
      "add",
      "clear",
    ]);
    for (const [word, form] of Object.entries(STEP_FORMS)) {
      if (opens.has(word) || inside.has(word)) continue;
      const found = problemsOf(missionOf(`set cruise = 2\nnote used = cruise\n${form}`)).map((p) => p.message);
      expect(found, form).toEqual([]);
    }
  });

  test("and so is every other way of writing one", () => {
    const top = "list looks of length, at most 5\nlist colours of colour, at most 5\npath round\n  40 cm, 0 cm";
    const inner = new Set(["repeat"]);
    for (const [word, others] of Object.entries(MORE_FORMS))
      for (const form of others) {
        const steps = `add 20 cm to looks\nadd red to colours\nnote n = colours.count\ngo along round\n${form}${inner.has(word) ? "\n  wait 1 s" : ""}`;
        const found = problemsOf(missionOf(steps, top)).map((p) => p.message);
        expect(found, form).toEqual([]);
      }
  });

  test("a follower is offered what only followers have", () => {
    expect(labels("follow line on centre with floor until floor.crossing ")).toEqual(
      expect.arrayContaining(["gain 120 %", "bridge 20 cm", "at crossings straight"]),
    );
    expect(labels("follow wall on right 20 cm away with eye for 2 s ")).toContain("at corners turn");
    expect(labels("go 30 cm ")).not.toContain("gain 120 %");
  });
});

describe("help", () => {
  test("every step word, tail and partner has a sentence", () => {
    for (const word of [...Object.keys({ ...STEP_FORMS, ...REMOTE_FORMS }), ...TAIL_ORDER, ...Object.keys(PARTNERS)])
      expect(WORD_HELP[word], word).toMatch(/^[A-Z].*\.$/);
  });

  test("every reading has one, with its unit where it has one", () => {
    for (const [name, reading] of readingsOf(drizzle())) {
      if (name === "clock") continue;
      expect(readingHelp(name, reading), name).toMatch(/^[A-Z].*\.$/);
    }
    const eye = readingsOf(drizzle()).get("eye.distance");
    expect(eye && readingHelp("eye.distance", eye)).toContain("in cm");
  });
});
