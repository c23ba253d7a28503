// What a person holds: two sticks, sixteen buttons, two triggers and two sliders, whatever made them: a gamepad,
// keys, or a finger. Sticks count as the robot does: forward and left are positive.

export interface Handset {
  /** Left stick forward, left stick left, right stick forward, right stick left, each -1..1. */
  readonly sticks: readonly [leftForward: number, leftAcross: number, rightForward: number, rightAcross: number];
  /** Left and right trigger, first and second slider, each 0..1. */
  readonly levels: readonly [number, number, number, number];
  /** Bit i is button i of BUTTONS. */
  readonly buttons: number;
}

/** Buttons by where they lie, in the order of the W3C Gamepad API's standard layout. */
export const BUTTONS = [
  "thumb.lower",
  "thumb.right",
  "thumb.left",
  "thumb.upper",
  "shoulder.left",
  "shoulder.right",
  "trigger.left",
  "trigger.right",
  "middle.left",
  "middle.right",
  "stick.left",
  "stick.right",
  "cross.up",
  "cross.down",
  "cross.left",
  "cross.right",
] as const;

/** What can be set anywhere between two ends. */
export const LEVELS = ["trigger.left", "trigger.right", "slider.one", "slider.two"] as const;

export const HANDSET_AT_REST: Handset = { sticks: [0, 0, 0, 0], levels: [0, 0, 0, 0], buttons: 0 };

const REST = 0.1;

/** Whether nobody asks anything of it: sticks near their middles and no button down. Sliders stay where they are put. */
export function atRest({ sticks, buttons }: Handset): boolean {
  return buttons === 0 && sticks.every((value) => Math.abs(value) < REST);
}

/** Any number, NaN and infinities too, to one a handset can hold. */
export function tidy(value: unknown, least = -1): number {
  if (typeof value !== "number" || !(Math.abs(value) >= 0)) return 0;
  return Math.max(least, Math.min(1, value));
}
