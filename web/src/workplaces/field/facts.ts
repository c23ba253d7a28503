// What each kind of thing is told by: its numbers with their ranges, and one fact for the list. Pure.
import {
  boundsOf,
  type Field,
  GRAVITY,
  lengthOf,
  lineMeaning,
  moveThing,
  outlineOf,
  plainDigits,
  RANGES,
  shiftBy,
  splitRef,
  strokePoints,
  type Thing,
  type ThingRef,
  thingOf,
} from "@giddy-pebble/core";

interface NumberFact {
  readonly key: string;
  readonly label: string;
  readonly hint?: string;
  readonly unit: string;
  readonly digits?: number;
  readonly value: number;
  readonly least: number;
  readonly most: number;
  readonly set: (thing: Thing, value: number) => Thing;
}

const { place, size, height, friction, loadMass } = RANGES;
const DEG_PER_RAD = 180 / Math.PI;
const DEG = Math.PI / 180;

function cmText(metres: number): string {
  return `${plainDigits(metres * 100, 1)} cm`;
}

type Maker = (label: string, key: string, value: number, set: (thing: Thing, value: number) => Thing) => NumberFact;

const lengthFact =
  (range: { least: number; most: number }, unit = "cm"): Maker =>
  (label, key, value, set) => ({ key, label, unit, digits: unit === "mm" ? 1 : 2, value, ...range, set });

const placeFact = lengthFact(place);
const sizeFact = lengthFact(size);
const mmFact = lengthFact(size, "mm");
const heightFact = lengthFact(height);
const shareFact: Maker = (label, key, value, set) => ({
  key,
  label,
  unit: "%",
  digits: 0,
  value,
  least: 0,
  most: 1,
  set,
});
const headingFact: Maker = (label, key, value, set) => ({
  key,
  label,
  unit: "deg",
  digits: 1,
  value,
  least: -720 * DEG,
  most: 720 * DEG,
  set,
});

const put =
  (key: string) =>
  (thing: Thing, value: number): Thing =>
    ({ ...thing, [key]: value }) as Thing;

/** Length of a line from end to end, and its direction: the far end moves. */
function endFacts(thing: Extract<Thing, { fromM: [number, number] }>): NumberFact[] {
  const [dx, dy] = [thing.toM[0] - thing.fromM[0], thing.toM[1] - thing.fromM[1]];
  const [length, heading] = [Math.hypot(dx, dy), Math.atan2(dy, dx)];
  const to = (one: Thing, reach: number, rad: number): Thing =>
    "fromM" in one
      ? { ...one, toM: [one.fromM[0] + reach * Math.cos(rad), one.fromM[1] + reach * Math.sin(rad)] }
      : one;
  return [
    sizeFact("Length", "length", length, (one, value) => to(one, value, heading)),
    headingFact("Direction", "direction", heading, (one, value) => to(one, length, value)),
  ];
}

/** Left lower corner of what has no place of its own. */
function cornerFacts(thing: Thing): NumberFact[] {
  const { lowX, lowY } = boundsOf(outlineOf(thing));
  return [
    placeFact("From the left", "left", lowX, (one, value) =>
      moveThing(one, shiftBy(value - boundsOf(outlineOf(one)).lowX, 0)),
    ),
    placeFact("From below", "below", lowY, (one, value) =>
      moveThing(one, shiftBy(0, value - boundsOf(outlineOf(one)).lowY)),
    ),
  ];
}

function boxFacts(thing: Thing): NumberFact[] {
  const { lowX, lowY, highX, highY } = boundsOf(outlineOf(thing));
  const scaled = (one: Thing, sx: number, sy: number): Thing =>
    moveThing(one, {
      point: ([x, y]) => [lowX + (x - lowX) * sx, lowY + (y - lowY) * sy],
      heading: (rad) => rad,
      square: true,
      swaps: false,
    });
  if (highX - lowX < 1e-6 || highY - lowY < 1e-6) return [];
  return [
    sizeFact("Width", "width", highX - lowX, (one, value) => stretched(one, scaled, value / (highX - lowX), 1)),
    sizeFact("Depth", "depth", highY - lowY, (one, value) => stretched(one, scaled, 1, value / (highY - lowY))),
  ];
}

function stretched(one: Thing, scaled: (one: Thing, sx: number, sy: number) => Thing, sx: number, sy: number): Thing {
  const moved = scaled(one, sx, sy);
  if (!("shape" in moved) || typeof moved.shape !== "object" || moved.shape.kind !== "ellipse") return moved;
  return {
    ...moved,
    shape: { ...moved.shape, radiusXM: moved.shape.radiusXM * sx, radiusYM: moved.shape.radiusYM * sy },
  } as Thing;
}

function strokeFacts(thing: Extract<Thing, { widthM: number }>): NumberFact[] {
  const [gap] = thing.gaps ?? [];
  const { dash } = thing;
  return [
    mmFact("Line width", "widthM", thing.widthM, put("widthM")),
    shareFact("Light it sends back", "reflectance", thing.reflectance, put("reflectance")),
    ...(dash
      ? [
          sizeFact("Dash", "dashOn", dash.onM, (one, onM) =>
            "dash" in one && one.dash ? { ...one, dash: { ...one.dash, onM } } : one,
          ),
          sizeFact("Between dashes", "dashOff", dash.offM, (one, offM) =>
            "dash" in one && one.dash ? { ...one, dash: { ...one.dash, offM } } : one,
          ),
        ]
      : []),
    ...(gap
      ? [
          lengthFact({ least: 0, most: 1000 })("First gap after", "gapAt", gap.atM, (one, atM) =>
            "gaps" in one && one.gaps ? { ...one, gaps: one.gaps.map((g, i) => (i === 0 ? { ...g, atM } : g)) } : one,
          ),
          sizeFact("Gap length", "gapLength", gap.lengthM, (one, lengthM) =>
            "gaps" in one && one.gaps ? { ...one, gaps: one.gaps.map((g) => ({ ...g, lengthM })) } : one,
          ),
        ]
      : []),
  ];
}

/** The numbers of a thing, in the order people ask for them. */
export function numbersOf(thing: Thing): NumberFact[] {
  if ("pointsM" in thing || "nodes" in thing) return [...strokeFacts(thing), ...cornerFacts(thing)];
  const facts: NumberFact[] = [];
  if ("fromM" in thing) facts.push(...endFacts(thing));
  if ("xM" in thing) {
    facts.push(placeFact("Along", "xM", thing.xM, put("xM")), placeFact("Up", "yM", thing.yM, put("yM")));
    if ("headingRad" in thing) facts.push(headingFact("Heading", "headingRad", thing.headingRad, put("headingRad")));
  }
  if ("radiusM" in thing)
    facts.push(sizeFact("Diameter", "radiusM", 2 * thing.radiusM, (one, value) => put("radiusM")(one, value / 2)));
  if ("massKg" in thing) facts.push(...loadFacts(thing));
  else if ("sizeM" in thing) facts.push(sizeFact("Size", "sizeM", thing.sizeM as number, put("sizeM")));
  if ("cornersM" in thing || ("shape" in thing && typeof thing.shape === "object"))
    facts.push(...boxFacts(thing), ...cornerFacts(thing));
  if ("heightM" in thing) facts.push(heightFact("Height", "heightM", thing.heightM, put("heightM")));
  if ("fromM" in thing && "heightM" in thing)
    facts.push(
      lengthFact({ least: 0, most: 1 }, "mm")("Thickness", "thicknessM", thing.thicknessM ?? 0, put("thicknessM")),
    );
  if ("slopeRad" in thing)
    facts.push(
      { ...headingFact("Slope", "slopeRad", thing.slopeRad, put("slopeRad")), least: 0, most: 0.7 },
      headingFact("Leads up toward", "upRad", thing.upRad, put("upRad")),
    );
  if ("reflectance" in thing)
    facts.push(shareFact("Light it sends back", "reflectance", thing.reflectance, put("reflectance")));
  if ("points" in thing)
    facts.push({
      key: "points",
      label: "Points",
      unit: "",
      digits: 0,
      value: thing.points,
      ...RANGES.points,
      set: put("points"),
    });
  return facts;
}

function loadFacts(thing: Extract<Thing, { massKg: number }>): NumberFact[] {
  const [w, h] = thing.sizeM;
  const round = thing.shape === "disc";
  const sizes = (one: Thing, size0: number, size1: number): Thing => ({ ...one, sizeM: [size0, size1] }) as Thing;
  return [
    sizeFact(round ? "Diameter" : "Length", "size0", w, (one, value) => sizes(one, value, round ? value : h)),
    ...(round ? [] : [sizeFact("Width", "size1", h, (one, value) => sizes(one, w, value))]),
    { key: "massKg", label: "Mass", unit: "g", digits: 1, value: thing.massKg, ...loadMass, set: put("massKg") },
    {
      key: "friction",
      label: "Friction on the floor",
      unit: "",
      digits: 2,
      value: thing.friction,
      ...friction,
      set: put("friction"),
    },
  ];
}

/** What a thing is, and what follows from its numbers: label and value. */
export function meaningOf(thing: Thing): (readonly [string, string])[] {
  if ("pointsM" in thing || "nodes" in thing) {
    const { lengthM, tightestM, sharpestRad } = lineMeaning(thing);
    const corner = sharpestRad * DEG_PER_RAD;
    return [
      ["Length", cmText(lengthM)],
      ["Tightest curve", Number.isFinite(tightestM) ? `radius ${cmText(tightestM)}` : "none"],
      ...(corner > 20 ? ([["Sharpest corner", `${plainDigits(corner, 0)} deg`]] as const) : []),
    ];
  }
  if ("massKg" in thing) {
    // Starts to slide at μ m g; falls over when pushed above the height where μ h = half its base.
    const push = thing.friction * thing.massKg * GRAVITY;
    const base = Math.min(thing.sizeM[0], thing.shape === "disc" ? thing.sizeM[0] : thing.sizeM[1]) / 2;
    const tips = base / thing.friction;
    return [
      ["Push that moves it", `${plainDigits(push, 2)} N`],
      ["Falls over when pushed above", tips >= thing.heightM ? "never" : cmText(tips)],
    ];
  }
  if ("slopeRad" in thing) {
    return [
      ["Rises by", `${plainDigits(Math.tan(thing.slopeRad) * 100, 1)} %`],
      ["Pulls with", `${plainDigits(Math.sin(thing.slopeRad) * 100, 1)} % of the weight`],
    ];
  }
  return [];
}

/** Facts of things as they are: a thing that changes is another one. */
const facts = new WeakMap<Thing, string>();

/** The one fact beside a thing in the list. */
export function factOf(field: Field, ref: ThingRef): string {
  const thing = thingOf(field, ref);
  if (!thing) return "";
  const known = facts.get(thing);
  if (known !== undefined) return known;
  const fact = factOfThing(thing, ref);
  facts.set(thing, fact);
  return fact;
}

function factOfThing(thing: Thing, ref: ThingRef): string {
  if ("pointsM" in thing || "nodes" in thing) return cmText(lengthOf(strokePoints(thing)));
  if ("massKg" in thing) return `${plainDigits(thing.massKg * 1000, 0)} g`;
  if ("radiusM" in thing) return `⌀ ${cmText(2 * thing.radiusM)}`;
  if ("fromM" in thing) return cmText(Math.hypot(thing.toM[0] - thing.fromM[0], thing.toM[1] - thing.fromM[1]));
  if ("points" in thing) return thing.points === 1 ? "1 point" : `${thing.points} points`;
  if ("slopeRad" in thing) return `${plainDigits(thing.slopeRad * DEG_PER_RAD, 1)} deg`;
  if (splitRef(ref)[0] === "begins" && "headingRad" in thing)
    return `${plainDigits(thing.headingRad * DEG_PER_RAD, 0)} deg`;
  const { lowX, lowY, highX, highY } = boundsOf(outlineOf(thing));
  return `${plainDigits((highX - lowX) * 100, 0)} × ${plainDigits((highY - lowY) * 100, 0)} cm`;
}
