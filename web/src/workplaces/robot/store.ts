// What a person does in the Robot workplace beside what every open document has: choosing parts, files, another robot.
import { emptyRobot, findPart, openRobot, type Robot } from "@giddy-pebble/core";
import { renameStandIn } from "../../shared/link/linkStore.js";
import { documentActions } from "../../shared/shell/documentStore.js";
import { derived, initialState, type SidePanel, useRobot } from "./state.js";

const get = useRobot.getState;
const set = useRobot.setState;

export const {
  start,
  returnTo,
  openDocument: openRobotDocument,
  change,
  undo,
  redo,
  nameRevision,
  restoreRevision,
  make,
  freeName,
  settle,
} = documentActions<Robot>({
  kind: "robot",
  place: "robot",
  get,
  set,
  present: () => get().robot,
  put: (robot, changes, fresh) => {
    const { view, mirror, bottom, selected } = get();
    set({
      ...(fresh ? { ...initialState(), view, mirror, bottom } : {}),
      ...changes,
      robot,
      selected: fresh || !findPart(robot, selected) ? "chassis" : selected,
      ...derived(robot),
    });
  },
  read: openRobot,
  onRenamed: (robot, before) => void renameStandIn(robot, before),
});

export function select(ref: string): void {
  set({ selected: ref });
}

export function showPanel(panel: SidePanel): void {
  set({ panel: get().panel === panel ? "none" : panel });
}

/** A robot of its own, from nothing or from the one that is open. */
export function makeRobot(name: string, from: "empty" | "this", body?: Robot): Promise<string | null> {
  const robot = { ...(body ?? (from === "this" ? get().robot : emptyRobot(name))), name };
  return make(robot, body ? "imported" : from === "this" ? `made from ${get().robot.name}` : "made");
}

const LARGEST_FILE = 2_000_000;

/** Reads a robot file and makes it a robot of its own. @returns what is wrong with it, as a sentence */
export async function importRobot(file: File): Promise<string | null> {
  if (file.size > LARGEST_FILE)
    return `${file.name} has ${Math.round(file.size / 1e6)} MB. A robot file has 2 MB at most; choose one that was exported here.`;
  let value: unknown;
  try {
    value = JSON.parse(await file.text());
  } catch {
    return `${file.name} is not JSON. Choose a file that was exported here.`;
  }
  const read = openRobot(value);
  if (!read.ok) return `${file.name} cannot be taken: ${read.problems.slice(0, 3).join("; ")}.`;
  return makeRobot(freeName(read.document.name), "this", read.document);
}
