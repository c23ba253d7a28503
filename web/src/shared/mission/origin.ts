// What a mission on a robot's shelf says of where it came from.
import { z } from "zod";

/** Of a put package, kept by the robot and given back with its shelf. */
const originSchema = z.object({
  mission: z.uuid(),
  robot: z.uuid(),
  field: z.uuid().nullable(),
  number: z.number().int(),
});
export type Origin = z.infer<typeof originSchema>;

export function readOrigin(text: string): Origin | null {
  try {
    return originSchema.parse(JSON.parse(text));
  } catch {
    return null;
  }
}

/** The version a shelf entry holds, as the app knows it. */
export function heldNumber(origin: string): number | null {
  return readOrigin(origin)?.number ?? null;
}
