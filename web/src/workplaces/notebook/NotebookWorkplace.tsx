// The Notebook workplace: contents on the left, one page in the middle; out on paper and as files.
import "../../shared/noEval.js";
import { type Notebook, type NotebookPage, openNotebook } from "@giddy-pebble/core";
import Alert from "@mui/material/Alert";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { Bar, Typed } from "../../shared/controls.js";
import { DifferenceTable } from "../../shared/DifferenceTable.js";
import type { Binding } from "../../shared/keys.js";
import { PageView } from "../../shared/paper/PageView.js";
import { placed } from "../../shared/place.js";
import type { Shortcut } from "../../shared/Shortcuts.js";
import { Conflict, mineOrTheirs } from "../../shared/shell/Conflict.js";
import { DocumentHead } from "../../shared/shell/DocumentHead.js";
import { RevisionsPanel } from "../../shared/shell/RevisionsPanel.js";
import { Foot, Workplace } from "../../shared/shell/Shell.js";
import { AddPage } from "./AddPage.js";
import { MatchSheet } from "./MatchSheet.js";
import { blocksOf, isWritten, print, saveHtml, saveMarkdown, savePdf, stopPdf } from "./out.js";
import { PitList } from "./PitList.js";
import { PracticeClock } from "./PracticeClock.js";
import { titleOf, useNotebook } from "./state.js";
import {
  addPhotos,
  change,
  freeze,
  makeFirst,
  movePage,
  nameRevision,
  redo,
  removePage,
  restoreRevision,
  returnTo,
  settle,
  showPage,
  sinceFrozen,
  start,
  stopGathering,
  undo,
  writePage,
} from "./store.js";

const SHORTCUTS: readonly Shortcut[] = [
  [", and .", "the page before, the next one"],
  ["A", "add a page"],
  ["Ctrl+P", "print all pages"],
];

function walk(by: 1 | -1): void {
  const { notebook, page } = useNotebook.getState();
  const next = notebook.pages[notebook.pages.findIndex(({ id }) => id === page) + by];
  if (next) showPage(next.id);
}

const toggleAdd = () => useNotebook.setState(({ panel }) => ({ panel: panel === "add" ? "none" : "add" }));
const KEYS: readonly Binding[] = [
  { keys: ",", where: "outside text", act: () => walk(-1) },
  { keys: ".", where: "outside text", act: () => walk(1) },
  { keys: "a", where: "outside text", act: toggleAdd },
  { keys: "$mod+p", where: "anywhere", act: () => void print() },
];

export function NotebookWorkplace() {
  const phase = useNotebook((state) => state.phase);
  const open = useNotebook((state) => state.open);
  const message = useNotebook((state) => state.message);
  return (
    <Workplace
      id="notebook"
      phase={phase}
      word="notebook"
      name={open?.name ?? null}
      robot={null}
      refresh={open?.headRevision ?? 0}
      open={() => void start(placed("notebook"))}
      back={() => {
        const page = placed("page");
        void returnTo(placed("notebook"));
        if (page !== null) showPage(page, "replace");
      }}
      empty={<FirstNotebook />}
      undoing={{ undo, redo }}
      keys={KEYS}
      shortcuts={SHORTCUTS}
      message={message}
      said={() => useNotebook.setState({ message: null })}
    >
      <Workbench />
    </Workplace>
  );
}

function FirstNotebook() {
  const [trouble, setTrouble] = useState<string | null>(null);
  return (
    <>
      <h1>No notebook yet</h1>
      <p>
        A notebook tells judges what you built and why. Its pages make themselves from your robots, fields, missions and
        runs. Between them you write your own.
      </p>
      <Button variant="contained" onClick={() => void makeFirst().then(setTrouble)}>
        Make a notebook
      </Button>
      {trouble && <p role="alert">{trouble}</p>}
    </>
  );
}

function Workbench() {
  const panel = useNotebook((state) => state.panel);
  const save = useNotebook((state) => state.save);
  const canUndo = useNotebook((state) => state.past.length > 0);
  const canRedo = useNotebook((state) => state.future.length > 0);
  const printing = useNotebook((state) => state.printing);
  return (
    <main className="notebook">
      <div className="robotleft">
        <Head />
        <Conflict save={save} word="notebook" ways={mineOrTheirs(settle)} />
        <Contents />
        <Foot save={save} canUndo={canUndo} canRedo={canRedo} />
      </div>
      <div className="notebookmiddle">
        <Outputs />
        <Page />
      </div>
      {printing && <PaperAll />}
      <Clock />
      {panel === "add" && <AddPage />}
      {panel === "versions" && <Versions />}
    </main>
  );
}

function Head() {
  const notebook = useNotebook((state) => state.notebook);
  const revision = useNotebook((state) => state.open?.headRevision ?? 0);
  return (
    <DocumentHead
      word="notebook"
      title="Notebook"
      name={notebook.name}
      revision={revision}
      onName={(name) => change({ ...notebook, name }, "another name")}
      onRevisions={() => useNotebook.setState({ panel: "versions" })}
      others="Add page"
      onOthers={toggleAdd}
    />
  );
}

function Contents() {
  const pages = useNotebook((state) => state.notebook.pages);
  const page = useNotebook((state) => state.page);
  if (pages.length === 0)
    return <p className="quiet contentsnone">This notebook has no pages. Add the first one with “Add page”.</p>;
  return (
    <ol className="contents" aria-label="Contents">
      {pages.map((one) => (
        <li key={one.id}>
          <button
            type="button"
            className="plain"
            aria-current={one.id === page ? "page" : undefined}
            onClick={() => showPage(one.id)}
          >
            {titleOf(one)}
            {one.kind === "made" && one.frozen && <span className="quiet"> · frozen</span>}
            {one.kind === "own" && <span className="quiet"> · yours</span>}
          </button>
        </li>
      ))}
    </ol>
  );
}

function Outputs() {
  const { gathering, making, canPdf } = useNotebook(
    useShallow((state) => ({ gathering: state.gathering, making: state.making, canPdf: state.canPdf })),
  );
  if (gathering)
    return (
      <div className="notebookout">
        <span role="status">
          Making page {gathering.done} of {gathering.of}
        </span>
        <Bar share={gathering.of === 0 ? 1 : gathering.done / gathering.of} label="Pages made" />
        <Button variant="outlined" onClick={stopGathering}>
          Cancel
        </Button>
      </div>
    );
  if (making)
    return (
      <div className="notebookout">
        <span role="status">Printing the PDF. This takes a few seconds.</span>
        <LinearProgress className="bar" aria-label="Printing the PDF" />
        <Button variant="outlined" onClick={stopPdf}>
          Cancel
        </Button>
      </div>
    );
  return (
    <div className="notebookout">
      <Button variant="contained" onClick={() => void print()} title="Ctrl+P">
        {canPdf ? "Print" : "Print or PDF"}
      </Button>
      {canPdf && (
        <>
          <Button variant="outlined" onClick={() => void savePdf("a4")}>
            Save as PDF, A4
          </Button>
          <Button variant="outlined" onClick={() => void savePdf("letter")}>
            Save as PDF, letter
          </Button>
        </>
      )}
      <Button variant="outlined" onClick={() => void saveHtml()}>
        Save as one HTML file
      </Button>
      <Button variant="outlined" onClick={() => void saveMarkdown()}>
        Save as Markdown
      </Button>
    </div>
  );
}

function Page() {
  const page = useNotebook((state) => state.notebook.pages.find(({ id }) => id === state.page) ?? null);
  // What it is made of may have come since.
  const made = useNotebook((state) => (page ? state.made.get(page.id) : undefined));
  if (!page) return <p className="quiet">Choose a page on the left.</p>;
  const trouble = made && "trouble" in made && !(page.kind === "made" && page.frozen) ? made.trouble : null;
  return (
    <article className="paper" aria-label={titleOf(page)}>
      <PageActs page={page} ready={made !== undefined && "blocks" in made} />
      {page.kind === "own" ? (
        <OwnPage key={page.id} page={page} />
      ) : page.kind === "match" ? (
        <MatchSheet key={page.id} page={page} />
      ) : page.kind === "pit" ? (
        <PitList key={page.id} page={page} />
      ) : (
        <>
          <h2>{titleOf(page)}</h2>
          <Frozen page={page} />
          {trouble ? <Alert severity="warning">{trouble}</Alert> : <PageView blocks={blocksOf(page)} />}
          {!made && !page.frozen && <p className="quiet">Making this page…</p>}
        </>
      )}
    </article>
  );
}

function PageActs({ page, ready }: { page: NotebookPage; ready: boolean }) {
  return (
    <p className="pageacts">
      {page.kind === "made" && (
        <Button onClick={() => freeze(page.id)} disabled={!page.frozen && !ready}>
          {page.frozen ? "Let it change again" : "Freeze as it is"}
        </Button>
      )}
      <IconButton size="small" aria-label="Move this page up" onClick={() => movePage(page.id, -1)}>
        ↑
      </IconButton>
      <IconButton size="small" aria-label="Move this page down" onClick={() => movePage(page.id, 1)}>
        ↓
      </IconButton>
      <Button onClick={() => removePage(page.id)}>Take out</Button>
    </p>
  );
}

/** Changes that a frozen page lists. */
const MOST_CHANGES = 60;

/** What is different now from what a frozen page says. */
function Frozen({ page }: { page: NotebookPage }) {
  if (page.kind !== "made" || !page.frozen) return null;
  const changes = sinceFrozen(page);
  return (
    <Alert severity="info" icon={false} className="frozen">
      As it was on{" "}
      {new Date(page.frozen.at).toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}.{" "}
      {changes.length === 0 ? "Nothing has changed since." : "Since then:"}
      {changes.length > 0 && (
        <ul>
          {changes.slice(0, MOST_CHANGES).map((line) => (
            <li key={line}>{line}</li>
          ))}
          {changes.length > MOST_CHANGES && <li>and {changes.length - MOST_CHANGES} more</li>}
        </ul>
      )}
    </Alert>
  );
}

function OwnPage({ page }: { page: Extract<NotebookPage, { kind: "own" }> }) {
  const [writing, setWriting] = useState(page.text === "");
  const chooser = useRef<HTMLInputElement>(null);
  const say = (words: string | null) => words !== null && useNotebook.setState({ message: words });
  return (
    <>
      <Typed
        className="owntitle"
        aria-label="Title of the page"
        placeholder="Title"
        value={page.title}
        maxLength={200}
        onChange={(event) => writePage(page, { title: event.target.value })}
      />
      {writing ? (
        <TextField
          multiline
          fullWidth
          minRows={8}
          label="Text, in Markdown"
          value={page.text}
          onChange={(event) => writePage(page, { text: event.target.value })}
          helperText="# heading, **bold**, - list, 1. list, [words](https://address), ` ``` ` around a program"
          slotProps={{ htmlInput: { maxLength: 100_000 } }}
        />
      ) : (
        <PageView blocks={[{ kind: "markdown", text: page.text }]} />
      )}
      <p className="pageacts">
        <Button variant="outlined" onClick={() => setWriting(!writing)}>
          {writing ? "Show it" : "Write"}
        </Button>
        <Button variant="outlined" onClick={() => chooser.current?.click()}>
          Add photographs…
        </Button>
        <input
          ref={chooser}
          type="file"
          hidden
          multiple
          accept="image/*"
          aria-label="Photographs"
          onChange={(event) => {
            const files = [...(event.target.files ?? [])];
            event.target.value = "";
            void addPhotos(page.id, files).then(say);
          }}
        />
      </p>
      {page.photos.map((photo, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a photograph is its place on the page
        <figure key={i} className="ownphoto">
          <img src={`/api/assets/${photo.asset}`} alt={photo.caption} />
          <figcaption>
            <Typed
              aria-label={`What photograph ${i + 1} shows`}
              placeholder="What it shows"
              value={photo.caption}
              maxLength={400}
              onChange={(event) =>
                writePage(page, { photos: page.photos.with(i, { ...photo, caption: event.target.value }) })
              }
            />
            <Button onClick={() => writePage(page, { photos: page.photos.toSpliced(i, 1) })}>Take out</Button>
          </figcaption>
        </figure>
      ))}
    </>
  );
}

function Clock() {
  const page = useNotebook((state) => state.notebook.pages.find(({ id }) => id === state.practising));
  return page?.kind === "match" ? <PracticeClock page={page} /> : null;
}

/** All pages under one another, for paper. */
function PaperAll() {
  const notebook = useNotebook((state) => state.notebook);
  const pages = notebook.pages.filter(isWritten);
  return (
    <div className="paperall">
      <section>
        <h1>{notebook.name}</h1>
        <ol>
          {pages.map((page) => (
            <li key={page.id}>{titleOf(page)}</li>
          ))}
        </ol>
      </section>
      {pages.map((page) => (
        <section key={page.id}>
          <h2>{titleOf(page)}</h2>
          {page.kind === "made" && page.frozen && <p className="quiet">As it was on {page.frozen.at.slice(0, 10)}</p>}
          <PageView blocks={blocksOf(page)} />
        </section>
      ))}
    </div>
  );
}

const close = () => useNotebook.setState({ panel: "none" });

function readBody(body: unknown): Notebook | null {
  const read = openNotebook(body);
  return read.ok ? read.document : null;
}

/** Pages that differ between two versions. */
function pageRows(before: Notebook, after: Notebook): [string, string, string, string][] {
  const old = new Map(before.pages.map((page) => [page.id, page]));
  const now = new Map(after.pages.map((page) => [page.id, page]));
  return [...new Set([...old.keys(), ...now.keys()])].flatMap((id): [string, string, string, string][] => {
    const [was, is] = [old.get(id), now.get(id)];
    if (JSON.stringify(was) === JSON.stringify(is)) return [];
    const title = titleOf((is ?? was) as NotebookPage);
    return [[title, "page", was ? "there" : "not there", is ? (was ? "changed" : "added") : "taken out"]];
  });
}

function Versions() {
  return (
    <RevisionsPanel<Notebook>
      word="notebook"
      open={useNotebook((state) => state.open)}
      now={useNotebook((state) => state.notebook)}
      read={readBody}
      name={nameRevision}
      restore={restoreRevision}
      compare={(before, after) => <DifferenceTable head="Page" rows={pageRows(before, after)} />}
      close={close}
    />
  );
}
