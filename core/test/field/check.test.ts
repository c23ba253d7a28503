// What is wrong with a field is said at its thing, with a change that mends it; the rest stays usable.
import { describe, expect, test } from "vitest";
import { crossesItself } from "../../src/field/check.js";
import { polygonsMeet } from "../../src/field/clear.js";
import {
  checkField,
  type Field,
  fieldSchema,
  findStart,
  makeField,
  mendField,
  openField,
  openFloor,
  prepareMission,
  problemPlace,
  rehearse,
} from "../../src/index.js";
import { demoField, drizzle, fellside } from "../support/demo.js";

const table = findStart("table");
if (!table) throw new Error("no table");
const onTable = (things: object): Field => fieldSchema.parse({ ...makeField(table, "table"), ...things });
const bow: [number, number][] = [
  [0.5, 0.5],
  [1, 1],
  [1, 0.5],
  [0.5, 1],
];
const load = { name: "box", shape: "box", sizeM: [0.1, 0.1], heightM: 0.1, massKg: 0.1, friction: 0.3, xM: 1, yM: 0.6 };
const zone = (name: string) => ({ name, shape: { kind: "ellipse", centreM: [1, 0.6], radiusXM: 0.1, radiusYM: 0.1 } });

const FAULTS: readonly (readonly [string, object, string, RegExp])[] = [
  ["a wall of no length", { walls: [{ fromM: [1, 1], toM: [1, 1] }] }, "walls/0", /has no length/],
  [
    "a line of no length",
    {
      marks: [
        {
          kind: "line",
          pointsM: [
            [1, 1],
            [1, 1],
          ],
          widthM: 0.02,
          reflectance: 0,
          colour: "#000000",
        },
      ],
    },
    "marks/0",
    /has no length/,
  ],
  ["a crossing obstacle", { obstacles: [{ cornersM: bow }] }, "obstacles/0", /crosses itself/],
  [
    "a crossing zone",
    { zones: [{ name: "bow", shape: { kind: "polygon", cornersM: bow } }] },
    "zones/0",
    /crosses itself/,
  ],
  [
    "an obstacle of no area",
    {
      obstacles: [
        {
          cornersM: [
            [1, 1],
            [1.2, 1],
            [1.4, 1],
          ],
        },
      ],
    },
    "obstacles/0",
    /no area/,
  ],
  [
    "a load inside a wall",
    { loads: [load], walls: [{ fromM: [0.9, 0.6], toM: [1.1, 0.6], thicknessM: 0.02 }] },
    "loads/0",
    /stands inside wall 1/,
  ],
  [
    "a load inside an obstacle",
    {
      loads: [load],
      obstacles: [
        {
          name: "shed",
          cornersM: [
            [0.8, 0.4],
            [1.2, 0.4],
            [1.2, 0.8],
            [0.8, 0.8],
          ],
        },
      ],
    },
    "loads/0",
    /stands inside shed/,
  ],
  ["two loads in one place", { loads: [load, { ...load, name: "other" }] }, "loads/0", /stands inside other/],
  [
    "a start place off the table",
    { begins: [{ name: "away", xM: 5, yM: 0.5, headingRad: 0 }] },
    "begins/0",
    /off the floor/,
  ],
  ["a boulder off the table", { boulders: [{ xM: -2, yM: 0.5, radiusM: 0.1 }] }, "boulders/0", /off the floor/],
  ["two zones of one name", { zones: [zone("bay"), zone("bay")] }, "zones/1", /called bay too/],
  [
    "two start places of one name",
    {
      begins: [
        { name: "a", xM: 1, yM: 1, headingRad: 0 },
        { name: "a", xM: 1.5, yM: 1, headingRad: 0 },
      ],
    },
    "begins/1",
    /called a too/,
  ],
  [
    "a zone for a load that is not there",
    { zones: [{ ...zone("bay"), counts: "load", only: "gone" }] },
    "zones/0",
    /none of that name/,
  ],
  [
    "a gap beyond the end",
    {
      marks: [
        {
          kind: "line",
          pointsM: [
            [1, 1],
            [1.5, 1],
          ],
          widthM: 0.02,
          reflectance: 0,
          colour: "#000000",
          gaps: [{ atM: 2, lengthM: 0.1 }],
        },
      ],
    },
    "marks/0",
    /beyond its end/,
  ],
  ["no start place", { begins: [] }, "field", /no start place/],
  [
    "corners rounder than the table",
    { size: { widthM: 1, heightM: 1, cornerRadiusM: 3 }, begins: [{ name: "b", xM: 0.5, yM: 0.5, headingRad: 0 }] },
    "field",
    /rounder/,
  ],
  [
    "a lamp inside an obstacle",
    {
      light: { lamp: { xM: 1, yM: 0.6, heightM: 0.1, level: 1 } },
      obstacles: [
        {
          cornersM: [
            [0.8, 0.4],
            [1.2, 0.4],
            [1.2, 0.8],
            [0.8, 0.8],
          ],
          heightM: 0.3,
        },
      ],
    },
    "field",
    /lights nothing/,
  ],
];

describe("problems", () => {
  test.each(FAULTS)("%s is named at the thing, and its fix mends it", (_, things, at, words) => {
    const field = onTable(things);
    const problem = checkField(field).find((one) => one.at === at && words.test(one.message));
    expect(problem?.message).toMatch(words);
    if (!problem?.fix) throw new Error("no fix");
    const mended = problem.fix.apply(field);
    expect(checkField(mended).filter((one) => words.test(one.message) && one.at === at)).toEqual([]);
    expect(mendField(field).left).toEqual([]);
  });

  test("fields that ship with it have none", () => {
    for (const name of [
      "fellside",
      "yard",
      "boulder-slope",
      "cliff-run",
      "garage-lane",
      "gauge-slope",
      "snow-maze",
      "shelter-trail",
      "plate-docks",
    ])
      expect([name, checkField(demoField(name))]).toEqual([name, []]);
    expect(checkField(openFloor())).toEqual([]);
  });

  test("a place in words has the name of the thing", () => {
    expect(problemPlace(fellside(), "begins/0")).toBe("start place hut dock");
    expect(problemPlace(fellside(), "boulders/1")).toBe("boulder 2");
    expect(problemPlace(fellside(), "field")).toBe("Fellside");
  });

  test("a field with problems can still be driven on: the rest of it counts", () => {
    const field = onTable({ walls: [{ fromM: [1, 1], toM: [1, 1] }], zones: [zone("bay"), zone("bay")] });
    const prepared = prepareMission(
      'cairn 1\nrobot "Drizzle"\ngoal clock < 9 s\nmission\n  go 20 cm\n',
      drizzle(),
      field,
    );
    expect(rehearse(prepared, { seed: 1, ideal: true }).summary.success).toBe(true);
  });
});

describe("opening any file", () => {
  const body = (things: object) => ({ ...JSON.parse(JSON.stringify(makeField(table, "table"))), ...things });

  test("10,000 marks: the first 2,000 are taken, and it says so", () => {
    const mark = {
      kind: "line",
      pointsM: [
        [0, 0],
        [1, 1],
      ],
      widthM: 0.02,
      reflectance: 0,
      colour: "#000000",
    };
    const read = openField(body({ marks: Array.from({ length: 10_000 }, () => mark) }));
    expect(read.ok && [read.document.marks.length, read.leftOut]).toEqual([
      2000,
      ["There are 10000 marks. 2000 is the most; the first 2000 were taken."],
    ]);
  });

  test("what cannot be read is left out by its number, the rest is taken", () => {
    const walls = [{ fromM: [0, 0], toM: [1, 0] }, { fromM: "here" }, { fromM: [0, 1], toM: [1e9, 1] }];
    const read = openField(body({ walls }));
    if (!read.ok) throw new Error(read.problems.join());
    expect(read.document.walls).toHaveLength(1);
    expect(read.leftOut).toEqual([
      expect.stringMatching(/^wall 2 was left out: fromM /),
      expect.stringMatching(/^wall 3 was left out: toM.* must be a number from -100 to 100 m\.$/),
    ]);
  });

  test("what is no field at all is refused", () => {
    expect(openField(null).ok).toBe(false);
    expect(openField([]).ok).toBe(false);
    expect(openField({ format: "giddy-pebble/robot", version: 3 }).ok).toBe(false);
    expect(openField({ ...body({}), version: 9 })).toMatchObject({
      ok: false,
      problems: [expect.stringContaining("newer")],
    });
  });
});

test("outlines that cross themselves, and outlines that share ground", () => {
  expect([
    crossesItself(bow),
    crossesItself([
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ]),
  ]).toEqual([true, false]);
  const square: [number, number][] = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ];
  const shifted = (dx: number) => square.map(([x, y]): [number, number] => [x + dx, y]);
  expect([polygonsMeet(square, shifted(0.5)), polygonsMeet(square, shifted(1.5))]).toEqual([true, false]);
  expect(
    polygonsMeet(square, [
      [0.4, 0.4],
      [0.6, 0.4],
      [0.6, 0.6],
    ]),
  ).toBe(true);
  expect(
    polygonsMeet(square, [
      [-1, 0.5],
      [2, 0.5],
    ]),
  ).toBe(true);
});
