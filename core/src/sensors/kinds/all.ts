// Every kind of sensor there is. A new kind is a file beside these and its line here.
import * as z from "zod";
import { bumper } from "./bumper.js";
import { button } from "./button.js";
import { eye } from "./eye.js";
import { floor } from "./floor.js";
import { force } from "./force.js";
import { gyro } from "./gyro.js";
import type { SensorKind } from "./kind.js";
import { near } from "./near.js";
import { potentiometer } from "./potentiometer.js";
import { tag } from "./tag.js";
import { tilt } from "./tilt.js";

const KINDS = { bumper, eye, near, floor, tag, gyro, potentiometer, tilt, force, button } as const;

/** In the order that the catalogue offers them in. */
export const SENSOR_KINDS = Object.entries(KINDS) as unknown as readonly (readonly [
  Sensor["kind"],
  SensorKind<Sensor>,
])[];

export const sensorSchema = z.discriminatedUnion("kind", [
  gyro.schema,
  bumper.schema,
  eye.schema,
  near.schema,
  floor.schema,
  tag.schema,
  potentiometer.schema,
  tilt.schema,
  force.schema,
  button.schema,
]);
export type Sensor = z.infer<typeof sensorSchema>;
export type SensorOf<K extends Sensor["kind"]> = Extract<Sensor, { kind: K }>;

/** What there is to know of a kind of sensor. */
export function sensorKind({ kind }: Pick<Sensor, "kind">): SensorKind<Sensor> {
  return KINDS[kind] as unknown as SensorKind<Sensor>;
}

/** Sensors with a bar that things push, in the order of the world's shapes for them. */
export function sensorsWithBars(sensors: readonly Sensor[]): Sensor[] {
  return sensors.filter((sensor) => sensorKind(sensor).bar !== undefined);
}
