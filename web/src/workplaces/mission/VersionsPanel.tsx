// Versions: name the present one, list them, compare one with the screen as text and as paths, restore it.
import { compareTexts } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useMemo, useState } from "react";
import type { StudyView } from "../../shared/api.js";
import { Typed } from "../../shared/controls.js";
import { useMission } from "../../shared/mission/state.js";
import {
  dropGhost,
  lastThatWorked,
  loadVersions,
  nameVersion,
  olderVersions,
  restoreVersion,
  showGhost,
} from "../../shared/mission/versions.js";
import { Panel } from "../../shared/Panel.js";

function when(iso: string): string {
  return new Date(iso).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
}

export function VersionsPanel() {
  const versions = useMission((state) => state.versions);
  const head = useMission((state) => state.open?.headRevision);
  const ghost = useMission((state) => state.ghost);
  const trials = useMission((state) => state.trials);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new version asks for a new list
  useEffect(() => {
    void loadVersions();
  }, [head]);
  useEffect(() => dropGhost, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: kept runs and studies tell what worked
  const worked = useMemo(lastThatWorked, [versions, trials]);
  const workedView = versions?.list.find((version) => version.number === worked);
  return (
    <Panel title="Versions" label="Versions of this mission" close={() => useMission.setState({ panel: "none" })}>
      <NameForm />
      {workedView ? (
        <Button size="small" variant="outlined" onClick={() => void showGhost(workedView.number)}>
          What did I change since it worked? (version {worked})
        </Button>
      ) : (
        <p className="quiet">No version's trials have met the goal yet. Rehearse, or try it many times.</p>
      )}
      {ghost && <Comparison />}
      {!versions && <p className="quiet">Reading the versions…</p>}
      <ul className="revisionlist">
        {versions?.list.map((version) => (
          <li key={version.id} aria-current={ghost?.number === version.number}>
            <span className="mono">v {version.number}</span>
            <span>
              <strong>{version.name ?? version.reason}</strong>
              <small>
                {version.name === null ? "" : `${version.reason} · `}
                {when(version.createdAt)}
                {triedWords(versions.studies, version.number)}
              </small>
            </span>
            <span>
              <Button size="small" onClick={() => void showGhost(version.number)}>
                Compare
              </Button>
              <Button size="small" onClick={() => void restoreVersion(version.number)}>
                Restore
              </Button>
            </span>
          </li>
        ))}
      </ul>
      {versions?.next && (
        <Button size="small" onClick={() => void olderVersions()}>
          Older ones
        </Button>
      )}
    </Panel>
  );
}

function triedWords(studies: readonly StudyView[], number: number): string {
  const own = studies.filter((study) => study.mission.number === number);
  const runs = own.reduce((sum, study) => sum + study.runs, 0);
  if (runs === 0) return "";
  const successes = own.reduce((sum, study) => sum + study.successes, 0);
  return ` · worked ${successes} of ${runs} times`;
}

function NameForm() {
  const [name, setName] = useState("");
  const [kept, setKept] = useState("");
  return (
    <form
      className="nameform"
      onSubmit={(event) => {
        event.preventDefault();
        void nameVersion(name.trim()).then((ok) => {
          if (!ok) return;
          setKept(`Kept as "${name.trim()}".`);
          setName("");
        });
      }}
    >
      <Typed
        required
        maxLength={120}
        placeholder="Name, such as before the meet"
        aria-label="Name of the version"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <div className="keeprow">
        <Button type="submit" variant="contained" disabled={name.trim() === ""}>
          Keep this version
        </Button>
        <span role="status" className="quiet small" title={kept}>
          {kept}
        </span>
      </div>
    </form>
  );
}

function Comparison() {
  const ghost = useMission((state) => state.ghost);
  const text = useMission((state) => state.history.present.text);
  const changes = useMemo(() => (ghost ? compareTexts(ghost.text, text) : []), [ghost, text]);
  if (!ghost) return null;
  const differs = changes.some((change) => change.is !== "same");
  return (
    <section className="versiondiff" aria-label={`Version ${ghost.number} and the screen`}>
      <h3>
        Version {ghost.number} and the screen
        <Button size="small" onClick={dropGhost}>
          Done
        </Button>
      </h3>
      {!differs && <p className="quiet">Nothing differs.</p>}
      {differs && (
        <ol>
          {changes.map((change, i) => {
            const near = changes.slice(Math.max(0, i - 1), i + 2).some((other) => other.is !== "same");
            if (!near) return null;
            const sign = change.is === "gone" ? "−" : change.is === "new" ? "+" : " ";
            return (
              <li key={`${change.is}${change.line}`} className={change.is}>
                <span aria-hidden="true">{sign}</span>
                <span className="sr">
                  {change.is === "gone" ? "was" : change.is === "new" ? "is now" : "unchanged"}
                </span>
                <code>{change.text || " "}</code>
              </li>
            );
          })}
        </ol>
      )}
      <p className="quiet small">
        {ghost.path ? "Its path is drawn in dots on the field." : "Its path is being rehearsed, or has problems."}
      </p>
    </section>
  );
}
