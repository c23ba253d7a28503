// A force sensor: how hard its bar is pressed. Its line: the push, N.
import * as z from "zod";
import { finite } from "../../drives/parts.js";
import { TICK_SEC } from "../../physics/constants.js";
import { MM, MS_PLAIN, NEWTON, PLACE_ROWS, quantity } from "../../units/quantityInfo.js";
import { ForceSensor } from "../force.js";
import { asDelivered, barStrokes, GROUND, place, power, type SensorKind, signal, ticksOf } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("force"),
  widthM: finite,
  /** Harder than this it reads this. */
  rangeN: finite.default(10),
  /** It settles on a new push with this time constant. */
  settleMs: finite.default(20),
  noiseN: finite.default(0.03),
  periodMs: finite.default(10),
});

export const force: SensorKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: "force sensor",
  quantities: [
    ...PLACE_ROWS,
    quantity("widthM", "Width", MM, { least: 0.001, most: 1 }),
    quantity("rangeN", "Reads up to", NEWTON, { least: 0.1, most: 500 }),
    quantity("settleMs", "Settles in", MS_PLAIN, { least: 0, most: 2000, seldom: true }),
    quantity("noiseN", "Noise", NEWTON, { least: 0, most: 10, seldom: true }),
    quantity("periodMs", "A reading every", MS_PLAIN, { least: 10, most: 1000, seldom: true }),
  ],
  offers: [
    {
      id: "force",
      name: "force",
      title: "Force sensor",
      about: "how hard a bar is pressed, to 10 N; such sensors read to 5 to 50 N and settle in 5 to 50 ms",
      body: { xM: 0.095, widthM: 0.06 },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => [signal("signal", "signal", ["analog"]), power(3, 5.5, 0.005), GROUND],
  slots: () => 1,
  readings: () => [["force", "force"]],
  perceive: asDelivered(1),
  boardReads: () => ({ how: "delivered", count: 1 }),
  simulate({ name, settleMs, noiseN, rangeN, periodMs }, { values }, bench) {
    const shape = bench.shapeOf(name);
    const truth = { settleSec: settleMs / 1000, noiseN, rangeN, periodTicks: ticksOf(periodMs) };
    const made = bench.keep(new ForceSensor(truth, bench.noise));
    return () => {
      made.tick(shape.forceN, TICK_SEC);
      values[0] = made.forceN;
    };
  },
  bar: ({ xM, yM, zM, aimRad, widthM }) => ({ xM, yM, zM, aimRad, widthM }),
  drawing: ({ widthM }) => [...barStrokes(widthM), { path: "M-10 -4L-14 0L-10 4M-14 0H-4", look: "bracket" }],
};
