// A mission made ready to run: parsed with what it uses of collections, checked, and lowered.

import { type CheckResult, checkMission } from "../cairn/check.js";
import type { CheckContext } from "../cairn/checkContext.js";
import { atTheirUse, type Collections, joinCollections } from "../cairn/collections.js";
import { LineIndex, type Problem, wiredWrongly } from "../cairn/problems.js";
import { headerValue, type Mission } from "../cairn/tree.js";
import { driveModel } from "../control/driveModel.js";
import { FloorRaster } from "../field/raster.js";
import { findBegin } from "../field/read.js";
import type { BeginPlace, Field } from "../field/schema.js";
import type { Program } from "../program/instructions.js";
import { lowerMission } from "../program/lower.js";
import type { Robot } from "../robot/schema.js";
import { checkWiring } from "../robot/wiring.js";

/** What a run needs of a mission: its program, with the robot and the field it was made for. */
export interface Runnable {
  readonly context: CheckContext;
  /** The field's floor, made where it is looked at; hand it on to the next preparation on the same field. */
  readonly floor: FloorRaster;
  /** Null while there are errors. */
  readonly program: Program | null;
}

/** A program that was made elsewhere, ready to run. @param floor - of an earlier run; used if it is of this field */
export function runnable(program: Program, robot: Robot, field: Field, floor?: FloorRaster): Runnable {
  const context: CheckContext = { robot, drive: driveModel(robot), field };
  return { program, context, floor: floor?.field === field ? floor : new FloorRaster(field) };
}

export interface PreparedMission extends Runnable {
  readonly mission: Mission;
  readonly check: CheckResult;
  /** What runs: the mission's own text, and below it what it uses of collections. */
  readonly text: string;
}

/** Checks and lowers a mission. @param own - its text, or the text parsed */
export function prepareMission(
  own: string | Mission,
  robot: Robot,
  field: Field,
  floor?: FloorRaster,
  collections: Collections = new Map(),
): PreparedMission {
  const joined =
    typeof own === "string" ? joinCollections(own, collections) : joinCollections(own.text, collections, own);
  const { text, own: ownEnd, problems, mission } = joined;
  const context: CheckContext = { robot, drive: driveModel(robot), field };
  const whole = checkMission(mission, context);
  const check: CheckResult = {
    ...whole,
    problems: [...atTheirUse(mission, ownEnd, whole.problems), ...problems, ...wiringProblems(mission, robot)].sort(
      (a, b) => a.start - b.start || a.end - b.end,
    ),
    runnable: whole.runnable && problems.every(({ severity }) => severity !== "error"),
  };
  const ground = floor?.field === field ? floor : new FloorRaster(field);
  if (!check.runnable) return { mission, check, context, floor: ground, program: null, text };
  const program = lowerMission(mission, check, context);
  return { mission, check, context, floor: ground, program, text };
}

/** A robot wired wrongly drives in a rehearsal as far as its wheels go: the mission says so where it names the robot. */
function wiringProblems(mission: Mission, robot: Robot): Problem[] {
  const wrong = checkWiring(robot).filter(({ severity }) => severity === "error");
  const [first] = wrong;
  if (!first) return [];
  const at = mission.headers.find(({ word }) => word === "robot")?.valueSpan ?? { start: 0, end: 0 };
  return [wiredWrongly(at, robot.name, first.message, wrong.length - 1)];
}

/** Begin place of a mission on a field; the middle of a field that has none of that name. */
export function beginOf(mission: Mission, field: Field): BeginPlace {
  return beginOn(field, headerValue(mission, "begin"));
}

/** The same by its name; null is the field's first. */
export function beginOn(field: Field, name: string | null): BeginPlace {
  const begin = findBegin(field, name);
  if (begin) return begin;
  return { name: "middle", xM: field.size.widthM / 2, yM: field.size.heightM / 2, headingRad: 0 };
}

/** A problem as people and scripts see it. */
export interface PlacedProblem {
  readonly code: string;
  readonly severity: "error" | "warning";
  readonly line: number;
  readonly column: number;
  readonly length: number;
  readonly message: string;
  readonly mend: string | null;
}

export function placeProblem(text: string, problem: Problem): PlacedProblem {
  return placeProblems(text, [problem])[0] as PlacedProblem;
}

/** Problems of one text with their places: the text is looked through once. */
export function placeProblems(text: string, problems: readonly Problem[]): PlacedProblem[] {
  const index = new LineIndex(text);
  return problems.map(({ code, severity, message, mend, start, end }) => ({
    code,
    severity,
    ...index.at(start),
    length: Math.max(0, end - start),
    message,
    mend: mend ? mend.label : null,
  }));
}
