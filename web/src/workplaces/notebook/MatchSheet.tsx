// A match sheet: missions of a round in order, what they bring, the best order, and practice with a large clock.
import {
  bestOrder,
  EXACT_UP_TO,
  expectedPoints,
  type NotebookPage,
  playRounds,
  randomStream,
  type SheetEntry,
} from "@giddy-pebble/core";
import Alert from "@mui/material/Alert";
import Autocomplete from "@mui/material/Autocomplete";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Table from "@mui/material/Table";
import TableBody from "@mui/material/TableBody";
import TableCell from "@mui/material/TableCell";
import TableHead from "@mui/material/TableHead";
import TableRow from "@mui/material/TableRow";
import TextField from "@mui/material/TextField";
import { useMemo, useState } from "react";
import { api } from "../../shared/api.js";
import { Typed } from "../../shared/controls.js";
import { QuantityField } from "../../shared/quantity/QuantityField.js";
import { useNotebook } from "./state.js";
import { replace } from "./store.js";

export type MatchPage = Extract<NotebookPage, { kind: "match" }>;

/** Rounds that are played to see how much they vary. */
const PLAYED = 4000;

const change = (page: MatchPage, changes: Partial<MatchPage>, label: string, typing?: string) =>
  replace({ ...page, ...changes }, label, typing === undefined ? undefined : `${page.id}/${typing}`);

function changeEntry(page: MatchPage, i: number, changes: Partial<SheetEntry>): void {
  const entries = page.entries.map((entry, k) => (k === i ? { ...entry, ...changes } : entry));
  change(page, { entries }, `changing ${page.entries[i]?.name ?? "a mission"}`, `${i}/${Object.keys(changes).join()}`);
}

/** What is known of a mission from its runs: time and success; a careful guess where nothing is. */
async function entryOf(name: string, id: string): Promise<SheetEntry> {
  const filter = { mission: id, source: "", result: "", tag: "", words: "" } as const;
  const [counts, list] = await Promise.all([api.trialCounts(filter), api.trialsFrom(filter, null)]);
  const newest = counts.ok ? counts.value.versions.at(-1) : undefined;
  const runs = list.ok ? list.value.trials.filter(({ mission }) => mission.number === newest?.number) : [];
  const times = runs.map(({ durationMs }) => durationMs / 1000);
  const mean = times.reduce((sum, time) => sum + time, 0) / Math.max(1, times.length);
  const square = times.reduce((sum, time) => sum + (time - mean) ** 2, 0);
  const scores = runs.flatMap(({ score, success }) => (success && score !== null ? [score] : []));
  return {
    name,
    points: scores.length === 0 ? 10 : Math.max(...scores),
    meanS: times.length === 0 ? 20 : Math.max(0.1, Math.round(mean * 10) / 10),
    spreadS: times.length < 2 ? 0 : Math.round(Math.sqrt(square / (times.length - 1)) * 10) / 10,
    success: newest && newest.runs > 0 ? Math.round((newest.successes / newest.runs) * 1000) / 1000 : 0.5,
    attachment: "",
    begin: "",
    retries: 1,
  };
}

/** A number with its unit, typed as text. */
function Number_({
  value,
  unit,
  perSi = 1,
  digits = 1,
  label,
  take,
}: {
  value: number;
  unit: string;
  perSi?: number;
  digits?: number;
  label: string;
  take: (value: number) => void;
}) {
  return (
    <QuantityField
      digits={String(Math.round(value * perSi * 10 ** digits) / 10 ** digits)}
      unit={unit}
      label={label}
      onChange={(text) => {
        const read = Number.parseFloat(text);
        if (Number.isFinite(read)) take(read / perSi);
      }}
    />
  );
}

export function MatchSheet({ page }: { page: MatchPage }) {
  return (
    <>
      <h2 className="sr">{page.title}</h2>
      <Typed
        className="owntitle"
        aria-label="Title of the page"
        value={page.title}
        maxLength={200}
        onChange={(event) => change(page, { title: event.target.value }, "another title", "title")}
      />
      <p className="matchrules">
        Round{" "}
        <Number_
          value={page.roundS}
          unit="s"
          digits={0}
          label="Length of the round"
          take={(roundS) => change(page, { roundS: Math.max(1, Math.min(7200, roundS)) }, "another round")}
        />
        , put down again{" "}
        <Number_
          value={page.resetS}
          unit="s"
          label="Putting down again"
          take={(resetS) => change(page, { resetS: Math.max(0, Math.min(7200, resetS)) }, "another time to put down")}
        />
        , change of attachment{" "}
        <Number_
          value={page.changeS}
          unit="s"
          label="Change of attachment"
          take={(changeS) => change(page, { changeS: Math.max(0, Math.min(7200, changeS)) }, "another time to change")}
        />
      </p>
      <Entries page={page} />
      <AddMission page={page} />
      {page.entries.length > 0 && <Brings page={page} />}
      <Practice page={page} />
    </>
  );
}

function Entries({ page }: { page: MatchPage }) {
  const each = useMemo(() => expectedPoints(page.entries, page).each, [page]);
  if (page.entries.length === 0)
    return <p className="quiet">Add the missions of a round. Times and success come from their runs.</p>;
  const move = (i: number, by: 1 | -1) => {
    const [entry] = page.entries.slice(i, i + 1);
    if (!entry || i + by < 0 || i + by >= page.entries.length) return;
    change(page, { entries: page.entries.toSpliced(i, 1).toSpliced(i + by, 0, entry) }, `moving ${entry.name}`);
  };
  return (
    <Table className="papertable matchtable">
      <TableHead>
        <TableRow>
          {["No.", "Mission", "Points", "Time", "±", "Works", "Tries", "Attachment", "Brings", "Order"].map(
            (head, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a head is its place
              <TableCell key={i}>{head}</TableCell>
            ),
          )}
        </TableRow>
      </TableHead>
      <TableBody>
        {page.entries.map((entry, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a mission may be on a sheet twice
          <TableRow key={i}>
            <TableCell>{i + 1}</TableCell>
            <TableCell>{entry.name}</TableCell>
            <TableCell>
              <Number_
                value={entry.points}
                unit=""
                digits={0}
                label={`Points of ${entry.name}`}
                take={(points) => changeEntry(page, i, { points: Math.max(0, Math.min(10_000, points)) })}
              />
            </TableCell>
            <TableCell>
              <Number_
                value={entry.meanS}
                unit="s"
                label={`Time of ${entry.name}`}
                take={(meanS) => changeEntry(page, i, { meanS: Math.max(0.1, Math.min(7200, meanS)) })}
              />
            </TableCell>
            <TableCell>
              <Number_
                value={entry.spreadS}
                unit="s"
                label={`Spread of the time of ${entry.name}`}
                take={(spreadS) => changeEntry(page, i, { spreadS: Math.max(0, Math.min(7200, spreadS)) })}
              />
            </TableCell>
            <TableCell>
              <Number_
                value={entry.success}
                unit="%"
                perSi={100}
                digits={0}
                label={`How often ${entry.name} works`}
                take={(success) => changeEntry(page, i, { success: Math.max(0, Math.min(1, success)) })}
              />
            </TableCell>
            <TableCell>
              <Number_
                value={entry.retries + 1}
                unit=""
                digits={0}
                label={`Tries of ${entry.name}`}
                take={(tries) => changeEntry(page, i, { retries: Math.max(0, Math.min(9, Math.round(tries) - 1)) })}
              />
            </TableCell>
            <TableCell>
              <Typed
                aria-label={`Attachment for ${entry.name}`}
                placeholder="none"
                size={8}
                maxLength={60}
                value={entry.attachment}
                onChange={(event) => changeEntry(page, i, { attachment: event.target.value })}
              />
            </TableCell>
            <TableCell className="mono">{(each[i] ?? 0).toFixed(1)}</TableCell>
            <TableCell>
              <IconButton size="small" aria-label={`${entry.name} earlier`} onClick={() => move(i, -1)}>
                ↑
              </IconButton>
              <IconButton size="small" aria-label={`${entry.name} later`} onClick={() => move(i, 1)}>
                ↓
              </IconButton>
              <IconButton
                size="small"
                aria-label={`Take ${entry.name} off`}
                onClick={() => change(page, { entries: page.entries.toSpliced(i, 1) }, `taking ${entry.name} off`)}
              >
                ×
              </IconButton>
            </TableCell>
          </TableRow>
        ))}
      </TableBody>
    </Table>
  );
}

function AddMission({ page }: { page: MatchPage }) {
  const project = useNotebook((state) => state.project);
  const missions = project.filter(({ kind }) => kind === "mission");
  const [typed, setTyped] = useState("");
  return (
    <Autocomplete
      className="addmission"
      size="small"
      options={missions}
      value={null}
      inputValue={typed}
      getOptionLabel={({ name }) => name}
      getOptionKey={({ id }) => id}
      onInputChange={(_, value, reason) => reason === "input" && setTyped(value)}
      onChange={(_, chosen) => {
        setTyped("");
        if (!chosen || page.entries.length >= 30) return;
        void entryOf(chosen.name, chosen.id).then((entry) => {
          const now = useNotebook.getState().notebook.pages.find(({ id }) => id === page.id);
          if (now?.kind === "match") change(now, { entries: [...now.entries, entry] }, `adding ${entry.name}`);
        });
      }}
      renderInput={(params) => <TextField {...params} label="Add a mission" />}
    />
  );
}

function Brings({ page }: { page: MatchPage }) {
  const [found, setFound] = useState<string | null>(null);
  const { total } = useMemo(() => expectedPoints(page.entries, page), [page]);
  const spread = useMemo(() => playRounds(page.entries, page, PLAYED, randomStream(1)), [page]);
  const best = () => {
    const { order, points, exact } = bestOrder(page.entries, page);
    const same = order.every((place, i) => place === i);
    const how = exact
      ? "Every order was looked at."
      : `With more than ${EXACT_UP_TO} missions this is a search: a better order may be left.`;
    if (same || points <= total + 1e-9) return setFound(`This is the best order. ${how}`);
    setFound(`This order brings ${points.toFixed(1)} points instead of ${total.toFixed(1)}. ${how}`);
    const entries = order.flatMap((i) => page.entries.slice(i, i + 1));
    change(page, { entries }, "taking the best order");
  };
  return (
    <section aria-label="What the round brings">
      <p role="status">
        On average <strong>{total.toFixed(1)} points</strong>. Eight rounds in ten bring {spread.low} to {spread.high}.
      </p>
      <p>
        <Button variant="outlined" onClick={best}>
          Find the best order
        </Button>
      </p>
      {found && <Alert severity="info">{found}</Alert>}
    </section>
  );
}

function Practice({ page }: { page: MatchPage }) {
  const points = page.rounds.map((round) => round.points);
  const mean = points.reduce((sum, one) => sum + one, 0) / Math.max(1, points.length);
  return (
    <section aria-label="Practice">
      <h3>Practice</h3>
      {points.length > 0 && (
        <p>
          {points.length} round{points.length === 1 ? "" : "s"}: {mean.toFixed(1)} points on average, the best{" "}
          {Math.max(...points)}, the newest {points.at(-1)}.
        </p>
      )}
      <Button
        variant="contained"
        disabled={page.entries.length === 0}
        onClick={() => useNotebook.setState({ practising: page.id })}
      >
        Practise with the clock
      </Button>
    </section>
  );
}
