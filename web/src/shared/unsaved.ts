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
}

let opening: Promise<IDBPDatabase<UnsavedSchema>> | null = null;

function database(): Promise<IDBPDatabase<UnsavedSchema>> {
  opening ??= openDB<UnsavedSchema>("giddy-pebble", 1, {
    upgrade: (db) => {
      db.createObjectStore("unsaved", { keyPath: "documentId" });
    },
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
