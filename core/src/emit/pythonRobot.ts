// robot.py: what a robot was built and calibrated to, for the MicroPython runtime.
import type { ShaftRow } from "../drives/mixing.js";
import type { Known } from "../units/known.js";
import { type BoardRobot, type BoardSensor, knownComment } from "./boardRobot.js";
import { pythonLines, steeringServo } from "./wiring.js";
import { commentWords, decimal } from "./words.js";

function tuple(items: readonly (string | number)[]): string {
  return `(${items.map((item) => `${item},`).join(" ")})`;
}

const truth = (is: boolean) => (is ? "True" : "False");

function value(name: string, number: number, unit: string, from?: Known): string {
  return `${name} = ${decimal(number)}  # ${unit}${from ? `, ${knownComment(from)}` : ""}`;
}

function values(name: string, numbers: readonly number[], unit = ""): string {
  return `${name} = ${tuple(numbers.map(decimal))}${unit === "" ? "" : `  # ${unit}`}`;
}

export function pythonRobot(board: BoardRobot): string {
  const { robot, known, model, shafts } = board;
  const { mixing, steering, timed, timedTurn } = model;
  const { gyro } = known;
  const steered = steeringServo(robot);
  const lines = [
    `# ${commentWords(robot.name)}: what it is built of and what it was calibrated to. All numbers are SI.`,
    `SHAFTS = ${shafts.length}`,
    `MOTORS = ${robot.motors.length}`,
    `SERVOS = ${robot.servos.length}`,
    `SENSORS = ${robot.sensors.length}`,
    `VALUES = ${board.values}`,
    `ATTACHMENTS = ${robot.attachments.length}`,
    `READINGS = ${board.readings}`,
    "",
    "# The drive",
    `MIXES = ${truth(mixing !== null)}`,
    `STEERS = ${truth(steering !== null)}`,
    `ENCODERS = ${truth(model.hasEncoders)}`,
    `ON_OFF = ${truth(robot.board.driver === "on-off")}`,
    value("TRACK_WIDTH", model.trackWidthM, "m", robot.drive.trackWidthM),
    value("NOMINAL_VOLTS", model.nominalVolts, "V at the motors"),
    value("DRIVER_SHARE", model.driverShare, "of the pack's voltage reaches the motors"),
    value("DROP_VOLTS", model.dropVolts, "V that the driver keeps"),
    value("TOP_SPEED", model.topSpeedMS, "m/s"),
    value("TOP_TURN", model.topTurnRadS, "rad/s"),
    value("CRUISE", model.cruiseMS, "m/s, where a step names no speed"),
    value("TURN_RATE", model.turnRadS, "rad/s, where a step names none"),
    value("TURN_PAST", model.turnPastRad, "rad a turn comes further than its aim"),
    value("RAMP", model.rampMS2, "m/s^2"),
    value("TURN_RAMP", model.turnRampRadS2, "rad/s^2"),
    value("HOLD_GAIN_PER_RAD", model.holdGainPerRad, "1/rad"),
    value("STOPS_WITH", model.stopsWithMS2, "m/s^2"),
    value("STOPS_AFTER", model.stopsAfterSec, "s"),
    value("PRESS_DUTY", model.pressDuty, "share of the voltage"),
    value("SCRUB", model.scrubN, "N a side needs to scrub its wheels round"),
    value("SIDE_MASS", model.sideMassKg, "kg a side pushes"),
    value("SIDE_TURN_MASS", model.sideTurnMassKg, "kg, for turning"),
    value("SPEED_PER_VOLT", timed?.speedPerVolt ?? 0, "m/s for each volt, without encoders"),
    value("DEAD_TIME", timed?.deadTimeSec ?? 0, "s"),
    value("DEAD_VOLTS", timed?.deadVolts ?? 0, "V"),
    value("TIMED_TURN_VOLTS", timedTurn?.volts ?? 0, "V"),
    value("TIMED_TURN_RATE", timedTurn?.rateRadS ?? 1, "rad/s"),
    value("TIMED_TURN_DEAD", timedTurn?.deadTimeSec ?? 0, "s"),
    value("CRUISE_ASIDE", mixing?.cruiseAsideMS ?? 0, "m/s"),
    value("TOP_ASIDE", mixing?.topAsideMS ?? 0, "m/s"),
    value("WHEELBASE", steering?.wheelbaseM ?? 1, "m"),
    value("MOST_STEER", steering?.mostRad ?? 0, "rad"),
    value("LEAST_RADIUS", steering?.leastRadiusM ?? 0, "m"),
    "",
    "# Its shafts: left, right, others",
    `DIRECTION = ${tuple(shafts.map(({ direction }) => direction))}`,
    `SHAFT_MOTOR = ${tuple(shafts.map(({ motor }) => motor))}`,
    values(
      "SHAFT_COUNTS",
      shafts.map(({ countsPerTurn }) => countsPerTurn),
      "counts a turn",
    ),
    values(
      "SHAFT_RATIO",
      shafts.map(({ ratio }) => ratio),
      "turns of the motor's shaft for one of the wheel",
    ),
    ...known.shafts.map(
      ({ wheel, rollPerTurnM }) =>
        `# ${commentWords(wheel.name)} rolls ${decimal(rollPerTurnM.value)} m a turn, ${knownComment(wheel.rollPerTurnM)}`,
    ),
    values(
      "ROLL_PER_TURN",
      shafts.map(({ rollPerTurnM }) => rollPerTurnM),
    ),
    values(
      "METRES_PER_COUNT",
      model.shafts.map(({ metresPerCount }) => metresPerCount ?? 0),
    ),
    values(
      "VOLTS_PER_SPEED",
      model.shafts.map(({ voltsPerSpeed }) => voltsPerSpeed),
      "V for 1 m/s",
    ),
    values(
      "VOLTS_PER_NEWTON",
      model.shafts.map(({ voltsPerNewton }) => voltsPerNewton),
      "V for 1 N",
    ),
    values(
      "FRICTION",
      model.shafts.map(({ frictionN }) => frictionN),
      "N",
    ),
    ...(mixing ? mixingLines(mixing) : []),
    "",
    "# Its gyro",
    `GYRO = ${truth(gyro !== null)}`,
    value("GYRO_SCALE", gyro?.scale.value ?? 1, "true turn for one it tells", gyro?.part.scale),
    value("GYRO_REST", gyro?.restRadS.value ?? 0, "rad/s it tells at rest", gyro?.part.restRadS),
    "",
    "# Motors and servos",
    values(
      "MOTOR_COUNTS",
      robot.motors.map(({ encoder }) => encoder?.countsPerTurn ?? 0),
      "counts a turn",
    ),
    `DRIVES = ${tuple(board.drives.map(truth))}`,
    values("SERVO_REST", board.servoRest, "rad"),
    values(
      "SERVO_SPEED",
      robot.servos.map(({ speedRadS }) => speedRadS),
      "rad/s",
    ),
    `SERVO_CONTINUOUS = ${tuple(robot.servos.map(({ kind }) => truth(kind === "continuous")))}`,
    `STEERING_SERVO = ${steered.index}`,
    value("STEERING_CENTRE", steered.centreRad, "rad"),
    `SERVO_SLOTS = ${board.servoSlots}`,
    `ATTACHMENT_SLOTS = ${board.attachmentSlots}`,
    `ATTACHMENT_PART = ${tuple(board.attachmentParts)}`,
    "",
    "# Motors and servos beside the drive, and what they turn.",
    "# Each: motor, servo, turns on and on, ratio, top rate, low, high,",
    "# value that tells its angle, its ratio,",
    "# values that tell the age of looks, reading of the distance, of scans, aim",
    "PARTS = (",
    ...board.parts.map((part) => `    ${partSheet(part)},  # ${commentWords(part.name)}`),
    ")",
    "",
    "# How each sensor is read",
    "SENSOR_SHEETS = (",
    ...board.sensors.flatMap(sensorSheet),
    ")",
    "",
    "# What each number of a sensor is read from: its place, sensor, kind of line, which of them, what full is",
    "LINES = (",
    ...pythonLines(board),
    ")",
  ];
  return `${lines.join("\n")}\n`;
}

function mixingLines(mixing: NonNullable<BoardRobot["model"]["mixing"]>): string[] {
  const column = (name: string, rows: readonly ShaftRow[], word: keyof ShaftRow) =>
    values(
      name,
      rows.map((row) => row[word]),
    );
  return [
    "# What each rim does for 1 m/s forward, 1 m/s to the left, 1 rad/s left round; and back",
    column("ROW_FORWARD", mixing.rows, "forward"),
    column("ROW_LEFT", mixing.rows, "left"),
    column("ROW_TURN", mixing.rows, "turn"),
    column("BACK_FORWARD", mixing.back, "forward"),
    column("BACK_LEFT", mixing.back, "left"),
    column("BACK_TURN", mixing.back, "turn"),
    values("RIM_SPEED", mixing.rimMS, "m/s at most"),
    values("SPINNING", mixing.spinningKg, "kg at the rim"),
    value("MASS", mixing.massKg, "kg"),
    value("INERTIA", mixing.inertiaKgM2, "kg m^2"),
  ];
}

function partSheet(part: BoardRobot["parts"][number]): string {
  return `(${[
    part.motor,
    part.servo,
    truth(part.continuous),
    decimal(part.ratio),
    decimal(part.topRate),
    decimal(part.low),
    decimal(part.high),
    part.potentiometer,
    decimal(part.potentiometerRatio),
    tuple(part.ages),
    part.distanceSlot,
    part.scanSlot,
    decimal(part.aim),
  ].join(", ")})`;
}

function sensorSheet({ name, from, slot, reads }: BoardSensor, i: number): string[] {
  if (!reads) return [];
  const rest = (): (string | number)[] => {
    switch (reads.how) {
      case "delivered":
        return [reads.count];
      case "taps":
        return [];
      case "distance":
        return [decimal(reads.offsetM), decimal(reads.farM)];
      case "floor":
        return [reads.spots, decimal(reads.dark), decimal(reads.fully), decimal(reads.crossing)];
      case "plate":
        return [tuple(reads.colours.map(({ index, lab }) => `(${[index, ...lab.map(decimal)].join(", ")})`))];
    }
  };
  return [`    (${[`"${reads.how}"`, i, from, slot, ...rest()].join(", ")}),  # ${commentWords(name)}`];
}
