// From what the board reads of each sensor to what a mission reads: known offsets are taken off, thresholds and taught
// colours decide, taps are counted. How, each kind of sensor says itself.
import { readingLayout } from "../cairn/readings.js";
import type { Robot } from "../robot/schema.js";
import { sensorKind } from "../sensors/kinds/all.js";
import type { SensorLine } from "../sensors/kinds/kind.js";
import type { RawSenses } from "./raw.js";

/** Puts one sensor's readings into the snapshot. */
type Perceiver = (out: Float64Array) => void;

export class Perception {
  private readonly perceivers: readonly Perceiver[];
  /** What they keep from tick to tick. */
  readonly kept: object[] = [];

  constructor(robot: Robot, raw: RawSenses) {
    const layout = readingLayout(robot);
    this.perceivers = robot.sensors.flatMap((sensor, i) => {
      const own = raw.sensors[i] as SensorLine;
      const base = layout.sensors[i] as number;
      const perceive = sensorKind(sensor).perceive(sensor, own.values, this.kept);
      // What has delivered nothing yet leaves its readings as they are.
      return perceive ? [(out: Float64Array) => own.told && perceive(out, base)] : [];
    });
  }

  /** Once a tick. */
  tick(snapshot: Float64Array): void {
    for (const perceive of this.perceivers) perceive(snapshot);
  }
}
