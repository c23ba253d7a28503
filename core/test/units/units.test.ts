import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { ANGLE, findUnit, LENGTH, NUMBER, plainDigits, readQuantity, sameDimension } from "../../src/index.js";
import {
  dimensionWords,
  overDimension,
  rootDimension,
  SPEED,
  TIME,
  timesDimension,
} from "../../src/units/dimension.js";
import { writeQuantity } from "../../src/units/quantity.js";

describe("units", () => {
  test.each([
    ["mm", 0.001],
    ["ft", 0.3048],
    ["deg", Math.PI / 180],
    ["turns", 2 * Math.PI],
    ["rpm", (2 * Math.PI) / 60],
    ["cm/s/s", 0.01],
    ["%/deg", 0.01 / (Math.PI / 180)],
  ])("one %s in SI", (name, scale) => {
    expect(findUnit(name)?.scale).toBeCloseTo(scale, 15);
  });

  test("unknown units are unknown, in composites too", () => {
    expect([findUnit("furlong"), findUnit("cm/fortnight"), findUnit("")]).toEqual([null, null, null]);
  });

  test("dimensions multiply, divide and have roots", () => {
    expect(sameDimension(overDimension(LENGTH, TIME), SPEED)).toBe(true);
    expect(sameDimension(timesDimension(SPEED, TIME), LENGTH)).toBe(true);
    expect(rootDimension(timesDimension(LENGTH, LENGTH))).toEqual(LENGTH);
    expect(rootDimension(LENGTH)).toBeNull();
    expect(dimensionWords(timesDimension(LENGTH, ANGLE))).toBe("a mixed quantity");
  });
});

describe("quantities as people type them", () => {
  test.each([
    ["30cm", 0.3],
    ["1 ft", 0.3048],
    [" -4.5 mm ", -0.0045],
    ["+2 m", 2],
  ])("%j is a length", (text, value) => {
    const read = readQuantity(text, LENGTH);
    expect(read.ok && read.quantity.value).toBeCloseTo(value, 12);
  });

  test.each([
    ["30", "30 has no unit. Write for example 30 cm."],
    ["30 deg", "30 deg is an angle; a length is wanted. Write for example 30 cm."],
    ["30 furlongs", '"furlongs" is not a unit. Write for example 30 cm.'],
    ["a lot", '"a lot" is not a length. Write for example 30 cm.'],
    ["1e3 cm", '"1e3 cm" is not a length. Write for example 30 cm.'],
  ])("%j is refused with a mend", (text, message) => {
    expect(readQuantity(text, LENGTH)).toEqual({ ok: false, message });
  });

  test("a bare number takes the unit that stood there", () => {
    expect(readQuantity("45", LENGTH, "mm")).toMatchObject({ ok: true, quantity: { value: 0.045, unit: "mm" } });
    expect(readQuantity("45", NUMBER)).toMatchObject({ ok: true, quantity: { value: 45, unit: "" } });
  });

  test("writing and reading agree", () => {
    fc.assert(
      fc.property(fc.integer({ min: -100_000, max: 100_000 }), fc.constantFrom("mm", "cm", "m", "ft"), (n, unit) => {
        const value = n / 1000;
        const read = readQuantity(writeQuantity(value * (findUnit(unit)?.scale ?? 1), unit, 6), LENGTH);
        expect(read.ok && read.quantity.value).toBeCloseTo(value * (findUnit(unit)?.scale ?? 1), 9);
      }),
    );
  });

  test("digits are plain", () => {
    expect([plainDigits(30, 3), plainDigits(12.5, 3), plainDigits(-0.0004, 3), plainDigits(1 / 3, 2)]).toEqual([
      "30",
      "12.5",
      "0",
      "0.33",
    ]);
    expect(() => writeQuantity(1, "furlong")).toThrow(RangeError);
  });
});
