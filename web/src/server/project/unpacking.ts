// Reading a .zip as it arrives, within limits: a file that unpacks to more than is taken is left in the middle.
import { Unzip, UnzipInflate } from "fflate";

const ZIP_LIMITS = {
  /** Bytes of the file itself. */
  packed: 256 * 1024 * 1024,
  /** Bytes of all that is in it. */
  unpacked: 512 * 1024 * 1024,
  /** What is in it against the file itself, beyond the first megabytes: drawings and runs stay far below. */
  growth: 100,
  always: 32 * 1024 * 1024,
  files: 60_000,
  /** Bytes that are unpacked at once: an entry can grow a thousandfold. */
  piece: 64 * 1024,
} as const;

export type Unpacked =
  | { readonly ok: true; readonly files: ReadonlyMap<string, Uint8Array> }
  | { readonly ok: false; readonly problem: string };

/** Names that stay within the folder they are unpacked to. */
function isPlainName(name: string): boolean {
  return name.length <= 200 && /^[A-Za-z0-9._-]+(\/[A-Za-z0-9._-]+)*$/.test(name) && !/(^|\/)\.\.?(\/|$)/.test(name);
}

/** Why reading ends before the end. */
class Stop extends Error {}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return parts[0] as Uint8Array;
  return Buffer.concat(parts);
}

/** What is left of a file that is not taken is let pass, so that its connection can be used again. */
async function leave(reader: ReadableStreamDefaultReader<Uint8Array>, most: number): Promise<void> {
  try {
    for (let left = most; left > 0; ) {
      const part = await reader.read();
      if (part.done) return;
      left -= part.value.length;
    }
    await reader.cancel();
  } catch {
    // Whoever sent it is gone.
  }
}

/** @param stream - bytes of the .zip @param wanted - which files are kept; others are left out */
export async function unpack(stream: ReadableStream<Uint8Array>, wanted: (name: string) => boolean): Promise<Unpacked> {
  const files = new Map<string, Uint8Array>();
  let packed = 0;
  let unpacked = 0;
  let count = 0;
  // The unpacker takes what its listeners throw for damage, so that it is written down, and looked at between pieces.
  let stopped: string | null = null;
  const stop = (why: string) => {
    stopped ??= why;
  };
  const unzip = new Unzip((file) => {
    count += 1;
    if (stopped !== null || file.name.endsWith("/")) return;
    if (count > ZIP_LIMITS.files) return stop(`it holds more than ${ZIP_LIMITS.files} files`);
    if (!isPlainName(file.name)) return stop(`it holds a file with the name ${JSON.stringify(file.name.slice(0, 60))}`);
    if (!wanted(file.name)) return;
    if (files.has(file.name)) return stop(`it holds ${file.name} twice`);
    const parts: Uint8Array[] = [];
    files.set(file.name, new Uint8Array());
    file.ondata = (error, chunk, last) => {
      if (error) return stop(`${file.name} in it is damaged`);
      unpacked += chunk.length;
      if (unpacked > ZIP_LIMITS.unpacked) stop(`it unpacks to more than ${ZIP_LIMITS.unpacked / 1024 / 1024} MB`);
      if (unpacked > ZIP_LIMITS.always && unpacked > ZIP_LIMITS.growth * packed)
        stop(`it unpacks to more than ${ZIP_LIMITS.growth} times its size`);
      if (stopped !== null) return;
      if (chunk.length > 0) parts.push(chunk);
      if (last) files.set(file.name, joined(parts));
    };
    file.start();
  });
  unzip.register(UnzipInflate);
  const reader = stream.getReader();
  try {
    let begun = false;
    for (let part = await reader.read(); !part.done; part = await reader.read()) {
      const bytes = part.value;
      packed += bytes.length;
      if (packed > ZIP_LIMITS.packed) throw new Stop(`it is larger than ${ZIP_LIMITS.packed / 1024 / 1024} MB`);
      if (!begun && bytes.length >= 4 && !(bytes[0] === 0x50 && bytes[1] === 0x4b))
        throw new Stop("it is not a .zip file");
      begun = true;
      for (let at = 0; at < bytes.length; at += ZIP_LIMITS.piece) {
        unzip.push(bytes.subarray(at, at + ZIP_LIMITS.piece));
        if (stopped !== null) throw new Stop(stopped);
        // Others get their turn between two pieces.
        await new Promise((resolve) => setImmediate(resolve));
      }
    }
    if (packed === 0) throw new Stop("it is empty");
    unzip.push(new Uint8Array(), true);
    if (stopped !== null) throw new Stop(stopped);
    return { ok: true, files };
  } catch (error) {
    return { ok: false, problem: error instanceof Stop ? error.message : "it is damaged, or cut off" };
  } finally {
    await leave(reader, ZIP_LIMITS.packed - packed);
  }
}
