// A robot's shelf: a dozen named missions, each a package kept in a file of its own, so that they outlive a restart.
import { createHash } from "node:crypto";
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import {
  type ProgramPackage,
  packageSchema,
  type Remembered,
  type RememberedValue,
  rememberedSchema,
  SHELF_ROOM,
  type ShelfEntry,
  toRemember,
} from "@giddy-pebble/core";
import * as z from "zod";

interface Shelved {
  readonly entry: ShelfEntry;
  readonly program: ProgramPackage;
}

const sentSchema = z.object({ name: z.string(), label: z.string(), origin: z.string(), savedAt: z.string() });
/** What was said of a package when it was sent. */
export type Sent = z.infer<typeof sentSchema>;
const keptSchema = z.object({ from: sentSchema, payload: z.string() });

function entryOf(from: Sent, payload: string): ShelfEntry {
  return { ...from, sha256: sha256(payload), bytes: Buffer.byteLength(payload) };
}

export function sha256(text: string): string {
  return createHash("sha256").update(text, "utf8").digest("hex");
}

/** Names go into file names by their digest: nothing a person types becomes a path. */
function fileOf(name: string): string {
  return `${sha256(name).slice(0, 24)}.json`;
}

/** No mission's file ends like this. */
const MEMORY = "remembered.memory";
const memorySchema = z.array(z.tuple([z.string(), rememberedSchema]));

export class Shelf {
  private readonly missions = new Map<string, Shelved>();
  private readonly memory: Map<string, Remembered>;

  /** @param folder - made when missing; files that cannot be read are left alone and not listed */
  constructor(private readonly folder: string) {
    mkdirSync(folder, { recursive: true });
    this.memory = readMemory(path.join(folder, MEMORY));
    for (const file of readdirSync(folder).sort()) {
      if (!file.endsWith(".json")) continue;
      const read = readShelved(path.join(folder, file));
      if (read) this.missions.set(read.entry.name, read);
    }
  }

  get entries(): ShelfEntry[] {
    return [...this.missions.values()].map(({ entry }) => entry).sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  get(name: string): Shelved | null {
    return this.missions.get(name) ?? null;
  }

  hasRoomFor(name: string): boolean {
    return this.missions.has(name) || this.missions.size < SHELF_ROOM;
  }

  /** Written beside and then renamed: a process killed in between leaves the old one whole. */
  put(from: Sent, payload: string, program: ProgramPackage): void {
    const file = path.join(this.folder, fileOf(from.name));
    writeFileSync(`${file}.new`, JSON.stringify({ from, payload }));
    renameSync(`${file}.new`, file);
    this.missions.set(from.name, { entry: entryOf(from, payload), program });
  }

  /** What the robot keeps of a mission from one run to the next. */
  remembered(name: string): Remembered {
    return this.memory.get(name) ?? {};
  }

  keep(name: string, values: readonly RememberedValue[]): void {
    if (values.length === 0) return;
    this.memory.set(name, toRemember(values));
    const file = path.join(this.folder, MEMORY);
    writeFileSync(`${file}.new`, JSON.stringify([...this.memory]));
    renameSync(`${file}.new`, file);
  }

  remove(name: string): boolean {
    rmSync(path.join(this.folder, fileOf(name)), { force: true });
    return this.missions.delete(name);
  }
}

/** Remembered values; without a file that can be read the robot remembers nothing. */
function readMemory(file: string): Map<string, Remembered> {
  try {
    return new Map(memorySchema.parse(JSON.parse(readFileSync(file, "utf8"))));
  } catch {
    return new Map();
  }
}

function readShelved(file: string): Shelved | null {
  try {
    const { from, payload } = keptSchema.parse(JSON.parse(readFileSync(file, "utf8")));
    return { entry: entryOf(from, payload), program: packageSchema.parse(JSON.parse(payload)) };
  } catch {
    return null;
  }
}
