// Files as they are named on the command line: several, standard input as "-", and what keeps one from being read or
// written, in words.
import { readFile, stat, writeFile } from "node:fs/promises";

/** How the name of standard input is written. */
const STANDARD_INPUT = "-";

/** Runs a command on each file, in order. @returns the worst exit status of them */
export async function eachFile(files: readonly string[], run: (file: string) => Promise<number>): Promise<number> {
  let worst = 0;
  for (const file of files) worst = Math.max(worst, await run(file));
  return worst;
}

type FileText =
  | { readonly ok: true; readonly text: string }
  | { readonly ok: false; readonly why: string; readonly bytes?: number; readonly missing?: boolean };

export function reasonOf(error: unknown): string {
  const { code } = error as NodeJS.ErrnoException;
  if (code === "ENOENT") return "there is no such file";
  if (code === "ENOTDIR") return "its folder is a file";
  if (code === "EISDIR") return "it is a folder";
  if (code === "ENOSPC") return "the disk is full";
  return code === "EACCES" || code === "EPERM" ? "it may not be opened" : `it failed with ${code ?? "no reason"}`;
}

/** @param most - bytes; larger files are left unread, and their size is told */
export async function readText(file: string, most: number): Promise<FileText> {
  if (file === STANDARD_INPUT) return readInput(most);
  try {
    const { size } = await stat(file);
    if (size > most) return { ok: false, why: "it is too large", bytes: size };
    return { ok: true, text: await readFile(file, "utf8") };
  } catch (error) {
    return { ok: false, why: reasonOf(error), missing: (error as NodeJS.ErrnoException).code === "ENOENT" };
  }
}

async function readInput(most: number): Promise<FileText> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of process.stdin as AsyncIterable<Buffer>) {
    size += part.length;
    if (size > most) return { ok: false, why: "it is too large", bytes: size };
    parts.push(part);
  }
  return { ok: true, text: Buffer.concat(parts).toString("utf8") };
}

/** @throws Error with a sentence that says why, and what would mend it */
export async function writeText(file: string, text: string): Promise<void> {
  try {
    await writeFile(file, text);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const why = code === "ENOENT" ? "its folder does not exist" : reasonOf(error);
    throw new Error(`${file} cannot be written: ${why}. Name a file in a folder that is there and can be written.`);
  }
}

/** The name of a file as messages give it. */
export function nameOf(file: string): string {
  return file === STANDARD_INPUT ? "standard input" : file;
}

export function isStandardInput(file: string): boolean {
  return file === STANDARD_INPUT;
}
