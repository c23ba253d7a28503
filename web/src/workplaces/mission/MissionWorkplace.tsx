// The Mission workplace: steps or text on the left, field, transport and timeline on the right.
import "../../shared/noEval.js";
import Button from "@mui/material/Button";
import { useEffect, useRef, useState } from "react";
import { Frame } from "../../shared/Frame.js";
import { useKeys } from "../../shared/keys.js";
import { About } from "../../shared/mission/About.js";
import { Conflict } from "../../shared/mission/Conflict.js";
import { FieldCanvas } from "../../shared/mission/FieldCanvas.js";
import { NewMission } from "../../shared/mission/NewMission.js";
import { pause, play, rehearse } from "../../shared/mission/running.js";
import { useMission } from "../../shared/mission/state.js";
import { redo, returnTo, showView, start, undo } from "../../shared/mission/store.js";
import { onReturn, placed, titled } from "../../shared/place.js";
import { type Shortcut, Shortcuts } from "../../shared/Shortcuts.js";
import { Toast } from "../../shared/Toast.js";
import { Themed } from "../../shared/theme.js";
import { MissionHead } from "./MissionHead.js";
import { QuickAdd } from "./QuickAdd.js";
import { RobotPanel, RobotRow } from "./RobotRow.js";
import { SensorsPanel } from "./SensorsPanel.js";
import { StepActions } from "./StepActions.js";
import { StepList } from "./StepList.js";
import { StudyPanel } from "./StudyPanel.js";
import { TextEditor } from "./TextEditor.js";
import { Timeline, usePlayback } from "./Timeline.js";
import { KeptRuns, Transport } from "./Transport.js";
import { Values } from "./Values.js";
import { VersionsPanel } from "./VersionsPanel.js";

const SHORTCUTS: readonly Shortcut[] = [
  ["Ctrl+Z, Ctrl+Shift+Z", "undo, redo"],
  ["Ctrl+Enter", "rehearse"],
  ["Space", "play or pause, outside of text"],
  ["A", "type a new step"],
  ["↑ ↓ in the steps", "choose a step"],
  ["Alt+↑ Alt+↓", "move the step"],
  ["Enter or F2", "edit the step as text"],
  ["Shift+↑ Shift+↓, Shift or Ctrl and a press", "choose several steps"],
  ["Alt+→ Alt+←", "move the step in, out"],
  ["Ctrl+C Ctrl+X Ctrl+V", "copy, cut, paste steps as text"],
  ["Ctrl+D", "duplicate the step"],
  ["Ctrl+/", "switch the step off"],
  ["Delete", "delete the step"],
  ["↑ ↓ on a number", "change it by one digit, with Shift by ten"],
  ["← → on the playhead", "move it by 0.1 s"],
  ["N on a number", "give it a name"],
  ["M", "measure on the field"],
  ["T", "Steps or Text"],
  ["?", "this list"],
];

function useShortcuts(addStep: () => void, showHelp: () => void): void {
  useKeys([
    { keys: "$mod+Enter", where: "anywhere", act: () => void rehearse() },
    { keys: "$mod+z", where: "outside text", act: undo },
    { keys: "$mod+Shift+z $mod+y", where: "outside text", act: redo },
    { keys: "?", where: "outside text", act: showHelp },
    { keys: "a", where: "outside text", act: addStep },
    {
      keys: "m",
      where: "outside text",
      act: () => useMission.setState(({ measure }) => ({ measure: measure ? null : [] })),
    },
    {
      keys: "t",
      where: "outside text",
      act: () => showView(useMission.getState().view === "steps" ? "text" : "steps"),
    },
    { keys: "Space", where: "page", act: () => (useMission.getState().playing ? pause : play)() },
  ]);
}

export function MissionWorkplace() {
  return (
    <Themed>
      <Mission />
    </Themed>
  );
}

function Mission() {
  const phase = useMission((state) => state.phase);
  const robot = useMission((state) => state.robot);
  const trials = useMission((state) => state.trials);
  const name = useMission((state) => state.open?.name ?? null);
  useEffect(() => {
    useMission.setState({ view: placed("view") === "text" ? "text" : "steps" });
    void start(placed("mission"));
    return onReturn(() => {
      useMission.setState({ view: placed("view") === "text" ? "text" : "steps" });
      void returnTo(placed("mission"));
    });
  }, []);
  useEffect(() => titled(name, "Mission"), [name]);
  return (
    <Frame current="mission" robot={robot?.document.name ?? null} refresh={trials.length}>
      {phase.is === "ready" ? <Workbench /> : <Waiting />}
    </Frame>
  );
}

function Waiting() {
  const phase = useMission((state) => state.phase);
  if (phase.is === "failed") {
    return (
      <main className="centre">
        <h1>The missions could not be opened</h1>
        <p>{phase.message}</p>
        <Button variant="contained" onClick={() => window.location.reload()}>
          Try again
        </Button>
      </main>
    );
  }
  if (phase.is === "empty") {
    return (
      <main className="centre">
        <h1>No missions yet</h1>
        <p>
          A mission is a list of steps your robot drives. Name the first one, and it opens with your robot on the field.
        </p>
        <NewMission close={() => {}} />
      </main>
    );
  }
  return <main className="centre quiet">Opening the mission…</main>;
}

function Workbench() {
  const view = useMission((state) => state.view);
  const [editLine, setEditLine] = useState<number | null>(null);
  const [help, setHelp] = useState(false);
  const quickAdd = useRef<HTMLInputElement>(null);
  const addStep = useRef(() => quickAdd.current?.focus());
  const showHelp = useRef(() => setHelp((shown) => !shown));
  useShortcuts(addStep.current, showHelp.current);
  usePlayback();
  return (
    <main className="mission">
      <div className="leftpane">
        <MissionHead />
        <div>
          <Conflict />
          {view === "steps" && (
            <>
              <About />
              <Values />
            </>
          )}
        </div>
        {view === "steps" ? <StepList editLine={editLine} setEditLine={setEditLine} /> : <TextEditor />}
        {view === "steps" && <StepActions />}
        {view === "steps" ? (
          <QuickAdd inputRef={quickAdd} toList={() => document.querySelector<HTMLElement>(".steps")?.focus()} />
        ) : (
          <TextProblems />
        )}
        <Foot showHelp={showHelp.current} />
      </div>
      <div className="rightpane">
        <div className="fieldrow">
          <FieldCanvas />
          <Panels />
        </div>
        <RobotRow />
        <Transport />
        <Timeline />
      </div>
      <MissionToast />
      {help && <Shortcuts list={SHORTCUTS} close={() => setHelp(false)} />}
    </main>
  );
}

function Panels() {
  const panel = useMission((state) => state.panel);
  if (panel === "study") return <StudyPanel />;
  if (panel === "runs") return <KeptRuns />;
  if (panel === "robot") return <RobotPanel />;
  if (panel === "sensors") return <SensorsPanel />;
  return panel === "versions" ? <VersionsPanel /> : null;
}

function TextProblems() {
  const problems = useMission((state) => state.problems);
  if (problems.length === 0) return <p className="foot">No problems</p>;
  const errors = problems.filter((problem) => problem.severity === "error").length;
  const first = problems.find((problem) => problem.severity === "error") ?? problems[0];
  return (
    <p className="foot">
      <span>
        {errors > 0 ? `${errors} problem${errors === 1 ? "" : "s"}` : `${problems.length} advice`}: {first?.message}
      </span>
    </p>
  );
}

function Foot({ showHelp }: { showHelp: () => void }) {
  const save = useMission((state) => state.save);
  const version = useMission((state) => state.open?.headRevision ?? 0);
  const canUndo = useMission((state) => state.history.past.length > 0);
  const canRedo = useMission((state) => state.history.future.length > 0);
  const words = {
    saved: `Saved · version ${version}`,
    saving: `Saving… · version ${version}`,
    away: "Not saved yet.",
    refused: "Not saved",
    conflict: "Changed in another window",
  }[save.is];
  return (
    <div className="foot">
      <span role="status" data-save={save.is}>
        {words}
        {save.is === "refused" && `: ${save.message}`}
        {save.is === "away" && ` ${save.message}`}
      </span>
      <span>
        <Button disabled={!canUndo} onClick={undo} title="Ctrl+Z">
          Undo
        </Button>
        <Button disabled={!canRedo} onClick={redo} title="Ctrl+Shift+Z">
          Redo
        </Button>
        <Button onClick={showHelp} aria-label="Keyboard shortcuts">
          ?
        </Button>
      </span>
    </div>
  );
}

function MissionToast() {
  const message = useMission((state) => state.message);
  return <Toast message={message} clear={() => useMission.setState({ message: null })} />;
}
