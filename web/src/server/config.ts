// What the start command hands to the server, read once and checked.
import { z } from "zod";

const environment = z.object({
  GIDDY_DATABASE: z.string().min(1),
  GIDDY_PORT: z.coerce.number().int().min(0).max(65535).default(0),
  GIDDY_INSTANCE: z.string().default("none"),
  /** Port of the stand-in robots on this machine; left out where there are none. */
  GIDDY_DEVICE_PORT: z.coerce.number().int().min(1).max(65535).optional(),
  GIDDY_DEMO: z.string().optional(),
});

export type Config = z.infer<typeof environment>;

/** @throws Error naming the missing setting */
export function readConfig(): Config {
  const read = environment.safeParse(process.env);
  if (!read.success) {
    const names = read.error.issues.map((issue) => issue.path.join(".")).join(", ");
    throw new Error(`The settings ${names} are missing or wrong. Start with npm start, which sets them.`);
  }
  return read.data;
}
