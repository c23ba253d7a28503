// Which mission the Drive workplace opens with: the one in the address, else one made for the linked robot's driver.
import { api } from "../../shared/api.js";
import { useLink } from "../../shared/link/linkStore.js";

const LATEST_KEY = "giddy-pebble driven mission";

/** @returns the mission's id, or null to leave the choice to what opens missions */
export async function firstDriven(): Promise<string | null> {
  const list = await api.documents("mission");
  if (!list.ok) return null;
  const { documents } = list.value;
  // The mission of the address, when it is for a driver or was open here before the reload.
  const asked = new URL(window.location.href).searchParams.get("mission");
  const chosen = documents.find(({ id }) => id === asked);
  if (chosen && (chosen.remote || cameBack())) return chosen.id;
  const latest = localStorage.getItem(LATEST_KEY);
  if (latest && documents.some(({ id }) => id === latest)) return latest;
  const robot = useLink.getState().hello?.robot;
  const oldest = [...documents].sort((a, b) => a.createdAt.localeCompare(b.createdAt));
  const driven = oldest.filter(({ remote }) => remote);
  return (driven.find((mission) => !robot || mission.robot === robot) ?? driven[0])?.id ?? null;
}

/** Whether this page was here already: a reload, or Back and Forward. */
function cameBack(): boolean {
  const [entry] = performance.getEntriesByType("navigation");
  return entry !== undefined && (entry as PerformanceNavigationTiming).type !== "navigate";
}
