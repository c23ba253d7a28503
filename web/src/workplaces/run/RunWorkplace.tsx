// One run on a page of its own, with an address to send on: to read and to print.
import "../../shared/noEval.js";
import { type PageBlock, runPage } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { create } from "zustand";
import { api, type TrialView } from "../../shared/api.js";
import { PageView } from "../../shared/paper/PageView.js";
import { linkTo, placed } from "../../shared/place.js";
import { fieldOf, traceOf } from "../../shared/runs.js";
import { Foot, type Phase, Workplace } from "../../shared/shell/Shell.js";
import { whenLeft } from "../../shared/visit.js";

interface RunState {
  readonly phase: Phase;
  readonly trial: TrialView | null;
  readonly blocks: readonly PageBlock[];
  readonly message: string | null;
}

const AT_FIRST: RunState = { phase: { is: "loading" }, trial: null, blocks: [], message: null };
const useRun = create<RunState>(() => AT_FIRST);
whenLeft(() => useRun.setState(AT_FIRST, true));
const set = useRun.setState;

async function start(): Promise<void> {
  const id = placed("run");
  if (id === null) return set({ phase: { is: "empty" } });
  const found = await api.trial(id);
  if (!found.ok)
    return set({
      phase: { is: "failed", message: `${found.message} It may have been deleted. Trials lists every kept run.` },
    });
  const trial = found.value;
  const [field, trace] = await Promise.all([fieldOf(trial), trial.source === "practice" ? null : traceOf(trial)]);
  if (trace !== null && !trace.ok) set({ message: trace.message });
  const { mission, robot } = trial;
  const blocks = runPage({
    mission: { ...mission, href: `/mission?mission=${mission.document}` },
    robot: { ...robot, href: `/robot?robot=${robot.document}` },
    field: trial.field === null ? null : field,
    source: trial.source,
    ideal: trial.ideal,
    seed: trial.seed,
    worked: trial.success,
    score: trial.score,
    seconds: trial.durationMs / 1000,
    note: trial.note,
    tags: trial.tags,
    tape: trial.tape,
    at: trial.startedAt,
    trace: trace?.ok ? trace.value : null,
    summary: trial.summary,
  });
  set({ phase: { is: "ready" }, trial, blocks });
}

export function RunWorkplace() {
  const { phase, trial, blocks, message } = useRun();
  const name = trial ? `${trial.mission.name} ${trial.mission.number}` : null;
  return (
    <Workplace
      id="run"
      phase={phase}
      word="run"
      name={name}
      robot={null}
      open={() => void start()}
      empty={
        <>
          <h1>No run is named in this address</h1>
          <a href={linkTo("/trials")}>Choose one in Trials</a>
        </>
      }
      shortcuts={[]}
      message={message}
      said={() => set({ message: null })}
    >
      <main className="runpage">
        <article className="paper" aria-label={`Run of ${name}`}>
          <p className="pageacts">
            <Button variant="contained" onClick={() => window.print()}>
              Print or PDF
            </Button>
            {trial?.source !== "practice" && (
              <a href={linkTo(`/trials?run=${trial?.id}`)}>Lay it over other runs in Trials</a>
            )}
          </p>
          <h1>Run of {name}</h1>
          <PageView blocks={blocks} />
        </article>
        <Foot />
      </main>
    </Workplace>
  );
}
