// A colour sensor for plates. Its line: red, green and blue light, and 1 while there is enough of it.
import * as z from "zod";
import { finite } from "../../drives/parts.js";
import { COLOUR_NAMES, type ColourReference, type LinearRgb, labOf, PRINTED_COLOURS } from "../../field/colours.js";
import { knownSchema } from "../../units/known.js";
import { MM, MS_PLAIN, PERCENT, PLACE_ROWS, quantity } from "../../units/quantityInfo.js";
import { nameTag, TagSensor } from "../tag.js";
import { box, ON_BUS, place, type SensorKind, ticksOf } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("tag"),
  gapM: finite,
  noise: finite.default(0.02),
  periodMs: finite.default(50),
  /** Light of each plate as this reader sees it; with any, it names only those. Else it goes by what is printed. */
  references: z
    .partialRecord(z.enum(COLOUR_NAMES), z.object({ red: knownSchema, green: knownSchema, blue: knownSchema }))
    .default({}),
});
type Tag = z.infer<typeof schema>;

/** What a tag reader names by: the light of its plates as it was measured; null for the printed colours. */
export function tagReferences({ references }: Tag): ColourReference[] | null {
  const list = COLOUR_NAMES.flatMap((name, index): ColourReference[] => {
    const light = references[name];
    return light ? [{ index, lab: labOf([light.red.value, light.green.value, light.blue.value]) }] : [];
  });
  return list.length === 0 ? null : list;
}

const EVEN_LIGHT: LinearRgb = [1, 1, 1];

export const tag: SensorKind<Tag> & { readonly schema: typeof schema } = {
  schema,
  words: "colour sensor for plates",
  quantities: [
    ...PLACE_ROWS,
    quantity("gapM", "Reads best at a gap of", MM, { least: 0.0005, most: 0.2 }),
    quantity("noise", "Noise", PERCENT, { least: 0, most: 0.5, seldom: true }),
    quantity("periodMs", "A reading every", MS_PLAIN, { least: 10, most: 1000, seldom: true }),
  ],
  offers: [
    {
      id: "tag",
      name: "tag",
      title: "Tag reader",
      about: "colour of a plate 8 mm away; sure at 4 to 15 mm",
      body: { xM: 0.09, zM: 0.03, gapM: 0.008 },
    },
  ],
  socketVolts: [3, 5.5],
  terminals: () => ON_BUS,
  slots: () => 4,
  readings: () => [
    ["colour", "colour"],
    ["sure", "truth"],
    ["red", "share"],
    ["green", "share"],
    ["blue", "share"],
  ],
  boardReads: (sensor) => ({ how: "plate", colours: tagReferences(sensor) ?? PRINTED_COLOURS }),
  perceive(sensor, values, kept) {
    const references = tagReferences(sensor);
    const last = { red: Number.NaN, green: Number.NaN, blue: Number.NaN, colour: 0, sure: false };
    kept.push(last);
    return (out, base) => {
      const [red, green, blue, lit] = values as unknown as [number, number, number, number];
      if (red !== last.red || green !== last.green || blue !== last.blue)
        Object.assign(last, { red, green, blue }, nameTag([red, green, blue], references));
      out[base] = last.colour;
      out[base + 1] = last.sure && lit === 1 ? 1 : 0;
      out[base + 2] = red;
      out[base + 3] = green;
      out[base + 4] = blue;
    };
  },
  simulate({ name, xM, yM, zM, aimRad, gapM, noise, periodMs }, line, bench) {
    const gains = bench.draw.tagGains?.get(name) ?? EVEN_LIGHT;
    const spec = { xM, yM, zM, aimRad, gapM, noise, periodTicks: ticksOf(periodMs), gains };
    const made = bench.keep(new TagSensor(spec, bench.noise));
    const { values } = line;
    return () => {
      made.tick(bench.scene);
      for (let i = 0; i < 3; i += 1) values[i] = made.light[i] as number;
      values[3] = made.lit ? 1 : 0;
      line.told = made.told;
    };
  },
  drawing: () => [
    { path: "M5 0L17 -4L17 4Z", look: "beam" },
    { path: box(-5, -5, 10, 10, 5), look: "eye" },
  ],
};
