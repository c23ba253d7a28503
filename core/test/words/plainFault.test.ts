// Words about values from outside, over every kind of fault a schema can find.
import { describe, expect, test } from "vitest";
import { z } from "zod";
import { PLAIN } from "../../src/words/plainFault.js";

function words(schema: z.ZodType, value: unknown): string[] {
  const read = schema.safeParse(value, PLAIN);
  return (read.error?.issues ?? []).map(({ path, message }) => [...path, message].join(" "));
}

describe("words about a fault", () => {
  test.each<[string, z.ZodType, unknown, string]>([
    ["missing", z.object({ name: z.string() }), {}, "name is missing"],
    ["another kind", z.string(), 5, "must be a text, not a number"],
    ["null", z.array(z.number()), null, "must be a list, not null"],
    ["a list for an object", z.object({}), [], "must be an object, not a list"],
    ["true for a number", z.number(), true, "must be a number, not true or false"],
    ["half of a whole number", z.int(), 0.5, "must be a whole number, not 0.5"],
    ["endless", z.number(), Number.POSITIVE_INFINITY, "must be a number that is not endless"],
    ["too small", z.number().min(3), 2, "must be at least 3"],
    ["not more than the bound", z.number().gt(0), 0, "must be more than 0"],
    ["too large", z.number().max(3), 4, "must be at most 3"],
    ["not less than the bound", z.number().lt(3), 3, "must be less than 3"],
    ["no multiple", z.number().multipleOf(5), 7, "must be a multiple of 5"],
    ["an empty text", z.string().min(1), "", "must not be empty"],
    ["a short text", z.string().min(2), "a", "must have at least 2 characters"],
    ["a long text", z.string().max(1), "ab", "must have at most 1 character"],
    ["a short list", z.array(z.number()).min(2), [1], "must have at least 2 entries"],
    ["a long list", z.array(z.number()).max(1), [1, 2], "must have at most 1 entry"],
    ["a list of another length", z.array(z.number()).length(2), [1], "must have 2 entries"],
    ["no UUID", z.uuid(), "x", "must be a UUID"],
    ["another form", z.string().regex(/^a/), "b", "is not written as it should be"],
    ["another word", z.literal("a"), "b", 'must be "a", not "b"'],
    ["none of the words", z.enum(["a", "b"]), "c", 'must be one of "a", "b", not "c"'],
    ["no word", z.object({ is: z.enum(["a", "b"]) }), {}, 'is is missing; it is one of "a", "b"'],
    ["an unknown name", z.strictObject({}), { x: 1 }, 'holds what is not known here: "x"'],
    ["no possibility", z.union([z.number(), z.enum(["a", "b"])]), "c", 'must be a number or one of "a", "b", not "c"'],
    [
      "a possibility that fails within",
      z.union([z.number(), z.object({ a: z.number() })]),
      { a: "x" },
      "is none of what is possible here",
    ],
    [
      "an unknown kind",
      z.discriminatedUnion("kind", [z.object({ kind: z.literal("a") }), z.object({ kind: z.literal("b") })]),
      { kind: "c" },
      'kind must be one of "a", "b", not "c"',
    ],
    ["a name in a record", z.record(z.string().min(2), z.number()), { a: 1 }, "a is a name that is not possible here"],
    ["a rule of one's own without words", z.number().refine((value) => value > 3), 1, "is not as it should be"],
  ])("%s", (_, schema, value, said) => {
    expect(words(schema, value)).toEqual([said]);
  });

  test("a schema's own words come first", () => {
    expect(words(z.string().min(3, { error: "needs three letters" }), "a")).toEqual(["needs three letters"]);
  });

  test("a long list of possibilities is cut, and a long value is not repeated", () => {
    const many = Array.from({ length: 40 }, (_, i) => `word${i}`);
    const [said] = words(z.enum(many as [string]), "x".repeat(1000));
    expect(said).toMatch(/^must be one of "word0", .*"word15" …$/);
  });
});
