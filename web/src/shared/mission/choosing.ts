// Which steps are chosen, and what can be done with them together: by keys and by the row of acts below the steps.
import {
  applyChange,
  commentStep,
  copySteps,
  deleteSteps,
  disableSteps,
  duplicateSteps,
  indentSteps,
  makeRoutine,
  NEVER_NAMES,
  neighbour,
  outdentSteps,
  type Place,
  parseMission,
  pasteSteps,
  placesOf,
  type TextChange,
  wrapSteps,
} from "@giddy-pebble/core";
import { selectedLine, useMission } from "./state.js";
import { edit, selectLine } from "./store.js";

const get = useMission.getState;
const set = useMission.setState;

/** Lines of all chosen steps, the selected one among them. */
export function chosenLines(): number[] {
  const state = get();
  const { lineIds } = state.history.present;
  const line = selectedLine(state);
  const others = [...state.chosen].map((id) => lineIds.indexOf(id)).filter((index) => index >= 0);
  return [...new Set(line === null ? others : [line, ...others])].sort((a, b) => a - b);
}

export function chosenPlaces(): Place[] {
  return placesOf(get().mission, chosenLines());
}

/** Chooses one more step, or lets it go. */
export function toggleChosen(line: number): void {
  const { history, chosen } = get();
  const id = history.present.lineIds[line];
  if (id === undefined) return;
  const next = new Set(chosen);
  const selected = selectedLine(get());
  if (selected === line) return;
  if (next.has(id)) next.delete(id);
  else next.add(id);
  set({ chosen: next });
}

/** Chooses every step from the selected one to another. */
export function chooseTo(line: number, stepLines: readonly number[]): void {
  const { history } = get();
  const from = selectedLine(get()) ?? line;
  const [low, high] = from < line ? [from, line] : [line, from];
  set({
    chosen: new Set(
      stepLines.filter((one) => one >= low && one <= high).flatMap((one) => history.present.lineIds[one] ?? []),
    ),
  });
}

export function chooseOne(line: number | null): void {
  if (get().chosen.size > 0) set({ chosen: new Set() });
  selectLine(line);
}

function apply(change: TextChange | null, label: string, refusal: string, line?: number | null): boolean {
  if (!change) {
    set({ message: refusal });
    return false;
  }
  edit(change, label, line);
  return true;
}

const several = (places: readonly Place[]) => (places.length === 1 ? "a step" : `${places.length} steps`);

export function removeChosen(): void {
  const places = chosenPlaces();
  const [first] = places;
  if (!first) return;
  const last = places.at(-1) as Place;
  const next = neighbour(last, 1) ?? neighbour(first, -1);
  const change = deleteSteps(get().mission, places);
  if (!change) return;
  // The step after them is on the line where the first one stood.
  const now = parseMission(applyChange(get().mission.text, change));
  const after = next ? placesOf(now, [first.statement.line])[0] : undefined;
  const line =
    after?.statement.line ?? (next && next.statement.line < first.statement.line ? next.statement.line : null);
  edit(change, `deleting ${several(places)}`, line);
  set({ chosen: new Set() });
}

export async function copyChosen(): Promise<string> {
  const places = chosenPlaces();
  const text = copySteps(get().mission, places);
  if (places.length === 0) return "";
  await navigator.clipboard?.writeText(text).catch(() => {});
  set({ message: `Copied ${several(places)} as text.` });
  return text;
}

export function paste(text: string): void {
  if (text.trim() === "") return;
  const { mission } = get();
  const after = chosenPlaces().at(-1) ?? null;
  const change = pasteSteps(mission, text, after);
  const trial = change ? parseMission(applyChange(mission.text, change)) : null;
  const broken = trial?.problems.find((problem) => problem.severity === "error");
  if (broken && mission.problems.length === 0) return set({ message: `That was not pasted: ${broken.message}` });
  apply(change, "pasting steps", "There is nothing to paste.");
}

export async function pasteClipboard(): Promise<void> {
  const text = await navigator.clipboard?.readText().catch(() => "");
  if (text) paste(text);
  else set({ message: "The clipboard cannot be read here. Use Ctrl+V." });
}

export function duplicateChosen(): void {
  const places = chosenPlaces();
  apply(duplicateSteps(get().mission, places), `duplicating ${several(places)}`, "Choose a step first.");
}

const APART = "These steps do not stand side by side. Choose neighbours.";

export function wrapChosen(how: "repeat" | "if" | "during"): void {
  const places = chosenPlaces();
  const line = places[0]?.statement.line;
  apply(wrapSteps(get().mission, places, how), `putting ${several(places)} into ${how}`, APART, line);
  set({ chosen: new Set() });
}

export function indentChosen(): void {
  apply(indentSteps(get().mission, chosenPlaces()), "moving in", "There is no step with steps inside right above.");
}

export function outdentChosen(): void {
  apply(
    outdentSteps(get().mission, chosenPlaces()),
    "moving out",
    "These cannot move out: they are outermost, or their block would be empty.",
  );
}

export function disableChosen(): void {
  const places = chosenPlaces();
  apply(
    disableSteps(get().mission, places),
    `switching off ${several(places)}`,
    "The last step of a block cannot be switched off. Switch off the whole block.",
    null,
  );
}

export function commentChosen(words: string): void {
  const [place] = chosenPlaces();
  if (place) apply(commentStep(get().mission, place, words), "adding a comment", "Type a comment first.");
}

/** @returns why not, or null */
export function routineOfChosen(name: string): string | null {
  const { mission, prepared } = get();
  if (!/^[A-Za-z_]\w*$/.test(name)) return "A name has letters, digits and _, and begins with a letter.";
  if (NEVER_NAMES.has(name)) return `"${name}" is a word of the language. Choose another name.`;
  const symbols = prepared?.check.symbols;
  if (symbols?.globals.has(name) || symbols?.routines.has(name)) return `"${name}" is taken already.`;
  const change = makeRoutine(mission, chosenPlaces(), name);
  if (!change) return APART;
  edit(change, `making the routine ${name}`, null);
  set({ chosen: new Set() });
  return null;
}
