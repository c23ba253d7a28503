// Programs as data: what is written down runs the same, and what is damaged is refused with its place.
import { readdirSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import {
  type PreparedMission,
  type Program,
  prepareMission,
  printProgram,
  Rehearsal,
  randomStream,
  readingsOf,
  readProgram,
  rehearse,
} from "../../src/index.js";
import { codeFault } from "../../src/program/code.js";
import { generated } from "../net/cases.mjs";
import { demoFolder, drizzle, fellside, missionFile, missionOf, preparedDemo } from "../support/demo.js";
import { part, some } from "../support/search.js";

function prepared(text: string): PreparedMission & { readonly program: Program } {
  const made = preparedDemo(text);
  const { program } = made;
  if (!program) throw new Error(made.check.problems.map(({ message }) => message).join("; "));
  return { ...made, program };
}

/** As it comes out of a file. */
function written(program: Program): Program {
  const read = readProgram(JSON.parse(JSON.stringify(program)));
  if (!read.ok) throw new Error(read.faults.map(({ place, message }) => `${place}: ${message}`).join("; "));
  return read.program;
}

/** Those that stand by themselves, without a collection. */
const missions = readdirSync(path.join(demoFolder, "missions")).filter(
  (file) => file.endsWith(".cairn") && !/^use /m.test(missionFile(`missions/${file}`)),
);

describe("written down and read again", () => {
  test.each(missions)("%s has the same instructions", (file) => {
    const { program } = prepared(missionFile(`missions/${file}`));
    expect(written(program)).toEqual(JSON.parse(JSON.stringify(program)));
  });

  test.each(some(missions, 3))("%s runs the same to the bit", (file) => {
    const whole = prepared(missionFile(`missions/${file}`));
    const hash = (one: PreparedMission) => rehearse(one, { seed: 3, ideal: false }).summary.traceHash;
    expect(hash({ ...whole, program: written(whole.program) })).toBe(hash(whole));
  });

  const SEEDS = part(60, 3);
  test(`so do ${SEEDS} generated missions over all constructs`, () => {
    for (let seed = 1; seed <= SEEDS; seed += 1) {
      const whole = prepared(generated(seed, seed % 2 === 0));
      const [one, other] = [whole, { ...whole, program: written(whole.program) }].map(
        (made) => rehearse(made, { seed, ideal: false }).summary,
      );
      expect(other?.traceHash).toBe(one?.traceHash);
      expect(other?.notes).toEqual(one?.notes);
    }
  }, 60_000);

  test("equal missions make equal programs, whatever their layout", () => {
    const program = (text: string) => JSON.stringify(prepared(text).program);
    const one = missionOf("set a = 2\nrepeat 3 times\n  go 10 cm\nnote a = a");
    expect(program(one)).toBe(program(one.replace("go 10 cm", "go 10 cm   # on")));
    expect(program(one)).not.toBe(program(one.replace("10 cm", "11 cm")));
  });
});

describe("what is refused", () => {
  const whole = prepared(missionFile("missions/maze-by-memory.cairn")).program;
  type Loose = { [key: string]: Loose } & Loose[] & { push(...items: unknown[]): number };
  const spoilt = (spoil: (program: Loose) => void) => {
    const copy = JSON.parse(JSON.stringify(whole)) as Loose;
    spoil(copy);
    const read = readProgram(copy);
    return read.ok ? [] : read.faults.map(({ place, message }) => `${place}: ${message}`);
  };
  const put = (at: number, change: object) => (program: Loose) => {
    Object.assign(program.instructions?.[at] ?? {}, change);
  };
  const placeOf = (op: string) => whole.instructions.findIndex((instruction) => instruction.op === op);

  test.each([
    ["an unknown instruction", put(2, { op: "fly" }), 'instructions[2].op: there is no instruction "fly"'],
    ["a jump outside", put(placeOf("jump"), { to: 900 }), "it goes to instruction 900, and the last one is 63"],
    ["a start outside", (program: Loose) => Object.assign(program, { start: 64 }), "start: it goes to instruction 64"],
    [
      "a list that runs dry",
      put(placeOf("if"), {
        condition: { code: [1, "+"], held: [], heard: [], looksAt: [], signalOnly: false, text: "" },
      }),
      "condition.code: item 2 takes 2 values, and there is 1",
    ],
    ["a list that leaves two", put(placeOf("give"), { value: [1, 2] }), "value: it leaves 2 values"],
    ["a value that is not there", put(placeOf("give"), { value: [["global", 4]] }), "there is no value 4: there are 4"],
    ["a reading that is not there", put(placeOf("give"), { value: [["reading", 4000]] }), "there is no reading 4000"],
    ["a list that is not there", put(placeOf("give"), { value: [1, ["item", 3]] }), "there is no list 3: there is 1"],
    ["a routine that is not there", put(placeOf("call"), { routine: 9 }), "there is no routine 9"],
    ["too many values for one", put(placeOf("call"), { args: [[1], [2], [3], [4]] }), "4 values are given"],
    [
      "a function of another size",
      put(placeOf("give"), { value: [1, 2, ["call", "sin", 2]] }),
      "sin is given 2 values",
    ],
    ["an end that is none", (program: Loose) => Object.assign(program, { endOfTask: 1 }), "a task has to end there"],
    [
      "a program that runs on",
      (program: Loose) => program.instructions?.push({ op: "beats end" }),
      "runs on beyond its end",
    ],
    ["a word nobody knows", put(3, { wheels: 4 }), 'instructions[3]: holds what is not known here: "wheels"'],
    ["one beside the instructions", (program: Loose) => Object.assign(program, { note: "" }), 'not known here: "note"'],
    ["another format", (program: Loose) => Object.assign(program, { format: "words" }), "format: "],
    [
      "a hand-over without hands",
      (program: Loose) => {
        const endings = { forTime: null, until: null, limit: null, limitBy: null, ending: "stop" };
        program.instructions?.unshift({ op: "hand over", step: "1", text: "", line: 1, endings } as unknown as Loose);
      },
      "there is nothing that a driver could do",
    ],
  ])("%s", (_, spoil, words) => {
    expect(spoilt(spoil as (program: Loose) => void).join("\n")).toContain(words);
  });

  test.each([null, 7, "program", [], {}, { format: "giddy-pebble/program" }])("%j is no program", (value) => {
    expect(readProgram(value).ok).toBe(false);
  });

  const DAMAGED = part(3000, 20);
  test(`of ${DAMAGED} damaged ones each is refused in words, or runs without a fault of ours`, () => {
    const chance = randomStream(4);
    const pick = (n: number) => Math.floor(chance.uniform() * n);
    const sources = [1, 2, 4, 8, 12].map((seed) => prepared(generated(seed, true)));
    /** Every place in a tree that can be changed. */
    const places = (value: unknown, found: [Record<string, unknown>, string][] = []) => {
      if (typeof value !== "object" || value === null) return found;
      for (const [key, one] of Object.entries(value)) {
        found.push([value as Record<string, unknown>, key]);
        places(one, found);
      }
      return found;
    };
    const odd = [0, 1, -1, 3, 7, 1e9, 0.5, "", "+", "held", [], ["global", 2], null, true, { global: 1 }];
    let ran = 0;
    for (let i = 0; i < DAMAGED; i += 1) {
      const source = sources[i % sources.length] as (typeof sources)[number];
      const copy = JSON.parse(JSON.stringify(source.program)) as Program;
      const all = places(copy);
      for (let k = 0; k <= pick(2); k += 1) {
        const [owner, key] = all[pick(all.length)] as [Record<string, unknown>, string];
        const before = owner[key];
        owner[key] = typeof before === "number" && pick(2) === 0 ? before + pick(5) - 2 : odd[pick(odd.length)];
      }
      const read = readProgram(copy);
      if (!read.ok) {
        expect(read.faults.length).toBeGreaterThan(0);
        for (const { message } of read.faults) expect(message).not.toBe("");
        continue;
      }
      ran += 1;
      printProgram(read.program);
      new Rehearsal({ ...source, program: read.program }, { seed: i, ideal: true }).advance(150);
    }
    expect(ran).toBeGreaterThan(DAMAGED / 15);
  }, 120_000);
});

describe("postfix lists", () => {
  test.each([
    [[1], null],
    [[1, 2, "+"], null],
    [[1, 2, 3, "within", "not"], null],
    [["+"], "item 1 takes 2 values, and there are 0"],
    [[1, "+"], "item 2 takes 2 values, and there is 1"],
    [[1, 2], "it leaves 2 values, and should leave one"],
    [[1, 1, 1, ["and", 3]], null],
    [[1, ["held", 0]], "item 2 takes 2 values, and there is 1"],
  ] as const)("%j", (code, fault) => {
    expect(codeFault([...code] as never)).toBe(fault);
  });
});

describe("as a listing", () => {
  test("each instruction has a line, with names of readings, values and routines", () => {
    const robot = drizzle();
    const text = missionOf(
      "set way = 0 cm\nrepeat 3 times\n  go at 20 cm/s until eye.distance < 30 cm limit 2 m\n  set way = way + last.travel\nnote way = way",
    );
    const { program } = prepareMission(text, robot, fellside());
    if (!program) throw new Error("no program");
    const names = new Map(
      [...readingsOf(robot)].filter(([, { ofTask }]) => !ofTask).map(([id, { slot }]) => [slot, id]),
    );
    const lines = printProgram(program, names);
    expect(lines).toContain("> 0  set way = 0   # 1");
    expect(lines.some((line) => line.includes("drive: go until eye.distance < 0.3 limit 2   # 2a"))).toBe(true);
    expect(lines.some((line) => /set way = way \+ last \d/.test(line))).toBe(true);
    expect(lines.filter((line) => /^[ >] *\d+ {2}/.test(line))).toHaveLength(program.instructions.length);
  });
});
