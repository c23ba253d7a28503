// The floor a procedure is run on: open, with a dark stripe to cross, or with a board to look at.
import { type Field, fieldSchema } from "../field/schema.js";
import { cos, sin } from "../math/trig.js";
import type { Robot } from "../robot/schema.js";
import type { CalibrationStage } from "./procedure.js";

/** Where runs of a procedure begin on its floor. */
export const STAGE_BEGIN = { name: "start", xM: 1.5, yM: 2, headingRad: 0 } as const;

/** A floor for a procedure; a board stands where the robot's eye looks. */
export function stageField({ floor, aheadM }: CalibrationStage, robot: Robot): Field {
  const { xM, yM } = STAGE_BEGIN;
  const across = (x: number): [[number, number], [number, number]] => [
    [x, yM - 0.4],
    [x, yM + 0.4],
  ];
  const eye = robot.sensors.find(({ kind }) => kind === "eye");
  const aim = eye?.aimRad ?? 0;
  const middle: [number, number] = [xM + (eye?.xM ?? 0) + aheadM * cos(aim), yM + (eye?.yM ?? 0) + aheadM * sin(aim)];
  const board = [-0.4, 0.4].map((side) => [middle[0] - side * sin(aim), middle[1] + side * cos(aim)]);
  return fieldSchema.parse({
    format: "giddy-pebble/field",
    version: 1,
    name: `calibration floor, ${floor}`,
    size: { widthM: 4, heightM: 4 },
    edge: "open",
    surface: {},
    begins: [STAGE_BEGIN],
    ...(floor === "stripe"
      ? { marks: [{ kind: "line", pointsM: across(xM + aheadM), widthM: 0.04, reflectance: 0.06, colour: "#20262B" }] }
      : {}),
    ...(floor === "board" ? { walls: [{ fromM: board[0], toM: board[1], heightM: 0.3, reflectance: 0.9 }] } : {}),
  });
}
