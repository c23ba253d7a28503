// Pictures of documents, by their content.
import { z } from "zod";
import type { Queryable } from "../database.js";

const mediaType = z.enum(["image/png", "image/jpeg"]);
type MediaType = z.infer<typeof mediaType>;
const assetRow = z.object({ media_type: mediaType, bytes: z.instanceof(Buffer) });
type AssetRow = z.infer<typeof assetRow>;

/** Keeps a picture; one that is there already stays. */
export async function keepAsset(
  db: Queryable,
  team: string,
  sha256: string,
  bytes: Buffer,
  type: MediaType = "image/png",
): Promise<void> {
  await db.query(
    `insert into asset (team_id, sha256, media_type, bytes) values ($1, $2, $4, $3)
     on conflict on constraint asset_pkey do nothing`,
    [team, sha256, bytes, type],
  );
}

/** The bytes of a picture. */
export async function findAsset(db: Queryable, team: string, sha256: string): Promise<Buffer | null> {
  return (await findPicture(db, team, sha256))?.bytes ?? null;
}

/** A picture with what it is. */
export async function findPicture(db: Queryable, team: string, sha256: string): Promise<AssetRow | null> {
  const found = await db.query("select media_type, bytes from asset where team_id = $1 and sha256 = $2", [
    team,
    sha256,
  ]);
  return found.rows[0] ? assetRow.parse(found.rows[0]) : null;
}
