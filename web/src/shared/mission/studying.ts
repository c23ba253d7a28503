// Try N times: many rehearsals in a pool of workers, what they say together, and what would help most.
import {
  CORE_VERSION,
  type Field,
  type Help,
  leversOf,
  type Program,
  type Robot,
  type RunDigest,
  rankHelps,
  type StudySummary,
  summariseStudy,
  usualScatter,
} from "@giddy-pebble/core";
import { Rehearser } from "../../workers/rehearser.js";
import { type Batch, StudyPool } from "../../workers/studyPool.js";
import { api } from "../api.js";
import { beingKept, whenLeft } from "../visit.js";
import { cutRevision } from "./draft.js";
import { GrowingPath } from "./planning.js";
import { play, robotRevisionOf } from "./running.js";
import { movePlayhead, type StoredDocument, useMission } from "./state.js";
import { loadVersions } from "./versions.js";

const get = useMission.getState;
const set = useMission.setState;

export interface Study {
  readonly text: string;
  /** With the routines of its collections: what was tried. */
  readonly program: Program;
  readonly robot: StoredDocument<Robot>;
  readonly field: StoredDocument<Field>;
  readonly seed: number;
  readonly runs: number;
  readonly digests: readonly RunDigest[];
  /** Brought up to date as digests come. */
  readonly summary: StudySummary;
  readonly running: boolean;
  /** Version it tried; null while or when none could be kept. */
  readonly number: number | null;
  readonly helps: Helping | null;
}

interface Helping {
  readonly done: number;
  readonly all: number;
  readonly running: boolean;
  readonly list: readonly Help[];
}

/** Runs for each lever are at most this many: differences of a few per cent need no more. */
const HELP_RUNS = 100;
/** The summary of a running study is made anew at most this often, ms. */
const REFRESH_MS = 150;

let pool: StudyPool | null = null;
const replayer = new Rehearser();
whenLeft(() => {
  pool?.dispose();
  replayer.cancel();
});

function thePool(): StudyPool {
  pool ??= new StudyPool();
  return pool;
}

export async function tryMany(runs: number): Promise<void> {
  const { open, prepared, robot, field, history, save, study } = get();
  if (!open || !prepared?.program || !robot || !field || save.is === "conflict" || study?.running) return;
  const text = history.present.text;
  const seed = crypto.getRandomValues(new Int32Array(1))[0] ?? 1;
  const digests: RunDigest[] = [];
  const begun: Study = {
    text,
    program: prepared.program,
    robot,
    field,
    seed,
    runs,
    digests,
    summary: summariseStudy([]),
    running: true,
    number: null,
    helps: null,
  };
  set({ study: begun, panel: "study", message: null });
  const cut = await cutRevision(text, `tried ${runs} times`);
  if (get().study !== begun) return;
  if (!cut && get().save.is !== "away") return set({ study: null, panel: "none" });
  let refreshed = 0;
  const refresh = (running: boolean) => {
    const { study: now } = get();
    if (now?.seed !== seed) return;
    set({
      study: {
        ...now,
        digests: [...digests],
        summary: summariseStudy(digests),
        running,
        number: cut?.head.number ?? null,
      },
    });
  };
  thePool().start(
    { programs: [prepared.program], robot: robot.document, field: field.document, seed },
    [{ runs, adjustments: {} }],
    {
      digests: (_batch, more) => {
        digests.push(...more);
        const now = performance.now();
        if (now - refreshed < REFRESH_MS) return;
        refreshed = now;
        refresh(true);
      },
      done: () => {
        digests.sort((a, b) => a.index - b.index);
        refresh(false);
        if (cut) void beingKept(keep(cut.head.id, robot, field, seed));
        else set({ message: "These rehearsals are not kept, because the server does not answer." });
      },
      refused: (reason) => set({ study: null, panel: "none", message: reason }),
    },
  );
}

async function keep(
  missionRevision: string,
  robot: StoredDocument<Robot>,
  field: StoredDocument<Field>,
  seed: number,
): Promise<void> {
  const robotRevision = await robotRevisionOf(robot);
  const { study } = get();
  if (robotRevision === null || study?.seed !== seed) return;
  const stored = await api.storeStudy({
    missionRevision,
    robotRevision,
    fieldRevision: field.revisionId === "" ? null : field.revisionId,
    coreVersion: CORE_VERSION,
    seed,
    summary: study.summary,
  });
  if (!stored.ok) set({ message: `These rehearsals were not kept: ${stored.message}` });
  else if (get().versions) await loadVersions();
}

/** Stops where it is; what was run so far stays on the screen, and is not kept. */
export function cancelStudy(): void {
  pool?.cancel();
  const { study } = get();
  if (!study) return;
  if (study.helps?.running) return set({ study: { ...study, helps: { ...study.helps, running: false } } });
  const done = study.digests.length;
  set({
    study: done > 0 ? { ...study, runs: done, running: false } : null,
    panel: done > 0 ? "study" : "none",
    message: `Cancelled after ${done} of ${study.runs} rehearsals. They are not kept.`,
  });
}

/** Tries each lever with the same seeds: known exactly, and off by one standard error. */
export function findHelp(): void {
  const { study } = get();
  if (!study || study.running || study.helps?.running) return;
  const runs = Math.min(study.runs, HELP_RUNS);
  const levers = leversOf(study.robot.document, usualScatter());
  const batches: Batch[] = levers.flatMap((lever) => [
    { runs, adjustments: { [lever.key]: { width: 0, shift: 0 } } },
    ...(lever.shifts ? [{ runs, adjustments: { [lever.key]: { width: 0, shift: 1 } } }] : []),
  ]);
  const counts = batches.map(() => ({ runs: 0, successes: 0 }));
  const all = batches.length * runs;
  let done = 0;
  const now = study.digests.slice(0, runs).filter((digest) => digest.success).length / runs;
  const listed = (): Help[] => {
    let b = 0;
    return rankHelps(
      levers.flatMap((lever): Help[] => {
        const exact = counts[b];
        const off = lever.shifts ? counts[b + 1] : null;
        b += lever.shifts ? 2 : 1;
        if (!exact || exact.runs < runs || (off && off.runs < runs)) return [];
        const rate = (count: { runs: number; successes: number }) => count.successes / count.runs;
        return [{ key: lever.key, words: lever.words, now, exact: rate(exact), off: off ? rate(off) : null }];
      }),
    );
  };
  const show = (running: boolean) => {
    const current = get().study;
    if (current?.seed === study.seed) set({ study: { ...current, helps: { done, all, running, list: listed() } } });
  };
  show(true);
  thePool().start(
    { programs: [study.program], robot: study.robot.document, field: study.field.document, seed: study.seed },
    batches,
    {
      digests: (batch, digests) => {
        const count = counts[batch];
        if (!count) return;
        count.runs += digests.length;
        count.successes += digests.filter((digest) => digest.success).length;
        done += digests.length;
        show(true);
      },
      done: () => show(false),
      refused: (reason) => set({ message: reason }),
    },
  );
}

/** Runs one run of the study again from its seed, and plays it. */
export function replay(digest: RunDigest): void {
  const { study } = get();
  if (!study) return;
  const growing = new GrowingPath();
  const { robot, field } = study;
  replayer.start(
    { program: study.program, robot: robot.document, field: field.document, seed: digest.seed, ideal: false },
    {
      rows: (from, columns) => growing.add(from, columns),
      done: (summary, trace) => {
        const path = growing.view(summary, trace);
        set({
          run: { trialId: null, summary, trace, path, number: study.number, text: study.text, of: digest.index + 1 },
        });
        movePlayhead(0);
        play();
      },
      refused: (reason) => set({ message: reason }),
    },
  );
}
