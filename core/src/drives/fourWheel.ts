// Four wheels in two tied pairs: skid steering. Its track width is the one it turns with, wider than the drawn one.
import * as z from "zod";
import { knownSchema } from "../units/known.js";
import type { DriveKind } from "./kind.js";
import { manner } from "./parts.js";
import { checkSides, coupledBySide } from "./sides.js";

const schema = z.object({ kind: z.literal("four-wheel"), trackWidthM: knownSchema, ...manner });

export const fourWheel: DriveKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: { short: "4 wheels", choice: "four wheels, tied pairs", page: "four driven wheels in tied pairs" },
  motors: 2,
  turnsOnSpot: true,
  slides: false,
  scrubs: true,
  oneAxle: false,
  // Skid steering turns with a width that depends on the floor.
  trackError: 0.06,
  steers: false,
  runsAsDrawn: true,
  fresh: {},
  /** Wheels that stand apart lengthwise scrub: with equal loads a steady turn balances when each wheel's forward slip fits b = T + L²/T. */
  drawnTrackM({ wheels }, left, right) {
    const geometric = left.yM - right.yM;
    const xs = wheels.map((wheel) => wheel.xM);
    const length = Math.max(...xs) - Math.min(...xs);
    return geometric + (length * length) / geometric;
  },
  turnsAboutM: ({ wheels }) => wheels.reduce((sum, { xM }) => sum + xM, 0) / wheels.length,
  restAtM: () => undefined,
  restDrag: ({ support }) => support?.friction ?? 0,
  wheelFor: () => ({ aimRad: 0, rollers: null }),
  check(robot, report) {
    checkSides(robot, report, {
      count: 4,
      words: "Four wheels in tied pairs are four driven wheels",
      mend: "Add the missing wheels, or choose two wheels.",
    });
  },
  coupling: (_robot, wheel, place) => coupledBySide(wheel, place),
};
