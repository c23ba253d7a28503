// What was typed but is not on the server yet, in this browser's IndexedDB: survives a reload and a crash.
import { type DBSchema, type IDBPDatabase, openDB } from "idb";

export interface Unsaved {
  readonly documentId: string;
  readonly text: string;
  readonly baseRevision: number;
  /** Version of the server's draft it was typed over. */
  readonly overVersion: number;
  readonly typedAt: number;
}

interface UnsavedSchema extends DBSchema {
  unsaved: { key: string; value: Unsaved };
  /** A file on its way to the page that opens it. */
  handed: { key: string; value: File };
}

let opening: Promise<IDBPDatabase<UnsavedSchema>> | null = null;

function database(): Promise<IDBPDatabase<UnsavedSchema>> {
  opening ??= openDB<UnsavedSchema>("giddy-pebble", 2, {
    upgrade: (db, before) => {
      if (before < 1) db.createObjectStore("unsaved", { keyPath: "documentId" });
      if (before < 2) db.createObjectStore("handed");
    },
    // Another window with an older page must not keep this one from opening.
    blocking: (_current, _wanted, event) => (event.target as IDBDatabase).close(),
  });
  return opening;
}

export async function keepUnsaved(unsaved: Unsaved): Promise<void> {
  await (await database()).put("unsaved", unsaved);
}

export async function findUnsaved(documentId: string): Promise<Unsaved | null> {
  return (await (await database()).get("unsaved", documentId)) ?? null;
}

/** Forgets what was kept, unless something newer was typed since. */
export async function forgetUnsaved(documentId: string, text: string): Promise<void> {
  const transaction = (await database()).transaction("unsaved", "readwrite");
  const kept = await transaction.store.get(documentId);
  if (kept && kept.text === text) await transaction.store.delete(documentId);
  await transaction.done;
}

const HANDED = "file";

/** Keeps a file for the page that opens next. */
export async function handFile(file: File): Promise<void> {
  await (await database()).put("handed", file, HANDED);
}

/** Takes the file that the page before handed over; null when there is none. */
export async function takeHandedFile(): Promise<File | null> {
  const transaction = (await database()).transaction("handed", "readwrite");
  const file = (await transaction.store.get(HANDED)) ?? null;
  await transaction.store.delete(HANDED);
  await transaction.done;
  return file;
}
