// One rehearsal of a mission: a run on a body that was dealt its scatter, advanced in slices of any length.
import type { Remembered } from "../brain/brain.js";
import type { Pose } from "../geometry/pose.js";
import { randomStream } from "../math/random.js";
import type { Handset } from "../remote/handset.js";
import { robotInForce } from "../robot/inForce.js";
import { FromAbove } from "../run/observer.js";
import { Run, type RunResult } from "../run/run.js";
import { SimulatedBody } from "../simulate/body.js";
import { undisturbed } from "../simulate/disturbance.js";
import { bodyPose, worldFromRobot } from "../simulate/fromRobot.js";
import { type Adjustments, drawRun, idealDraw, type Scatter, usualScatter } from "../simulate/scatter.js";
import type { TraceRecorder } from "../trials/trace.js";
import { beginOn, type Runnable } from "./prepare.js";

export interface RunOptions {
  readonly seed: number;
  readonly ideal: boolean;
  readonly scatter?: Scatter;
  readonly adjustments?: Adjustments;
  /** A driver's handset, tick by tick, for missions that hand over; without it such steps are skipped. */
  readonly hands?: (tick: number) => Handset | null;
  /** The driver stops it at this tick, as when a record of hands is over; without it the mission itself has to end. */
  readonly handsEnd?: number;
  /** Values kept from an earlier run, by name; without them a run begins with the written ones. */
  readonly remembered?: Remembered;
}

export class Rehearsal {
  readonly run: Run;
  private readonly hands: RunOptions["hands"] | null;
  private readonly handsEnd: number;

  /** @throws RangeError if the mission has errors, or its begin place is not on the field */
  constructor(runnable: Runnable, options: RunOptions) {
    const { program, context, floor } = runnable;
    if (!program) throw new RangeError("a mission with errors cannot be rehearsed");
    const { robot, field, drive } = context;
    const begin = beginOn(field, program.begin);
    const chance = randomStream(options.seed);
    const draw = options.ideal
      ? idealDraw(robot)
      : drawRun(robot, options.scatter ?? usualScatter(), chance, options.adjustments, begin.put ?? null);
    const world = worldFromRobot(robot, field, draw.deviations);
    const start: Pose = {
      xM: begin.xM + draw.startXM,
      yM: begin.yM + draw.startYM,
      headingRad: begin.headingRad + draw.startRad,
    };
    world.place(bodyPose(robot, start));
    const known = robotInForce(robot);
    const disturbance = undisturbed(draw.bumpRad * (field.surface.unevenness ?? 1));
    const body = new SimulatedBody({ world, robot, wired: robot, field, floor, known, draw, chance, disturbance });
    this.hands = options.hands ?? null;
    this.handsEnd = options.handsEnd ?? Number.POSITIVE_INFINITY;
    this.run = new Run({
      program,
      body,
      robot,
      known,
      model: drive,
      field,
      chance,
      start,
      outlineM: robot.chassis.outlineM,
      observer: () => new FromAbove(body),
      patient: true,
      driven: this.hands !== null,
      ...(options.remembered ? { remembered: options.remembered } : {}),
    });
  }

  get done(): boolean {
    return this.run.done;
  }

  get tick(): number {
    return this.run.brain.tick;
  }

  get recorder(): TraceRecorder {
    return this.run.recorder;
  }

  /** Runs up to `ticks` more ticks. @returns true once the run is over */
  advance(ticks: number): boolean {
    const { run } = this;
    for (let i = 0; i < ticks && !run.done; i += 1) {
      if (this.hands) run.handset = this.hands(run.brain.tick);
      if (run.brain.tick >= this.handsEnd) run.stop("the driver stopped it");
      run.advance();
    }
    return run.done;
  }

  /** @throws RangeError before the run is over */
  result(): RunResult {
    return this.run.result();
  }
}

/** A whole rehearsal at once. */
export function rehearse(runnable: Runnable, options: RunOptions): RunResult {
  const rehearsal = new Rehearsal(runnable, options);
  while (!rehearsal.advance(1000));
  return rehearsal.result();
}
