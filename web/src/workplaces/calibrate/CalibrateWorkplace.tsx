// The Calibrate workplace: what is known of a robot on the left, one procedure on the right.
import "../../shared/noEval.js";
import "./calibrate.css";
import { PROCEDURES } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { Pick } from "../../shared/controls.js";
import { Frame } from "../../shared/Frame.js";
import { useKeys } from "../../shared/keys.js";
import { linkTo, onReturn, placed, titled } from "../../shared/place.js";
import { type Shortcut, Shortcuts } from "../../shared/Shortcuts.js";
import { Toast } from "../../shared/Toast.js";
import { Themed } from "../../shared/theme.js";
import { KnownList } from "./KnownList.js";
import { runMore, whyNotMeasured } from "./measuring.js";
import { ProcedureView } from "./ProcedureView.js";
import { useCalibrate } from "./state.js";
import { choose, openRobot, returnTo, start, undoRows } from "./store.js";

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
  useKeys([
    { keys: "$mod+z", where: "outside text", act: undoRows },
    { keys: "?", where: "outside text", act: showHelp },
    {
      keys: "r",
      where: "outside text",
      act: () => (whyNotMeasured() === null ? void runMore(1) : false),
    },
  ]);
}

function Calibrate() {
  const phase = useCalibrate((state) => state.phase);
  const open = useCalibrate((state) => state.open);
  const [help, setHelp] = useState(false);
  const toggle = useState(() => () => setHelp((shown) => !shown))[0];
  useShortcuts(toggle);
  useEffect(() => {
    void start(placed("robot"), placed("known"));
    return onReturn(() => void returnTo(placed("robot"), placed("known")));
  }, []);
  const name = open?.robot.name ?? null;
  useEffect(() => titled(name, "Calibrate"), [name]);
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
  const robots = useCalibrate((state) => state.robots);
  const wanted = useCalibrate((state) => state.wanted);
  if (phase.is === "failed")
    return (
      <main className="centre">
        <h1>This robot cannot be calibrated yet</h1>
        <p>{phase.message}</p>
        <p>
          <Button variant="contained" href={linkTo("/robot")}>
            Mend it in the Robot workplace
          </Button>
        </p>
        {robots.length > 1 && (
          <p>
            <label>
              Or measure another robot:{" "}
              <Pick aria-label="Robot" value={wanted ?? ""} onChange={(event) => void openRobot(event.target.value)}>
                {robots.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </Pick>
            </label>
          </p>
        )}
      </main>
    );
  if (phase.is === "empty")
    return (
      <main className="centre">
        <h1>No robot to measure yet</h1>
        <p>Describe your robot first: what is drawn is where measuring begins.</p>
        <Button variant="contained" href={linkTo("/robot")}>
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
