// The Calibrate workplace: what is known of a robot on the left, one procedure on the right.
import "../../shared/noEval.js";
import "./calibrate.css";
import { PROCEDURES } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { Frame } from "../../shared/Frame.js";
import { isTyping, type Shortcut, Shortcuts } from "../../shared/Shortcuts.js";
import { Toast } from "../../shared/Toast.js";
import { Themed } from "../../shared/theme.js";
import { KnownList } from "./KnownList.js";
import { runMore, whyNotMeasured } from "./measuring.js";
import { ProcedureView } from "./ProcedureView.js";
import { useCalibrate } from "./state.js";
import { choose, start, undoRows } from "./store.js";

const SHORTCUTS: readonly Shortcut[] = [
  ["Ctrl+Z", "undo a change of the table"],
  ["↑ ↓ in the list", "choose what to measure"],
  ["R", "run once on the linked robot"],
  ["Esc", "halt the robot"],
  ["Enter in the table", "the cell below, or a new row"],
  ["?", "this list"],
];

export function CalibrateWorkplace() {
  return (
    <Themed>
      <Calibrate />
    </Themed>
  );
}

function useShortcuts(showHelp: () => void): void {
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      const mod = event.ctrlKey || event.metaKey;
      if (isTyping(event.target)) return;
      if (mod && event.key.toLowerCase() === "z") undoRows();
      else if (mod || event.altKey) return;
      else if (event.key === "?") showHelp();
      else if (event.key.toLowerCase() === "r" && whyNotMeasured() === null) void runMore(1);
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, [showHelp]);
}

function Calibrate() {
  const phase = useCalibrate((state) => state.phase);
  const open = useCalibrate((state) => state.open);
  const [help, setHelp] = useState(false);
  const toggle = useState(() => () => setHelp((shown) => !shown))[0];
  useShortcuts(toggle);
  useEffect(() => {
    const { searchParams } = new URL(window.location.href);
    void start(searchParams.get("robot"), searchParams.get("known"));
  }, []);
  return (
    <Frame current="calibrate" robot={open?.robot.name ?? null}>
      {phase.is === "ready" && open ? (
        <main className="calibrate">
          <KnownList />
          <ProcedureView />
        </main>
      ) : (
        <Waiting />
      )}
      {help && <Shortcuts list={SHORTCUTS} close={() => setHelp(false)} />}
      <CalibrateToast />
    </Frame>
  );
}

function Waiting() {
  const phase = useCalibrate((state) => state.phase);
  if (phase.is === "failed")
    return (
      <main className="centre">
        <h1>This robot cannot be calibrated yet</h1>
        <p>{phase.message}</p>
        <a href="/robot">Go to the Robot workplace</a>
      </main>
    );
  if (phase.is === "empty")
    return (
      <main className="centre">
        <h1>No robot to measure yet</h1>
        <p>Describe your robot first: what is drawn is where measuring begins.</p>
        <Button variant="contained" href="/robot">
          Describe a robot
        </Button>
      </main>
    );
  return <main className="centre quiet">Opening what is known…</main>;
}

function CalibrateToast() {
  const message = useCalibrate((state) => state.message);
  return <Toast message={message} clear={() => useCalibrate.setState({ message: null })} />;
}

/** Next procedure of the list that fits this robot, for the arrow keys. */
export function chooseNext(step: 1 | -1): void {
  const { procedure, open } = useCalibrate.getState();
  if (!open) return;
  const fits = PROCEDURES.filter((one) => one.unfit(open.robot) === null);
  const next = fits[fits.indexOf(procedure) + step];
  if (next) choose(next);
}
