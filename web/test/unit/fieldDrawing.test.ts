// What is drawn on the board becomes, and what the inspector says of each thing and changes about it.
import {
  allRefs,
  boundsOf,
  checkField,
  type Field,
  fieldSchema,
  findStart,
  makeField,
  outlineOf,
  type Point,
  readField,
  splitRef,
  type Thing,
  type ThingRef,
  thingOf,
} from "@giddy-pebble/core";
import { describe, expect, test } from "vitest";
import { Labels, type Pen } from "../../src/shared/field/drawField.js";
import { BOARD_MARGIN, fitField, toField } from "../../src/shared/field/fieldView.js";
import { measureWords } from "../../src/shared/field/words.js";
import {
  type Drawing,
  finished,
  isWhole,
  pointFrom,
  TAKES,
  TOOLS,
  takesOf,
} from "../../src/workplaces/field/drawing.js";
import { factOf, meaningOf, numbersOf } from "../../src/workplaces/field/facts.js";
import { stemOf } from "../../src/workplaces/field/files.js";
import { fellside } from "../support/demo.js";

function table(): Field {
  const ready = findStart("table");
  if (!ready) throw new Error("no table");
  return makeField(ready, "table");
}

const drawn = (tool: Drawing["tool"], points: readonly Point[], dragged = false): Drawing => ({
  tool,
  points,
  now: points.at(-1) ?? [0, 0],
  dragged,
});

/** The field with what was drawn on it. */
function withDrawn(drawing: Drawing, field: Field = table()): { field: Field; thing: Thing; list: string } {
  const done = finished(drawing, field);
  if (!done) throw new Error("nothing was drawn");
  return { field: { ...field, [done.list]: [...field[done.list], done.thing] }, ...done };
}

describe("the tools", () => {
  test("each has a key of its own, a name, and a way to take points", () => {
    expect(new Set(TOOLS.map(({ key }) => key)).size).toBe(TOOLS.length);
    for (const { id, list } of TOOLS) expect(takesOf(id) === null).toBe(list === null);
    expect(takesOf("wall")).toBe("two");
  });

  const three: Point[] = [
    [0.5, 0.5],
    [0.9, 0.5],
    [0.9, 0.8],
  ];
  test.each(Object.keys(TAKES) as (keyof typeof TAKES)[])(
    "%s makes a thing that a field can have, sound at once",
    (tool) => {
      const { field, list } = withDrawn(drawn(tool, three));
      const read = readField(JSON.parse(JSON.stringify(field)));
      expect(read.ok ? [] : read.problems).toEqual([]);
      expect([list, checkField(field)]).toEqual([TOOLS.find(({ id }) => id === tool)?.list, []]);
    },
  );

  test("a line takes any number of points, and closes on its first one", () => {
    const { thing } = withDrawn(drawn("line", [...three, [0.5, 0.5]]));
    expect(thing).toMatchObject({ kind: "line", closed: true, pointsM: three });
    expect(finished(drawn("line", [[1, 1]]), table())).toBeNull();
    expect(
      finished(
        drawn("line", [
          [1, 1],
          [1.001, 1],
        ]),
        table(),
      ),
    ).toBeNull();
    expect(isWhole(drawn("line", three))).toBe(false);
  });

  test("a curve passes through its points; the next line is like the last", () => {
    const { field, thing } = withDrawn(drawn("curve", three));
    expect("nodes" in thing ? thing.nodes.map(({ atM }) => atM) : []).toEqual(three);
    const wide = {
      ...field,
      marks: field.marks.map((mark) => ({ ...mark, widthM: 0.05, colour: "#C8352B" })),
    } as Field;
    expect(withDrawn(drawn("line", three), wide).thing).toMatchObject({ widthM: 0.05, colour: "#C8352B" });
  });

  test("an outline is a box by two points, else its corners; a flat box is none", () => {
    const { thing } = withDrawn(
      drawn(
        "obstacle",
        [
          [0.8, 0.9],
          [0.2, 0.3],
        ],
        true,
      ),
    );
    expect("cornersM" in thing ? boundsOf(thing.cornersM) : null).toEqual({
      lowX: 0.2,
      lowY: 0.3,
      highX: 0.8,
      highY: 0.9,
    });
    expect(withDrawn(drawn("patch", three)).thing).toMatchObject({ shape: { kind: "polygon", cornersM: three } });
    expect(
      finished(
        drawn(
          "zone",
          [
            [0.5, 0.5],
            [0.9, 0.5],
          ],
          true,
        ),
        table(),
      ),
    ).toBeNull();
    expect([isWhole(drawn("zone", three.slice(0, 2), true)), isWhole(drawn("zone", three.slice(0, 2)))]).toEqual([
      true,
      false,
    ]);
  });

  test("a boulder is as large as it is dragged; a load and a start place look where they are dragged", () => {
    expect(
      withDrawn(
        drawn(
          "boulder",
          [
            [1, 1],
            [1.2, 1],
          ],
          true,
        ),
      ).thing,
    ).toMatchObject({ radiusM: expect.closeTo(0.2, 9) });
    expect(withDrawn(drawn("boulder", [[1, 1]])).thing).toMatchObject({ radiusM: 0.06 });
    expect(
      withDrawn(
        drawn(
          "begin",
          [
            [1, 1],
            [1, 1.5],
          ],
          true,
        ),
      ).thing,
    ).toMatchObject({ headingRad: expect.closeTo(Math.PI / 2, 9) });
    expect(
      withDrawn(
        drawn(
          "load",
          [
            [1, 1],
            [0.5, 1],
          ],
          true,
        ),
      ).thing,
    ).toMatchObject({ headingRad: expect.closeTo(Math.PI, 9) });
  });

  test("names that missions look up are free ones", () => {
    const once = withDrawn(drawn("zone", three)).field;
    const twice = withDrawn(drawn("zone", three), once).field;
    expect(twice.zones.map(({ name }) => name)).toEqual(["zone", "zone 2"]);
    expect(withDrawn(drawn("begin", [[1, 1]])).thing).toMatchObject({ name: "begin 2" });
  });

  test("typed numbers: a place first, then how far and which way", () => {
    expect(pointFrom(null, 0.4, 0.3)).toEqual([0.4, 0.3]);
    const [x, y] = pointFrom([1, 1], 0.5, Math.PI / 6);
    expect([x, y]).toEqual([expect.closeTo(1 + 0.5 * Math.cos(Math.PI / 6), 9), expect.closeTo(1.25, 9)]);
    expect(measureWords([0, 0], [0.3, 0.4])).toBe("50.0 cm, heading 53 deg");
  });
});

/** Every kind of thing once. */
function everything(): Field {
  const field = fellside();
  return fieldSchema.parse({
    ...field,
    obstacles: [
      {
        name: "shed",
        cornersM: [
          [1, 0.2],
          [1.2, 0.2],
          [1.2, 0.4],
          [1, 0.4],
        ],
      },
    ],
    ramps: [
      {
        cornersM: [
          [0.2, 0.2],
          [0.4, 0.2],
          [0.4, 0.4],
          [0.2, 0.4],
        ],
        slopeRad: 0.1,
        upRad: 0,
      },
    ],
    gates: [{ name: "1", fromM: [1, 1], toM: [1.2, 1] }],
    marks: [
      ...field.marks,
      {
        kind: "curve",
        nodes: [
          { atM: [0.2, 0.2], outM: [0.3, 0.2] },
          { atM: [0.6, 0.6], inM: [0.5, 0.6] },
        ],
        widthM: 0.02,
        reflectance: 0.1,
        colour: "#2B2F31",
        dash: { onM: 0.05, offM: 0.03 },
        gaps: [{ atM: 0.1, lengthM: 0.05 }],
      },
    ],
  });
}

const refs = (): ThingRef[] => {
  const seen = new Set<string>();
  return allRefs(everything()).filter((ref) => {
    const thing = thingOf(everything(), ref);
    const kind = `${splitRef(ref)[0]} ${thing && "kind" in thing ? thing.kind : ""}`;
    return seen.has(kind) ? false : Boolean(seen.add(kind));
  });
};

describe("what the inspector says", () => {
  test.each(refs())("%s: each number, set to what it is, changes nothing; set elsewhere, it reads as that", (ref) => {
    const thing = thingOf(everything(), ref);
    if (!thing) throw new Error("gone");
    for (const fact of numbersOf(thing)) {
      expect(fact.least).toBeLessThan(fact.most);
      expect(fact.value).toBeGreaterThanOrEqual(fact.least - 1e-9);
      const same = numbersOf(fact.set(thing, fact.value)).find(({ key }) => key === fact.key);
      expect(same?.value).toBeCloseTo(fact.value, 6);
      const wanted = Math.max(fact.least, Math.min(fact.most, fact.value === 0 ? 0.2 : fact.value * 1.25));
      const other = numbersOf(fact.set(thing, wanted)).find(({ key }) => key === fact.key);
      expect(other?.value).toBeCloseTo(wanted, 6);
    }
  });

  test("width and depth stretch from the lower left corner, round zones too", () => {
    const zone = everything().zones[0];
    if (!zone) throw new Error("no zone");
    const before = boundsOf(outlineOf(zone));
    const wider = numbersOf(zone)
      .find(({ key }) => key === "width")
      ?.set(zone, 0.6);
    const after = boundsOf(outlineOf(wider as Thing));
    expect([after.lowX, after.highX - after.lowX, after.highY]).toEqual([
      expect.closeTo(before.lowX, 6),
      expect.closeTo(0.6, 6),
      expect.closeTo(before.highY, 6),
    ]);
  });

  test("what follows: a line's curve, the push and the height a load falls at, what a slope pulls", () => {
    const field = everything();
    const load = field.loads[0];
    const ramp = field.ramps[0];
    if (!load || !ramp) throw new Error("gone");
    // μ m g = 0.35 · 0.12 · 9.81 N; it falls above b / μ, here more than its height.
    expect(meaningOf(load)).toEqual([
      ["Push that moves it", "0.41 N"],
      ["Falls over when pushed above", "never"],
    ]);
    expect(meaningOf({ ...load, heightM: 0.2, friction: 0.5 })[1]).toEqual(["Falls over when pushed above", "9 cm"]);
    expect(meaningOf(ramp)).toEqual([
      ["Rises by", "10 %"],
      ["Pulls with", "10 % of the weight"],
    ]);
    expect(meaningOf(field.marks[2] as Thing).map(([label]) => label)).toEqual(["Length", "Tightest curve"]);
    const square: Thing = {
      kind: "line",
      pointsM: [
        [0, 0],
        [1, 0],
        [1, 1],
      ],
      widthM: 0.02,
      reflectance: 0.1,
      colour: "#000000",
    };
    expect(meaningOf(square)).toEqual([
      ["Length", "200 cm"],
      ["Tightest curve", "none"],
      ["Sharpest corner", "90 deg"],
    ]);
  });

  test("the list has one fact for each, with its unit", () => {
    const field = everything();
    const facts = refs().map((ref) => factOf(field, ref));
    for (const fact of facts) expect(fact).toMatch(/\d/);
    expect(factOf(field, "loads/0")).toBe("120 g");
    expect(factOf(field, "boulders/0")).toBe("⌀ 16.2 cm");
    expect(factOf(field, "zones/0")).toBe("10 points");
    expect(factOf(field, "begins/0")).toBe("0 deg");
    expect(factOf(field, "walls/99")).toBe("");
  });

  test("a file's stem is a field's name", () => {
    expect([stemOf("yard.svg"), stemOf("our table.field.json"), stemOf(".png"), stemOf("a".repeat(90))]).toEqual([
      "yard",
      "our table",
      "field",
      "a".repeat(60),
    ]);
  });
});

describe("the board's view", () => {
  test("fits the field between its rulers, and takes places back", () => {
    const view = fitField(700, 600, { widthM: 2.4, heightM: 1.2 }, BOARD_MARGIN);
    const [left, right] = [view.originX, view.originX + 2.4 * view.scale];
    expect([left >= BOARD_MARGIN.left, right <= 700 - BOARD_MARGIN.right]).toEqual([true, true]);
    expect(view.originY).toBeLessThanOrEqual(600 - BOARD_MARGIN.bottom);
    const [x, y] = toField(view, view.originX + 0.7 * view.scale, view.originY - 0.4 * view.scale);
    expect([x, y]).toEqual([expect.closeTo(0.7, 9), expect.closeTo(0.4, 9)]);
  });

  test("labels keep off one another and off what lies over the board; they move below, shorten, or stay away", () => {
    const written: [string, number, number][] = [];
    const context = {
      measureText: (text: string) => ({ width: text.length * 6 }),
      strokeText: () => {},
      fillText: (text: string, x: number, y: number) => written.push([text, x, y]),
    };
    const pen = { context, view: { scale: 100, originX: 0, originY: 400 }, colours: {}, dark: false } as unknown as Pen;
    const labels = new Labels([{ left: 150, top: 300, right: 260, bottom: 400 }]);
    labels.put(pen, ["hut dock, 10 points", "hut"], 0.6, 2, "#000000");
    labels.put(pen, ["hut dock again", "hut"], 0.7, 2.02, "#000000", Number.POSITIVE_INFINITY, 0.5);
    labels.put(pen, ["under the legend"], 2, 0.5, "#000000");
    expect(written.map(([text]) => text)).toEqual(["hut dock, 10 points", "hut dock again"]);
    expect((written[1]?.[2] ?? 0) - (written[0]?.[2] ?? 0)).toBeGreaterThan(40);
  });
});
