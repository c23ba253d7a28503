// Values and questions of a program as data: short postfix lists. Each item takes what it needs from what lies before it
// and leaves one value. Numbers are SI; truths are 1 and 0; colours are indices.
import * as z from "zod";

const index = z.number().int().nonnegative();

/** How a value is told in words: by what it is, or as a number of so many of a unit. */
export const wordingSchema = z.union([
  z.enum(["truth", "colour", "plain"]),
  z.strictObject({ unit: z.string(), scale: z.number() }),
]);
export type Wording = z.infer<typeof wordingSchema>;

/** Items that need only what lies before them, with how much they take. */
const PLAIN_ITEMS = {
  negate: 1,
  "+": 2,
  "-": 2,
  "*": 2,
  "/": 2,
  "<": 2,
  ">": 2,
  "<=": 2,
  ">=": 2,
  same: 2,
  within: 3,
  not: 1,
  join: 2,
  random: 2,
  given: 0,
  score: 0,
  touching: 0,
  "wall ends": 0,
} as const;
type PlainItem = keyof typeof PLAIN_ITEMS;

/** Functions of numbers, with how many they take at least and at most. */
export const FUNCTIONS = {
  abs: [1, 1],
  min: [1, 20],
  max: [1, 20],
  clamp: [3, 3],
  sign: [1, 1],
  sqrt: [1, 1],
  sin: [1, 1],
  cos: [1, 1],
  tan: [1, 1],
  atan2: [2, 2],
  wrap: [1, 1],
  mod: [2, 2],
  floor: [1, 2],
  ceil: [1, 2],
  round: [1, 2],
} as const;
export type FunctionName = keyof typeof FUNCTIONS;

const plainNames = Object.keys(PLAIN_ITEMS) as [PlainItem, ...PlainItem[]];
const functionNames = Object.keys(FUNCTIONS) as [FunctionName, ...FunctionName[]];

const itemSchema = z.union([
  /** A number. */
  z.number(),
  z.enum(plainNames),
  z.tuple([z.literal("text"), z.string()]),
  /** A reading of this tick, a reading of `last`, a value of the mission, a value of a routine that runs. */
  z.tuple([z.literal("reading"), index]),
  z.tuple([z.literal("last"), index]),
  z.tuple([z.literal("global"), index]),
  z.tuple([z.literal("local"), index, index]),
  /** Whether a reading that counts grew: since the counter was set, or since it was last asked. */
  z.tuple([z.literal("grew"), index, index]),
  z.tuple([z.literal("grew anew"), index, index]),
  /** A signal was sent and is not heard yet. */
  z.tuple([z.literal("signal"), index]),
  z.tuple([z.literal("inside"), z.string()]),
  z.tuple([z.literal("untouched"), z.array(z.string())]),
  /** A whole power. */
  z.tuple([z.literal("^"), z.number().int()]),
  z.tuple([z.literal("and"), z.number().int().min(2)]),
  z.tuple([z.literal("or"), z.number().int().min(2)]),
  /** Takes a question and a duration: true once the question was for so long; its counter holds the tick it began. */
  z.tuple([z.literal("held"), index]),
  z.tuple([z.literal("call"), z.enum(functionNames), z.number().int().min(1).max(20)]),
  /** A routine that takes no time: where it begins, which it is, how many values it has, how many are given. */
  z.tuple([z.literal("routine"), index, index, index, index]),
  z.tuple([z.literal("item"), index]),
  z.tuple([z.literal("has"), index]),
  z.tuple([z.literal("of list"), index, z.enum(["count", "last", "sum", "mean", "min", "max"])]),
  z.tuple([z.literal("words"), wordingSchema]),
  /** A number beyond this ends the mission: most, the most in words, the value as written. */
  z.tuple([z.literal("bound"), z.number(), z.string(), z.string()]),
  /** The same for what is kept or told, text or number. */
  z.tuple([z.literal("bound value"), z.string()]),
]);
export type Item = z.infer<typeof itemSchema>;
export const codeSchema = z.array(itemSchema).min(1);
export type Code = readonly Item[];

/** How many values an item takes. */
export function takes(item: Item): number {
  if (typeof item === "number") return 0;
  if (typeof item === "string") return PLAIN_ITEMS[item];
  switch (item[0]) {
    case "^":
    case "item":
    case "has":
    case "words":
    case "bound":
    case "bound value":
      return 1;
    case "held":
      return 2;
    case "and":
    case "or":
      return item[1];
    case "call":
      return item[2];
    case "routine":
      return item[4];
    default:
      return 0;
  }
}

/** What is wrong with a list, in words; null when it leaves exactly one value and never runs dry. */
export function codeFault(code: Code): string | null {
  let height = 0;
  for (let i = 0; i < code.length; i += 1) {
    const item = code[i] as Item;
    const taken = takes(item);
    if (taken > height)
      return `item ${i + 1} takes ${taken} values, and there ${height === 1 ? "is" : "are"} ${height}`;
    height += 1 - taken;
  }
  return height === 1 ? null : `it leaves ${height} values, and should leave one`;
}
