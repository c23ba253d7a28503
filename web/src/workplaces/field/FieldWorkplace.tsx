// The Field workplace: what lies on it left, the drawing board in the middle over the probe, the inspector right.
import "../../shared/noEval.js";
import { allRefs, compareFields, type Field, openField } from "@giddy-pebble/core";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { DifferenceTable } from "../../shared/DifferenceTable.js";
import type { Readiness } from "../../shared/Frame.js";
import type { Binding } from "../../shared/keys.js";
import { askedForNew, placed } from "../../shared/place.js";
import type { Shortcut } from "../../shared/Shortcuts.js";
import { Conflict, mineOrTheirs } from "../../shared/shell/Conflict.js";
import { DocumentHead } from "../../shared/shell/DocumentHead.js";
import { RevisionsPanel } from "../../shared/shell/RevisionsPanel.js";
import { Foot, Workplace } from "../../shared/shell/Shell.js";
import { takeHandedFile } from "../../shared/unsaved.js";
import { Board } from "./Board.js";
import { DrawingPanel } from "./DrawingPanel.js";
import { TOOLS, type ToolId } from "./drawing.js";
import { FieldsPanel, ReadFile, StartChoices } from "./FieldsPanel.js";
import { takeFile } from "./files.js";
import { Inspector } from "./Inspector.js";
import { MatPanel } from "./MatPanel.js";
import { ProbePanel } from "./ProbePanel.js";
import { useField } from "./state.js";
import {
  change,
  choose,
  copyChosen,
  cutChosen,
  duplicate,
  finishDrawing,
  nameRevision,
  nudge,
  paste,
  redo,
  removeChosen,
  reorder,
  restoreRevision,
  returnTo,
  settle,
  showPanel,
  start,
  takeBack,
  takeTool,
  toggleLock,
  turn,
  undo,
} from "./store.js";
import { FieldThings } from "./ThingList.js";

const SHORTCUTS: readonly Shortcut[] = [
  ["A", "add by a word"],
  ...TOOLS.map(({ key, title }): Shortcut => [key.toUpperCase(), title.toLowerCase()]),
  ["a digit, while drawing", "type the numbers of the next point"],
  ["Enter", "finish what is drawn; begin to type numbers"],
  ["Backspace, Escape", "take back a point; stop drawing"],
  ["← → ↑ ↓", "move what is chosen by 1 mm, with Shift by 10 mm"],
  ["Alt while dragging", "no snapping"],
  ["Shift and press, Shift and drag", "choose more, choose with a box"],
  ["Ctrl+A, Ctrl+C, Ctrl+X, Ctrl+V, Ctrl+D", "choose all, copy, cut, paste, duplicate"],
  ["R, Shift+R", "turn by 90 deg"],
  ["[ and ]", "to the back, to the front"],
  ["K", "lock or unlock"],
  [", and .", "choose the thing before, the next one"],
  ["Delete", "remove what is chosen"],
];

/** Chooses the next thing of the field, or the one before. */
function walk(by: 1 | -1): void {
  const { field, chosen } = useField.getState();
  const refs = allRefs(field);
  const at = chosen[0] ? refs.indexOf(chosen[0]) : -1;
  const next = refs[(at + by + refs.length) % Math.max(1, refs.length)];
  if (next) choose([next]);
}

/** A digit while drawing begins a number; with a drawing tool in hand and nothing drawn, its first place. */
function beginTyping(digit: string): boolean {
  const { tool, typed } = useField.getState();
  if (tool === "choose" || tool === "measure" || typed) return false;
  useField.setState({ typed: { first: digit, second: "" } });
  return true;
}

function enter(): boolean {
  const { drawing } = useField.getState();
  if (drawing && drawing.points.length > 1) finishDrawing();
  else return beginTyping("");
  return true;
}

const MOVES = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] } as const;

function fieldKeys(): readonly Binding[] {
  const key = (keys: string, act: Binding["act"], where: Binding["where"] = "outside text"): Binding => ({
    keys,
    where,
    act,
  });
  const moves = Object.entries(MOVES).map(([name, [dx, dy]]) =>
    key(
      `${name} Shift+${name}`,
      (event) => {
        if (useField.getState().chosen.length === 0) return false;
        const far = event.shiftKey ? 0.01 : 0.001;
        nudge(dx * far, dy * far);
      },
      "page",
    ),
  );
  const digits = [..."0123456789-"].map((digit) => key(digit, () => beginTyping(digit), "page"));
  return [
    key("$mod+a", () => choose(allRefs(useField.getState().field))),
    key("$mod+c", copyChosen),
    key("$mod+x", cutChosen),
    key("$mod+v", paste),
    key("$mod+d", () => duplicate(1, [0.05, -0.05])),
    ...TOOLS.map((tool) => key(tool.key, () => takeTool(tool.id))),
    key("r", () => turn(1)),
    key("Shift+R Shift+r", () => turn(-1)),
    key("[", () => reorder("back")),
    key("]", () => reorder("front")),
    key("k", () => toggleLock(useField.getState().chosen)),
    key(",", () => walk(-1)),
    key(".", () => walk(1)),
    key("Delete", removeChosen),
    key("Backspace", () => takeBack(false) || removeChosen()),
    key("Escape", () => takeBack(true) || choose([])),
    key("Enter", enter, "page"),
    ...moves,
    ...digits,
  ];
}

const KEYS = fieldKeys();

function readiness(errors: number, name: string): Readiness {
  if (errors > 0)
    return {
      fill: "half",
      why: `${errors === 1 ? "One thing" : `${errors} things`} on ${name} ${errors === 1 ? "is" : "are"} not right.`,
    };
  return { fill: "full", why: `${name} is drawn, and nothing on it is wrong.` };
}

export function FieldWorkplace() {
  const phase = useField((state) => state.phase);
  const open = useField((state) => state.open);
  const message = useField((state) => state.message);
  const errors = useField((state) => state.problems.filter(({ severity }) => severity === "error").length);
  return (
    <Workplace
      id="field"
      phase={phase}
      word="field"
      name={open?.name ?? null}
      robot={null}
      refresh={open?.headRevision ?? 0}
      ready={phase.is === "ready" && open ? readiness(errors, open.name) : null}
      open={() =>
        void start(placed("field"))
          .then(takeHanded)
          .then(() => askedForNew() && useField.setState({ panel: "fields" }))
      }
      back={() => void returnTo(placed("field"))}
      empty={<FirstField />}
      undoing={{ undo, redo }}
      keys={KEYS}
      shortcuts={SHORTCUTS}
      message={message}
      said={() => useField.setState({ message: null })}
      takeFile={takeHere}
    >
      <Workbench />
    </Workplace>
  );
}

/** A file that another page could not open itself. */
async function takeHanded(): Promise<void> {
  const file = await takeHandedFile();
  const failed = file ? await takeFile(file) : null;
  if (failed !== null) useField.setState({ message: failed });
}

/** Drawings, pictures and fields are opened here; everything else where it belongs. */
function takeHere(file: File): Promise<string | null> | null {
  if (useField.getState().phase.is !== "ready") return null;
  const own = /\.(svg|png|jpe?g|webp|field\.json)$/i.test(file.name) || file.type.startsWith("image/");
  return own ? takeFile(file) : null;
}

function FirstField() {
  return (
    <>
      <h1>No fields yet</h1>
      <p>A field here is your table or floor, drawn to scale. Begin with one that is ready, and change what differs.</p>
      <StartChoices />
      <ReadFile />
    </>
  );
}

function Workbench() {
  const panel = useField((state) => state.panel);
  const save = useField((state) => state.save);
  const canUndo = useField((state) => state.past.length > 0);
  const canRedo = useField((state) => state.future.length > 0);
  return (
    <main className="robotbench fieldbench">
      <div className="robotleft">
        <Head />
        <Conflict save={save} word="field" ways={mineOrTheirs(settle)} />
        <FieldThings />
        <Foot save={save} canUndo={canUndo} canRedo={canRedo} />
      </div>
      <div className="fieldmiddle">
        <Board />
        <ToolBar />
        <ProbePanel />
      </div>
      <Inspector />
      {panel === "fields" && <FieldsPanel />}
      {panel === "drawing" && <DrawingPanel />}
      {panel === "mat" && <MatPanel />}
      {panel === "versions" && <Revisions />}
    </main>
  );
}

function Head() {
  const field = useField((state) => state.field);
  const revision = useField((state) => state.open?.headRevision ?? 0);
  return (
    <DocumentHead
      word="field"
      title="Field"
      name={field.name}
      revision={revision}
      onName={(name) => change({ ...field, name: name.replaceAll('"', "") }, "another name")}
      onRevisions={() => showPanel("versions")}
      others="Fields"
      onOthers={() => showPanel("fields")}
    />
  );
}

function ToolBar() {
  const tool = useField((state) => state.tool);
  return (
    <ToggleButtonGroup
      className="toolbar"
      exclusive
      size="small"
      value={tool}
      aria-label="Tools"
      onChange={(_, next: ToolId | null) => takeTool(next ?? "choose")}
    >
      {TOOLS.map(({ id, title, key }) => (
        <ToggleButton key={id} value={id} title={`${title} (${key.toUpperCase()})`}>
          {title}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

function readBody(body: unknown): Field | null {
  const read = openField(body);
  return read.ok ? read.document : null;
}

function Revisions() {
  return (
    <RevisionsPanel<Field>
      word="field"
      open={useField((state) => state.open)}
      now={useField((state) => state.field)}
      read={readBody}
      name={nameRevision}
      restore={restoreRevision}
      compare={(before, after) => (
        <DifferenceTable
          head="Thing"
          rows={compareFields(before, after).map((row) => [row.thing, row.what, row.before, row.after] as const)}
        />
      )}
      close={() => showPanel("none")}
    />
  );
}
