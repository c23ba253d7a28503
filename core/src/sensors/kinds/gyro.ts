// A gyro: how fast the robot turns. Its readings have a place of their own in senses and snapshots, for the brain adds them up.
import * as z from "zod";
import { finite } from "../../drives/parts.js";
import { knownSchema } from "../../units/known.js";
import { DEG_S, MS_PLAIN, PLACE_ROWS, PLAIN, quantity } from "../../units/quantityInfo.js";
import { caseStrokes, ON_BUS, place, type SensorKind } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("gyro"),
  scale: knownSchema,
  restRadS: knownSchema,
  noiseRadS: finite,
  rangeRadS: finite,
  /** Wander of the rest drift, rad/s for the square root of a second. */
  wanderRadS: finite.default(0),
  periodMs: finite.default(10),
});

export const gyro: SensorKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: "gyro",
  quantities: [
    ...PLACE_ROWS.slice(0, 3),
    quantity("scale", "Scale, true over read", { ...PLAIN, digits: 4 }, { over: 0.5, most: 2, known: true }),
    quantity("restRadS", "Drifts at rest", DEG_S, { least: -1, most: 1, known: true }),
    quantity("noiseRadS", "Noise", DEG_S, { least: 0, most: 1, seldom: true }),
    quantity("rangeRadS", "Range", DEG_S, { least: 0.1, most: 1000, seldom: true }),
    quantity("wanderRadS", "Drift wanders", DEG_S, { least: 0, most: 0.1, seldom: true }),
    quantity("periodMs", "A reading every", MS_PLAIN, { least: 10, most: 1000, seldom: true }),
  ],
  offers: [
    {
      id: "gyro",
      name: "gyro",
      title: "Gyro",
      about: "heading, to 500 deg/s; such gyros drift by 0.01 to 0.3 deg/s and are 0.2 to 1.5 % off in scale",
      body: {
        xM: 0,
        zM: 0.04,
        scale: { value: 1 },
        restRadS: { value: 0 },
        noiseRadS: 0.004,
        rangeRadS: 8.7,
        wanderRadS: 0.00002,
      },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => ON_BUS,
  slots: () => 0,
  readings: () => [],
  perceive: () => null,
  boardReads: () => null,
  simulate: () => null,
  drawing: () => caseStrokes("M-3.5 1.5A3.8 3.8 0 1 1 3.5 1.5"),
};
