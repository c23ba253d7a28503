// A robot's body on simulated physics: its world, its sensors with lag and noise, its fittings, and what disturbs it.
// It knows no program. One tick is 10 ms: it is read, it takes orders, the world moves twice.

import { type Commands, newRawSenses, type RawSenses } from "../brain/raw.js";
import { mountSign, shaftsOf } from "../drives/shafts.js";
import type { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import type { RandomStream } from "../math/random.js";
import { STEP_SEC } from "../physics/constants.js";
import type { World } from "../physics/world.js";

import type { RobotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { bump, type Disturbance, disturb } from "./disturbance.js";
import { Fittings } from "./fittings.js";
import { HeadWatch } from "./headWatch.js";
import type { RunDraw } from "./scatter.js";
import { RobotSenses } from "./senses.js";
import { TouchWatch } from "./touches.js";

/** What an eye heard from now on; an empty name is silence. */
export interface EchoRecord {
  readonly tick: number;
  readonly sensor: string;
  readonly what: string;
  readonly distanceM: number;
}

/** An eye that turns about hears something else again and again: more than this is no news. */
const MOST_ECHOES = 5000;
/** Robots that lift a wheel for this long are said to tip, ticks. */
const TIPPING_TICKS = 5;

interface BodyParts {
  readonly world: World;
  /** The robot as it is built. */
  readonly robot: Robot;
  /** Its parts in the order its board knows them: the robot as the program believes it to be. */
  readonly wired: Robot;
  readonly field: Field;
  readonly floor: FloorRaster;
  /** Which parts the brain takes for its drive and its gyro. */
  readonly known: RobotInForce;
  readonly draw: RunDraw;
  readonly chance: RandomStream;
  readonly disturbance: Disturbance;
}

type DriveOrder = Pick<Commands, "mode" | "duties" | "steerRad">;

export class SimulatedBody {
  readonly raw: RawSenses;
  readonly world: World;
  readonly robot: Robot;
  readonly field: Field;
  readonly senses: RobotSenses;
  readonly fittings: Fittings;
  readonly touch: TouchWatch;
  /** What each eye's echo came from, whenever that changed. */
  readonly echoes: EchoRecord[] = [];
  /** What heads with distance sensors did. */
  readonly heads: HeadWatch;
  /** Tick at which a wheel was lifted for longer than a moment; null so far. */
  tippedAt: number | null = null;
  private tick = 0;
  private tippingTicks = 0;
  private readonly echoSources = new Map<string, number>();
  private readonly chance: RandomStream;
  private readonly disturbance: Disturbance;
  /** -1 for a shaft whose motor is mounted to turn its wheel backwards. */
  private readonly mounted: readonly number[];
  /** Orders on their way to the motors, oldest first. */
  private readonly underway: DriveOrder[] = [];

  constructor(parts: BodyParts) {
    const { world, robot, wired, field, floor, known, draw, chance, disturbance } = parts;
    this.world = world;
    this.robot = robot;
    this.field = field;
    this.chance = chance;
    this.disturbance = disturbance;
    this.mounted = shaftsOf(robot).map((lead) => mountSign(robot, lead));
    this.raw = newRawSenses(wired);
    const wheelMotors = known.shafts.map(({ motor }) => robot.motors.findIndex(({ name }) => name === motor.name));
    this.fittings = new Fittings(robot, wired, world, wheelMotors);
    this.senses = new RobotSenses(
      robot,
      wired,
      known,
      world,
      field,
      floor,
      this.fittings,
      draw,
      chance,
      this.raw,
      disturbance.unplugged,
    );
    this.heads = new HeadWatch(robot, this.senses, this.fittings);
    this.touch = new TouchWatch(
      robot,
      world,
      this.senses.scene,
      field.loads.map(({ name }) => name),
    );
  }

  /** Buttons a person holds down, by name. */
  get held(): Set<string> {
    return this.senses.held;
  }

  /** What acts on it before the tick, and then what its board reads. */
  sense(): RawSenses {
    disturb(this.world, this.disturbance);
    this.senses.tick(this.raw);
    this.keepEchoes();
    this.heads.tick(this.tick);
    return this.raw;
  }

  /** Takes the brain's orders and lives through the tick. */
  step(commands: Commands): void {
    const { world } = this;
    this.command(commands);
    const headingBefore = world.headingRad;
    for (let half = 0; half < 2; half += 1) {
      this.fittings.step();
      world.step(STEP_SEC);
      if (world.contacts.count > 0) this.touch.step(this.tick);
    }
    this.fittings.tick();
    this.senses.followPlay();
    this.tippingTicks = world.loads.tipping ? this.tippingTicks + 1 : 0;
    if (this.tippingTicks === TIPPING_TICKS) this.tippedAt ??= this.tick;
    bump(world, this.disturbance.bumpRad, world.headingRad - headingBefore, this.chance);
    this.tick += 1;
  }

  /** Why it cannot go on, in words; null while it can. */
  get broken(): string | null {
    const { world } = this;
    if (world.brownedOut)
      return `the board restarted: the pack broke down to ${world.packVolts.toFixed(1)} V while giving ${world.packCurrentA.toFixed(1)} A`;
    if (world.putBack > 0)
      return "the simulation lost its numbers and put the robot and its loads back at rest; check sizes and masses";
    return null;
  }

  private command(commands: Commands): void {
    this.fittings.command(commands);
    const { commandDelayTicks } = this.disturbance;
    if (commandDelayTicks === 0) return this.drive(commands);
    const { mode, duties, steerRad } = commands;
    this.underway.push({ mode, duties: duties.slice(), steerRad });
    const due = this.underway.length > commandDelayTicks ? this.underway.shift() : undefined;
    if (due) this.drive(due);
  }

  private drive({ mode, duties, steerRad }: DriveOrder): void {
    const { world, mounted } = this;
    for (let i = 0; i < world.drives.length; i += 1)
      world.command(i, mode, (mounted[i] as number) * (duties[i] as number));
    world.steer(steerRad);
  }

  private keepEchoes(): void {
    for (const [sensor, eye] of this.senses.eyes) {
      if (this.echoSources.get(sensor) === eye.source) continue;
      this.echoSources.set(sensor, eye.source);
      if (this.echoes.length < MOST_ECHOES)
        this.echoes.push({
          tick: this.tick,
          sensor,
          what: this.senses.scene.nameOf(eye.source),
          distanceM: eye.distanceM,
        });
    }
  }
}
