// Floor light and colour: single, a pair across the robot, or a row. Each reads the mean of the floor under its
// spot; the spot grows and the light fades with height.
import { nameColour } from "../field/colours.js";
import type { FloorPatch } from "../field/picture.js";
import type { RandomStream } from "../math/random.js";
import type { SensorScene } from "./scene.js";

/** Height its spot size is stated for, m. */
const REFERENCE_HEIGHT_M = 0.008;
/**
 * Light below this share of the threshold means that a spot sees nothing but line. A pair astride a line has half of it
 * under each spot, which is about as light as the threshold itself: that is no crossing.
 */
export const FULLY_DARK = 0.6;
/** Spots of a row that must be dark at once for a crossing, as a share of the row. */
export const CROSSING_SHARE = 0.7;

interface FloorTruth {
  readonly xM: number;
  readonly yM: number;
  readonly zM: number;
  /** Places across the robot, left first, m. */
  readonly offsetsM: readonly number[];
  readonly spotM: number;
  readonly noise: number;
  readonly ambient: number;
  readonly periodTicks: number;
}

const patch: FloorPatch = { light: 0, red: 0, green: 0, blue: 0 };

/** Places of the sensors across the robot, left first, m. */
export function floorOffsets(layout: "single" | "pair" | "row", count: number, spacingM: number): number[] {
  const n = layout === "single" ? 1 : layout === "pair" ? 2 : Math.max(1, Math.min(8, Math.floor(count)));
  return Array.from({ length: n }, (_, i) => ((n - 1) / 2 - i) * spacingM);
}

/**
 * A line across shows as dark under all of a pair, or most of a row.
 * @param light - share of light of each of `spots` spots, 0..1; dark - the threshold
 */
export function isCrossing(light: ArrayLike<number>, spots: number, dark: number): boolean {
  if (spots < 2) return false;
  let dim = 0;
  for (let i = 0; i < spots; i += 1) if ((light[i] as number) < dark * FULLY_DARK) dim += 1;
  return dim >= Math.max(2, spots * CROSSING_SHARE);
}

export class FloorSensor {
  /** Share of light of each spot, 0..1, and its colour's index. */
  readonly light: Float64Array;
  readonly colour: Int32Array;
  /** It has looked at the floor. */
  told = false;
  /** Colour each spot was named from. */
  private readonly seen: Float64Array;
  private ticks: number;

  constructor(
    readonly truth: FloorTruth,
    private readonly chance: RandomStream | null,
  ) {
    this.light = new Float64Array(truth.offsetsM.length);
    this.colour = new Int32Array(truth.offsetsM.length);
    this.seen = new Float64Array(3 * truth.offsetsM.length).fill(-1);
    this.ticks = truth.periodTicks - 1;
  }

  /** Names the colour under a spot; an unchanged floor keeps its name without the sums. */
  private nameSpot(i: number): void {
    const { red, green, blue } = patch;
    if (this.seen[3 * i] === red && this.seen[3 * i + 1] === green && this.seen[3 * i + 2] === blue) return;
    this.seen[3 * i] = red;
    this.seen[3 * i + 1] = green;
    this.seen[3 * i + 2] = blue;
    this.colour[i] = nameColour([red, green, blue]).index;
  }

  tick(scene: SensorScene): void {
    this.ticks += 1;
    if (this.ticks % this.truth.periodTicks !== 0) return;
    const { truth, chance } = this;
    const { frame, floor } = scene;
    const lift = Math.max(0.25, truth.zM / REFERENCE_HEIGHT_M);
    const gain = Math.min(1, 1 / (lift * lift));
    this.told = true;
    for (let i = 0; i < truth.offsetsM.length; i += 1) {
      const across = truth.yM + (truth.offsetsM[i] as number);
      const x = frame.xM + frame.cosH * truth.xM - frame.sinH * across;
      const y = frame.yM + frame.sinH * truth.xM + frame.cosH * across;
      floor.disc(x, y, truth.spotM * lift, patch);
      const noise = chance ? truth.noise * chance.normal() : 0;
      const ambient = truth.ambient === 0 ? 0 : Math.min(1, truth.ambient * scene.light.at(x, y));
      const light = gain * patch.light * (1 - truth.ambient) + ambient + noise;
      this.light[i] = Math.max(0, Math.min(1, light));
      this.nameSpot(i);
    }
  }
}
