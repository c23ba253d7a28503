import type { Queryable } from "../database.js";

/** The one local team; there are no accounts yet. Every other function takes its id first. */
const LOCAL_TEAM = "Fellside";

/** Id of the local team, made at first use. */
export async function localTeam(db: Queryable): Promise<string> {
  const found = await db.query<{ id: string }>("select id from team where name = $1", [LOCAL_TEAM]);
  if (found.rows[0]) return found.rows[0].id;
  const made = await db.query<{ id: string }>(
    "insert into team (name) values ($1) on conflict on constraint team_name_unique do update set name = excluded.name returning id",
    [LOCAL_TEAM],
  );
  if (!made.rows[0]) throw new Error("the local team could not be made");
  return made.rows[0].id;
}
