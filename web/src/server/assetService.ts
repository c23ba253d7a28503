// What may be kept as a picture: a PNG not larger than a floor can be. Its name is its content.
import { createHash } from "node:crypto";
import { type Field, MOST_CELLS, pngSize } from "@giddy-pebble/core";
import type { Queryable } from "./database.js";
import { keepAsset } from "./repositories/assets.js";

export const LARGEST_ASSET = 4 * 1024 * 1024;

export function sha256Of(bytes: Uint8Array): string {
  return createHash("sha256").update(bytes).digest("hex");
}

/** @returns a sentence that says why these bytes are not kept; null when they may be */
export function assetProblem(sha256: string, bytes: Uint8Array): string | null {
  if (bytes.length > LARGEST_ASSET) return "The picture has more than 4 MB. Make its mat smaller.";
  const size = pngSize(bytes);
  if (!size) return "This is not a PNG picture.";
  if (size.width > MOST_CELLS || size.height > MOST_CELLS)
    return `The picture has ${size.width} × ${size.height} cells. ${MOST_CELLS} on each side is the most.`;
  if (sha256Of(bytes) !== sha256) return "The address is not the SHA-256 of what was sent. Send it again.";
  return null;
}

/** The same of a photograph: a JPEG whose name is its content. */
export function photoProblem(sha256: string, bytes: Uint8Array): string | null {
  if (bytes.length > LARGEST_ASSET) return "The picture has more than 4 MB.";
  if (bytes[0] !== 0xff || bytes[1] !== 0xd8) return "This is not a JPEG picture.";
  return sha256Of(bytes) === sha256 ? null : "Its name is not the SHA-256 of what is in it.";
}

/** A field without its picture's bytes, which are kept by their content; a sentence when they cannot be. */
export async function takePicture(db: Queryable, team: string, field: Field): Promise<Field | string> {
  if (!field.picture?.png) return field;
  const { png, ...picture } = field.picture;
  const bytes = Buffer.from(png, "base64");
  const sha256 = sha256Of(bytes);
  const trouble = assetProblem(sha256, bytes);
  if (trouble !== null) return trouble;
  await keepAsset(db, team, sha256, bytes);
  return { ...field, picture: { ...picture, asset: sha256 } };
}
