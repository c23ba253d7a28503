// Small files of the data folder: written whole or not at all, and never a reason not to start.
import { readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { SetupError } from "./say.mjs";

/** @param {string} file @returns {unknown} its JSON; null when it is missing or is none */
export function readJsonFile(file) {
  try {
    return JSON.parse(readFileSync(file, "utf8"));
  } catch {
    return null;
  }
}

/**
 * Writes beside and renames: a process killed in between leaves the old file.
 * @param {string} file
 * @param {string} text
 * @param {number} [mode]
 */
export function writeWhole(file, text, mode = 0o644) {
  const beside = `${file}.new`;
  try {
    rmSync(beside, { force: true, recursive: true });
    writeFileSync(beside, text, { mode });
    renameSync(beside, file);
  } catch (error) {
    throw cannotWrite(file, error);
  }
}

/** @param {string} file @param {unknown} error */
function cannotWrite(file, error) {
  const { code } = /** @type {NodeJS.ErrnoException} */ (error);
  if (code === "ENOSPC" || code === "EDQUOT")
    return new SetupError(`The disk is full: ${file} could not be written. Make room and start again.`);
  if (code === "EISDIR" || code === "ENOTDIR" || code === "ENOTEMPTY")
    return new SetupError(`${file} is in the way: it should be a file. Move it elsewhere and start again; nothing saved is lost.`);
  return new SetupError(`${file} could not be written (${code}). Check that you may write to its folder and start again.`);
}
