// A program to closures, for speed: one for each instruction. Linking is done once for a program, however many runs it has.

import { LAST } from "../cairn/readings.js";
import { plainDigits } from "../units/quantity.js";
import { beginDrive, type Endings } from "./driveSteps.js";
import { DAMAGED, openGuard, resumeBody, unwindGuards } from "./guards.js";
import { handOverStep, type RemoteProgram } from "./handOver.js";
import type { EndingsCode, FoundCode, Instruction, InstructionOf, Program, RemoteCode, Store } from "./instructions.js";
import { linkArguments, linkCondition, linkMaybe, linkNumber, linkValue, within, wordsOf } from "./linkCode.js";
import { linkMotion } from "./linkMotion.js";
import type { ListState } from "./lists.js";
import {
  aimStep,
  closeStep,
  homeStep,
  motorStep,
  moveStep,
  openLast,
  scanStep,
  startMove,
  waitStep,
} from "./partSteps.js";
import {
  type ActiveStep,
  clockOf,
  type GuardCode,
  type NumberOf,
  type Op,
  resetHeld,
  type Task,
  type Value,
  type ValueOf,
} from "./task.js";

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

function linkEndings(endings: EndingsCode, { step, text }: { readonly step: string; readonly text: string }): Endings {
  return {
    forTime: linkMaybe(endings.forTime),
    until: endings.until && linkCondition(endings.until),
    limit: linkMaybe(endings.limit),
    limitBy: endings.limitBy,
    ending: endings.ending,
    label: step,
    text,
  };
}

const JOIN: ActiveStep = { timed: false, joins: true, tick: () => null };

/** Guards open in the routine that runs, below its own. */
function guardBase(task: Task): number {
  return task.frames[task.frames.length - 1]?.guards ?? 0;
}

/** What steps are called. */
interface Named {
  readonly step: string;
  readonly text: string;
  readonly line: number;
}

/** A step that acts at once. */
function instant({ step, text, line }: Named, act: (task: Task) => void): Op {
  return (task) => {
    act(task);
    if (task.quiet === 0) {
      const { machine } = task;
      const record = machine.openRecord(step, text, line, false, task.id, task.everies.length > 0);
      if (record) record.endTick = machine.tick;
    }
    task.at += 1;
    return !task.ended;
  };
}

/** A step that takes time. */
function timed({ step, text, line }: Named, begin: (task: Task) => ActiveStep): Op {
  return (task) => {
    if (task.active === null) {
      const active = begin(task);
      task.active = active;
      task.record = task.machine.openRecord(step, text, line, active.timed, task.id, false);
      openLast(task);
    }
    const now = task.active;
    const ended = task.skip ? "skipped" : now.tick(task);
    if (ended === null) return false;
    if (ended === "skipped") now.drop?.(task);
    closeStep(task, ended);
    task.at += 1;
    return true;
  };
}

function linkStore(store: Store): (task: Task, value: Value) => void {
  if ("global" in store) {
    const { global } = store;
    return (task, value) => {
      task.machine.globals[global] = value;
    };
  }
  const { routine, local } = store;
  return (task, value) => {
    (task.values[routine] as Value[])[local] = value;
  };
}

function linkOp(instruction: Instruction, at: number, remote: RemoteProgram | null): Op {
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

function linkStep(instruction: Instruction, remote: RemoteProgram | null): Op | null {
  switch (instruction.op) {
    case "start": {
      const { entry, routine, size, args } = instruction;
      const values = linkArguments(size, args.map(linkValue));
      return instant(instruction, (task) => task.runner.start(entry, routine, values(task)));
    }
    case "stop routine":
      return instant(instruction, ({ runner }) => runner.stopRoutine(instruction.routine));
    case "set": {
      const [put, value] = [linkStore(instruction.store), linkValue(instruction.value)];
      return instant(instruction, (task) => put(task, value(task)));
    }
    case "add":
    case "put":
    case "clear":
      return linkList(instruction);
    case "roll on": {
      const make = linkMotion(instruction.motion);
      return instant(instruction, (task) => task.runner.passOn(task, make(task), instruction.step));
    }
    case "motor on": {
      const { motor, step } = instruction;
      const duty = linkNumber(instruction.duty);
      return instant(instruction, (task) => {
        task.runner.takePart(task, motor, step, true);
        task.machine.motorPower(motor, "drive", duty(task));
      });
    }
    case "move on": {
      const order = linkMove(instruction);
      return instant(instruction, (task) => {
        task.runner.takePart(task, order.part, instruction.step, true);
        startMove(task, order);
      });
    }
    case "stop drive":
      return linkStopDrive(instruction);
    case "stop motor": {
      const { motor, mode, step } = instruction;
      return instant(instruction, (task) => {
        task.runner.takePart(task, motor, step, false);
        task.machine.motorPower(motor, mode, 0);
        task.runner.freePart(task, motor);
      });
    }
    case "steer": {
      const angle = linkNumber(instruction.angle);
      return instant(instruction, (task) => {
        task.runner.takeDrive(task, instruction.step);
        task.machine.steer(angle(task));
      });
    }
    case "note": {
      const value = linkValue(instruction.value);
      return instant(instruction, (task) => task.machine.note(instruction.name, value(task)));
    }
    case "show": {
      const shown = instruction.values.map(({ label, value: code, words }) => {
        const value = linkValue(code);
        return (task: Task) => (words === null ? String(value(task)) : `${label}${wordsOf(words, value(task))}`);
      });
      return instant(instruction, (task) => task.machine.sign("show", shown.map((value) => value(task)).join("  ")));
    }
    case "light": {
      const share = linkNumber(instruction.share);
      return instant(instruction, (task) =>
        task.machine.sign("light", `${Math.floor(Math.max(0, Math.min(1, share(task))) * 100 + 0.5)} %`),
      );
    }
    case "beep": {
      const [pitch, duration] = [linkMaybe(instruction.pitch), linkMaybe(instruction.duration)];
      return instant(instruction, (task) => {
        const words = [
          pitch ? `${plainDigits(pitch(task), 0)} Hz` : "",
          duration ? `${plainDigits(duration(task), 2)} s` : "",
        ];
        task.machine.sign("beep", words.filter((word) => word !== "").join(" for "));
      });
    }
    case "reset":
      return instant(instruction, (task) => task.machine.reset(instruction.what));
    case "send":
      return instant(instruction, (task) => task.runner.send(instruction.signal));
    case "finish":
      return instant(instruction, (task) => {
        task.ended = true;
        task.machine.finish();
      });
    default:
      return linkTimed(instruction, remote);
  }
}

function linkTimed(instruction: Instruction, remote: RemoteProgram | null): Op | null {
  switch (instruction.op) {
    case "wait": {
      const endings = {
        duration: linkMaybe(instruction.duration),
        atMost: linkMaybe(instruction.atMost),
        until: instruction.until && linkCondition(instruction.until),
        limit: linkMaybe(instruction.limit),
      };
      return timed(instruction, (task) => waitStep(task, endings));
    }
    case "drive": {
      const make = linkMotion(instruction.motion);
      const endings = linkEndings(instruction.endings, instruction);
      return timed(instruction, (task) => beginDrive(task, make, endings));
    }
    case "motor": {
      const { motor } = instruction;
      const duty = linkNumber(instruction.duty);
      const endings = linkEndings(instruction.endings, instruction);
      return timed(instruction, (task) => motorStep(task, motor, duty(task), endings));
    }
    case "move": {
      const order = linkMove(instruction);
      const endings = linkEndings(instruction.endings, instruction);
      return timed(instruction, (task) => moveStep(task, order, endings));
    }
    case "home": {
      const { part, toward } = instruction;
      const using = linkMaybe(instruction.using);
      const endings = linkEndings(instruction.endings, instruction);
      return timed(instruction, (task) => homeStep(task, part, toward, using, endings));
    }
    case "aim": {
      const angle = linkNumber(instruction.angle);
      const endings = linkEndings(instruction.endings, instruction);
      return timed(instruction, (task) => aimStep(task, instruction.head, angle, endings));
    }
    case "scan": {
      const [from, to, looks] = [instruction.from, instruction.to, instruction.looks].map(linkNumber) as [
        NumberOf,
        NumberOf,
        NumberOf,
      ];
      const endings = linkEndings(instruction.endings, instruction);
      return timed(instruction, (task) => scanStep(task, instruction.head, { from, to, looks }, endings));
    }
    case "hand over": {
      if (!remote) throw new RangeError("a step hands over, but there is no remote");
      const endings = linkEndings(instruction.endings, instruction);
      return timed(instruction, (task) => handOverStep(task, remote, endings));
    }
    default:
      return null;
  }
}

function linkMove({ part, how, angle, at, using }: Omit<InstructionOf<"move on">, "op">) {
  return { part, how, angle: linkMaybe(angle), at: linkMaybe(at), using: linkMaybe(using) };
}

function linkList(instruction: InstructionOf<"add"> | InstructionOf<"put"> | InstructionOf<"clear">): Op {
  const { list } = instruction;
  if (instruction.op === "clear")
    return instant(instruction, (task) => (task.machine.lists[list] as ListState).clear());
  const value = linkValue(instruction.value);
  const at = instruction.op === "put" ? linkValue(instruction.index) : null;
  return instant(instruction, (task) => {
    const state = task.machine.lists[list] as ListState;
    const wrong = at ? state.put(at(task), value(task)) : state.add(value(task));
    if (wrong !== null) task.machine.stop(wrong);
  });
}

function linkStopDrive(instruction: InstructionOf<"stop drive">): Op {
  const { mode, step } = instruction;
  return instant(instruction, (task) => {
    task.runner.takeDrive(task, step);
    if (mode === "brake") task.runner.halt(task);
    else {
      task.machine.setMotion(null);
      task.machine.drive.release(mode);
    }
    task.passing = null;
    task.runner.freeDrive(task);
  });
}
