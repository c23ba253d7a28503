// Two windows on one mission: both versions can be kept.
import { Conflict, type WayOn } from "../shell/Conflict.js";
import { keepBoth, keepMine, takeTheirs } from "./settling.js";
import { useMission } from "./state.js";

const WAYS: readonly WayOn[] = [
  { label: "Keep both", act: () => void keepBoth() },
  { label: "Go on with mine", act: () => void keepMine() },
  { label: "Take the other", act: takeTheirs },
];

export function MissionConflict() {
  const save = useMission((state) => state.save);
  return <Conflict save={save} word="mission" ways={WAYS} />;
}
