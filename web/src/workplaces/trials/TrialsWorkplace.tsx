// The Trials workplace: every run that was kept, a few of them laid over one another, and what changed between two.
import "../../shared/noEval.js";
import { later } from "../../shared/later.js";
import { linkTo } from "../../shared/place.js";
import { Workplace } from "../../shared/shell/Shell.js";
import { Differences } from "./Differences.js";
import { SuccessRate } from "./SuccessRate.js";
import { ALL_TRIALS, start, useTrials } from "./store.js";
import { TrialList } from "./TrialList.js";

/** Read when the first run is chosen: it draws fields and charts. */
const Overlay = later(async () => (await import("./Overlay.js")).Overlay, "The runs");

export function TrialsWorkplace() {
  const chosen = useTrials(({ shown }) => shown.length > 0);
  const phase = useTrials((state) => state.phase);
  const message = useTrials((state) => state.message);
  const none = useTrials(
    ({ trials, studies, filter }) =>
      trials.length + studies.length === 0 && JSON.stringify(filter) === JSON.stringify(ALL_TRIALS),
  );
  return (
    <Workplace
      id="trials"
      phase={phase.is === "ready" && none ? { is: "empty" } : phase}
      word="trials"
      name={null}
      robot={null}
      open={() => void start()}
      empty={<NoTrials />}
      shortcuts={[]}
      message={message}
      said={() => useTrials.setState({ message: null })}
    >
      <main className="trials">
        <TrialList />
        <div className="compared">
          <SuccessRate />
          {chosen ? (
            <Overlay />
          ) : (
            <section className="card overlayhint">
              <p>
                Choose runs on the left: their paths are laid over one another here, with what changed between them.
              </p>
            </section>
          )}
          <Differences />
        </div>
      </main>
    </Workplace>
  );
}

function NoTrials() {
  return (
    <>
      <h1>No run is kept yet</h1>
      <p>Every rehearsal and every run of a robot is kept here with exactly what produced it.</p>
      <a href={linkTo("/mission")}>Rehearse a mission</a>
    </>
  );
}
