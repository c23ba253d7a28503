// robot.h and robot.cpp: what a robot was built and calibrated to, as named constants for the board's runtime.
import type { ShaftRow } from "../drives/mixing.js";
import type { Known } from "../units/known.js";
import { type BoardRobot, type BoardSensor, knownComment, NONE } from "./boardRobot.js";
import { steeringServo } from "./wiring.js";
import { commentWords, decimal } from "./words.js";

type Say = (name: string, value: number, unit: string, from?: Known) => string;

const real: Say = (name, value, unit, from) =>
  `constexpr real ${name} = ${decimal(value)};  // ${unit}${from ? `, ${knownComment(from)}` : ""}`;

/** At least one, so that no array is empty. */
function reals(name: string, values: readonly number[], unit: string): string {
  return `constexpr real ${name}[] = {${(values.length > 0 ? values : [0]).map(decimal).join(", ")}};  // ${unit}`;
}

function wholes(type: string, name: string, values: readonly number[]): string {
  return `constexpr ${type} ${name}[] = {${(values.length > 0 ? values : [0]).join(", ")}};`;
}

/** The robot's numbers, for the runtime and for whoever reads them. */
export function cppRobotHeader(board: BoardRobot): string {
  const { robot, known, model, shafts } = board;
  const { mixing, steering, timed, timedTurn } = model;
  const { gyro } = known;
  const steered = steeringServo(robot);
  const lines = [
    `// ${commentWords(robot.name)}: what it is built of and what it was calibrated to. All numbers are SI.`,
    "#pragma once",
    `#define PEBBLE_MIXES ${mixing ? 1 : 0}`,
    `#define PEBBLE_STEERS ${steering ? 1 : 0}`,
    "",
    "namespace robot {",
    `constexpr uint8_t SHAFTS = ${shafts.length}, MOTORS = ${robot.motors.length}, SERVOS = ${robot.servos.length};`,
    `constexpr uint8_t SENSORS = ${robot.sensors.length}, VALUES = ${board.values}, ATTACHMENTS = ${robot.attachments.length}, PARTS = ${board.parts.length}, MOVERS = ${board.movers};`,
    "",
    "// The drive",
    real("TRACK_WIDTH", model.trackWidthM, "m", robot.drive.trackWidthM),
    `constexpr bool ENCODERS = ${model.hasEncoders};`,
    real("NOMINAL_VOLTS", model.nominalVolts, "V at the motors"),
    real("DRIVER_SHARE", model.driverShare, "of the pack's voltage reaches the motors"),
    real("DROP_VOLTS", model.dropVolts, "V that the driver keeps"),
    `constexpr bool ON_OFF = ${robot.board.driver === "on-off"};`,
    real("TOP_SPEED", model.topSpeedMS, "m/s"),
    real("TOP_TURN", model.topTurnRadS, "rad/s"),
    real("CRUISE", model.cruiseMS, "m/s, where a step names no speed"),
    real("TURN_RATE", model.turnRadS, "rad/s, where a step names none"),
    real("TURN_PAST", model.turnPastRad, "rad a turn comes further than its aim"),
    real("RAMP", model.rampMS2, "m/s^2"),
    real("TURN_RAMP", model.turnRampRadS2, "rad/s^2"),
    real("HOLD_GAIN_PER_RAD", model.holdGainPerRad, "1/rad"),
    real("STOPS_WITH", model.stopsWithMS2, "m/s^2"),
    real("STOPS_AFTER", model.stopsAfterSec, "s"),
    real("PRESS_DUTY", model.pressDuty, "share of the voltage"),
    real("SCRUB", model.scrubN, "N a side needs to scrub its wheels round"),
    real("SIDE_MASS", model.sideMassKg, "kg a side pushes"),
    real("SIDE_TURN_MASS", model.sideTurnMassKg, "kg, for turning"),
    real("SPEED_PER_VOLT", timed?.speedPerVolt ?? 0, "m/s for each volt, without encoders"),
    real("DEAD_TIME", timed?.deadTimeSec ?? 0, "s"),
    real("DEAD_VOLTS", timed?.deadVolts ?? 0, "V"),
    real("TIMED_TURN_VOLTS", timedTurn?.volts ?? 0, "V"),
    real("TIMED_TURN_RATE", timedTurn?.rateRadS ?? 1, "rad/s"),
    real("TIMED_TURN_DEAD", timedTurn?.deadTimeSec ?? 0, "s"),
    real("CRUISE_ASIDE", mixing?.cruiseAsideMS ?? 0, "m/s"),
    real("TOP_ASIDE", mixing?.topAsideMS ?? 0, "m/s"),
    real("WHEELBASE", steering?.wheelbaseM ?? 1, "m"),
    real("MOST_STEER", steering?.mostRad ?? 0, "rad"),
    real("LEAST_RADIUS", steering?.leastRadiusM ?? 0, "m"),
    "",
    "// Its shafts: left, right, others",
    wholes(
      "int8_t",
      "DIRECTION",
      shafts.map(({ direction }) => direction),
    ),
    wholes(
      "uint8_t",
      "SHAFT_MOTOR",
      shafts.map(({ motor }) => motor),
    ),
    reals(
      "SHAFT_COUNTS",
      shafts.map(({ countsPerTurn }) => countsPerTurn),
      "counts a turn",
    ),
    reals(
      "SHAFT_RATIO",
      shafts.map(({ ratio }) => ratio),
      "turns of the motor's shaft for one of the wheel",
    ),
    ...shafts.map((_, i) => {
      const { wheel, rollPerTurnM } = known.shafts[i] as (typeof known.shafts)[number];
      return `// ${commentWords(wheel.name)} rolls ${decimal(rollPerTurnM.value)} m a turn, ${knownComment(wheel.rollPerTurnM)}`;
    }),
    reals(
      "ROLL_PER_TURN",
      shafts.map(({ rollPerTurnM }) => rollPerTurnM),
      "m",
    ),
    reals(
      "METRES_PER_COUNT",
      model.shafts.map(({ metresPerCount }) => metresPerCount ?? 0),
      "m",
    ),
    reals(
      "VOLTS_PER_SPEED",
      model.shafts.map(({ voltsPerSpeed }) => voltsPerSpeed),
      "V for 1 m/s",
    ),
    reals(
      "VOLTS_PER_NEWTON",
      model.shafts.map(({ voltsPerNewton }) => voltsPerNewton),
      "V for 1 N",
    ),
    reals(
      "FRICTION",
      model.shafts.map(({ frictionN }) => frictionN),
      "N",
    ),
    ...(mixing ? mixingLines(mixing) : []),
    "",
    "// Its gyro",
    `constexpr bool GYRO = ${gyro !== null};`,
    real("GYRO_SCALE", gyro?.scale.value ?? 1, "true turn for one it tells", gyro?.part.scale),
    real("GYRO_REST", gyro?.restRadS.value ?? 0, "rad/s it tells at rest", gyro?.part.restRadS),
    "",
    "// Motors and servos",
    reals(
      "MOTOR_COUNTS",
      robot.motors.map(({ encoder }) => encoder?.countsPerTurn ?? 0),
      "counts a turn",
    ),
    wholes("bool", "DRIVES", board.drives.map(Number)),
    reals("SERVO_REST", board.servoRest, "rad"),
    reals(
      "SERVO_SPEED",
      robot.servos.map(({ speedRadS }) => speedRadS),
      "rad/s",
    ),
    wholes(
      "bool",
      "SERVO_CONTINUOUS",
      robot.servos.map(({ kind }) => Number(kind === "continuous")),
    ),
    `constexpr uint8_t STEERING_SERVO = ${steered.index};`,
    real("STEERING_CENTRE", steered.centreRad, "rad"),
    wholes("uint8_t", "ATTACHMENT_PART", board.attachmentParts),
    `constexpr uint8_t SERVO_SLOTS = ${board.servoSlots}, ATTACHMENT_SLOTS = ${board.attachmentSlots};`,
    "}  // namespace robot",
  ];
  return `${lines.join("\n")}\n`;
}

function mixingLines(mixing: NonNullable<BoardRobot["model"]["mixing"]>): string[] {
  const column = (name: string, rows: readonly ShaftRow[], word: keyof ShaftRow, unit: string) =>
    reals(
      name,
      rows.map((row) => row[word]),
      unit,
    );
  return [
    "// What each rim does for 1 m/s forward, 1 m/s to the left, 1 rad/s left round; and back",
    column("ROW_FORWARD", mixing.rows, "forward", ""),
    column("ROW_LEFT", mixing.rows, "left", ""),
    column("ROW_TURN", mixing.rows, "turn", "m"),
    column("BACK_FORWARD", mixing.back, "forward", ""),
    column("BACK_LEFT", mixing.back, "left", ""),
    column("BACK_TURN", mixing.back, "turn", "1/m"),
    reals("RIM_SPEED", mixing.rimMS, "m/s at most"),
    reals("SPINNING", mixing.spinningKg, "kg at the rim"),
    real("MASS", mixing.massKg, "kg"),
    real("INERTIA", mixing.inertiaKgM2, "kg m^2"),
  ];
}

/** Sensors and parts of the robot for the runtime. */
export function cppRobotParts(board: BoardRobot): string {
  const tables: string[] = [];
  const reads = board.sensors.flatMap((sensor, i) => sensorLine(sensor, i, tables));
  const sheets = board.parts.map((part, i) => {
    if (part.ages.length > 0) tables.push(`static const uint8_t AGES_${i}[] = {${part.ages.join(", ")}};`);
    const fields = [
      part.motor,
      part.servo,
      part.mover,
      part.continuous,
      decimal(part.ratio),
      decimal(part.topRate),
      decimal(part.low),
      decimal(part.high),
      part.potentiometer,
      decimal(part.potentiometerRatio),
      part.ages.length > 0 ? `AGES_${i}` : "nullptr",
      part.ages.length,
      part.distanceSlot,
      part.scanSlot,
      decimal(part.aim),
    ];
    return `  {${fields.join(", ")}},  // ${commentWords(part.name)}`;
  });
  const none = `  {${NONE}, ${NONE}, 0, false, 1.0, 1.0, 0.0, 0.0, ${NONE}, 1.0, nullptr, 0, 0, 0, 0.0},`;
  return `// What the sensors of ${commentWords(board.robot.name)} read, and its motors and servos beside the drive.
#include "pebble.h"

namespace pebble {

${tables.length > 0 ? `${tables.join("\n")}\n\n` : ""}const PartSheet PARTS[] FLASH = {
${(sheets.length > 0 ? sheets : [none]).join("\n")}
};

void perceive() {
${reads.join("\n")}
}

}  // namespace pebble
`;
}

function sensorLine({ name, from, slot, reads }: BoardSensor, i: number, tables: string[]): string[] {
  if (!reads) return [];
  const at = `${i}, ${from}, ${slot}`;
  const comment = `  // ${commentWords(name)}`;
  const call = (words: string) => [`  if (uses::SENSOR[${i}]) ${words};${comment}`];
  switch (reads.how) {
    case "delivered":
      return call(`asDelivered(${at}, ${reads.count})`);
    case "taps":
      return call(`buttonReads(${at})`);
    case "distance":
      return call(`eyeReads(${at}, ${decimal(reads.offsetM)}, ${decimal(reads.farM)})`);
    case "floor":
      return call(
        `floorReads(${at}, ${reads.spots}, ${decimal(reads.dark)}, ${decimal(reads.fully)}, ${decimal(reads.crossing)})`,
      );
    case "plate": {
      const rows = reads.colours.map(({ index, lab }) => `{${index}, ${lab.map(decimal).join(", ")}}`);
      tables.push(
        `static const Colour COLOURS_${i}[] FLASH = {${rows.join(", ")}};`,
        `static real names_${i}(real red, real green, real blue, bool &sure) {\n  return nameColour(COLOURS_${i}, ${rows.length}, red, green, blue, sure);\n}`,
      );
      return call(`tagReads(${at}, names_${i})`);
    }
  }
}
