// What pages are made of: asked for from the server, put together by the core.
import {
  calibrationsPage,
  decisionsPage,
  defaultSettings,
  fieldPage,
  type ListedVersion,
  type MissionDecisions,
  missionPage,
  type NotebookPage,
  openField,
  openRobot,
  type PageDocument,
  PROCEDURES,
  type Robot,
  type RobotDecisions,
  robotPage,
  timelinePage,
  trialsPage,
} from "@giddy-pebble/core";
import { type Answer, api, type ListedDocument, type TrialFilter } from "../../shared/api.js";
import type { Made } from "./state.js";

const ALL: TrialFilter = { mission: "", source: "", result: "", tag: "", words: "" };
/** Runs that the page of trials lists. */
const NEWEST_TRIALS = 30;

class Untold extends Error {}

async function told<T>(answer: Promise<Answer<T>>): Promise<T> {
  const given = await answer;
  if (!given.ok) throw new Untold(given.message);
  return given.value;
}

async function about(document: ListedDocument, page: string): Promise<PageDocument> {
  const { revisions } = await told(api.revisions(document.id, null));
  const versions = revisions.map(
    ({ number, name, reason, createdAt }): ListedVersion => ({ number, name, reason, madeAt: createdAt }),
  );
  return { name: document.name, href: `/${page}?${page}=${document.id}`, versions };
}

/** A version of a robot, or what is on the screen; null when it cannot be read. */
async function robotAt(id: string, number: number | null): Promise<Robot | null> {
  const found = number === null ? await api.open(id) : await api.revision(id, number);
  if (!found.ok) return null;
  const body = "body" in found.value ? found.value.body : (found.value.draft?.body ?? found.value.head.body);
  const read = openRobot(body);
  return read.ok ? read.document : null;
}

async function robotMade(document: ListedDocument): Promise<Made> {
  const { draft, head } = await told(api.open(document.id));
  const read = openRobot(draft?.body ?? head.body);
  if (!read.ok) return { trouble: `${document.name} cannot be read: ${read.problems[0]}.` };
  const earlier = head.number > 1 ? await api.revision(document.id, head.number - 1) : null;
  const before = earlier?.ok ? openRobot(earlier.value.body) : null;
  return { blocks: robotPage(read.document, await about(document, "robot"), before?.ok ? before.document : null) };
}

async function calibrationsMade(document: ListedDocument): Promise<Made> {
  const { calibrations } = await told(api.calibrations(document.id));
  const now = await robotAt(document.id, null);
  const list = await Promise.all(
    calibrations.map(async ({ quantity, rows, result, appliedNumber, createdAt }) => {
      const procedure = PROCEDURES.find(({ id }) => id === quantity);
      // It was measured with what was in force before it was used.
      const then = appliedNumber !== null && appliedNumber > 1 ? await robotAt(document.id, appliedNumber - 1) : now;
      return {
        title: procedure?.title ?? quantity,
        result: result.title ?? "",
        words: result.words ?? "",
        rows: rows.filter(({ struck }) => !struck).length,
        version: appliedNumber,
        madeAt: createdAt,
        chart: procedure && then ? procedure.chart(then, rows, defaultSettings(procedure)) : null,
      };
    }),
  );
  return { blocks: calibrationsPage(document.name, `/calibrate?robot=${document.id}`, list) };
}

async function fieldMade(document: ListedDocument): Promise<Made> {
  const { draft, head } = await told(api.open(document.id));
  const read = openField(draft?.body ?? head.body);
  if (!read.ok) return { trouble: `${document.name} cannot be read: ${read.problems[0]}.` };
  return { blocks: fieldPage(read.document, await about(document, "field")) };
}

async function missionMade(document: ListedDocument): Promise<Made> {
  const [{ draft, head }, counts, { studies }, picture] = await Promise.all([
    told(api.open(document.id)),
    told(api.trialCounts({ ...ALL, mission: document.id })),
    told(api.studies(document.id)),
    api.picture(document.id),
  ]);
  const [newest] = studies;
  const summary = newest ? await api.study(newest.id) : null;
  const mission = {
    text: draft?.text ?? head.text ?? "",
    robot: document.robot,
    field: document.field,
    rates: counts.versions,
    lostIn: summary?.ok ? summary.value.summary.blames.map(({ step, runs }) => ({ step, runs })) : [],
    picture,
  };
  return { blocks: missionPage(mission, await about(document, "mission"), `/trials?of=${document.id}`) };
}

async function trialsMade(): Promise<Made> {
  const [{ trials }, counts] = await Promise.all([told(api.trialsFrom(ALL, null)), told(api.trialCounts(ALL))]);
  const list = trials.slice(0, NEWEST_TRIALS).map((trial) => ({
    mission: trial.mission.name,
    version: trial.mission.number,
    source: trial.source,
    worked: trial.success,
    seconds: trial.durationMs / 1000,
    note: [trial.note, ...trial.tags].filter(Boolean).join(", "),
    tape: trial.tape,
    at: trial.startedAt,
    href: `/run?run=${trial.id}`,
  }));
  return { blocks: trialsPage(list, counts.count, counts.worked) };
}

/** Newest versions of each document that the page of decisions tells of. */
const NEWEST_CHANGES = 6;

/** Versions that changed something, newest first, each with what it holds and what the one before held. */
async function changesOf<T>(document: ListedDocument, holds: (number: number) => Promise<T | null>) {
  const { revisions } = await told(api.revisions(document.id, null));
  const changed = revisions.filter(({ number }) => number > 1).slice(0, NEWEST_CHANGES);
  const all = await Promise.all(
    changed.map(async ({ number, name, reason, createdAt: madeAt }) => {
      const [before, after] = await Promise.all([holds(number - 1), holds(number)]);
      return before === null || after === null ? [] : [{ number, name, reason, madeAt, before, after }];
    }),
  );
  return all.flat();
}

async function decisionsMade(project: readonly ListedDocument[]): Promise<Made> {
  const list: (RobotDecisions | MissionDecisions)[] = [];
  for (const document of project.filter(({ headRevision }) => headRevision > 1)) {
    const { id, kind, name } = document;
    const href = `/${kind}?${kind}=${id}`;
    if (kind === "robot")
      list.push({ kind, name, href, changes: await changesOf(document, (number) => robotAt(id, number)) });
    if (kind !== "mission") continue;
    const text = async (number: number) => {
      const found = await api.revision(id, number);
      return found.ok ? found.value.text : null;
    };
    const [changes, counts] = await Promise.all([
      changesOf(document, text),
      told(api.trialCounts({ ...ALL, mission: id })),
    ]);
    list.push({ kind, name, href, changes, rates: counts.versions });
  }
  return { blocks: decisionsPage(list) };
}

const PAGES: Readonly<Record<string, string>> = {
  robot: "robot",
  field: "field",
  mission: "mission",
  collection: "mission",
};

async function timelineMade(): Promise<Made> {
  const { events } = await told(api.timeline());
  return {
    blocks: timelinePage(
      events
        .filter(({ kind }) => kind in PAGES)
        .map(({ at, what, kind, document, name, number, words }) => {
          const page = what === "calibration" ? "calibrate" : (PAGES[kind] ?? kind);
          const key = kind === "collection" ? "mission" : kind;
          const subject = what === "version" ? `${name}, version ${number}` : name;
          return { at, words: `${subject}: ${words}`, href: `/${page}?${key}=${document}` };
        }),
    ),
  };
}

/** Makes a page of what is there now. */
export async function makePage(
  page: Extract<NotebookPage, { kind: "made" }>,
  project: readonly ListedDocument[],
): Promise<Made> {
  try {
    if (page.of === "trials") return await trialsMade();
    if (page.of === "timeline") return await timelineMade();
    if (page.of === "decisions") return await decisionsMade(project);
    const kind = page.of === "calibrations" ? "robot" : page.of;
    const document = project.find((one) => one.kind === kind && one.name === page.name);
    if (!document)
      return {
        trouble: `There is no ${kind} called ${page.name} now. It may be archived: bring it back on the home page, or take this page out.`,
      };
    if (page.of === "robot") return await robotMade(document);
    if (page.of === "calibrations") return await calibrationsMade(document);
    return page.of === "field" ? await fieldMade(document) : await missionMade(document);
  } catch (error) {
    if (error instanceof Untold) return { trouble: error.message };
    throw error;
  }
}
