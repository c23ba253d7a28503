// A thin shell around core: takes programs once, then rehearses stretches of a study's runs.
import "../shared/noEval.js";
import {
  digestRun,
  FloorRaster,
  openField,
  type Runnable,
  readRobot,
  rehearse,
  runnable,
  runSeed,
  tuneRun,
} from "@giddy-pebble/core";
import { unpacked } from "../shared/field/unpacking.js";
import { type StudyReply, type StudyRequest, studyRequest } from "./studyProtocol.js";

let ground: { readonly written: string; readonly floor: FloorRaster } | null = null;
/** The job in hand. */
let current: { readonly job: number; readonly missions: readonly Runnable[] } | null = null;

function reply(message: StudyReply): void {
  self.postMessage(message);
}

async function prepare(request: Extract<StudyRequest, { type: "prepare" }>): Promise<void> {
  const { job } = request;
  const robot = readRobot(request.robot);
  const field = openField(request.field);
  if (!robot.ok || !field.ok) return reply({ type: "refused", job, reason: "The robot or the field cannot be used." });
  await unpacked(field.document);
  const written = JSON.stringify(field.document);
  const known = ground?.written === written ? ground : null;
  ground = known ?? { written, floor: new FloorRaster(field.document) };
  const { floor } = ground;
  current = { job, missions: request.programs.map((one) => runnable(one, robot.document, floor.field, floor)) };
}

function run(request: Extract<StudyRequest, { type: "runs" }>): void {
  const { job, seed, from, to, adjustments, program, step } = request;
  if (current?.job !== job) return;
  const mission = current.missions[program];
  if (!mission) return;
  const digests = [];
  const lines = [];
  for (let i = from; i < to; i += 1) {
    const own = runSeed(seed, i);
    if (step !== null) lines.push(tuneRun(mission, step, own));
    else digests.push(digestRun(rehearse(mission, { seed: own, ideal: false, adjustments }), i, own));
  }
  reply(step === null ? { type: "digests", job, digests } : { type: "lines", job, runs: lines });
}

/** Messages are answered in the order they came. */
let before: Promise<void> = Promise.resolve();

self.onmessage = (event: MessageEvent<unknown>) => {
  const request = studyRequest.parse(event.data);
  before = before.then(() => (request.type === "prepare" ? prepare(request) : run(request)));
};
