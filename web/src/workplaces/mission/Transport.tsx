// Rehearse, play and pause, time and speed, what came of the run, and the list of kept runs.
import type { RunSummary } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useRef, useState } from "react";
import { Pick } from "../../shared/controls.js";
import { useFollow } from "../../shared/mission/follow.js";
import { cancelRehearsal, pause, play, rehearse, showTrial } from "../../shared/mission/running.js";
import { isBefore, playhead, shownPath, useMission } from "../../shared/mission/state.js";
import { cancelStudy, tryMany } from "../../shared/mission/studying.js";
import { OutcomeMark } from "../../shared/OutcomeMark.js";
import { Panel } from "../../shared/Panel.js";
import { percent } from "./StudyPanel.js";

const SPEEDS = [0.5, 1, 2, 4, 8];

function clock(ms: number): string {
  const seconds = ms / 1000;
  const minutes = Math.floor(seconds / 60);
  return `${minutes}:${(seconds - minutes * 60).toFixed(1).padStart(4, "0")}`;
}

export function Transport() {
  const rehearsing = useMission((state) => state.rehearsing);
  const ready = useMission((state) => state.prepared?.program != null && state.save.is !== "conflict");
  const playing = useMission((state) => state.playing);
  const speed = useMission((state) => state.speed);
  const length = useMission((state) => shownPath(state)?.x.length ?? 0);
  const panel = useMission((state) => state.panel);
  const time = useRef<HTMLSpanElement>(null);

  useFollow(() => {
    if (time.current) time.current.textContent = clock(Math.floor(playhead.tick) * 10);
  }, true);

  return (
    <section className="transport" aria-label="Rehearsal">
      {rehearsing ? (
        <>
          <Button variant="outlined" onClick={cancelRehearsal}>
            Cancel
          </Button>
          <span role="status">Rehearsing, {(rehearsing.tick / 100).toFixed(0)} s of mission time</span>
        </>
      ) : (
        <Button
          variant="contained"
          disabled={!ready}
          onClick={() => void rehearse()}
          title={ready ? "Ctrl+Enter" : "The mission has problems to fix first"}
        >
          Rehearse
        </Button>
      )}
      <TryMany ready={ready && !rehearsing} />
      <Button
        variant="outlined"
        disabled={length === 0}
        aria-label={playing ? "Pause" : "Play"}
        onClick={() => (playing ? pause() : play())}
      >
        {playing ? "Pause" : "Play"}
      </Button>
      <span className="mono">
        <span ref={time}>0:00.0</span> <span className="quiet">/ {clock(Math.max(0, length - 1) * 10)}</span>
      </span>
      <label className="mono">
        <span className="sr">Playing speed</span>
        <Pick value={speed} onChange={(event) => useMission.setState({ speed: Number(event.target.value) })}>
          {SPEEDS.map((value) => (
            <option key={value} value={value}>
              ×{value}
            </option>
          ))}
        </Pick>
      </label>
      <Button variant="outlined" aria-expanded={panel === "runs"} onClick={() => toggle("runs")}>
        Runs
      </Button>
      <Button variant="outlined" aria-expanded={panel === "versions"} onClick={() => toggle("versions")}>
        Versions
      </Button>
      <Button variant="outlined" aria-expanded={panel === "sensors"} onClick={() => toggle("sensors")}>
        Sensors
      </Button>
      <Verdict />
    </section>
  );
}

function toggle(panel: "runs" | "versions" | "study" | "sensors"): void {
  useMission.setState(({ panel: shown }) => ({ panel: shown === panel ? "none" : panel }));
}

const COUNTS = [20, 50, 100, 200, 500, 1000];

function TryMany({ ready }: { ready: boolean }) {
  const [times, setTimes] = useState(200);
  const study = useMission((state) => state.study);
  if (study?.running) {
    return (
      <span className="trying">
        <Button variant="outlined" onClick={cancelStudy}>
          Cancel
        </Button>
        <span className="mono" aria-hidden="true">
          {study.digests.length} of {study.runs}
        </span>
      </span>
    );
  }
  return (
    <span className="trying">
      <Button
        variant="outlined"
        disabled={!ready}
        aria-label={`Try ${times} times`}
        onClick={() => void tryMany(times)}
      >
        Try
      </Button>
      <Pick aria-label="How many times" value={times} onChange={(event) => setTimes(Number(event.target.value))}>
        {COUNTS.map((count) => (
          <option key={count} value={count}>
            {count} ×
          </option>
        ))}
      </Pick>
    </span>
  );
}

/** What the latest many rehearsals said, when they tried what is on the screen. */
function ManyVerdict() {
  const study = useMission((state) => state.study);
  const text = useMission((state) => state.history.present.text);
  if (!study || study.running || study.text !== text) return null;
  const { summary } = study;
  const score = summary.meanScore === null ? "" : ` · ${summary.meanScore.toFixed(1)} points`;
  return (
    <button type="button" className="verdict plain" onClick={() => toggle("study")}>
      Worked <strong className="mono">{percent(summary.successes / summary.runs)}</strong> of {summary.runs} (
      {percent(summary.low)} to {percent(summary.high)}){score}
    </button>
  );
}

/** A collection does not run by itself: where its routines are used. */
function UsedBy() {
  const name = useMission((state) => state.open?.name ?? "");
  const library = useMission((state) => state.library);
  const users = library.filter(({ collections }) => collections.includes(name));
  return (
    <span className="verdict quiet" role="status">
      {users.length === 0
        ? `Its routines run in missions: write use "${name}" at the top of one.`
        : `Used by ${users.map((view) => view.name).join(", ")}`}
    </span>
  );
}

/** What a run touched: the first thing by name, and how many more. */
function touchedWords(contacts: RunSummary["contacts"]): string {
  const [first] = contacts;
  if (!first) return "";
  const others = new Set(contacts.map(({ what }) => what)).size - 1;
  return ` · touched ${first.what} at ${(first.fromMs / 1000).toFixed(1)} s${others > 0 ? ` and ${others} more` : ""}`;
}

function Verdict() {
  const run = useMission((state) => state.run);
  const study = useMission((state) => state.study);
  const text = useMission((state) => state.history.present.text);
  const planned = useMission((state) => state.planned);
  const isCollection = useMission((state) => state.mission.isCollection);
  if (study && !study.running && study.text === text && run?.of === undefined) return <ManyVerdict />;
  if (run) {
    const { summary } = run;
    const points = summary.score === null ? "" : ` · ${summary.score} points`;
    const goal = useMission.getState().mission.goal !== null;
    const words = summary.success
      ? `${goal ? "Goal met" : "Finished"} in ${(summary.durationMs / 1000).toFixed(1)} s`
      : `Not met: ${summary.reason}`;
    const before = isBefore(run, text);
    return (
      <span className={`verdict ${before ? "before" : summary.success ? "good" : "bad"}`} role="status">
        {run.number !== null && <span className="quiet">Version {run.number} · </span>}
        {before && <span className="quiet">before your change: </span>}
        {run.of !== undefined && `Run ${run.of}: `}
        {words}
        {points}
        {/ touched /.test(words) ? "" : touchedWords(summary.contacts ?? [])}
        {(summary.notesDropped ?? 0) > 0 && ` · only the newest ${summary.notes.length} notes are kept`}
        {typeof summary.tippedMs === "number" && ` · a wheel lifted at ${(summary.tippedMs / 1000).toFixed(1)} s`}
      </span>
    );
  }
  if (isCollection) return <UsedBy />;
  const reason = planned?.summary && !planned.summary.success ? planned.summary.reason : null;
  return (
    <span className={`verdict ${reason ? "bad" : "quiet"}`} role="status">
      {reason ? `As planned: ${reason}` : "Not rehearsed yet"}
    </span>
  );
}

export function KeptRuns() {
  const trials = useMission((state) => state.trials);
  const shown = useMission((state) => state.run?.trialId ?? null);
  return (
    <Panel title="Kept runs" label="Kept runs" close={() => toggle("runs")}>
      {trials.length === 0 ? (
        <p>Every rehearsal of this mission is kept here with the version it ran. Press Rehearse for the first.</p>
      ) : (
        <ul className="kept">
          {trials.map((trial) => (
            <li key={trial.id}>
              <button type="button" aria-current={trial.id === shown} onClick={() => void showTrial(trial)}>
                <OutcomeMark worked={trial.success} />
                <span>
                  {trial.source !== "rehearsal" ? `${trial.robot.name}, ` : ""}version {trial.mission.number} ·{" "}
                  {new Date(trial.startedAt).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
                  <br />
                  <span className="quiet">
                    {trial.success ? "worked" : String(trial.summary.reason ?? "did not work")}
                  </span>
                </span>
                <span className="mono">{(trial.durationMs / 1000).toFixed(1)} s</span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}
