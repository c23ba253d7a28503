// The open mission on the linked robot: sent, run, watched live, and kept as a trial beside its plan.
import {
  beginOf,
  CORE_VERSION,
  compareRuns,
  composePoses,
  type FrameOf,
  HALTED,
  judgedByTape,
  type Pose,
  packTrace,
  placedBy,
  poseAt,
  poseDifference,
  type RunDifference,
  type RunSummary,
  type TapeJudgement,
  type Trace,
  traceColumn,
} from "@giddy-pebble/core";
import { api } from "../api.js";
import { toBase64 } from "../base64.js";
import { ask, hear, packageHash, packageText, runOnRobot, sendPackage, useLink } from "../link/linkStore.js";
import { beingKept, whenLeft } from "../visit.js";
import { cutRevision } from "./draft.js";
import { type Origin, readOrigin } from "./origin.js";
import { GrowingPath } from "./planning.js";
import { loadTrials, robotRevisionOf } from "./running.js";
import { movePlayhead, type Path, useMission } from "./state.js";

const get = useMission.getState;
const set = useMission.setState;

/** A robot's run while it goes on. */
export interface LiveRun {
  /** The robot said that it runs for this page. Until then it may be somebody else's. */
  readonly taken: boolean;
  readonly path: Path;
  /** Line of the step in hand, from 0; null between steps. */
  readonly line: number | null;
  readonly readings: FrameOf<"readings"> | null;
}

/** What a finished robot run showed. */
export interface RobotResult {
  readonly robot: string;
  readonly number: number | null;
  readonly summary: RunSummary;
  /** Against the plan of the same text; null when the text had no whole plan. */
  /** What the tape says to a goal that asks for its place. */
  readonly judged: TapeJudgement | null;
  readonly difference: RunDifference | null;
  /** Where the tape found it, seen from where the plan ends, and from where it reckons to be itself. */
  readonly tape: {
    readonly fromPlan: ReturnType<typeof poseDifference> | null;
    readonly fromReckoned: ReturnType<typeof poseDifference> | null;
  } | null;
}

function payload(): string | null {
  const { history, robot, field } = get();
  if (!robot || !field) return null;
  const document = field.revisionId === "" ? null : field.document;
  return packageText(get().prepared?.text ?? history.present.text, robot.document, document);
}

/** Digest of what would be sent now; null while something is missing. */
export async function presentHash(): Promise<string | null> {
  const text = payload();
  return text === null ? null : packageHash(text);
}

/** Why the open mission cannot go to the linked robot; null when it can. */
export function whyNotSent(): string | null {
  const { prepared, robot, save } = get();
  const { hello, is } = useLink.getState();
  if (is !== "linked" || !hello) return "No robot is linked. Link one at the top right.";
  if (!robot) return "This mission has no robot.";
  if (robot.document.name !== hello.robot)
    return `This mission is for ${robot.document.name}, but ${hello.robot} is linked.`;
  if (!prepared?.program) return "The mission has problems to fix first.";
  return save.is === "conflict" ? "Settle the conflict with the other window first." : null;
}

/** Sends what is on the screen, as a version of its own. @returns whether the robot holds it now */
export async function sendMission(): Promise<boolean> {
  const { open, history, robot, field } = get();
  const why = whyNotSent();
  if (why !== null || !open || !robot || !field) {
    set({ message: why });
    return false;
  }
  set({ sending: 0, message: null });
  try {
    const cut = await cutRevision(history.present.text, "sent");
    const robotRevision = cut ? await robotRevisionOf(robot) : null;
    const text = payload();
    if (!cut || robotRevision === null || text === null) {
      if (get().message === null) set({ message: "Nothing was sent: the version could not be saved first." });
      return false;
    }
    const origin: Origin = {
      mission: cut.head.id,
      robot: robotRevision,
      field: field.revisionId === "" ? null : field.revisionId,
      number: cut.head.number,
    };
    const sent = await sendPackage(open.name, text, `version ${cut.head.number}`, JSON.stringify(origin), (share) =>
      set({ sending: share }),
    );
    if (!sent.ok) set({ message: `Not sent: ${sent.why}` });
    return sent.ok;
  } finally {
    set({ sending: null });
  }
}

/** Runs the open mission on the robot; sends it first when the robot holds another. */
export async function runMission(): Promise<void> {
  const { open, live } = get();
  if (!open || live) return;
  const held = useLink.getState().shelf.find(({ name }) => name === open.name);
  if (!held || held.sha256 !== (await presentHash())) {
    if (!(await sendMission())) return;
  } else {
    const why = whyNotSent();
    if (why !== null) return set({ message: why });
  }
  const { hello, shelf } = useLink.getState();
  const entry = shelf.find(({ name }) => name === open.name);
  const { prepared, field, planned, plannedStale, history } = get();
  const robot = get().robot?.document ?? null;
  if (!entry) return set({ message: "Nothing runs: the robot does not hold this mission any more. Send it again." });
  if (!prepared || !field) return;
  const begin = beginOf(prepared.mission, field.document);
  // A person puts a real robot down; the stand-in's own hands do it here.
  const how = robot ? placedBy(robot) : "eye";
  if (hello?.simulated && !(await ask({ kind: "place", begin, how, fieldOf: open.name }))) return;
  const plan = plannedStale ? null : planned;
  const { text } = history.present;
  const runAndKeep = async () => {
    watch();
    const run = await runOnRobot(open.name, () => {
      const { live } = get();
      if (live) set({ live: { ...live, taken: true } });
    });
    stopWatching();
    set({ live: null });
    if (!run.ok) return set({ message: run.why });
    const tape = await readTape(begin);
    const driven = prepared.program?.remote != null;
    const told = driven ? endedByDriver(run.summary) : run.summary;
    const judged = tape && robot && !driven ? judgedByTape(prepared.mission, field.document, robot, tape) : null;
    const summary = judged ? asTaped(told, judged) : told;
    await keepRun(entry.origin, summary, run.trace, tape, driven);
    if (get().history.present.text !== text) return;
    showResult(summary, run.trace, plan, { tape, judged }, hello?.robot ?? "the robot", text);
  };
  // Whoever leaves stops it, and waits until it is kept.
  await beingKept(runAndKeep());
}

/** Draws the robot as its readings come. */
function watch(): void {
  const growing = new GrowingPath();
  const live: LiveRun = { taken: false, path: growing.view(null), line: null, readings: null };
  set({ live, run: null, robotResult: null, playing: false });
  stopWatching = hear((frame) => {
    const { live } = get();
    if (!live) return;
    if (frame.kind === "readings") {
      // Whoever drives looks at the table, not at what the robot believes.
      const { xM, yM, headingRad } = frame.seen?.robot ?? frame;
      growing.add(growing.count, [Float32Array.of(xM), Float32Array.of(yM), Float32Array.of(headingRad)]);
      set({ live: { ...live, path: growing.view(null), readings: frame } });
    } else if (frame.kind === "step") set({ live: { ...live, line: frame.endedBy === null ? frame.line - 1 : null } });
  });
}

let stopWatching = () => {};
whenLeft(() => stopWatching());

/** Where the tape finds a stand-in, on the field; null for robots without one. */
async function readTape(begin: Pose): Promise<Pose | null> {
  if (!useLink.getState().hello?.simulated) return null;
  const frame = await ask({ kind: "tape" });
  if (frame?.kind !== "tape") return null;
  return composePoses(begin, { xM: frame.alongM, yM: frame.asideM, headingRad: frame.headingRad });
}

/** A robot tells whether it met its goal as it reckons its place; the tape knows better. */
function asTaped(summary: RunSummary, { zone, inside, alone }: TapeJudgement): RunSummary {
  if (summary.outcome !== "finished") return summary;
  if (!inside)
    return { ...summary, success: false, reason: `the goal was not met: the tape finds it outside "${zone}"` };
  return alone ? { ...summary, success: true, reason: "" } : summary;
}

/** Whoever drives ends the drive: halting it is how it ends, not how it fails. */
function endedByDriver(summary: RunSummary): RunSummary {
  if (summary.reason !== HALTED) return summary;
  const steps = summary.steps.map((step) => (step.endedBy === "bound" ? { ...step, endedBy: "done" as const } : step));
  return { ...summary, outcome: "finished", success: true, reason: "", steps };
}

async function keepRun(
  originText: string,
  summary: RunSummary,
  trace: Trace,
  tape: Pose | null,
  driven: boolean,
): Promise<void> {
  const origin = readOrigin(originText);
  if (!origin) return set({ message: "This run is not kept: the robot does not say which version it ran." });
  const stored = await api.storeTrial({
    missionRevision: origin.mission,
    robotRevision: origin.robot,
    fieldRevision: origin.field,
    coreVersion: CORE_VERSION,
    source: driven ? "drive" : "robot",
    seed: 0,
    ideal: false,
    outcome: summary.outcome,
    success: summary.success,
    score: summary.score,
    durationMs: Math.round(summary.durationMs),
    summary: { ...summary, tape },
    trace: toBase64(packTrace(trace)),
  });
  if (!stored.ok) return set({ message: `This run was not kept: ${stored.message}` });
  await loadTrials();
}

function showResult(
  summary: RunSummary,
  trace: Trace,
  plan: Path | null,
  { tape, judged }: { readonly tape: Pose | null; readonly judged: TapeJudgement | null },
  robot: string,
  text: string,
): void {
  const empty = new Float32Array(0);
  const path: Path = {
    x: traceColumn(trace, "x") ?? empty,
    y: traceColumn(trace, "y") ?? empty,
    heading: traceColumn(trace, "heading") ?? empty,
    summary,
    trace,
  };
  const difference =
    plan?.trace && plan.summary
      ? compareRuns({ trace: plan.trace, steps: plan.summary.steps }, { trace, steps: summary.steps })
      : null;
  const planEnd = plan?.trace ? poseAt(plan.trace, Number.POSITIVE_INFINITY) : null;
  const reckoned = poseAt(trace, Number.POSITIVE_INFINITY);
  const number = get().trials[0]?.mission.number ?? null;
  set({
    run: { trialId: null, summary, trace, path, number, text, by: robot },
    tape,
    robotResult: {
      robot,
      number,
      summary,
      difference,
      judged,
      tape: tape && {
        fromPlan: planEnd && poseDifference(planEnd, tape),
        fromReckoned: reckoned && poseDifference(reckoned, tape),
      },
    },
    panel: "robot",
  });
  movePlayhead(path.x.length - 1);
}
