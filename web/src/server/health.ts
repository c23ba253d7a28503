// Whether the parts this server leans on answer: the database and the process of the stand-in robots.
import { robotListSchema } from "@giddy-pebble/core";
import { pool } from "./database.js";
import { askRobots } from "./robots.js";

interface PartHealth {
  readonly ok: boolean;
  /** A sentence; empty while it is well. */
  readonly why: string;
}

const WELL: PartHealth = { ok: true, why: "" };

async function database(): Promise<PartHealth> {
  try {
    await pool().query("select 1");
    return WELL;
  } catch {
    return {
      ok: false,
      why: "The database does not answer. It is started again by itself; try again in a few seconds.",
    };
  }
}

async function robots(): Promise<PartHealth> {
  const answer = await askRobots(robotListSchema);
  return answer.ok ? WELL : { ok: false, why: answer.why };
}

export async function health(): Promise<{ readonly database: PartHealth; readonly robots: PartHealth }> {
  const [first, second] = await Promise.all([database(), robots()]);
  return { database: first, robots: second };
}
