// Opens any field document as far as it can be used: what does not fit is left out and named, the rest stays.
import { type DocumentReading, parseVersioned } from "../documents/read.js";
import { PLAIN } from "../words/plainFault.js";
import { FIELD_UPGRADES } from "./read.js";
import { FIELD_LIMITS, type Field, fieldSchema } from "./schema.js";
import { THING_LISTS, THING_WORDS } from "./things.js";

type FieldOpening =
  | { readonly ok: true; readonly document: Field; readonly leftOut: readonly string[] }
  | { readonly ok: false; readonly problems: readonly string[] };

const KIND = { format: "giddy-pebble/field", newest: 2, upgrades: FIELD_UPGRADES, schema: fieldSchema } as const;

/** @param value - parsed JSON of unknown shape */
export function openField(value: unknown): FieldOpening {
  const leftOut: string[] = [];
  const read: DocumentReading<Field> = parseVersioned(trimmed(value, leftOut), KIND);
  if (!read.ok) return read;
  return { ok: true, document: read.document, leftOut: [...leftOut, ...(read.unknown ?? [])] };
}

function trimmed(value: unknown, leftOut: string[]): unknown {
  if (typeof value !== "object" || value === null || Array.isArray(value)) return value;
  const body: Record<string, unknown> = { ...value };
  for (const list of THING_LISTS) {
    const given = body[list];
    if (!Array.isArray(given)) continue;
    const [one, many] = THING_WORDS[list];
    const schema = fieldSchema.shape[list].unwrap().element;
    const kept: unknown[] = [];
    given.forEach((thing, i) => {
      if (kept.length >= FIELD_LIMITS[list]) return;
      const read = schema.safeParse(thing, PLAIN);
      if (read.success) kept.push(thing);
      else {
        const issue = read.error.issues[0];
        const where = issue?.path.map(String).join(".") ?? "";
        leftOut.push(
          `${one} ${i + 1} was left out: ${where} ${issue?.message ?? "cannot be read"}.`.replace(": ", ": "),
        );
      }
    });
    if (given.length > FIELD_LIMITS[list])
      leftOut.push(
        `There are ${given.length} ${many.toLowerCase()}. ${FIELD_LIMITS[list]} is the most; the first ${FIELD_LIMITS[list]} were taken.`,
      );
    body[list] = kept;
  }
  return body;
}
