// Photographs: turned upright, made no larger than a page needs, and without what a camera writes into them.
import sharp from "sharp";
import { LARGEST_ASSET, sha256Of } from "./assetService.js";
import { pool } from "./database.js";
import { keepAsset } from "./repositories/assets.js";

/** Longest side of a kept photograph. */
const LONGEST_PX = 1600;
/** Most pixels that are unpacked: a small file can hold very many. */
const MOST_PIXELS = 100_000_000;

type Photo =
  | { readonly ok: true; readonly asset: string; readonly width: number; readonly height: number }
  | { readonly ok: false; readonly problem: string };

/** Keeps a photograph. Place, time and camera that were written into it are gone. */
export async function takePhoto(team: string, bytes: Buffer): Promise<Photo> {
  try {
    const { data, info } = await sharp(bytes, { limitInputPixels: MOST_PIXELS, failOn: "error" })
      .autoOrient()
      .resize({ width: LONGEST_PX, height: LONGEST_PX, fit: "inside", withoutEnlargement: true })
      .flatten({ background: "#ffffff" })
      .jpeg({ quality: 82 })
      .toBuffer({ resolveWithObject: true });
    if (data.length > LARGEST_ASSET)
      return { ok: false, problem: "This picture is still larger than 4 MB when it is made smaller." };
    const asset = sha256Of(data);
    await keepAsset(pool(), team, asset, data, "image/jpeg");
    return { ok: true, asset, width: info.width, height: info.height };
  } catch (error) {
    const large = error instanceof Error && /pixel limit/i.test(error.message);
    if (!(error instanceof Error) || (error as { code?: unknown }).code !== undefined) throw error;
    return {
      ok: false,
      problem: large
        ? "This picture has more than 100 million pixels. Make it smaller first."
        : "This could not be read as a picture. Save it again as JPEG or PNG.",
    };
  }
}
