// Two brains, one robot: the rehearsal's own, and the one written for a board. First the board's brain is told what the
// other senses, and its orders are compared tick by tick; at the same time it drives a body of its own, dealt the same,
// and its steps and its end are compared.
import {
  boardRobot,
  type Commands,
  type PreparedMission,
  Rehearsal,
  type RunOptions,
  restingCommands,
} from "@giddy-pebble/core";
import { buildHost, type HostOptions, type Written, writeCpp } from "./cpp.js";
import { type BrainStep, HostBrain } from "./hostBrain.js";

export interface Lockstep {
  readonly target: string;
  /** Ticks of the rehearsal until its mission ended. */
  readonly ticks: number;
  readonly equal: boolean;
  /** Steps that began and ended alike, and those that did not. */
  readonly events: { readonly same: number; readonly different: number };
  /** Largest difference of an order, as a share of full, while both were in the same steps. */
  readonly worstDuty: number;
  /** Ticks in which an order was compared. */
  readonly compared: number;
  /** How far apart both robots stood in the end. */
  readonly endMm: number;
  readonly endDeg: number;
  /** How many ticks later the board's mission ended on its own body. */
  readonly endTicks: number;
  /** Single ticks in which a decision fell on one side for one brain and on the other for the other. */
  readonly edges: readonly string[];
  readonly differences: readonly string[];
}

/**
 * What counts as equal: orders within half a percent, steps that last as long within a tick, the robot within 10 mm and
 * 1 deg.
 */
export const AGREES = { duty: 0.005, ticks: 1, mm: 10, deg: 1 } as const;
/** After the end robots come to rest, ticks. */
const REST_TICKS = 150;
/** Longest a brain is followed beyond the other's end, ticks. */
const BEYOND_TICKS = 200;
const MOST_DIFFERENCES = 20;
const DEG = 57.29577951308232;

/** @throws Error when the mission has errors, or boards cannot do it; MissingTool */
export async function lockstep(
  prepared: PreparedMission,
  options: RunOptions,
  host: HostOptions = {},
): Promise<Lockstep> {
  const { program, context } = prepared;
  if (!program) throw new Error("The mission has errors, so there is nothing to compare.");
  const written = writeCpp(program, context.robot);
  const [problem] = written.problems;
  if (problem) throw new Error(`Line ${problem.line}: ${problem.message}`);
  return compare(prepared, options, written, await buildHost(written, host));
}

function compare(prepared: PreparedMission, options: RunOptions, written: Written, brain: string): Lockstep {
  const { robot } = prepared.context;
  const shafts = boardRobot(robot).shafts.length;
  const shadow = new HostBrain(brain, robot, shafts);
  const alone = new HostBrain(brain, robot, shafts);
  try {
    return new Comparison(prepared, options, written, shadow, alone).run();
  } finally {
    shadow.close();
    alone.close();
  }
}

class Comparison {
  private readonly one: Rehearsal;
  /** Lends its body to the board's brain. */
  private readonly other: Rehearsal;
  private readonly shadowSteps: BrainStep[] = [];
  private readonly ownSteps: BrainStep[] = [];
  private readonly drawn: number[] = [];
  private ended = false;

  constructor(
    prepared: PreparedMission,
    private readonly options: RunOptions,
    private readonly written: Written,
    private readonly shadow: HostBrain,
    private readonly alone: HostBrain,
  ) {
    this.one = new Rehearsal(prepared, options);
    this.other = new Rehearsal(prepared, options);
  }

  run(): Lockstep {
    const { one, other, options } = this;
    const { brain, body } = one.run;
    const { robot } = brain;
    const driven = options.hands !== undefined;
    const orders = restingCommands(robot);
    const own = restingCommands(robot);
    const differences: string[] = [];
    const offs: number[] = [];
    let endTick = -1;
    let ownEnd = -1;
    const uniform = brain.chance.uniform.bind(brain.chance);
    // Numbers that the mission draws are lent to the shadow in the same order.
    (brain.chance as { uniform: () => number }).uniform = () => {
      const value = uniform();
      this.drawn.push(value);
      return value;
    };
    const chance = other.run.brain.chance;
    let after = 0;
    for (let tick = 0; after < REST_TICKS + BEYOND_TICKS; tick += 1) {
      const before = brain.tick;
      if (!one.done) {
        this.drawn.length = 0;
        one.advance(1);
        if (brain.tick > before && endTick < 0) {
          const told = this.shadow.tick(body.raw, driven, orders, () => this.drawn.shift() ?? 0.5);
          this.shadowSteps.push(...told.steps);
          if (brain.end) endTick = tick;
          offs.push(largestOff(orders, brain.commands));
        }
      }
      this.driveAlone(tick, own, driven, chance);
      if (this.ended && ownEnd < 0) ownEnd = tick;
      if (one.done && (this.ended || tick > endTick + BEYOND_TICKS)) after += 1;
      if (after > REST_TICKS) break;
    }
    one.run.close();
    const events = this.compareSteps(differences);
    const { worst, compared, edges } = this.compareOrders(offs, differences);
    const [a, b] = [one.run.observer.pose(), other.run.observer.pose()];
    const endMm = Math.hypot(a.xM - b.xM, a.yM - b.yM) * 1000;
    const endDeg = Math.abs(a.headingRad - b.headingRad) * DEG;
    if (!this.ended) differences.push("the board's mission did not end");
    if (endMm > AGREES.mm || endDeg > AGREES.deg)
      differences.push(`the robots stand ${endMm.toFixed(1)} mm and ${endDeg.toFixed(2)} deg apart`);
    return {
      target: "cpp",
      ticks: endTick + 1,
      equal: differences.length === 0,
      events,
      worstDuty: worst,
      compared,
      endMm,
      endDeg,
      endTicks: ownEnd - endTick,
      edges,
      differences,
    };
  }

  private driveAlone(tick: number, own: Commands, driven: boolean, chance: { uniform(): number }): void {
    const { other } = this;
    const { body } = other.run;
    const { held } = this.one.run.body;
    if (this.options.hands) other.run.handset = this.options.hands(tick);
    body.held.clear();
    for (const name of held) body.held.add(name);
    body.sense();
    const told = this.alone.tick(body.raw, driven, own, () => chance.uniform());
    this.ownSteps.push(...told.steps);
    if (told.end) this.ended = true;
    body.step(own);
  }

  /** Orders are compared where both brains were in steps that began in the same tick. */
  private compareOrders(offs: readonly number[], differences: string[]): Pick<Lockstep, "edges" | "compared"> & { worst: number } {
    const alike = new Uint8Array(offs.length).fill(1);
    const ends = new Map<string, number>();
    for (const { step, task, from, to } of this.shadowSteps) ends.set(`${this.nameOf(step)} ${task} ${from}`, to);
    for (const { step, task, startTick, endTick } of this.one.run.brain.records) {
      if (startTick === endTick) continue;
      const end = ends.get(`${step} ${task} ${startTick}`);
      const sure = end === undefined ? startTick : Math.min(end, endTick);
      alike.fill(0, sure, Math.max(end ?? 0, endTick) + 1);
    }
    let worst = 0;
    let compared = 0;
    const edges: string[] = [];
    const within = (tick: number) => alike[tick] !== 1 || (offs[tick] as number) <= AGREES.duty;
    offs.forEach((off, tick) => {
      if (alike[tick] === 0) return;
      const words = `tick ${tick}: an order is off by ${percent(off)}`;
      // One tick alone: both decided the same, a tick apart.
      if (off > AGREES.duty && within(tick - 1) && within(tick + 1)) {
        edges.push(words);
        return;
      }
      compared += 1;
      worst = Math.max(worst, off);
      if (off > AGREES.duty && differences.length < MOST_DIFFERENCES) differences.push(words);
    });
    return { worst, compared, edges };
  }

  private nameOf(step: number): string {
    return this.written.steps[step]?.step ?? "?";
  }

  private toldOf(steps: readonly BrainStep[]): Told[] {
    return steps.map(({ step, task, from, to, how }) => ({ step: this.nameOf(step), task, from, to, how }));
  }

  /**
   * Steps task by task. With the other's senses each has to end as the other's did, within a tick; on a body of its own
   * they have to be the same steps, ended by the same.
   */
  private compareSteps(differences: string[]): Lockstep["events"] {
    const theirs = this.one.run.brain.records.map(({ step, task, startTick, endTick, endedBy }) => ({
      step,
      task,
      from: startTick,
      to: endTick,
      how: endedBy as string,
    }));
    const near = (a: Told, b: Told) => Math.abs(a.to - b.to) <= AGREES.ticks;
    const shadow = compareTold(theirs, this.toldOf(this.shadowSteps), near);
    const alone = compareTold(theirs, this.toldOf(this.ownSteps), () => true);
    const say = (found: readonly string[], where: string) => {
      for (const words of found) if (differences.length < MOST_DIFFERENCES) differences.push(`${where}${words}`);
    };
    say(shadow.differences, "");
    say(alone.differences.slice(0, 3), "on its own body: ");
    return { same: shadow.same, different: shadow.differences.length };
  }
}

function compareTold(
  theirs: readonly Told[],
  ours: readonly Told[],
  near: (a: Told, b: Told) => boolean,
): { same: number; differences: string[] } {
  let same = 0;
  const differences: string[] = [];
  for (const task of new Set([...theirs, ...ours].map((step) => step.task))) {
    const left = theirs.filter((step) => step.task === task).sort(byEnd);
    const right = ours.filter((step) => step.task === task).sort(byEnd);
    for (let i = 0; i < Math.max(left.length, right.length); i += 1) {
      const [a, b] = [left[i], right[i]];
      if (a && b && a.step === b.step && a.how === b.how && near(a, b)) same += 1;
      else differences.push(`task ${task}: ${told(a)} in the rehearsal, ${told(b)} on the board`);
    }
  }
  return { same, differences };
}

interface Told {
  readonly step: string;
  readonly task: number;
  readonly from: number;
  readonly to: number;
  readonly how: string;
}

/** In the order in which they ended; of those that ended at once, as they began. */
function byEnd(a: Told, b: Told): number {
  return a.to - b.to || a.from - b.from;
}

function told(step: Told | undefined): string {
  return step ? `step ${step.step} from ${step.from} to ${step.to} ${step.how}` : "nothing more";
}

function percent(share: number): string {
  return `${(share * 100).toFixed(2)} %`;
}

/** Largest difference of two sets of orders: shares of the voltage; angles as shares of a radian. */
function largestOff(a: Commands, b: Commands): number {
  let worst = a.mode === b.mode ? Math.abs(a.steerRad - b.steerRad) : 1;
  const look = (x: number, y: number) => {
    worst = Math.max(worst, Math.abs(x - y));
  };
  for (let i = 0; i < a.duties.length; i += 1) look(a.duties[i] as number, b.duties[i] as number);
  a.motors.forEach((order, i) => look(order.duty, b.motors[i]?.duty ?? 0));
  a.servos.forEach(({ targetRad, share }, i) => {
    look(targetRad, b.servos[i]?.targetRad ?? 0);
    look(share, b.servos[i]?.share ?? 0);
  });
  return worst;
}
