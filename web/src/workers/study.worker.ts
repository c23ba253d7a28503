// A thin shell around core: prepares a mission once, then rehearses stretches of a study's runs.
import "../shared/noEval.js";
import {
  digestRun,
  type FloorRaster,
  openField,
  type PreparedMission,
  prepareMission,
  readRobot,
  rehearse,
  runSeed,
} from "@giddy-pebble/core";
import { type StudyReply, type StudyRequest, studyRequest } from "./studyProtocol.js";

let ground: { readonly written: string; readonly floor: FloorRaster } | null = null;
let current: { readonly job: number; readonly prepared: PreparedMission } | null = null;

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
  const prepared = prepareMission(request.text, robot.document, known?.floor.field ?? field.document, known?.floor);
  ground = { written, floor: prepared.floor };
  if (!prepared.program) return reply({ type: "refused", job, reason: "The mission has problems to mend first." });
  current = { job, prepared };
}

function run(request: Extract<StudyRequest, { type: "runs" }>): void {
  const { job, seed, from, to, adjustments } = request;
  if (current?.job !== job) return;
  const { prepared } = current;
  const digests = [];
  for (let i = from; i < to; i += 1) {
    const own = runSeed(seed, i);
    digests.push(digestRun(rehearse(prepared, { seed: own, ideal: false, adjustments }), i, own));
  }
  reply({ type: "digests", job, digests });
}

self.onmessage = (event: MessageEvent<unknown>) => {
  const request = studyRequest.parse(event.data);
  if (request.type === "prepare") prepare(request);
  else run(request);
};
