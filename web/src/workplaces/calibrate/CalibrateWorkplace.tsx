// The Calibrate workplace: what is known of a robot on the left, one procedure on the right.
import "../../shared/noEval.js";
import { PROCEDURES } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { Pick } from "../../shared/controls.js";
import type { Binding } from "../../shared/keys.js";
import { linkTo, placed } from "../../shared/place.js";
import type { Shortcut } from "../../shared/Shortcuts.js";
import { Workplace } from "../../shared/shell/Shell.js";
import { KnownList } from "./KnownList.js";
import { runMore, whyNotMeasured } from "./measuring.js";
import { ProcedureView } from "./ProcedureView.js";
import { useCalibrate } from "./state.js";
import { choose, openRobot, returnTo, start, undoRows } from "./store.js";

const SHORTCUTS: readonly Shortcut[] = [
  ["↑ ↓ in the list", "choose what to measure"],
  ["R", "run once on the linked robot"],
  ["Esc", "halt the robot"],
  ["Enter in the table", "the cell below, or a new row"],
];

const KEYS: readonly Binding[] = [
  { keys: "r", where: "outside text", act: () => (whyNotMeasured() === null ? void runMore(1) : false) },
];

export function CalibrateWorkplace() {
  const phase = useCalibrate((state) => state.phase);
  const open = useCalibrate((state) => state.open);
  const message = useCalibrate((state) => state.message);
  const name = open?.robot.name ?? null;
  return (
    <Workplace
      id="calibrate"
      phase={phase.is === "ready" && !open ? { is: "loading" } : phase}
      word="robot"
      name={name}
      robot={name}
      open={() => void start(placed("robot"), placed("known"))}
      back={() => void returnTo(placed("robot"), placed("known"))}
      empty={<NoRobot />}
      failed={<Unfit />}
      undoing={{ undo: undoRows }}
      keys={KEYS}
      shortcuts={SHORTCUTS}
      message={message}
      said={() => useCalibrate.setState({ message: null })}
    >
      <main className="calibrate">
        <KnownList />
        <ProcedureView />
      </main>
    </Workplace>
  );
}

/** A robot that has errors cannot be measured: the way to them, and to the other robots. */
function Unfit() {
  const phase = useCalibrate((state) => state.phase);
  const robots = useCalibrate((state) => state.robots);
  const wanted = useCalibrate((state) => state.wanted);
  if (phase.is !== "failed") return null;
  return (
    <>
      <h1>This robot cannot be calibrated yet</h1>
      <p>{phase.message}</p>
      <p>
        <Button variant="contained" href={linkTo("/robot")}>
          Fix it in the Robot workplace
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
    </>
  );
}

function NoRobot() {
  return (
    <>
      <h1>No robot to measure yet</h1>
      <p>Describe your robot first: what is drawn is where measuring begins.</p>
      <Button variant="contained" href={linkTo("/robot")}>
        Describe a robot
      </Button>
    </>
  );
}

/** Next procedure of the list that fits this robot, for the arrow keys. */
export function chooseNext(step: 1 | -1): void {
  const { procedure, open } = useCalibrate.getState();
  if (!open) return;
  const fits = PROCEDURES.filter((one) => one.unfit(open.robot) === null);
  const next = fits[fits.indexOf(procedure) + step];
  if (next) choose(next);
}
