// The page: the workplace of its address, and the way from one to another without a new load.
import "../shared/noEval.js";
import type { ComponentType } from "react";
import { type Pages, useShown } from "../shared/going.js";
import { Themed } from "../shared/theme.js";

const PAGES: Pages = {
  "/": async () => (await import("./home/HomeWorkplace.js")).HomeWorkplace,
  "/robot": async () => (await import("./robot/RobotWorkplace.js")).RobotWorkplace,
  "/calibrate": async () => (await import("./calibrate/CalibrateWorkplace.js")).CalibrateWorkplace,
  "/field": async () => (await import("./field/FieldWorkplace.js")).FieldWorkplace,
  "/mission": async () => (await import("./mission/MissionWorkplace.js")).MissionWorkplace,
  "/drive": async () => (await import("./drive/DriveWorkplace.js")).DriveWorkplace,
  "/trials": async () => (await import("./trials/TrialsWorkplace.js")).TrialsWorkplace,
  "/notebook": async () => (await import("./notebook/NotebookWorkplace.js")).NotebookWorkplace,
  "/run": async () => (await import("./run/RunWorkplace.js")).RunWorkplace,
  "/help": async () => (await import("./help/HelpWorkplace.js")).HelpWorkplace,
};

/** @param opening - what is said until the first workplace is there */
export function App({ opening }: { opening: string }) {
  const shown = useShown(PAGES);
  if (!shown)
    return (
      <div className="skeleton">
        <div>Giddy Pebble</div>
        <div>{opening}</div>
      </div>
    );
  return <Themed>{visited(shown.Workplace, shown.visit)}</Themed>;
}

/** A visit begins with nothing of the one before. */
function visited(Workplace: ComponentType, visit: string) {
  return <Workplace key={visit} />;
}
