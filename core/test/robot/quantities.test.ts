// What can be typed of a robot: one table of numbers with units and ranges that every document and every part fits.
import { describe, expect, test } from "vitest";
import {
  addPart,
  CATALOGUE,
  emptyRobot,
  findUnit,
  partsOf,
  QUANTITIES,
  quantityAt,
  rangeFault,
  STAGE_QUANTITIES,
  setPartValue,
  shownQuantity,
  withError,
} from "../../src/index.js";
import { demoRobot } from "../support/demo.js";

const MM = { unit: "mm", perSi: 1000, digits: 1 };
const PLAIN = { unit: "", perSi: 1, digits: 4 };

describe("numbers as people read them", () => {
  test("have their unit, and no digits that say nothing", () => {
    expect(shownQuantity(0.062, MM)).toBe("62 mm");
    expect(shownQuantity(0.1947787, MM)).toBe("194.8 mm");
    expect(shownQuantity(0, MM)).toBe("0 mm");
    expect(shownQuantity(-0.00001, MM)).toBe("0 mm");
    expect(shownQuantity(1.5, PLAIN)).toBe("1.5");
  });

  test("with an error end where the error's digit stands: one, and two when it begins with 1", () => {
    expect(withError(0.1941, 0.0003, MM)).toBe("194.1 ± 0.3 mm");
    expect(withError(0.1941234, 0.00015, MM)).toBe("194.12 ± 0.15 mm");
    expect(withError(0.1384, 0.005, MM)).toBe("138 ± 5 mm");
    expect(withError(1.00201, 0.0015, PLAIN)).toBe("1.0020 ± 0.0015");
    expect(withError(0.1941, null, MM)).toBe("194.1 mm");
    expect(withError(0.1941, 0, MM)).toBe("194.1 mm");
  });
});

describe("ranges", () => {
  const [diameter] = QUANTITIES.wheel ?? [];
  const cells = QUANTITIES.pack?.find(({ path }) => path === "cells");
  const charge = QUANTITIES.pack?.find(({ path }) => path === "charge");
  if (!diameter || !cells || !charge) throw new Error("the table has these");

  test("say in the number's own unit what would be right", () => {
    expect(rangeFault(0.062, diameter)).toBeNull();
    expect(rangeFault(0, diameter)).toBe("must be at least 3 mm");
    expect(rangeFault(1.2, diameter)).toBe("must be at most 1000 mm");
    expect(rangeFault(0.01, charge)).toBe("must be at least 2 %");
    expect(rangeFault(2.5, cells)).toBe("must be a whole number");
  });

  test("hold nothing that is not a number", () => {
    for (const value of [Number.NaN, Number.POSITIVE_INFINITY]) expect(rangeFault(value, diameter)).not.toBeNull();
  });
});

describe("the table", () => {
  test("has each number once for each kind of part, with a label, and a unit that can be typed", () => {
    for (const [kind, list] of Object.entries({ ...QUANTITIES, stage: STAGE_QUANTITIES })) {
      expect(new Set(list.map(({ path }) => path)).size, kind).toBe(list.length);
      expect(new Set(list.map(({ label }) => label)).size, kind).toBe(list.length);
      for (const { label, shown, least, most, over } of list) {
        expect(label, kind).toMatch(/^[A-Z]/);
        expect(shown.perSi, label).toBeGreaterThan(0);
        if (least !== undefined && most !== undefined) expect(least, label).toBeLessThan(most);
        if (over !== undefined && most !== undefined) expect(over, label).toBeLessThan(most);
        // Units the language knows mean the same here.
        const unit = findUnit(shown.unit);
        if (unit && shown.unit !== "ms" && shown.unit !== "uF")
          expect(unit.scale * shown.perSi, label).toBeCloseTo(1, 9);
      }
    }
  });

  test("what is seldom changed is never what people measure", () => {
    for (const list of Object.values(QUANTITIES))
      for (const { seldom, known, found, path } of list) expect(seldom && (known || found), path).toBeFalsy();
  });

  test.each(["drizzle", "gust", "sleet", "fog"])(
    "reads and writes every number of %s, and each lies in its range",
    (name) => {
      const robot = demoRobot(name);
      for (const part of partsOf(robot)) {
        for (const info of QUANTITIES[part.kind] ?? []) {
          const value = quantityAt(part.value, info);
          if (value === null) continue;
          expect(rangeFault(value, info), `${part.ref} ${info.path}`).toBeNull();
          const changed = setPartValue(robot, part.ref, info.path, value);
          const again = partsOf(changed).find(({ ref }) => ref === part.ref);
          expect(again && quantityAt(again.value, info), `${part.ref} ${info.path}`).toBe(value);
        }
      }
    },
  );

  test("typical parts of the catalogue lie in their ranges", () => {
    for (const { id } of CATALOGUE) {
      const { robot, ref } = addPart(emptyRobot("Test"), id);
      const part = partsOf(robot).find((one) => one.ref === ref);
      for (const info of QUANTITIES[part?.kind ?? ""] ?? []) {
        const value = quantityAt(part?.value, info);
        if (value !== null) expect(rangeFault(value, info), `${id} ${info.path}`).toBeNull();
      }
    }
  });

  test("a number that a part does not have is nothing, not zero", () => {
    const motor = partsOf(demoRobot("fog")).find(({ kind }) => kind === "motor");
    const counts = QUANTITIES.motor?.find(({ path }) => path === "encoder.countsPerTurn");
    const pull = QUANTITIES.motor?.find(({ path }) => path === "pullAwayVolts");
    expect(counts && quantityAt(motor?.value, counts)).toBeNull();
    expect(pull && quantityAt(motor?.value, pull)).toBeNull();
    expect(counts && quantityAt("nothing", counts)).toBeNull();
  });
});
