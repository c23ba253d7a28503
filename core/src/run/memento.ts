// A run put back to an earlier moment: everything that changes while it runs lies in fields of objects, so a moment is the
// values of those fields. Nothing is copied that never changes: documents, programs, the floor.
//
// Objects stay the same ones; only their fields are written back. What was made after the moment is let go.

/** Fields of these names hold what never changes in a run: specifications, documents, programs. */
const UNCHANGING = new Set([
  "spec",
  "robot",
  "known",
  "draw",
  "field",
  "model",
  "constants",
  "thermal",
  "program",
  "linked",
  "endings",
  "layout",
  "keeper",
]);

/** Something that changes: how many values it gave depends on what it is. */
interface Kept {
  readonly object: object;
  /** Names of the fields of an object; null for lists, maps and sets. */
  readonly keys: readonly string[] | null;
}

type Numbers = Float64Array | Float32Array | Int32Array | Uint8Array;

function isNumbers(value: object): value is Numbers {
  return ArrayBuffer.isView(value) && !(value instanceof DataView);
}

/** Objects that nothing reaches any more stay known until there are this many times as many as were found first. */
const MOST_STALE = 3;

/** Finds all that changes in a run, and writes its moments down. */
export class Keeper {
  private kept: Kept[] = [];
  private known = new Set<object>();
  private foundFirst = 0;

  /**
   * @param roots - where to begin
   * @param unchanging - what is not looked into
   */
  constructor(
    private readonly roots: readonly object[],
    private readonly unchanging: readonly object[],
  ) {
    this.forget();
  }

  private forget(): void {
    this.kept = [];
    this.known = new Set(this.unchanging);
    this.foundFirst = 0;
    for (const root of this.roots) this.meet(root);
  }

  private meet(value: unknown): void {
    if (typeof value !== "object" || value === null || this.known.has(value)) return;
    this.known.add(value);
    const list = Array.isArray(value) || isNumbers(value) || value instanceof Map || value instanceof Set;
    this.kept.push({ object: value, keys: list ? null : Object.keys(value) });
  }

  moment(): Memento {
    if (this.foundFirst > 0 && this.kept.length > MOST_STALE * this.foundFirst) this.forget();
    const values: unknown[] = [];
    // More are met on the way.
    for (let i = 0; i < this.kept.length; i += 1) this.write(this.kept[i] as Kept, values);
    if (this.foundFirst === 0) this.foundFirst = this.kept.length;
    return new Memento(this.kept.slice(), values);
  }

  private write({ object, keys }: Kept, values: unknown[]): void {
    if (keys) {
      const fields = object as Record<string, unknown>;
      for (let k = 0; k < keys.length; k += 1) {
        const key = keys[k] as string;
        const value = fields[key];
        values.push(value);
        if (typeof value === "object" && value !== null && !UNCHANGING.has(key)) this.meet(value);
      }
      return;
    }
    if (isNumbers(object)) {
      values.push(object.slice());
      return;
    }
    const items = Array.isArray(object) ? object.slice() : [...(object as Map<unknown, unknown> | Set<unknown>)];
    values.push(items);
    for (const item of items) {
      if (object instanceof Map) for (const one of item as unknown[]) this.meet(one);
      else this.meet(item);
    }
  }
}

/** A moment of everything that changes. */
class Memento {
  constructor(
    private readonly kept: readonly Kept[],
    private readonly values: readonly unknown[],
  ) {}

  restore(): void {
    let at = 0;
    for (const { object, keys } of this.kept) {
      if (keys === null) {
        putBack(object, this.values[at]);
        at += 1;
        continue;
      }
      // What is frozen has not changed.
      if (Object.isFrozen(object)) at += keys.length;
      else {
        const fields = object as Record<string, unknown>;
        for (let k = 0; k < keys.length; k += 1) fields[keys[k] as string] = this.values[at + k];
        at += keys.length;
      }
    }
  }
}

function putBack(object: object, kept: unknown): void {
  if (isNumbers(object)) object.set(kept as Numbers);
  else if (Array.isArray(object)) {
    if (Object.isFrozen(object)) return;
    const items = kept as readonly unknown[];
    object.length = items.length;
    for (let i = 0; i < items.length; i += 1) object[i] = items[i];
  } else if (object instanceof Map) {
    object.clear();
    for (const [key, value] of kept as [unknown, unknown][]) object.set(key, value);
  } else if (object instanceof Set) {
    object.clear();
    for (const value of kept as unknown[]) object.add(value);
  }
}
