// Two brains, one robot: the rehearsal's own, and the one written for a board. First the board's brain is told what the
// other senses, and its orders are compared tick by tick; at the same time it drives a body of its own, dealt the same,
// and its steps and its end are compared.
import {
  type BoardStep,
  boardRobot,
  type Commands,
  type PreparedMission,
  type Program,
  Rehearsal,
  type Robot,
  type RunOptions,
  restingCommands,
} from "@giddy-pebble/core";
import { AVR_HZ, type AvrBuild, buildAvrBrain, buildEmulator } from "./avr.js";
import type { BrainStep, TickBrain } from "./brain.js";
import { buildHost, type HostOptions, type Written, writeCpp } from "./cpp.js";
import { HostBrain } from "./hostBrain.js";
import { PythonBrain, pythonRuntime, writePython } from "./python.js";

/** What a mission took of a chip: the values it keeps, what the stack left, and the longest tick. */
interface ChipUse {
  readonly name: string;
  readonly flashBytes: number;
  readonly ramBytes: number;
  readonly leastFreeBytes: number;
  readonly longestTickMs: number;
}

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
  /** Of a chip: what the mission takes of it; null elsewhere. */
  readonly chip: ChipUse | null;
}

/**
 * What counts as equal: orders within half a percent, steps that last as long within a tick, the robot within 10 mm and
 * 1 deg.
 */
export const AGREES = { duty: 0.005, ticks: 1, mm: 10, deg: 1 } as const;
/** An integral that began a tick apart at full voltage: by how much it may differ, and for how long. */
const SINCE_FULL = { most: 0.02, ticks: 100 } as const;
/** After the end robots come to rest, ticks. */
const REST_TICKS = 150;
/** Longest a brain is followed beyond the other's end, ticks. */
const BEYOND_TICKS = 200;
const MOST_DIFFERENCES = 20;
const DEG = 57.29577951308232;

export interface LockstepOptions extends RunOptions {
  /** Missions that a driver drives do not end by themselves: they are compared for so long, ticks. */
  readonly ticks?: number;
}

/** A target: what it is called, the mission written for it, and brains that run it. */
export interface Target {
  readonly name: string;
  readonly steps: readonly BoardStep[];
  /** What was built for a chip. */
  readonly chip?: AvrBuild;
  brain(): Promise<TickBrain>;
}

/** What boards cannot do of a mission ends here. @throws Error with its line */
function possible(prepared: PreparedMission, write: (program: Program, robot: Robot) => Written): Written {
  const { program, context } = prepared;
  if (!program) throw new Error("The mission has errors, so there is nothing to compare.");
  const written = write(program, context.robot);
  const [problem] = written.problems;
  if (problem) throw new Error(`Line ${problem.line}: ${problem.message}`);
  return written;
}

/** The host's C++ as a target. @throws Error when boards cannot do the mission; MissingTool */
export async function cppTarget(prepared: PreparedMission, options: HostOptions = {}): Promise<Target> {
  const written = possible(prepared, writeCpp);
  const built = await buildHost(written, options);
  const shafts = boardRobot(prepared.context.robot).shafts.length;
  return { name: "cpp", steps: written.steps, brain: async () => new HostBrain([built], shafts) };
}

/** An 8-bit AVR in its emulator as a target. @throws MissingTool, Error when boards cannot do the mission */
export async function avrTarget(prepared: PreparedMission): Promise<Target> {
  const written = possible(prepared, writeCpp);
  const [build, emulator] = [await buildAvrBrain(written), await buildEmulator()];
  const shafts = boardRobot(prepared.context.robot).shafts.length;
  const brain = async () => new HostBrain([emulator, build.chip.name, build.elf], shafts);
  return { name: "avr", steps: written.steps, chip: build, brain };
}

/** MicroPython as a target. @throws Error when boards cannot do the mission */
export async function pythonTarget(prepared: PreparedMission): Promise<Target> {
  const written = possible(prepared, writePython);
  const files = new Map([...(await pythonRuntime()), ...written.files]);
  const shafts = boardRobot(prepared.context.robot).shafts.length;
  return { name: "micropython", steps: written.steps, brain: () => PythonBrain.start(files, shafts) };
}

/** Compares a target with the rehearsal. */
export async function lockstep(prepared: PreparedMission, target: Target, options: LockstepOptions): Promise<Lockstep> {
  const shadow = await target.brain();
  const alone = await target.brain();
  try {
    return new Comparison(prepared, target, options, shadow, alone).run();
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
  /** Numbers that the mission drew in this tick: the shadow draws the same. */
  private readonly drawn: number[] = [];
  private readonly orders: Commands;
  private readonly own: Commands;
  private readonly driven: boolean;
  private readonly offs: number[] = [];
  /** Largest duty of the rehearsal's drive, tick by tick. */
  private readonly largest: number[] = [];
  private endTick = -1;
  private ownEnd = -1;

  constructor(
    prepared: PreparedMission,
    private readonly target: Target,
    private readonly options: LockstepOptions,
    private readonly shadow: TickBrain,
    private readonly alone: TickBrain,
  ) {
    this.one = new Rehearsal(prepared, options);
    this.other = new Rehearsal(prepared, options);
    const { brain } = this.one.run;
    this.orders = restingCommands(brain.robot);
    this.own = restingCommands(brain.robot);
    this.driven = options.hands !== undefined;
    this.listenToChance();
  }

  private listenToChance(): void {
    const { brain } = this.one.run;
    const uniform = brain.chance.uniform.bind(brain.chance);
    (brain.chance as { uniform: () => number }).uniform = () => {
      const value = uniform();
      this.drawn.push(value);
      return value;
    };
    // What sensors drew before the brain's turn is none of its numbers.
    const step = brain.step.bind(brain);
    brain.step = () => {
      this.drawn.length = 0;
      return step();
    };
  }

  run(): Lockstep {
    const { one, other, options } = this;
    const most = options.ticks ?? Number.POSITIVE_INFINITY;
    let after = 0;
    for (let tick = 0; tick < most && after <= REST_TICKS; tick += 1) {
      this.follow(tick);
      this.driveAlone(tick);
      const over = this.ownEnd >= 0 || (this.endTick >= 0 && tick > this.endTick + BEYOND_TICKS);
      if (one.done && over) after += 1;
    }
    const cut = this.endTick < 0;
    const ticks = cut ? this.offs.length : this.endTick + 1;
    one.run.close();
    const differences: string[] = [];
    const events = this.compareSteps(differences, cut ? ticks : Number.POSITIVE_INFINITY);
    const { worst, compared, edges } = this.compareOrders(differences, ticks);
    const [a, b] = [one.run.observer.pose(), other.run.observer.pose()];
    const endMm = Math.hypot(a.xM - b.xM, a.yM - b.yM) * 1000;
    const endDeg = Math.abs(a.headingRad - b.headingRad) * DEG;
    if (this.ownEnd < 0 && !cut) differences.push("the board's mission did not end");
    if (endMm > AGREES.mm || endDeg > AGREES.deg) {
      const words = `the robots stand ${endMm.toFixed(1)} mm and ${endDeg.toFixed(2)} deg apart`;
      // A touch makes much of the least difference: sliding or sticking is decided by the last digits. And a step that
      // lasts a tick longer while the robot turns leaves it with another heading.
      const longer = this.lastedLonger();
      if (one.run.body.touch.touches.length > 0) edges.push(`${words} after they touched something`);
      else if (longer !== null) edges.push(`${words} after step ${longer} lasted a tick longer or shorter there`);
      else differences.push(words);
    }
    const chip = this.chipUse();
    if (chip?.leastFreeBytes === 0) differences.push(`the stack met the values: ${chip.name} has too little memory`);
    return {
      target: this.target.name,
      ticks,
      equal: differences.length === 0,
      events,
      worstDuty: worst,
      compared,
      endMm,
      endDeg,
      endTicks: cut ? 0 : this.ownEnd - this.endTick,
      edges,
      differences,
      chip,
    };
  }

  private chipUse(): ChipUse | null {
    const { chip } = this.target;
    const loads = [this.shadow.load, this.alone.load].flatMap((load) => load ?? []);
    if (!chip || loads.length === 0) return null;
    return {
      name: chip.chip.name,
      flashBytes: chip.flashBytes,
      ramBytes: chip.ramBytes,
      leastFreeBytes: Math.min(...loads.map(({ leastFree }) => leastFree)),
      longestTickMs: (Math.max(...loads.map(({ mostCycles }) => mostCycles)) * 1000) / AVR_HZ,
    };
  }

  /** One tick of the rehearsal, with the board's brain looking over its shoulder. */
  private follow(tick: number): void {
    const { one, orders } = this;
    const { brain, body } = one.run;
    if (one.done) return;
    one.advance(1);
    if (this.endTick >= 0) return;
    const told = this.shadow.tick(body.raw, this.driven, orders, () => this.drawn.shift() ?? 0.5);
    this.shadowSteps.push(...told.steps);
    if (brain.end) this.endTick = tick;
    this.offs.push(largestOff(orders, brain.commands));
    this.largest.push(brain.commands.duties.reduce((most, duty) => Math.max(most, Math.abs(duty)), 0));
  }

  private driveAlone(tick: number): void {
    const { other, own } = this;
    const { body, brain } = other.run;
    const { held } = this.one.run.body;
    if (this.options.hands) other.run.handset = this.options.hands(tick);
    body.held.clear();
    for (const name of held) body.held.add(name);
    body.sense();
    const told = this.alone.tick(body.raw, this.driven, own, () => brain.chance.uniform());
    this.ownSteps.push(...told.steps);
    if (told.end && this.ownEnd < 0) this.ownEnd = tick;
    body.step(own);
  }

  /** Orders are compared where both brains were in steps that began in the same tick. */
  private compareOrders(differences: string[], ticks: number): { edges: string[]; compared: number; worst: number } {
    const { offs } = this;
    const alike = new Uint8Array(offs.length).fill(1);
    const ends = new Map<string, number>();
    for (const { step, task, from, to } of this.shadowSteps) ends.set(`${this.nameOf(step)} ${task} ${from}`, to);
    for (const { step, task, startTick, endTick } of this.one.run.brain.records) {
      if (startTick === endTick) continue;
      const end = ends.get(`${step} ${task} ${startTick}`);
      // Open in both when it was cut off.
      if (end === undefined && endTick >= ticks) continue;
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
      const alone = within(tick - 1) && within(tick + 1);
      if (off > AGREES.duty && (alone || this.fullVoltage(tick, within))) {
        edges.push(words);
        return;
      }
      compared += 1;
      worst = Math.max(worst, off);
      if (off > AGREES.duty && differences.length < MOST_DIFFERENCES) differences.push(words);
    });
    return { worst, compared, edges };
  }

  /**
   * Whether orders have differed a little since the motors got all the voltage there is: the controller adds its error up
   * only below that, and may have begun a tick apart.
   */
  private fullVoltage(tick: number, within: (tick: number) => boolean): boolean {
    let from = tick;
    while (from > 0 && !within(from)) {
      if ((this.offs[from] as number) > SINCE_FULL.most) return false;
      from -= 1;
    }
    return tick - from <= SINCE_FULL.ticks && (this.largest[from] as number) > 0.999;
  }

  /** The first step that lasted longer or shorter on the board's own body; null when none did. */
  private lastedLonger(): string | null {
    const theirs = this.one.run.brain.records.map(({ step, task, startTick, endTick, endedBy }) => ({
      step,
      task,
      from: startTick,
      to: endTick,
      how: endedBy as string,
    }));
    for (const task of new Set(theirs.map((step) => step.task))) {
      const [left, right] = [theirs, this.toldOf(this.ownSteps)].map((steps) =>
        steps.filter((step) => step.task === task).sort(byEnd),
      ) as [Told[], Told[]];
      const found = left.find((a, i) => right[i]?.step === a.step && a.to - a.from !== right[i].to - right[i].from);
      if (found) return found.step;
    }
    return null;
  }

  private nameOf(step: number): string {
    return this.target.steps[step]?.step ?? "?";
  }

  private toldOf(steps: readonly BrainStep[]): Told[] {
    return steps.map(({ step, task, from, to, how }) => ({ step: this.nameOf(step), task, from, to, how }));
  }

  /**
   * Steps task by task. With the other's senses each has to end as the other's did, within a tick; on a body of its own
   * they have to be the same steps, ended by the same.
   */
  private compareSteps(differences: string[], before: number): Lockstep["events"] {
    const theirs = this.one.run.brain.records
      .map(({ step, task, startTick, endTick, endedBy }) => ({
        step,
        task,
        from: startTick,
        to: endTick,
        how: endedBy as string,
      }))
      .filter(({ to }) => to < before);
    // What other tasks were doing when the mission ended is over without having been told.
    const told = (steps: readonly Told[], end: number) =>
      steps.filter(({ how, to }) => how !== "interrupted" || end < 0 || to < end - 1);
    const near = (a: Told, b: Told) => Math.abs(a.to - b.to) <= AGREES.ticks;
    const ours = told(theirs, this.endTick);
    const shadow = compareTold(ours, told(this.toldOf(this.shadowSteps), this.endTick), near);
    const alone = compareTold(ours, told(this.toldOf(this.ownSteps), this.ownEnd), () => true);
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
  for (const [i, { duty }] of a.motors.entries()) look(duty, b.motors[i]?.duty ?? 0);
  a.servos.forEach(({ targetRad, share }, i) => {
    look(targetRad, b.servos[i]?.targetRad ?? 0);
    look(share, b.servos[i]?.share ?? 0);
  });
  return worst;
}
