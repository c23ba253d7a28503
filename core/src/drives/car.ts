// A car: one motor on the rear axle, and front wheels that steer.
import * as z from "zod";
import { knownSchema } from "../units/known.js";
import type { DriveKind } from "./kind.js";
import { finite, manner, partName } from "./parts.js";
import { motorsOfSide } from "./sides.js";
import { sourceOf } from "./train.js";

const schema = z.object({
  kind: z.literal("car"),
  trackWidthM: knownSchema,
  wheelbaseM: knownSchema,
  /** What the driven axle has: a differential, or both wheels on one shaft. */
  rear: z.enum(["differential", "solid"]).default("differential"),
  steering: z.object({
    servo: partName.nullable().default(null),
    /** Largest angle of the middle of the steered axle. */
    mostRad: finite.default(0.5),
    rateRadS: finite.default(4),
    /** Angle at which it drives straight, as built. */
    centreRad: knownSchema,
    /** A pin that holds the axle straight. */
    locked: z.boolean().default(false),
  }),
  ...manner,
});

export type CarDrive = z.infer<typeof schema>;

export const car: DriveKind<CarDrive> & { readonly schema: typeof schema } = {
  schema,
  words: { short: "car type", choice: "car type", page: "car type, front wheels steer" },
  motors: 1,
  turnsOnSpot: false,
  slides: false,
  scrubs: false,
  oneAxle: false,
  trackError: 0.01,
  steers: true,
  runsAsDrawn: true,
  fresh: { wheelbaseM: { value: 0.16 }, rear: "differential", steering: { centreRad: { value: 0 } } },
  drawnTrackM: (_robot, left, right) => left.yM - right.yM,
  turnsAboutM: (_robot, left) => left.xM,
  restAtM: ({ wheels }) => wheels.find((wheel) => wheel.steered)?.xM,
  restDrag: (_robot, wheel) => wheel.rollingResistance,
  wheelFor: () => ({ aimRad: 0, rollers: null }),
  check(robot, report) {
    const [left, right] = [motorsOfSide(robot, "left"), motorsOfSide(robot, "right")];
    const shared = [...left].some((name) => right.has(name));
    const steered = robot.wheels.filter((wheel) => wheel.steered);
    if (steered.length !== 2 || steered.some((wheel) => sourceOf(robot, wheel).is === "motor"))
      report(
        "car-steered",
        "drive",
        "A car type has two steered wheels in front that roll freely.",
        "Mark the two front wheels as steered and driven by nothing.",
      );
    if (!shared || left.size + right.size !== 2)
      report(
        "car-motor",
        "drive",
        "Both driven wheels of a car type share one motor.",
        "Let both rear wheels be driven by the same motor.",
      );
  },
  coupling(robot, wheel, place) {
    if (place === 0) return { is: "own" };
    if (place === 1)
      return robot.drive.rear === "solid" ? { is: "tied", to: 0, ratio: 1 } : { is: "differential", with: 0 };
    return { is: "tied", to: wheel.side === "left" ? 0 : 1 };
  },
};
