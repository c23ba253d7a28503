// A robot as a board's brain needs it: every number of its drive, its shafts, its parts and its sensors, in the order in
// which the board reads and orders them.
import { moverOf } from "../cairn/effects.js";
import { MOTOR_SLOTS, potentiometerOn, readingLayout, SLOT } from "../cairn/readings.js";
import { type DriveModel, driveModel } from "../control/driveModel.js";
import { boardSign } from "../drives/shafts.js";
import { gearTrain, stagesTrain } from "../drives/train.js";
import { type RobotInForce, robotInForce } from "../robot/inForce.js";
import type { Robot } from "../robot/schema.js";
import { sensorKind } from "../sensors/kinds/all.js";
import type { BoardReads } from "../sensors/kinds/kind.js";
import type { Known } from "../units/known.js";
import { commentWords, decimal } from "./words.js";

/** Nothing of its kind. */
export const NONE = 255;

/** A motor or servo beside the drive, or what one of them turns. */
interface BoardPart {
  readonly name: string;
  readonly motor: number;
  readonly servo: number;
  /** Its mover's place: motors that drive no wheel first, then servos. */
  readonly mover: number;
  readonly continuous: boolean;
  readonly ratio: number;
  readonly topRate: number;
  readonly low: number;
  readonly high: number;
  readonly potentiometer: number;
  readonly potentiometerRatio: number;
  /** Places of the values that tell how old the looks of its eyes are. */
  readonly ages: readonly number[];
  readonly distanceSlot: number;
  readonly scanSlot: number;
  readonly aim: number;
}

export interface BoardSensor {
  readonly name: string;
  /** Its first number among all that sensors deliver, and how many it has. */
  readonly from: number;
  readonly count: number;
  readonly slot: number;
  readonly reads: BoardReads | null;
}

export interface BoardRobot {
  readonly robot: Robot;
  readonly known: RobotInForce;
  readonly model: DriveModel;
  readonly shafts: readonly {
    readonly motor: number;
    readonly direction: 1 | -1;
    readonly countsPerTurn: number;
    readonly rollPerTurnM: number;
    readonly ratio: number;
  }[];
  /** Of each motor: it drives a wheel. */
  readonly drives: readonly boolean[];
  readonly parts: readonly BoardPart[];
  /** How many motors and servos there are beside the drive. */
  readonly movers: number;
  readonly sensors: readonly BoardSensor[];
  readonly values: number;
  /** Of each attachment its place among the parts. */
  readonly attachmentParts: readonly number[];
  readonly servoRest: readonly number[];
  readonly servoSlots: number;
  readonly attachmentSlots: number;
  readonly readings: number;
}

export function boardRobot(robot: Robot): BoardRobot {
  const known = robotInForce(robot);
  const layout = readingLayout(robot);
  const shafts = known.shafts.map((shaft) => ({
    motor: robot.motors.findIndex(({ name }) => name === shaft.motor.name),
    direction: boardSign(shaft),
    countsPerTurn: shaft.motor.encoder?.countsPerTurn ?? 0,
    rollPerTurnM: shaft.rollPerTurnM.value,
    ratio: gearTrain(robot, shaft.wheel).ratio,
  }));
  const drives = robot.motors.map((_, i) => shafts.some(({ motor }) => motor === i));
  let from = 0;
  const sensors = robot.sensors.map((sensor, i): BoardSensor => {
    const kind = sensorKind(sensor);
    const count = kind.slots(sensor);
    const made = {
      name: sensor.name,
      from,
      count,
      slot: layout.sensors[i] as number,
      reads: kind.boardReads(sensor),
    };
    from += count;
    return made;
  });
  const names = [
    ...robot.motors.filter((_, i) => !drives[i]).map(({ name }) => name),
    ...robot.servos.map(({ name }) => name),
    ...robot.attachments.filter(({ drivenBy }) => drivenBy !== null).map(({ name }) => name),
  ];
  const parts = names.map((name) => boardPart(robot, name, drives, sensors));
  return {
    robot,
    known,
    model: driveModel(robot, known),
    shafts,
    drives,
    parts,
    movers: drives.filter((is) => !is).length + robot.servos.length,
    sensors,
    values: from,
    attachmentParts: robot.attachments.map(({ name, drivenBy }) =>
      drivenBy === null ? NONE : names.lastIndexOf(name),
    ),
    servoRest: robot.servos.map(({ lowRad, highRad }) => Math.max(lowRad, Math.min(highRad, 0))),
    servoSlots: SLOT.motors + robot.motors.length * MOTOR_SLOTS,
    attachmentSlots: layout.attachments,
    readings: layout.count,
  };
}

function boardPart(robot: Robot, name: string, drives: readonly boolean[], sensors: readonly BoardSensor[]): BoardPart {
  const mover = moverOf(robot, name);
  const motorAt = robot.motors.findIndex((motor) => motor.name === mover);
  const motor = motorAt >= 0 && !drives[motorAt] ? motorAt : NONE;
  const servo = robot.servos.findIndex((candidate) => candidate.name === mover);
  const spec = robot.servos[servo];
  const train = stagesTrain(robot.attachments.find(({ drivenBy }) => drivenBy === mover)?.stages ?? []).ratio;
  const ratio = name === mover || spec || motor === NONE ? 1 : train;
  const sheet = motor === NONE ? undefined : robot.motors[motor];
  const carried = robot.sensors.flatMap((sensor, i) => (sensor.kind === "eye" && sensor.head === mover ? [i] : []));
  const first = robot.sensors[carried[0] ?? -1];
  const knob = spec ? null : potentiometerOf(robot, name, mover, ratio, motor === NONE ? 1 : train);
  const layout = readingLayout(robot);
  return {
    name,
    motor,
    servo: servo < 0 ? NONE : servo,
    mover:
      motor === NONE
        ? drives.filter((is) => !is).length + Math.max(0, servo)
        : drives.slice(0, motor).filter((is) => !is).length,
    continuous: spec?.kind === "continuous",
    ratio,
    topRate: spec ? spec.speedRadS : sheet ? sheet.freeSpeedRadS / sheet.gearboxRatio / ratio : 1,
    low: spec?.lowRad ?? 0,
    high: spec?.highRad ?? 0,
    potentiometer: knob === null ? NONE : (sensors[knob.sensor]?.from ?? NONE),
    potentiometerRatio: knob?.ratio ?? 1,
    ages: carried.map((i) => (sensors[i]?.from ?? 0) + 2),
    distanceSlot: carried.length > 0 ? (layout.sensors[carried[0] as number] as number) : 0,
    scanSlot: servo < 0 ? 0 : layout.scans + 2 * servo,
    aim: first?.kind === "eye" ? first.aimRad : 0,
  };
}

/** The potentiometer that tells a part's angle: which sensor, and how many of its turns are one of the part's. */
function potentiometerOf(robot: Robot, name: string, mover: string, ratio: number, train: number) {
  const turned = robot.attachments.filter(({ drivenBy }) => drivenBy === mover).map((part) => part.name);
  for (const on of [name, ...turned, mover]) {
    const found = potentiometerOn(robot, on);
    if (found) return { sensor: robot.sensors.indexOf(found), ratio: (on === mover ? 1 : train) / ratio };
  }
  return null;
}

/** Where a known came from, how sure it is and from when. */
export function knownComment({ source, standardError, measuredAt }: Known): string {
  if (source !== "measured") return source === "typed" ? "typed" : "as drawn";
  const sure = standardError === null ? "" : ` ± ${decimal(standardError)}`;
  return `measured${sure}${measuredAt === null ? "" : `, ${commentWords(measuredAt.slice(0, 10))}`}`;
}
