// A light sensor that looks at the floor: one spot, a pair, or a row. Its line: light of each spot, then the index of each
// spot's colour.
import * as z from "zod";
import { finite } from "../../drives/parts.js";
import { knownSchema } from "../../units/known.js";
import { MM, MS_PLAIN, PERCENT, PLACE_ROWS, quantity, WHOLE } from "../../units/quantityInfo.js";
import { CROSSING_SHARE, FloorSensor, FULLY_DARK, floorOffsets, isCrossing } from "../floorSensor.js";
import { disc, GROUND, place, power, type ReadingRow, type SensorKind, signal, ticksOf } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("floor"),
  /** Single, a pair across the robot, or a row of 3 to 8. */
  layout: z.enum(["single", "pair", "row"]).default("single"),
  count: finite.default(1),
  spacingM: finite.default(0.014),
  spotM: finite,
  /** Light below this counts as dark. */
  dark: knownSchema,
  noise: finite.default(0.01),
  /** Light of the room that reaches it however dark the floor is. */
  ambient: finite.default(0.02),
  periodMs: finite.default(10),
});
type Floor = z.infer<typeof schema>;

const offsetsOf = ({ layout, count, spacingM }: Floor) => floorOffsets(layout, count, spacingM);
const common = { xM: 0.065, zM: 0.008, spotM: 0.008, dark: { value: 0.35 } };

export const floor: SensorKind<Floor> & { readonly schema: typeof schema } = {
  schema,
  words: "light sensor",
  quantities: [
    ...PLACE_ROWS.slice(0, 3),
    quantity("count", "Sensors in the row", WHOLE, { least: 1, most: 8, whole: true }),
    quantity("spacingM", "Apart", MM, { least: 0.0005, most: 0.3 }),
    quantity("spotM", "Spot it sees", MM, { least: 0.0005, most: 0.1 }),
    quantity("dark", "Dark is below", PERCENT, { least: 0, most: 1, known: true }),
    quantity("noise", "Noise", PERCENT, { least: 0, most: 0.5, seldom: true }),
    quantity("ambient", "Light of the room", PERCENT, { least: 0, most: 1, seldom: true }),
    quantity("periodMs", "A reading every", MS_PLAIN, { least: 10, most: 1000, seldom: true }),
  ],
  offers: [
    {
      id: "floor",
      name: "floor",
      title: "Light sensor",
      about: "light and colour of a spot of 8 mm, from 5 to 12 mm above the floor",
      body: common,
    },
    {
      id: "floor-pair",
      name: "floor",
      title: "Light sensor pair",
      about: "two spots 24 mm apart, for lines between them; 15 to 40 mm",
      body: { ...common, layout: "pair", count: 2, spacingM: 0.024 },
    },
    {
      id: "floor-row",
      name: "floor",
      title: "Light sensor row",
      about: "five spots 12 mm apart, for quick line following; 3 to 8 spots, 8 to 15 mm apart",
      body: { ...common, layout: "row", count: 5, spacingM: 0.012, xM: 0.07 },
    },
  ],
  socketVolts: [3, 5.5],
  terminals(sensor) {
    const { layout } = sensor;
    const count = layout === "single" ? 1 : layout === "pair" ? 2 : Math.max(1, Math.floor(sensor.count));
    const row = Array.from({ length: count }, (_, i) => `signal_${i + 1}`);
    const names = count === 1 ? ["signal"] : count === 2 ? ["left", "right"] : row;
    return [...names.map((name) => signal(name, name, ["analog"])), power(3, 5.5, 0.02 * count), GROUND];
  },
  slots: (sensor) => 2 * offsetsOf(sensor).length,
  readings(sensor) {
    const { layout } = sensor;
    const n = offsetsOf(sensor).length;
    const spots = Array.from({ length: n }, (_, i) =>
      layout === "single" ? "" : layout === "pair" ? (i === 0 ? "left." : "right.") : `[${i + 1}].`,
    );
    return [
      // A crossing takes two spots to see.
      [layout === "single" ? "" : "crossing", "truth"],
      ...spots.flatMap((spot): ReadingRow[] => [
        [`${spot}light`, "share"],
        [`${spot}colour`, "colour"],
        [`${spot}dark`, "truth"],
      ]),
    ];
  },
  boardReads: (sensor) => ({
    how: "floor",
    spots: offsetsOf(sensor).length,
    dark: sensor.dark.value,
    fully: FULLY_DARK,
    crossing: CROSSING_SHARE,
  }),
  perceive(sensor, values) {
    const n = offsetsOf(sensor).length;
    const dark = sensor.dark.value;
    return (out, base) => {
      out[base] = isCrossing(values, n, dark) ? 1 : 0;
      for (let i = 0; i < n; i += 1) {
        const light = values[i] as number;
        out[base + 1 + 3 * i] = light;
        out[base + 2 + 3 * i] = values[n + i] as number;
        out[base + 3 + 3 * i] = light < dark ? 1 : 0;
      }
    };
  },
  simulate(sensor, line, bench) {
    const { xM, yM, zM, spotM, noise, ambient, periodMs } = sensor;
    const spec = { xM, yM, zM, spotM, noise, ambient, offsetsM: offsetsOf(sensor), periodTicks: ticksOf(periodMs) };
    const made = bench.keep(new FloorSensor(spec, bench.noise));
    const { light, colour } = made;
    const { values } = line;
    return () => {
      made.tick(bench.scene);
      for (let i = 0; i < light.length; i += 1) {
        values[i] = light[i] as number;
        values[light.length + i] = colour[i] as number;
      }
      line.told = made.told;
    };
  },
  drawing: (sensor) =>
    offsetsOf(sensor).map((y) => ({ path: disc(Math.max(2.5, sensor.spotM * 500), -y * 1000), look: "floorspot" })),
};
