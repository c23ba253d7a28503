// What is wrong with a value that came from outside, in plain words that follow its place: "drive.kind must be …".
import type { z } from "zod";

/** More than these are not listed. */
const MOST_VALUES = 16;
const LONGEST_QUOTE = 40;

const KINDS: Readonly<Record<string, string>> = {
  string: "a text",
  number: "a number",
  int: "a whole number",
  boolean: "true or false",
  array: "a list",
  tuple: "a list",
  object: "an object",
  record: "an object",
  null: "null",
  date: "a date",
};

const FORMS: Readonly<Record<string, string>> = {
  uuid: "must be a UUID",
  url: "must be an address of the web",
  datetime: 'must be a time as "2026-11-12T16:20:00Z"',
  date: 'must be a date as "2026-11-12"',
  base64: "must be bytes as base64",
};

/** Options for Zod's `safeParse` of what a person may have written: its messages are ours then. */
export const PLAIN = { error: plainFault };

/** @param issue - what Zod found @returns words without a full stop */
export function plainFault(issue: z.core.$ZodRawIssue): string {
  switch (issue.code) {
    case "invalid_type":
      if (issue.input === undefined) return "is missing";
      return `must be ${KINDS[issue.expected] ?? "something else"}${instead(issue.input, issue.expected)}`;
    case "too_small":
      if (!counts(issue.origin))
        return `must be ${issue.inclusive === false ? "more than" : "at least"} ${issue.minimum}`;
      if (issue.exact) return `must have ${counted(issue.minimum, issue.origin)}`;
      return issue.minimum === 1 ? "must not be empty" : `must have at least ${counted(issue.minimum, issue.origin)}`;
    case "too_big":
      if (!counts(issue.origin))
        return `must be ${issue.inclusive === false ? "less than" : "at most"} ${issue.maximum}`;
      return `must have ${issue.exact ? "" : "at most "}${counted(issue.maximum, issue.origin)}`;
    case "not_multiple_of":
      return `must be a multiple of ${issue.divisor}`;
    case "invalid_format":
      return FORMS[issue.format] ?? "is not written as it should be";
    case "unrecognized_keys":
      return `holds what is not known here: ${listed(issue.keys)}`;
    case "invalid_value":
      if (issue.input === undefined) return `is missing; it is ${oneOf(issue.values)}`;
      return `must be ${oneOf(issue.values)}${quoted(issue.input)}`;
    case "invalid_union":
      return issue.discriminator === undefined
        ? noBranch(issue)
        : `must be ${oneOf((issue as { options?: unknown[] }).options ?? [])}${quoted(fieldOf(issue.input, issue.discriminator))}`;
    case "invalid_key":
      return "is a name that is not possible here";
    default:
      return "is not as it should be";
  }
}

/** What it could be, if each possibility fails at the value itself and not within it. */
function noBranch({ input, errors }: z.core.$ZodRawIssue<z.core.$ZodIssueInvalidUnion>): string {
  if (input === undefined) return "is missing";
  const could = (errors ?? []).map(([first]) => (first && first.path.length === 0 ? wanted(first) : null));
  if (could.length === 0 || could.includes(null)) return "is none of what is possible here";
  return `must be ${[...new Set(could)].join(" or ")}${quoted(input)}`;
}

function wanted(issue: z.core.$ZodIssue): string | null {
  if (issue.code === "invalid_value") return oneOf(issue.values);
  return issue.code === "invalid_type" ? (KINDS[issue.expected] ?? null) : null;
}

/** Whether a bound is one of how many there are. */
function counts(origin: string): boolean {
  return !["number", "int", "bigint", "date"].includes(origin);
}

function counted(count: number | bigint, origin: string): string {
  const [one, many] = origin === "string" ? ["character", "characters"] : ["entry", "entries"];
  return `${count} ${Number(count) === 1 ? one : many}`;
}

/** What stands there, unless it is of the kind that was expected. */
function instead(input: unknown, expected: string): string {
  if (typeof input === "number" && !Number.isFinite(input)) return " that is not endless";
  const kind = input === null ? "null" : Array.isArray(input) ? "array" : typeof input;
  return kind === expected || (kind === "number" && expected === "int")
    ? quoted(input)
    : `, not ${KINDS[kind] ?? "this"}`;
}

/** A short value that stands there. */
function quoted(input: unknown): string {
  if (typeof input === "object" || input === undefined) return "";
  const text = JSON.stringify(input);
  return text.length > LONGEST_QUOTE ? "" : `, not ${text}`;
}

function oneOf(values: readonly unknown[]): string {
  return values.length === 1 ? JSON.stringify(values[0]) : `one of ${listed(values)}`;
}

function listed(values: readonly unknown[]): string {
  const shown = values.slice(0, MOST_VALUES).map((value) => JSON.stringify(value) ?? String(value));
  return `${shown.join(", ")}${values.length > MOST_VALUES ? " …" : ""}`;
}

function fieldOf(input: unknown, name: string): unknown {
  return typeof input === "object" && input !== null ? (input as Record<string, unknown>)[name] : undefined;
}
