// The list of robots, asked of the stand-ins' process on this machine.
import { z } from "zod";

type RobotAnswer<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly why: string };

const NONE = "The simulated robots do not answer. They are started again by themselves; try in a few seconds.";

/** @param body - sent as a POST when given */
export async function askRobots<T>(schema: z.ZodType<T>, body?: unknown): Promise<RobotAnswer<T>> {
  const port = Number(process.env.GIDDY_DEVICE_PORT);
  if (!port) return { ok: false, why: "This server was started without simulated robots. Start it with npm start." };
  try {
    const response = await fetch(`http://127.0.0.1:${port}/robots`, {
      signal: AbortSignal.timeout(5000),
      ...(body === undefined ? {} : { method: "POST", body: JSON.stringify(body) }),
    });
    const value: unknown = await response.json();
    if (!response.ok) {
      const said = z.object({ why: z.string() }).safeParse(value);
      return { ok: false, why: said.success ? said.data.why : NONE };
    }
    return { ok: true, value: schema.parse(value) };
  } catch {
    return { ok: false, why: NONE };
  }
}
