// A robot on a table: it stands somewhere, runs missions or is driven by hand, gets tired and warm, and can be
// measured with a tape. Its time is counted in ticks of 10 ms, however fast they come.
import {
  type BeginPlace,
  ByOwnCount,
  beginOf,
  checkMission,
  driveModel,
  type Field,
  type Handset,
  lowerMission,
  PI,
  type PlacedBy,
  type Pose,
  parseMission,
  type Remembered,
  type Robot,
  Run,
  type RunResult,
  robotInForce,
  robotPose,
  TICK_SEC,
} from "@giddy-pebble/core";
import { ByHand, HAND_PROGRAM } from "./byHand.js";
import { Table } from "./table.js";

type Doing = "idle" | "running" | "driven" | "restarting";
const RESTART_TICKS = 150;
interface Running {
  readonly run: Run;
  readonly hand: ByHand | null;
  /** The mission hands over: what the driver holds is recorded. */
  readonly handsOver: boolean;
  /** Of the brain's signs, those that display and light have followed. */
  signsRead: number;
}

type StartResult = { readonly ok: true } | { readonly ok: false; readonly why: string };

export class StandIn extends Table {
  doing: Doing = "idle";
  display = "";
  light = "";
  /** The run in hand or the one before, from its start on. */
  running: Running | null = null;
  /** What was heard since the last tick; undefined when nothing was. */
  private heldNext: Handset | null | undefined;
  last: RunResult | null = null;
  runCount = 0;
  private restartTicks = 0;

  /** Whoever is picked up stops. */
  override place(field: Field, begin: BeginPlace, how: PlacedBy): void {
    if (this.doing === "running" || this.doing === "driven") this.halt("it was picked up");
    this.finishNow();
    super.place(field, begin, how);
  }

  /** Starts a mission's text. @param robot - the constants that came with it; remembered - what it kept of it before */
  run(text: string, robot: Robot = this.believed, remembered: Remembered = {}): StartResult {
    return this.start(text, robot, null, remembered);
  }

  /** Lets a person drive. */
  takeByHand(): StartResult {
    return this.start(HAND_PROGRAM, this.believed, new ByHand());
  }

  /** Shares of top speed for each side; only while driven by hand. */
  steerByHand(left: number, right: number): void {
    const hand = this.running?.hand;
    if (!hand) return;
    hand.left = left;
    hand.right = right;
  }

  /**
   * What the driver holds; null once nothing was heard for too long. A button that was pressed and let go between two
   * ticks counts as held in the next one: a quick tap is never lost.
   */
  holdHands(handset: Handset | null): void {
    const run = this.running?.run;
    if (!run) return;
    const untaken = handset && this.heldNext !== undefined ? (run.handset?.buttons ?? 0) : 0;
    run.handset = handset && { ...handset, buttons: handset.buttons | untaken };
    this.heldNext = handset;
  }

  /** What was heard since the last tick is taken: from now on it is only what is held. */
  private takeHands(): void {
    if (this.running && this.heldNext !== undefined) this.running.run.handset = this.heldNext;
    this.heldNext = undefined;
  }

  /** Who moves it while a mission runs; nobody from when the driver fell silent until the sticks were let go. */
  get hand(): "itself" | "driver" | "silent" {
    const brain = this.running?.run.brain;
    if (!brain?.handedOver) return "itself";
    return brain.handSilent ? "silent" : "driver";
  }

  /** What a driver at the table sees: robot and loads, to 2 mm and half a degree; null for missions without a driver. */
  get seen(): { readonly robot: Pose; readonly loads: readonly Pose[] } | null {
    if (!this.running?.handsOver) return null;
    const about = ({ xM, yM, headingRad }: Pose): Pose => ({
      xM: Math.floor(xM / 0.002 + 0.5) * 0.002,
      yM: Math.floor(yM / 0.002 + 0.5) * 0.002,
      headingRad: (Math.floor((headingRad * 360) / PI + 0.5) * PI) / 360,
    });
    const { bodies } = this.world;
    return { robot: about(robotPose(this.built, this.world)), loads: bodies.slice(1).map(about) };
  }

  halt(reason: string): void {
    this.running?.run.stop(reason);
  }

  /** The board restarts: whatever ran is gone. */
  restart(): void {
    this.halt("the board restarted");
    this.finishNow();
    this.doing = "restarting";
    this.restartTicks = RESTART_TICKS;
  }

  press(button: string, down: boolean): void {
    const held = this.running?.run.body.held;
    if (down) held?.add(button);
    else held?.delete(button);
  }

  /** One tick of 10 ms. */
  tick(): void {
    if (this.doing === "restarting") {
      this.restartTicks -= 1;
      if (this.restartTicks <= 0) this.doing = "idle";
    }
    const { running } = this;
    if (!running) return this.rest(TICK_SEC);
    running.run.advance();
    this.follow(running);
    this.takeHands();
  }

  private start(text: string, robot: Robot, hand: ByHand | null, remembered: Remembered = {}): StartResult {
    if (this.doing === "restarting") return { ok: false, why: "The robot is restarting. Try again in a second." };
    if (this.running && !this.running.run.brain.ended)
      return { ok: false, why: "The robot is busy with a run. Halt it first." };
    this.finishNow();
    const mission = parseMission(text);
    const context = { robot, drive: driveModel(robot), field: this.field };
    const check = checkMission(mission, context);
    if (!check.runnable) {
      const first = check.problems.find(({ severity }) => severity === "error");
      return { ok: false, why: `The robot cannot run this mission: ${first?.message ?? "it has errors"}` };
    }
    this.believed = robot;
    this.known = robotInForce(robot);
    const program = lowerMission(mission, check, context);
    const body = this.newBody();
    const { begin } = this;
    const run = new Run({
      program,
      body,
      robot,
      known: this.known,
      model: context.drive,
      field: this.field,
      chance: this.chance,
      start: begin,
      outlineM: this.built.chassis.outlineM,
      observer: (brain) => new ByOwnCount(body, brain, begin, program.remote !== null),
      // Nobody presses its buttons unasked.
      patient: false,
      driven: program.remote !== null,
      remembered,
    });
    if (hand) run.brain.setMotion(hand);
    this.running = { run, hand, handsOver: program.remote !== null, signsRead: 0 };
    this.runCount += 1;
    this.last = null;
    this.display = "";
    this.light = "";
    this.doing = hand ? "driven" : "running";
    return { ok: true };
  }

  private follow(running: Running): void {
    const { signs } = running.run.brain;
    // Several steps of one tick may show and light: each has its own place.
    for (; running.signsRead < signs.length; running.signsRead += 1) {
      const sign = signs[running.signsRead];
      if (sign?.kind === "show") this.display = sign.text;
      if (sign?.kind === "light") this.light = sign.text;
    }
    if (running.run.done) this.finishNow();
  }

  /** Closes the run in hand and sums it up. */
  private finishNow(): void {
    const { running } = this;
    if (!running) return;
    running.run.close();
    this.last = running.run.result();
    this.running = null;
    if (this.doing !== "restarting") this.doing = "idle";
    if (this.world.brownedOut) {
      this.doing = "restarting";
      this.restartTicks = RESTART_TICKS;
      this.world = this.newWorld(this.world.charge, this.world);
    }
  }
}

/** The begin place a mission names on a field. */
export function beginOfText(text: string, field: Field): BeginPlace {
  return beginOf(parseMission(text), field);
}
