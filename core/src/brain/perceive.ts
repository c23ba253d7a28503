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

  constructor(robot: Robot, raw: RawSenses) {
    const layout = readingLayout(robot);
    this.perceivers = robot.sensors.flatMap((sensor, i) => {
      const own = raw.sensors[i] as RawSensor;
      const perceive = perceiver(sensor, layout.sensors[i] as number, own.values);
      // What has delivered nothing yet leaves its readings as they are.
      return perceive ? [(out: Float64Array) => own.told && perceive(out)] : [];
    });
  }

  /** Once a tick. */
  tick(snapshot: Float64Array): void {
    for (const perceive of this.perceivers) perceive(snapshot);
  }
}

function perceiver(sensor: Sensor, base: number, values: Float64Array): Perceiver | null {
  switch (sensor.kind) {
    case "gyro":
      return null;
    case "bumper":
    case "near":
    case "potentiometer":
      return (out) => {
        out[base] = values[0] as number;
      };
    case "button":
      return button(base, values);
    case "eye":
      return eye(sensor, base, values);
    case "tag":
      return tag(sensor, base, values);
    case "floor":
      return floor(sensor, base, values);
  }
}

function button(base: number, values: Float64Array): Perceiver {
  let was = 0;
  return (out) => {
    const now = values[0] as number;
    if (now === 1 && was === 0) out[base + 1] = (out[base + 1] as number) + 1;
    was = now;
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

function tag(sensor: SensorOf<"tag">, base: number, values: Float64Array): Perceiver {
  const references = tagReferences(sensor);
  let [red, green, blue] = [Number.NaN, Number.NaN, Number.NaN];
  let named = { colour: 0, sure: false };
  return (out) => {
    const [r, g, b, lit] = values as unknown as [number, number, number, number];
    if (r !== red || g !== green || b !== blue) {
      [red, green, blue] = [r, g, b];
      named = nameTag([r, g, b], references);
    }
    out[base] = named.colour;
    out[base + 1] = named.sure && lit === 1 ? 1 : 0;
    out[base + 2] = r;
    out[base + 3] = g;
    out[base + 4] = b;
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
