// From what the board reads of each sensor to what a mission reads: known offsets are taken off, thresholds and taught
// colours decide, taps are counted.
import { readingLayout } from "../cairn/readings.js";
import { tagReferences } from "../robot/found.js";
import { eyeOffset } from "../robot/inForce.js";
import type { Robot, Sensor, SensorOf } from "../robot/schema.js";
import { floorOffsets, isCrossing } from "../sensors/floorSensor.js";
import { nameTag } from "../sensors/tag.js";
import type { RawSenses, RawSensor } from "./raw.js";

/** Puts one sensor's readings into the snapshot. */
type Perceiver = (out: Float64Array) => void;

export class Perception {
  private readonly perceivers: readonly Perceiver[];
  /** What they keep from tick to tick. */
  readonly kept: object[] = [];

  constructor(robot: Robot, raw: RawSenses) {
    const layout = readingLayout(robot);
    this.perceivers = robot.sensors.flatMap((sensor, i) => {
      const own = raw.sensors[i] as RawSensor;
      const perceive = perceiver(sensor, layout.sensors[i] as number, own.values, this.kept);
      // What has delivered nothing yet leaves its readings as they are.
      return perceive ? [(out: Float64Array) => own.told && perceive(out)] : [];
    });
  }

  /** Once a tick. */
  tick(snapshot: Float64Array): void {
    for (const perceive of this.perceivers) perceive(snapshot);
  }
}

function perceiver(sensor: Sensor, base: number, values: Float64Array, kept: object[]): Perceiver | null {
  switch (sensor.kind) {
    case "gyro":
      return null;
    case "bumper":
    case "near":
    case "potentiometer":
      return (out) => {
        out[base] = values[0] as number;
      };
    case "tilt":
      return (out) => {
        out[base] = values[0] as number;
        out[base + 1] = values[1] as number;
      };
    case "button":
      return button(base, values, kept);
    case "eye":
      return eye(sensor, base, values);
    case "tag":
      return tag(sensor, base, values, kept);
    case "floor":
      return floor(sensor, base, values);
  }
}

function button(base: number, values: Float64Array, kept: object[]): Perceiver {
  const before = { low: 0 };
  kept.push(before);
  return (out) => {
    const now = values[0] as number;
    if (now === 1 && before.low === 0) out[base + 1] = (out[base + 1] as number) + 1;
    before.low = now;
    out[base] = now;
  };
}

function eye(sensor: SensorOf<"eye">, base: number, values: Float64Array): Perceiver {
  const offsetM = eyeOffset(sensor).value;
  return (out) => {
    const seen = values[1] as number;
    // One that sees nothing reads its far limit.
    out[base] = seen === 1 ? Math.max(0, (values[0] as number) - offsetM) : sensor.farM;
    out[base + 1] = seen;
  };
}

function tag(sensor: SensorOf<"tag">, base: number, values: Float64Array, kept: object[]): Perceiver {
  const references = tagReferences(sensor);
  const last = { red: Number.NaN, green: Number.NaN, blue: Number.NaN, colour: 0, sure: false };
  kept.push(last);
  return (out) => {
    const [red, green, blue, lit] = values as unknown as [number, number, number, number];
    if (red !== last.red || green !== last.green || blue !== last.blue)
      Object.assign(last, { red, green, blue }, nameTag([red, green, blue], references));
    out[base] = last.colour;
    out[base + 1] = last.sure && lit === 1 ? 1 : 0;
    out[base + 2] = red;
    out[base + 3] = green;
    out[base + 4] = blue;
  };
}

function floor(sensor: SensorOf<"floor">, base: number, values: Float64Array): Perceiver {
  const n = floorOffsets(sensor.layout, sensor.count, sensor.spacingM).length;
  const dark = sensor.dark.value;
  return (out) => {
    out[base] = isCrossing(values, n, dark) ? 1 : 0;
    for (let i = 0; i < n; i += 1) {
      const light = values[i] as number;
      out[base + 1 + 3 * i] = light;
      out[base + 2 + 3 * i] = values[n + i] as number;
      out[base + 3 + 3 * i] = light < dark ? 1 : 0;
    }
  };
}
