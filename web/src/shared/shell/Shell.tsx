// What every workplace has around its work: theme, frame, waiting for what is opened, keys, undo, the foot, what is said.
import Button from "@mui/material/Button";
import Skeleton from "@mui/material/Skeleton";
import Tooltip from "@mui/material/Tooltip";
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useState } from "react";
import { Frame, type Readiness } from "../Frame.js";
import { type TakeHere, useDrop } from "../files/useDrop.js";
import { type Binding, useKeys } from "../keys.js";
import { inDialog, later } from "../later.js";
import { onReturn, titled } from "../place.js";
import { type Shortcut, Shortcuts } from "../Shortcuts.js";
import type { SaveState } from "../saving.js";
import { Toast } from "../Toast.js";
import { tourStop } from "../tour/tourStore.js";
import { WORKPLACES, type WorkplaceId } from "../workplaces.js";

/** Read when they are asked for: most visits do without. */
const Tour = later(
  async () => (await import("../tour/Tour.js")).Tour,
  "The tour",
  (said) => (
    <aside className="tour" aria-label="Tour">
      {said}
    </aside>
  ),
);
const Palette = later(
  async () => (await import("../palette/Palette.js")).Palette,
  "The search",
  inDialog("Search everything"),
);

/** Whether what a workplace works on is there. */
export type Phase =
  | { readonly is: "loading" }
  | { readonly is: "failed"; readonly message: string }
  | { readonly is: "empty" }
  | { readonly is: "ready" };

/** How changes are taken back. Without redo nothing can be done again. */
interface Undoing {
  readonly undo: () => void;
  readonly redo?: () => void;
}

interface Around {
  readonly undoing: Undoing | null;
  readonly toggleHelp: () => void;
}

const AroundContext = createContext<Around>({ undoing: null, toggleHelp: () => {} });

interface WorkplaceProps {
  id: WorkplaceId | "home" | "help" | "run";
  phase: Phase;
  /** What is opened: "robot", "field", "trials". */
  word: string;
  /** Name of the open document, for the title of the page. */
  name: string | null;
  robot: string | null;
  /** Looks at the server anew when it changes. */
  refresh?: number;
  ready?: Readiness | null;
  /** Opens what the address says. */
  open: () => void;
  /** After Back or Forward. */
  back?: () => void;
  /** What stands here while there is nothing to open. */
  empty: ReactNode;
  /** What stands here when it could not be opened, instead of "Try again". */
  failed?: ReactNode;
  undoing?: Undoing;
  keys?: readonly Binding[];
  shortcuts: readonly Shortcut[];
  message: string | null;
  said: () => void;
  /** Files that this page takes itself. */
  takeFile?: TakeHere;
  children: ReactNode;
}

/** @param undo - takes back the latest change @returns the keys of it */
function undoKeys(undoing: Undoing | undefined): Binding[] {
  if (!undoing) return [];
  const { undo, redo } = undoing;
  const bindings: Binding[] = [{ keys: "$mod+z", where: "outside text", act: undo }];
  if (redo) bindings.push({ keys: "$mod+Shift+z $mod+y", where: "outside text", act: redo });
  return bindings;
}

function undoWords(undoing: Undoing | undefined): Shortcut[] {
  if (!undoing) return [];
  return [undoing.redo ? ["Ctrl+Z, Ctrl+Shift+Z", "undo, redo"] : ["Ctrl+Z", "undo"]];
}

/** A whole page: everything that is the same in all workplaces is here. */
export function Workplace(props: WorkplaceProps) {
  const { id, phase, name, undoing, open, back } = props;
  const [help, setHelp] = useState(false);
  const toggleHelp = useCallback(() => setHelp((shown) => !shown), []);
  const [searching, setSearching] = useState(false);
  const search = useCallback(() => setSearching(true), []);
  const [dropped, setDropped] = useState<string | null>(null);
  const over = useDrop(setDropped, props.takeFile ?? null);
  useKeys([
    { keys: "$mod+k", where: "anywhere", act: search },
    ...undoKeys(undoing),
    ...(props.keys ?? []),
    { keys: "?", where: "outside text", act: toggleHelp },
  ]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a page opens once what its address says
  useEffect(() => {
    open();
    return back ? onReturn(back) : undefined;
  }, []);
  const title =
    WORKPLACES.find((workplace) => workplace.id === id)?.title ??
    ({ help: "Words", run: "Run" } as Record<string, string>)[id] ??
    "Home";
  useEffect(() => titled(name, title), [name, title]);
  const around = useMemo(() => ({ undoing: undoing ?? null, toggleHelp }), [undoing, toggleHelp]);
  return (
    <AroundContext.Provider value={around}>
      <Frame current={id} robot={props.robot} refresh={props.refresh ?? 0} ready={props.ready ?? null} search={search}>
        {phase.is === "ready" ? props.children : <Waiting {...props} />}
        <Toast message={dropped ?? props.message} clear={dropped === null ? props.said : () => setDropped(null)} />
        {tourStop() !== null && <Tour />}
        {over && <div className="dropping">Drop it: a mission, robot, field, drawing, picture or project</div>}
        {searching && <Palette close={() => setSearching(false)} />}
        {help && (
          <Shortcuts
            list={[...undoWords(undoing), ...props.shortcuts, ["Ctrl+K", "search everything"], ["?", "this list"]]}
            close={() => setHelp(false)}
          />
        )}
      </Frame>
    </AroundContext.Provider>
  );
}

/** While nothing is open. */
function Waiting({ phase, word, empty, failed }: Pick<WorkplaceProps, "phase" | "word" | "empty" | "failed">) {
  if (phase.is === "failed")
    return (
      <main className="centre">
        {failed ?? (
          <>
            <h1>The {word} could not be opened</h1>
            <p>{phase.message}</p>
            <Button variant="contained" onClick={() => window.location.reload()}>
              Try again
            </Button>
          </>
        )}
      </main>
    );
  if (phase.is === "empty") return <main className="centre">{empty}</main>;
  return (
    <main className="centre quiet" aria-busy="true">
      <p>Opening the {word}…</p>
      <Skeleton variant="rounded" width={320} height={12} />
      <Skeleton variant="rounded" width={220} height={12} />
    </main>
  );
}

function saveWords(save: SaveState, version: number | undefined): string {
  const at = version === undefined ? "" : ` · version ${version}`;
  if (save.is === "away") return `Not saved yet. ${save.message}`;
  if (save.is === "refused") return `Not saved: ${save.message}`;
  return { saved: `Saved${at}`, saving: `Saving…${at}`, conflict: "Changed in another window" }[save.is];
}

/** Two lines at most, so that nothing above jumps away from the pointer when the server goes; a long reason unfolds. */
function SaveWords({ save, words }: { save: SaveState | undefined; words: string | null | undefined }) {
  const long = save?.is === "away" || save?.is === "refused";
  return (
    <Tooltip title={long ? words : ""} describeChild enterTouchDelay={0}>
      <span role="status" className="savewords" data-save={save?.is} tabIndex={long ? 0 : undefined}>
        {words}
      </span>
    </Tooltip>
  );
}

/** What is saved, undo and redo, and the list of keys. */
export function Foot(props: {
  /** Left out where nothing is edited. */
  save?: SaveState;
  version?: number;
  /** Said instead of what is saved. */
  instead?: string | null;
  canUndo?: boolean;
  canRedo?: boolean;
}) {
  const { undoing, toggleHelp } = useContext(AroundContext);
  return (
    <div className="foot">
      <SaveWords save={props.save} words={props.instead ?? (props.save && saveWords(props.save, props.version))} />
      <span>
        {undoing && (
          <Button disabled={!props.canUndo} onClick={undoing.undo} title="Ctrl+Z">
            Undo
          </Button>
        )}
        {undoing?.redo && (
          <Button disabled={!props.canRedo} onClick={undoing.redo} title="Ctrl+Shift+Z">
            Redo
          </Button>
        )}
        <Button onClick={toggleHelp} aria-label="Keyboard shortcuts">
          ?
        </Button>
      </span>
    </div>
  );
}
