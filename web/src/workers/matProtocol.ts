// What the page and the worker that straightens pictures tell each other.
import { z } from "zod";

const point = z.tuple([z.number(), z.number()]);

export const matAskSchema = z.object({
  width: z.number().int(),
  height: z.number().int(),
  data: z.instanceof(ArrayBuffer),
  mat: z.object({
    corners: z.array(point),
    widthM: z.number(),
    heightM: z.number(),
    white: point.nullable(),
    black: point.nullable(),
  }),
});

export const matAnswerSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("progress"), share: z.number() }),
  z.object({ kind: z.literal("failed"), problem: z.string() }),
  z.object({
    kind: z.literal("done"),
    columns: z.number().int(),
    rows: z.number().int(),
    png: z.instanceof(ArrayBuffer),
  }),
]);
