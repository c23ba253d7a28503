// Which readings of its sensors a robot's trace keeps, and its live view shows.
import { readingsOf } from "../cairn/readings.js";
import type { Robot } from "../robot/schema.js";

export interface WatchedReading {
  readonly id: string;
  readonly unit: string;
  readonly slot: number;
}

/** Readings of the sensors a trace keeps, each with its slot. */
export function watchedReadings(robot: Robot): WatchedReading[] {
  const heads = robot.servos.filter((servo) => servo.kind === "positional");
  const sensors = robot.sensors.filter((sensor) => sensor.kind !== "gyro");
  const names = [...sensors, ...heads].map((part) => part.name);
  return [...readingsOf(robot)].flatMap(([id, reading]) =>
    // What is dark follows from the light; colours change too seldom to keep tick by tick.
    !/\.(dark|colour|nearest|clearest)$/.test(id) &&
    names.some((name) => id.startsWith(`${name}.`) || id.startsWith(`${name}[`))
      ? [
          {
            id,
            slot: reading.slot,
            unit: id.endsWith(".distance") ? "m" : /\.(angle|pitch|roll)$/.test(id) ? "rad" : "1",
          },
        ]
      : [],
  );
}
