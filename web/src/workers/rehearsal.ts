// A thin shell around core's Rehearsal: runs it in slices, sends rows as they come, obeys newer requests.
import "../shared/noEval.js";
import {
  type FloorRaster,
  HAND_COLUMNS,
  openField,
  Rehearsal,
  Replan,
  type Runnable,
  readRobot,
  recordedHands,
  runnable,
  TICK_MS,
  type Trace,
} from "@giddy-pebble/core";
import { unpacked } from "../shared/field/unpacking.js";
import { type WorkerReply, type WorkerRequest, workerRequest } from "./protocol.js";

const SLICE_MS = 8;
/** Ticks between looks at the clock. */
const CHUNK_TICKS = 50;
/** After a recorded drive it comes to rest, ticks. Then the driver stops it, as in the drive. */
const ROLL_OUT_TICKS = 100;

type Request = Extract<WorkerRequest, { type: "rehearse" }>;

let newest = 0;
let ground: { readonly written: string; readonly floor: FloorRaster } | null = null;
const channel = new MessageChannel();
let resume: (() => void) | null = null;
channel.port1.onmessage = () => resume?.();

/** Lets waiting messages in, without the 4 ms a nested timer costs. */
function breathe(): Promise<void> {
  return new Promise((resolve) => {
    resume = resolve;
    channel.port2.postMessage(null);
  });
}

function reply(message: WorkerReply, transfer: Transferable[] = []): void {
  self.postMessage(message, { transfer });
}

async function prepare(request: Request): Promise<Runnable | string> {
  const robot = readRobot(request.robot);
  if (!robot.ok) return `The robot document cannot be used: ${robot.problems.join("; ")}.`;
  const field = openField(request.field);
  if (!field.ok) return `The field document cannot be used: ${field.problems.join("; ")}.`;
  await unpacked(field.document);
  // The same field as before: its floor is drawn already.
  const written = JSON.stringify(field.document);
  const known = ground?.written === written ? ground : null;
  const ready = runnable(request.program, robot.document, known?.floor.field ?? field.document, known?.floor);
  ground = { written, floor: ready.floor };
  return ready;
}

function heldBy(columns: readonly Float32Array[]) {
  const trace: Trace = {
    tickMs: TICK_MS,
    events: [],
    columns: HAND_COLUMNS.map((info, i) => ({
      ...info,
      startTick: 0,
      everyTicks: 1,
      values: columns[i] ?? new Float32Array(0),
    })),
  };
  return recordedHands(trace);
}

/** What was planned last, with what it was planned for. */
let planned: { readonly of: string; readonly rehearsal: Replan } | null = null;

function plannedFor({ robot, seed, ideal }: Request): string {
  return JSON.stringify([robot, ground?.written, seed, ideal]);
}

/** The plan of before, put back to where the new program differs; null when there is none to use. */
function planAgain(request: Request): Replan | null {
  if (planned?.of === plannedFor(request) && planned.rehearsal.change(request.program) !== null)
    return planned.rehearsal;
  planned = null;
  return null;
}

async function begin(request: Request): Promise<Rehearsal | string> {
  const prepared = await prepare(request);
  if (typeof prepared === "string") return prepared;
  const again = request.replans ? planAgain(request) : null;
  if (again) return again;
  const { hands } = request;
  const held = hands ? heldBy(hands) : null;
  const options = {
    seed: request.seed,
    ideal: request.ideal,
    ...(held && hands ? { hands: held, handsEnd: (hands[0]?.length ?? 0) + ROLL_OUT_TICKS } : {}),
    ...(request.remembered ? { remembered: request.remembered } : {}),
  };
  if (!request.replans) return new Rehearsal(prepared, options);
  const rehearsal = new Replan(prepared, options);
  planned = { of: plannedFor(request), rehearsal };
  return rehearsal;
}

async function run(request: Request): Promise<void> {
  const { generation } = request;
  const rehearsal = await begin(request);
  if (newest !== generation) return;
  if (typeof rehearsal === "string") return reply({ type: "refused", generation, reason: rehearsal });
  let sent = 0;
  while (!rehearsal.done) {
    const sliceEnd = performance.now() + SLICE_MS;
    while (!rehearsal.advance(CHUNK_TICKS) && performance.now() < sliceEnd);
    const columns = rehearsal.recorder.since(sent);
    reply(
      { type: "rows", generation, from: sent, columns },
      columns.map((column) => column.buffer as ArrayBuffer),
    );
    sent = rehearsal.recorder.count;
    await breathe();
    if (newest !== generation) return;
  }
  const { summary, trace } = rehearsal.result();
  reply({
    type: "done",
    generation,
    summary,
    trace: { ...trace, columns: [...trace.columns], events: [...trace.events] },
  });
}

self.onmessage = (event: MessageEvent<unknown>) => {
  const request = workerRequest.parse(event.data);
  newest = request.generation;
  if (request.type === "rehearse") void run(request);
};
