// Steps of a program to closures: those that act at once, and those that take time.
import { plainDigits } from "../units/quantity.js";
import { beginDrive, type Endings } from "./driveSteps.js";
import { handOverStep, type RemoteProgram } from "./handOver.js";
import type { EndingsCode, Instruction, InstructionOf, Store } from "./instructions.js";
import { linkArguments, linkCondition, linkMaybe, linkNumber, linkValue, wordsOf } from "./linkCode.js";
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
import type { ActiveStep, NumberOf, Op, Task, Value } from "./task.js";

export function linkStore(store: Store): (task: Task, value: Value) => void {
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

export function linkStep(instruction: Instruction, remote: RemoteProgram | null): Op | null {
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
