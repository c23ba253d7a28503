// Chance from a seed, for hostile inputs that can be had again: mulberry32 (public domain, T. Ettinger, 2017).

/** @param {number} seed */
export function chanceOf(seed) {
  let state = seed >>> 0;
  const uniform = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return {
    uniform,
    /** @param {number} n */
    below: (n) => Math.floor(uniform() * n),
    /** @template T @param {readonly T[]} list @returns {T} */
    pick: (list) => /** @type {T} */ (list[Math.floor(uniform() * list.length)]),
    /** @param {number} share */
    maybe: (share) => uniform() < share,
  };
}

/** @typedef {ReturnType<typeof chanceOf>} Chance */

/** Numbers that break things: nothing, tiny, huge, almost whole, beyond what columns and loops hold. */
export const NUMBERS = [
  0,
  -0,
  1,
  -1,
  0.5,
  1e-9,
  -1e-9,
  5e-324,
  1e-300,
  1e9,
  -1e9,
  1e18,
  -1e18,
  1e30,
  1e300,
  -1e300,
  1e308,
  2 ** 31,
  2 ** 31 - 1,
  -(2 ** 31),
  2 ** 53,
  2 ** 53 + 2,
  65536,
  1e5,
  1e12,
  1e13,
  3.4e38,
  0.1 + 0.2,
  1 / 3,
  1000.5,
  179.999,
  1e-4,
];

/** Texts that break things. */
export const TEXTS = [
  "",
  " ",
  "\0",
  "a\0b",
  "\ud800",
  "\udc00x",
  "\u202e",
  "\ufffd",
  "\u2028",
  "__proto__",
  "constructor",
  "toString",
  "null",
  "NaN",
  "Infinity",
  "1e999",
  "../../etc/passwd",
  "'; drop table team; --",
  "<script>alert(1)</script>",
  "🪨",
  "e\u0301",
  "x".repeat(5000),
  "9".repeat(400),
  "-271821-04-20T00:00:00.000Z",
  "%00",
  "\r\n\r\n",
];

/** A value of JSON that nobody expects. @param {Chance} chance @param {number} [depth] @returns {unknown} */
export function oddValue(chance, depth = 0) {
  const kind = chance.below(depth > 3 ? 5 : 8);
  if (kind === 0) return chance.pick(NUMBERS);
  if (kind === 1) return chance.pick(TEXTS);
  if (kind === 2) return chance.pick([true, false, null]);
  if (kind === 3) return chance.below(1000) - 500;
  if (kind === 4) return chance.uniform() * 10 ** (chance.below(30) - 12);
  if (kind === 5) return Array.from({ length: chance.below(6) }, () => oddValue(chance, depth + 1));
  if (kind === 6)
    return Object.fromEntries(Array.from({ length: chance.below(5) }, () => [chance.pick(TEXTS), oddValue(chance, depth + 1)]));
  return deep(chance.pick([10, 47, 60, 400]));
}

/** @param {number} levels */
function deep(levels) {
  /** @type {unknown} */
  let value = 1;
  for (let i = 0; i < levels; i += 1) value = [value];
  return value;
}

/**
 * Changes some leaves of a document.
 * @param {unknown} document @param {Chance} chance @param {number} changes
 * @returns {unknown}
 */
export function spoil(document, chance, changes) {
  const copy = structuredClone(document);
  /** @type {[Record<string, unknown>, string][]} */
  const leaves = [];
  const walk = (/** @type {unknown} */ value) => {
    if (typeof value !== "object" || value === null) return;
    for (const key of Object.keys(value)) {
      leaves.push([/** @type {Record<string, unknown>} */ (value), key]);
      walk(/** @type {Record<string, unknown>} */ (value)[key]);
    }
  };
  walk(copy);
  for (let i = 0; i < changes && leaves.length > 0; i += 1) {
    const [owner, key] = chance.pick(leaves);
    const was = owner[key];
    if (typeof was === "number" && chance.maybe(0.8))
      owner[key] = chance.maybe(0.25) ? chance.pick(NUMBERS) : was * 10 ** ((chance.uniform() - 0.5) * chance.pick([0.6, 2, 8]));
    else if (Array.isArray(was) && chance.maybe(0.5)) owner[key] = chance.maybe(0.5) ? [] : [...was, ...was, ...was].slice(0, 2000);
    else if (chance.maybe(0.2)) delete owner[key];
    else owner[key] = oddValue(chance);
  }
  return copy;
}
