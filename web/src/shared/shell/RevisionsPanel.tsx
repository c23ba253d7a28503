// Revisions of a document: name one, list them, compare two side by side with only what differs, restore one.

import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { type ReactNode, useEffect, useState } from "react";
import { api, type ListedRevision } from "../api.js";
import { Panel } from "../Panel.js";

interface Props<T> {
  readonly word: string;
  readonly open: { readonly id: string; readonly headRevision: number } | null;
  /** What is on the screen. */
  readonly now: T;
  readonly read: (body: unknown) => T | null;
  readonly name: (name: string, reason: string) => Promise<string | null>;
  readonly restore: (number: number, document: T) => Promise<string | null>;
  readonly compare: (before: T, after: T) => ReactNode;
  readonly close: () => void;
}

async function readRevision<T>(id: string, number: number, read: Props<T>["read"]): Promise<T | null> {
  const found = await api.revision(id, number);
  return found.ok ? read(found.value.body) : null;
}

/** The document as a revision has it; null while it is read, or when it cannot be. */
function useRevision<T>(id: string | undefined, number: number | null, read: Props<T>["read"]): T | null {
  const [found, setFound] = useState<{ readonly key: string; readonly document: T | null } | null>(null);
  const key = `${id} ${number}`;
  useEffect(() => {
    if (!id || number === null) return;
    let here = true;
    void readRevision(id, number, read).then((document) => here && setFound({ key: `${id} ${number}`, document }));
    return () => {
      here = false;
    };
  }, [id, number, read]);
  return found?.key === key ? found.document : null;
}

function when(iso: string): string {
  return new Date(iso).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}

export function RevisionsPanel<T>(props: Props<T>) {
  const { word, open, read } = props;
  const [revisions, setRevisions] = useState<readonly ListedRevision[] | null>(null);
  const [next, setNext] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [before, setBefore] = useState<number | null>(null);
  const [after, setAfter] = useState<"now" | number>("now");
  const id = open?.id;
  const head = open?.headRevision;

  const load = async (cursor: string | null, shown: readonly ListedRevision[]) => {
    if (!id) return;
    const answer = await api.revisions(id, cursor);
    if (!answer.ok) return setTrouble(answer.message);
    const listed = answer.value.revisions;
    setRevisions([...shown, ...listed]);
    setNext(answer.value.next);
    if (cursor === null) setBefore(listed[0]?.number ?? null);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new head asks for a new list
  useEffect(() => {
    void load(null, []);
  }, [id, head]);

  const old = useRevision(id, before, read);
  const later = useRevision(id, after === "now" ? null : after, read);
  const now = after === "now" ? props.now : later;
  const restore = async (number: number) => {
    const found = id ? await readRevision(id, number, read) : null;
    setTrouble(found ? await props.restore(number, found) : `Version ${number} could not be read. Try again.`);
  };
  return (
    <Panel title="Versions" label={`Versions of this ${word}`} close={props.close}>
      <NameForm name={props.name} onTrouble={setTrouble} />
      {trouble && (
        <p className="note error" role="alert">
          {trouble}
        </p>
      )}
      {revisions === null && <p className="quiet">Reading the versions…</p>}
      <ul className="revisionlist">
        {revisions?.map((revision) => (
          <li key={revision.id}>
            <span className="mono">version {revision.number}</span>
            <span>
              <strong>{revision.name ?? revision.reason}</strong>
              <small>
                {revision.name === null ? "" : `${revision.reason} · `}
                {when(revision.createdAt)}
              </small>
            </span>
            <Button size="small" onClick={() => void restore(revision.number)}>
              Restore
            </Button>
          </li>
        ))}
      </ul>
      {next && (
        <Button size="small" onClick={() => void load(next, revisions ?? [])}>
          Older ones
        </Button>
      )}
      {revisions && revisions.length > 0 && (
        <section className="compare" aria-label="Compare two versions">
          <h3>Compare</h3>
          <div className="pickers">
            <Picker label="Earlier one" value={String(before ?? "")} onChange={(value) => setBefore(Number(value))}>
              {revisions.map((revision) => (
                <option key={revision.id} value={revision.number}>
                  version {revision.number}
                  {revision.name ? `, ${revision.name}` : ""}
                </option>
              ))}
            </Picker>
            with
            <Picker
              label="Later one"
              value={String(after)}
              onChange={(value) => setAfter(value === "now" ? "now" : Number(value))}
            >
              <option value="now">what is on the screen</option>
              {revisions.map((revision) => (
                <option key={revision.id} value={revision.number}>
                  version {revision.number}
                </option>
              ))}
            </Picker>
          </div>
          {old && now && props.compare(old, now)}
        </section>
      )}
    </Panel>
  );
}

function Picker(props: { label: string; value: string; onChange: (value: string) => void; children: ReactNode }) {
  return (
    <TextField
      select
      size="small"
      value={props.value}
      onChange={(event) => props.onChange(event.target.value)}
      slotProps={{ select: { native: true }, htmlInput: { "aria-label": props.label } }}
    >
      {props.children}
    </TextField>
  );
}

function NameForm({
  name: keep,
  onTrouble,
}: {
  name: Props<unknown>["name"];
  onTrouble: (message: string | null) => void;
}) {
  const [name, setName] = useState("");
  const [reason, setReason] = useState("");
  const [kept, setKept] = useState<string | null>(null);
  return (
    <form
      className="nameform"
      onSubmit={(event) => {
        event.preventDefault();
        void keep(name.trim(), reason.trim() === "" ? "named" : reason.trim()).then((message) => {
          onTrouble(message);
          if (message !== null) return;
          setKept(`Kept as "${name.trim()}".`);
          setName("");
          setReason("");
        });
      }}
    >
      <TextField
        size="small"
        placeholder="Name, such as new tyres"
        slotProps={{ htmlInput: { "aria-label": "Name of the version", maxLength: 120, required: true } }}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <TextField
        size="small"
        placeholder="Why (if you like)"
        slotProps={{ htmlInput: { "aria-label": "Reason", maxLength: 300 } }}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <div className="keeprow">
        <Button type="submit" variant="contained" disabled={name.trim() === ""}>
          Keep as a version
        </Button>
        <span role="status" className="quiet small" title={kept ?? ""}>
          {kept ?? ""}
        </span>
      </div>
    </form>
  );
}
