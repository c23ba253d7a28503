// What is typed over a quantity, and what a step or a drag makes of it.
import { describe, expect, test } from "vitest";
import { dragged, readTyped, stepped, written } from "../../src/shared/quantity/reading.js";

describe("typed", () => {
  test.each([
    ["31", "cm", "31 cm"],
    ["0.3 m", "cm", "0.3 m"],
    ["12 in", "cm", "12 in"],
    ["1.5 s", "s", "1.5 s"],
    ["30", "%", "30 %"],
    ["7", "", "7"],
    ["6000", "g cm²", "6000 g cm²"],
    ["+3 Ω", "Ω", "3 Ω"],
  ])("%s over a value in %s is %s", (typed, unit, text) => {
    expect(readTyped(typed, unit)).toMatchObject({ ok: true, text });
  });

  test.each([
    ["fast", "cm", /^"fast" is not a length\. Write for example 30 cm\.$/],
    ["3 kg", "cm", /length/],
    ["3 V", "Ω", /This is kept in Ω\. Write 3 Ω\./],
    ["", "Ω", /is not a number/],
  ])("%s over a value in %s says what to write", (typed, unit, sentence) => {
    const read = readTyped(typed, unit);
    expect(read.ok).toBe(false);
    if (!read.ok) expect(read.message).toMatch(sentence);
  });

  test("a refusal hears the digits in the unit that is shown, and its sentence is the answer", () => {
    const heard: string[] = [];
    const refuse = (digits: string) => {
      heard.push(digits);
      return Number(digits) > 50 ? "At most 50 cm." : null;
    };
    expect(readTyped("0.4 m", "cm", refuse)).toMatchObject({ ok: true, text: "0.4 m" });
    expect(readTyped("0.6 m", "cm", refuse)).toEqual({ ok: false, message: "At most 50 cm." });
    expect(heard).toEqual(["40", "60"]);
  });
});

describe("steps and drags", () => {
  test.each([
    ["30", "cm", 1, "31"],
    ["0.30", "m", -1, "0.29"],
    ["1.5", "s", -20, "0"],
    ["1.5", "cm", -20, "-0.5"],
    ["3", "", -10, "0"],
  ])("%s %s after %d steps is %s", (digits, unit, steps, next) => {
    expect(Number(stepped(digits, unit, steps))).toBe(Number(next));
  });

  test("a drag counts from where it began, not from where it is", () => {
    expect(dragged("35", 30, 8)).toBe("38");
    expect(dragged("3.5", 3, -4)).toBe("2.6");
  });

  test("a number without a unit is written without one", () => {
    expect([written("3", ""), written("3", "cm")]).toEqual(["3", "3 cm"]);
  });
});
