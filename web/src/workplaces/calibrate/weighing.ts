// What each known is worth on a mission of this robot.
import { headerValue, openFloor, parseMission, type Worth } from "@giddy-pebble/core";
import { api } from "../../shared/api.js";
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
  for (const { id } of mission === null ? missions : missions.filter((one) => one.id === mission)) {
    const found = await api.open(id);
    if (!found.ok) continue;
    const text = found.value.draft?.text ?? found.value.head.text;
    if (text === null) continue;
    const parsed = parseMission(text);
    if (headerValue(parsed, "robot") !== open.robot.name && mission === null) continue;
    set({ worthMission: id });
    return ask(text, await fieldOf(headerValue(parsed, "field")));
  }
  set({ worth: [] });
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
