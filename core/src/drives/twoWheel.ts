// Two driven wheels on one axle, and a support that carries the rest.
import * as z from "zod";
import { knownSchema } from "../units/known.js";
import type { DriveKind } from "./kind.js";
import { manner } from "./parts.js";
import { checkSides, coupledBySide } from "./sides.js";

const schema = z.object({ kind: z.literal("two-wheel"), trackWidthM: knownSchema, ...manner });

export const twoWheel: DriveKind<z.infer<typeof schema>> & { readonly schema: typeof schema } = {
  schema,
  words: { short: "2 wheels", choice: "two wheels", page: "two driven wheels" },
  motors: 2,
  turnsOnSpot: true,
  slides: false,
  scrubs: false,
  oneAxle: true,
  trackError: 0.01,
  steers: false,
  runsAsDrawn: false,
  fresh: {},
  drawnTrackM: (_robot, left, right) => left.yM - right.yM,
  turnsAboutM: (_robot, left) => left.xM,
  restAtM: ({ support }) => support?.xM,
  restDrag: ({ support }) => support?.friction ?? 0,
  wheelFor: () => ({ aimRad: 0, rollers: null }),
  check(robot, report) {
    checkSides(robot, report, {
      count: 2,
      words: "A two-wheel drive has two driven wheels",
      mend: "Remove the others, or choose four wheels.",
    });
  },
  coupling: (_robot, wheel, place) => coupledBySide(wheel, place),
};
