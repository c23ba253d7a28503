// A program to closures, for speed: one for each instruction. Linking is done once for a program, however many runs it has.

import { plainDigits } from "../units/quantity.js";
import type { RemoteProgram } from "./handOver.js";
import type { FoundCode, Program, RemoteCode } from "./instructions.js";
import { linkMaybe, linkNumber, linkValue, wordsOf } from "./linkCode.js";
import { linkOp } from "./linkFlow.js";
import type { NumberOf, Op, Task } from "./task.js";

/** A part of the goal: whether it is true, and what was found instead, in words. */
interface GoalPart {
  /** As written. */
  readonly text: string;
  readonly test: NumberOf;
  /** Empty where there is nothing to say beyond that it failed. */
  readonly found: (task: Task) => string;
}

export interface LinkedProgram {
  readonly program: Program;
  readonly ops: readonly Op[];
  /** Sets the mission's values before it starts. */
  readonly initialise: (task: Task) => void;
  readonly goal: { readonly test: NumberOf; readonly text: string; readonly parts: readonly GoalPart[] } | null;
}

const linked = new WeakMap<Program, LinkedProgram>();

/** @throws RangeError when an expression of it runs dry; programs that readProgram accepted do not */
export function linkProgram(program: Program): LinkedProgram {
  const known = linked.get(program);
  if (known) return known;
  const remote = program.remote ? linkRemote(program.remote) : null;
  const sets = program.sets.map(({ global, value }) => ({ global, value: linkValue(value) }));
  const { goal } = program;
  const made: LinkedProgram = {
    program,
    ops: program.instructions.map((instruction, at) => linkOp(instruction, at, remote)),
    initialise: (task) => {
      for (const { global, value } of sets) task.machine.globals[global] = value(task);
    },
    goal: goal && {
      test: linkNumber(goal.code),
      text: goal.text,
      parts: goal.parts.map(({ text, code, found }) => ({ text, test: linkNumber(code), found: linkFound(found) })),
    },
  };
  linked.set(program, made);
  return made;
}

/** The parts that failed, each with what was found: the end of "the goal was not met: …". */
export function failedWords(parts: readonly GoalPart[], task: Task): string {
  return parts
    .filter(({ test }) => test(task) === 0)
    .map(({ text, found }) => {
      const words = found(task);
      return words === "" ? text : `${text} (${words})`;
    })
    .join("; ");
}

function linkFound(found: FoundCode): GoalPart["found"] {
  switch (found.is) {
    case "nothing":
      return () => "";
    case "touched":
      return ({ machine }) => machine.judge.touched(found.but);
    case "outside":
      return ({ machine }) => {
        const outsideM = machine.judge.outsideM(found.zone);
        return outsideM > 0 ? `the robot stands ${plainDigits(outsideM * 100, 1)} cm outside` : "";
      };
    case "value": {
      const value = linkValue(found.value);
      const { words } = found;
      return (task) => `it was ${words === null ? String(value(task)).trim() : wordsOf(words, value(task))}`;
    }
    case "off": {
      const [left, right] = [linkNumber(found.left), linkNumber(found.right)];
      const { unit, scale, words } = found;
      const written = (value: number) => wordsOf({ unit, scale }, value);
      return (task) => {
        const value = left(task);
        const off = value - right(task);
        return `${words} was ${written(value)}, ${written(Math.abs(off))} too ${off > 0 ? "much" : "little"}`;
      };
    }
  }
}

function linkRemote({ sticks, bindings, dials, steerRad }: RemoteCode): RemoteProgram {
  return {
    sticks: sticks && {
      mode: sticks.mode,
      at: linkMaybe(sticks.at),
      turning: linkMaybe(sticks.turning),
      dead: linkMaybe(sticks.dead),
      curve: linkMaybe(sticks.curve),
      ramp: linkMaybe(sticks.ramp),
      switching: linkMaybe(sticks.switching),
    },
    bindings: bindings.map((binding) => ({
      ...binding,
      ceiling: linkMaybe(binding.ceiling),
      moves: new Set(binding.moves),
    })),
    dials: dials.map(({ level, part, from, to }) => ({ level, part, from: linkNumber(from), to: linkNumber(to) })),
    steerRad,
  };
}
