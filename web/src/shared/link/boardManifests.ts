// What is known of the programs that this browser has put on boards: by the number that a board tells of its program.
import { type BoardManifest, boardManifestSchema } from "@giddy-pebble/core";

const KEY = "giddy-pebble boards";
const MOST_KEPT = 20;

function all(): BoardManifest[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    const read = boardManifestSchema.array().safeParse(kept);
    return read.success ? read.data : [];
  } catch {
    return [];
  }
}

export function manifestOf(version: number): BoardManifest | null {
  return all().find((one) => one.version === version) ?? null;
}

export function keepManifest(manifest: BoardManifest): void {
  const others = all().filter(({ version }) => version !== manifest.version);
  localStorage.setItem(KEY, JSON.stringify([manifest, ...others].slice(0, MOST_KEPT)));
}
