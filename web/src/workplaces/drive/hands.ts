// What the driver holds: gamepads, keys and fingers, read together into one handset. Which axis or button of a gamepad
// is which is kept for each kind of pad, and learned by moving it.
import { BUTTONS, HANDSET_AT_REST, type Handset, tidy } from "@giddy-pebble/core";
import { z } from "zod";
import { create } from "zustand";
import { calmTeller, LIVE_EVERY_MS } from "../../shared/calm.js";

/** Sticks by name, in the order of a handset; pushed so, their value is positive. */
export const STICKS = [
  { id: "left stick", push: "forward" },
  { id: "left stick", push: "left" },
  { id: "right stick", push: "forward" },
  { id: "right stick", push: "left" },
] as const;

const layoutSchema = z.object({
  /** Axis and sign for each stick direction; null when not bound. */
  axes: z
    .array(z.object({ axis: z.number().int().min(0), sign: z.union([z.literal(1), z.literal(-1)]) }).nullable())
    .length(4),
  /** The pad's button for each button of ours. */
  buttons: z.array(z.number().int().min(0).nullable()).length(BUTTONS.length),
});
type PadLayout = z.infer<typeof layoutSchema>;

/** The W3C standard layout: axes count right and back as positive. */
const STANDARD: PadLayout = {
  axes: [
    { axis: 1, sign: -1 },
    { axis: 0, sign: -1 },
    { axis: 3, sign: -1 },
    { axis: 2, sign: -1 },
  ],
  buttons: BUTTONS.map((_, i) => i),
};

type Learning = { readonly what: "stick" | "button"; readonly index: number };

interface HandsState {
  /** Name of the pad in use; null without one. */
  pad: string | null;
  /** It says itself that its axes are the standard ones. */
  standard: boolean;
  layout: PadLayout;
  learning: Learning | null;
  /** What happened to the pad, for people. */
  message: string | null;
}

export const useHands = create<HandsState>(() => ({
  pad: null,
  standard: true,
  layout: STANDARD,
  learning: null,
  message: null,
}));

/** The handset as it is now, and who draws it; they are told on the beat, without React. */
export const held: { now: Handset; readonly listeners: Set<() => void> } = {
  now: HANDSET_AT_REST,
  listeners: new Set(),
};
const shown = calmTeller(LIVE_EVERY_MS, () => {
  for (const listener of held.listeners) listener();
});

const KEY_PREFIX = "giddy-pebble pad ";
const PRESSED = 0.5;
/** A stick counts as moved for learning when it went this far from where it was. */
const LEARN_BY = 0.55;

const keys = new Set<string>();
/** What fingers on the page hold: sticks, levels, buttons. */
export const touched = {
  sticks: [0, 0, 0, 0] as [number, number, number, number],
  levels: [0, 0, 0.5, 0.5] as [number, number, number, number],
  buttons: new Set<number>(),
};
/** Pressed since the last frame that was sent, even if let go again already: a quick tap counts once. */
const tapped = new Set<number>();

/** The taps of the last reading were sent. A frame that was not sent leaves them for the next one. */
export function tapsSent(): void {
  tapped.clear();
}

/** A finger on a button of the page. */
export function touchButton(index: number, down: boolean): void {
  if (!down) return void touched.buttons.delete(index);
  touched.buttons.add(index);
  tapped.add(index);
}

let padIndex: number | null = null;
let restAxes: number[] = [];
let restButtons: boolean[] = [];
/** The mixing in use decides what the arrow keys are. */
let arrowsRight = false;

export function arrowsAreRightStick(yes: boolean): void {
  arrowsRight = yes;
}

export const KEY_BUTTONS: Readonly<Record<string, number>> = {
  Space: 0,
  KeyE: 1,
  KeyQ: 2,
  KeyR: 3,
  KeyZ: 4,
  KeyX: 5,
  ShiftLeft: 6,
  KeyF: 7,
  Enter: 9,
};
const DRIVING_KEYS = ["KeyW", "KeyS", "KeyA", "KeyD", "ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"];

/** Whether a key drives, so that the page does not scroll by it. */
export function isHandKey(code: string): boolean {
  return DRIVING_KEYS.includes(code) || Object.hasOwn(KEY_BUTTONS, code);
}

export function keyMoved(code: string, down: boolean): void {
  if (!down) return void keys.delete(code);
  keys.add(code);
  const button = KEY_BUTTONS[code];
  if (button !== undefined) tapped.add(button);
}

/** Everything the page itself holds is let go: it lost the focus, or the drive is over. */
export function letGo(): void {
  keys.clear();
  touched.sticks = [0, 0, 0, 0];
  touched.buttons.clear();
  tapped.clear();
  held.now = { ...HANDSET_AT_REST, levels: [0, 0, held.now.levels[2], held.now.levels[3]] };
  shown.happened();
}

function fromKeys(): Handset {
  const way = (plus: string, minus: string) => Number(keys.has(plus)) - Number(keys.has(minus));
  const [w, a] = [way("KeyW", "KeyS"), way("KeyA", "KeyD")];
  const [up, left] = [way("ArrowUp", "ArrowDown"), way("ArrowLeft", "ArrowRight")];
  let buttons = 0;
  for (const [code, button] of Object.entries(KEY_BUTTONS)) if (keys.has(code)) buttons |= 1 << button;
  const forward = tidy(w + up);
  const across = tidy(a + left);
  const sticks: Handset["sticks"] = arrowsRight ? [w, a, up, left] : [forward, across, 0, across];
  return { sticks, levels: [Number(keys.has("ShiftLeft")), Number(keys.has("KeyF")), 0, 0], buttons };
}

function pads(): (Gamepad | null)[] {
  try {
    return [...(navigator.getGamepads?.() ?? [])];
  } catch {
    return [];
  }
}

function takePad(pad: Gamepad): void {
  padIndex = pad.index;
  const name = pad.id.slice(0, 120);
  const standard = pad.mapping === "standard";
  useHands.setState({ pad: name, standard, layout: keptLayout(name) ?? STANDARD, message: null });
}

function keptLayout(name: string): PadLayout | null {
  try {
    return layoutSchema.parse(JSON.parse(localStorage.getItem(KEY_PREFIX + name) ?? ""));
  } catch {
    return null;
  }
}

function keepLayout(layout: PadLayout): void {
  const { pad } = useHands.getState();
  useHands.setState({ layout });
  if (pad) localStorage.setItem(KEY_PREFIX + pad, JSON.stringify(layout));
}

/** The pad's usual layout again. */
export function forgetLayout(): void {
  const { pad } = useHands.getState();
  if (pad) localStorage.removeItem(KEY_PREFIX + pad);
  useHands.setState({ layout: STANDARD });
}

/** Asks for one stick or button: what moves next is it. */
export function learn(learning: Learning | null): void {
  const pad = padIndex === null ? null : pads()[padIndex];
  restAxes = pad ? pad.axes.map((value) => tidy(value)) : [];
  restButtons = pad ? pad.buttons.map((button) => button.value > PRESSED) : [];
  useHands.setState({ learning });
}

function learnFrom(pad: Gamepad): void {
  const { learning, layout } = useHands.getState();
  if (!learning) return;
  if (learning.what === "stick") {
    const axis = pad.axes.findIndex((value, i) => Math.abs(tidy(value) - (restAxes[i] ?? 0)) > LEARN_BY);
    if (axis === -1) return;
    const sign = tidy(pad.axes[axis]) > (restAxes[axis] ?? 0) ? 1 : -1;
    keepLayout({ ...layout, axes: layout.axes.map((known, i) => (i === learning.index ? { axis, sign } : known)) });
  } else {
    const button = pad.buttons.findIndex(({ value }, i) => tidy(value, 0) > PRESSED && !restButtons[i]);
    if (button === -1) return;
    keepLayout({ ...layout, buttons: layout.buttons.map((known, i) => (i === learning.index ? button : known)) });
  }
  useHands.setState({ learning: null });
}

function fromPad(pad: Gamepad): Handset {
  const { layout } = useHands.getState();
  const axis = (i: number): number => {
    const bound = layout.axes[i];
    return bound ? tidy(tidy(pad.axes[bound.axis]) * bound.sign) : 0;
  };
  const level = (i: number): number => {
    const button = layout.buttons[i];
    return button === null || button === undefined ? 0 : tidy(pad.buttons[button]?.value, 0);
  };
  let buttons = 0;
  BUTTONS.forEach((_, i) => {
    const button = layout.buttons[i];
    if (button !== null && button !== undefined && tidy(pad.buttons[button]?.value, 0) > PRESSED) buttons |= 1 << i;
  });
  return { sticks: [axis(0), axis(1), axis(2), axis(3)], levels: [level(6), level(7), 0, 0], buttons };
}

const further = (a: number, b: number) => (Math.abs(b) > Math.abs(a) ? b : a);

function joined(a: Handset, b: Handset): Handset {
  const sticks = a.sticks.map((value, i) => tidy(further(value, b.sticks[i] ?? 0))) as unknown as Handset["sticks"];
  const levels = a.levels.map((value, i) => tidy(Math.max(value, b.levels[i] ?? 0), 0)) as unknown as Handset["levels"];
  return { sticks, levels, buttons: a.buttons | b.buttons };
}

function sameHands(a: Handset, b: Handset): boolean {
  return (
    a.buttons === b.buttons &&
    a.sticks.every((value, i) => value === b.sticks[i]) &&
    a.levels.every((value, i) => value === b.levels[i])
  );
}

/**
 * Reads everything once.
 * @returns whether a pad that was in use has gone since the last time
 */
export function readHands(): { readonly padGone: boolean } {
  const all = pads();
  let padGone = false;
  if (padIndex !== null && !all[padIndex]?.connected) {
    const { pad } = useHands.getState();
    padIndex = null;
    padGone = true;
    useHands.setState({ pad: null, learning: null, message: `${pad ?? "The gamepad"} is gone.` });
  }
  if (padIndex === null && !padGone) {
    const found = all.find((pad) => pad?.connected);
    if (found) takePad(found);
  }
  let touchedBits = 0;
  for (const button of [...touched.buttons, ...tapped]) touchedBits |= 1 << button;
  let now = joined(fromKeys(), { sticks: touched.sticks, levels: touched.levels, buttons: touchedBits });
  const pad = padIndex === null ? null : all[padIndex];
  if (pad) {
    learnFrom(pad);
    // While one is being found by moving it, it moves nothing else.
    if (!useHands.getState().learning) now = joined(now, fromPad(pad));
  }
  // What is the same as before is drawn already.
  const changed = !sameHands(held.now, now);
  held.now = now;
  if (changed) shown.happened();
  return { padGone };
}
