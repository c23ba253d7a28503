// Where a program goes on: jumps, choices, calls, loops, branches side by side, interrupts.
import { LAST } from "../cairn/readings.js";
import { DAMAGED, openGuard, resumeBody, unwindGuards } from "./guards.js";
import type { RemoteProgram } from "./handOver.js";
import type { Instruction, InstructionOf, Store } from "./instructions.js";
import { linkArguments, linkCondition, linkMaybe, linkNumber, linkValue, within } from "./linkCode.js";
import { linkStep, linkStore } from "./linkSteps.js";
import type { ListState } from "./lists.js";
import {
  type ActiveStep,
  clockOf,
  type GuardCode,
  type Op,
  resetHeld,
  type Task,
  type Value,
  type ValueOf,
} from "./task.js";

const JOIN: ActiveStep = { timed: false, joins: true, tick: () => null };

/** Guards open in the routine that runs, below its own. */
function guardBase(task: Task): number {
  return task.frames[task.frames.length - 1]?.guards ?? 0;
}

export function linkOp(instruction: Instruction, at: number, remote: RemoteProgram | null): Op {
  switch (instruction.op) {
    case "jump": {
      const { to } = instruction;
      return (task) => {
        task.at = to;
        return true;
      };
    }
    case "again": {
      const { to } = instruction;
      return (task) => {
        task.at = to;
        return false;
      };
    }
    case "end":
      return (task) => {
        task.ended = true;
        return false;
      };
    case "idle":
      return () => false;
    case "if":
      return linkIf(instruction);
    case "choose":
      return linkChoose(instruction);
    case "call":
      return linkCallOp(instruction);
    case "give":
      return linkGive(linkValue(instruction.value));
    case "repeat":
      return linkRepeat(instruction);
    case "next pass":
      return linkNextPass(instruction);
    case "every":
      return linkEvery(instruction);
    case "next beat":
      return linkNextBeat(instruction);
    case "beats end":
      return beatsEnd;
    case "leave":
      return linkLeave(instruction);
    case "together":
      return linkTogether(instruction);
    case "guard":
      return linkGuard(instruction);
    case "guard ends": {
      const { depth, to } = instruction;
      return (task) => {
        unwindGuards(task, guardBase(task) + depth);
        task.at = to;
        return true;
      };
    }
    case "resume": {
      const { depth, skip } = instruction;
      return (task) => {
        resumeBody(task, guardBase(task) + depth, skip);
        return true;
      };
    }
    default:
      return linkStep(instruction, remote) ?? unknown(at);
  }
}

function unknown(at: number): Op {
  throw new RangeError(`instruction ${at} is unknown`);
}

function linkIf({ condition, otherwise }: InstructionOf<"if">): Op {
  const { test, held } = linkCondition(condition);
  return (task) => {
    for (const counter of held) task.counters[counter] = -1;
    task.at = test(task) !== 0 ? task.at + 1 : otherwise;
    return true;
  };
}

function linkChoose({ subject, arms, otherwise }: InstructionOf<"choose">): Op {
  const value = linkValue(subject);
  const tests = arms.map((arm) => ({ fits: linkArm(arm), to: arm.to }));
  return (task) => {
    const now = value(task);
    task.at = tests.find(({ fits }) => fits(task, now))?.to ?? otherwise;
    return true;
  };
}

function linkArm({ compare, values }: InstructionOf<"choose">["arms"][number]): (task: Task, value: Value) => boolean {
  if (compare) {
    const { operator } = compare;
    const other = linkNumber(compare.value);
    return (task, value) => {
      const right = other(task);
      const left = value as number;
      if (operator === "<") return left < right;
      if (operator === ">") return left > right;
      return operator === "<=" ? left <= right : left >= right;
    };
  }
  const ranges = values.map(({ from, to }) => ({ from: linkValue(from), to: to ? linkValue(to) : null }));
  return (task, value) =>
    ranges.some(({ from, to }) => {
      const a = from(task);
      return to ? within(value, a, to(task)) : value === a;
    });
}

function linkCallOp({ entry, routine, size, args }: InstructionOf<"call">): Op {
  const values = linkArguments(size, args.map(linkValue));
  return (task) => {
    task.values[routine] = values(task);
    task.frames.push({
      returnTo: task.at + 1,
      routine,
      guards: task.guards.length,
      everies: task.everies.length,
    });
    task.given = 0;
    task.at = entry;
    return true;
  };
}

function linkGive(value: ValueOf): Op {
  return (task) => {
    const given = value(task);
    const frame = task.frames[task.frames.length - 1];
    if (!frame) return false;
    unwindGuards(task, frame.guards);
    task.runner.cutEveries(task, frame.everies);
    task.frames.pop();
    task.given = given;
    task.at = frame.returnTo;
    return true;
  };
}

function linkRepeat({ times, left, passes, condition }: InstructionOf<"repeat">): Op {
  const count = linkMaybe(times);
  const asked = condition && linkCondition(condition);
  return (task) => {
    task.counters[left] = count ? Math.max(0, Math.floor(count(task) + 0.5)) : Number.POSITIVE_INFINITY;
    task.counters[passes] = 0;
    resetHeld(task, asked);
    task.at += 1;
    return true;
  };
}

function linkNextPass(instruction: InstructionOf<"next pass">): Op {
  const { left, passes, how, after } = instruction;
  const condition = instruction.condition && linkCondition(instruction.condition);
  const count = instruction.count && linkStore(instruction.count);
  const each = instruction.each && linkEach(instruction.each);
  return (task) => {
    const remaining = task.counters[left] as number;
    const pass = (task.counters[passes] as number) + 1;
    task.counters[left] = remaining - 1;
    task.counters[passes] = pass;
    const goes =
      remaining >= 1 &&
      (!condition || (condition.test(task) !== 0) === (how === "while")) &&
      (!each || each(task, pass));
    if (goes) count?.(task, pass);
    task.at = goes ? task.at + 1 : after;
    return true;
  };
}

/** Of a list each value in turn, of a table each key; it looks at the list anew before each pass. */
function linkEach({ list, store }: { list: number; store: Store }): (task: Task, pass: number) => boolean {
  const put = linkStore(store);
  return (task, pass) => {
    const { keys, values } = task.machine.lists[list] as ListState;
    const value = (keys ?? values)[pass - 1];
    if (value === undefined) return false;
    put(task, value);
    return true;
  };
}

function linkEvery(instruction: InstructionOf<"every">): Op {
  const { step, text, line, counter } = instruction;
  const limit = linkMaybe(instruction.limit);
  const until = instruction.until && linkCondition(instruction.until);
  return (task) => {
    const clock = clockOf(task);
    const record = task.machine.openRecord(step, text, line, false, task.id, false);
    const { claims } = task.runner;
    task.everies.push({ startClock: clock, dueClock: clock, claims, record, ended: "interrupted" });
    task.counters[counter] = limit ? limit(task) : Number.POSITIVE_INFINITY;
    resetHeld(task, until);
    task.at += 1;
    return true;
  };
}

function linkNextBeat(instruction: InstructionOf<"next beat">): Op {
  const { counter, exit } = instruction;
  const period = linkNumber(instruction.period);
  const until = instruction.until && linkCondition(instruction.until);
  return (task) => {
    const state = task.everies[task.everies.length - 1];
    if (!state) return damaged(task);
    const clock = clockOf(task);
    const elapsed = (clock - state.startClock) * task.machine.tickSec;
    const ended = task.skip
      ? "skipped"
      : until && until.test(task) !== 0
        ? "until"
        : elapsed >= (task.counters[counter] as number) - 1e-9
          ? "limit"
          : null;
    if (ended) {
      task.skip = false;
      state.ended = ended;
      task.at = exit;
      return true;
    }
    if (clock < state.dueClock) return false;
    state.dueClock += Math.max(1, Math.floor(period(task) / task.machine.tickSec + 0.5));
    task.at += 1;
    return true;
  };
}

function damaged(task: Task): boolean {
  task.machine.stop(DAMAGED);
  return false;
}

const beatsEnd: Op = (task) => {
  const state = task.everies[task.everies.length - 1];
  if (!state) return damaged(task);
  task.last[LAST.limited] = state.ended === "limit" ? 1 : 0;
  task.last[LAST.time] = (clockOf(task) - state.startClock) * task.machine.tickSec;
  task.runner.cutEveries(task, task.everies.length - 1);
  task.stepsEnded += 1;
  task.at += 1;
  return true;
};

function linkLeave({ guards, kind, pass, to }: InstructionOf<"leave">): Op {
  return (task) => {
    // Loops of `every` that were open when the first guard above this depth was opened; -1 without one.
    const everies = task.guards[guardBase(task) + guards]?.everies ?? -1;
    unwindGuards(task, guardBase(task) + guards);
    if (everies >= 0 && kind !== "every") task.runner.cutEveries(task, everies);
    const state = task.everies[task.everies.length - 1];
    if (kind === "every" && state && !pass) state.ended = "done";
    task.at = to;
    return !pass;
  };
}

function linkTogether({ entries, routine, untilOne, after }: InstructionOf<"together">): Op {
  return (task) => {
    if (task.active === null) {
      task.active = JOIN;
      task.children = entries.map((entry) => task.runner.branch(task, entry, routine));
      return false;
    }
    const { children } = task;
    if (!(untilOne ? children.some((child) => child.ended) : children.every((child) => child.ended))) return false;
    for (const child of children) task.runner.end(child);
    task.children = [];
    task.active = null;
    task.stepsEnded += 1;
    task.at = after;
    return true;
  };
}

function linkGuard({ step, handlers }: InstructionOf<"guard">): Op {
  const code: GuardCode = {
    handlers: handlers.map(({ condition, entry }) => ({ condition: linkCondition(condition), entry })),
    label: step,
  };
  return (task) => {
    openGuard(task, code);
    task.at += 1;
    return true;
  };
}
