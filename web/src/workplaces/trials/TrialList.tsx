// Kept runs, newest first, with filters; a run is chosen to be laid over others, and can be written a note on.
import { SOURCE_WORDS } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Chip from "@mui/material/Chip";
import { Fragment, useState } from "react";
import type { StudyView, TrialCounts, TrialFilter, TrialView } from "../../shared/api.js";
import { Pick, Typed } from "../../shared/controls.js";
import { OutcomeMark } from "../../shared/OutcomeMark.js";
import { linkTo } from "../../shared/place.js";
import { Foot } from "../../shared/shell/Shell.js";
import { COLOURS } from "./colours.js";
import { filteredStudies, mark, narrow, noteMarked, older, tagMarked, toggle, useTrials, writeNote } from "./store.js";
import { Tape } from "./Tape.js";

/** A run, or many at once. */
interface Row {
  readonly at: string;
  readonly version: number;
  readonly trial: TrialView | null;
  readonly study: StudyView | null;
}

const NO_RATES: TrialCounts["versions"] = [];

/** Above the runs of one version: how often it worked in everything that fits. */
function VersionHead({ version, rate }: { version: number; rate: TrialCounts["versions"][number] | undefined }) {
  return (
    <li className="versionhead">
      Version {version}
      {rate && (
        <span className="quiet">
          {" "}
          worked {rate.successes} of {rate.runs}
        </span>
      )}
    </li>
  );
}

export function TrialList() {
  const { trials, studies, filter, next, shown, counts, missions, marked } = useTrials();
  const many = filteredStudies({ studies, filter, trials, next });
  // Of one mission they stand version by version; newest first, whichever they are.
  const byVersion = filter.mission !== "";
  const rows: Row[] = [
    ...trials.map((trial) => ({ at: trial.startedAt, version: trial.mission.number, trial, study: null })),
    ...many.map((study) => ({ at: study.createdAt, version: study.mission.number, trial: null, study })),
  ].sort((a, b) => (byVersion && b.version - a.version) || (a.at < b.at ? 1 : -1));
  const rates = counts?.versions ?? NO_RATES;
  return (
    <section className="trialslist" aria-label="Kept runs">
      <header>
        <h1>Trials</h1>
        <p className="filters">
          <Pick
            aria-label="Mission"
            value={filter.mission}
            onChange={(event) => void narrow({ mission: event.target.value })}
          >
            <option value="">every mission</option>
            {missions.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Pick>
          <Pick
            aria-label="Source"
            value={filter.source}
            onChange={(event) => void narrow({ source: event.target.value })}
          >
            <option value="">robots and rehearsals</option>
            <option value="study">many at once</option>
            <option value="robot">robots</option>
            <option value="rehearsal">rehearsals</option>
            <option value="drive">by hand</option>
            <option value="practice">practice rounds</option>
          </Pick>
          <Pick
            aria-label="Result"
            value={filter.result}
            onChange={(event) => void narrow({ result: event.target.value as TrialFilter["result"] })}
          >
            <option value="">worked or not</option>
            <option value="worked">worked</option>
            <option value="failed">did not work</option>
          </Pick>
          <Typed
            type="search"
            aria-label="Words of a note or a mission"
            placeholder="Words of a note"
            value={filter.words}
            maxLength={120}
            onChange={(event) => void narrow({ words: event.target.value })}
          />
        </p>
        <Tags />
        <p className="quiet">
          {counts === null ? trials.length : `${counts.worked} of ${counts.count}`} runs{counts !== null && " worked"}
          {many.length > 0 && `, and ${many.length} time${many.length === 1 ? "" : "s"} many at once`}. Choose up to
          four runs to lay over one another.
        </p>
      </header>
      <ul>
        {rows.map((row, i) => (
          <Fragment key={row.trial?.id ?? row.study?.id}>
            {byVersion && row.version !== rows[i - 1]?.version && (
              <VersionHead version={row.version} rate={rates.find(({ number }) => number === row.version)} />
            )}
            {row.trial && (
              <TrialRow
                trial={row.trial}
                index={shown.findIndex((one) => one.trial.id === row.trial?.id)}
                marked={marked.has(row.trial.id)}
              />
            )}
            {row.study && <StudyRow study={row.study} />}
          </Fragment>
        ))}
        {rows.length === 0 && <li className="quiet">No kept run fits these filters.</li>}
      </ul>
      {next && <Button onClick={() => void older()}>Older runs</Button>}
      {marked.size > 0 && <Marked count={marked.size} />}
      <Foot />
    </section>
  );
}

/** Tags in use: pressing one shows only the runs that have it. */
function Tags() {
  const tags = useTrials((state) => state.counts?.tags ?? NO_TAGS);
  const chosen = useTrials((state) => state.filter.tag);
  if (tags.length === 0) return null;
  return (
    <p className="tags">
      {tags.slice(0, 12).map(({ tag, count }) => (
        <Chip
          key={tag}
          size="small"
          label={`${tag} ${count}`}
          color={tag === chosen ? "primary" : "default"}
          aria-pressed={tag === chosen}
          onClick={() => void narrow({ tag: tag === chosen ? "" : tag })}
        />
      ))}
    </p>
  );
}
const NO_TAGS: readonly { tag: string; count: number }[] = [];

/** What is done with all marked runs at once. */
function Marked({ count }: { count: number }) {
  const [words, setWords] = useState("");
  const name = `${count} marked run${count === 1 ? "" : "s"}`;
  return (
    <form
      className="markedacts"
      aria-label={name}
      onSubmit={(event) => {
        event.preventDefault();
        void tagMarked(words, true).then(() => setWords(""));
      }}
    >
      <span>{name}</span>
      <Typed
        aria-label="Tag or note for the marked runs"
        placeholder="A tag or a note"
        value={words}
        maxLength={2000}
        onChange={(event) => setWords(event.target.value)}
      />
      <Button type="submit" variant="outlined" disabled={words.trim() === "" || words.length > 40}>
        Tag
      </Button>
      <Button disabled={words.trim() === "" || words.length > 40} onClick={() => void tagMarked(words, false)}>
        Take the tag off
      </Button>
      <Button disabled={words.trim() === ""} onClick={() => void noteMarked(words).then(() => setWords(""))}>
        Note
      </Button>
      <Button onClick={() => useTrials.setState({ marked: new Set() })}>Clear</Button>
    </form>
  );
}

function when(iso: string): string {
  return new Date(iso).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}

/** Many rehearsals of one version: a row with how often it worked. */
function StudyRow({ study }: { study: StudyView }) {
  const { mission, robot, runs, successes, createdAt } = study;
  return (
    <li className="studyrow">
      <a href={linkTo(`/mission?mission=${mission.document}`)}>
        <span className="mono" aria-hidden="true">
          ×{runs}
        </span>
        <span>
          {mission.name} <span className="quiet">version {mission.number}</span>
          <br />
          <span className="quiet">
            rehearsed {runs} times · {robot.name} {robot.number} · {when(createdAt)}
          </span>
        </span>
        <span>
          worked {successes} of {runs}
        </span>
      </a>
    </li>
  );
}

function TrialRow({ trial, index, marked }: { trial: TrialView; index: number; marked: boolean }) {
  const chosen = index !== -1;
  return (
    <li className="trialrow">
      <Checkbox
        size="small"
        checked={marked}
        onChange={() => mark(trial.id)}
        slotProps={{ input: { "aria-label": `Mark the run of ${trial.mission.name}, ${when(trial.startedAt)}` } }}
      />
      {trial.source === "practice" ? (
        // Nothing recorded it: there is its own page, and nothing to lay over others.
        <a className="runrow" href={linkTo(`/run?run=${trial.id}`)}>
          <RunWords trial={trial} index={-1} />
        </a>
      ) : (
        <button type="button" className="runrow" aria-pressed={chosen} onClick={() => void toggle(trial)}>
          <RunWords trial={trial} index={index} />
        </button>
      )}
      {chosen && <Note trial={trial} />}
      {chosen && trial.source !== "rehearsal" && <Tape trial={trial} />}
    </li>
  );
}

function RunWords({ trial, index }: { trial: TrialView; index: number }) {
  return (
    <>
      {index !== -1 ? (
        <span className="swatch" style={{ background: COLOURS[index] }} aria-hidden="true" />
      ) : (
        <OutcomeMark worked={trial.success} />
      )}
      <span>
        {trial.mission.name} <span className="quiet">version {trial.mission.number}</span>
        <br />
        <span className="quiet">
          {SOURCE_WORDS[trial.source] ?? trial.source} · {trial.robot.name} {trial.robot.number} ·{" "}
          {when(trial.startedAt)}
          {trial.note && ` · “${trial.note}”`}
          {trial.tags.length > 0 && ` · ${trial.tags.join(", ")}`}
        </span>
      </span>
      <span className="trialend">
        <span className={trial.success ? "worked" : "failed"}>{trial.success ? "worked" : "did not work"}</span>
        <span className="mono">{(trial.durationMs / 1000).toFixed(1)} s</span>
      </span>
    </>
  );
}

function Note({ trial }: { trial: TrialView }) {
  const [text, setText] = useState(trial.note);
  const reason = typeof trial.summary.reason === "string" ? trial.summary.reason : "";
  return (
    <div className="trialnote">
      {reason !== "" && <p>{reason}</p>}
      <a href={linkTo(`/run?run=${trial.id}`)}>The page of this run, to read, send on or print</a>
      <Typed
        aria-label={`Note on this run of ${trial.mission.name}`}
        placeholder="A note: pack, floor, what was touched"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={() => void writeNote(trial, text)}
        onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      />
    </div>
  );
}
