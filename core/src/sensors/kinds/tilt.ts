// A tilt sensor: how steep the robot stands. Its line: nose up, left side up, rad.
import * as z from "zod";
import { finite } from "../../drives/parts.js";
import { PI } from "../../math/trig.js";
import { TICK_SEC } from "../../physics/constants.js";
import { DEG, MS_PLAIN, PLACE_ROWS, quantity } from "../../units/quantityInfo.js";
import { TiltSensor } from "../tilt.js";
import { asDelivered, caseStrokes, ON_BUS, place, type SensorKind, ticksOf } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("tilt"),
  /** It settles on a new slope with this time constant, so that bumps and starts hardly show. */
  settleMs: finite.default(150),
  noiseRad: finite.default(0.004),
  /** Steeper than this it reads this. */
  rangeRad: finite.default(0.785),
  periodMs: finite.default(20),
});

export const tilt: SensorKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: "tilt sensor",
  quantities: [
    ...PLACE_ROWS.slice(0, 3),
    quantity("rangeRad", "Reads up to", DEG, { least: 0.05, most: PI / 2 }),
    quantity("settleMs", "Settles in", MS_PLAIN, { least: 0, most: 2000, seldom: true }),
    quantity("noiseRad", "Noise", DEG, { least: 0, most: 0.2, seldom: true }),
    quantity("periodMs", "A reading every", MS_PLAIN, { least: 10, most: 1000, seldom: true }),
  ],
  offers: [
    {
      id: "tilt",
      name: "tilt",
      title: "Tilt sensor",
      about: "how steep the robot stands, to 45 deg, nose up and left side up; such sensors settle in 0.05 to 0.3 s",
      body: { zM: 0.04 },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => ON_BUS,
  slots: () => 2,
  readings: () => [
    ["pitch", "angle"],
    ["roll", "angle"],
  ],
  perceive: asDelivered(2),
  boardReads: () => ({ how: "delivered", count: 2 }),
  simulate({ settleMs, noiseRad, rangeRad, periodMs }, { values }, bench) {
    const truth = { settleSec: settleMs / 1000, noiseRad, rangeRad, periodTicks: ticksOf(periodMs) };
    const made = bench.keep(new TiltSensor(truth, bench.noise));
    return () => {
      const { slope, body } = bench.world;
      const forward = slope.x * body.forwardX + slope.y * body.forwardY;
      const left = slope.y * body.forwardX - slope.x * body.forwardY;
      made.tick(forward, left, TICK_SEC);
      values[0] = made.pitchRad;
      values[1] = made.rollRad;
    };
  },
  drawing: () => caseStrokes("M-4 3L4 3L4 -3Z"),
};
