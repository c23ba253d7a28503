// What each known of a robot is worth on a mission, rehearsed in a worker: for the Calibrate workplace, and for its
// pebble on the trail, which says what to measure next.
import {
  type Collections,
  headerValue,
  type Mission,
  openFloor,
  PROCEDURES,
  parseMission,
  type Worth,
} from "@giddy-pebble/core";
import { startWorker } from "../workers/startWorker.js";
import { api, type DocumentView } from "./api.js";
import { collectionTexts } from "./collections.js";
import { readLater } from "./readLater.js";

let worker: Worker | null = null;
let asked = 0;
/** Answers by what was asked, the newest last: whoever comes back to a workplace asks the same again. */
const answered = new Map<string, Promise<readonly Worth[] | null>>();
const ANSWERS_KEPT = 8;

interface MissionText {
  readonly id: string;
  readonly text: string;
}

export async function missionText(id: string): Promise<MissionText | null> {
  const found = await api.open(id);
  const text = found.ok ? (found.value.draft?.text ?? found.value.head.text) : null;
  return text === null ? null : { id, text };
}

/** The first mission written for this robot; any, when there is none. */
export async function ownMission(robot: string, missions: readonly DocumentView[]): Promise<MissionText | null> {
  const own = missions.find((mission) => mission.robot === robot) ?? missions[0];
  return own ? missionText(own.id) : null;
}

async function fieldOf(name: string | null): Promise<unknown> {
  if (name === null) return openFloor();
  const fields = await api.documents("field");
  const found = fields.ok ? fields.value.documents.find((field) => field.name === name) : undefined;
  const open = found ? await api.open(found.id) : null;
  return open?.ok ? (open.value.draft?.body ?? open.value.head.body) : openFloor();
}

/** The collections a mission uses, if any. */
async function collectionsOf(mission: Mission): Promise<Collections> {
  if (!mission.headers.some(({ word }) => word === "use")) return new Map();
  const listed = await api.documents("collection");
  return listed.ok ? collectionTexts(listed.value.documents) : new Map();
}

/** @returns the largest first, empty when the mission has errors; null when a part of the program could not be loaded */
export async function weighOn(ownText: string, robot: unknown): Promise<readonly Worth[] | null> {
  const mission = parseMission(ownText);
  const field = await fieldOf(headerValue(mission, "field"));
  const [lowering, collections] = await Promise.all([
    readLater(() => import("./toProgram.js")),
    collectionsOf(mission),
  ]);
  if (typeof lowering === "string") return null;
  const program = lowering.programOf(ownText, robot, field, collections);
  if (!program) return [];
  const question = { program, robot, field };
  const key = JSON.stringify(question);
  const answer = answered.get(key) ?? ask(question);
  answered.delete(key);
  answered.set(key, answer);
  for (const oldest of [...answered.keys()].slice(0, -ANSWERS_KEPT)) answered.delete(oldest);
  return answer;
}

function ask(question: object): Promise<readonly Worth[] | null> {
  asked += 1;
  const id = asked;
  worker ??= startWorker("worth");
  const own = worker;
  return new Promise((resolve) => {
    const hear = (event: MessageEvent<{ id: number; worth: Worth[] | null }>) => {
      if (event.data.id !== id) return;
      own.removeEventListener("message", hear);
      resolve(event.data.worth ?? []);
    };
    own.addEventListener("message", hear);
    // One that cannot be loaded answers nothing: the next question has a new one.
    own.addEventListener("error", () => {
      own.terminate();
      if (worker === own) worker = null;
      answered.clear();
      resolve(null);
    });
    own.postMessage({ id, ...question });
  });
}

export interface NextKnown {
  /** Where to measure it. */
  readonly href: string;
  readonly words: string;
}

/** Less than this is not worth a calibration, m. */
const WORTH_M = 0.001;

/** Which known of a robot pays most to measure on its first mission; null when none does, or nothing is there. */
export async function measureNext(robot: string | null): Promise<NextKnown | null> {
  const [robots, missions] = await Promise.all([api.documents("robot"), api.documents("mission")]);
  if (!robots.ok || !missions.ok) return null;
  const found = robots.value.documents.find(({ name }) => name === robot) ?? robots.value.documents[0];
  const open = found ? await api.open(found.id) : null;
  if (!found || !open?.ok) return null;
  const mission = await ownMission(found.name, missions.value.documents);
  if (!mission) return null;
  const worth = await weighOn(mission.text, open.value.draft?.body ?? open.value.head.body);
  const first = worth?.find(({ procedure }) => procedure !== null);
  const procedure = PROCEDURES.find(({ id }) => id === first?.procedure);
  if (!first || !procedure || first.mostM < WORTH_M) return null;
  const name = missions.value.documents.find(({ id }) => id === mission.id)?.name ?? "";
  return {
    href: `/calibrate?robot=${found.id}&known=${procedure.id}`,
    words: `Measure next: ${procedure.title} of ${found.name}. One standard error of the ${first.words} moves it ${(first.mostM * 1000).toFixed(0)} mm on ${name}.`,
  };
}
