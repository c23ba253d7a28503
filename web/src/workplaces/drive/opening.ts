// Which mission the Drive workplace opens with: the one in the address, else one made for the linked robot's driver.
import { api } from "../../shared/api.js";
import { useLink } from "../../shared/link/linkStore.js";

const LATEST_KEY = "giddy-pebble driven mission";

/** @returns the mission's id, or null to leave the choice to what opens missions */
export async function firstDriven(): Promise<string | null> {
  const list = await api.documents("mission");
  if (!list.ok) return null;
  const { documents } = list.value;
  const asked = new URL(window.location.href).searchParams.get("mission");
  if (asked !== null && documents.some(({ id }) => id === asked)) return asked;
  const latest = localStorage.getItem(LATEST_KEY);
  if (latest && documents.some(({ id }) => id === latest)) return latest;
  const robot = useLink.getState().hello?.robot;
  const oldest = [...documents].sort((a, b) => a.createdAt.localeCompare(b.createdAt));
  const driven = oldest.filter(({ remote }) => remote);
  return (driven.find((mission) => !robot || mission.robot === robot) ?? driven[0])?.id ?? null;
}
