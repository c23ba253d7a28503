// A field's picture unpacked by the platform, before its floor is looked at.
import { type Field, unpackPicture } from "@giddy-pebble/core";

/** Into one piece of memory: putting the platform's many pieces together later takes as long again. */
async function inflate(packed: Uint8Array, length: number): Promise<Uint8Array> {
  const { readable, writable } = new DecompressionStream("deflate");
  const writer = writable.getWriter();
  // What is wrong with it is told by reading.
  writer.write(packed as BufferSource).catch(() => {});
  writer.close().catch(() => {});
  const all = new Uint8Array(length);
  const reader = readable.getReader();
  let at = 0;
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return all.subarray(0, at);
    if (at + value.length > length) throw new Error("the picture holds more than its size says");
    all.set(value, at);
    at += value.length;
  }
}

/** @returns the field, once its floor is quick to make */
export async function unpacked(field: Field): Promise<Field> {
  await unpackPicture(field, inflate);
  return field;
}
