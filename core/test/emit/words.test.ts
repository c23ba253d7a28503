// Names, texts and comments of written programs: nothing of a mission's words can become code.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { commentWords, decimal, Names, pythonText, quoted } from "../../src/emit/words.js";
import { anyText } from "../support/anyText.js";

const anything = fc.oneof(
  anyText(60),
  fc.string({
    unit: fc.constantFrom('"', "\\", "\n", "\r", "?", "/", "*", "'", "\u2028", "\u202e", "\0", "#", "{"),
    maxLength: 30,
  }),
);

describe("comments", () => {
  test("are one line, end no comment, and go on in no other line", () => {
    fc.assert(
      fc.property(anything, (text) => {
        const words = commentWords(text);
        expect(words).not.toMatch(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\\]/u);
        expect(words).not.toContain("*/");
        expect(words.length).toBeLessThanOrEqual(160);
      }),
    );
  });
});

describe("texts", () => {
  /** What C++ reads: octal bytes of UTF-8. */
  const readCpp = (literal: string) =>
    new TextDecoder().decode(
      Uint8Array.from(
        [...literal.slice(1, -1).matchAll(/\\([0-7]{3})|([\s\S])/g)].map(([, octal, letter]) =>
          octal === undefined ? (letter as string).charCodeAt(0) : Number.parseInt(octal, 8),
        ),
      ),
    );

  test("are read back by C++ as they were, and hold nothing that ends them", () => {
    fc.assert(
      fc.property(anyText(40), (text) => {
        const literal = quoted(text, 1000);
        expect(literal.slice(1, -1)).not.toMatch(/["\n\r?]|\\(?![0-7]{3})/);
        expect(readCpp(literal)).toBe(text);
      }),
    );
  });

  test("are read back by Python as they were", () => {
    fc.assert(
      fc.property(anyText(40), (text) => {
        const literal = pythonText(text, 1000);
        expect(literal.slice(1, -1)).not.toMatch(/["\n\r]|\\(?![xuU][0-9a-f])/);
        const json = literal
          .replaceAll(/\\x([0-9a-f]{2})/g, "\\u00$1")
          .replaceAll(/\\U([0-9a-f]{8})/g, (_, hex: string) => String.fromCodePoint(Number.parseInt(hex, 16)));
        expect(JSON.parse(json)).toBe(text);
      }),
    );
  });
});

describe("names", () => {
  test("are letters, figures and strokes, and each its own", () => {
    fc.assert(
      fc.property(fc.array(anything, { maxLength: 12 }), (texts) => {
        const names = new Names("v_");
        const made = texts.map((text, i) => names.of(String(i), text));
        for (const name of made) expect(name).toMatch(/^v_[A-Za-z0-9_]*$/);
        expect(new Set(made).size).toBe(made.length);
      }),
    );
  });

  test("without a prefix are no words of the language and begin with a letter", () => {
    const names = new Names("", ["class", "lambda"]);
    expect(["class", "lambda", "7 up", "größe", ""].map((words, i) => names.of(String(i), words))).toEqual([
      "class_",
      "lambda_",
      "n7_up",
      "gr_e",
      "n",
    ]);
  });
});

test("numbers are read back to nine figures, and never as whole ones", () => {
  fc.assert(
    fc.property(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e12, max: 1e12 }), (value) => {
      const written = decimal(value);
      expect(written).toMatch(/[.e]/);
      expect(Math.abs(Number(written) - value)).toBeLessThanOrEqual(Math.abs(value) * 1e-8);
    }),
  );
  expect([Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, Number.NaN].map(decimal)).toEqual([
    "ENDLESS",
    "-ENDLESS",
    "NAN",
  ]);
});
