// Pictures of documents, by their content.
import { z } from "zod";
import type { Queryable } from "../database.js";

const assetRow = z.object({ media_type: z.string(), bytes: z.instanceof(Buffer) });

/** Keeps a picture; one that is there already stays. */
export async function keepAsset(db: Queryable, team: string, sha256: string, bytes: Buffer): Promise<void> {
  await db.query(
    `insert into asset (team_id, sha256, media_type, bytes) values ($1, $2, 'image/png', $3)
     on conflict on constraint asset_pkey do nothing`,
    [team, sha256, bytes],
  );
}

export async function findAsset(db: Queryable, team: string, sha256: string): Promise<Buffer | null> {
  const found = await db.query("select media_type, bytes from asset where team_id = $1 and sha256 = $2", [
    team,
    sha256,
  ]);
  return found.rows[0] ? assetRow.parse(found.rows[0]).bytes : null;
}
