// The notebook document: its pages in order. A page either makes itself from what is there, or is a person's own text.
// A frozen page holds what it was when it was frozen.
import * as z from "zod";
import { type DocumentReading, parseVersioned } from "../documents/read.js";

const line = z.string().max(400);

/** An address in this application. */
const place = z
  .string()
  .max(400)
  .regex(/^\/[^/\\]/);

/** Where a piece of a page comes from. */
const sourceSchema = z.object({ words: line, href: place });
export type PageSource = z.infer<typeof sourceSchema>;

const from = sourceSchema.nullable().default(null);

/** A piece of a page. Pictures are SVG text made here, or photographs by their content. */
const blockSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("heading"), text: line, from }),
  z.object({ kind: z.literal("text"), text: z.string().max(4000), from }),
  z.object({ kind: z.literal("list"), items: z.array(z.object({ text: z.string().max(1000), from })).max(600) }),
  z.object({
    kind: z.literal("table"),
    head: z.array(line).max(8),
    rows: z.array(z.array(z.string().max(1000)).max(8)).max(600),
    /** Where each row leads, row by row; rows without a place lead nowhere. */
    hrefs: z.array(place.nullable()).max(600).default([]),
    from,
  }),
  z.object({ kind: z.literal("drawing"), svg: z.string().max(600_000), caption: line, from }),
  z.object({ kind: z.literal("markdown"), text: z.string().max(100_000) }),
  z.object({
    kind: z.literal("photo"),
    asset: z.string().regex(/^[0-9a-f]{64}$/),
    caption: line,
  }),
]);
export type PageBlock = z.infer<typeof blockSchema>;

const MADE_OF = ["robot", "calibrations", "field", "mission", "trials", "decisions", "timeline"] as const;
export type MadeOf = (typeof MADE_OF)[number];

const id = z.string().regex(/^[a-z0-9-]{1,60}$/);

const share = z.number().min(0).max(1);
const seconds = z.number().min(0).max(7200);

/** A mission on a match sheet: its place in a round, with what it takes and brings. */
const sheetEntrySchema = z.object({
  name: z.string().max(120),
  points: z.number().min(0).max(10_000),
  meanS: seconds.min(0.1),
  spreadS: seconds,
  success: share,
  attachment: z.string().max(60),
  /** Where the robot is put down. */
  begin: z.string().max(120).default(""),
  retries: z.number().int().min(0).max(9),
});
export type SheetEntry = z.infer<typeof sheetEntrySchema>;

/** One round of practice: what was done, in seconds from its beginning. */
const practiceSchema = z.object({
  at: z.iso.datetime(),
  marks: z.array(z.object({ name: z.string().max(120), atS: seconds, worked: z.boolean() })).max(200),
  points: z.number().min(0).max(1_000_000),
});
export type PracticeRound = z.infer<typeof practiceSchema>;

const pageSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("match"),
    id,
    title: line,
    roundS: seconds.min(1),
    resetS: seconds,
    changeS: seconds,
    entries: z.array(sheetEntrySchema).max(30),
    rounds: z.array(practiceSchema).max(500).default([]),
  }),
  z.object({
    kind: z.literal("pit"),
    id,
    title: line,
    lines: z.array(z.object({ text: line, done: z.boolean() })).max(100),
  }),
  z.object({
    kind: z.literal("made"),
    id,
    of: z.enum(MADE_OF),
    /** The document it is made of, by its name; null is all of them. */
    name: z.string().max(120).nullable(),
    /** What it was when it was frozen, and when. */
    frozen: z
      .object({ at: z.iso.datetime(), blocks: z.array(blockSchema).max(400) })
      .nullable()
      .default(null),
  }),
  z.object({
    kind: z.literal("own"),
    id,
    title: line,
    text: z.string().max(100_000),
    photos: z
      .array(z.object({ asset: z.string().regex(/^[0-9a-f]{64}$/), caption: line }))
      .max(40)
      .default([]),
  }),
]);
export type NotebookPage = z.infer<typeof pageSchema>;

export const NOTEBOOK_FORMAT = "giddy-pebble/notebook";

const notebookSchema = z.object({
  format: z.literal(NOTEBOOK_FORMAT),
  version: z.literal(1),
  name: z.string().min(1).max(120),
  pages: z.array(pageSchema).max(200),
});
export type Notebook = z.infer<typeof notebookSchema>;

/** @returns the notebook, or sentences that say what is wrong with it */
export function openNotebook(value: unknown): DocumentReading<Notebook> {
  return parseVersioned(value, { format: NOTEBOOK_FORMAT, newest: 1, upgrades: {}, schema: notebookSchema });
}
