// Changes of a field as people make them: each takes a field and gives a new one, and touches only what it names.
import type { Point } from "../geometry/pose.js";
import { FIELD_LIMITS, type Field } from "./schema.js";
import {
  type Bounds,
  boundsOf,
  boundsOfRefs,
  middleOf,
  mirrorAcross,
  moveThing,
  outlineOf,
  type PlaneMap,
  refOf,
  shiftBy,
  splitRef,
  THING_LISTS,
  type Thing,
  type ThingList,
  type ThingRef,
  thingOf,
  turnAbout,
} from "./things.js";

/** A field changed by hand is no longer what its ready start makes. */
function byHand(field: Field): Field {
  const { made: _, ...rest } = field;
  return rest;
}

function withList(field: Field, list: ThingList, things: readonly Thing[]): Field {
  return { ...byHand(field), [list]: things };
}

/** @returns the field with one thing changed; the same field when it is not there */
export function changeThing(field: Field, ref: ThingRef, change: (thing: Thing) => Thing): Field {
  const [list, index] = splitRef(ref);
  const things = field[list] as readonly Thing[];
  if (!things[index]) return field;
  return withList(
    field,
    list,
    things.map((thing, i) => (i === index ? change(thing) : thing)),
  );
}

function changeThings(field: Field, refs: readonly ThingRef[], change: (thing: Thing) => Thing): Field {
  return refs.reduce((now, ref) => changeThing(now, ref, change), field);
}

export function moveThings(field: Field, refs: readonly ThingRef[], motion: PlaneMap): Field {
  return changeThings(field, refs, (thing) => moveThing(thing, motion));
}

/** Puts a thing on the field, on top of its kind. @returns null when there is no room for more of its kind */
export function addThing(field: Field, list: ThingList, thing: Thing): { field: Field; ref: ThingRef } | null {
  const things = field[list] as readonly Thing[];
  if (things.length >= FIELD_LIMITS[list]) return null;
  return { field: withList(field, list, [...things, thing]), ref: refOf(list, things.length) };
}

export function removeThings(field: Field, refs: readonly ThingRef[]): Field {
  const gone = new Set(refs);
  return THING_LISTS.reduce((now, list) => {
    const left = (now[list] as readonly Thing[]).filter((_, i) => !gone.has(refOf(list, i)));
    return left.length === now[list].length ? now : withList(now, list, left);
  }, field);
}

/** Things to paste elsewhere, by their lists. */
export type Clip = Partial<Record<ThingList, readonly Thing[]>>;

export function copyThings(field: Field, refs: readonly ThingRef[]): Clip {
  const clip: Record<string, Thing[]> = {};
  for (const ref of refs) {
    const thing = thingOf(field, ref);
    if (!thing) continue;
    const [list] = splitRef(ref);
    clip[list] = [...(clip[list] ?? []), thing];
  }
  return clip;
}

/** A name that nobody in the list has: "bay", "bay 2", … */
export function freeThingName(name: string, taken: readonly (string | undefined)[]): string {
  if (!taken.includes(name)) return name;
  const stem = name.replace(/ \d+$/, "");
  for (let n = 2; ; n += 1) if (!taken.includes(`${stem} ${n}`)) return `${stem} ${n}`;
}

/** @returns the field with the copies, which they are, and how many found no room */
export function pasteThings(
  field: Field,
  clip: Clip,
  motion: PlaneMap,
): { field: Field; refs: ThingRef[]; noRoom: number } {
  let now = field;
  const refs: ThingRef[] = [];
  let noRoom = 0;
  for (const list of THING_LISTS) {
    for (const thing of clip[list] ?? []) {
      const taken = (now[list] as readonly Thing[]).map(({ name }) => name);
      const moved = moveThing(thing, motion);
      const named = moved.name === undefined ? moved : { ...moved, name: freeThingName(moved.name, taken) };
      const added = addThing(now, list, named as Thing);
      if (!added) {
        noRoom += 1;
        continue;
      }
      now = added.field;
      refs.push(added.ref);
    }
  }
  return { field: now, refs, noRoom };
}

/** Copies along a line: each a step farther than the last. @param count - copies beside the first */
export function duplicateThings(
  field: Field,
  refs: readonly ThingRef[],
  step: Point,
  count: number,
): { field: Field; refs: ThingRef[] } {
  const clip = copyThings(field, refs);
  let now = field;
  const made: ThingRef[] = [];
  for (let i = 1; i <= count; i += 1) {
    const pasted = pasteThings(now, clip, shiftBy(step[0] * i, step[1] * i));
    now = pasted.field;
    made.push(...pasted.refs);
  }
  return { field: now, refs: made };
}

export const ALIGNMENTS = ["left", "middle across", "right", "top", "middle along", "bottom"] as const;
export type Alignment = (typeof ALIGNMENTS)[number];

function alignedBy(own: Bounds, all: Bounds, how: Alignment): Point {
  if (how === "left") return [all.lowX - own.lowX, 0];
  if (how === "right") return [all.highX - own.highX, 0];
  if (how === "middle across") return [middleOf(all)[0] - middleOf(own)[0], 0];
  if (how === "top") return [0, all.highY - own.highY];
  if (how === "bottom") return [0, all.lowY - own.lowY];
  return [0, middleOf(all)[1] - middleOf(own)[1]];
}

export function alignThings(field: Field, refs: readonly ThingRef[], how: Alignment): Field {
  const all = boundsOfRefs(field, refs);
  if (!all) return field;
  return changeThings(field, refs, (thing) =>
    moveThing(thing, shiftBy(...alignedBy(boundsOf(outlineOf(thing)), all, how))),
  );
}

/** Middles at equal distances between the two outermost, along x or y. */
export function distributeThings(field: Field, refs: readonly ThingRef[], axis: "x" | "y"): Field {
  const k = axis === "x" ? 0 : 1;
  const placed = refs
    .flatMap((ref) => {
      const thing = thingOf(field, ref);
      return thing ? [{ ref, at: middleOf(boundsOf(outlineOf(thing)))[k] }] : [];
    })
    .sort((a, b) => a.at - b.at);
  const first = placed[0]?.at ?? 0;
  const step = ((placed.at(-1)?.at ?? 0) - first) / Math.max(1, placed.length - 1);
  return placed.reduce((now, { ref, at }, i) => {
    const by = first + i * step - at;
    return moveThings(now, [ref], axis === "x" ? shiftBy(by, 0) : shiftBy(0, by));
  }, field);
}

/** About the middle of all of them together. */
export function turnThings(field: Field, refs: readonly ThingRef[], rad: number): Field {
  const bounds = boundsOfRefs(field, refs);
  return bounds ? moveThings(field, refs, turnAbout(middleOf(bounds), rad)) : field;
}

export function mirrorThings(field: Field, refs: readonly ThingRef[], direction: "across" | "along"): Field {
  const bounds = boundsOfRefs(field, refs);
  if (!bounds) return field;
  const [x, y] = middleOf(bounds);
  return moveThings(field, refs, mirrorAcross(direction, direction === "across" ? x : y));
}

/** To the top of its kind or below all others: what is drawn last is seen. @returns the field and where they are now */
export function reorderThings(
  field: Field,
  refs: readonly ThingRef[],
  where: "front" | "back",
): { field: Field; refs: ThingRef[] } {
  const chosen = new Set(refs);
  let now = field;
  const found: ThingRef[] = [];
  for (const list of THING_LISTS) {
    const things = now[list] as readonly Thing[];
    const picked = things.filter((_, i) => chosen.has(refOf(list, i)));
    if (picked.length === 0) continue;
    const rest = things.filter((_, i) => !chosen.has(refOf(list, i)));
    now = withList(now, list, where === "front" ? [...rest, ...picked] : [...picked, ...rest]);
    found.push(...picked.map((_, i) => refOf(list, where === "front" ? rest.length + i : i)));
  }
  return { field: now, refs: found };
}
