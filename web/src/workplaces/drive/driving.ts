// A drive: frames to the robot fifty times a second, what comes back, laps, and what is kept of it.
import { type FrameOf, HANDSET_AT_REST, type Handset, LapTimer, lapFigures } from "@giddy-pebble/core";
import { create } from "zustand";
import { calmly } from "../../shared/calm.js";
import { ask, haltRobot, hear, linked, useLink } from "../../shared/link/linkStore.js";
import { runMission } from "../../shared/mission/robotRun.js";
import { useMission } from "../../shared/mission/state.js";
import { whenLeft } from "../../shared/visit.js";
import { held, letGo, readHands, tapsSent, useHands } from "./hands.js";

const BEAT_MS = 20;
/** Not driving, a frame now and then shows how good the link is. */
const IDLE_BEATS = 10;
const WINDOW_MS = 10_000;
/** A frame not answered by then is counted as lost. */
const LOST_AFTER_MS = 1500;
/** Samples kept for the strips: ten seconds. */
const STRIP = 500;

interface LinkFigures {
  /** Median of the round trips of the last ten seconds, ms; null before the first. */
  readonly roundTripMs: number | null;
  /** Share of frames of the last ten seconds without an answer. */
  readonly lost: number | null;
}

interface Laps {
  readonly times: readonly number[];
  readonly beganSec: number | null;
  readonly passed: number;
  readonly gates: number;
}

interface DriveState {
  /** Asked for and not yet over. */
  driving: boolean;
  figures: LinkFigures;
  readings: FrameOf<"readings"> | null;
  laps: Laps;
  /** Latest time of the drive in hand, s. */
  clockSec: number;
  radio: { readonly delayMs: number; readonly jitterMs: number; readonly loss: number; readonly rangeM: number | null };
  /** Channels drawn as strips. */
  strips: readonly string[];
}

const GOOD_RADIO = { delayMs: 0, jitterMs: 0, loss: 0, rangeM: null } as const;
const NO_LAPS: Laps = { times: [], beganSec: null, passed: 0, gates: 0 };
const AT_FIRST: DriveState = {
  driving: false,
  figures: { roundTripMs: null, lost: null },
  readings: null,
  laps: NO_LAPS,
  clockSec: 0,
  radio: GOOD_RADIO,
  strips: ["leftMS", "rightMS"],
};
export const useDrive = create<DriveState>(() => AT_FIRST);

/** What the robot says many times a second, as often as it can be read. */
export const useCalmDrive = calmly(useDrive);

const get = useDrive.getState;
const set = useDrive.setState;

/** Readings of the last seconds, for the strips; written by frames, read by a drawing loop. */
export const strip: FrameOf<"readings">[] = [];

interface SentFrame {
  readonly seq: number;
  readonly at: number;
  roundTripMs: number | null;
}

/** The mission's own notes, by name, as they were noted last. */
let notes: Record<string, number> = {};
let seq = 0;
let beats = 0;
let sent: SentFrame[] = [];
let laps = new LapTimer([]);
whenLeft(() => {
  rest();
  // The robot keeps its radio, and its link.
  const { radio } = get();
  set({ ...AT_FIRST, radio });
  strip.length = 0;
  sent = [];
  notes = {};
});

/** Begins to listen and to beat. @returns what ends it */
export function startBeating(): () => void {
  const timer = setInterval(beat, BEAT_MS);
  const figures = setInterval(sumUp, 500);
  const off = hear((frame) => {
    if (frame.kind === "heard") answered(frame.seq);
    else if (frame.kind === "readings") took(frame);
    else if (frame.kind === "note" && typeof frame.value === "number") notes[`note:${frame.name}`] = frame.value;
  });
  const hidden = () => {
    if (document.visibilityState === "hidden") rest();
  };
  window.addEventListener("blur", rest);
  document.addEventListener("visibilitychange", hidden);
  return () => {
    clearInterval(timer);
    clearInterval(figures);
    off();
    window.removeEventListener("blur", rest);
    document.removeEventListener("visibilitychange", hidden);
  };
}

/** Lets go of everything, and tells the robot so at once. */
function rest(): void {
  letGo();
  if (get().driving) send(HANDSET_AT_REST);
}

function beat(): void {
  const { padGone } = readHands();
  if (padGone) {
    rest();
    if (get().driving)
      useMission.setState({
        message: `${useHands.getState().message ?? "The gamepad is gone."} The robot stands. Plug it in again, or drive with keys.`,
      });
  }
  beats += 1;
  const { driving } = get();
  if (!driving) {
    // Nobody hears them: a tap before the drive does nothing in it.
    tapsSent();
    if (beats % IDLE_BEATS !== 0) return;
  }
  send(driving ? held.now : HANDSET_AT_REST);
}

function send(hands: Handset): void {
  const to = linked();
  // A link that does not keep up gets no more frames: old wishes must not pile up before new ones.
  // Nor does one that a mission is written through.
  if (!to || to.behind || useLink.getState().putting) return;
  seq += 1;
  sent.push({ seq, at: performance.now(), roundTripMs: null });
  to.send({
    kind: "hands",
    seq,
    sticks: [...hands.sticks],
    levels: [...hands.levels],
    buttons: hands.buttons,
  });
  tapsSent();
}

function answered(number: number): void {
  const frame = sent.find((one) => one.seq === number);
  if (frame) frame.roundTripMs = performance.now() - frame.at;
}

function sumUp(): void {
  const now = performance.now();
  sent = sent.filter(({ at }) => now - at < WINDOW_MS);
  const trips = sent.flatMap(({ roundTripMs }) => (roundTripMs === null ? [] : [roundTripMs])).sort((a, b) => a - b);
  const due = sent.filter(({ at, roundTripMs }) => roundTripMs !== null || now - at > LOST_AFTER_MS);
  const figures: LinkFigures = {
    roundTripMs: trips[Math.floor(trips.length / 2)] ?? null,
    lost: due.length === 0 ? null : due.filter(({ roundTripMs }) => roundTripMs === null).length / due.length,
  };
  const { figures: before } = get();
  if (before.roundTripMs !== figures.roundTripMs || before.lost !== figures.lost) set({ figures });
}

function took(frame: FrameOf<"readings">): void {
  strip.push({ ...frame, values: { ...frame.values, ...notes } });
  if (strip.length > STRIP) strip.splice(0, strip.length - STRIP);
  const clockSec = frame.tick / 100;
  const at = frame.seen?.robot ?? frame;
  const passed = get().driving && laps.add(at.xM, at.yM, clockSec);
  set({
    readings: strip.at(-1) ?? frame,
    clockSec,
    ...(passed || get().laps.gates !== laps.gates.length ? { laps: lapsNow() } : {}),
  });
}

function lapsNow(): Laps {
  return { times: [...laps.laps], beganSec: laps.beganSec, passed: laps.passed, gates: laps.gates.length };
}

/** Sends the mission if the robot holds another, starts it, and has the robot's wheels when it hands over. */
export async function startDriving(): Promise<void> {
  if (get().driving) return;
  const { field } = useMission.getState();
  laps = new LapTimer(field?.document.gates ?? []);
  strip.length = 0;
  notes = {};
  letGo();
  set({ driving: true, laps: lapsNow(), clockSec: 0, readings: null });
  try {
    await runMission();
  } finally {
    set({ driving: false });
    letGo();
    keepBest();
  }
}

export function stopDriving(): void {
  rest();
  haltRobot();
}

export async function setRadio(radio: DriveState["radio"]): Promise<void> {
  if (await ask({ kind: "radio", ...radio })) set({ radio });
}

// Best laps are kept in this browser, for each field and robot.

function lapKey(): string {
  const { field } = useMission.getState();
  return `giddy-pebble laps ${field?.document.name ?? ""}/${useLink.getState().hello?.robot ?? ""}`;
}

/** Laps of earlier drives, newest last. */
function keptLaps(): number[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(lapKey()) ?? "[]");
    return Array.isArray(kept) ? kept.filter((lap): lap is number => typeof lap === "number" && lap > 0) : [];
  } catch {
    return [];
  }
}

function keepBest(): void {
  const { times } = get().laps;
  if (times.length > 0) localStorage.setItem(lapKey(), JSON.stringify([...keptLaps(), ...times].slice(-50)));
}

/** Words for gates and laps; null on a field without gates. */
export function lapWords({ times, passed, gates, beganSec }: Laps): string | null {
  if (gates === 0) return null;
  const all = lapFigures([...keptLaps(), ...times]);
  const own = lapFigures(times);
  const parts = [`gate ${beganSec === null ? 0 : passed} of ${gates}`];
  if (own) parts.push(`${own.count} lap${own.count === 1 ? "" : "s"}, last ${clockWords(times.at(-1) ?? 0)}`);
  if (all) parts.push(`best lap ${clockWords(all.bestSec)}`);
  if (own?.unevenness !== null && own) parts.push(`even within ${((own.unevenness ?? 0) * 100).toFixed(0)} %`);
  return parts.join(" · ");
}

export function clockWords(seconds: number): string {
  const whole = Math.floor(seconds / 60);
  return `${whole}:${(seconds - whole * 60).toFixed(1).padStart(4, "0")}`;
}
