// The floor a procedure is run on: open, with a dark stripe to cross, with a board to look at, or a plate to read.

import { type Field, fieldSchema } from "../field/schema.js";
import { cos, sin } from "../math/trig.js";
import type { PlacedBy } from "../robot/placing.js";
import type { Robot } from "../robot/schema.js";
import type { SensorOf } from "../sensors/kinds/all.js";
import { readsFloor } from "../sensors/tag.js";
import type { CalibrationStage, Procedure, Settings, Taped } from "./procedure.js";

/** Where runs of a procedure begin on its floor. */
export const STAGE_BEGIN = { name: "start", xM: 1.5, yM: 2, headingRad: 0 } as const;

/** A floor for a procedure; a board stands where the robot's eye looks. */
export function stageField({ floor, aheadM, slantRad = 0, colour }: CalibrationStage, robot: Robot): Field {
  const { xM, yM } = STAGE_BEGIN;
  const stripe = (x: number): [[number, number], [number, number]] => [
    [x, yM - 0.4],
    [x, yM + 0.4],
  ];
  const eye = robot.sensors.find(({ kind }) => kind === "eye");
  const aim = eye?.aimRad ?? 0;
  const middle: [number, number] = [xM + (eye?.xM ?? 0) + aheadM * cos(aim), yM + (eye?.yM ?? 0) + aheadM * sin(aim)];
  const across = aim + slantRad;
  const board = [-0.4, 0.4].map((side) => [middle[0] - side * sin(across), middle[1] + side * cos(across)]);
  return fieldSchema.parse({
    format: "giddy-pebble/field",
    version: 2,
    name: `calibration floor, ${floor}`,
    size: { widthM: 4, heightM: 4 },
    edge: "open",
    surface: {},
    begins: [STAGE_BEGIN],
    ...(floor === "stripe"
      ? { marks: [{ kind: "line", pointsM: stripe(xM + aheadM), widthM: 0.04, reflectance: 0.06, colour: "#20262B" }] }
      : {}),
    ...(floor === "plate" && colour ? plate(robot, colour) : {}),
    ...(floor === "board" ? { walls: [{ fromM: board[0], toM: board[1], heightM: 0.3, reflectance: 0.9 }] } : {}),
  });
}

/** All that one run of a procedure needs. */
interface RowPlan {
  readonly text: string;
  readonly field: Field;
  /** How the robot is put on its begin place. */
  readonly put: PlacedBy;
  /** Where the tape is read from: the begin place itself, or null for where the tape finds the robot before the run. */
  readonly from: Taped | null;
}

const AT_BEGIN: Taped = { alongM: 0, asideM: 0, headingRad: 0 };

/** What to do for a row of a procedure; null when it has no program for this robot. */
export function rowPlan(procedure: Procedure, robot: Robot, settings: Settings, index: number): RowPlan | null {
  const text = procedure.program(robot, settings, index);
  if (text === null) return null;
  const stage = procedure.stage?.(settings, index, robot) ?? { floor: "open" as const, aheadM: 0 };
  const put = procedure.placing?.(settings) ?? "jig";
  return { text, field: stageField(stage, robot), put, from: procedure.placing ? AT_BEGIN : null };
}

/** Side of the cube whose face is the plate, m. */
const PLATE_M = 0.06;

/** A plate at the tag reader's own gap: under it when it looks down, else the face of a block before it. */
function plate(robot: Robot, colour: string): Partial<Field> {
  const tag = robot.sensors.find((sensor): sensor is SensorOf<"tag"> => sensor.kind === "tag");
  if (!tag) return {};
  const { xM, yM } = STAGE_BEGIN;
  if (readsFloor(tag)) return { tags: [{ xM: xM + tag.xM, yM: yM + tag.yM, sizeM: PLATE_M, colour }] };
  const reach = tag.gapM + PLATE_M / 2;
  const block = {
    name: "plate",
    shape: "box" as const,
    sizeM: [PLATE_M, PLATE_M] as [number, number],
    heightM: Math.max(PLATE_M, tag.zM + 0.02),
    massKg: 0.3,
    friction: 0.6,
    xM: xM + tag.xM + reach * cos(tag.aimRad),
    yM: yM + tag.yM + reach * sin(tag.aimRad),
    headingRad: tag.aimRad,
    colour,
  };
  return { loads: [block] };
}
