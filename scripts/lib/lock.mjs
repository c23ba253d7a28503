// One start in one data folder: the first to make the lock file has it until it ends. A lock left by a process that
// is gone, or that says nothing readable, keeps nobody out.
import { linkSync, rmSync, writeFileSync } from "node:fs";
import { readJsonFile } from "./files.mjs";
import { isMarked, mark } from "./process.mjs";
import { SetupError } from "./say.mjs";

/**
 * @param {string} file
 * @returns {{ ok: true, release: () => void } | { ok: false, pid: number }} the lock, or who has it
 */
export function takeLock(file) {
  const own = `${file}.${process.pid}`;
  for (let attempt = 0; attempt < 5; attempt += 1) {
    try {
      // Written first and linked then, so that nobody ever reads half of it.
      writeFileSync(own, JSON.stringify(mark(process.pid)));
      linkSync(own, file);
      rmSync(own, { force: true });
      return { ok: true, release: () => rmSync(file, { force: true }) };
    } catch (error) {
      rmSync(own, { force: true });
      const { code } = /** @type {NodeJS.ErrnoException} */ (error);
      if (code === "ENOSPC") throw new SetupError(`The disk is full: ${file} could not be made. Make room and start again.`);
      if (code !== "EEXIST")
        throw new SetupError(`The file ${file} could not be made (${code}). Check that its folder can be written and start again.`);
      const holder = /** @type {{ pid?: number } | null} */ (readJsonFile(file));
      if (isMarked(holder)) return { ok: false, pid: Number(holder?.pid) };
      rmSync(file, { force: true, recursive: true });
    }
  }
  throw new SetupError(`The file ${file} could not be made. Remove it and start again; nothing saved is lost.`);
}
