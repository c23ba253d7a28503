// One stand-in with its shelf, its time and the links to it: who drives, what is sent to whom, and when it stops.
import {
  type BeginPlace,
  BUILD_AGAIN,
  CORE_VERSION,
  type Field,
  type FromRobot,
  type Handset,
  LINK_PROTOCOL,
  openField,
  openFloor,
  type PlacedBy,
  type ProgramPackage,
  partsOf,
  READINGS_HZ,
  type Robot,
  readRobot,
  SHELF_ROOM,
  TICK_MS,
  WATCHDOG_MS,
} from "@giddy-pebble/core";
import type { StandIn } from "../standin/standIn.js";
import type { TapeReading } from "../standin/table.js";
import type { Clock } from "./clock.js";
import { frameText } from "./frameText.js";
import { Radio, type RadioManners } from "./radio.js";
import type { Sent, Shelf } from "./shelf.js";

/** Ticks made up for at most after the process was held up; beyond, the robot's time stood still. */
const MOST_LATE_TICKS = 50;
/** Longest time spent on ticks at a stretch, ms. */
const LONGEST_PASS_MS = 15;
/** Steps, notes and signs told at most between two looks at the clock; what is left follows. */
const MOST_EVENTS_A_TICK = 20;
const STATE_EVERY_MS = 1000;
const READINGS_EVERY_MS = 1000 / READINGS_HZ;
const LATE_MS = { least: 60, most: 350 } as const;

/** One link, as the host sees it. */
export interface Linked {
  readonly wantsReadings: boolean;
  /** So much waits to be sent that what can be missed is left out. */
  readonly crowded: boolean;
  send(frame: FromRobot): void;
  sendText(text: string): void;
  sendBytes(bytes: Uint8Array): void;
  close(): void;
}

export type Outcome = { readonly ok: true } | { readonly ok: false; readonly why: string };
const OK: Outcome = { ok: true };
const refuse = (why: string): Outcome => ({ ok: false, why });

export class RobotHost {
  readonly links = new Set<Linked>();
  /** Mission on the shelf that runs or ran last. */
  private mission: { readonly name: string; readonly sha256: string } | null = null;
  private driver: Linked | null = null;
  private why = "";
  private seq = -1;
  private heardAt = 0;
  private ticked: number;
  private restedAt: number;
  private nextReadings = 0;
  private sentRecords = 0;
  private sentNotes = 0;
  private sentSigns = 0;
  private seenRun = 0;
  private late = false;
  private readonly radio: Radio;
  private handsSeq = -1;
  private handsAt = Number.NEGATIVE_INFINITY;
  private hand: StandIn["hand"] = "itself";
  private pace = 1;
  private readonly stops: (() => void)[];

  constructor(
    readonly id: string,
    readonly standIn: StandIn,
    readonly shelf: Shelf,
    private readonly clock: Clock,
  ) {
    this.radio = new Radio(clock, standIn.seed);
    this.ticked = clock.now();
    this.restedAt = clock.now();
    this.stops = [clock.every(TICK_MS, () => this.pass()), clock.every(STATE_EVERY_MS, () => this.tellState())];
  }

  dispose(): void {
    for (const stop of this.stops) stop();
    for (const link of this.links) link.close();
  }

  hello(): FromRobot {
    const { built } = this.standIn;
    return {
      kind: "hello",
      protocol: LINK_PROTOCOL,
      robot: built.name,
      simulated: true,
      coreVersion: CORE_VERSION,
      room: SHELF_ROOM,
      buttons: built.sensors.filter(({ kind }) => kind === "button").map(({ name }) => name),
      plugs: [...built.sensors.map(({ name }) => name), ...built.motors.filter((m) => m.encoder).map((m) => m.name)],
    };
  }

  join(link: Linked): void {
    this.links.add(link);
    link.send(this.state(link));
    link.send({ kind: "shelf", ask: null, entries: this.shelf.entries });
  }

  /** A link is gone: whoever drove or started the run no longer can stop it, so the robot stops itself. */
  part(link: Linked): void {
    this.links.delete(link);
    if (this.driver !== link) return;
    this.stop("the link was lost");
    this.driver = null;
    this.tellState();
  }

  run(link: Linked, name: string): Outcome {
    const shelved = this.shelf.get(name);
    if (!shelved) return refuse(`There is no mission called "${name}" on this robot's shelf. Send it first.`);
    const busy = this.claim(link);
    if (!busy.ok) return busy;
    const robot = readRobot(shelved.program.robot);
    if (!robot.ok) return refuse(`The robot sent with "${name}" cannot be used: ${robot.problems[0]}.`);
    const started = this.standIn.run(shelved.program.text, robot.document, this.shelf.remembered(name));
    if (!started.ok) return started;
    this.mission = { name, sha256: shelved.entry.sha256 };
    this.begun();
    return OK;
  }

  private begun(): void {
    this.handsSeq = -1;
    this.handsAt = this.clock.now();
    this.ticked = this.clock.now();
    this.sentRecords = 0;
    this.sentNotes = 0;
    this.sentSigns = 0;
    this.seenRun = this.standIn.runCount;
    this.tellState();
  }

  /** Anyone linked may stop the robot. */
  stop(why: string): void {
    if (this.standIn.doing === "running" || this.standIn.doing === "driven") this.standIn.halt(why);
  }

  /** @param seq - rises; an older one came late and is ignored */
  drive(link: Linked, seq: number, left: number, right: number): Outcome {
    if (this.standIn.doing === "running") return refuse("The robot runs a mission. Halt it before driving by hand.");
    if (this.standIn.doing !== "driven") {
      const claimed = this.claim(link);
      if (!claimed.ok) return claimed;
      const taken = this.standIn.takeByHand();
      if (!taken.ok) return taken;
      this.mission = null;
      this.seq = -1;
      this.begun();
    } else if (this.driver !== link) return refuse("Somebody else is driving this robot. You can watch.");
    if (seq <= this.seq) return OK;
    this.seq = seq;
    this.heardAt = this.clock.now();
    this.standIn.steerByHand(left, right);
    return OK;
  }

  /** What a driver holds, over the radio: it may come late, in another order, or not at all. */
  hands(link: Linked, seq: number, handset: Handset): void {
    const { standIn, radio } = this;
    radio.pass(standIn.farM, () => {
      const running = standIn.doing === "running" && this.driver === link;
      if (running && seq > this.handsSeq) {
        this.handsSeq = seq;
        this.handsAt = this.clock.now();
        standIn.holdHands(handset);
      }
      const drives = running && standIn.hand === "driver";
      radio.pass(standIn.farM, () => link.send({ kind: "heard", seq, drives }));
    });
  }

  setRadio(manners: RadioManners): Outcome {
    this.radio.manners = manners;
    return OK;
  }

  leave(link: Linked): Outcome {
    if (this.driver !== link) return refuse("You are not driving this robot.");
    this.stop("the driver let go");
    return OK;
  }

  /** Why this link may not have the robot now; null when it may. */
  private othersHave(link: Linked): Outcome | null {
    const busy = this.standIn.doing === "running" || this.standIn.doing === "driven";
    return busy && this.driver !== link ? refuse("Somebody else is driving this robot. You can watch.") : null;
  }

  private claim(link: Linked): Outcome {
    const others = this.othersHave(link);
    if (others) return others;
    this.driver = link;
    return OK;
  }

  put(from: Sent, payload: string, program: ProgramPackage): Outcome {
    if (!this.shelf.hasRoomFor(from.name))
      return refuse(`The shelf holds ${SHELF_ROOM} missions and is full. Take one off it first.`);
    const robot = readRobot(program.robot);
    if (!robot.ok) return refuse(`The robot sent along cannot be used: ${robot.problems[0]}.`);
    const field = fieldOf(program);
    if (!field.ok) return field;
    const other = builtDifferently(this.standIn.built, robot.document);
    if (other) return refuse(other);
    const kept = onDisk(() => this.shelf.put(from, payload, program));
    if (!kept.ok) return kept;
    this.tellShelf();
    return OK;
  }

  remove(name: string): Outcome {
    if (!this.shelf.get(name)) return refuse(`There is no mission called "${name}" on the shelf.`);
    const removed = onDisk(() => this.shelf.remove(name));
    if (!removed.ok) return removed;
    this.tellShelf();
    return OK;
  }

  place(link: Linked, begin: BeginPlace, how: PlacedBy, fieldOfMission: string | null): Outcome {
    // Nobody picks up a robot that another is driving.
    const others = this.othersHave(link);
    if (others) return others;
    let field: Field = this.standIn.field.name === openFloor().name ? this.standIn.field : openFloor();
    if (fieldOfMission !== null) {
      const shelved = this.shelf.get(fieldOfMission);
      if (!shelved) return refuse(`There is no mission called "${fieldOfMission}" on the shelf.`);
      const read = fieldOf(shelved.program);
      if (!read.ok) return read;
      // The same table as before keeps its loads where they were pushed to.
      field = JSON.stringify(read.field) === JSON.stringify(this.standIn.field) ? this.standIn.field : read.field;
    }
    this.standIn.place(field, begin, how);
    this.follow();
    this.tellState();
    return OK;
  }

  tape(): TapeReading | null {
    return this.standIn.doing === "idle" ? this.standIn.tape() : null;
  }

  changePack(charge: number): Outcome {
    if (this.standIn.doing !== "idle") return refuse("The pack is changed while the robot stands. Halt it first.");
    this.standIn.changePack(charge);
    this.tellState();
    return OK;
  }

  setPace(times: number): Outcome {
    this.pace = times;
    this.tellState();
    return OK;
  }

  fault(fault: "link-drops" | "late-packets" | "tired-pack" | "unplugged" | "restart" | "none", part: string): Outcome {
    const { standIn } = this;
    if (fault === "restart") standIn.restart();
    else if (fault === "late-packets") this.late = true;
    else if (fault === "tired-pack") return this.changePack(0.05);
    else if (fault === "unplugged") {
      const plugs = this.hello();
      if (plugs.kind !== "hello" || !plugs.plugs.includes(part))
        return refuse(`This robot has no sensor or encoder called "${part}".`);
      standIn.unplugged.add(part);
    } else if (fault === "none") {
      this.late = false;
      standIn.unplugged.clear();
    } else for (const link of [...this.links]) link.close();
    this.follow();
    this.tellState();
    return OK;
  }

  /** Ticks that are due by the clock. */
  private pass(): void {
    const now = this.clock.now();
    const { standIn } = this;
    if (standIn.doing === "idle") {
      this.ticked = now;
      if (now - this.restedAt >= STATE_EVERY_MS) {
        standIn.rest((now - this.restedAt) / 1000);
        this.restedAt = now;
      }
      return;
    }
    this.restedAt = now;
    // Driven by hand its time is everybody's.
    const pace = standIn.doing === "driven" || standIn.running?.handsOver ? 1 : this.pace;
    const due = Math.floor((now - this.ticked) / TICK_MS);
    const ticks = Math.min(due, MOST_LATE_TICKS) * pace;
    this.ticked += due * TICK_MS;
    if (standIn.doing === "driven" && now - this.heardAt > WATCHDOG_MS)
      this.stop(`nothing was heard from the driver for ${WATCHDOG_MS} ms`);
    if (standIn.doing === "running" && now - this.handsAt > WATCHDOG_MS) standIn.holdHands(null);
    // Ticks that take longer than their time are left out, so that a halt is always heard at once.
    for (let i = 0; i < ticks && this.clock.now() - now < LONGEST_PASS_MS; i += 1) standIn.tick();
    this.follow();
    if (standIn.hand !== this.hand) {
      this.hand = standIn.hand;
      if (this.hand === "silent") this.why = `nothing was heard from the driver for ${WATCHDOG_MS} ms`;
      this.tellState();
    }
    if (now >= this.nextReadings) {
      this.nextReadings = now + READINGS_EVERY_MS - 1;
      this.tellReadings();
    }
  }

  /** Tells what happened since it was told last. */
  private follow(): void {
    const { standIn } = this;
    if (standIn.running) return this.tellEvents();
    if (this.seenRun === 0 || !standIn.last) return;
    const { summary } = standIn.last;
    this.why = summary.reason;
    const { mission } = this;
    // A disk that does not take it costs the memory, not the run.
    if (mission) onDisk(() => this.shelf.keep(mission.name, summary.remembered));
    this.tellFinal();
    this.tellAll({ kind: "ended", run: this.seenRun, mission: this.mission?.name ?? null, summary });
    this.seenRun = 0;
    this.tellState();
  }

  /** Some of what happened since it was told last: a mission that notes in a loop must not hold up a halt. */
  private tellEvents(): void {
    const machine = this.standIn.running?.run.brain;
    if (!machine) return;
    const run = this.standIn.runCount;
    let room = MOST_EVENTS_A_TICK;
    for (; this.sentRecords < machine.records.length && room > 0; this.sentRecords += 1, room -= 1) {
      const record = machine.records[this.sentRecords];
      if (record)
        this.tellAll({
          kind: "step",
          run,
          tick: record.startTick,
          line: record.line,
          step: record.step,
          endedBy: null,
        });
    }
    for (; this.sentNotes < machine.notes.length && room > 0; this.sentNotes += 1, room -= 1) {
      const note = machine.notes[this.sentNotes];
      if (note) this.tellAll({ kind: "note", run, ...note });
    }
    for (; this.sentSigns < machine.signs.length && room > 0; this.sentSigns += 1, room -= 1) {
      const sign = machine.signs[this.sentSigns];
      if (sign) this.tellAll({ kind: "sign", run, tick: sign.tick, sign: sign.kind, text: sign.text });
    }
  }

  /** How the last step ended, once the run is over, and the newest notes; all of them stand in the summary. */
  private tellFinal(): void {
    const { steps, notes } = this.standIn.last?.summary ?? { steps: [], notes: [] };
    this.sentNotes = Math.max(this.sentNotes, notes.length - MOST_EVENTS_A_TICK);
    for (; this.sentNotes < notes.length; this.sentNotes += 1) {
      const note = notes[this.sentNotes];
      if (note)
        this.tellAll({
          kind: "note",
          run: this.seenRun,
          tick: note.atMs / TICK_MS,
          name: note.name,
          value: note.value,
        });
    }
    const last = steps.at(-1);
    if (last)
      this.tellAll({
        kind: "step",
        run: this.seenRun,
        tick: last.endMs / TICK_MS,
        line: last.line,
        step: last.step,
        endedBy: last.endedBy,
      });
  }

  private tellReadings(): void {
    const { standIn } = this;
    const running = standIn.running;
    if (!running || ![...this.links].some((link) => link.wantsReadings)) return;
    const { brain, body, watched, observer } = running.run;
    const { drive } = brain;
    const { world } = body;
    const pose = observer.pose();
    const { seen } = standIn;
    const frame: FromRobot = {
      kind: "readings",
      run: standIn.runCount,
      tick: brain.tick,
      ...pose,
      leftMS: drive.left.speedMS,
      rightMS: drive.right.speedMS,
      leftDuty: drive.left.duty,
      rightDuty: drive.right.duty,
      packVolts: drive.packVolts,
      packAmps: world.packCurrentA,
      seen: seen && { robot: seen.robot, loads: [...seen.loads] },
      motorAmps: world.drives.map((shaft) => shaft.motorCurrentA),
      motorC: world.drives.map((shaft) => shaft.windingC),
      seq: Math.max(this.seq, this.handsSeq),
      values: Object.fromEntries(watched.map(({ id, slot }) => [id, brain.snapshot[slot] as number])),
    };
    const text = frameText(frame);
    for (const link of this.links) if (link.wantsReadings && !link.crowded) link.sendText(text);
  }

  tellState(): void {
    for (const link of this.links) link.send(this.state(link));
  }

  private tellShelf(): void {
    this.tellAll({ kind: "shelf", ask: null, entries: this.shelf.entries });
  }

  private tellAll(frame: FromRobot): void {
    if (this.links.size === 0) return;
    const text = frameText(frame);
    for (const link of this.links) link.sendText(text);
  }

  /** How late a frame goes out, ms: 0 but for that fault. Spread by its size, so that no chance is needed. */
  latenessMs(size: number): number {
    return this.late ? LATE_MS.least + ((size * 37) % (LATE_MS.most - LATE_MS.least)) : 0;
  }

  private state(link: Linked): FromRobot {
    const { standIn } = this;
    const { begin } = standIn;
    const busy = standIn.doing === "running" || standIn.doing === "driven";
    return {
      kind: "state",
      doing: standIn.doing,
      run: standIn.runCount,
      mission: this.mission?.name ?? null,
      sha256: this.mission?.sha256 ?? null,
      packVolts: standIn.packVolts,
      windingC: standIn.windingC,
      display: standIn.display,
      light: standIn.light,
      driver: !busy ? "nobody" : this.driver === link ? "you" : "other",
      begin: { name: begin.name, xM: begin.xM, yM: begin.yM, headingRad: begin.headingRad },
      field: standIn.field.name,
      unplugged: [...standIn.unplugged],
      pace: this.pace,
      hand: standIn.hand,
      why: this.why,
    };
  }
}

/** Writes to the shelf's folder; a disk that does not take it is said, and nothing else happens. */
function onDisk(write: () => void): Outcome {
  try {
    write();
    return OK;
  } catch (error) {
    const { code } = error as { code?: unknown };
    if (code === "ENOSPC" || code === "EDQUOT")
      return refuse("The disk is full, so the shelf was not changed. Make room on it and try again.");
    return refuse(
      `The shelf's folder cannot be written (${String(code)}). Check that its disk is there and try again.`,
    );
  }
}

function fieldOf(
  program: ProgramPackage,
): { readonly ok: true; readonly field: Field } | { readonly ok: false; readonly why: string } {
  if (program.field === null) return { ok: true, field: openFloor() };
  const read = openField(program.field);
  return read.ok
    ? { ok: true, field: read.document }
    : { ok: false, why: `The field sent along cannot be used: ${read.problems[0]}.` };
}

/** Why a document cannot be this robot's: it has other parts than were built; empty when it has the same. */
function builtDifferently(built: Robot, sent: Robot): string {
  const parts = (robot: Robot) => partsOf(robot).map(({ ref, kind }) => `${kind} "${ref}"`);
  const [have, want] = [parts(built), parts(sent)];
  const more = want.find((part) => !have.includes(part));
  const less = have.find((part) => !want.includes(part));
  if (more) return `The simulated robot was built without the ${more}. ${BUILD_AGAIN}`;
  if (less) return `The simulated robot still has a ${less}, which the drawing no longer has. ${BUILD_AGAIN}`;
  const order = have.findIndex((part, i) => part !== want[i]);
  return order === -1 ? "" : `The simulated robot's parts are in another order. ${BUILD_AGAIN}`;
}
