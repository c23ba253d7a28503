// SVG in and out: what we wrote comes back as it was; what others draw comes in right; what is hostile is refused.
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { flattenCurve } from "../../src/field/curves.js";
import {
  exportSvg,
  type Field,
  importSvg,
  makeField,
  moveThings,
  openField,
  READY_STARTS,
  reflectanceOf,
  type SvgKind,
  shiftBy,
  strokePoints,
} from "../../src/index.js";
import { demoField, fellside } from "../support/demo.js";

const head = 'xmlns="http://www.w3.org/2000/svg" width="210mm" height="100mm" viewBox="0 0 210 100"';
const svg = (inside: string, attributes = head) => `<svg ${attributes}>${inside}</svg>`;

function read(text: string, choices?: ReadonlyMap<string, SvgKind>) {
  const found = importSvg(text, "x", choices);
  if (!found.ok) throw new Error(found.problem);
  return found;
}

/** Largest distance, m, between a mark's points and the places they should have, given in mm from the upper left. */
function off(field: Field, index: number, wanted: readonly (readonly [number, number])[]): number {
  const mark = field.marks[index];
  if (!mark || mark.kind === "area") throw new Error(`mark ${index} is no line`);
  const points = strokePoints(mark);
  return Math.max(
    ...wanted.map(([x, y]) =>
      Math.min(...points.map(([px, py]) => Math.hypot(px - x / 1000, py - (field.size.heightM - y / 1000)))),
    ),
  );
}

describe("our own files", () => {
  const fields: readonly (readonly [string, Field])[] = [
    ["Fellside", fellside()],
    ...["yard", "snow-maze", "garage-lane", "boulder-slope"].map((name) => [name, demoField(name)] as const),
    ...READY_STARTS.map((ready) => [ready.title, makeField(ready, ready.title, { gaps: 2, crossings: 3 })] as const),
  ];
  test.each(fields)("%s comes back as it was, to the last digit", (name, field) => {
    const { field: again, leftOut } = read(exportSvg(field));
    expect(again).toEqual({ ...field, name: field.name });
    expect([name, leftOut]).toEqual([name, []]);
  });

  test("a shape that a vector editor moved is where it was moved to; what it means stays", () => {
    const moved = exportSvg(fellside()).replace(/<path d="M620 [^>]*?data-field-list="loads"/, (found) =>
      found.replace("<path ", '<path transform="translate(100 -50)" '),
    );
    const { field } = read(moved.includes('transform="translate(100') ? moved : wrapped(moved));
    const load = field.loads[0];
    expect([load?.name, load?.massKg]).toEqual(["snow gauge", 0.12]);
    expect([load?.xM, load?.yM]).toEqual([expect.closeTo(0.76, 4), expect.closeTo(0.25, 4)]);
  });

  /** Moves the first load by a group around it. */
  function wrapped(text: string): string {
    return text.replace(
      /<path [^>]*data-field-list="loads".*?<\/path>/,
      (one) => `<g transform="translate(100 -50)">${one}</g>`,
    );
  }

  test("random shifts of all things survive the way out and in", () => {
    fc.assert(
      fc.property(fc.integer({ min: -40, max: 40 }), fc.integer({ min: -40, max: 40 }), (dx, dy) => {
        const field = moveThings(fellside(), ["marks/2", "walls/0", "zones/0", "loads/0"], shiftBy(dx / 100, dy / 100));
        expect(read(exportSvg(field)).field.zones).toEqual(field.zones);
      }),
      { numRuns: 20 },
    );
  });
});

describe("drawings of others", () => {
  test("one unit is one millimetre through viewBox and width; without a width the viewBox says it", () => {
    const at = (attributes: string) => read(svg('<path d="M10 20L110 20" stroke="black"/>', attributes)).field;
    const box = (w: string, h: string, view: string) =>
      `xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" viewBox="${view}"`;
    expect(
      off(at(box("210mm", "100mm", "0 0 210 100")), 0, [
        [10, 20],
        [110, 20],
      ]),
    ).toBeLessThan(1e-5);
    expect(
      off(at(box("21cm", "10cm", "0 0 420 200")), 0, [
        [5, 10],
        [55, 10],
      ]),
    ).toBeLessThan(1e-5);
    expect(
      off(at(box("2.1e2mm", "100mm", "-10 -20 210 100")), 0, [
        [20, 40],
        [120, 40],
      ]),
    ).toBeLessThan(1e-5);
    expect(
      off(at('xmlns="http://www.w3.org/2000/svg" viewBox="0 0 210 100"'), 0, [
        [10, 20],
        [110, 20],
      ]),
    ).toBeLessThan(1e-5);
    const inches = at('xmlns="http://www.w3.org/2000/svg" width="10in" height="5in"');
    expect(inches.size.widthM).toBeCloseTo(0.254, 6);
    expect(off(inches, 0, [[(10 * 25.4) / 96, (20 * 25.4) / 96]])).toBeLessThan(1e-5);
    // Taller than the page: it is centred, as "meet" says.
    expect(
      off(at(box("210mm", "100mm", "0 0 100 100")), 0, [
        [65, 20],
        [165, 20],
      ]),
    ).toBeLessThan(1e-5);
  });

  test("every path command, arcs and shorthands among them, comes in within half a millimetre", () => {
    const d =
      "M20 50 h20 v-10 H60 V50 l5 5 L70 50 q10 -20 20 0 t20 0 c5 10 10 10 15 0 s10 -10 15 0 a20 20 0 0 1 40 0 Q190 60 195 50 T205 50";
    const { field } = read(svg(`<path d="${d}" fill="none" stroke="#123456" stroke-width="4"/>`));
    // Points by hand: the quadratic's top, its mirrored one, the arc's top, the last bow.
    const wanted: [number, number][] = [
      [40, 40],
      [60, 50],
      [80, 40],
      [100, 60],
      [160, 30],
      [200, 45],
      [205, 50],
    ];
    expect(off(field, 0, wanted)).toBeLessThan(0.0005);
    expect(field.marks[0]).toMatchObject({ widthM: 0.004, colour: "#123456" });
  });

  test("nested transforms, use, styles and classes are followed", () => {
    const { field } = read(
      svg(
        `<style>.dark{stroke:#202020;stroke-width:2}#one{stroke:red} line{stroke:blue}</style>
         <defs><g id="arrow"><path class="dark" d="M0 0L10 0" fill="none"/></g></defs>
         <g transform="translate(50 40)"><g transform="rotate(90)"><use href="#arrow" x="5"/></g></g>
         <use xlink:href="#arrow" transform="scale(2)" x="30" y="10" xmlns:xlink="http://www.w3.org/1999/xlink"/>
         <line id="one" x1="1" y1="1" x2="9" y2="1"/><line x1="1" y1="3" x2="9" y2="3" style="stroke:#00ff00"/>`,
      ),
    );
    expect(
      off(field, 0, [
        [50, 45],
        [50, 55],
      ]),
    ).toBeLessThan(1e-5);
    expect(
      off(field, 1, [
        [60, 20],
        [80, 20],
      ]),
    ).toBeLessThan(1e-5);
    expect(field.marks.map((mark) => [mark.colour, mark.kind === "area" ? 0 : mark.widthM])).toEqual([
      ["#202020", 0.002],
      ["#202020", 0.004],
      ["#FF0000", 0.001],
      ["#00FF00", 0.001],
    ]);
  });

  test("filled shapes are patches with their holes; a white page is no mark", () => {
    const { field } = read(
      svg(
        `<rect width="210" height="100" fill="white"/><circle cx="50" cy="50" r="20"/>
         <path fill-rule="evenodd" d="M100 20h60v60h-60zM110 30h20v20h-20z"/>`,
      ),
    );
    expect(field.marks).toHaveLength(2);
    expect(field.marks[0]).toMatchObject({
      shape: { kind: "ellipse", centreM: [0.05, 0.05], radiusXM: 0.02, radiusYM: 0.02 },
      reflectance: 0,
    });
    const floor = read(exportSvg(field)).field;
    expect(floor.marks).toEqual(field.marks);
  });

  test("a colour or a group can become walls, obstacles or zones", () => {
    const text = svg(
      `<g id="planks"><path d="M10 10L60 10L60 60" stroke="#a05000" fill="none" stroke-width="3"/></g>
       <rect x="100" y="20" width="30" height="30" fill="#336699"/><rect x="150" y="20" width="30" height="30" fill="#00aa00"/>`,
    );
    const plain = read(text);
    expect(plain.choices.map(({ key, becomes }) => [key, becomes])).toEqual([
      ["group planks", "mark"],
      ["stroke #A05000", "mark"],
      ["fill #336699", "mark"],
      ["fill #00AA00", "mark"],
    ]);
    const { field } = read(
      text,
      new Map<string, SvgKind>([
        ["group planks", "wall"],
        ["fill #336699", "obstacle"],
        ["fill #00AA00", "zone"],
      ]),
    );
    expect(field.walls.map(({ fromM, toM, thicknessM }) => [fromM, toM, thicknessM])).toEqual([
      [[0.01, 0.09], [0.06, 0.09], 0.003],
      [[0.06, 0.09], [0.06, 0.04], 0.003],
    ]);
    expect([field.obstacles.length, field.zones.length, field.marks.length]).toEqual([1, 1, 0]);
  });

  test("a curve of many points is split, and joins on", () => {
    const points = Array.from({ length: 900 }, (_, i) => `${(i / 900) * 200} ${50 + 20 * Math.sin(i / 30)}`);
    const { field } = read(svg(`<polyline points="${points.join(" ")}" fill="none" stroke="black"/>`));
    expect(field.marks.length).toBeGreaterThan(2);
    const ends = field.marks.map((mark) => (mark.kind === "line" ? [mark.pointsM[0], mark.pointsM.at(-1)] : []));
    for (let i = 1; i < ends.length; i += 1) expect(ends[i]?.[0]).toEqual(ends[i - 1]?.[1]);
  });

  test("what does not show is nothing on the floor", () => {
    const paths = [
      'fill-opacity="0"',
      'style="fill-opacity:0.0"',
      'style="fill:red;fill-opacity:0%"',
      'fill="none" stroke="red" stroke-opacity="0"',
      'opacity="0"',
      'style="opacity:0%"',
      'fill="transparent"',
      'fill="rgba(0,0,0,0)"',
      'display="none"',
    ];
    const { field, leftOut } = read(svg(paths.map((how) => `<path ${how} d="M0 0H50V50Z"/>`).join("")));
    expect([field.marks, leftOut]).toEqual([[], []]);
    const faint = ['fill-opacity="0.2"', 'style="fill-opacity:20%"', 'style="opacity:.5"', 'fill-opacity="nonsense"'];
    expect(read(svg(faint.map((how) => `<path ${how} d="M0 0H50V50Z"/>`).join(""))).field.marks).toHaveLength(4);
  });

  test("texts, pictures and what has no size are left out, and named", () => {
    const { leftOut } = read(svg('<text>hello</text><image href="x.png"/><circle r="5" cx="1e9"/>'));
    expect(leftOut).toEqual([
      "Left out: 1 text.",
      "Left out: 1 picture.",
      "Left out: 1 shape that is too small, too large or too far away.",
    ]);
  });

  test("light is the luminance of a colour: white 1, black 0, red as its share of it", () => {
    expect([reflectanceOf("#FFFFFF"), reflectanceOf("#000000"), reflectanceOf("#FF0000")]).toEqual([
      expect.closeTo(1, 4),
      0,
      expect.closeTo(0.2127, 4),
    ]);
    expect(flattenCurve([], false)).toEqual([]);
  });
});

const deep = (n: number) => `${"<g>".repeat(n)}<path d="M0 0L1 1" stroke="red"/>${"</g>".repeat(n)}`;
const bomb = `<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;">]>${svg("<text>&c;</text>")}`;
const doubling = Array.from(
  { length: 30 },
  (_, i) => `<g id="g${i + 1}"><use href="#g${i}"/><use href="#g${i}"/></g>`,
).join("");

describe("hostile files", () => {
  const refused: readonly (readonly [string, string, RegExp])[] = [
    ["an entity bomb", bomb, /entities of its own/],
    [
      "a reference to a file by an entity",
      `<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>${svg("&x;")}`,
      /entities/,
    ],
    ["an entity nobody knows", svg("&nothing;"), /not sound XML/],
    ["groups 5000 deep", svg(deep(5000)), /more than 120 deep/],
    ["a file that breaks off", svg("<path d='M0 0L1").slice(0, -8), /not sound XML/],
    ["an end that fits nothing", svg("<g></path>"), /not sound XML/],
    ["no XML at all", "hello", /not sound XML/],
    ["an empty file", "", /empty|not sound XML/],
    ["another kind of XML", "<html><body/></html>", /not an SVG drawing/],
    ["a drawing without a size", svg("", 'xmlns="http://www.w3.org/2000/svg"'), /how large it is/],
    ["a drawing of kilometres", svg("", 'width="9000m" height="3m" viewBox="0 0 1e9 1e9"'), /on each side/],
    ["a drawing of nothing", svg("", 'width="0" height="0" viewBox="0 0 0 0"'), /on each side|how large/],
    ["numbers that are none", svg("", 'width="NaNmm" height="Infinitymm"'), /how large/],
    ["70,000 elements", svg("<g/>".repeat(70_000)), /more than 60000 elements/],
    ["nine megabytes", svg(" ".repeat(9_000_000)), /8 MB is the most/],
    ["control signs", svg("\u0000"), /not sound XML/],
  ];
  test.each(refused)("%s is refused with a reason", (_, text, why) => {
    const found = importSvg(text, "x");
    expect(found.ok ? "taken" : found.problem).toMatch(why);
  });

  const cleaned: readonly (readonly [string, string, string])[] = [
    ["scripts", "<script>alert(1)</script><script href='http://x'/>", "Left out: 2 scripts and animations."],
    [
      "handlers and outside links",
      '<a href="http://x" onclick="alert(1)"><image href="http://x/y.png"/></a>',
      "Left out: 1 picture.",
    ],
    [
      "uses that go round",
      '<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>',
      "uses that go round in a circle",
    ],
    ["a use of itself", '<use id="a" href="#a"/>', "uses that go round in a circle"],
    ["a use of another file", '<use href="other.svg#x"/>', "reference to another file"],
    ["a use of nothing", '<use href="#nobody"/>', "something that is not there"],
    [
      "uses that double thirty times",
      `<g id="g0"><path d="M0 0L9 9" stroke="red"/></g>${doubling}`,
      "everything beyond the first",
    ],
    ["foreign objects", "<foreignObject><iframe src='javascript:1'/></foreignObject>", "Left out: 1 text."],
    ["places beyond any field", '<path d="M0 0L1e300 1e300" stroke="red"/>', "too far away"],
    ["2,500 marks", '<path d="M1 1L9 9" stroke="red"/>'.repeat(2500), "Left out: 501 marks beyond the first 2000."],
  ];
  test.each(cleaned)("%s: left out and named, the rest is taken", (_, inside, words) => {
    const found = read(svg(`${inside}<path id="kept" d="M10 10L50 10" stroke="black"/>`));
    expect(found.leftOut.join(" ")).toContain(words);
    expect(found.field.marks.length).toBeGreaterThan(words.includes("beyond the first 2000") ? 1999 : 0);
  });

  const odd = [
    '<path d="M"/>',
    '<path d="L5 5" stroke="red"/>',
    '<path d="M0 0 A 0 0 0 0 0 5 5" stroke="red"/>',
    '<path d="M1 1 C 2" stroke="red"/>',
    '<path d="Mx y z" stroke="red"/>',
    '<rect width="-5" height="5"/>',
    '<circle r="NaN"/>',
    '<ellipse rx="1e-30" ry="5"/>',
    '<polygon points="1,1"/>',
    '<polyline points=",,,"/>',
    '<g transform="matrix(0 0 0 0 0 0)"><rect width="5" height="5"/></g>',
    '<g transform="scale(1e200) rotate(x)"><rect width="5" height="5" stroke="red"/></g>',
    '<path style="stroke:url(#no);stroke-width:-4;fill:none" d="M0 0L9 9"/>',
    '<path stroke-dasharray="0 0" d="M0 0L9 9" stroke="red"/>',
    '<path stroke-dasharray="1e-9" d="M0 0L9 9" stroke="red"/>',
    '<style>.a{</style><path class="a" d="M0 0L9 9" stroke="currentColor"/>',
    '<svg x="5" y="5"><svg><path d="M0 0L9 9" stroke="rgb(300,-5,0)"/></svg></svg>',
    '<path data-field-list="walls" data-field-thing="{" d="M0 0L9 9"/>',
    '<path data-field-list="zones" data-field-thing="null" d="M0 0L9 9"/>',
    `<path d="M0 0${"l1 1".repeat(30_000)}" stroke="red"/>`,
    `<text>${"x".repeat(100_000)}</text>`,
    `<g id="${"a".repeat(5000)}"><path d="M1 1L9 9" stroke="red" fill="none"/></g>`,
    '<symbol id="s"><path d="M0 0L9 9" stroke="red"/></symbol><use href="#s"/><use href="#s" x="NaN"/>',
    '<path visibility="hidden" d="M0 0L9 9" stroke="red"/>',
    '<path display="none" d="M0 0L9 9" stroke="red"/>',
    '<mask><path d="M0 0L9 9" stroke="red"/></mask><clipPath><rect width="9" height="9"/></clipPath>',
    "<metadata><a:b xmlns:a='x'/></metadata><sodipodi:namedview xmlns:sodipodi='y'/>",
    '<path d="M0 0h5z m5 5h5z" fill="#f00" fill-opacity="0"/>',
    '<path d="M0,0 Q 5 5" stroke="red"/>',
    '<switch><path d="M0 0L9 9" stroke="red"/></switch>',
    '<path d="M5 5L5 5L5 5" stroke="red" fill="none"/>',
    '<path d="M5 5z" stroke="red"/>',
    '<polygon points="1 1 2 2 3 3 1 1" fill="red"/>',
    '<line x1="5" y1="5" x2="5" y2="5" stroke="red"/>',
  ];
  test.each(odd)("odd but harmless: %s", (inside) => {
    const { field } = read(svg(`${inside}<path d="M10 10L50 10" stroke="black" fill="none"/>`));
    expect(field.marks.some((mark) => mark.kind === "line" && mark.pointsM[0]?.[0] === 0.01)).toBe(true);
    expect(openField(JSON.parse(JSON.stringify(field))).ok).toBe(true);
  });

  test("anything at all is answered, and what is taken is a sound field", () => {
    const part = fc.constantFrom(
      "<g>",
      "</g>",
      '<path d="M0 0L9 9" stroke="red"/>',
      "<use href='#a'/>",
      "&lt;",
      "]]>",
      "<!--",
      "-->",
      "<?x?>",
      '"',
    );
    fc.assert(
      fc.property(fc.array(fc.oneof(part, fc.string({ maxLength: 8 })), { maxLength: 12 }), (parts) => {
        const found = importSvg(svg(parts.join("")), "x");
        if (found.ok) expect(openField(JSON.parse(JSON.stringify(found.field))).ok).toBe(true);
        else expect(found.problem).toMatch(/\.$/);
      }),
      { numRuns: 300 },
    );
  });
});
