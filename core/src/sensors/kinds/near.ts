// A proximity sensor: something is nearer than its threshold, or not. Its line: 1 while something is.
import * as z from "zod";
import { finite } from "../../drives/parts.js";
import { PI } from "../../math/trig.js";
import { type InForce, inForce, knownSchema } from "../../units/known.js";
import { DEG, MM, MS_PLAIN, PERCENT, PLACE_ROWS, quantity } from "../../units/quantityInfo.js";
import { NearSensor } from "../near.js";
import { asDelivered, box, GROUND, place, power, type SensorKind, signal, ticksOf } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("near"),
  /** Whole width of the cone it looks into. */
  coneRad: finite.default(0.16),
  thresholdM: knownSchema,
  hysteresis: finite.default(0.12),
  periodMs: finite.default(10),
});
type Near = z.infer<typeof schema>;

/** Standard error of a threshold that nobody measured, as a share. */
const ASSUMED_THRESHOLD = 0.06;

export function nearThreshold({ thresholdM }: Near): InForce {
  return inForce(thresholdM, thresholdM.value, ASSUMED_THRESHOLD);
}

export const near: SensorKind<Near> & { readonly schema: typeof schema } = {
  schema,
  words: "proximity sensor",
  quantities: [
    quantity("coneRad", "Cone", DEG, { least: 0.001, most: PI }),
    ...PLACE_ROWS,
    quantity("thresholdM", "Switches at", MM, { least: 0.001, most: 2, known: true, hint: "a white, matt surface" }),
    quantity("hysteresis", "Hysteresis", PERCENT, { least: 0, most: 0.9, seldom: true }),
    quantity("periodMs", "A reading every", MS_PLAIN, { least: 10, most: 1000, seldom: true }),
  ],
  offers: [
    {
      id: "near",
      name: "proximity",
      title: "Proximity sensor",
      about: "on or off at 3 to 15 cm, set by a screw",
      body: { zM: 0.04, thresholdM: { value: 0.08 } },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => [signal("signal", "signal", ["digital"]), power(3, 5.5, 0.03), GROUND],
  slots: () => 1,
  readings: () => [["blocked", "truth"]],
  perceive: asDelivered(1),
  boardReads: () => ({ how: "delivered", count: 1 }),
  simulate(sensor, { values }, bench) {
    const { name, xM, yM, zM, aimRad, coneRad, hysteresis, periodMs } = sensor;
    const thresholdM = nearThreshold(sensor).value * (bench.draw.nearFactors.get(name) ?? 1);
    const spec = { xM, yM, zM, aimRad, coneRad, hysteresis, thresholdM, periodTicks: ticksOf(periodMs) };
    const made = bench.keep(new NearSensor(spec));
    return () => {
      made.tick(bench.scene);
      values[0] = made.blocked ? 1 : 0;
    };
  },
  drawing({ thresholdM }) {
    const reach = 4 + thresholdM.value * 500;
    return [
      { path: `M4 0L${reach} -7L${reach} 7Z`, look: "beam" },
      { path: box(-5, -6, 10, 12, 2), look: "eye" },
    ];
  },
};
