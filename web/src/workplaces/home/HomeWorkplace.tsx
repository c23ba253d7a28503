// The home page: every document with a small picture, newest change first; what can be done with each; and first steps.
import "../../shared/noEval.js";
import Button from "@mui/material/Button";
import Chip from "@mui/material/Chip";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Tab from "@mui/material/Tab";
import Tabs from "@mui/material/Tabs";
import { type RefObject, useEffect, useRef, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { saidBefore, takeFiles } from "../../shared/files/useDrop.js";
import type { Binding } from "../../shared/keys.js";
import { linkTo } from "../../shared/place.js";
import type { Shortcut } from "../../shared/Shortcuts.js";
import { Foot, Workplace } from "../../shared/shell/Shell.js";
import { Card } from "./Card.js";
import { FirstSteps } from "./FirstSteps.js";
import { Questions } from "./Questions.js";
import { RoomDialog } from "./RoomDialog.js";
import { found, type HomeState, KIND_WORDS, KINDS, redo, start, undo, useHome } from "./store.js";

const SHORTCUTS: readonly Shortcut[] = [
  ["/", "look for a document here"],
  ["Tab, Enter", "go to a document, open it"],
];

const search: { current: HTMLInputElement | null } = { current: null };
const KEYS: readonly Binding[] = [{ keys: "/", where: "outside text", act: () => search.current?.focus() }];

export function HomeWorkplace() {
  const phase = useHome((state) => state.phase);
  const message = useHome((state) => state.message);
  return (
    <Workplace
      id="home"
      phase={phase}
      word="project"
      name={null}
      robot={null}
      open={() => {
        useHome.setState({ message: saidBefore() });
        void start();
      }}
      empty={null}
      undoing={{ undo, redo }}
      keys={KEYS}
      shortcuts={SHORTCUTS}
      message={message}
      said={() => useHome.setState({ message: null })}
    >
      <main className="home">
        <div className="homepage">
          <FirstSteps />
          <Documents />
        </div>
        <HomeFoot />
        <Questions />
      </main>
    </Workplace>
  );
}

function HomeFoot() {
  const canUndo = useHome((state) => state.past.length > 0);
  const canRedo = useHome((state) => state.future.length > 0);
  const count = useHome((state) => state.used.length);
  return <Foot instead={`${count} documents`} canUndo={canUndo} canRedo={canRedo} />;
}

function Documents() {
  const state = useHome();
  const list = found(state);
  return (
    <section aria-labelledby="documents">
      <header className="homehead">
        <h1 id="documents">Your project</h1>
        <Tabs
          value={state.shelf}
          onChange={(_, shelf: HomeState["shelf"]) => useHome.setState({ shelf })}
          aria-label="Documents"
        >
          <Tab value="used" label={`In use (${state.used.length})`} />
          <Tab value="archived" label={`Archived (${state.archived.length})`} />
        </Tabs>
        <Files />
      </header>
      <div className="homefilters">
        <Typed
          ref={(input) => {
            search.current = input;
          }}
          type="search"
          className="homesearch"
          aria-label="Look for a document"
          placeholder="Look for a document"
          value={state.wanted}
          onChange={(event) => useHome.setState({ wanted: event.target.value })}
        />
        <KindChip kind="all" label="All" />
        {KINDS.filter((kind) => [...state.used, ...state.archived].some((one) => one.kind === kind)).map((kind) => (
          <KindChip key={kind} kind={kind} label={KIND_WORDS[kind][1]} />
        ))}
      </div>
      {list.length === 0 ? (
        <p className="quiet homenone">{noneWords(state)}</p>
      ) : (
        <ul className="cards" aria-label="Documents found">
          {list.map((document) => (
            <Card key={document.id} document={document} />
          ))}
        </ul>
      )}
    </section>
  );
}

function noneWords({ wanted, shelf, kind }: HomeState): string {
  if (wanted.trim() !== "") return `Nothing here is called “${wanted.trim()}”. Ctrl+K searches help and acts too.`;
  if (shelf === "archived") return "Nothing is archived. What you archive is kept here until you delete it for good.";
  return kind === "all"
    ? "Nothing is here yet. Make the first thing above, or drop a file on this page."
    : "There is none of this kind yet.";
}

function KindChip({ kind, label }: { kind: HomeState["kind"]; label: string }) {
  const chosen = useHome((state) => state.kind === kind);
  return (
    <Chip
      label={label}
      variant={chosen ? "filled" : "outlined"}
      color={chosen ? "primary" : "default"}
      aria-pressed={chosen}
      onClick={() => useHome.setState({ kind })}
    />
  );
}

const NEW = [
  ["A mission", "/mission?new=yes"],
  ["A robot", "/robot?new=yes"],
  ["A field", "/field?new=yes"],
] as const;

/** Makes something new, on the page where it belongs. */
function NewThing() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button variant="contained" aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        New…
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {NEW.map(([title, href]) => (
          <MenuItem key={href} component="a" href={linkTo(href)}>
            {title}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** The project as a file, and files taken in. */
function Files() {
  const [room, setRoom] = useState(false);
  const chooser: RefObject<HTMLInputElement | null> = useRef(null);
  useEffect(() => {
    if (chooser.current) chooser.current.value = "";
  });
  return (
    <span className="homefiles">
      <NewThing />
      <Button variant="outlined" onClick={() => chooser.current?.click()}>
        Open a file…
      </Button>
      <input
        ref={chooser}
        type="file"
        hidden
        multiple
        accept=".cairn,.json,.svg,.png,.jpg,.jpeg,.webp,.zip"
        aria-label="File to open"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          void takeFiles(files).then((failed) => failed !== null && useHome.setState({ message: failed }));
        }}
      />
      <Button variant="outlined" href="/api/project" title="Everything in open formats, as one .zip">
        Save the project
      </Button>
      <Button onClick={() => setRoom(true)}>Room</Button>
      {room && <RoomDialog close={() => setRoom(false)} />}
    </span>
  );
}
