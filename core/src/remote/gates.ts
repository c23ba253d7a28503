// Practice: gates to be driven through in order, laps, and how even they are.

/** A gate is the line between its two posts, m, field frame. */
interface GateLine {
  readonly name: string;
  readonly fromM: readonly [number, number];
  readonly toM: readonly [number, number];
}

/** Whether the way from one point to the next crosses between the posts. @returns the share of the way, or null */
export function crossing(
  from: readonly [number, number],
  to: readonly [number, number],
  gate: GateLine,
): number | null {
  const [px, py] = gate.fromM;
  const [gx, gy] = [gate.toM[0] - px, gate.toM[1] - py];
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const cross = dx * gy - dy * gx;
  if (cross === 0) return null;
  const along = ((px - from[0]) * gy - (py - from[1]) * gx) / cross;
  const across = ((px - from[0]) * dy - (py - from[1]) * dx) / cross;
  return along > 0 && along <= 1 && across >= 0 && across <= 1 ? along : null;
}

/** Follows a robot through the gates, point by point. A lap runs from the first gate to the first gate. */
export class LapTimer {
  /** Index of the gate that is next. */
  next = 0;
  /** Times of whole laps, s. */
  readonly laps: number[] = [];
  /** When the lap in hand began; null before the first gate. */
  beganSec: number | null = null;
  /** Gates passed in the lap in hand. */
  passed = 0;
  private last: readonly [number, number] | null = null;
  private lastSec = 0;

  constructor(readonly gates: readonly GateLine[]) {}

  /** @returns whether a gate was passed */
  add(xM: number, yM: number, sec: number): boolean {
    const { last, gates } = this;
    const point: [number, number] = [xM, yM];
    this.last = point;
    const before = this.lastSec;
    this.lastSec = sec;
    const gate = gates[this.next];
    if (!last || !gate) return false;
    const share = crossing(last, point, gate);
    if (share === null) return false;
    this.pass(before + (sec - before) * share);
    return true;
  }

  private pass(sec: number): void {
    if (this.next === 0) {
      if (this.beganSec !== null) this.laps.push(sec - this.beganSec);
      this.beganSec = sec;
      this.passed = 0;
    }
    this.passed += 1;
    this.next = (this.next + 1) % this.gates.length;
  }
}

interface LapFigures {
  readonly count: number;
  readonly bestSec: number;
  readonly meanSec: number;
  /** Standard deviation over the mean: how even the laps are; null with fewer than two. */
  readonly unevenness: number | null;
}

/** @returns null without laps */
export function lapFigures(laps: readonly number[]): LapFigures | null {
  if (laps.length === 0) return null;
  const mean = laps.reduce((sum, lap) => sum + lap, 0) / laps.length;
  const squares = laps.reduce((sum, lap) => sum + (lap - mean) * (lap - mean), 0);
  return {
    count: laps.length,
    bestSec: Math.min(...laps),
    meanSec: mean,
    unevenness: laps.length < 2 ? null : Math.sqrt(squares / (laps.length - 1)) / mean,
  };
}
