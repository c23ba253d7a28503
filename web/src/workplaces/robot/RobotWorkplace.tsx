// The Robot workplace: parts on the left, the drawing in the middle over wiring or gears, the inspector right.
import "../../shared/noEval.js";
import { mirrorName, partsOf, type RobotProblem, removePart, type WiringNote } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import type { Readiness } from "../../shared/Frame.js";
import type { Binding } from "../../shared/keys.js";
import { inPanel, later } from "../../shared/later.js";
import { askedForNew, placed } from "../../shared/place.js";
import type { Shortcut } from "../../shared/Shortcuts.js";
import { Conflict, mineOrTheirs } from "../../shared/shell/Conflict.js";
import { DocumentHead } from "../../shared/shell/DocumentHead.js";
import { Foot, Workplace } from "../../shared/shell/Shell.js";
import { Inspector } from "./Inspector.js";
import { NewRobotForm, RobotsPanel } from "./NewRobot.js";
import { PartList } from "./PartList.js";
import { hasMirror, Plan } from "./Plan.js";
import { Side } from "./Side.js";
import { useRobot } from "./state.js";
import { change, redo, returnTo, select, settle, showPanel, start, undo } from "./store.js";
import { WiringBoard } from "./WiringBoard.js";
import { WiringSheet } from "./WiringSheet.js";

/** Read when they are asked for. */
const atSide = (title: string) => inPanel(title, () => showPanel("none"));
const Catalogue = later(async () => (await import("./Catalogue.js")).Catalogue, "The parts", atSide("Add a part"));
const FirstRoll = later(async () => (await import("./FirstRoll.js")).FirstRoll, "First roll", atSide("First roll"));
const GearBench = later(async () => (await import("./GearBench.js")).GearBench, "The gear bench");
const Revisions = later(async () => (await import("./Revisions.js")).Revisions, "The versions", atSide("Versions"));

const SHORTCUTS: readonly Shortcut[] = [
  ["A", "add a part"],
  ["V", "plan or side"],
  ["W, G", "wiring, gear bench"],
  ["M", "mirror on or off"],
  ["R", "versions"],
  ["Tab in the drawing", "next part"],
  ["← → ↑ ↓ on a part", "move it by 1 mm, with Shift by 10 mm"],
  ["Alt while dragging", "no snapping"],
  ["Delete", "remove the part"],
  ["↑ ↓ on a number", "change it by one digit, with Shift by ten"],
];

function removeSelected(): void {
  const { robot, selected } = useRobot.getState();
  if (["chassis", "drive", "board", "pack"].includes(selected)) return;
  change(removePart(robot, selected), `removing ${selected.replaceAll("_", " ")}`);
  select("chassis");
}

const key = (keys: string, act: () => unknown): Binding => ({ keys, where: "outside text", act });
const KEYS: readonly Binding[] = [
  key("a", () => showPanel("catalogue")),
  key("v", () => useRobot.setState(({ view }) => ({ view: view === "plan" ? "side" : "plan" }))),
  key("w", () => useRobot.setState({ bottom: "wiring" })),
  key("g", () => useRobot.setState({ bottom: "gears" })),
  key("m", () => useRobot.setState(({ mirror }) => ({ mirror: !mirror }))),
  key("r", () => showPanel("versions")),
  key("Delete", removeSelected),
];

/** How ready the open robot is: sound and wired is full, described is half. */
function readiness(problems: readonly RobotProblem[], wiring: readonly WiringNote[]): Readiness {
  const errors = problems.filter((problem) => problem.severity === "error");
  if (errors.length > 0) return { fill: "half", why: `This robot cannot drive yet: ${errors[0]?.message}` };
  const wires = wiring.filter((note) => note.severity === "error");
  if (wires.length > 0)
    return { fill: "half", why: `This robot is described; ${wires.length} of its wires are not right.` };
  return { fill: "full", why: "This robot is described and wired, and nothing is wrong with it." };
}

export function RobotWorkplace() {
  const phase = useRobot((state) => state.phase);
  const robot = useRobot((state) => state.robot);
  const problems = useRobot((state) => state.problems);
  const wiring = useRobot((state) => state.wiring);
  const open = useRobot((state) => state.open);
  const message = useRobot((state) => state.message);
  const there = phase.is === "ready";
  return (
    <Workplace
      id="robot"
      phase={phase}
      word="robot"
      name={open?.name ?? null}
      robot={there ? robot.name : null}
      refresh={open?.headRevision ?? 0}
      ready={there ? readiness(problems, wiring) : null}
      open={() => void start(placed("robot")).then(() => askedForNew() && useRobot.setState({ panel: "new" }))}
      back={() => void returnTo(placed("robot"))}
      empty={<FirstRobot />}
      undoing={{ undo, redo }}
      keys={KEYS}
      shortcuts={SHORTCUTS}
      message={message}
      said={() => useRobot.setState({ message: null })}
    >
      <Workbench />
    </Workplace>
  );
}

function FirstRobot() {
  return (
    <>
      <h1>No robots yet</h1>
      <p>
        A robot here is a drawing to scale with its motors, sensors and wiring. Name yours, and an empty chassis opens.
      </p>
      <NewRobotForm first />
    </>
  );
}

function Workbench() {
  const robot = useRobot((state) => state.robot);
  const view = useRobot((state) => state.view);
  const bottom = useRobot((state) => state.bottom);
  const panel = useRobot((state) => state.panel);
  const parts = partsOf(robot);
  return (
    <>
      <main className="robotbench">
        <div className="robotleft">
          <Head />
          <RobotConflict />
          <PartList />
          <RobotFoot />
        </div>
        <div className="robotmiddle">
          <DrawingTools />
          {view === "plan" ? <Plan parts={parts} /> : <Side parts={parts} />}
          <div className="firstroll">
            <Button variant="contained" onClick={() => showPanel("first-roll")}>
              First roll
            </Button>
            <span className="quiet">nudges one wheel at a time and asks which moved, and which way</span>
          </div>
          <section className="robotbottom" aria-label={bottom === "wiring" ? "Wiring" : "Gear bench"}>
            <ToggleButtonGroup
              exclusive
              size="small"
              value={bottom}
              onChange={(_, next: "wiring" | "gears" | null) => next && useRobot.setState({ bottom: next })}
              aria-label="Below the drawing"
            >
              <ToggleButton value="wiring">Wiring</ToggleButton>
              <ToggleButton value="gears">Gear bench</ToggleButton>
            </ToggleButtonGroup>
            {bottom === "wiring" ? <WiringBoard /> : <GearBench />}
          </section>
        </div>
        <Inspector />
        {panel === "catalogue" && <Catalogue />}
        {panel === "versions" && <Revisions />}
        {panel === "first-roll" && <FirstRoll />}
        {panel === "new" && <RobotsPanel />}
      </main>
      <WiringSheet />
    </>
  );
}

function Head() {
  const robot = useRobot((state) => state.robot);
  const revision = useRobot((state) => state.open?.headRevision ?? 0);
  return (
    <DocumentHead
      word="robot"
      title="Robot"
      name={robot.name}
      revision={revision}
      onName={(name) => change({ ...robot, name }, "another name")}
      onRevisions={() => showPanel("versions")}
      others="Robots"
      onOthers={() => showPanel("new")}
    />
  );
}

function DrawingTools() {
  const view = useRobot((state) => state.view);
  const mirror = useRobot((state) => state.mirror);
  const selected = useRobot((state) => state.selected);
  const robot = useRobot((state) => state.robot);
  return (
    <div className="drawingtools">
      <ToggleButtonGroup
        exclusive
        size="small"
        value={view}
        onChange={(_, next: "plan" | "side" | null) => next && useRobot.setState({ view: next })}
        aria-label="Drawing"
      >
        <ToggleButton value="plan">Plan</ToggleButton>
        <ToggleButton value="side">Side</ToggleButton>
      </ToggleButtonGroup>
      <ToggleButton
        value="mirror"
        size="small"
        selected={mirror}
        onChange={() => useRobot.setState({ mirror: !mirror })}
        title="Changes to a left part are made to the right one too"
      >
        Mirror
      </ToggleButton>
      {mirror && hasMirror(robot, selected) && (
        <span className="quiet small">{mirrorName(selected)?.replaceAll("_", " ")} follows</span>
      )}
    </div>
  );
}

function RobotConflict() {
  const save = useRobot((state) => state.save);
  return <Conflict save={save} word="robot" ways={mineOrTheirs(settle)} />;
}

function RobotFoot() {
  const save = useRobot((state) => state.save);
  const canUndo = useRobot((state) => state.past.length > 0);
  const canRedo = useRobot((state) => state.future.length > 0);
  return <Foot save={save} canUndo={canUndo} canRedo={canRedo} />;
}
