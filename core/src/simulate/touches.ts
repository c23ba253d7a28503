// What the robot touched in a run: what, from when to when, how hard at most, and where. Kept for the judge and for
// people; a program sees only its bumpers.

import { STEP_SEC, TICK_MS } from "../physics/constants.js";
import { FIXED } from "../physics/contacts.js";
import { THINGS } from "../physics/nearby.js";
import type { World } from "../physics/world.js";
import type { Robot } from "../robot/schema.js";
import { sensorsWithBars } from "../sensors/kinds/all.js";
import type { SensorScene } from "../sensors/scene.js";

/** One touch: a thing that was pressed on without a pause longer than PAUSE_TICKS. */
export interface Touch {
  readonly what: string;
  /** Part of the robot that pressed hardest: the bar of a sensor, an attachment, or its body. */
  part: string;
  readonly fromMs: number;
  toMs: number;
  /** Largest force, N, mean over one step of 5 ms. */
  hardestN: number;
  /** Where it was pressed hardest, m, field frame. */
  xM: number;
  yM: number;
}

/** Less than this is a graze that nobody would feel, N. */
const FELT_N = 0.02;
/** What is nearer than this is touched, m. */
const TOUCHING_M = 0.001;
const PAUSE_TICKS = 20;
const MOST_TOUCHES = 1000;
/** Fixed things of one pair of outlines: see where features get their numbers. */
const FEATURES = 64;

export class TouchWatch {
  readonly touches: Touch[] = [];
  private readonly latest = new Map<string, Touch>();
  private readonly parts: readonly string[];

  constructor(
    robot: Robot,
    private readonly world: World,
    private readonly scene: SensorScene,
    private readonly loadNames: readonly string[],
  ) {
    const bars = sensorsWithBars(robot.sensors);
    this.parts = ["body", ...bars.map(({ name }) => name), ...robot.attachments.map(({ name }) => name)];
  }

  /** After each step of the world. */
  step(tick: number): void {
    const { contacts } = this.world;
    for (let i = 0; i < contacts.count; i += 1) {
      const first = contacts.first[i] as number;
      const second = contacts.second[i] as number;
      // The robot is body 0; it may stand on either side of a pair.
      if (first !== 0 && second !== 0) continue;
      const forceN = (contacts.normalImpulse[i] as number) / STEP_SEC;
      if (forceN < FELT_N) continue;
      const other = first === 0 ? second : first;
      const thing = other === FIXED ? Math.floor((contacts.id[i] as number) / FEATURES) % THINGS : -1 - other;
      const shape = (first === 0 ? contacts.shape[i] : contacts.secondShape[i]) as number;
      this.felt(thing, tick, forceN, shape, contacts.x[i] as number, contacts.y[i] as number);
    }
  }

  private felt(thing: number, tick: number, forceN: number, shape: number, xM: number, yM: number): void {
    const now = tick * TICK_MS;
    const what = thing < 0 ? (this.loadNames[-2 - thing] ?? "") : this.scene.nameOf(thing);
    let touch = this.latest.get(what);
    if (!touch || now - touch.toMs > PAUSE_TICKS * TICK_MS) {
      if (this.touches.length >= MOST_TOUCHES) return;
      touch = { what, part: "", fromMs: now, toMs: now, hardestN: 0, xM, yM };
      this.latest.set(what, touch);
      this.touches.push(touch);
    }
    touch.toMs = now;
    if (forceN <= touch.hardestN) return;
    touch.hardestN = forceN;
    touch.part = this.parts[shape] ?? "body";
    touch.xM = xM;
    touch.yM = yM;
  }

  /** Whether anything is touched at this moment, however lightly. */
  touching(): boolean {
    const { contacts } = this.world;
    for (let i = 0; i < contacts.count; i += 1)
      if ((contacts.first[i] === 0 || contacts.second[i] === 0) && (contacts.gap[i] as number) < TOUCHING_M)
        return true;
    return false;
  }
}
