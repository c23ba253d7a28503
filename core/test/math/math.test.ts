import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { fromBase64, toBase64 } from "../../src/math/base64.js";
import { exp, log } from "../../src/math/exponential.js";
import { fingerprint } from "../../src/math/hash.js";
import { mixSeed, randomStream } from "../../src/math/random.js";
import { atan2, cos, sin, tan } from "../../src/math/trig.js";
import { evenly } from "../support/evenly.js";

/** Two units in the last place of the larger of |expected| and `scale`. */
function near(actual: number, expected: number, scale = 0): void {
  expect(Math.abs(actual - expected)).toBeLessThanOrEqual(4.5e-16 * Math.max(Math.abs(expected), scale, 1e-300));
}

const reals = (size: number) => evenly(-size, size);

describe("own transcendental functions against the engine's", () => {
  test("sine, cosine, tangent", () => {
    fc.assert(
      fc.property(reals(1000), (x) => {
        near(sin(x), Math.sin(x), 0.5);
        near(cos(x), Math.cos(x), 0.5);
        if (Math.abs(Math.cos(x)) > 0.01) near(tan(x) / 8, Math.tan(x) / 8, 1);
      }),
    );
  });
  test("arc tangent of two arguments", () => {
    fc.assert(
      fc.property(reals(10), reals(10), (y, x) =>
        near(atan2(y, x), x === 0 && y === 0 ? 0 : Math.atan2(y + 0, x + 0), 1),
      ),
    );
  });
  test("exponential and logarithm", () => {
    fc.assert(fc.property(reals(300), (x) => near(exp(x), Math.exp(x))));
    fc.assert(fc.property(fc.double({ min: 1e-200, max: 1e200, noNaN: true }), (x) => near(log(x), Math.log(x), 0.5)));
  });
});

test("core uses only the parts of Math that have the same bits everywhere", () => {
  const allowed = new Set(["abs", "min", "max", "sqrt", "floor", "trunc", "imul"]);
  const root = path.resolve(import.meta.dirname, "../../src");
  const files = readdirSync(root, { recursive: true, encoding: "utf8" }).filter((file) => file.endsWith(".ts"));
  expect(files.length).toBeGreaterThan(20);
  for (const file of files) {
    const text = readFileSync(path.join(root, file), "utf8").replace(/\/\/.*|\/\*[\s\S]*?\*\//g, "");
    for (const [, member = ""] of text.matchAll(/\bMath\.(\w+)/g))
      expect(allowed, `${file} uses Math.${member}`).toContain(member);
    expect(text, `${file} reads a clock`).not.toMatch(/\bDate\b|performance\./);
  }
});

describe("chance", () => {
  test("equal seeds give equal streams, other seeds others", () => {
    const draw = (seed: number) => {
      const stream = randomStream(seed);
      return Array.from({ length: 5 }, () => stream.uniform());
    };
    expect(draw(7)).toEqual(draw(7));
    expect(draw(7)).not.toEqual(draw(8));
  });
  test("normal draws have mean 0 and variance 1", () => {
    const stream = randomStream(1);
    const draws = Array.from({ length: 40_000 }, () => stream.normal());
    const mean = draws.reduce((sum, x) => sum + x, 0) / draws.length;
    const variance = draws.reduce((sum, x) => sum + (x - mean) ** 2, 0) / draws.length;
    // Four standard errors of each.
    expect(Math.abs(mean)).toBeLessThan(0.02);
    expect(Math.abs(variance - 1)).toBeLessThan(0.03);
  });
  test("mixed seeds of neighbouring runs differ", () => {
    expect(new Set(Array.from({ length: 1000 }, (_, i) => mixSeed(1, i))).size).toBe(1000);
  });
  test("a fingerprint changes with any bit", () => {
    const of = (...words: number[]) => {
      const print = fingerprint();
      print.words(Uint32Array.from(words));
      return print.hex();
    };
    expect(of(1, 2, 3)).toBe(of(1, 2, 3));
    expect(of(1, 2, 3)).not.toBe(of(1, 2, 2));
    expect(of(1, 2)).toMatch(/^[0-9a-f]{16}$/);
  });
});

describe("bytes as text", () => {
  const platforms = [
    ["Node's own way", fromBase64],
    [
      "a browser that knows only atob",
      (text: string) => {
        const { Buffer } = globalThis;
        Reflect.deleteProperty(globalThis, "Buffer");
        try {
          return fromBase64(text);
        } finally {
          Object.assign(globalThis, { Buffer });
        }
      },
    ],
  ] as const;

  test.each(platforms)("come back as they were: %s", (_name, read) => {
    const chance = randomStream(3);
    for (const length of [0, 1, 2, 3, 4, 5, 63, 64, 5000, 100_001]) {
      const bytes = Uint8Array.from({ length }, () => Math.floor(256 * chance.uniform()));
      const text = toBase64(bytes);
      const back = read(text);
      expect([length, back.length, back.every((byte, i) => byte === bytes[i])]).toEqual([length, length, true]);
      // Nothing else lies in the same memory: it may be given away to a worker.
      expect(back.buffer.byteLength).toBe(length);
    }
  });

  test.each(platforms)("what is no base64 is refused: %s", (_name, read) => {
    for (const text of ["a", "ab-d", "ab_d", "ab!d", "ab=c", "====", "abcdé===", "\u0000aaa", "abcde"])
      expect(() => read(text), text).toThrow();
  });
});
