// What each known is worth on a mission of the open robot.

import { inThisVisit } from "../../shared/visit.js";
import { missionText, ownMission, weighOn } from "../../shared/weighing.js";
import { useCalibrate } from "./state.js";

const get = useCalibrate.getState;
const set = useCalibrate.setState;
let latest = 0;

/** Rehearses the chosen mission, or the first one of this robot. */
export async function weigh(mission: string | null = get().worthMission): Promise<void> {
  const { open, missions } = get();
  if (!open) return;
  latest += 1;
  const asked = latest;
  set({ worth: null });
  const found = mission === null ? await ownMission(open.robot.name, missions) : await missionText(mission);
  if (!found) return set({ worth: [] });
  set({ worthMission: found.id });
  const worth = await inThisVisit(weighOn(found.text, open.robot));
  // Another robot or mission was chosen meanwhile: its own answer comes.
  if (asked !== latest) return;
  set({ worth: worth ?? [] });
  if (worth === null)
    set({ message: "The effect of each known could not be worked out. Choose another mission, or reload the page." });
}
