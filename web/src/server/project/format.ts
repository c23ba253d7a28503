// A whole project as one .zip of open formats: what its files are called and what is in them. Nothing in it has an id:
// documents go by their place in the file, runs by the document and version they were made with.
import { storedSummary, studySummarySchema, typedTapeSchema } from "@giddy-pebble/core";
import { z } from "zod";
import { documentKind } from "../repositories/documents.js";
import { TRIAL_SOURCES } from "../repositories/trials.js";

export const PROJECT_FORMAT = "giddy-pebble/project";
export const PROJECT_VERSION = 1;
export const INDEX = "project.json";

const time = z.iso.datetime();
const number = z.number().int().min(1).max(1_000_000);

const versionEntry = z.object({
  number,
  parent: number.nullable(),
  name: z.string().max(120).nullable(),
  reason: z.string().max(400),
  author: z.string().max(120),
  madeAt: time,
});

const documentEntry = z.object({
  kind: documentKind,
  name: z.string().min(1).max(120),
  /** Its file without an ending, such as "missions/first-roll-out". */
  path: z.string().regex(/^[a-z]+s\/[a-z0-9-]{1,80}$/),
  madeAt: time,
  archivedAt: time.nullable(),
  /** Newest version, and the version that what is typed now began with; null when nothing is. */
  head: number,
  draftOver: number.nullable(),
  versions: z.array(versionEntry).min(1).max(20_000),
});
export type DocumentEntry = z.infer<typeof documentEntry>;

export const indexSchema = z.object({
  format: z.literal(PROJECT_FORMAT),
  version: z.literal(PROJECT_VERSION),
  documents: z.array(documentEntry).max(2000),
  trials: z.number().int().min(0).max(100_000),
  studies: z.number().int().min(0).max(20_000),
  calibrations: z.number().int().min(0).max(20_000),
});
export type ProjectIndex = z.infer<typeof indexSchema>;

/** A version of a document. */
const place = z.object({ document: z.string(), version: number });
const made = { mission: place, robot: place, field: place.nullable(), coreVersion: z.string().max(40) };

export const trialSchema = z.object({
  ...made,
  source: z.enum(TRIAL_SOURCES),
  seed: z.number().int(),
  ideal: z.boolean(),
  outcome: z.enum(["finished", "stopped", "problem"]),
  success: z.boolean(),
  score: z.number().nullable(),
  durationMs: z
    .number()
    .int()
    .min(0)
    .max(2 ** 31 - 1),
  /** Projects of earlier versions come in too. */
  summary: z.record(z.string(), z.unknown()).transform(storedSummary),
  note: z.string().max(4000),
  tape: typedTapeSchema.nullable(),
  tags: z.array(z.string().min(1).max(40)).max(20),
  startedAt: time,
  trace: z.boolean(),
});

export const studySchema = z.object({
  ...made,
  seed: z.number().int(),
  runs: z.number().int().min(1).max(10_000),
  successes: z.number().int().min(0).max(10_000),
  summary: studySummarySchema,
  madeAt: time,
});

export const calibrationSchema = z.object({
  robot: z.string(),
  quantity: z.string().min(1).max(120),
  rows: z.array(z.unknown()),
  result: z.record(z.string(), z.unknown()),
  /** Version of the robot that took it over. */
  appliedVersion: number.nullable(),
  madeAt: time,
});

/** Missions and collections are text; everything else is JSON. */
export function isText(kind: DocumentEntry["kind"]): boolean {
  return kind === "mission" || kind === "collection";
}

export function ending(kind: DocumentEntry["kind"]): string {
  return isText(kind) ? "cairn" : "json";
}

export const fileOf = {
  /** What is on the screen. */
  present: ({ kind, path }: DocumentEntry) => `${path}.${ending(kind)}`,
  version: ({ kind, path }: DocumentEntry, version: number) => `versions/${path}/${version}.${ending(kind)}`,
  /** The collections that a version of a mission used. */
  collections: ({ path }: DocumentEntry, version: number) => `versions/${path}/${version}.collections.json`,
  trial: (i: number) => `trials/${String(i).padStart(6, "0")}.json`,
  trace: (i: number) => `trials/${String(i).padStart(6, "0")}.trace`,
  study: (i: number) => `studies/${String(i).padStart(6, "0")}.json`,
  calibration: (i: number) => `calibrations/${String(i).padStart(6, "0")}.json`,
  picture: (sha256: string, type: "image/png" | "image/jpeg") =>
    `pictures/${sha256}.${type === "image/png" ? "png" : "jpg"}`,
};

/** JSON as it stands in the file: keys in order, so that the same data is the same bytes. */
export function written(value: unknown): string {
  return `${JSON.stringify(sorted(value), null, 2)}\n`;
}

function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== "object" || value === null) return value;
  const entries = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return Object.fromEntries(entries.map(([key, inner]) => [key, sorted(inner)]));
}
