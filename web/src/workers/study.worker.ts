// A thin shell around core: prepares each mission once, then rehearses stretches of a study's runs.
import "../shared/noEval.js";
import {
  digestRun,
  FloorRaster,
  openField,
  type PreparedMission,
  prepareMission,
  type Robot,
  readRobot,
  rehearse,
  runSeed,
  tuneRun,
} from "@giddy-pebble/core";
import { type StudyReply, type StudyRequest, studyRequest } from "./studyProtocol.js";

let ground: { readonly written: string; readonly floor: FloorRaster } | null = null;
/** The job in hand; each of its texts is prepared when its first run is asked for. */
let current: {
  readonly job: number;
  readonly robot: Robot;
  readonly texts: readonly string[];
  readonly prepared: Map<number, PreparedMission>;
} | null = null;

function reply(message: StudyReply): void {
  self.postMessage(message);
}

function prepare(request: Extract<StudyRequest, { type: "prepare" }>): void {
  const { job } = request;
  const robot = readRobot(request.robot);
  const field = openField(request.field);
  if (!robot.ok || !field.ok) return reply({ type: "refused", job, reason: "The robot or the field cannot be used." });
  const written = JSON.stringify(field.document);
  const known = ground?.written === written ? ground : null;
  ground = known ?? { written, floor: new FloorRaster(field.document) };
  current = { job, robot: robot.document, texts: request.texts, prepared: new Map() };
}

/** @returns null when it has problems */
function preparedText(text: number): PreparedMission | null {
  if (!current || !ground) return null;
  const known = current.prepared.get(text);
  if (known) return known;
  const prepared = prepareMission(current.texts[text] ?? "", current.robot, ground.floor.field, ground.floor);
  if (!prepared.program) return null;
  current.prepared.set(text, prepared);
  return prepared;
}

function run(request: Extract<StudyRequest, { type: "runs" }>): void {
  const { job, seed, from, to, adjustments, text, line } = request;
  if (current?.job !== job) return;
  const prepared = preparedText(text);
  if (!prepared) return reply({ type: "refused", job, reason: "The mission has problems to fix first." });
  const digests = [];
  const lines = [];
  for (let i = from; i < to; i += 1) {
    const own = runSeed(seed, i);
    if (line !== null) lines.push(tuneRun(prepared, line, own));
    else digests.push(digestRun(rehearse(prepared, { seed: own, ideal: false, adjustments }), i, own));
  }
  reply(line === null ? { type: "digests", job, digests } : { type: "lines", job, runs: lines });
}

self.onmessage = (event: MessageEvent<unknown>) => {
  const request = studyRequest.parse(event.data);
  if (request.type === "prepare") prepare(request);
  else run(request);
};
