// What a robot's motors, servos and board draw, against what its pack can give.
import { cellCurve, openCircuitVolts } from "../physics/battery.js";
import type { Robot } from "./schema.js";

/** Open-circuit voltage of the pack at a charge, V. */
export function packVolts(robot: Robot, charge: number): number {
  const { cells, capacityAh, chemistry } = robot.pack;
  return openCircuitVolts({ cells, capacityAh, internalResistanceOhm: 0, curve: cellCurve(chemistry) }, charge);
}

interface CurrentBudget {
  /** All motors and servos held still at once, a full pack, A. */
  readonly stallA: number;
  /** The drive motors starting at full power, the rest as usual, A. */
  readonly peakA: number;
  readonly mostA: number;
  /** Pack voltage with all of them held still, by a tired pack, V. */
  readonly lowestVolts: number;
}

/** Current of everything against what the pack can give: V = (Voc − Ri·B) ÷ (1 + Ri·Σ 1/R). */
export function currentBudget(robot: Robot): CurrentBudget {
  const drivers = new Set(robot.wheels.map((wheel) => wheel.drivenBy));
  const conductance = (all: boolean) =>
    robot.motors.reduce(
      (sum, motor) => (all || drivers.has(motor.name) ? sum + motor.stallCurrentA / motor.nominalVolts : sum),
      0,
    );
  const servoA = robot.servos.reduce((sum, servo) => sum + servo.stallCurrentA, 0);
  const steady = robot.board.currentA + robot.sensors.length * 0.02;
  const ri = robot.pack.internalResistanceOhm;
  const volts = (open: number, fixed: number, g: number) => Math.max(0, (open - ri * fixed) / (1 + ri * g));
  const drop = robot.board.driverDropVolts;
  const full = packVolts(robot, 1) - drop;
  const peakV = volts(full, steady, conductance(false));
  const allV = volts(full, steady + servoA, conductance(true));
  const tiredV = volts(packVolts(robot, 0.1) - drop, steady + servoA, conductance(true));
  return {
    peakA: peakV * conductance(false) + steady,
    stallA: allV * conductance(true) + servoA + steady,
    mostA: robot.pack.mostCurrentA,
    lowestVolts: tiredV + drop,
  };
}
