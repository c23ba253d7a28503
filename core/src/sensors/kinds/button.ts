// A button for a person. Its line: 1 while it is low, which is pressed.
import * as z from "zod";
import { PLACE_ROWS } from "../../units/quantityInfo.js";
import { SwitchSensor } from "../switch.js";
import { disc, GROUND, place, type SensorKind, signal } from "./kind.js";

const schema = z.object({ ...place, kind: z.literal("button"), pullUp: z.boolean().default(true) });

export const button: SensorKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: "button",
  quantities: PLACE_ROWS.slice(0, 3),
  offers: [
    {
      id: "button",
      name: "button",
      title: "Button",
      about: "for a person to press, with 0.5 to 2 N",
      body: { xM: -0.05, zM: 0.09 },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => [signal("signal", "signal", ["digital"]), GROUND],
  slots: () => 1,
  readings: () => [
    ["pressed", "truth"],
    ["tapped", "taps"],
  ],
  boardReads: () => ({ how: "taps" }),
  perceive(_sensor, values, kept) {
    const before = { low: 0 };
    kept.push(before);
    return (out, base) => {
      const now = values[0] as number;
      if (now === 1 && before.low === 0) out[base + 1] = (out[base + 1] as number) + 1;
      before.low = now;
      out[base] = now;
    };
  },
  simulate({ name, pullUp }, { values }, bench) {
    const made = bench.keep(new SwitchSensor({ forceN: 0.5, pullUp, bounceTicks: 0 }, bench.chance, false));
    return () => {
      made.tick(bench.held.has(name) ? 1 : 0);
      values[0] = made.pressed ? 1 : 0;
    };
  },
  drawing: () => [
    { path: disc(6), look: "gyro" },
    { path: disc(2.5), look: "floorspot" },
  ],
};
