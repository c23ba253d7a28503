// Names and places of things, bounds, and numbers that people can read.
import { describe, expect, test } from "vitest";
import { thingNames } from "../../src/field/edges.js";
import { FIELD_LIMITS } from "../../src/field/schema.js";
import { THING_LISTS } from "../../src/field/things.js";
import {
  addThing,
  allRefs,
  boundsOf,
  boundsOfRefs,
  changeThing,
  type Field,
  freeThingName,
  middleOf,
  refOf,
  splitRef,
  type ThingRef,
  thingName,
  thingOf,
  tidyNumbers,
} from "../../src/index.js";
import { demoField, fellside } from "../support/demo.js";

describe("names", () => {
  test("a thing without a name is called by its kind and number, wherever it is asked for", () => {
    const field = fellside();
    expect(thingName(field, "boulders/4")).toBe("boulder 5");
    expect(thingName(field, "walls/3")).toBe("cliff");
    expect(thingNames(field)).toEqual(expect.arrayContaining(["cliff", "boulder 1", "snow gauge", "the rim"]));
    expect(thingNames({ ...field, edge: "open" })).not.toContain("the rim");
    expect(thingNames(demoField("garage-lane"))).toEqual(["back wall", "first shed", "second shed", "the rim"]);
  });

  test("a free name keeps its stem and takes the first number nobody has", () => {
    expect(freeThingName("bay", ["yard"])).toBe("bay");
    expect(freeThingName("bay", ["bay"])).toBe("bay 2");
    expect(freeThingName("bay", ["bay", "bay 2", "bay 4"])).toBe("bay 3");
    expect(freeThingName("bay 2", ["bay 2", undefined])).toBe("bay 3");
  });

  test("a place in a list is written and read back; what is gone is nothing", () => {
    const field = fellside();
    for (const ref of allRefs(field)) {
      const [list, index] = splitRef(ref);
      expect(refOf(list, index)).toBe(ref);
      expect(thingOf(field, ref)).toBe(field[list][index]);
    }
    expect(thingOf(field, "loads/9")).toBeNull();
    const same = changeThing(field, "loads/9", (thing) => ({ ...thing, name: "x" }) as never);
    expect(same).toBe(field);
  });

  test("every kind has room for so many, and then for no more", () => {
    for (const list of THING_LISTS) {
      const [first] = fellside()[list];
      if (!first) continue;
      const full = { ...fellside(), [list]: Array.from({ length: FIELD_LIMITS[list] }, () => first) } as Field;
      expect(addThing(full, list, first)).toBeNull();
      const one = addThing({ ...full, [list]: [] } as Field, list, first);
      expect([one?.ref, one?.field[list].length]).toEqual([refOf(list, 0), 1]);
    }
  });
});

test("bounds hold everything that is asked for, and their middle is half way", () => {
  const field = fellside();
  const refs: ThingRef[] = ["walls/3", "loads/0"];
  const bounds = boundsOfRefs(field, refs);
  expect(bounds).toEqual({ lowX: 0.5, lowY: expect.closeTo(0.155, 9), highX: 1.02, highY: 1.36 });
  expect(
    middleOf(
      boundsOf([
        [0, 0],
        [2, 4],
      ]),
    ),
  ).toEqual([1, 2]);
});

test("numbers of a drawing are rounded to a hundredth of a millimetre, whole ones and words stay", () => {
  const rough = { xM: 0.1 + 0.2, name: "0.123456789", list: [1, 1e-9, -0.000004], none: null };
  expect(tidyNumbers(rough)).toEqual({ xM: 0.3, name: "0.123456789", list: [1, 0, 0], none: null });
});
