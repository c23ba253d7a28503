// The numbers a board reads from each kind of sensor, before anything is made of them.
import type { Sensor } from "../robot/schema.js";
import { floorOffsets } from "./floorSensor.js";

/**
 * How many numbers a sensor delivers, in this order:
 * gyro none (it has its own place) · bumper, button: line is low · eye: distance as heard m, seen, age in ticks ·
 * near: blocked · tag: red, green, blue, enough light · potentiometer: angle rad · tilt: nose up, left side up, rad · floor: light of each spot, then the
 * colour's index of each.
 */
export function rawSlots(sensor: Sensor): number {
  switch (sensor.kind) {
    case "gyro":
      return 0;
    case "bumper":
    case "button":
    case "near":
    case "potentiometer":
      return 1;
    case "tilt":
      return 2;
    case "eye":
      return 3;
    case "tag":
      return 4;
    case "floor":
      return 2 * floorOffsets(sensor.layout, sensor.count, sensor.spacingM).length;
  }
}
