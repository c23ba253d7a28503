// Reading any versioned JSON document of ours: format name, version, upgrade steps, schema, plain sentences.
import type { z } from "zod";
import { nearestWord } from "../words/language.js";
import { PLAIN } from "../words/plainFault.js";

export type DocumentReading<T> =
  /** `unknown`: sentences about keys that nobody knows, and that were left out. */
  { ok: true; document: T; unknown?: readonly string[] } | { ok: false; problems: string[] };

export interface DocumentKind<T> {
  readonly format: string;
  readonly newest: number;
  /** From version n to n + 1. */
  readonly upgrades: Readonly<Record<number, (old: Record<string, unknown>) => Record<string, unknown>>>;
  readonly schema: z.ZodType<T>;
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** Where in a document, as a person would say it: `wheels[0].diameterM`. */
function pathWords(path: readonly PropertyKey[]): string {
  return path
    .map((step) => (typeof step === "number" ? `[${step}]` : `.${String(step)}`))
    .join("")
    .replace(/^\./, "");
}

/** Keys of a value that are not in what was read of it, each as a sentence with the key it is near to. */
function unknownKeys(given: unknown, read: unknown, path: string): string[] {
  if (Array.isArray(given) && Array.isArray(read))
    return given.flatMap((item, i) => unknownKeys(item, read[i], `${path}[${i}]`));
  if (!isRecord(given) || !isRecord(read)) return [];
  const known = Object.keys(read);
  return Object.keys(given).flatMap((key) => {
    const at = path === "" ? key : `${path}.${key}`;
    if (key in read) return unknownKeys(given[key], read[key], at);
    const near = nearestWord(key, known);
    return [`"${at}" is not known and was left out.${near ? ` Did you mean "${near}"?` : ""}`];
  });
}

/** @returns the document, upgraded to the newest version, or sentences that say what is wrong and where */
export function parseVersioned<T>(value: unknown, kind: DocumentKind<T>): DocumentReading<T> {
  if (!isRecord(value)) return { ok: false, problems: ["the file does not hold a JSON object"] };
  if (value.format !== kind.format) {
    return {
      ok: false,
      problems: [`this is not a ${kind.format} document: its "format" is ${JSON.stringify(value.format) ?? "missing"}`],
    };
  }
  let current = value;
  for (let version = current.version; typeof version === "number" && version < kind.newest; version = current.version) {
    const upgrade = kind.upgrades[version];
    if (!upgrade) break;
    current = upgrade(current);
  }
  if (typeof current.version === "number" && current.version > kind.newest) {
    return {
      ok: false,
      problems: [
        `it has version ${current.version}; this program knows versions up to ${kind.newest}. Use a newer Giddy Pebble`,
      ],
    };
  }
  const parsed = kind.schema.safeParse(current, PLAIN);
  if (parsed.success) {
    const unknown = unknownKeys(current, parsed.data, "").slice(0, 12);
    return unknown.length > 0 ? { ok: true, document: parsed.data, unknown } : { ok: true, document: parsed.data };
  }
  const problems = parsed.error.issues
    .slice(0, 12)
    .map((issue) => `${pathWords(issue.path) || "document"} ${issue.message}`);
  return { ok: false, problems };
}
