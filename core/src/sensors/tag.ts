// A tag colour reader: looks at a plate a few millimetres away, on the floor or on a load in front of it, by
// its own light. Too near or too far the plate is shaded, and the reading turns darker and less sure.
import { type ColourReference, type LinearRgb, nameColour } from "../field/colours.js";
import type { RandomStream } from "../math/random.js";
import { cos, sin } from "../math/trig.js";
import type { RayHit, SensorScene } from "./scene.js";

interface TagTruth {
  readonly xM: number;
  readonly yM: number;
  readonly zM: number;
  readonly aimRad: number;
  readonly gapM: number;
  readonly noise: number;
  readonly periodTicks: number;
  /** Factors on the red, green and blue that it sees: its own lamp and filters. */
  readonly gains: LinearRgb;
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

/** Whether it hangs near enough to the floor to read plates that lie on it. */
export function readsFloor({ zM, gapM }: { readonly zM: number; readonly gapM: number }): boolean {
  return zM <= gapM * REACH;
}

/** Colour of a plate by the light it sends back. @param references - what it names by; null for the printed colours */
export function nameTag(
  light: LinearRgb,
  references: readonly ColourReference[] | null,
): { readonly colour: number; readonly sure: boolean } {
  const { index, doubt } = nameColour(light, references ?? undefined);
  return { colour: index, sure: doubt < SURE_DOUBT };
}

export class TagSensor {
  /** It has seen a plate. */
  told = false;
  /** A plate is before it, at a gap that sends enough light back. */
  lit = false;
  /** Red, green and blue as read last. */
  light: LinearRgb = [0, 0, 0];
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
      this.lit = false;
      return;
    }
    const { shade, rgb } = plate;
    const noise = () => (this.chance ? this.truth.noise * this.chance.normal() : 0);
    const { gains } = this.truth;
    const part = (i: 0 | 1 | 2) => Math.max(0, rgb[i] * gains[i] * shade + noise());
    this.light = [part(0), part(1), part(2)];
    this.told = true;
    this.lit = shade > SURE_LIGHT;
  }

  private plate(scene: SensorScene): { rgb: LinearRgb; shade: number } | null {
    const { truth } = this;
    const { frame } = scene;
    const x = frame.xM + frame.cosH * truth.xM - frame.sinH * truth.yM;
    const y = frame.yM + frame.sinH * truth.xM + frame.cosH * truth.yM;
    if (readsFloor(truth)) {
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
