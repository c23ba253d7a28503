// The field document: a floor with marks, things that stand on it, zones that score, begin places.
//
// Field frame: origin in the lower left corner seen from above, x right, y up (away), headings
// counter-clockwise from x. SI units.
import { z } from "zod";

const finite = z.number({ error: "must be a number" });
const positive = finite.positive({ error: "must be more than 0" });
const notNegative = finite.nonnegative({ error: "must not be negative" });
const point = z.tuple([finite, finite]);
const name = z.string().min(1).max(60);
const share = finite.min(0).max(1);

export const shapeSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("ellipse"), centreM: point, radiusXM: positive, radiusYM: positive }),
  z.object({ kind: z.literal("polygon"), cornersM: z.array(point).min(3).max(64) }),
]);

export const fieldSchema = z.object({
  format: z.literal("giddy-pebble/field"),
  version: z.literal(1),
  name,
  about: z.string().default(""),
  size: z.object({ widthM: positive.max(50), heightM: positive.max(50), cornerRadiusM: notNegative.default(0) }),
  /** A rim stops the robot like a wall; open means the floor goes on. */
  edge: z.enum(["rim", "open"]).default("rim"),
  surface: z.object({
    grip: positive.default(1),
    reflectance: share.default(0.85),
    colour: z.string().default("#EDE6D6"),
  }),
  marks: z
    .array(
      z.discriminatedUnion("kind", [
        z.object({
          kind: z.literal("line"),
          name: name.optional(),
          pointsM: z.array(point).min(2).max(400),
          widthM: positive,
          reflectance: share,
          colour: z.string(),
        }),
        z.object({
          kind: z.literal("area"),
          name: name.optional(),
          shape: shapeSchema,
          reflectance: share,
          colour: z.string(),
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
        heightM: positive.default(0.06),
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
        xM: finite,
        yM: finite,
        radiusM: positive,
        heightM: positive.default(0.06),
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
        sizeM: point,
        heightM: positive,
        massKg: positive,
        friction: positive,
        xM: finite,
        yM: finite,
        headingRad: finite.default(0),
        colour: z.string().default("#E8B04A"),
      }),
    )
    .max(60)
    .default([]),
  /** Colour plates a tag reader can read: on the floor, or on the face of a wall at its height. */
  tags: z
    .array(
      z.object({ name: name.optional(), xM: finite, yM: finite, sizeM: positive.default(0.03), colour: z.string() }),
    )
    .max(60)
    .default([]),
  zones: z
    .array(
      z.object({
        name,
        shape: shapeSchema,
        points: finite.default(0),
        counts: z.enum(["robot", "load"]).default("robot"),
        /** Inside: all of the outline; touching: any part of it. */
        rule: z.enum(["inside", "touching"]).default("inside"),
        /** A load that fell over counts nothing. */
        upright: z.boolean().default(false),
        /** Loads that count at most; each gives the points. */
        most: positive.int().default(100),
        /** Counts only when it is so before this time, s; null at any time. */
        beforeSec: positive.nullable().default(null),
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
  begins: z.array(z.object({ name, xM: finite, yM: finite, headingRad: finite })).default([]),
});

export type Field = z.infer<typeof fieldSchema>;
export type FieldShape = z.infer<typeof shapeSchema>;
export type BeginPlace = Field["begins"][number];
