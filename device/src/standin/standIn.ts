// A robot on a table: it stands somewhere, runs missions or is driven by hand, gets tired and warm, and can be
// measured with a tape. Its time is counted in ticks of 10 ms, however fast they come.
import {
  AMBIENT_C,
  type BeginPlace,
  ByOwnCount,
  beginOf,
  bodyPose,
  checkMission,
  composePoses,
  driveModel,
  exp,
  type Field,
  FloorRaster,
  type Handset,
  inversePose,
  lowerMission,
  mixSeed,
  openFloor,
  PI,
  PLACING,
  type PlacedBy,
  type Pose,
  parseMission,
  type RandomStream,
  type Remembered,
  type Robot,
  type RobotInForce,
  Run,
  type RunResult,
  randomStream,
  robotInForce,
  robotPose,
  SimulatedBody,
  TICK_SEC,
  type World,
  worldFromRobot,
  wrapAngle,
} from "@giddy-pebble/core";
import { ByHand, HAND_PROGRAM } from "./byHand.js";
import { dealTruth, type HiddenTruth, trueDeviations, trueDraw, trueRobot } from "./truth.js";

type Doing = "idle" | "running" | "driven" | "restarting";
/** Standard deviations of a tape reading, m and rad. */
export const TAPE = { positionM: 0.001, headingRad: (0.5 * PI) / 180 } as const;

/** Where the robot stands relative to its begin place: along its way, to the left of it, and turned. */
export interface TapeReading {
  readonly alongM: number;
  readonly asideM: number;
  readonly headingRad: number;
}

const RESTART_TICKS = 150;
/** Winding cools with this time constant while nothing runs, s; a whole motor's, longer than its winding's. */
const COOLING_SEC = 250;

interface Running {
  readonly run: Run;
  readonly hand: ByHand | null;
  /** The mission hands over: what the driver holds is recorded. */
  readonly handsOver: boolean;
  /** Of the brain's signs, those that display and light have followed. */
  signsRead: number;
}

type StartResult = { readonly ok: true } | { readonly ok: false; readonly why: string };

export class StandIn {
  doing: Doing = "idle";
  /** The robot as the last program sent with it believes it to be. */
  believed: Robot;
  field: Field;
  begin: BeginPlace;
  /** Plugs that are out, by the name of sensor or motor. */
  readonly unplugged = new Set<string>();
  display = "";
  light = "";
  /** The run in hand or the one before, from its start on. */
  running: Running | null = null;
  /** What was heard since the last tick; undefined when nothing was. */
  private heldNext: Handset | null | undefined;
  last: RunResult | null = null;
  runCount = 0;
  private readonly truth: HiddenTruth;
  private readonly chance: RandomStream;
  private world: World;
  private known: RobotInForce;
  private floor: FloorRaster;
  private restartTicks = 0;
  private readonly wheelTurns: [number, number] = [0, 0];

  /** @param odd - false leaves out the effects no estimator models */
  constructor(
    readonly built: Robot,
    readonly seed: number,
    odd = true,
  ) {
    this.truth = dealTruth(built, seed, odd);
    this.chance = randomStream(mixSeed(seed, 1));
    this.believed = built;
    this.known = robotInForce(built);
    this.field = openFloor();
    this.begin = this.field.begins[0] as BeginPlace;
    this.floor = new FloorRaster(this.field);
    this.world = this.newWorld(this.truth.charge, null);
    this.place(this.field, this.begin, "eye");
  }

  get charge(): number {
    return this.world.charge;
  }

  get packVolts(): number {
    return this.world.packVolts;
  }

  /** Warmest winding of the drive, deg C. */
  get windingC(): number {
    return Math.max(...this.world.drives.map((shaft) => shaft.windingC));
  }

  /** A pack of another charge is put in. */
  changePack(charge: number): void {
    this.world = this.newWorld(charge, this.world);
  }

  /** Puts the robot on a begin place of a field, as exactly as that way of placing allows. */
  place(field: Field, begin: BeginPlace, how: PlacedBy): void {
    if (this.doing === "running" || this.doing === "driven") this.halt("it was picked up");
    this.finishNow();
    const known = field === this.field;
    this.field = field;
    this.begin = begin;
    if (!known) this.floor = new FloorRaster(field);
    const { positionM, headingRad } = PLACING[how];
    this.world = this.newWorld(this.world.charge, known ? this.world : null);
    const pose: Pose = {
      xM: begin.xM + positionM * this.chance.normal(),
      yM: begin.yM + positionM * this.chance.normal(),
      headingRad: begin.headingRad + headingRad * this.chance.normal(),
    };
    this.world.place(bodyPose(this.built, pose));
  }

  /** Reads the tape: where it stands, seen from its begin place. */
  tape(): TapeReading {
    const at = composePoses(inversePose(this.begin), robotPose(this.built, this.world));
    const noise = (width: number) => width * this.chance.normal();
    return {
      alongM: at.xM + noise(TAPE.positionM),
      asideM: at.yM + noise(TAPE.positionM),
      headingRad: wrapAngle(at.headingRad) + noise(TAPE.headingRad),
    };
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

  /** Who moves it while a mission runs. */
  get hand(): "itself" | "driver" | "silent" {
    const brain = this.running?.run.brain;
    if (!brain?.handedOver) return "itself";
    return brain.handset ? "driver" : "silent";
  }

  /** Distance from its begin place, m: how far a driver's radio has to reach. */
  get farM(): number {
    const [dx, dy] = [this.world.xM - this.begin.xM, this.world.yM - this.begin.yM];
    return Math.sqrt(dx * dx + dy * dy);
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

  /** Time goes by while nothing runs: the board draws, the windings cool. */
  rest(seconds: number): void {
    const { world } = this;
    const { battery, boardCurrentA } = world.spec;
    world.charge = Math.max(0, world.charge - (boardCurrentA * seconds) / (battery.capacityAh * 3600));
    const left = exp(-seconds / COOLING_SEC);
    for (const shaft of world.drives) shaft.windingC = AMBIENT_C + (shaft.windingC - AMBIENT_C) * left;
  }

  /** The true world with the state of the one before: pack, heat, place of the robot and of the loads. */
  private newWorld(charge: number, before: World | null): World {
    const robot = trueRobot(this.built, this.believed, this.truth);
    const world = worldFromRobot(robot, this.field, trueDeviations(robot, this.truth, charge));
    if (!before) return world;
    world.place({ xM: before.xM, yM: before.yM, headingRad: before.headingRad });
    world.drives.forEach((shaft, i) => {
      shaft.windingC = before.drives[i]?.windingC ?? AMBIENT_C;
    });
    if (before.bodies.length !== world.bodies.length) return world;
    world.bodies.forEach((body, i) => {
      const was = before.bodies[i];
      if (i === 0 || !was) return;
      Object.assign(body, { xM: was.xM, yM: was.yM, headingRad: was.headingRad, tipped: was.tipped });
      body.toMiddle(0);
      body.placeShapes();
    });
    return world;
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
    const { charge } = this.world;
    this.world = this.newWorld(charge, this.world);
    const program = lowerMission(mission, check, context);
    const trueOne = trueRobot(this.built, robot, this.truth);
    const draw = trueDraw(this.built, robot, this.truth, trueDeviations(trueOne, this.truth, charge));
    const { oddities } = this.truth;
    const body = new SimulatedBody({
      world: this.world,
      robot: trueOne,
      wired: robot,
      field: this.field,
      floor: this.floor,
      known: this.known,
      draw,
      chance: this.chance,
      disturbance: {
        bumpRad: draw.bumpRad * (this.field.surface.unevenness ?? 1),
        oddities,
        commandDelayTicks: oddities.commandDelayTicks,
        unplugged: this.unplugged,
        wheelTurns: this.wheelTurns,
      },
    });
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
