// The looks of a distance sensor on a turning head: how long the head moved and settled, when the ping was sent, when it
// was heard, and where the sensor is blind.

import { PI } from "../math/trig.js";
import type { Robot } from "../robot/schema.js";
import { SOUND_M_S } from "../sensors/eye.js";
import type { SensorOf } from "../sensors/kinds/all.js";
import { nearLimitM } from "../sensors/kinds/eye.js";
import { HEAD_EVENTS } from "../simulate/headWatch.js";
import { type Trace, traceColumn } from "../trials/trace.js";

/** One look. Ticks of the run; null where the run ended before. */
export interface HeadLook {
  readonly movesTick: number;
  /** From here on the head slows down into its place. */
  readonly settlesTick: number;
  readonly stillTick: number | null;
  readonly pingTick: number | null;
  readonly heardTick: number | null;
  /** Where it looked, against the chassis; left is positive, rad. */
  readonly bearingRad: number;
  /** What it heard, m; null for nothing. */
  readonly heardM: number | null;
}

/** Where a distance sensor hears nothing, whatever stands there. */
interface EyeBlind {
  /** Directions it can look in, with half its cone, rad. */
  readonly reachRad: readonly [number, number];
  /** Nearer than this it cannot measure, m. */
  readonly nearM: number;
  readonly farM: number;
  readonly coneRad: number;
  /** Longest wait from a ping to its echo, from the far limit: 2 d / 343 m/s, s. */
  readonly echoSec: number;
}

/** The head's own speed has fallen below this share of its fastest: it settles. */
const SETTLES_SHARE = 0.5;

export function eyeBlind(robot: Robot, eye: SensorOf<"eye">): EyeBlind {
  const head = robot.servos.find(({ name }) => name === eye.head);
  const [low, high] = head?.kind === "positional" ? [head.lowRad, head.highRad] : [0, 0];
  const half = eye.coneRad / 2;
  return {
    reachRad: [eye.aimRad + low - half, eye.aimRad + high + half],
    nearM: nearLimitM(eye),
    farM: eye.farM,
    coneRad: eye.coneRad,
    echoSec: (2 * eye.farM) / SOUND_M_S,
  };
}

/** @returns every look of a run at which the head had moved, in order; empty for a sensor without a head */
export function headLooks(trace: Trace, eye: SensorOf<"eye">): HeadLook[] {
  const { head } = eye;
  const angle = head === null ? null : traceColumn(trace, `${head}.angle`);
  if (head === null || !angle) return [];
  const looks: { -readonly [key in keyof HeadLook]: HeadLook[key] }[] = [];
  const events = trace.events
    .filter(({ kind, stepId }) => (stepId === head || stepId === eye.name) && HEAD_KINDS.has(kind))
    .sort((a, b) => a.tick - b.tick);
  for (const { tick, kind, data } of events) {
    const last = looks.at(-1);
    if (kind === HEAD_EVENTS.turns) {
      // Turned away again before it was heard: the same look goes on.
      if (last && last.pingTick === null) last.stillTick = null;
      else
        looks.push({
          movesTick: tick,
          settlesTick: tick,
          stillTick: null,
          pingTick: null,
          heardTick: null,
          bearingRad: eye.aimRad,
          heardM: null,
        });
    } else if (!last) continue;
    else if (kind === HEAD_EVENTS.still) {
      last.stillTick = tick;
      last.bearingRad = eye.aimRad + Number(data);
      last.settlesTick = settles(angle, last.movesTick, tick);
    } else if (kind === HEAD_EVENTS.ping) last.pingTick = tick;
    else {
      last.heardTick = tick;
      last.heardM = typeof data === "number" ? data : null;
    }
  }
  return looks;
}

const HEAD_KINDS: ReadonlySet<string> = new Set(Object.values(HEAD_EVENTS));

/** The tick from which the head turns slower than half of its fastest in this move. */
function settles(angle: Float32Array, from: number, to: number): number {
  const rate = (tick: number) => Math.abs((angle[tick] ?? 0) - (angle[tick - 1] ?? 0));
  let most = 0;
  for (let tick = from + 1; tick <= to; tick += 1) most = Math.max(most, rate(tick));
  let tick = to;
  while (tick > from + 1 && rate(tick) < most * SETTLES_SHARE) tick -= 1;
  return tick;
}

/** Words of a direction against the robot's front. */
export function bearingWords(rad: number): string {
  const deg = Math.floor((Math.abs(rad) * 180) / PI + 0.5);
  return deg === 0 ? "ahead" : `${rad > 0 ? "left" : "right"} ${deg} deg`;
}
