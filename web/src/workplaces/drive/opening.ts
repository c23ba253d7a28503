// Which mission the Drive workplace opens with: the one in the address, else one made for the linked robot's driver.
import { headerValue, parseMission } from "@giddy-pebble/core";
import { api } from "../../shared/api.js";
import { useLink } from "../../shared/link/linkStore.js";

const LATEST_KEY = "giddy-pebble driven mission";

/** @returns the mission's id, or null to leave the choice to what opens missions */
export async function firstDriven(): Promise<string | null> {
  const asked = new URL(window.location.href).searchParams.get("mission");
  if (asked) return asked;
  const list = await api.documents("mission");
  if (!list.ok) return null;
  const { documents } = list.value;
  const latest = localStorage.getItem(LATEST_KEY);
  if (latest && documents.some(({ id }) => id === latest)) return latest;
  const robot = useLink.getState().hello?.robot;
  const oldest = [...documents].sort((a, b) => a.createdAt.localeCompare(b.createdAt));
  let first: string | null = null;
  for (const { id } of oldest) {
    const opened = await api.open(id);
    const text = opened.ok ? (opened.value.draft?.text ?? opened.value.head.text) : null;
    const mission = text ? parseMission(text) : null;
    if (!mission?.remote) continue;
    first ??= id;
    if (!robot || headerValue(mission, "robot") === robot) return id;
  }
  return first;
}
