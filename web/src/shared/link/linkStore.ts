// The linked robot, for every workplace: found, linked and linked again by itself, and what it last said of itself.
import {
  BUILD_AGAIN,
  type FrameOf,
  type FromRobot,
  MOST_PACKAGE_BYTES,
  PART_CHARS,
  type RunSummary,
  type ShelfEntry,
  type Trace,
} from "@giddy-pebble/core";
import { create } from "zustand";
import { api } from "../api.js";
import { beforeLeaving, inThisVisit, whenLeft } from "../visit.js";
import { BoardSocket, type PutProgress } from "./boardSocket.js";
import { LINK_LOST, LinkClient, type LinkSocket, robotSocket } from "./linkClient.js";
import { BenchPort, type BoardKind, type PagePort, pageSerial } from "./serialPort.js";

interface FoundRobot {
  readonly id: string;
  readonly name: string;
  readonly simulated: boolean;
  readonly doing: string;
  readonly packVolts: number;
}

interface LinkState {
  /** Robots that can be linked; null before anybody looked. */
  found: readonly FoundRobot[] | null;
  /** Robot this browser wants to be linked to. */
  wanted: string | null;
  is: "none" | "linking" | "linked" | "lost";
  hello: FrameOf<"hello"> | null;
  state: FrameOf<"state"> | null;
  shelf: readonly ShelfEntry[];
  /** Robot whose stand-in was built from another drawing than the one it was asked to run by. */
  outdated: string | null;
  /** How far a mission is on its way to a board; null while none is. */
  putting: PutProgress | null;
  /** What happened last, for people; null when nothing is to be said. */
  message: string | null;
  panel: boolean;
}

export const useLink = create<LinkState>(() => ({
  found: null,
  wanted: null,
  is: "none",
  hello: null,
  state: null,
  shelf: [],
  outdated: null,
  putting: null,
  message: null,
  panel: false,
}));

const get = useLink.getState;
const set = useLink.setState;
const WANTED_KEY = "giddy-pebble linked robot";
const RETRY_MS = { least: 250, most: 2000 } as const;

let client: LinkClient | null = null;
/** The line to a board, while one is linked. */
let board: BoardSocket | null = null;
/** The browser's port that was chosen for a board. */
let chosenPort: PagePort | null = null;
/** A run that this page asked for and whose record it has not read yet. */
interface AskedRun {
  /** It ended: its record is on the way. */
  over: boolean;
  /** The workplace that asked for it was left: nobody there waits for it, and it was said that it is stopped. */
  left: boolean;
}
const runs = new Set<AskedRun>();
let retryMs: number = RETRY_MS.least;
let retry: ReturnType<typeof setTimeout> | null = null;

type Hearer = (frame: FromRobot) => void;
const hearers = new Set<Hearer>();

/** Hears every frame the robot sends. @returns what ends it */
export function hear(hearer: Hearer): () => void {
  hearers.add(hearer);
  return () => hearers.delete(hearer);
}

export function linked(): LinkClient | null {
  return get().is === "linked" ? client : null;
}

/** Links again to the robot this browser was linked to last. */
export function resumeLink(): void {
  const wanted = localStorage.getItem(WANTED_KEY);
  if (wanted && get().is === "none") link(wanted);
}

export async function findRobots(): Promise<void> {
  const found = await api.robots();
  if (found.ok) set({ found: found.value.robots });
  else set({ found: [], message: found.message });
}

export function link(id: string): void {
  unlink();
  localStorage.setItem(WANTED_KEY, id);
  set({ wanted: id, is: "linking" });
  connect(id);
}

/** Builds the stand-in of a robot from its newest drawing, anew or for the first time, and links it. @returns why not, or null */
export async function buildStandIn(name: string): Promise<string | null> {
  const documents = await api.documents("robot");
  const document = documents.ok ? documents.value.documents.find((item) => item.name === name) : undefined;
  if (!document) return "The drawing could not be read. Try again.";
  const open = await api.open(document.id);
  if (!open.ok) return open.message;
  const built = await api.buildRobot(open.value.draft?.body ?? open.value.head.body);
  if (!built.ok) return built.message;
  link(built.value.id);
  set({
    outdated: null,
    message: `The simulated robot of ${name} is built as it is drawn now. Its shelf and its ways are kept.`,
  });
  return null;
}

/** A robot was given another name: its stand-in follows, and stays linked. */
export async function renameStandIn(robot: unknown, before: string): Promise<void> {
  const found = await api.robots();
  const old = found.ok ? found.value.robots.find(({ name, simulated }) => name === before && simulated) : undefined;
  if (!old) return;
  const wasLinked = get().wanted === old.id;
  const built = await api.buildRobot(robot, before);
  if (built.ok && wasLinked) link(built.value.id);
}

export function unlink(): void {
  localStorage.removeItem(WANTED_KEY);
  if (retry) clearTimeout(retry);
  retry = null;
  client?.close();
  client = null;
  board = null;
  set({ wanted: null, is: "none", hello: null, state: null, shelf: [], putting: null });
}

/** A board is called by where it is, what it is, and whose: "bench:avr:Fog", "cable:avr:Fog". */
interface BoardPlace {
  readonly where: "bench" | "cable";
  readonly kind: BoardKind;
  readonly robot: string;
}

/** @returns null for a robot's own id */
export function boardPlace(id: string | null): BoardPlace | null {
  const [, where, kind, robot] = /^(bench|cable):(avr|micropython):(.+)$/.exec(id ?? "") ?? [];
  return where && kind && robot ? { where: where as BoardPlace["where"], kind: kind as BoardKind, robot } : null;
}

/** Links a board of this computer. */
export function linkBench(kind: BoardKind, robot: string): void {
  link(`bench:${kind}:${robot}`);
}

/** Asks for a port and links the board on it. @returns why not, or null */
export async function linkCable(kind: BoardKind, robot: string): Promise<string | null> {
  const serial = pageSerial();
  if (!serial) return NO_SERIAL;
  try {
    chosenPort = await serial.requestPort();
  } catch {
    return "No port was chosen.";
  }
  link(`cable:${kind}:${robot}`);
  return null;
}

export const NO_SERIAL =
  "This browser cannot open serial ports. Use a browser with Web Serial. Or save the mission as .zip: README.md tells how to write it.";

/** A board is written while it answers: a minute and a half is enough for compiler and line. */
const BOARD_ANSWER_MS = 150_000;

function connect(id: string): void {
  const events = { frame: heard, closed: (why: string) => lost(id, why) };
  const place = boardPlace(id);
  if (!place) {
    client = new LinkClient(robotSocket(addressOf(`/link/${id}`)), "Giddy Pebble", events);
    return;
  }
  void openBoard(place).then((socket) => {
    if (get().wanted !== id) return socket?.close();
    if (!socket) return lost(id, "No port is open to this page. Link the board again.");
    client = new LinkClient(socket, "Giddy Pebble", events, BOARD_ANSWER_MS);
  });
}

function addressOf(path: string): string {
  const scheme = window.location.protocol === "https:" ? "wss" : "ws";
  return `${scheme}://${window.location.host}${path}`;
}

async function openBoard({ where, kind, robot }: BoardPlace): Promise<LinkSocket | null> {
  const port = where === "bench" ? await benchPort(kind, robot) : (chosenPort ?? (await pageSerial()?.getPorts())?.[0]);
  if (!port) return null;
  board = new BoardSocket({ port, kind, robot, putting: (putting) => set({ putting }) });
  return board;
}

/** The line to a board of this computer: it hangs on the robot that was built from the drawing. */
async function benchPort(kind: BoardKind, robot: string): Promise<PagePort | null> {
  const found = await api.robots();
  const id = found.ok ? found.value.robots.find(({ name }) => name === robot)?.id : undefined;
  return id === undefined ? null : new BenchPort(addressOf(`/board/${id}/${kind}`));
}

/** Ends what is being put on the board. */
export function cancelPut(): void {
  board?.cancel();
}

function heard(frame: FromRobot): void {
  if (frame.kind === "hello") set({ hello: frame });
  if (frame.kind === "state") {
    if (get().is !== "linked") welcome();
    set({ state: frame });
  }
  if (frame.kind === "shelf") set({ shelf: frame.entries });
  if (frame.kind === "refused") set({ message: frame.why });
  for (const hearer of hearers) hearer(frame);
}

function welcome(): void {
  const { hello, is } = get();
  retryMs = RETRY_MS.least;
  if (is === "lost") set({ message: `Linked to ${hello?.robot ?? "the robot"} again.` });
  set({ is: "linked" });
  void client?.ask({ kind: "readings", on: true });
}

function lost(id: string, why: string): void {
  if (get().wanted !== id) return;
  const { is, hello, state } = get();
  if (is === "linked") {
    const busy = state?.doing === "running" || state?.doing === "driven";
    const robot = hello?.robot ?? "the robot";
    set({
      message: busy
        ? `The link to ${robot} was lost. It stops by itself. Linking again…`
        : `The link to ${robot} was lost. Linking again…`,
    });
  }
  // What keeps a board from being linked is worth reading.
  else if (why !== "" && why !== LINK_LOST) set({ message: why });
  set({ is: is === "linking" ? "linking" : "lost" });
  retry = setTimeout(() => connect(id), retryMs);
  retryMs = Math.min(RETRY_MS.most, retryMs * 2);
}

/** Stops the robot, whatever it does; anyone linked may. @returns false when there was nothing to stop */
export function haltRobot(): boolean {
  const { state } = get();
  // A run that was just asked for counts: its frame is on the way, and the halt comes behind it.
  const busy = [...runs].some(({ over }) => !over) || state?.doing === "running" || state?.doing === "driven";
  if (!client?.open || !busy) return false;
  void client.ask({ kind: "halt" });
  return true;
}

/** Whether a run was stopped because of the leaving that goes on. */
let stopped = false;

// The link stays when the person goes to another workplace. A run that nobody will watch any more is stopped before, so
// that it is kept as far as it came.
beforeLeaving(async () => {
  if ([...runs].some(({ left, over }) => !left && !over) && haltRobot()) stopped = true;
});
// What that workplace asked is heard by nobody any more.
whenLeft(() => {
  const name = get().hello?.robot ?? "The robot";
  for (const run of runs) run.left = true;
  // What was said before was said there.
  set({ panel: false, message: stopped ? `${name} was stopped, because you went to another page.` : null });
  stopped = false;
});

/** Asks one thing of the robot and says what it refused. */
export function ask(frame: Parameters<LinkClient["ask"]>[0]): Promise<FromRobot | null> {
  return inThisVisit(askNow(frame));
}

async function askNow(frame: Parameters<LinkClient["ask"]>[0]): Promise<FromRobot | null> {
  const answer = client ? await client.ask(frame) : ({ ok: false, why: LINK_LOST } as const);
  if (answer.ok) return answer.frame;
  set({ message: answer.why });
  return null;
}

async function sha256(text: string): Promise<string> {
  const digest = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text));
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** A program package as it goes over the link. */
export function packageText(text: string, robot: unknown, field: unknown): string {
  return JSON.stringify({ format: "giddy-pebble/package", version: 1, text, robot, field });
}

export const packageHash = sha256;

type SendOutcome = { readonly ok: true } | { readonly ok: false; readonly why: string };

/**
 * Puts a package on the robot's shelf, part by part.
 * @param progress - told the share that arrived, 0..1
 */
export function sendPackage(
  name: string,
  payload: string,
  label: string,
  origin: string,
  progress: (share: number) => void = () => {},
): Promise<SendOutcome> {
  return inThisVisit(sendParts(name, payload, label, origin, progress));
}

async function sendParts(
  name: string,
  payload: string,
  label: string,
  origin: string,
  progress: (share: number) => void,
): Promise<SendOutcome> {
  const to = linked();
  if (!to) return { ok: false, why: "No robot is linked. Link one first." };
  const bytes = new TextEncoder().encode(payload).length;
  if (bytes > MOST_PACKAGE_BYTES)
    return { ok: false, why: `This mission with its field is larger than ${MOST_PACKAGE_BYTES / 1024 / 1024} MB.` };
  set({ outdated: null });
  const begun = await to.ask({ kind: "put", name, bytes, sha256: await sha256(payload), label, origin });
  if (!begun.ok) return begun;
  for (let at = 0; at < payload.length; ) {
    // Never between the two halves of a character beyond the first plane.
    const end = at + PART_CHARS;
    const half = end < payload.length && /[\uD800-\uDBFF]/.test(payload.charAt(end - 1)) ? 1 : 0;
    const part = payload.slice(at, end - half);
    const taken = await to.ask({ kind: "part", at, text: part });
    if (!taken.ok) {
      if (taken.why.includes(BUILD_AGAIN)) set({ outdated: get().hello?.robot ?? null });
      return taken;
    }
    at += part.length;
    progress(at / payload.length);
  }
  return { ok: true };
}

type RobotRun =
  | { readonly ok: true; readonly summary: RunSummary; readonly trace: Trace }
  | { readonly ok: false; readonly why: string };

/**
 * Runs a mission of the shelf to its end. Resolves with what the robot recorded, or why there is nothing.
 * @param begun - is called once the robot says that it runs it for this page
 */
export function runOnRobot(name: string, begun: () => void = () => {}): Promise<RobotRun> {
  return inThisVisit(runToEnd(name, begun));
}

async function runToEnd(name: string, begun: () => void): Promise<RobotRun> {
  const run: AskedRun = { over: false, left: false };
  runs.add(run);
  try {
    return await followRun(name, begun, run);
  } finally {
    runs.delete(run);
  }
}

async function followRun(name: string, begun: () => void, run: AskedRun): Promise<RobotRun> {
  const to = linked();
  if (!to) return { ok: false, why: "No robot is linked. Link one first." };
  const ended = untilEnded();
  const started = await to.ask({ kind: "run", name });
  if (!started.ok) {
    ended.forget();
    return started;
  }
  begun();
  const end = await ended.promise;
  run.over = true;
  if (!end) return { ok: false, why: "The robot was switched off during the run. Nothing of this run is left." };
  // The link may have been cut and be up again: the robot keeps its latest run.
  const from = linked();
  const read = from ? await from.trace() : ({ ok: false, why: LINK_LOST } as const);
  return read.ok ? { ok: true, summary: end, trace: read.trace } : read;
}

/** The end of the run that is about to begin; null when the robot was switched on anew meanwhile. */
function untilEnded(): { promise: Promise<FrameOf<"ended">["summary"] | null>; forget: () => void } {
  let stop = () => {};
  let run = 0;
  let gone = false;
  const promise = new Promise<FrameOf<"ended">["summary"] | null>((resolve) => {
    const offFrames = hear((frame) => {
      if (frame.kind === "ended") return finish(frame.summary);
      if (frame.kind === "hello") gone = true;
      if (frame.kind !== "state") return;
      if (frame.doing === "running") run = frame.run;
      // Linked again and nothing runs: either the run ended unseen, or the robot forgot it.
      else if (gone && run > 0) finish(frame.run === run ? unseen(frame.why) : null);
    });
    const finish = (value: FrameOf<"ended">["summary"] | null) => {
      stop();
      resolve(value);
    };
    stop = offFrames;
  });
  return { promise, forget: () => stop() };
}

/** What is known of a run that ended while the link was down. */
function unseen(why: string): FrameOf<"ended">["summary"] {
  return {
    outcome: why === "" ? "finished" : "stopped",
    success: why === "",
    reason: why,
    durationMs: 0,
    score: null,
    zones: [],
    loads: [],
    contacts: [],
    heard: [],
    tippedMs: null,
    start: { xM: 0, yM: 0, headingDeg: 0 },
    end: { xM: 0, yM: 0, headingDeg: 0 },
    traceHash: "",
    steps: [],
    notes: [],
    notesDropped: 0,
    remembered: [],
    signs: [],
  };
}
