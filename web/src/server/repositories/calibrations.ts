// Calibrations of a robot, newest first.
import { z } from "zod";
import type { Queryable } from "../database.js";

const calibrationRow = z.object({
  id: z.uuid(),
  robot_id: z.uuid(),
  quantity: z.string(),
  rows: z.array(z.unknown()),
  result: z.record(z.string(), z.unknown()),
  applied_revision: z.uuid().nullable(),
  applied_number: z.number().int().nullable(),
  created_at: z.date(),
});
type CalibrationRow = z.infer<typeof calibrationRow>;

interface NewCalibration {
  readonly robot: string;
  readonly quantity: string;
  readonly rows: readonly unknown[];
  readonly result: unknown;
  readonly appliedRevision: string | null;
}

/** @returns null when the robot, or the revision, is not the team's */
export async function insertCalibration(db: Queryable, team: string, made: NewCalibration): Promise<string | null> {
  const found = await db.query<{ id: string }>(
    `insert into calibration (team_id, robot_id, quantity, rows, result, applied_revision)
     select $1, d.id, $3, $4, $5, $6::uuid from document d
     where d.id = $2 and d.team_id = $1 and d.kind = 'robot'
       and ($6::uuid is null or exists (select 1 from revision r where r.id = $6 and r.document_id = d.id))
     returning id`,
    [team, made.robot, made.quantity, JSON.stringify(made.rows), JSON.stringify(made.result), made.appliedRevision],
  );
  return found.rows[0]?.id ?? null;
}

export async function listCalibrations(
  db: Queryable,
  team: string,
  robot: string,
  limit: number,
): Promise<CalibrationRow[]> {
  const found = await db.query(
    `select c.id, c.robot_id, c.quantity, c.rows, c.result, c.applied_revision, r.number as applied_number, c.created_at
     from calibration c left join revision r on r.id = c.applied_revision
     where c.team_id = $1 and c.robot_id = $2
     order by c.created_at desc, c.id desc limit $3`,
    [team, robot, limit],
  );
  return found.rows.map((row) => calibrationRow.parse(row));
}

/** How many robots have a calibration that was taken over. */
export async function countCalibratedRobots(db: Queryable, team: string): Promise<number> {
  const found = await db.query<{ count: number }>(
    "select count(distinct robot_id)::int as count from calibration where team_id = $1 and applied_revision is not null",
    [team],
  );
  return found.rows[0]?.count ?? 0;
}
