// Keys and clipboard of the step list. What needs Ctrl or Alt works wherever the focus is while steps are shown; plain
// keys work on the list, its rows and where nothing has the focus.
import { copySteps, moveStep, neighbour, placeAtLine } from "@giddy-pebble/core";
import { useEffect } from "react";
import { type Binding, isTyping } from "../../shared/keys.js";
import {
  chooseOne,
  chooseTo,
  chosenLines,
  chosenPlaces,
  disableChosen,
  duplicateChosen,
  indentChosen,
  outdentChosen,
  paste,
  removeChosen,
} from "../../shared/mission/choosing.js";
import { selectedLine, useMission } from "../../shared/mission/state.js";
import { edit } from "../../shared/mission/store.js";

/** Moves the step on a line past the one above or below it in its block. */
function moveByKey(direction: -1 | 1): void {
  const line = selectedLine(useMission.getState());
  if (line === null) return;
  const { mission } = useMission.getState();
  const place = placeAtLine(mission, line);
  const other = place && neighbour(place, direction);
  if (!place || !other) return;
  edit(moveStep(mission, place, other, direction === -1 ? "before" : "after"), "moving a step");
}

function chooseAll(stepLines: readonly number[]): void {
  const { lineIds } = useMission.getState().history.present;
  const first = stepLines[0];
  if (first === undefined) return;
  chooseOne(first);
  useMission.setState({ chosen: new Set(stepLines.flatMap((line) => lineIds[line] ?? [])) });
}

/** Moves the selection, or with Shift the far end of the choice; the step that began with stays selected. */
function moveSelection(event: KeyboardEvent, stepLines: readonly number[], to: (at: number) => number): void {
  const selected = selectedLine(useMission.getState());
  const lines = event.shiftKey ? chosenLines() : [];
  const end = selected !== null && lines[0] === selected ? lines.at(-1) : lines[0];
  const at = stepLines.indexOf(end ?? selected ?? -1);
  const line = stepLines[Math.max(0, Math.min(stepLines.length - 1, to(at)))];
  if (line === undefined) return;
  if (event.shiftKey) chooseTo(line, stepLines);
  else chooseOne(line);
}

/** Whether a step is being written as text: its keys are the text's, and no other act of the browser's either. */
function isEditingStep(event: KeyboardEvent): boolean {
  return event.target instanceof Element && event.target.closest(".row .editor-in") !== null;
}

function onNumber(event: KeyboardEvent): boolean {
  return event.target instanceof Element && event.target.closest("[role=spinbutton]") !== null;
}

export function stepKeys(stepLines: readonly number[], startEdit: (line: number) => void): Binding[] {
  const last = stepLines.length - 1;
  const chord = (keys: string, act: () => void): Binding => ({
    keys,
    where: "anywhere",
    act: (event) => {
      if (!isEditingStep(event)) act();
    },
  });
  const go = (keys: string, to: (at: number) => number): Binding => ({
    keys: `${keys} Shift+${keys}`,
    where: "page",
    act: (event) => moveSelection(event, stepLines, to),
  });
  const editSelected = () => {
    const selected = selectedLine(useMission.getState());
    if (selected === null) return false;
    startEdit(selected);
  };
  return [
    chord("$mod+d", duplicateChosen),
    chord("$mod+/", disableChosen),
    chord("Alt+ArrowUp", () => moveByKey(-1)),
    chord("Alt+ArrowDown", () => moveByKey(1)),
    chord("Alt+ArrowRight", indentChosen),
    chord("Alt+ArrowLeft", outdentChosen),
    { keys: "$mod+a", where: "page", act: () => chooseAll(stepLines) },
    go("ArrowDown", (at) => at + 1),
    go("ArrowUp", (at) => (at === -1 ? last : at - 1)),
    go("Home", () => 0),
    go("End", () => last),
    {
      keys: "Delete",
      where: "outside text",
      act: (event) => (onNumber(event) || selectedLine(useMission.getState()) === null ? false : removeChosen()),
    },
    { keys: "Backspace", where: "page", act: () => removeChosen() },
    { keys: "Enter F2", where: "page", act: editSelected },
    {
      keys: "Escape",
      where: "page",
      act: () => {
        chooseOne(null);
        // Panels close by it as well.
        return false;
      },
    },
  ];
}

/** Copy, cut and paste of steps, as text, unless some text is marked or being written. */
export function useClipboard(): void {
  useEffect(() => {
    const ofSteps = (event: ClipboardEvent) => {
      if (isTyping(event.target) || isTyping(document.activeElement)) return false;
      return event.type === "paste" || (window.getSelection()?.isCollapsed !== false && chosenLines().length > 0);
    };
    const take = (event: ClipboardEvent) => {
      if (!ofSteps(event)) return;
      event.preventDefault();
      if (event.type === "paste") return paste(event.clipboardData?.getData("text/plain") ?? "");
      event.clipboardData?.setData("text/plain", copySteps(useMission.getState().mission, chosenPlaces()));
      if (event.type === "cut") removeChosen();
      else useMission.setState({ message: "Copied as text." });
    };
    for (const type of ["copy", "cut", "paste"] as const) document.addEventListener(type, take);
    return () => {
      for (const type of ["copy", "cut", "paste"] as const) document.removeEventListener(type, take);
    };
  }, []);
}
