// A board's brain that is asked tick by tick: what it is given, and what it says.
import type { Commands, RawSenses } from "@giddy-pebble/core";

export interface BrainStep {
  readonly step: number;
  readonly task: number;
  readonly from: number;
  readonly to: number;
  readonly how: string;
}

/** What a brain did in a tick. */
export interface BrainTick {
  readonly steps: readonly BrainStep[];
  readonly said: readonly { readonly kind: string; readonly text: string }[];
  /** Why the mission ended in this tick; null while it goes on. */
  readonly end: { readonly why: string; readonly a: number; readonly b: number } | null;
}

/** What a chip told of itself: cycles of its longest tick, and bytes of memory that its stack never reached. */
export interface ChipLoad {
  readonly mostCycles: number;
  readonly leastFree: number;
}

export interface TickBrain {
  /** Of a chip, once it had a tick. */
  readonly load?: ChipLoad | null;
  /** Takes senses, gives orders. @param chance - asked for each number the mission draws */
  tick(raw: RawSenses, driven: boolean, into: Commands, chance: () => number): BrainTick;
  close(): void;
}

const MODES = ["drive", "brake", "coast"] as const;

/** Senses as numbers, in the order that host boards read them. */
export function sensesAsNumbers(raw: RawSenses, driven: boolean, shafts: number): number[] {
  const { handset } = raw;
  return [
    ...Array.from({ length: shafts }, (_, i) => raw.counts[i] ?? 0),
    raw.gyroRateRadS,
    raw.gyroSec,
    raw.packVolts,
    raw.packCurrentA,
    ...raw.motorCounts.map((counts) => counts ?? 0),
    ...raw.motorHeat,
    ...raw.servos.flatMap(({ angleRad, rateRadS, heldRad }) => [angleRad, rateRadS, heldRad ?? Number.NaN]),
    ...raw.sensors.flatMap(({ values }) => [...values]),
    ...raw.sensors.map(({ told }) => Number(told)),
    ...raw.holds,
    Number(driven),
    Number(handset !== null),
    ...(handset?.sticks ?? [0, 0, 0, 0]),
    ...(handset?.levels ?? [0, 0, 0, 0]),
    handset?.buttons ?? 0,
  ];
}

/** How many numbers a robot's orders are. */
export function orderCount({ motors, servos }: Commands, shafts: number): number {
  return 2 + shafts + 2 * motors.length + 2 * servos.length;
}

/** Orders from numbers, in the order that host boards write them. */
export function ordersFromNumbers(numbers: readonly number[], shafts: number, into: Commands): void {
  let at = 0;
  const next = () => numbers[at++] as number;
  into.mode = MODES[next()] ?? "brake";
  for (let i = 0; i < shafts; i += 1) into.duties[i] = next();
  into.steerRad = next();
  for (const order of into.motors) {
    order.mode = MODES[next()] ?? "brake";
    order.duty = next();
  }
  for (const order of into.servos) {
    order.targetRad = next();
    order.share = next();
  }
}
