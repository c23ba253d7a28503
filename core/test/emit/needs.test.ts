// How much room a program needs on a board, and which of its values are texts.
import { expect, test } from "vitest";
import { programNeeds } from "../../src/emit/regions.js";
import { textPlaces } from "../../src/emit/texts.js";
import { openFloor } from "../../src/field/read.js";
import type { Program } from "../../src/program/instructions.js";
import { prepareMission } from "../../src/rehearse/prepare.js";
import { drizzle, missionOf } from "../support/demo.js";

function programOf(steps: string, top = ""): Program {
  const { program, check } = prepareMission(missionOf(steps, top), drizzle(), openFloor());
  if (!program) throw new Error(check.problems.map(({ message }) => message).join("; "));
  return program;
}

test("a plain mission needs one task and nothing else", () => {
  expect(programNeeds(programOf("go 10 cm\nturn left 90 deg"))).toEqual({
    tasks: 1,
    frames: 1,
    guards: 0,
    guardPool: 0,
    everies: 0,
  });
});

test("branches, started routines, calls, interrupts and beats are counted through calls", () => {
  const program = programOf(
    "inner()\ntogether\n  go 5 cm\nalso\n  wait 1 s\nstart alone()\nduring\n  inner()\nwhenever clock > 9 s\n  resume",
    "routine deepest()\n  every 100 ms until clock > 1 s\n    set many = many + 1\nroutine inner()\n  deepest()\n  during\n    wait 1 s\n  whenever clock > 5 s\n    resume\nroutine alone()\n  inner()\nset many = 0",
  );
  const needs = programNeeds(program);
  // The mission, two branches, one started routine.
  expect(needs.tasks).toBe(4);
  // The deepest: alone, which was started, inner that it calls, and deepest.
  expect(needs.frames).toBe(3);
  // The mission's own, and that of inner for each of its two calls.
  expect(needs.guards).toBe(3);
  expect(needs.guardPool).toBe(4);
  expect(needs.everies).toBe(2);
});

test("texts are found where they are kept, given and passed on", () => {
  const program = programOf(
    'set other = word\nset number = 3\nnamed("far")\nadd other to said',
    'set word = "near"\nset other = ""\nset number = 1\nlist said of text, at most 3\nroutine named(what: text)\n  show what',
  );
  const global = (name: string) => `global ${program.globals.indexOf(name)}`;
  const texts = textPlaces(program);
  expect([global("word"), global("other"), "local 0 0", "list 0"].map((place) => texts.has(place))).toEqual([
    true,
    true,
    true,
    true,
  ]);
  expect(texts.has(global("number"))).toBe(false);
});
