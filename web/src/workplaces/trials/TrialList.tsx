// Kept runs, newest first, with filters; a run is chosen to be laid over others, and can be written a note on.
import Button from "@mui/material/Button";
import { useState } from "react";
import type { StudyView, TrialView } from "../../shared/api.js";
import { Pick, Typed } from "../../shared/controls.js";
import { OutcomeMark } from "../../shared/OutcomeMark.js";
import { linkTo } from "../../shared/place.js";
import { Foot } from "../../shared/shell/Shell.js";
import { COLOURS } from "./Overlay.js";
import { type Filter, filtered, filteredStudies, older, toggle, useTrials, writeNote } from "./store.js";
import { Tape } from "./Tape.js";

const SOURCE: Readonly<Record<string, string>> = { rehearsal: "rehearsed", robot: "robot", drive: "by hand" };

export function TrialList() {
  const { trials, studies, filter, next, shown } = useTrials();
  const list = filtered({ trials, filter });
  const many = filteredStudies({ studies, filter, trials, next });
  // Newest first, whichever they are.
  const rows = [
    ...list.map((trial) => ({ at: trial.startedAt, trial, study: null })),
    ...many.map((study) => ({ at: study.createdAt, trial: null, study })),
  ].sort((a, b) => (a.at < b.at ? 1 : -1));
  const missions = new Map([...trials, ...studies].map(({ mission }) => [mission.document, mission.name]));
  const set = (change: Partial<Filter>) => useTrials.setState({ filter: { ...filter, ...change } });
  return (
    <section className="trialslist" aria-label="Kept runs">
      <header>
        <h1>Trials</h1>
        <p className="filters">
          <Pick aria-label="Mission" value={filter.mission} onChange={(event) => set({ mission: event.target.value })}>
            <option value="">every mission</option>
            {[...missions].map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Pick>
          <Pick aria-label="Source" value={filter.source} onChange={(event) => set({ source: event.target.value })}>
            <option value="">robots and rehearsals</option>
            <option value="study">many at once</option>
            <option value="robot">robots</option>
            <option value="rehearsal">rehearsals</option>
            <option value="drive">by hand</option>
          </Pick>
          <Pick
            aria-label="Result"
            value={filter.result}
            onChange={(event) => set({ result: event.target.value as Filter["result"] })}
          >
            <option value="">worked or not</option>
            <option value="worked">worked</option>
            <option value="failed">did not work</option>
          </Pick>
        </p>
        <p className="quiet">
          {list.length} of {trials.length}
          {next ? " and more" : ""} runs
          {many.length > 0 && `, and ${many.length} time${many.length === 1 ? "" : "s"} many at once`}. Choose up to
          four runs to lay over one another.
        </p>
      </header>
      <ul>
        {rows.map(({ trial, study }) =>
          trial ? (
            <TrialRow key={trial.id} trial={trial} index={shown.findIndex((one) => one.trial.id === trial.id)} />
          ) : (
            <StudyRow key={study.id} study={study} />
          ),
        )}
        {rows.length === 0 && <li className="quiet">No kept run fits these filters.</li>}
      </ul>
      {next && <Button onClick={() => void older()}>Older runs</Button>}
      <Foot />
    </section>
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

function TrialRow({ trial, index }: { trial: TrialView; index: number }) {
  const chosen = index !== -1;
  return (
    <li>
      <button type="button" aria-pressed={chosen} onClick={() => void toggle(trial)}>
        {chosen ? (
          <span className="swatch" style={{ background: COLOURS[index] }} aria-hidden="true" />
        ) : (
          <OutcomeMark worked={trial.success} />
        )}
        <span>
          {trial.mission.name} <span className="quiet">version {trial.mission.number}</span>
          <br />
          <span className="quiet">
            {SOURCE[trial.source] ?? trial.source} · {trial.robot.name} {trial.robot.number} · {when(trial.startedAt)}
            {trial.note && ` · “${trial.note}”`}
          </span>
        </span>
        <span className="trialend">
          <span className={trial.success ? "worked" : "failed"}>{trial.success ? "worked" : "did not work"}</span>
          <span className="mono">{(trial.durationMs / 1000).toFixed(1)} s</span>
        </span>
      </button>
      {chosen && <Note trial={trial} />}
      {chosen && trial.source !== "rehearsal" && <Tape trial={trial} />}
    </li>
  );
}

function Note({ trial }: { trial: TrialView }) {
  const [text, setText] = useState(trial.note);
  const reason = typeof trial.summary.reason === "string" ? trial.summary.reason : "";
  return (
    <div className="trialnote">
      {reason !== "" && <p>{reason}</p>}
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
