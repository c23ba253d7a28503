// The line tuner: one step that follows a line, tried at several speeds and gains, each in several rehearsals.
import * as z from "zod";
import { literalValue } from "../cairn/expressionKinds.js";
import { parseMission } from "../cairn/parser.js";
import type { Mission } from "../cairn/tree.js";
import type { DriveModel } from "../control/driveModel.js";
import type { Program } from "../program/instructions.js";
import type { Runnable } from "../rehearse/prepare.js";
import { rehearse } from "../rehearse/rehearsal.js";
import { plainDigits } from "../units/quantity.js";
import { TAIL_ORDER } from "../words/language.js";
import { aheadOfLine, type FollowedLine, type LineStep, lineFigures, lineSteps, lineWays } from "./lineWay.js";

/** What is tuned. */
export interface LineSetting {
  readonly speedMS: number;
  /** 1 is the robot's own. */
  readonly gain: number;
}

/** One rehearsal of a setting. */
export const lineRunSchema = z.object({
  /** The whole mission worked, and the line was not lost for good. */
  held: z.boolean(),
  /** Time the step took, all its passes together, ms. */
  ms: z.number(),
  /** How often it went astray. */
  losses: z.number(),
  /** Null where nothing is drawn to measure against, m. */
  rmsM: z.number().nullable(),
  /** Why it did not hold; empty when it did. */
  reason: z.string(),
});
export type LineRun = z.infer<typeof lineRunSchema>;

/** Several rehearsals of one setting. */
export interface LineCell extends LineSetting {
  readonly runs: number;
  readonly held: number;
  /** Mean of all runs. */
  readonly losses: number;
  /** Median of those that held, or of all when none did. */
  readonly ms: number;
  readonly rmsM: number | null;
}

const GAINS = [0.6, 0.8, 1, 1.25, 1.6] as const;
const SHARES = [0.6, 0.8, 1, 1.3, 1.7, 2.2, 2.8] as const;

function tailValue(mission: Mission, step: LineStep, word: "at" | "gain"): number | null {
  const value = step.tails.find((tail) => tail.word === word)?.value;
  if (!value) return null;
  if (value.type === "name" && value.path.length === 1) {
    const set = mission.sets.find(({ name }) => name.name === value.path[0]);
    return set ? literalValue(set.value) : null;
  }
  return literalValue(value);
}

/** What a step says now, or what the robot does where it says nothing. */
export function lineSetting(mission: Mission, step: LineStep, model: Pick<DriveModel, "cruiseMS">): LineSetting {
  return { speedMS: tailValue(mission, step, "at") ?? model.cruiseMS, gain: tailValue(mission, step, "gain") ?? 1 };
}

/** Speeds and gains around a setting, the setting itself among them; nothing faster than the robot can. */
export function lineGrid(now: LineSetting, model: Pick<DriveModel, "topSpeedMS">): LineSetting[][] {
  const around = (value: number, shares: readonly number[], digits: number, most: number) => {
    const round = (one: number) => Math.floor(one * digits + 0.5) / digits;
    const all = shares.map((share) => (share === 1 ? value : round(value * share)));
    return [...new Set(all.map((one) => Math.max(1 / digits, one)))].filter((one) => one <= most || one === value);
  };
  const speeds = around(now.speedMS, SHARES, 100, model.topSpeedMS);
  const gains = around(now.gain, GAINS, 100, 10);
  return gains.map((gain) => speeds.map((speedMS) => ({ speedMS, gain })));
}

/** The mission with another speed and gain in one of its steps. @returns null when there is no such step */
export function withLineSetting(mission: Mission, line: number, { speedMS, gain }: LineSetting): string | null {
  const step = lineSteps(mission).find((candidate) => candidate.line === line);
  if (!step) return null;
  const said = `${plainDigits(speedMS * 100, 1)} cm/s`;
  const own = ownValue(mission, step);
  const speed = own
    ? mission.text.slice(0, own.start) + said + mission.text.slice(own.end)
    : withTail(mission.text, step, "at", `at ${said}`);
  const moved = lineSteps(parseMission(speed)).find((candidate) => candidate.line === line);
  const plain = gain === 1 && !step.tails.some(({ word }) => word === "gain");
  return moved && !plain ? withTail(speed, moved, "gain", `gain ${plainDigits(gain * 100, 0)} %`) : speed;
}

/** The value of a name that stands for this step's speed and for nothing else: that is where to change it. */
function ownValue(mission: Mission, step: LineStep): { readonly start: number; readonly end: number } | null {
  const value = step.tails.find((tail) => tail.word === "at")?.value;
  if (value?.type !== "name" || value.path.length !== 1) return null;
  const set = mission.sets.find(({ name }) => name.name === value.path[0]);
  const uses = mission.lines.flatMap(({ tokens }) => tokens).filter(({ text }) => text === value.path[0]).length;
  return set && uses === 2 && literalValue(set.value) !== null ? set.value : null;
}

function withTail(text: string, step: LineStep, word: "at" | "gain", words: string): string {
  const there = step.tails.find((tail) => tail.word === word);
  if (there) return text.slice(0, there.start) + words + text.slice(there.end);
  const order = (of: string) => (TAIL_ORDER as readonly string[]).indexOf(of);
  const before = step.tails.filter((tail) => order(tail.word) < order(word)).at(-1);
  const at = before?.end ?? step.sensor.end;
  return `${text.slice(0, at)} ${words}${text.slice(at)}`;
}

/** The same as a program: what runs is changed, and nothing has to be read anew. @param line - of the step, from 0 */
export function withLineCode(program: Program, line: number, { speedMS, gain }: LineSetting): Program {
  const instructions = program.instructions.map((one): Program["instructions"][number] => {
    if (one.op !== "drive" || one.motion.is !== "follow line" || one.line !== line + 1) return one;
    const options = { ...one.motion.options, at: [speedMS] };
    return { ...one, motion: { ...one.motion, gain: [gain], options } };
  });
  return { ...program, instructions };
}

/** One rehearsal of a mission, as the tuner counts it. @param step - the one that is tuned */
export function tuneRun(runnable: Runnable, step: FollowedLine, seed: number): LineRun {
  const { robot, field } = runnable.context;
  const { summary, trace } = rehearse(runnable, { seed, ideal: false });
  const passes = summary.steps.filter((one) => one.line === step.line + 1);
  const lost = runnable.program?.goal === null && passes.some(({ endedBy }) => endedBy === "lost");
  const figures = lineFigures(lineWays(trace, summary, step, robot, field), aheadOfLine(step, robot));
  const reason = summary.reason || (lost ? "the line was lost" : passes.length === 0 ? "the step never ran" : "");
  return {
    held: reason === "",
    ms: passes.reduce((sum, { startMs, endMs }) => sum + endMs - startMs, 0),
    losses: figures?.losses ?? 0,
    rmsM: figures?.rmsM ?? null,
    reason,
  };
}

export function lineCell(setting: LineSetting, runs: readonly LineRun[]): LineCell {
  const held = runs.filter((run) => run.held);
  const counted = held.length > 0 ? held : runs;
  const times = counted.map(({ ms }) => ms).sort((a, b) => a - b);
  const errors = counted.flatMap(({ rmsM }) => (rmsM === null ? [] : [rmsM]));
  return {
    ...setting,
    runs: runs.length,
    held: held.length,
    losses: runs.length > 0 ? runs.reduce((sum, run) => sum + run.losses, 0) / runs.length : 0,
    ms: times[Math.floor(times.length / 2)] ?? 0,
    rmsM: errors.length > 0 ? errors.reduce((sum, one) => sum + one, 0) / errors.length : null,
  };
}

/**
 * The best of several settings: what holds most often; among those what strays least; among those the quickest.
 * @returns null without cells
 */
export function bestCell(cells: readonly LineCell[]): LineCell | null {
  const share = (cell: LineCell) => (cell.runs > 0 ? cell.held / cell.runs : 0);
  return [...cells].sort((a, b) => share(b) - share(a) || a.losses - b.losses || a.ms - b.ms)[0] ?? null;
}
