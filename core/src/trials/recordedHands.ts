// A handset's movements as columns of a trace, and back: what a drive is replayed from.

import { TICK_MS } from "../physics/constants.js";
import { BUTTONS, HANDSET_AT_REST, type Handset, tidy } from "../remote/handset.js";
import { nearestWord } from "../words/language.js";
import { type ColumnInfo, type Trace, traceColumn } from "./trace.js";

/** Columns of a handset; `buttons` is −1 while nothing was heard of the driver. */
export const HAND_COLUMNS: readonly ColumnInfo[] = [
  { id: "hand:leftForward", quantity: "left stick, forward", unit: "1" },
  { id: "hand:leftAcross", quantity: "left stick, to the left", unit: "1" },
  { id: "hand:rightForward", quantity: "right stick, forward", unit: "1" },
  { id: "hand:rightAcross", quantity: "right stick, to the left", unit: "1" },
  { id: "hand:triggerLeft", quantity: "left trigger", unit: "1" },
  { id: "hand:triggerRight", quantity: "right trigger", unit: "1" },
  { id: "hand:sliderOne", quantity: "first slider", unit: "1" },
  { id: "hand:sliderTwo", quantity: "second slider", unit: "1" },
  { id: "hand:buttons", quantity: "buttons that are down", unit: "1" },
];

/** One row of HAND_COLUMNS. */
export function handRow(handset: Handset | null): number[] {
  return handset ? [...handset.sticks, ...handset.levels, handset.buttons] : [0, 0, 0, 0, 0, 0, 0, 0, -1];
}

/** What was held at each tick of a recorded drive; null for a trace without a driver. */
export function recordedHands(trace: Trace): ((tick: number) => Handset | null) | null {
  const columns = HAND_COLUMNS.map(({ id }) => traceColumn(trace, id));
  const buttons = columns[8];
  if (!buttons || columns.some((column) => column === undefined || column === null)) return null;
  return (tick) => {
    const row = Math.max(0, Math.floor(tick));
    if (row >= buttons.length || (buttons[row] as number) < 0) return null;
    const at = (i: number) => columns[i]?.[row] ?? 0;
    return {
      sticks: [at(0), at(1), at(2), at(3)],
      levels: [at(4), at(5), at(6), at(7)],
      buttons: buttons[row] as number,
    };
  };
}

type ScriptedHands =
  | { readonly ok: true; readonly hands: (tick: number) => Handset | null }
  | { readonly ok: false; readonly why: string };

const STICK_COLUMNS = ["leftforward", "leftacross", "rightforward", "rightacross"];
const LEVEL_COLUMNS = ["triggerleft", "triggerright", "sliderone", "slidertwo"];
const ALL_COLUMNS = ["time", ...STICK_COLUMNS, ...LEVEL_COLUMNS, "buttons"];
const LONGEST_SCRIPT = 100_000;

/** A column's name without what a trace writes around it: "hand:leftForward [1]" is leftForward. */
function columnOf(written: string): string {
  const plain = written
    .trim()
    .replace(/^hand:/, "")
    .replace(/ *\[.*\]$/, "")
    .toLowerCase();
  return /^t(ime)?(_?m?s)?$/.test(plain) ? "time" : plain;
}

/** Names of buttons joined by "+", or the number a trace keeps. */
function buttonsOf(written: string): number | string {
  if (written === "" || /^-?\d+$/.test(written)) return Number(written || 0);
  let bits = 0;
  for (const name of written.split("+").map((part) => part.trim())) {
    const button = (BUTTONS as readonly string[]).indexOf(name);
    if (button < 0) return name;
    bits |= 1 << button;
  }
  return bits;
}

/**
 * What a driver does, from a table (CSV, RFC 4180): a column `time` in s (`t [ms]` in ms), and any of leftForward,
 * leftAcross, rightForward, rightAcross (-1 to 1), triggerLeft, triggerRight, sliderOne, sliderTwo (0 to 1), and buttons
 * (names joined by "+"). Each row holds until the next; before the first the sticks are at rest.
 */
export function scriptedHands(text: string): ScriptedHands {
  const rows = text
    .replace(/^\ufeff/, "")
    .split(/\r?\n/)
    .filter((row) => row.trim() !== "" && !row.startsWith("#"));
  const [head, ...body] = rows;
  if (head === undefined || body.length === 0)
    return { ok: false, why: "it needs a line of column names, and rows below it" };
  if (body.length > LONGEST_SCRIPT)
    return { ok: false, why: `it has ${body.length} rows; the most is ${LONGEST_SCRIPT}` };
  const written = head.split(",");
  const columns = written.map(columnOf);
  const time = columns.indexOf("time");
  if (time < 0) return { ok: false, why: 'it has no column "time"' };
  const inMs = /ms/.test(written[time] ?? "");
  const trace = columns.some((name) => name === "leftduty");
  const odd = columns.find((name) => !ALL_COLUMNS.includes(name));
  if (odd !== undefined && !trace) {
    const near = nearestWord(odd, ALL_COLUMNS);
    return { ok: false, why: `it has a column "${odd}", which is not known${near ? `. Did you mean "${near}"` : ""}` };
  }
  const states: { tick: number; handset: Handset | null }[] = [];
  for (const [i, row] of body.entries()) {
    const cells = row.split(",").map((cell) => cell.trim());
    const number = (name: string) => Number(cells[columns.indexOf(name)] ?? 0);
    const at = number("time") * (inMs ? 1 : 1000);
    const buttons = buttonsOf(cells[columns.indexOf("buttons")] ?? "");
    if (!(at >= (states.at(-1)?.tick ?? 0) * TICK_MS))
      return { ok: false, why: `row ${i + 2} has no time, or one before the row above` };
    if (typeof buttons === "string")
      return { ok: false, why: `row ${i + 2} has a button "${buttons}", which there is not` };
    const values = [...STICK_COLUMNS, ...LEVEL_COLUMNS].map((name) => (columns.includes(name) ? number(name) : 0));
    if (values.some((value) => !(Math.abs(value) <= 1)))
      return { ok: false, why: `row ${i + 2} has a stick or lever beyond 1` };
    const [a, b, c, d, e, f, g, h] = values.map((value, k) => tidy(value, k < 4 ? -1 : 0)) as [
      number,
      number,
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    const handset = buttons < 0 ? null : ({ sticks: [a, b, c, d], levels: [e, f, g, h], buttons } as const);
    states.push({ tick: Math.floor(at / TICK_MS + 0.5), handset });
  }
  let place = -1;
  return {
    ok: true,
    hands: (tick) => {
      if (place >= 0 && (states[place]?.tick ?? 0) > tick) place = -1;
      while (place + 1 < states.length && (states[place + 1]?.tick ?? 0) <= tick) place += 1;
      return place < 0 ? HANDSET_AT_REST : (states[place]?.handset ?? null);
    },
  };
}
