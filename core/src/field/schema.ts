// The field document: a floor with marks, things that stand on it, zones that score, begin places.
// Version 2 added curves, dashes and gaps of lines, thick walls, obstacles, ramps, light, the floor's picture, and what
// a ready start was made from.
//
// Field frame: origin in the lower left corner seen from above, x right, y up (away), headings
// counter-clockwise from x. SI units.
import * as z from "zod";
import { RANGES, type Range } from "../units/ranges.js";

/** A number in its physical range; what is wrong with another is said with the range and its unit. */
function within({ least, most }: Range, unit = "") {
  const error = `must be a number from ${least} to ${most}${unit === "" ? "" : ` ${unit}`}`;
  return z.number({ error }).min(least, { error }).max(most, { error });
}

const place = within(RANGES.place, "m");
const heading = within(RANGES.heading, "rad");
const size = within(RANGES.size, "m");
const height = within(RANGES.height, "m");
const side = within(RANGES.field, "m");
const time = within(RANGES.time, "s");
const point = z.tuple([place, place]);
const name = z.string().min(1).max(60);
const about = z.string().max(4000);
const colour = z.string().max(40);
const share = within({ least: 0, most: 1 });

const shapeSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("ellipse"), centreM: point, radiusXM: size, radiusYM: size }),
  z.object({ kind: z.literal("polygon"), cornersM: z.array(point).min(3).max(400) }),
]);

/** Ranges of what is drawn, for people who type it. */
export const FIELD_LIMITS = {
  marks: 2000,
  walls: 800,
  obstacles: 200,
  boulders: 400,
  loads: 60,
  tags: 60,
  zones: 60,
  gates: 60,
  begins: 60,
  ramps: 24,
  corners: 64,
} as const;
const most = FIELD_LIMITS;

/** Where a line stops being drawn: from so far along it, for so long, m. */
const gap = z.object({ atM: within({ least: 0, most: 1000 }, "m"), lengthM: size });
/** Drawn and left out in turns, m. */
const dash = z.object({ onM: size, offM: size });

const stroke = {
  name: name.optional(),
  widthM: size,
  reflectance: share,
  colour,
  /** The last point is joined to the first. */
  closed: z.boolean().optional(),
  dash: dash.optional(),
  gaps: z.array(gap).max(40).optional(),
};

/** One point of a smooth curve, with the ends of its two handles. */
const nodeSchema = z.object({ atM: point, inM: point.optional(), outM: point.optional() });

const MARKS = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("line"), pointsM: z.array(point).min(2).max(400), ...stroke }),
  z.object({ kind: z.literal("curve"), nodes: z.array(nodeSchema).min(2).max(200), ...stroke }),
  z.object({ kind: z.literal("area"), name: name.optional(), shape: shapeSchema, reflectance: share, colour }),
]);

/** How a robot is put on its begin place: by eye, with a jig, or pushed against a wall behind it. */
export const PUT_DOWN = ["eye", "jig", "wall"] as const;

export const fieldSchema = z.object({
  format: z.literal("giddy-pebble/field"),
  version: z.literal(2),
  name,
  about: about.default(""),
  size: z.object({ widthM: side, heightM: side, cornerRadiusM: within({ least: 0, most: 25 }, "m").default(0) }),
  /** A rim stops the robot like a wall; open means the floor goes on. */
  edge: z.enum(["rim", "open"]).default("rim"),
  surface: z.object({
    grip: within(RANGES.friction).default(1),
    reflectance: share.default(0.85),
    colour: colour.default("#EDE6D6"),
    /** Bumps that turn a robot aside, against those of a usual table: 0 is glass, 1 a table, 3 rough boards. */
    unevenness: within(RANGES.unevenness).optional(),
  }),
  /** What the floor looks like below all marks: a straightened picture, 2 mm a cell from the lower left. */
  picture: z
    .object({
      columns: z.number().int().min(1).max(2500),
      rows: z.number().int().min(1).max(2500),
      /** SHA-256 of the PNG, hex: how it is kept beside the document. */
      asset: z.string().regex(/^[0-9a-f]{64}$/, "must be a SHA-256 in hex"),
      /** The PNG itself, base64: in files and on the way to a robot. */
      png: z.string().max(6_000_000).optional(),
    })
    .optional(),
  /** Light of the room, 1 as sensors are stated for, and a lamp that casts shadows. */
  light: z
    .object({
      level: within({ least: 0, most: 4 }).default(1),
      lamp: z.object({ xM: place, yM: place, heightM: height, level: within({ least: 0, most: 20 }) }).optional(),
    })
    .optional(),
  marks: z.array(MARKS).max(most.marks).default([]),
  walls: z
    .array(
      z.object({
        name: name.optional(),
        fromM: point,
        toM: point,
        heightM: height.default(0.06),
        /** Both sides of the line from end to end take half of it; 0 is a thin plate. */
        thicknessM: within({ least: 0, most: 1 }, "m").optional(),
        /** Share of light it sends back: near sensors see dark walls late. */
        reflectance: share.default(0.7),
      }),
    )
    .max(most.walls)
    .default([]),
  /** Solid things of any outline. */
  obstacles: z
    .array(
      z.object({
        name: name.optional(),
        cornersM: z.array(point).min(3).max(most.corners),
        heightM: height.default(0.06),
        reflectance: share.default(0.5),
      }),
    )
    .max(most.obstacles)
    .default([]),
  /** Parts of the floor that slope: what stands there is pulled down along it. */
  ramps: z
    .array(
      z.object({
        name: name.optional(),
        cornersM: z.array(point).min(3).max(most.corners),
        slopeRad: within({ least: 0, most: 0.7 }, "rad"),
        /** Direction that leads up. */
        upRad: heading,
      }),
    )
    .max(most.ramps)
    .default([]),
  boulders: z
    .array(
      z.object({
        name: name.optional(),
        xM: place,
        yM: place,
        radiusM: size,
        heightM: height.default(0.06),
        reflectance: share.default(0.4),
      }),
    )
    .max(most.boulders)
    .default([]),
  loads: z
    .array(
      z.object({
        name,
        shape: z.enum(["box", "disc"]),
        /** Edge lengths of a box; a disc's diameter is the first. */
        sizeM: z.tuple([size, size]),
        heightM: height,
        massKg: within(RANGES.loadMass, "kg"),
        friction: within(RANGES.friction),
        xM: place,
        yM: place,
        headingRad: heading.default(0),
        colour: colour.default("#E8B04A"),
      }),
    )
    .max(60)
    .default([]),
  /** Colour plates a tag reader can read: on the floor, or on the face of a wall at its height. */
  tags: z
    .array(z.object({ name: name.optional(), xM: place, yM: place, sizeM: size.default(0.03), colour }))
    .max(60)
    .default([]),
  zones: z
    .array(
      z.object({
        name,
        shape: shapeSchema,
        points: within(RANGES.points).default(0),
        counts: z.enum(["robot", "load"]).default("robot"),
        /** Inside: all of the outline; touching: any part of it. */
        rule: z.enum(["inside", "touching"]).default("inside"),
        /** A load that fell over counts nothing. */
        upright: z.boolean().default(false),
        /** Loads that count at most; each gives the points. */
        most: z.number().int().min(1).max(1000).default(100),
        /** Counts only when it is so before this time, s; null at any time. */
        beforeSec: time.nullable().default(null),
        /** Only this load, by its name; null any. */
        only: name.nullable().default(null),
      }),
    )
    .max(60)
    .default([]),
  /** Lines between two posts, driven through in order for practice; nothing stands there. */
  gates: z
    .array(z.object({ name: z.string().min(1).max(12), fromM: point, toM: point }))
    .max(60)
    .default([]),
  begins: z
    .array(z.object({ name, xM: place, yM: place, headingRad: heading, put: z.enum(PUT_DOWN).optional() }))
    .max(60)
    .default([]),
  /** The ready start it was made from, and with which numbers; none once something was drawn by hand. */
  made: z.object({ start: z.string().max(40), numbers: z.record(z.string().max(40), within(RANGES.any)) }).optional(),
});

export type Field = z.infer<typeof fieldSchema>;
export type FieldShape = z.infer<typeof shapeSchema>;
export type FieldMark = Field["marks"][number];
export type StrokeMark = Exclude<FieldMark, { kind: "area" }>;
export type CurveNode = z.infer<typeof nodeSchema>;
export type BeginPlace = Field["begins"][number];
