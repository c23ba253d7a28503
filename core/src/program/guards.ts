// `during … whenever …` at run time. A guard is one `during` in progress; when a handler's condition comes true
// the body's whole state is put aside, the handler runs in the same task, and `resume` puts it back.
import type { Guard, GuardCode, Saved, Task } from "./task.js";
import { clockOf, resetHeld } from "./task.js";

/** A body that ran this long between two firings got on, ticks. */
const PROGRESS_TICKS = 10;
const MOST_FIRINGS = 20;
/** Why a mission stops whose program ends something that it never began. */
export const DAMAGED = "its program is damaged: it ends something that was not begun. Send the mission again";

export function openGuard(task: Task, code: GuardCode): void {
  for (const { condition } of code.handlers) resetHeld(task, condition);
  task.guards.push({
    code,
    frames: task.frames.length,
    everies: task.everies.length,
    saved: null,
    firings: 0,
    seenClock: clockOf(task),
    seenSteps: task.stepsEnded,
  });
}

/** Looks at the conditions of all guards, outer first, then top down; the first that is true fires. */
export function watchGuards(task: Task): void {
  for (let depth = 0; depth < task.guards.length; depth += 1) {
    const guard = task.guards[depth] as Guard;
    if (guard.saved) continue;
    const { handlers } = guard.code;
    for (let i = 0; i < handlers.length; i += 1) {
      const handler = handlers[i] as (typeof handlers)[number];
      if (handler.condition.test(task) === 0) continue;
      fire(task, depth, handler.entry, handler.condition.text);
      return;
    }
  }
}

function fire(task: Task, depth: number, entry: number, text: string): void {
  const guard = task.guards[depth] as Guard;
  const gotOn = clockOf(task) - guard.seenClock >= PROGRESS_TICKS || task.stepsEnded !== guard.seenSteps;
  guard.firings = gotOn ? 1 : guard.firings + 1;
  if (guard.firings > MOST_FIRINGS) {
    task.machine.stop(
      `"whenever ${text}" of step ${guard.code.label} came true ${MOST_FIRINGS} times before its body could get on`,
    );
    return;
  }
  const frames = task.frames.splice(guard.frames);
  pauseStep(task);
  for (const child of task.children) pauseTree(child);
  guard.saved = {
    at: task.at,
    active: task.active,
    record: task.record,
    guards: task.guards.splice(depth + 1),
    frames,
    values: frames.map(({ routine }) => ({ routine, values: [...(task.values[routine] ?? [])] })),
    counters: frames.length > 0 ? task.counters.slice() : null,
    children: task.children,
    opened: [...task.counters.subarray(task.counters.length - 3)],
    clock: clockOf(task),
    claims: task.runner.claims,
  };
  task.active = null;
  task.record = null;
  task.children = [];
  task.at = entry;
}

/** Puts the body back. @param skip - ends the driving step it was in, or else every waiting one */
export function resumeBody(task: Task, depth: number, skip: boolean): void {
  unwindGuards(task, depth + 1);
  const guard = task.guards[depth];
  // Only a damaged program resumes what nothing interrupted.
  if (!guard?.saved) return task.machine.stop(DAMAGED);
  const { saved } = guard;
  guard.saved = null;
  task.at = saved.at;
  task.active = saved.active;
  task.record = saved.record;
  task.frames.push(...saved.frames);
  task.guards.push(...saved.guards);
  task.children = saved.children;
  for (const { routine, values } of saved.values) task.values[routine] = [...values];
  if (saved.counters) task.counters.set(saved.counters);
  task.counters.set(saved.opened, task.counters.length - 3);
  task.lostTicks += clockOf(task) - saved.clock;
  for (const { condition } of guard.code.handlers) resetHeld(task, condition);
  guard.seenClock = clockOf(task);
  guard.seenSteps = task.stepsEnded;
  if (skip) markSkipped([task, ...saved.children.flatMap(withBranches)]);
  const drove = task.runner.claims !== saved.claims;
  resumeStep(task, drove);
  for (const child of saved.children) resumeTree(child, drove);
}

function withBranches(task: Task): Task[] {
  return [task, ...task.children.flatMap(withBranches)];
}

function markSkipped(tasks: readonly Task[]): void {
  const live = tasks.filter((task) => !task.ended && !task.active?.joins);
  const driving = live.filter((task) => task.active?.drives);
  const waiting = live.filter((task) => task.active !== null || task.everies.length > 0);
  for (const task of driving.length > 0 ? driving : waiting) task.skip = true;
}

/** Closes guards down to a depth; what they had put aside is dropped. */
export function unwindGuards(task: Task, depth: number): void {
  while (task.guards.length > depth) {
    const guard = task.guards.pop() as Guard;
    if (guard.saved) dropSaved(task, guard.saved);
    else task.frames.length = Math.min(task.frames.length, guard.frames);
    task.runner.cutEveries(task, guard.everies);
  }
}

function dropSaved(task: Task, saved: Saved): void {
  saved.active?.drop?.(task);
  if (saved.record) {
    saved.record.endTick = task.machine.tick;
    saved.record.endedBy = "interrupted";
  }
  for (const child of saved.children) task.runner.end(child);
  for (const guard of saved.guards) if (guard.saved) dropSaved(task, guard.saved);
}

function pauseStep(task: Task): void {
  task.active?.pause?.(task);
  // What was set and passed on stands still too.
  if (task.passing && !task.active?.drives && task.runner.drivesWith(task)) task.runner.halt(task);
}

function resumeStep(task: Task, drove: boolean): void {
  if (!task.skip) task.active?.resume?.(task, drove);
  if (!task.passing || task.active?.drives) return;
  task.runner.takeDrive(task, "");
  task.machine.setMotion(task.passing.again(task.machine.drive, 0, null));
}

function pauseTree(task: Task): void {
  if (task.ended) return;
  task.pauses += 1;
  if (task.pauses === 1) {
    task.pausedClock = clockOf(task);
    pauseStep(task);
  }
  for (const child of task.children) pauseTree(child);
}

function resumeTree(task: Task, drove: boolean): void {
  if (task.ended) return;
  task.pauses -= 1;
  if (task.pauses === 0) {
    task.lostTicks += clockOf(task) - task.pausedClock;
    resumeStep(task, drove);
  }
  for (const child of task.children) resumeTree(child, drove);
}
