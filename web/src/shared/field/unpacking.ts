// A field's picture unpacked by the platform, before its floor is looked at.
import { type Field, unpackPicture } from "@giddy-pebble/core";

/** Letters of base64. */
const SMALL = 500_000;

async function inflate(packed: Uint8Array): Promise<Uint8Array> {
  const stream = new Blob([packed as BlobPart]).stream().pipeThrough(new DecompressionStream("deflate"));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

/** @returns the field, once its floor is quick to make */
export async function unpacked(field: Field): Promise<Field> {
  // What packs small is unpacked sooner at once than in the many pieces the platform gives.
  if ((field.picture?.png?.length ?? 0) > SMALL) await unpackPicture(field, inflate);
  return field;
}
