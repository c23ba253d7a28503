// Reading any versioned JSON document of ours: format name, version, upgrade steps, schema, plain sentences.
import type { z } from "zod";

export type DocumentReading<T> = { ok: true; document: T } | { ok: false; problems: string[] };

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
  const parsed = kind.schema.safeParse(current);
  if (parsed.success) return { ok: true, document: parsed.data };
  const problems = parsed.error.issues
    .slice(0, 12)
    .map((issue) => `${pathWords(issue.path) || "document"} ${issue.message}`);
  return { ok: false, problems };
}
