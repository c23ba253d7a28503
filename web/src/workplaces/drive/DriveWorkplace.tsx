// The Drive workplace: sticks and buttons on the left, the field in the middle, the link and readings on the right.
import "../../shared/noEval.js";
import Button from "@mui/material/Button";
import { useEffect } from "react";
import { Pick } from "../../shared/controls.js";
import { type Binding, isTyping } from "../../shared/keys.js";
import { useLink } from "../../shared/link/linkStore.js";
import { FieldCanvas } from "../../shared/mission/FieldCanvas.js";
import { MissionConflict } from "../../shared/mission/MissionConflict.js";
import { NewMission } from "../../shared/mission/NewMission.js";
import { whyNotSent } from "../../shared/mission/robotRun.js";
import { useMission } from "../../shared/mission/state.js";
import { openMission, redo, returnTo, start, undo } from "../../shared/mission/store.js";
import { linkTo, placed } from "../../shared/place.js";
import type { Shortcut } from "../../shared/Shortcuts.js";
import { Foot, Workplace } from "../../shared/shell/Shell.js";
import { clockWords, lapWords, startBeating, startDriving, stopDriving, useCalmDrive, useDrive } from "./driving.js";
import { isHandKey, keyMoved } from "./hands.js";
import { BLIND_RUNS, type Blind, cancelBlind, driveBlind, fitShown, isDrive, keepAsSteps, useKeep } from "./keeping.js";
import { LivePanel, useChannels } from "./LivePanel.js";
import { firstDriven } from "./opening.js";
import { Remote } from "./Remote.js";
import { Strips } from "./Strips.js";
import { TouchStick } from "./TouchStick.js";

const SHORTCUTS: readonly Shortcut[] = [
  ["W A S D", "left stick"],
  ["← ↑ → ↓", "the same stick; with tank, and with two on roller wheels, the right one"],
  ["Space, E, Q, R", "thumb.lower, .right, .left, .upper"],
  ["Z, X", "shoulder.left, shoulder.right"],
  ["Shift, F", "trigger.left, trigger.right"],
  ["Enter", "middle.right"],
  ["Esc", "stop the robot"],
  ["Ctrl+Enter", "drive"],
];

const KEYS: readonly Binding[] = [{ keys: "$mod+Enter", where: "anywhere", act: () => void startDriving() }];

export function DriveWorkplace() {
  const phase = useMission((state) => state.phase);
  const robot = useMission((state) => state.robot);
  const trials = useMission((state) => state.trials);
  const name = useMission((state) => state.open?.name ?? null);
  const message = useMission((state) => state.message);
  const drives = trials.filter(({ source }) => source === "drive").length;
  return (
    <Workplace
      id="drive"
      phase={phase}
      word="mission"
      name={name}
      robot={robot?.document.name ?? null}
      refresh={trials.length}
      ready={
        drives > 0 ? { fill: "full", why: `${drives} drive${drives === 1 ? "" : "s"} of this mission are kept.` } : null
      }
      open={() => void firstDriven().then(start)}
      back={() => void returnTo(placed("mission"))}
      empty={<NothingToDrive />}
      undoing={{ undo, redo }}
      keys={KEYS}
      shortcuts={SHORTCUTS}
      message={message}
      said={() => useMission.setState({ message: null })}
    >
      <Desk />
    </Workplace>
  );
}

function NothingToDrive() {
  return (
    <>
      <h1>Nothing to drive yet</h1>
      <p>Name a mission; then give it to a driver, and it has sticks and buttons.</p>
      <NewMission close={() => {}} />
    </>
  );
}

/** Keys drive while the robot is driven; otherwise they are the page's. */
function useHandKeys(): void {
  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      const down = event.type === "keydown";
      const mod = event.ctrlKey || event.metaKey;
      if (isTyping(event.target)) return;
      const onControl =
        event.target instanceof HTMLElement && event.target.closest("button, input, a, select, [role=spinbutton]");
      if (!mod && !event.altKey && isHandKey(event.code)) {
        // Space and Enter press the button that has the focus, unless the robot is being driven.
        if (down && onControl && !useDrive.getState().driving) return;
        keyMoved(event.code, down);
      } else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", keys);
    window.addEventListener("keyup", keys);
    return () => {
      window.removeEventListener("keydown", keys);
      window.removeEventListener("keyup", keys);
    };
  }, []);
}

function Desk() {
  useEffect(startBeating, []);
  useHandKeys();
  const channels = useChannels();
  return (
    <main className="drive">
      <div className="drivepane">
        <DriveHead />
        <div>
          <MissionConflict />
        </div>
        <Remote />
        <DriveFoot />
      </div>
      <div className="drivefield">
        <div className="fieldrow">
          <FieldCanvas />
          <TouchSticks />
        </div>
        <DriveBar />
        <Kept />
        <Strips channels={channels} />
      </div>
      <LivePanel channels={channels} />
    </main>
  );
}

function DriveHead() {
  const missions = useMission((state) => state.missions);
  const open = useMission((state) => state.open);
  const driving = useDrive((state) => state.driving);
  return (
    <header className="drivehead">
      <h1>
        <Pick
          aria-label="Mission"
          value={open?.id ?? ""}
          disabled={driving}
          onChange={(event) => void openMission(event.target.value)}
        >
          {missions.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Pick>
      </h1>
      <a href={linkTo(`/mission?mission=${open?.id ?? ""}`)}>Steps</a>
    </header>
  );
}

const LEFT_ONLY = [[0, 1]] as const;
const LEFT_FORWARD = [[0, -1]] as const;
const RIGHT_ACROSS = [[-1, 3]] as const;
const RIGHT_FORWARD = [[2, -1]] as const;

function TouchSticks() {
  const mission = useMission((state) => state.mission);
  const mode = mission.remote?.items.find((item) => item.type === "drive")?.mode;
  if (!mode) return null;
  const [left, right] =
    mode === "one stick"
      ? [LEFT_ONLY, null]
      : mode === "tank"
        ? [LEFT_FORWARD, RIGHT_FORWARD]
        : [LEFT_FORWARD, RIGHT_ACROSS];
  return (
    <div className="touchsticks">
      <TouchStick label={right ? "Left stick" : "Stick"} axes={left} />
      {right && <TouchStick label="Right stick" axes={right} />}
    </div>
  );
}

function DriveBar() {
  const driving = useDrive((state) => state.driving);
  const clock = useCalmDrive((state) => state.clockSec);
  const laps = useDrive((state) => state.laps);
  const robot = useLink((state) => state.hello?.robot ?? "the robot");
  const hand = useLink((state) => state.state?.hand ?? "itself");
  // Until the robot says that it runs for this page, its hand may be another's.
  const begun = useMission((state) => state.live?.taken === true);
  const simulated = useLink((state) => state.hello?.simulated === true);
  const sending = useMission((state) => state.sending);
  const driven = useMission((state) => state.prepared?.program?.remote != null);
  const why = useMission(() => whyNotSent());
  // Linking and state changes decide it too.
  useLink((state) => state.is);
  const words = lapWords(laps);
  return (
    <section className="drivebar" aria-label="Drive">
      {driving ? (
        <Button variant="contained" color="error" onClick={stopDriving} title="Esc">
          Stop
        </Button>
      ) : (
        <Button
          variant="contained"
          disabled={why !== null || !driven}
          onClick={() => void startDriving()}
          title="Ctrl+Enter"
        >
          Drive {robot}
        </Button>
      )}
      {driving ? (
        <>
          <span className="mono clock">{clockWords(clock)}</span>
          <span role="status">
            {sending !== null
              ? "Sending the mission"
              : !begun
                ? simulated
                  ? "It is put at its begin place"
                  : `${robot} is asked to run it`
                : hand === "driver"
                  ? "You have it; this is recorded"
                  : hand === "silent"
                    ? "It stands. Let go of the sticks, then drive on."
                    : `${robot} drives itself`}
          </span>
          {words && <span className="quiet">{words}</span>}
        </>
      ) : (
        <span className={why ? "amberwords" : "quiet"}>
          {why ?? (driven ? (words ?? "Every drive is recorded and kept") : "This mission hands over to nobody yet.")}
        </span>
      )}
    </section>
  );
}

function Kept() {
  const run = useMission((state) => state.run);
  const mission = useMission((state) => state.mission);
  const driving = useDrive((state) => state.driving);
  const { fitted, blind, busy, tolerance } = useKeep();
  const trace = run?.trace ?? null;
  const robot = useMission((state) => state.robot?.document.name ?? "The robot");
  const encoders = useMission((state) => state.prepared?.context.drive.hasEncoders ?? true);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another run is fitted anew
  useEffect(() => fitShown(), [trace]);
  if (driving || !isDrive(trace)) return null;
  if (!encoders)
    return (
      <section className="assteps" aria-label="Kept as steps">
        <p className="quiet">
          {robot} has no encoders, so it does not know where it went: this drive is kept, but not as steps.
        </p>
      </section>
    );
  if (!fitted || fitted.steps.length === 0)
    return (
      <section className="assteps" aria-label="Kept as steps">
        <p className="quiet">This drive hardly moved: there is nothing to keep as steps.</p>
      </section>
    );
  return (
    <section className="assteps" aria-label="Kept as steps">
      <header>
        <h2>This drive as steps</h2>
        <label className="quiet">
          within{" "}
          <Pick
            value={tolerance.distanceM}
            onChange={(event) =>
              fitShown({
                distanceM: Number(event.target.value),
                angleRad: (Number(event.target.value) * 250 * Math.PI) / 180,
              })
            }
          >
            <option value={0.01}>10 mm, 2.5 deg</option>
            <option value={0.02}>20 mm, 5 deg</option>
            <option value={0.04}>40 mm, 10 deg</option>
          </Pick>
        </label>
        <Button variant="contained" disabled={busy !== null || !mission.body} onClick={() => void keepAsSteps()}>
          Keep as steps
        </Button>
        {busy ? (
          <Button variant="outlined" onClick={cancelBlind}>
            Cancel
          </Button>
        ) : (
          <Button variant="outlined" onClick={() => void driveBlind()}>
            Drive it again blindly
          </Button>
        )}
      </header>
      <ol className="mono">
        {fitted.steps.map((step) => (
          <li key={step.from}>{step.text}</li>
        ))}
      </ol>
      <p className="quiet" role="status">
        {busy ??
          `${fitted.steps.length} step${fitted.steps.length === 1 ? "" : "s"} fit the drive within ${(fitted.worstM * 1000).toFixed(0)} mm and ${((fitted.worstRad * 180) / Math.PI).toFixed(1)} deg.`}
        {blind && ` ${blindWords(blind)}`}
      </p>
    </section>
  );
}

/** What driving it again showed, without claiming more than it did. */
function blindWords({ handsMissM, stepsMissM }: Blind): string {
  const words = `Driven again ${BLIND_RUNS} times by the same hands with nobody looking, it ends ${cm(handsMissM)} from where you were, on average; as steps ${cm(stepsMissM)}.`;
  return handsMissM > 1.3 * stepsMissM
    ? `${words} Steps look at wheels and gyro; hands in the dark do not.`
    : `${words} That is about the same: most of it is how the robot is put down at the start. Longer drives with more turns differ more.`;
}

function cm(metres: number): string {
  return `${(metres * 100).toFixed(1)} cm`;
}

function DriveFoot() {
  const save = useMission((state) => state.save);
  const version = useMission((state) => state.open?.headRevision ?? 0);
  const error = useMission((state) => state.problems.find(({ severity }) => severity === "error")?.message ?? null);
  const canUndo = useMission((state) => state.history.past.length > 0);
  const canRedo = useMission((state) => state.history.future.length > 0);
  return <Foot save={save} version={version} instead={error} canUndo={canUndo} canRedo={canRedo} />;
}
