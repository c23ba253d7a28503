// Colours named by what is nearest: the printed ones, or references of a reader's own.
import { describe, expect, test } from "vitest";
import { type ColourReference, labDistance, labOf, plateLight } from "../../src/field/colours.js";
import { COLOUR_NAMES, linearRgb, nameColour, plateHex } from "../../src/index.js";

const at = (name: (typeof COLOUR_NAMES)[number]) => COLOUR_NAMES.indexOf(name);

describe("naming a colour", () => {
  test("each printed plate is itself, beyond doubt", () => {
    for (const [index, name] of COLOUR_NAMES.entries()) {
      expect(nameColour(plateLight(name))).toEqual({ index, doubt: 0 });
      expect(linearRgb(plateHex(name))).toEqual(plateLight(name));
    }
  });

  test("among references of one's own, only those are named", () => {
    const references: ColourReference[] = [
      { index: at("red"), lab: labOf(plateLight("red")) },
      { index: at("blue"), lab: labOf(plateLight("blue")) },
    ];
    expect(nameColour(plateLight("orange"), references).index).toBe(at("red"));
    expect(nameColour(plateLight("violet"), references).index).toBe(at("blue"));
    // A reader in whose light red looks brown still calls its red plate red.
    const [r, g, b] = plateLight("red");
    const seen = [r * 0.25, g * 0.8, b * 0.8] as const;
    const dim: ColourReference = { index: at("red"), lab: labOf(seen) };
    expect(nameColour(seen).index).not.toBe(at("red"));
    expect(nameColour(seen, [dim, references[1] as ColourReference]).index).toBe(at("red"));
  });

  test("with one reference there is nothing to doubt it by", () => {
    expect(nameColour(plateLight("green"), [{ index: at("red"), lab: labOf(plateLight("red")) }])).toEqual({
      index: at("red"),
      doubt: 0,
    });
  });

  test("half way between two references it is a toss-up", () => {
    const references = [0, 100].map((lightness, index): ColourReference => ({ index, lab: [lightness, 0, 0] }));
    // Grey of lightness 50: Y = ((50 + 16) / 116)³ = 0.18419.
    const grey = nameColour([0.18418651, 0.18418651, 0.18418651], references);
    expect(grey.doubt).toBeGreaterThan(0.99);
  });

  test("the distance is that of CIE 1976", () => {
    expect(labDistance([50, 10, -10], [53, 6, -10])).toBe(5);
    expect(labDistance([1, 2, 3], [1, 2, 3])).toBe(0);
  });
});
