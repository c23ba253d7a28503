// A near sensor: light sent out and back, on or off by a threshold screw. What comes back falls with the square
// of the distance and with the shade of what it meets, so that a dark thing is noticed later.
import { PI } from "../math/trig.js";
import type { ConeAnswer } from "./cone.js";
import type { SensorScene } from "./scene.js";

/** Shade its threshold is stated for: white, matt. */
const WHITE_REFLECTANCE = 0.9;

interface NearTruth {
  readonly xM: number;
  readonly yM: number;
  readonly zM: number;
  readonly aimRad: number;
  /** Whole width of the cone it looks into, rad. */
  readonly coneRad: number;
  /** Distance at which it switches on a white surface, m. */
  readonly thresholdM: number;
  /** It goes off only this share farther away. */
  readonly hysteresis: number;
  readonly periodTicks: number;
}

const answer: ConeAnswer = { distance: 0, reflectance: 0, bearingRad: 0, id: -1 };

/** Distance at which a surface switches it on, m: the light is ρ/d², the threshold that of white at thresholdM. */
export function switchingDistanceM(thresholdM: number, reflectance: number): number {
  return thresholdM * Math.sqrt(reflectance / WHITE_REFLECTANCE);
}

export class NearSensor {
  blocked = false;
  private ticks = 0;

  constructor(readonly truth: NearTruth) {}

  tick(scene: SensorScene): void {
    this.ticks += 1;
    if (this.ticks % this.truth.periodTicks !== 0) return;
    this.blocked = this.looks(scene, this.blocked ? 1 + this.truth.hysteresis : 1);
  }

  private looks(scene: SensorScene, slack: number): boolean {
    const { truth } = this;
    const { frame } = scene;
    const x = frame.xM + frame.cosH * truth.xM - frame.sinH * truth.yM;
    const y = frame.yM + frame.sinH * truth.xM + frame.cosH * truth.yM;
    const reach = (reflectance: number) => switchingDistanceM(truth.thresholdM, reflectance) * slack;
    const cone = scene.look(x, y, truth.zM, frame.headingRad + truth.aimRad, truth.coneRad, reach(1), PI / 2);
    cone.answer(answer, reach);
    return answer.id >= 0;
  }
}
