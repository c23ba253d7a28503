// A distance sensor that hears its own ping. Its line: distance as heard, m; 1 while it hears anything; age in ticks.
import * as z from "zod";
import { finite, found, partName } from "../../drives/parts.js";
import { cos, PI, sin } from "../../math/trig.js";
import { TICK_SEC } from "../../physics/constants.js";
import { foundValue, type InForce, knownSchema } from "../../units/known.js";
import { DEG, foundIn, MM, MS_PLAIN, PERCENT, PLACE_ROWS, quantity } from "../../units/quantityInfo.js";
import { EyeSensor } from "../eye.js";
import { box, disc, GROUND, place, power, type SensorKind, signal, ticksOf } from "./kind.js";

const schema = z.object({
  ...place,
  kind: z.literal("eye"),
  coneRad: finite,
  nearM: finite,
  farM: finite,
  offsetM: knownSchema,
  noiseM: finite.default(0.003),
  cycleMs: finite.default(40),
  /** Smooth faces met more slantingly than this send no echo back. */
  slantRad: finite.default(PI / 4),
  /** The same two limits as they were found. */
  nearLimitM: found,
  silentRad: found,
  nearReads: z.enum(["nearest", "nothing"]).default("nearest"),
  dropOut: finite.default(0.004),
  /** Servo that turns the head, if any. */
  head: partName.nullable().default(null),
});
type Eye = z.infer<typeof schema>;

/** Standard error of an offset that nobody measured, m. */
const ASSUMED_OFFSET_M = 0.004;

/** How much too far it reads. */
export function eyeOffset({ offsetM }: Eye): InForce {
  return {
    value: offsetM.source === "drawing" ? 0 : offsetM.value,
    standardError: offsetM.standardError ?? ASSUMED_OFFSET_M,
  };
}

/** Nearest it reads, m. */
export function nearLimitM(eye: Eye): number {
  return foundValue(eye.nearLimitM) ?? eye.nearM;
}

/** Obliqueness beyond which smooth faces are silent, rad. */
export function silentRad(eye: Eye): number {
  return foundValue(eye.silentRad) ?? eye.slantRad;
}

/** How far its cone is drawn, mm. */
const DRAWN_MM = 64;

export const eye: SensorKind<Eye> & { readonly schema: typeof schema } = {
  schema,
  words: "distance sensor",
  quantities: [
    ...PLACE_ROWS,
    quantity("coneRad", "Cone", DEG, { least: 0.001, most: PI }),
    quantity("nearM", "Nearest it sees", MM, { least: 0, most: 2 }),
    quantity("farM", "Farthest it sees", MM, { least: 0.01, most: 10 }),
    quantity("offsetM", "Reads too far by", MM, { least: -0.5, most: 0.5, known: true }),
    quantity("noiseM", "Noise", MM, { least: 0, most: 0.5, seldom: true }),
    quantity("cycleMs", "A ping takes", MS_PLAIN, { least: 10, most: 1000, seldom: true }),
    quantity("slantRad", "No echo beyond a slant of", DEG, { least: 0.01, most: PI / 2, seldom: true }),
    quantity("nearLimitM", "Reads from", MM, foundIn(0, 2)),
    quantity("silentRad", "Silent beyond a slant of", DEG, foundIn(0, PI / 2)),
    quantity("dropOut", "Misses", { ...PERCENT, digits: 1 }, { least: 0, most: 0.9, seldom: true }),
  ],
  offers: [
    {
      id: "eye",
      name: "sonar",
      title: "Distance sensor",
      about:
        "3 cm to 2 m by sound, cone 15 deg, 25 pings a second; such sensors begin at 2 to 5 cm and end at 1.5 to 4 m",
      body: { xM: 0.08, zM: 0.06, coneRad: (15 * PI) / 180, nearM: 0.03, farM: 2, offsetM: { value: 0 } },
    },
  ],
  socketVolts: [4.5, 5.5],
  terminals: () => [
    signal("trigger", "trigger", ["digital"]),
    signal("echo", "echo", ["interrupt"], { sendsVolts: 5 }),
    power(4.5, 5.5, 0.02),
    GROUND,
  ],
  slots: () => 3,
  readings: () => [
    ["distance", "length"],
    ["seen", "truth"],
  ],
  boardReads: (sensor) => ({ how: "distance", offsetM: eyeOffset(sensor).value, farM: sensor.farM }),
  perceive(sensor, values) {
    const offsetM = eyeOffset(sensor).value;
    return (out, base) => {
      const seen = values[1] as number;
      // One that sees nothing reads its far limit.
      out[base] = seen === 1 ? Math.max(0, (values[0] as number) - offsetM) : sensor.farM;
      out[base + 1] = seen;
    };
  },
  simulate(sensor, { values }, bench) {
    const { name, xM, yM, zM, aimRad, coneRad, farM, noiseM, cycleMs, dropOut, nearReads } = sensor;
    const made = new EyeSensor(
      {
        xM,
        yM,
        zM,
        aimRad,
        coneRad,
        nearM: nearLimitM(sensor),
        farM,
        noiseM,
        dropOut,
        nearReads,
        silentRad: silentRad(sensor),
        cycleTicks: ticksOf(cycleMs),
        offsetM: eyeOffset(sensor).value + (bench.draw.eyeOffsetsM.get(name) ?? 0),
      },
      bench.noise,
    );
    bench.eyes.set(name, made);
    return () => {
      const head = sensor.head === null ? null : bench.head(sensor.head);
      made.tick(bench.scene, head?.angleRad ?? 0, head?.settled ?? true, TICK_SEC);
      values[0] = made.distanceM;
      values[1] = made.seen ? 1 : 0;
      values[2] = made.ageTicks;
    };
  },
  drawing({ coneRad, head }) {
    const half = Math.min(1.2, coneRad / 2);
    const [x, y] = [6 + DRAWN_MM * cos(half), DRAWN_MM * sin(half)];
    return [
      { path: `M6 0L${x} ${-y}A${DRAWN_MM} ${DRAWN_MM} 0 0 1 ${x} ${y}Z`, look: "beam" },
      { path: box(-6, -13, 12, 26, 2.5), look: "eye" },
      ...(head === null ? [] : [{ path: disc(17), look: "head" } as const]),
    ];
  },
};
