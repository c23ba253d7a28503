// What a person does in the Field workplace beside what every open document has: choosing, drawing, changing things.
import {
  ALIGNMENTS,
  type Alignment,
  addThing,
  alignThings,
  type Clip,
  changeThing,
  copyThings,
  distributeThings,
  duplicateThings,
  type Field,
  findStart,
  freeThingName,
  makeField,
  mirrorThings,
  moveThings,
  openField,
  PI,
  type Point,
  pasteThings,
  removeThings,
  reorderThings,
  shiftBy,
  splitRef,
  startNumbers,
  THING_WORDS,
  type Thing,
  type ThingRef,
  thingName,
  thingOf,
  tidyNumbers,
  turnThings,
} from "@giddy-pebble/core";
import { api } from "../../shared/api.js";
import { withoutPng, withPng } from "../../shared/field/pictures.js";
import { unpacked } from "../../shared/field/unpacking.js";
import { go } from "../../shared/going.js";
import { missionText } from "../../shared/newMission.js";
import { linkTo, placed } from "../../shared/place.js";
import { documentActions } from "../../shared/shell/documentStore.js";
import { whenLeft } from "../../shared/visit.js";
import { type Drawing, finished, isWhole, TAKES, type ToolId, takesOf } from "./drawing.js";
import { derived, type FieldPanel, initialState, useField } from "./state.js";

const get = useField.getState;
const set = useField.setState;

export const {
  start,
  returnTo,
  openDocument: openFieldDocument,
  change,
  undo,
  redo,
  nameRevision,
  restoreRevision,
  make,
  freeName,
  settle,
} = documentActions<Field>({
  kind: "field",
  place: "field",
  get,
  set,
  present: () => get().field,
  put: (field, changes, fresh) => {
    const { gridM, chosen, probe } = get();
    // While something is dragged it is looked over once it rests.
    const dragged = !fresh && /^(drag|handle)/.test(changes.typing?.key ?? "");
    if (dragged) checkSoon();
    set({
      ...(fresh
        ? { ...initialState(), gridM, probe: { ...probe, pose: beginPose(field), result: null, spans: {} } }
        : {}),
      ...changes,
      field,
      chosen: fresh ? [] : chosen.filter((ref) => thingOf(field, ref) !== null),
      ...(dragged ? {} : derived(field)),
    });
  },
  read: openField,
  stored: withoutPng,
  complete: async (field) => unpacked(await withPng(field)),
});

const REST_MS = 150;
let resting: ReturnType<typeof setTimeout> | null = null;
whenLeft(() => {
  if (resting !== null) clearTimeout(resting);
  resting = null;
  locked.clear();
});

function checkSoon(): void {
  if (resting !== null) clearTimeout(resting);
  resting = setTimeout(() => {
    resting = null;
    set(derived(get().field));
  }, REST_MS);
}

function beginPose(field: Field) {
  const begin = field.begins[0];
  return begin
    ? { xM: begin.xM, yM: begin.yM, headingRad: begin.headingRad }
    : { xM: field.size.widthM / 2, yM: field.size.heightM / 2, headingRad: 0 };
}

export function showPanel(panel: FieldPanel): void {
  set({ panel: get().panel === panel ? "none" : panel });
}

export function choose(refs: readonly ThingRef[]): void {
  set({ chosen: refs });
}

/** Adds a thing to what is chosen, or takes it out. */
export function chooseAlso(ref: ThingRef): void {
  const { chosen } = get();
  set({ chosen: chosen.includes(ref) ? chosen.filter((one) => one !== ref) : [...chosen, ref] });
}

/** What is chosen, in words. */
function chosenWords(refs: readonly ThingRef[], field: Field): string {
  const [ref] = refs;
  if (ref && refs.length === 1) return thingName(field, ref);
  return `${refs.length} things`;
}

export function takeTool(tool: ToolId): void {
  set({ tool, drawing: null, typed: null, measure: [], snapped: null, chosen: tool === "choose" ? get().chosen : [] });
}

function changeChosen(label: string, act: (field: Field, refs: readonly ThingRef[]) => Field, typing?: string): void {
  const { field, chosen } = get();
  const free = chosen.filter((ref) => !isLocked(ref));
  if (free.length === 0) {
    if (chosen.length > 0) set({ message: "It is locked. Unlock it in the list on the left." });
    return;
  }
  change(tidyField(act(field, free)), `${label} ${chosenWords(free, field)}`, typing);
}

function tidyField(field: Field): Field {
  const { field: before } = get();
  if (field === before) return field;
  // The picture's bytes are long; they hold no number.
  const { picture, ...rest } = field;
  return { ...tidyNumbers(rest), ...(picture ? { picture } : {}) } as Field;
}

export function changeOne(ref: ThingRef, label: string, act: (thing: Thing) => Thing, typing?: string): void {
  const { field } = get();
  change(tidyField(changeThing(field, ref, act)), label, typing);
}

export function changeField(label: string, act: (field: Field) => Field, typing?: string): void {
  change(tidyField(act(get().field)), label, typing);
}

export function nudge(dx: number, dy: number): void {
  changeChosen("moving", (field, refs) => moveThings(field, refs, shiftBy(dx, dy)), "nudge");
}

export function removeChosen(): void {
  changeChosen("removing", removeThings);
  set({ chosen: [] });
}

/** Kept beyond the page, so that things go from one field to another. */
const CLIP_KEY = "giddy-pebble field clip";

export function copyChosen(): void {
  const { field, chosen } = get();
  if (chosen.length === 0) return;
  try {
    sessionStorage.setItem(CLIP_KEY, JSON.stringify(copyThings(field, chosen)));
    set({ message: `Copied: ${chosenWords(chosen, field)}` });
  } catch {
    set({ message: "This browser keeps no more. Copy fewer things at once." });
  }
}

export function cutChosen(): void {
  copyChosen();
  removeChosen();
}

export function paste(): void {
  const { field } = get();
  let clip: Clip;
  try {
    clip = JSON.parse(sessionStorage.getItem(CLIP_KEY) ?? "null") ?? {};
  } catch {
    return;
  }
  const pasted = pasteThings(field, clip, shiftBy(0.03, -0.03));
  if (pasted.refs.length === 0) return set({ message: "There is nothing to paste. Copy something first." });
  change(tidyField(pasted.field), `pasting ${pasted.refs.length} things`);
  set({ chosen: pasted.refs, ...(pasted.noRoom > 0 ? { message: `${pasted.noRoom} things found no room.` } : {}) });
}

export function duplicate(count: number, step: Point): void {
  const { field, chosen } = get();
  const made = duplicateThings(field, chosen, step, count);
  if (made.refs.length === 0) return;
  change(tidyField(made.field), `duplicating ${chosenWords(chosen, field)}`);
  set({ chosen: made.refs });
}

export const turn = (quarters: number) =>
  changeChosen("turning", (field, refs) => turnThings(field, refs, (quarters * PI) / 2));
export const mirror = (direction: "across" | "along") =>
  changeChosen("mirroring", (field, refs) => mirrorThings(field, refs, direction));
export const align = (how: Alignment) => changeChosen("aligning", (field, refs) => alignThings(field, refs, how));
export const distribute = (axis: "x" | "y") =>
  changeChosen("spreading", (field, refs) => distributeThings(field, refs, axis));
export { ALIGNMENTS };

export function reorder(where: "front" | "back"): void {
  const { field, chosen } = get();
  const moved = reorderThings(field, chosen, where);
  change(moved.field, `${where === "front" ? "bringing forward" : "sending back"} ${chosenWords(chosen, field)}`);
  set({ chosen: moved.refs });
}

/** Locks belong to the screen, not to the document: nobody else is bound by them. */
const locked = new Set<string>();

function lockKey(ref: ThingRef): string {
  const { open, field } = get();
  return `${open?.id ?? ""} ${splitRef(ref)[0]} ${thingName(field, ref)}`;
}

export function isLocked(ref: ThingRef): boolean {
  return locked.has(lockKey(ref));
}

export function toggleLock(refs: readonly ThingRef[]): void {
  const all = refs.every(isLocked);
  for (const ref of refs) {
    if (all) locked.delete(lockKey(ref));
    else locked.add(lockKey(ref));
  }
  set({ chosen: [...get().chosen], message: all ? "Unlocked." : "Locked: it stays where it is." });
}

// --- drawing

/** The next point of what is drawn. */
export function addPoint(at: Point, dragged = false): void {
  const { tool, drawing } = get();
  if (tool === "choose" || tool === "measure") return;
  const now: Drawing = { tool, points: [...(drawing?.points ?? []), at], now: at, dragged };
  // A point on the first one closes an outline.
  const closes =
    takesOf(tool) === "outline" &&
    now.points.length > 3 &&
    Math.hypot(at[0] - (now.points[0] as Point)[0], at[1] - (now.points[0] as Point)[1]) < 0.003;
  set({ drawing: closes ? { ...now, points: now.points.slice(0, -1) } : now });
  if (closes || isWhole(now)) finishDrawing();
}

export function moveDrawing(at: Point): void {
  const { drawing } = get();
  if (drawing) set({ drawing: { ...drawing, now: at } });
}

/** Ends what is drawn and puts it on the field. */
export function finishDrawing(): void {
  const { drawing, field } = get();
  if (!drawing) return;
  const done = finished(drawing, field);
  if (!done) {
    const least = TAKES[drawing.tool] === "outline" ? "three corners, or a box" : "two points apart from each other";
    return set({ drawing: null, typed: null, message: `It needs ${least}.` });
  }
  const added = addThing(field, done.list, tidyNumbers(done.thing));
  if (!added)
    return set({ drawing: null, message: `There is no room for more ${THING_WORDS[done.list][1].toLowerCase()}.` });
  change(tidyField(added.field), `drawing a ${THING_WORDS[done.list][0]}`);
  set({ drawing: null, typed: null, chosen: [added.ref], snapped: null });
}

/** Escape and Backspace while drawing: takes back a point, or all of it. */
export function takeBack(all: boolean): boolean {
  const { drawing, typed, measure, tool } = get();
  if (typed) return set({ typed: null }) === undefined;
  if (drawing) {
    const points = all ? [] : drawing.points.slice(0, -1);
    set({ drawing: points.length > 0 ? { ...drawing, points } : null });
    return true;
  }
  if (measure.length > 0) return set({ measure: [] }) === undefined;
  if (all && tool !== "choose") {
    takeTool("choose");
    return true;
  }
  return false;
}

export function lastPoint(): Point | null {
  return get().drawing?.points.at(-1) ?? null;
}

// --- ready starts

/** A number of the ready start the field was made from: the field is made anew. */
export function setStartNumber(key: string, value: number): void {
  const { field } = get();
  const ready = field.made ? findStart(field.made.start) : null;
  if (!ready || !field.made) return;
  const numbers = startNumbers(ready, { ...field.made.numbers, [key]: value });
  const made = makeField(ready, field.name, numbers);
  change(
    { ...made, about: field.about || made.about, surface: field.surface },
    `${ready.title}: ${key}`,
    `start ${key}`,
  );
}

/** Another field, from a ready start. */
export async function makeFrom(startId: string, name: string): Promise<string | null> {
  const ready = findStart(startId);
  if (!ready) return "There is no such ready start.";
  return make(makeField(ready, freeName(name === "" ? ready.title : name)), `from the ready start ${ready.title}`);
}

/** A mission that begins on the field that is open, and the Mission workplace with it. @returns what went wrong, as a sentence */
export async function missionHere(): Promise<string | null> {
  const { field } = get();
  const [robots, missions] = [await api.documents("robot"), await api.documents("mission")];
  if (!robots.ok) return robots.message;
  if (!missions.ok) return missions.message;
  const list = robots.value.documents;
  const robot = (list.find(({ id }) => id === placed("robot")) ?? list[0])?.name;
  const text = missionText({ robot, field: field.name, begin: field.begins[0]?.name });
  const name = freeThingName(
    `On ${field.name}`,
    missions.value.documents.map((one) => one.name),
  );
  const made = await api.create("mission", name, text, "made");
  if (!made.ok) return made.message;
  go(linkTo(`/mission?mission=${made.value.document.id}`));
  return null;
}
