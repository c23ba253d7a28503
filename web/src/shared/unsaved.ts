// What was typed but is not on the server yet, in this browser's IndexedDB: survives a reload and a crash.
import { type DBSchema, type IDBPDatabase, openDB } from "idb";

interface Unsaved {
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

/** A store that does not answer for so long is done without, ms: no page waits for it longer. */
const LONGEST_MS = 2000;
/** A file that a person dropped is waited for longer: without the store there is no other way for it. */
const FILE_MS = 15_000;

type Database = IDBPDatabase<UnsavedSchema>;
let opening: Promise<Database> | null = null;
/** It did not answer the last time: it is given no time again until it does. */
let silent = false;

/** Left open by a page that is gone, it would keep the next page from opening it. */
function close(): void {
  const left = opening;
  opening = null;
  void left?.then((db) => db.close()).catch(() => {});
}

function database(): Promise<Database> {
  if (opening === null) {
    const mine = openDB<UnsavedSchema>("giddy-pebble", 2, {
      upgrade: (db, before) => {
        if (before < 1) db.createObjectStore("unsaved", { keyPath: "documentId" });
        if (before < 2) db.createObjectStore("handed");
      },
      // Another window with an older page must not keep this one from opening.
      blocking: (_current, _wanted, event) => (event.target as IDBDatabase).close(),
      terminated: close,
    });
    opening = mine;
    // What could not be opened is tried again the next time.
    mine.catch(() => {
      if (opening === mine) opening = null;
    });
  }
  return opening;
}

if (typeof window !== "undefined") window.addEventListener("pagehide", close);

/** Does something with the store. @returns null when this browser's store fails, or does not answer in time */
async function attempt<T>(
  work: (db: Database) => Promise<T>,
  longestMs = silent ? 0 : LONGEST_MS,
): Promise<{ readonly value: T } | null> {
  const worked = database()
    .then(work)
    .then((value) => {
      silent = false;
      return { value };
    })
    .catch(() => null);
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<null>((resolve) => {
    timer = setTimeout(() => {
      silent = true;
      resolve(null);
    }, longestMs);
  });
  const first = await Promise.race([worked, late]);
  clearTimeout(timer);
  return first;
}

/** Keeps what was typed. @returns whether this browser could */
export async function keepUnsaved(unsaved: Unsaved): Promise<boolean> {
  return (await attempt((db) => db.put("unsaved", unsaved))) !== null;
}

export async function findUnsaved(documentId: string): Promise<Unsaved | null> {
  return (await attempt((db) => db.get("unsaved", documentId)))?.value ?? null;
}

/** Acts in one transaction. One that fails ends the transaction as well: that is one failure, and it is told once. */
async function inOne<T>(done: Promise<void>, acts: () => Promise<T>): Promise<T> {
  const [value] = await Promise.all([acts(), done]);
  return value;
}

/** Forgets what was kept, unless something newer was typed since. */
export async function forgetUnsaved(documentId: string, text: string): Promise<void> {
  await attempt(async (db) => {
    const { store, done } = db.transaction("unsaved", "readwrite");
    await inOne(done, async () => {
      const kept = await store.get(documentId);
      if (kept && kept.text === text) await store.delete(documentId);
    });
  });
}

const HANDED = "file";

/** Keeps a file for the page that opens next. @returns whether this browser could */
export async function handFile(file: File): Promise<boolean> {
  return (await attempt((db) => db.put("handed", file, HANDED), FILE_MS)) !== null;
}

/** Takes the file that the page before handed over; null when there is none. */
export async function takeHandedFile(): Promise<File | null> {
  const taken = await attempt((db) => {
    const { store, done } = db.transaction("handed", "readwrite");
    return inOne(done, async () => {
      const file = (await store.get(HANDED)) ?? null;
      await store.delete(HANDED);
      return file;
    });
  }, FILE_MS);
  return taken?.value ?? null;
}
