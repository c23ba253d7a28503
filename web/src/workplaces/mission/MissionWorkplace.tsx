// The Mission workplace: steps or text on the left, field, transport and timeline on the right.
import "../../shared/noEval.js";
import { useState } from "react";
import type { Binding } from "../../shared/keys.js";
import { inPanel, later } from "../../shared/later.js";
import { About } from "../../shared/mission/About.js";
import { FieldCanvas } from "../../shared/mission/FieldCanvas.js";
import { MissionConflict } from "../../shared/mission/MissionConflict.js";
import { NewMission } from "../../shared/mission/NewMission.js";
import { pause, play, rehearse } from "../../shared/mission/running.js";
import { useMission } from "../../shared/mission/state.js";
import { redo, returnTo, showView, start, undo } from "../../shared/mission/store.js";
import { placed } from "../../shared/place.js";
import type { Shortcut } from "../../shared/Shortcuts.js";
import { Foot, Workplace } from "../../shared/shell/Shell.js";
import { MissionHead } from "./MissionHead.js";
import { QuickAdd } from "./QuickAdd.js";
import { RobotPanel, RobotRow } from "./RobotRow.js";
import { SensorsPanel } from "./SensorsPanel.js";
import { StepActions } from "./StepActions.js";
import { StepList } from "./StepList.js";
import { StudyPanel } from "./StudyPanel.js";
import { Timeline, usePlayback } from "./Timeline.js";
import { KeptRuns, Transport } from "./Transport.js";
import { Values } from "./Values.js";
import { VersionsPanel } from "./VersionsPanel.js";

const SHORTCUTS: readonly Shortcut[] = [
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
];

/** The field to type a new step into; the keys of the page are there before it is. */
const quickAdd: { current: HTMLInputElement | null } = { current: null };

const KEYS: readonly Binding[] = [
  { keys: "$mod+Enter", where: "anywhere", act: () => void rehearse() },
  { keys: "a", where: "outside text", act: () => quickAdd.current?.focus() },
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
];

function showPlaced(): void {
  useMission.setState({ view: placed("view") === "text" ? "text" : "steps" });
}

export function MissionWorkplace() {
  const phase = useMission((state) => state.phase);
  const robot = useMission((state) => state.robot);
  const trials = useMission((state) => state.trials);
  const name = useMission((state) => state.open?.name ?? null);
  const message = useMission((state) => state.message);
  return (
    <Workplace
      id="mission"
      phase={phase}
      word="mission"
      name={name}
      robot={robot?.document.name ?? null}
      refresh={trials.length}
      open={() => {
        showPlaced();
        void start(placed("mission"));
      }}
      back={() => {
        showPlaced();
        void returnTo(placed("mission"));
      }}
      empty={<FirstMission />}
      undoing={{ undo, redo }}
      keys={KEYS}
      shortcuts={SHORTCUTS}
      message={message}
      said={() => useMission.setState({ message: null })}
    >
      <Workbench />
    </Workplace>
  );
}

function FirstMission() {
  return (
    <>
      <h1>No missions yet</h1>
      <p>
        A mission is a list of steps your robot drives. Name the first one, and it opens with your robot on the field.
      </p>
      <NewMission close={() => {}} />
    </>
  );
}

function Workbench() {
  const view = useMission((state) => state.view);
  const [editLine, setEditLine] = useState<number | null>(null);
  usePlayback();
  return (
    <main className="mission">
      <div className="leftpane">
        <MissionHead />
        <div>
          <MissionConflict />
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
        <MissionFoot />
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
    </main>
  );
}

/** Read when it is asked for. */
const BoardPanel = later(
  async () => (await import("./BoardPanel.js")).BoardPanel,
  "The program for a board",
  inPanel("Put on a board", () => useMission.setState({ panel: "none" })),
);
const TextEditor = later(
  async () => (await import("./TextEditor.js")).TextEditor,
  "The text",
  (said) => said,
  <p className="foot quiet">Opening the text…</p>,
);

function Panels() {
  const panel = useMission((state) => state.panel);
  if (panel === "study") return <StudyPanel />;
  if (panel === "runs") return <KeptRuns />;
  if (panel === "robot") return <RobotPanel />;
  if (panel === "sensors") return <SensorsPanel />;
  if (panel === "board") return <BoardPanel />;
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

function MissionFoot() {
  const save = useMission((state) => state.save);
  const version = useMission((state) => state.open?.headRevision ?? 0);
  const canUndo = useMission((state) => state.history.past.length > 0);
  const canRedo = useMission((state) => state.history.future.length > 0);
  return <Foot save={save} version={version} canUndo={canUndo} canRedo={canRedo} />;
}
