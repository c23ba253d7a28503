// What is wrong with a field, each said at its thing, with a change that mends it. A field with problems can still be
// used: what is wrong is only what is named.
import { containsPoint, signedAreaM2 } from "../geometry/polygon.js";
import type { Point } from "../geometry/pose.js";
import { atan2, cos, sin, TAU } from "../math/trig.js";
import { edgesCross, polygonsMeet } from "./clear.js";
import { changeThing, freeThingName, moveThings, removeThings } from "./edits.js";
import type { Field } from "./schema.js";
import { lengthOf, strokePoints } from "./strokes.js";
import {
  boundsOf,
  middleOf,
  outlineOf,
  refOf,
  shiftBy,
  splitRef,
  THING_LISTS,
  type Thing,
  type ThingList,
  type ThingRef,
  thingName,
  thingOf,
} from "./things.js";

export interface FieldProblem {
  readonly code: string;
  readonly severity: "error" | "warning";
  /** The thing it is about; "field" for the field itself. */
  readonly at: ThingRef | "field";
  readonly message: string;
  readonly fix: { readonly label: string; readonly apply: (field: Field) => Field } | null;
}

const LEAST_LENGTH_M = 1e-6;
const LEAST_AREA_M2 = 1e-8;
/** Lists whose names a mission looks up. */
const NAMED: readonly ThingList[] = ["zones", "begins", "loads", "gates"];

/** Whether two edges of a closed outline cross. */
export function crossesItself(corners: readonly Point[]): boolean {
  const n = corners.length;
  const at = (i: number) => corners[i % n] as Point;
  for (let i = 0; i < n; i += 1)
    for (let j = i + 2; j < n; j += 1) {
      if (i === 0 && j === n - 1) continue;
      if (edgesCross(at(i), at(i + 1), at(j), at(j + 1))) return true;
    }
  return false;
}

/** The same corners in order around their middle: they no longer cross. */
function untangled(corners: readonly Point[]): [number, number][] {
  const [mx, my] = middleOf(boundsOf(corners));
  return [...corners]
    .sort((a, b) => atan2(a[1] - my, a[0] - mx) - atan2(b[1] - my, b[0] - mx))
    .map(([x, y]): [number, number] => [x, y]);
}

function removal(ref: ThingRef): FieldProblem["fix"] {
  return { label: "Remove it", apply: (field) => removeThings(field, [ref]) };
}

function cornersOf(thing: Thing): readonly Point[] | null {
  if ("cornersM" in thing) return thing.cornersM;
  if ("shape" in thing && typeof thing.shape === "object" && thing.shape.kind === "polygon")
    return thing.shape.cornersM;
  return null;
}

function withCorners(thing: Thing, cornersM: [number, number][]): Thing {
  if ("cornersM" in thing) return { ...thing, cornersM };
  if ("shape" in thing && typeof thing.shape === "object")
    return { ...thing, shape: { kind: "polygon", cornersM } } as Thing;
  return thing;
}

function shapeProblems(field: Field, list: ThingList, index: number): FieldProblem[] {
  const ref = refOf(list, index);
  const thing = thingOf(field, ref) as Thing;
  const name = thingName(field, ref);
  const corners = cornersOf(thing);
  const found: FieldProblem[] = [];
  const say = (code: string, severity: FieldProblem["severity"], message: string, fix: FieldProblem["fix"]) =>
    found.push({ code, severity, at: ref, message, fix });
  if (corners && crossesItself(corners))
    say("crossing-outline", "error", `The outline of ${name} crosses itself.`, {
      label: "Put its corners in order",
      apply: (now) => changeThing(now, ref, (one) => withCorners(one, untangled(cornersOf(one) ?? []))),
    });
  else if (corners && Math.abs(signedAreaM2(corners)) < LEAST_AREA_M2)
    say("no-area", "error", `${name} has no area: its corners lie in one line.`, removal(ref));
  if ("fromM" in thing && lengthOf([thing.fromM, thing.toM]) < LEAST_LENGTH_M)
    say("no-length", "error", `${name} has no length: both its ends are in one place.`, removal(ref));
  if (("pointsM" in thing || "nodes" in thing) && lengthOf(strokePoints(thing)) < LEAST_LENGTH_M)
    say("no-length", "error", `${name} has no length: all its points are in one place.`, removal(ref));
  if ("gaps" in thing && thing.gaps) {
    const length = lengthOf(strokePoints(thing));
    if (thing.gaps.some(({ atM }) => atM >= length))
      say("gap-beyond-end", "warning", `A gap of ${name} begins beyond its end.`, {
        label: "Remove that gap",
        apply: (now) =>
          changeThing(now, ref, (one) =>
            "gaps" in one ? { ...one, gaps: (one.gaps ?? []).filter(({ atM }) => atM < length) } : one,
          ),
      });
  }
  return found;
}

function onFloor(field: Field, [x, y]: Point): boolean {
  return x >= 0 && y >= 0 && x <= field.size.widthM && y <= field.size.heightM;
}

const KEEP_FROM_RIM_M = 0.15;

/** By how much to shift a point so that it lies on the floor, some way from the rim where there is room. */
function ontoFloor(field: Field, [x, y]: Point): Point {
  const within = (value: number, side: number) => {
    const keep = Math.min(KEEP_FROM_RIM_M, side / 2);
    return Math.max(keep, Math.min(side - keep, value)) - value;
  };
  return [within(x, field.size.widthM), within(y, field.size.heightM)];
}

function placeProblems(field: Field, list: ThingList, index: number): FieldProblem[] {
  const ref = refOf(list, index);
  const thing = thingOf(field, ref) as Thing;
  const name = thingName(field, ref);
  const outline = outlineOf(thing);
  const middle = list === "begins" && "xM" in thing ? ([thing.xM, thing.yM] as const) : middleOf(boundsOf(outline));
  const off =
    list === "begins" ? !onFloor(field, middle) : outline.every((p) => !onFloor(field, p)) && !onFloor(field, middle);
  if (!off) return [];
  // An open floor goes on: only what the document must have inside of it is asked for.
  if (field.edge === "open" && list !== "begins") return [];
  return [
    {
      code: "off-the-floor",
      severity: list === "begins" ? "error" : "warning",
      at: ref,
      message:
        list === "begins"
          ? `The start place ${name} lies off the floor. No robot can begin there.`
          : `${name} lies off the floor. No robot meets it.`,
      fix: {
        label: "Move it onto the floor",
        apply: (now) => moveThings(now, [ref], shiftBy(...ontoFloor(now, middle))),
      },
    },
  ];
}

/** Outlines of everything solid but one load. */
function solidOutlines(field: Field, except: number): { name: string; outline: readonly Point[] }[] {
  return (["walls", "obstacles", "boulders", "loads"] as const).flatMap((list) =>
    field[list].flatMap((thing, i) =>
      list === "loads" && i === except
        ? []
        : [{ name: thingName(field, refOf(list, i)), outline: outlineOf(thing as Thing) }],
    ),
  );
}

/** A shift that frees a load, tried in rings of 2 cm; null when there is none within 60 cm. */
function freeShift(field: Field, index: number): Point | null {
  const outline = outlineOf(field.loads[index] as Field["loads"][number]);
  const others = solidOutlines(field, index);
  const free = (dx: number, dy: number) => {
    const moved = outline.map(([x, y]): Point => [x + dx, y + dy]);
    return moved.every((p) => onFloor(field, p)) && others.every((other) => !polygonsMeet(moved, other.outline));
  };
  for (let ring = 1; ring <= 30; ring += 1) {
    const parts = 8 * ring;
    for (let i = 0; i < parts; i += 1) {
      const angle = (i / parts) * TAU;
      const [dx, dy] = [0.02 * ring * cos(angle), 0.02 * ring * sin(angle)];
      if (free(dx, dy)) return [dx, dy];
    }
  }
  return null;
}

function loadProblems(field: Field): FieldProblem[] {
  return field.loads.flatMap((load, i): FieldProblem[] => {
    const ref = refOf("loads", i);
    const outline = outlineOf(load);
    const hit = solidOutlines(field, i).find((other) => polygonsMeet(outline, other.outline));
    if (!hit) return [];
    return [
      {
        code: "load-inside",
        severity: "error",
        at: ref,
        message: `${load.name} stands inside ${hit.name}.`,
        fix: {
          label: "Move it to free floor",
          apply: (now) => {
            const by = freeShift(now, i);
            return by ? moveThings(now, [ref], shiftBy(...by)) : removeThings(now, [ref]);
          },
        },
      },
    ];
  });
}

function nameProblems(field: Field): FieldProblem[] {
  return NAMED.flatMap((list) => {
    const names = (field[list] as readonly Thing[]).map(({ name }) => name ?? "");
    return names.flatMap((name, i): FieldProblem[] => {
      if (names.indexOf(name) === i) return [];
      const other = freeThingName(name, names);
      return [
        {
          code: "twin-name",
          severity: "error",
          at: refOf(list, i),
          message: `Another of these is called ${name} too. A mission that names it means the first.`,
          fix: {
            label: `Call this one ${other}`,
            apply: (now) => changeThing(now, refOf(list, i), (thing) => ({ ...thing, name: other }) as Thing),
          },
        },
      ];
    });
  });
}

function zoneProblems(field: Field): FieldProblem[] {
  const loads = new Set(field.loads.map(({ name }) => name));
  return field.zones.flatMap((zone, i): FieldProblem[] => {
    if (zone.only === null || loads.has(zone.only)) return [];
    return [
      {
        code: "no-such-load",
        severity: "error",
        at: refOf("zones", i),
        message: `The zone ${zone.name} counts only the load ${zone.only}, and there is none of that name.`,
        fix: {
          label: "Count any load",
          apply: (now) => changeThing(now, refOf("zones", i), (thing) => ({ ...thing, only: null }) as Thing),
        },
      },
    ];
  });
}

function fieldProblems(field: Field): FieldProblem[] {
  const found: FieldProblem[] = [];
  if (field.begins.length === 0)
    found.push({
      code: "no-begin",
      severity: "warning",
      at: "field",
      message: "There is no start place. Missions begin in the middle of the floor.",
      fix: {
        label: "Add a start place",
        apply: (now) => ({
          ...now,
          begins: [{ name: "begin", xM: now.size.widthM / 2, yM: now.size.heightM / 2, headingRad: 0 }],
        }),
      },
    });
  if (field.size.cornerRadiusM > Math.min(field.size.widthM, field.size.heightM) / 2)
    found.push({
      code: "corner-too-round",
      severity: "warning",
      at: "field",
      message: "The corners are rounder than the floor is wide. They are drawn as round as it can be.",
      fix: {
        label: "As round as it can be",
        apply: (now) => ({
          ...now,
          size: { ...now.size, cornerRadiusM: Math.min(now.size.widthM, now.size.heightM) / 2 },
        }),
      },
    });
  if (field.light?.lamp && onFloor(field, [field.light.lamp.xM, field.light.lamp.yM])) {
    const { xM, yM, heightM } = field.light.lamp;
    const inside = field.obstacles.find((one) => one.heightM >= heightM && containsPoint(one.cornersM, [xM, yM]));
    if (inside)
      found.push({
        code: "lamp-inside",
        severity: "warning",
        at: "field",
        message: "The lamp hangs inside an obstacle. It lights nothing.",
        fix: { label: "Hang it 50 cm higher", apply: (now) => raiseLamp(now, inside.heightM + 0.5) },
      });
  }
  return found;
}

function raiseLamp(field: Field, heightM: number): Field {
  const lamp = field.light?.lamp;
  return lamp ? { ...field, light: { level: field.light?.level ?? 1, lamp: { ...lamp, heightM } } } : field;
}

/** Everything that is wrong with a field, in the order of its lists. */
export function checkField(field: Field): FieldProblem[] {
  return [
    ...fieldProblems(field),
    ...THING_LISTS.flatMap((list) =>
      field[list].flatMap((_, i) => [...shapeProblems(field, list, i), ...placeProblems(field, list, i)]),
    ),
    ...loadProblems(field),
    ...nameProblems(field),
    ...zoneProblems(field),
  ];
}

/** Mends what can be mended, one after another. @returns the field and what could not be mended */
export function mendField(field: Field): { field: Field; left: FieldProblem[] } {
  let now = field;
  for (let round = 0; round < 200; round += 1) {
    const next = checkField(now).find(({ fix }) => fix !== null);
    if (!next?.fix) break;
    const mended = next.fix.apply(now);
    if (mended === now) break;
    now = mended;
  }
  return { field: now, left: checkField(now) };
}

/** In words for a list: the thing's name first. */
export function problemPlace(field: Field, at: FieldProblem["at"]): string {
  return at === "field" ? field.name : `${splitRef(at)[0] === "begins" ? "start place " : ""}${thingName(field, at)}`;
}
