// Edits of `remote` as changes of the text: how the sticks drive, what buttons do, and the first block of all.
import type { StickMode } from "../remote/mapping.js";
import { STICK_WORDS, type StickWord } from "../words/language.js";
import type { TextChange } from "./edits.js";
import { walk } from "./symbols.js";
import { bodiesOf, type Mission, type Statement, statementsOf } from "./tree.js";

type DriveLine = Extract<Statement, { type: "drive" }>;

/** What the sticks do when nothing is said yet; for drivers that are only on or off with the push that counts. */
function usualDriveLine(onOff = false): string {
  const tail = onOff ? " switching 50 %" : " turning 60 % dead 12 % curve 1.8 ramp 80 cm/s/s";
  return `drive one stick at 30 cm/s${tail}`;
}

/** The line about the sticks, or null. */
export function driveLine(mission: Mission): DriveLine | null {
  const found = mission.remote && statementsOf(mission.remote).find((line) => line.type === "drive");
  return found?.type === "drive" ? found : null;
}

/** Whether any step hands over. */
export function handsOver(mission: Mission): boolean {
  let found = false;
  for (const block of bodiesOf(mission))
    walk(block, (statement) => {
      if (statement.type === "hand over") found = true;
    });
  return found;
}

export function setStickMode(mission: Mission, mode: StickMode): TextChange | null {
  const line = driveLine(mission);
  if (!line) return null;
  const end = line.settings[0]?.start ?? line.end;
  return { start: line.start, end, insert: `drive ${mode}${line.settings.length > 0 ? " " : ""}` };
}

/** @param value - as it is written, with its unit; null takes the setting out */
export function setStick(mission: Mission, word: StickWord, value: string | null): TextChange | null {
  const line = driveLine(mission);
  if (!line) return null;
  const known = line.settings.find((setting) => setting.word === word);
  if (known && value === null) return { start: known.start - 1, end: known.end, insert: "" };
  if (known) return { start: known.value.start, end: known.value.end, insert: value ?? "" };
  if (value === null) return null;
  const before = line.settings
    .filter((setting) => STICK_WORDS.indexOf(setting.word) < STICK_WORDS.indexOf(word))
    .at(-1);
  const first = line.settings[0];
  if (!before && first) return { start: first.start, end: first.start, insert: `${word} ${value} ` };
  const at = before?.end ?? line.end;
  return { start: at, end: at, insert: ` ${word} ${value}` };
}

/** Adds a line at the end of `remote`; makes the block when there is none. */
export function addRemoteLine(mission: Mission, line: string): TextChange {
  const { text, remote } = mission;
  const last = remote && statementsOf(remote).at(-1);
  if (last) {
    const at = mission.lines[last.line]?.end ?? last.end;
    return { start: at, end: at, insert: `\n  ${line}` };
  }
  const gap = text.endsWith("\n") ? "\n" : "\n\n";
  return { start: text.length, end: text.length, insert: `${gap}remote\n  ${line}\n` };
}

/** Makes a mission drivable: a step that hands over at its end, and a block with the usual sticks. */
export function makeDriven(mission: Mission, onOff = false): string {
  const { text, body } = mission;
  const last = body && statementsOf(body).at(-1);
  const at = last ? (mission.lines[Math.max(last.line, (body?.endLine ?? 1) - 1)]?.end ?? last.end) : text.length;
  const step = handsOver(mission) ? "" : "\n  hand over";
  const withStep = text.slice(0, at).trimEnd() + step + text.slice(at);
  const block = mission.remote ? "" : `\nremote\n  ${usualDriveLine(onOff)}\n`;
  return `${withStep.trimEnd()}\n${block}`;
}

/** The mission with steps in the place of those that hand over, and without `remote`: it drives by itself. */
export function drivenByItself(mission: Mission, steps: readonly string[]): string {
  const { lines, remote } = mission;
  const handing = new Set<number>();
  for (const block of bodiesOf(mission))
    walk(block, (statement) => {
      if (statement.type === "hand over") handing.add(statement.line);
    });
  let replaced = false;
  const kept = lines.flatMap((line) => {
    if (remote && line.index >= remote.headLine && line.index < remote.endLine) return [];
    const written = mission.text.slice(line.start, line.end);
    if (!handing.has(line.index)) return [written];
    const own = replaced ? [] : steps.map((step) => " ".repeat(line.indent) + step);
    replaced = true;
    return own.length > 0 ? own : [`${" ".repeat(line.indent)}wait 0.1 s`];
  });
  return `${kept.join("\n").trimEnd()}\n`;
}
