// What a mission is checked against.
import type { DriveModel } from "../control/driveModel.js";
import type { Field } from "../field/schema.js";
import type { Robot } from "../robot/schema.js";

/** What a mission is checked against. */
export interface CheckContext {
  readonly robot: Robot;
  readonly drive: DriveModel;
  readonly field: Field;
}
