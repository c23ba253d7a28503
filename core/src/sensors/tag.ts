// A tag colour reader: looks at a plate a few millimetres away, on the floor or on a load in front of it, by
// its own light. Too near or too far the plate is shaded, and the reading turns darker and less sure.
import { type LinearRgb, nameColour } from "../field/colours.js";
import type { RandomStream } from "../math/random.js";
import { cos, sin } from "../math/trig.js";
import type { RayHit, SensorScene } from "./scene.js";

export interface TagTruth {
  readonly xM: number;
  readonly yM: number;
  readonly zM: number;
  readonly aimRad: number;
  readonly gapM: number;
  readonly noise: number;
  readonly periodTicks: number;
}

/** It reads nothing beyond this many times its best gap. */
const REACH = 3;
const SURE_DOUBT = 0.7;
const SURE_LIGHT = 0.5;
const hit: RayHit = { distance: 0, square: 0, reflectance: 0, rough: false, load: -1 };

/** Share of light that comes back from a plate at a gap: 1 at the best one. */
export function gapShade(gapM: number, bestM: number): number {
  const off = (gapM - bestM) / bestM;
  return 1 / (1 + off * off);
}

export class TagSensor {
  /** Index of the colour read last. */
  colour = 0;
  sure = false;
  private ticks: number;

  constructor(
    readonly truth: TagTruth,
    private readonly chance: RandomStream | null,
  ) {
    this.ticks = truth.periodTicks - 1;
  }

  tick(scene: SensorScene): void {
    this.ticks += 1;
    if (this.ticks % this.truth.periodTicks !== 0) return;
    const plate = this.plate(scene);
    if (!plate) {
      this.sure = false;
      return;
    }
    const { shade, rgb } = plate;
    const noise = () => (this.chance ? this.truth.noise * this.chance.normal() : 0);
    const seen = rgb.map((part) => Math.max(0, part * shade + noise())) as unknown as LinearRgb;
    const { index, doubt } = nameColour(seen);
    this.colour = index;
    this.sure = doubt < SURE_DOUBT && shade > SURE_LIGHT;
  }

  private plate(scene: SensorScene): { rgb: LinearRgb; shade: number } | null {
    const { truth } = this;
    const { frame } = scene;
    const x = frame.xM + frame.cosH * truth.xM - frame.sinH * truth.yM;
    const y = frame.yM + frame.sinH * truth.xM + frame.cosH * truth.yM;
    if (truth.zM <= truth.gapM * REACH) {
      for (const tag of scene.tags)
        if (Math.max(Math.abs(tag.xM - x), Math.abs(tag.yM - y)) <= tag.sizeM / 2)
          return { rgb: tag.rgb, shade: gapShade(truth.zM, truth.gapM) };
    }
    const angle = frame.headingRad + truth.aimRad;
    scene.ray(x, y, truth.zM, cos(angle), sin(angle), truth.gapM * REACH, hit);
    const rgb = hit.load >= 0 ? scene.loadColours[hit.load] : undefined;
    return rgb && hit.distance < truth.gapM * REACH ? { rgb, shade: gapShade(hit.distance, truth.gapM) } : null;
  }
}
