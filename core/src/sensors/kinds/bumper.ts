// A bumper or whisker: a switch behind a bar. Its line: 1 while it is low, which is pressed.
import * as z from "zod";
import { finite } from "../../drives/parts.js";
import { TICK_MS } from "../../physics/constants.js";
import { MM, MS_PLAIN, NEWTON, PLACE_ROWS, quantity } from "../../units/quantityInfo.js";
import { SwitchSensor } from "../switch.js";
import { asDelivered, barStrokes, GROUND, place, type SensorKind, signal } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("bumper"),
  widthM: finite,
  pullUp: z.boolean().default(true),
  /** Push that closes it. */
  forceN: finite.default(0.3),
  bounceMs: finite.default(4),
});

export const bumper: SensorKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: "bumper",
  quantities: [
    ...PLACE_ROWS,
    quantity("widthM", "Width", MM, { least: 0.001, most: 1 }),
    quantity("forceN", "Closes at", NEWTON, { least: 0, most: 50 }),
    quantity("bounceMs", "Bounces for", MS_PLAIN, { least: 0, most: 100, seldom: true }),
  ],
  offers: [
    {
      id: "bumper",
      name: "bumper",
      title: "Bumper",
      about: "a switch behind a bar, 40 to 160 mm wide",
      body: { xM: 0.095, widthM: 0.1 },
    },
    {
      id: "whisker",
      name: "whisker",
      title: "Whisker switch",
      about: "a switch with a wire, 20 to 60 mm; closes at a touch of 0.05 to 0.2 N",
      body: { xM: 0.1, yM: 0.04, aimRad: 0.5, widthM: 0.03, forceN: 0.08 },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => [signal("signal", "signal", ["digital"]), GROUND],
  slots: () => 1,
  readings: () => [["pressed", "truth"]],
  perceive: asDelivered(1),
  boardReads: () => ({ how: "delivered", count: 1 }),
  simulate({ name, forceN, bounceMs, pullUp }, { values }, bench) {
    const shape = bench.shapeOf(name);
    const bounceTicks = Math.floor(bounceMs / TICK_MS + 0.5);
    const made = bench.keep(new SwitchSensor({ forceN, pullUp, bounceTicks }, bench.chance, bench.noise !== null));
    return () => {
      made.tick(shape.forceN);
      values[0] = made.pressed ? 1 : 0;
    };
  },
  bar: ({ xM, yM, zM, aimRad, widthM }) => ({ xM, yM, zM, aimRad, widthM }),
  drawing: ({ widthM }) => barStrokes(widthM),
};
