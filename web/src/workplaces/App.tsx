// The page: the workplace of its address, and the way from one to another without a new load.
import "../shared/noEval.js";
import { useEffect, useRef, useState } from "react";
import { begin, type Pages, useShown } from "../shared/going.js";
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

void begin(PAGES);

/** @param opening - what is said until the first workplace is there */
export function App({ opening }: { opening: string }) {
  const shown = useShown();
  if (shown === null || shown === "unfetched")
    return (
      <div className="skeleton">
        <div>Giddy Pebble</div>
        <div>{shown === null ? opening : "This page could not be fetched whole. Reload it."}</div>
      </div>
    );
  const { visit, Workplace } = shown;
  return (
    <Themed>
      {/* A visit begins with nothing of the one before. */}
      <Workplace key={visit} />
      <Announced visit={visit} />
    </Themed>
  );
}

/** Says where a person is who does not see it, as a browser says the title of a page that it loads. */
function Announced({ visit }: { visit: string }) {
  const [words, setWords] = useState("");
  const before = useRef(visit);
  useEffect(() => {
    if (visit === before.current) return;
    before.current = visit;
    setWords(document.title);
  }, [visit]);
  return (
    <p className="unseen" role="status">
      {words}
    </p>
  );
}
