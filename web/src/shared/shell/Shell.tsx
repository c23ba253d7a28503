// What every workplace with an open document has around it: waiting, its name and version, a conflict to settle, and the
// foot with what is saved, undo and redo.
import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import InputBase from "@mui/material/InputBase";
import { type ReactNode, useEffect, useState } from "react";
import type { SaveState } from "../saving.js";
import type { Phase } from "./documentStore.js";

/** While nothing is open. @param word - "robot", "field" */
export function Waiting({ phase, word, empty }: { phase: Phase; word: string; empty: ReactNode }) {
  if (phase.is === "failed")
    return (
      <main className="centre">
        <h1>The {word} could not be opened</h1>
        <p>{phase.message}</p>
        <Button variant="contained" onClick={() => window.location.reload()}>
          Try again
        </Button>
      </main>
    );
  if (phase.is === "empty") return <main className="centre">{empty}</main>;
  return <main className="centre quiet">Opening the {word}…</main>;
}

export function DocumentHead(props: {
  word: string;
  title: string;
  name: string;
  revision: number;
  onName: (name: string) => void;
  onRevisions: () => void;
  others: string;
  onOthers: () => void;
}) {
  const [typed, setTyped] = useState(props.name);
  useEffect(() => setTyped(props.name), [props.name]);
  const commit = () => {
    const next = typed.trim();
    if (next === "" || next.length > 40) return setTyped(props.name);
    if (next !== props.name) props.onName(next);
  };
  return (
    <div className="robothead">
      <h1 className="sr">
        {props.title} {props.name}
      </h1>
      <InputBase
        className="robotnamefield"
        inputProps={{ className: "robotname", "aria-label": `Name of the ${props.word}`, maxLength: 40 }}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => event.key === "Enter" && (event.target as HTMLElement).blur()}
      />
      <Button
        className="revbadge mono"
        variant="outlined"
        onClick={props.onRevisions}
        title="Revisions: name, compare, restore"
      >
        rev {props.revision}
      </Button>
      <Button
        className="revbadge"
        variant="outlined"
        onClick={props.onOthers}
        title={`Other ${props.others.toLowerCase()}, new ones, files`}
      >
        {props.others}
      </Button>
    </div>
  );
}

export function Conflict(props: { save: SaveState; word: string; settle: (which: "mine" | "theirs") => void }) {
  if (props.save.is !== "conflict") return null;
  return (
    <Alert severity="warning" icon={false} className="banner" role="alert">
      <strong>This {props.word} was changed in another window.</strong> Yours is on the screen, the other is on the
      server.
      <span className="acts">
        <Button variant="contained" onClick={() => props.settle("mine")}>
          Go on with mine
        </Button>
        <Button variant="outlined" onClick={() => props.settle("theirs")}>
          Take the other
        </Button>
      </span>
    </Alert>
  );
}

function saveWords(save: SaveState): string {
  if (save.is === "away") return `Not saved yet. ${save.message}`;
  if (save.is === "refused") return `Not saved: ${save.message}`;
  return { saved: "Saved", saving: "Saving…", conflict: "Changed in another window" }[save.is];
}

export function Foot(props: {
  save: SaveState;
  canUndo: boolean;
  canRedo: boolean;
  undo: () => void;
  redo: () => void;
  help: () => void;
}) {
  return (
    <div className="foot">
      <span role="status" data-save={props.save.is}>
        {saveWords(props.save)}
      </span>
      <span>
        <Button disabled={!props.canUndo} onClick={props.undo} title="Ctrl+Z">
          Undo
        </Button>
        <Button disabled={!props.canRedo} onClick={props.redo} title="Ctrl+Shift+Z">
          Redo
        </Button>
        <Button onClick={props.help} aria-label="Keyboard shortcuts">
          ?
        </Button>
      </span>
    </div>
  );
}
