// What each known is worth on a mission of this robot.
import { headerValue, openFloor, parseMission, type Worth } from "@giddy-pebble/core";
import { api, type DocumentView } from "../../shared/api.js";
import { useCalibrate } from "./state.js";

const get = useCalibrate.getState;
const set = useCalibrate.setState;
let worker: Worker | null = null;
let asked = 0;

/** Rehearses the chosen mission, or the first one of this robot. */
export async function weigh(mission: string | null = get().worthMission): Promise<void> {
  const { open, missions } = get();
  if (!open) return;
  set({ worth: null });
  const found = mission === null ? await ownMission(open.robot.name, missions) : await textOf(mission);
  if (!found) return set({ worth: [] });
  set({ worthMission: found.id });
  ask(found.text, await fieldOf(headerValue(parseMission(found.text), "field")));
}

interface MissionText {
  readonly id: string;
  readonly text: string;
}

async function textOf(id: string): Promise<MissionText | null> {
  const found = await api.open(id);
  const text = found.ok ? (found.value.draft?.text ?? found.value.head.text) : null;
  return text === null ? null : { id, text };
}

/** The first mission written for this robot; any, when there is none. */
async function ownMission(robot: string, missions: readonly DocumentView[]): Promise<MissionText | null> {
  let first: MissionText | null = null;
  for (const { id } of missions) {
    const found = await textOf(id);
    if (found && headerValue(parseMission(found.text), "robot") === robot) return found;
    first ??= found;
  }
  return first;
}

async function fieldOf(name: string | null): Promise<unknown> {
  if (name === null) return openFloor();
  const fields = await api.documents("field");
  const found = fields.ok ? fields.value.documents.find((field) => field.name === name) : undefined;
  const open = found ? await api.open(found.id) : null;
  return open?.ok ? (open.value.draft?.body ?? open.value.head.body) : openFloor();
}

function ask(text: string, field: unknown): void {
  const { open } = get();
  if (!open) return;
  asked += 1;
  const id = asked;
  worker ??= new Worker(new URL("../../workers/worth.worker.ts", import.meta.url), { type: "module" });
  worker.onmessage = (event: MessageEvent<{ id: number; worth: Worth[] | null }>) => {
    if (event.data.id === asked) set({ worth: event.data.worth ?? [] });
  };
  worker.postMessage({ id, text, robot: open.robot, field });
}
