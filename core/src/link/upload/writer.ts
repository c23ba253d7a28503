// How the files of a mission get onto a board: a chip takes a finished program, an interpreter the sources.
import { toUtf8 } from "../../trials/utf8.js";
import type { ByteLine, Upload, UploadWatch } from "./byteLine.js";
import { readIntelHex } from "./intelHex.js";
import { writeByRawRepl } from "./rawRepl.js";
import { writeByStk500 } from "./stk500.js";

/** Bytes of a chip's flash that are not its bootloader's. */
const MOST_FLASH = 32_256;

/**
 * @param files - texts by their names, as a mission is written out for that board
 * @param hash - SHA-256 as 64 hexadecimal digits
 * @returns what writes them through a line; null when there is no program that fits the chip
 */
export function boardWriter(
  kind: "avr" | "micropython",
  files: ReadonlyMap<string, string>,
  hash: (bytes: Uint8Array) => Promise<string>,
): ((line: ByteLine, watch: UploadWatch) => Promise<Upload>) | null {
  if (kind === "micropython") {
    const sources = new Map(
      [...files].filter(([name]) => name.endsWith(".py")).map(([name, text]) => [name, toUtf8(text)]),
    );
    return (line, watch) => writeByRawRepl(line, sources, hash, watch);
  }
  const hex = files.get("mission.hex");
  const image = hex === undefined ? null : readIntelHex(hex, MOST_FLASH);
  return image && ((line, watch) => writeByStk500(line, image, watch));
}
