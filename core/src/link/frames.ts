// Frames of the robot link, both ways, as JSON text. `ask` numbers a request; its answer, `done` or `refused`,
// carries the same number. Angles in rad, lengths in m, times in ms, shares -1..1.
import * as z from "zod";
import { PLACED_BY } from "../robot/placing.js";
import { runSummarySchema } from "../trials/summary.js";
import { RANGES, type Range } from "../units/ranges.js";
import { PLAIN } from "../words/plainFault.js";
import { MOST_PACKAGE_BYTES, PART_CHARS } from "./limits.js";

const finite = z.number();
const inRange = ({ least, most }: Range) => z.number().min(least).max(most);
const placeM = inRange(RANGES.place);
const headingRad = inRange(RANGES.heading);
const ask = z.number().int().nonnegative();
const share = finite.min(-1).max(1);
const level = finite.min(0).max(1);
const missionNameSchema = z.string().min(1).max(60);
const sha256 = z.string().regex(/^[0-9a-f]{64}$/);
const begin = z.object({ name: z.string().max(60), xM: placeM, yM: placeM, headingRad });

const place = z.object({ xM: finite, yM: finite, headingRad: finite });

/** What a program package holds; documents are read with their own schemas. */
export const packageSchema = z.object({
  format: z.literal("giddy-pebble/package"),
  version: z.literal(1),
  /** Source text of the mission. */
  text: z.string().max(MOST_PACKAGE_BYTES),
  /** Robot document: constants of the knowns. */
  robot: z.unknown(),
  /** Field document, for zones and begin places; null for an open floor. */
  field: z.unknown(),
});
export type ProgramPackage = z.infer<typeof packageSchema>;

/** To the robot. */
export const toRobotSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("hello"), protocol: z.string().max(40), who: z.string().max(60) }),
  z.object({ kind: z.literal("shelf"), ask }),
  /** Announces a package; its parts follow. */
  z.object({
    kind: z.literal("put"),
    ask,
    name: missionNameSchema,
    bytes: z.number().int().positive().max(MOST_PACKAGE_BYTES),
    sha256,
    /** Which version this is, in words of whoever sends it, and where it comes from: kept and given back as they are. */
    label: z.string().max(120),
    origin: z.string().max(400).default(""),
  }),
  z.object({ kind: z.literal("part"), ask, at: z.number().int().nonnegative(), text: z.string().max(PART_CHARS) }),
  z.object({ kind: z.literal("remove"), ask, name: missionNameSchema }),
  z.object({ kind: z.literal("run"), ask, name: missionNameSchema }),
  z.object({ kind: z.literal("halt"), ask }),
  /** By hand: shares of top speed; numbers rise, an older one is ignored. */
  z.object({ kind: z.literal("drive"), seq: z.number().int().nonnegative(), left: share, right: share }),
  /**
   * What a driver holds, while a mission hands over: sticks forward and left positive, triggers and sliders, and
   * buttons as bits. Numbers rise, an older one is ignored; each is answered by `heard`.
   */
  z.object({
    kind: z.literal("hands"),
    seq: z.number().int().nonnegative(),
    sticks: z.tuple([share, share, share, share]),
    levels: z.tuple([level, level, level, level]),
    buttons: z.number().int().min(0).max(0xffff),
  }),
  z.object({ kind: z.literal("leave"), ask }),
  z.object({ kind: z.literal("press"), ask, button: z.string().max(40), down: z.boolean() }),
  z.object({ kind: z.literal("readings"), ask, on: z.boolean() }),
  z.object({ kind: z.literal("trace"), ask }),
  /** Simulated robots only, from here on: hands, a tape, and things that go wrong. */
  z.object({
    kind: z.literal("place"),
    ask,
    begin,
    how: z.enum(PLACED_BY),
    /** Of the mission on the shelf whose field it is put on; null for an open floor. */
    fieldOf: missionNameSchema.nullable(),
  }),
  z.object({ kind: z.literal("tape"), ask }),
  z.object({ kind: z.literal("pack"), ask, charge: finite.min(0.02).max(1) }),
  /** How many seconds of its own a stand-in lives in one; driven by hand it is always one. */
  z.object({ kind: z.literal("pace"), ask, times: z.number().int().min(1).max(20) }),
  /** A bad radio between driver and stand-in, for what is held and its answers: to practise on. */
  z.object({
    kind: z.literal("radio"),
    ask,
    delayMs: finite.min(0).max(1000),
    jitterMs: finite.min(0).max(1000),
    loss: finite.min(0).max(0.95),
    /** Beyond this from the begin place nothing arrives, m; null for any distance. */
    rangeM: finite.min(0.2).max(100).nullable(),
  }),
  z.object({
    kind: z.literal("fault"),
    ask,
    fault: z.enum(["link-drops", "late-packets", "tired-pack", "unplugged", "restart", "none"]),
    /** Sensor or motor, for `unplugged`. */
    part: z.string().max(40).default(""),
  }),
]);
export type ToRobot = z.infer<typeof toRobotSchema>;

const shelfEntry = z.object({
  name: missionNameSchema,
  sha256,
  bytes: z.number().int(),
  label: z.string(),
  origin: z.string(),
  savedAt: z.string(),
});
export type ShelfEntry = z.infer<typeof shelfEntry>;

const doingSchema = z.enum(["idle", "running", "driven", "restarting"]);

/** From the robot. */
export const fromRobotSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("hello"),
    protocol: z.string(),
    robot: z.string(),
    /** Told by the robot itself: it is a stand-in, with hands and a tape. */
    simulated: z.boolean(),
    coreVersion: z.string(),
    room: z.number().int(),
    buttons: z.array(z.string()),
    /** Names of sensors and motors with a plug. */
    plugs: z.array(z.string()),
  }),
  z.object({
    kind: z.literal("state"),
    doing: doingSchema,
    /** Run in hand or the last one; 0 before the first. */
    run: z.number().int(),
    mission: z.string().nullable(),
    sha256: z.string().nullable(),
    packVolts: finite,
    /** Warmest winding of the drive, deg C; null where nothing measures it. */
    windingC: finite.nullable(),
    display: z.string(),
    light: z.string(),
    driver: z.enum(["you", "other", "nobody"]),
    /** Begin place it was last put on, and the field by name. */
    begin,
    field: z.string(),
    unplugged: z.array(z.string()),
    pace: z.number().int(),
    /**
     * Who moves it while a mission runs: itself, a driver's hands, or nobody, from when they fell silent until they let go
     * of the sticks once.
     */
    hand: z.enum(["itself", "driver", "silent"]).default("itself"),
    /** Why the latest run or drive ended; empty before the first. */
    why: z.string(),
  }),
  z.object({ kind: z.literal("shelf"), ask: ask.nullable(), entries: z.array(shelfEntry) }),
  z.object({
    kind: z.literal("readings"),
    run: z.number().int(),
    tick: z.number().int(),
    /** Where it reckons to be on its field. */
    xM: finite,
    yM: finite,
    headingRad: finite,
    leftMS: finite,
    rightMS: finite,
    leftDuty: finite,
    rightDuty: finite,
    packVolts: finite,
    /** Null where nothing measures it. */
    packAmps: finite.nullable(),
    /** Of both sides' motors, A and deg C; empty for robots that measure neither. */
    motorAmps: z.array(finite).max(4).default([]),
    motorC: z.array(finite).max(4).default([]),
    /**
     * Stand-ins only, while a mission with a driver runs: what the driver sees of the table, to 2 mm and half a degree.
     * A person looks at a real robot; the robot itself cannot know this.
     */
    seen: z
      .object({ robot: place, loads: z.array(place).max(60) })
      .nullable()
      .default(null),
    /** Latest number of `drive` or `hands` heard; -1 before the first. */
    seq: z.number().int(),
    values: z.record(z.string(), finite),
  }),
  z.object({
    kind: z.literal("step"),
    run: z.number().int(),
    tick: z.number().int(),
    line: z.number().int(),
    step: z.string(),
    endedBy: z.string().nullable(),
  }),
  z.object({
    kind: z.literal("note"),
    run: z.number().int(),
    tick: z.number().int(),
    name: z.string(),
    value: z.union([finite, z.string()]),
  }),
  z.object({
    kind: z.literal("sign"),
    run: z.number().int(),
    tick: z.number().int(),
    sign: z.enum(["show", "light", "beep"]),
    text: z.string(),
  }),
  z.object({
    kind: z.literal("ended"),
    run: z.number().int(),
    mission: z.string().nullable(),
    summary: runSummarySchema,
  }),
  /** Announces a trace; its rows follow as binary frames. */
  z.object({
    kind: z.literal("trace"),
    ask,
    run: z.number().int(),
    tickMs: finite,
    rows: z.number().int().nonnegative(),
    columns: z.array(z.object({ id: z.string(), quantity: z.string(), unit: z.string() })).max(256),
    events: z.array(
      z.object({ tick: finite, kind: z.string(), stepId: z.string(), data: z.union([z.string(), finite]) }),
    ),
  }),
  z.object({
    kind: z.literal("tape"),
    ask,
    /** Where it stands, seen from its begin place. */
    alongM: finite,
    asideM: finite,
    headingRad: finite,
  }),
  /** Answer to `hands`. */
  z.object({
    kind: z.literal("heard"),
    seq: z.number().int(),
    /** Whether these hands drive the robot now. */
    drives: z.boolean(),
  }),
  z.object({ kind: z.literal("done"), ask }),
  z.object({ kind: z.literal("refused"), ask: ask.nullable(), why: z.string() }),
]);
export type FromRobot = z.infer<typeof fromRobotSchema>;
export type FrameOf<K extends FromRobot["kind"]> = Extract<FromRobot, { kind: K }>;

/** What a robot in the list of robots says of itself. */
export const robotListSchema = z.object({
  robots: z.array(
    z.object({
      id: z.string().regex(/^[a-z0-9-]{1,60}$/),
      name: z.string(),
      simulated: z.boolean(),
      doing: doingSchema,
      packVolts: finite,
    }),
  ),
});

type FrameReading<T> = { readonly ok: true; readonly frame: T } | { readonly ok: false; readonly why: string };

/** @param text - a text frame from the other end, of any content */
export function readFrame<T>(schema: z.ZodType<T>, text: string): FrameReading<T> {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return { ok: false, why: "This frame is not JSON." };
  }
  const read = schema.safeParse(value, PLAIN);
  if (read.success) return { ok: true, frame: read.data };
  const issue = read.error.issues[0];
  const where = issue && issue.path.length > 0 ? ` at "${issue.path.join(".")}"` : "";
  return {
    ok: false,
    why: `This frame is not one of ${LINK_WORDS}${where}: ${issue?.message ?? "it cannot be read"}.`,
  };
}

const LINK_WORDS = "the robot link's";
