// A robot that stands on a table: what it truly is, where it stands, its pack and its heat; and its tape. Who moves it,
// and by what, others decide.
import {
  AMBIENT_C,
  type BeginPlace,
  bodyPose,
  composePoses,
  exp,
  type Field,
  FloorRaster,
  inversePose,
  mixSeed,
  openFloor,
  PI,
  PLACING,
  type PlacedBy,
  type Pose,
  type RandomStream,
  type Robot,
  type RobotInForce,
  randomStream,
  robotInForce,
  robotPose,
  SimulatedBody,
  type World,
  worldFromRobot,
  wrapAngle,
} from "@giddy-pebble/core";
import { dealTruth, type HiddenTruth, trueDeviations, trueDraw, trueRobot } from "./truth.js";

/** Standard deviations of a tape reading, m and rad. */
export const TAPE = { positionM: 0.001, headingRad: (0.5 * PI) / 180 } as const;

/** Where the robot stands relative to its begin place: along its way, to the left of it, and turned. */
export interface TapeReading {
  readonly alongM: number;
  readonly asideM: number;
  readonly headingRad: number;
}

/** Winding cools with this time constant while nothing runs, s; a whole motor's, longer than its winding's. */
const COOLING_SEC = 250;

export class Table {
  /** The robot as the last program sent with it believes it to be. */
  believed: Robot;
  field: Field;
  begin: BeginPlace;
  /** Plugs that are out, by the name of sensor or motor. */
  readonly unplugged = new Set<string>();
  protected readonly chance: RandomStream;
  protected world: World;
  protected known: RobotInForce;
  private readonly truth: HiddenTruth;
  private floor: FloorRaster;
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

  /** Distance from its begin place, m: how far a driver's radio has to reach. */
  get farM(): number {
    const [dx, dy] = [this.world.xM - this.begin.xM, this.world.yM - this.begin.yM];
    return Math.sqrt(dx * dx + dy * dy);
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
  protected newWorld(charge: number, before: World | null): World {
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

  /** Its body as it stands, for whatever drives it next. */
  protected newBody(): SimulatedBody {
    const { charge } = this.world;
    const { built, believed, truth } = this;
    this.world = this.newWorld(charge, this.world);
    const robot = trueRobot(built, believed, truth);
    const draw = trueDraw(built, believed, truth, trueDeviations(robot, truth, charge));
    const { oddities } = truth;
    return new SimulatedBody({
      world: this.world,
      robot,
      wired: believed,
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
  }
}
