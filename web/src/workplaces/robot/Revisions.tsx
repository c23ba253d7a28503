// Revisions: name one, list them, compare two side by side with only what differs, restore one.
import { openRobot, type Robot } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { api, type ListedRevision } from "../../shared/api.js";
import { Panel } from "../../shared/Panel.js";
import { RobotDifferences } from "../../shared/RobotDifferences.js";
import { useRobot } from "./state.js";
import { nameRevision, restoreRevision, showPanel } from "./store.js";

/** The robot as a revision has it; null while it is read, or when it cannot be. */
function useRevision(id: string | undefined, number: number | null): Robot | null {
  const [read, setRead] = useState<{
    readonly id: string;
    readonly number: number;
    readonly robot: Robot | null;
  } | null>(null);
  useEffect(() => {
    if (!id || number === null) return;
    let here = true;
    void readRevision(id, number).then((robot) => here && setRead({ id, number, robot }));
    return () => {
      here = false;
    };
  }, [id, number]);
  return read && read.id === id && read.number === number ? read.robot : null;
}

async function readRevision(id: string, number: number): Promise<Robot | null> {
  const found = await api.revision(id, number);
  const read = found.ok ? openRobot(found.value.body) : null;
  return read?.ok ? read.document : null;
}

function when(iso: string): string {
  return new Date(iso).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}

export function Revisions() {
  const open = useRobot((state) => state.open);
  const robot = useRobot((state) => state.robot);
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

  const old = useRevision(id, before);
  const later = useRevision(id, after === "now" ? null : after);
  const now = after === "now" ? robot : later;
  const restore = async (number: number) => {
    const found = id ? await readRevision(id, number) : null;
    setTrouble(found ? await restoreRevision(number, found) : `Revision ${number} could not be read. Try again.`);
  };
  return (
    <Panel title="Revisions" label="Revisions of this robot" close={() => showPanel("none")}>
      <NameForm onTrouble={setTrouble} />
      {trouble && (
        <p className="note error" role="alert">
          {trouble}
        </p>
      )}
      {revisions === null && <p className="quiet">Reading the revisions…</p>}
      <ul className="revisionlist">
        {revisions?.map((revision) => (
          <li key={revision.id}>
            <span className="mono">rev {revision.number}</span>
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
        <section className="compare" aria-label="Compare two revisions">
          <h3>Compare</h3>
          <div className="pickers">
            <select
              aria-label="Earlier one"
              value={before ?? ""}
              onChange={(event) => setBefore(Number(event.target.value))}
            >
              {revisions.map((revision) => (
                <option key={revision.id} value={revision.number}>
                  rev {revision.number}
                  {revision.name ? `, ${revision.name}` : ""}
                </option>
              ))}
            </select>
            with
            <select
              aria-label="Later one"
              value={after}
              onChange={(event) => setAfter(event.target.value === "now" ? "now" : Number(event.target.value))}
            >
              <option value="now">what is on the screen</option>
              {revisions.map((revision) => (
                <option key={revision.id} value={revision.number}>
                  rev {revision.number}
                </option>
              ))}
            </select>
          </div>
          {old && now && <RobotDifferences before={old} after={now} />}
        </section>
      )}
    </Panel>
  );
}

function NameForm({ onTrouble }: { onTrouble(message: string | null): void }) {
  const [name, setName] = useState("");
  const [reason, setReason] = useState("");
  const [kept, setKept] = useState<string | null>(null);
  return (
    <form
      className="nameform"
      onSubmit={(event) => {
        event.preventDefault();
        void nameRevision(name.trim(), reason.trim() === "" ? "named" : reason.trim()).then((message) => {
          onTrouble(message);
          if (message === null) {
            setKept(`Kept as "${name.trim()}".`);
            setName("");
            setReason("");
          }
        });
      }}
    >
      <input
        required
        maxLength={120}
        placeholder="Name, such as new tyres"
        aria-label="Name of the revision"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <input
        maxLength={300}
        placeholder="Why (if you like)"
        aria-label="Reason"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button type="submit" variant="contained" disabled={name.trim() === ""}>
        Keep as a revision
      </Button>
      <span role="status" className="quiet small">
        {kept ?? ""}
      </span>
    </form>
  );
}
