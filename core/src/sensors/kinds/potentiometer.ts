// A potentiometer on an arm, a motor or a servo. Its line: its angle, rad.
import * as z from "zod";
import { finite, partName } from "../../drives/parts.js";
import { PI } from "../../math/trig.js";
import { DEG, PLACE_ROWS, quantity } from "../../units/quantityInfo.js";
import { potentiometerReading } from "../potentiometer.js";
import { asDelivered, disc, GROUND, place, power, type SensorKind, signal } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("potentiometer"),
  travelRad: finite,
  on: partName.nullable().default(null),
});

export const potentiometer: SensorKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: "potentiometer",
  quantities: [...PLACE_ROWS.slice(0, 3), quantity("travelRad", "Travel", DEG, { least: 0.01, most: 20 })],
  offers: [
    {
      id: "potentiometer",
      name: "arm_angle",
      title: "Potentiometer",
      about: "angle of an arm, 270 deg in 1024 steps; 180 to 300 deg",
      body: { xM: 0.05, zM: 0.05, travelRad: (270 * PI) / 180 },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => [signal("signal", "signal", ["analog"]), power(3, 5.5, 0.001), GROUND],
  slots: () => 1,
  readings: () => [["angle", "shaft angle"]],
  perceive: asDelivered(1),
  boardReads: () => ({ how: "delivered", count: 1 }),
  simulate:
    ({ on, travelRad }, { values }, bench) =>
    () => {
      values[0] = potentiometerReading(on === null ? 0 : bench.angleOf(on), travelRad);
    },
  drawing: () => [
    { path: disc(6), look: "gyro" },
    { path: "M0 0L4 -4", look: "gyromark" },
  ],
};
