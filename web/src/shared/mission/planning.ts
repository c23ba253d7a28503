// The planned path: a live ideal rehearsal through the whole physics, started anew with every change of text.
import type { Field, Program, Robot, RunSummary, Trace } from "@giddy-pebble/core";
import { Rehearser } from "../../workers/rehearser.js";
import { paced } from "../paced.js";
import { whenLeft } from "../visit.js";
import { type Path, useMission } from "./state.js";

const set = useMission.setState;
const planner = new Rehearser();
whenLeft(() => planner.cancel());

/** Starts the worker early, so that the first plan finds it warm. */
export function warmUp(): void {
  planner.warmUp();
}

/** Gives up the plan in hand; the old path stays, greyed. */
export function dropPlan(): void {
  planner.cancel();
  set({ plannedStale: true });
}

/** A path that is still being rehearsed. */
export class GrowingPath {
  private x = new Float32Array(4096);
  private y = new Float32Array(4096);
  private heading = new Float32Array(4096);
  count = 0;

  add(from: number, columns: readonly Float32Array[]): void {
    const [x, y, heading] = columns;
    if (!x || !y || !heading) return;
    while (from + x.length > this.x.length) this.grow();
    this.x.set(x, from);
    this.y.set(y, from);
    this.heading.set(heading, from);
    this.count = from + x.length;
  }

  private grow(): void {
    const wider = (old: Float32Array) => {
      const grown = new Float32Array(old.length * 2);
      grown.set(old);
      return grown;
    };
    this.x = wider(this.x);
    this.y = wider(this.y);
    this.heading = wider(this.heading);
  }

  view(summary: RunSummary | null, trace: Trace | null = null): Path {
    const { count } = this;
    return {
      x: this.x.subarray(0, count),
      y: this.y.subarray(0, count),
      heading: this.heading.subarray(0, count),
      summary,
      trace,
    };
  }
}

/** A plan that takes longer is drawn as it comes. */
const DRAW_PARTIAL_MS = 120;
/** Between two drawings of a plan that grows: each draws the steps, the field and the readings anew. */
export const DRAW_EVERY_MS = 150;

export function plan(program: Program, robot: Robot, field: Field): void {
  const growing = new GrowingPath();
  // A quick plan replaces the old one whole.
  const partly = paced(DRAW_EVERY_MS, performance.now() + DRAW_PARTIAL_MS);
  planner.start(
    { program, robot, field, seed: 1, ideal: true, replans: true },
    {
      rows: (from, columns) => {
        growing.add(from, columns);
        partly(() => set({ planned: growing.view(null), plannedStale: false }));
      },
      done: (summary, trace) => set({ planned: growing.view(summary, trace), plannedStale: false }),
      refused: (reason) => set({ plannedStale: true, message: reason }),
    },
  );
}
