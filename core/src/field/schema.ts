// The field document: a floor with marks, things that stand on it, zones that score, begin places.
//
// Field frame: origin in the lower left corner seen from above, x right, y up (away), headings
// counter-clockwise from x. SI units.
import { z } from "zod";
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

export const shapeSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("ellipse"), centreM: point, radiusXM: size, radiusYM: size }),
  z.object({ kind: z.literal("polygon"), cornersM: z.array(point).min(3).max(64) }),
]);

export const fieldSchema = z.object({
  format: z.literal("giddy-pebble/field"),
  version: z.literal(1),
  name,
  about: about.default(""),
  size: z.object({ widthM: side, heightM: side, cornerRadiusM: within({ least: 0, most: 25 }, "m").default(0) }),
  /** A rim stops the robot like a wall; open means the floor goes on. */
  edge: z.enum(["rim", "open"]).default("rim"),
  surface: z.object({
    grip: within(RANGES.friction).default(1),
    reflectance: share.default(0.85),
    colour: colour.default("#EDE6D6"),
  }),
  marks: z
    .array(
      z.discriminatedUnion("kind", [
        z.object({
          kind: z.literal("line"),
          name: name.optional(),
          pointsM: z.array(point).min(2).max(400),
          widthM: size,
          reflectance: share,
          colour,
        }),
        z.object({
          kind: z.literal("area"),
          name: name.optional(),
          shape: shapeSchema,
          reflectance: share,
          colour,
        }),
      ]),
    )
    .max(250)
    .default([]),
  walls: z
    .array(
      z.object({
        name: name.optional(),
        fromM: point,
        toM: point,
        heightM: height.default(0.06),
        /** Share of light it sends back: near sensors see dark walls late. */
        reflectance: share.default(0.7),
      }),
    )
    .max(800)
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
    .max(400)
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
    .array(z.object({ name, xM: place, yM: place, headingRad: heading }))
    .max(60)
    .default([]),
});

export type Field = z.infer<typeof fieldSchema>;
export type FieldShape = z.infer<typeof shapeSchema>;
export type BeginPlace = Field["begins"][number];
