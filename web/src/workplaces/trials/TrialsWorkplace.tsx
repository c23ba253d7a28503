// The Trials workplace: every run that was kept, a few of them laid over one another, and what changed between two.
import "../../shared/noEval.js";
import "./trials.css";
import { useEffect } from "react";
import { Frame } from "../../shared/Frame.js";
import { linkTo, titled } from "../../shared/place.js";
import { Toast } from "../../shared/Toast.js";
import { Themed } from "../../shared/theme.js";
import { Differences } from "./Differences.js";
import { Overlay } from "./Overlay.js";
import { start, useTrials } from "./store.js";
import { TrialList } from "./TrialList.js";

export function TrialsWorkplace() {
  return (
    <Themed>
      <Trials />
    </Themed>
  );
}

function Trials() {
  const phase = useTrials((state) => state.phase);
  const message = useTrials((state) => state.message);
  const none = useTrials((state) => state.trials.length + state.studies.length === 0);
  useEffect(() => void start(), []);
  useEffect(() => titled(null, "Trials"), []);
  return (
    <Frame current="trials">
      {phase.is === "loading" && <main className="centre quiet">Opening the trials…</main>}
      {phase.is === "failed" && (
        <main className="centre">
          <h1>The trials could not be opened</h1>
          <p>{phase.message}</p>
        </main>
      )}
      {phase.is === "ready" && none && (
        <main className="centre">
          <h1>No run is kept yet</h1>
          <p>Every rehearsal and every run of a robot is kept here with exactly what produced it.</p>
          <a href={linkTo("/mission")}>Rehearse a mission</a>
        </main>
      )}
      {phase.is === "ready" && !none && (
        <main className="trials">
          <TrialList />
          <div className="compared">
            <Overlay />
            <Differences />
          </div>
        </main>
      )}
      <Toast message={message} clear={() => useTrials.setState({ message: null })} />
    </Frame>
  );
}
