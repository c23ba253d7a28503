// A brushed DC motor from its data sheet: torque = kt·I, back voltage = ke·speed, I = (V - ke·speed)/R.
// Coulomb and viscous friction are the motor's own; kt counts the torque before Coulomb friction takes its part.

export interface MotorSheet {
  readonly nominalVolts: number;
  readonly freeSpeedRadS: number;
  readonly freeCurrentA: number;
  readonly stallTorqueNm: number;
  readonly stallCurrentA: number;
  readonly coulombTorqueNm: number;
}

export interface MotorConstants {
  readonly resistanceOhm: number;
  /** N m/A. */
  readonly torqueConstant: number;
  /** V s/rad. */
  readonly backVoltage: number;
}

type MotorDerivation = { ok: true; constants: MotorConstants } | { ok: false; message: string };

/** Constants of a motor, or a sentence when the sheet promises more torque than its electrical power can give. */
export function deriveMotor(sheet: MotorSheet): MotorDerivation {
  const resistanceOhm = sheet.nominalVolts / sheet.stallCurrentA;
  const backVoltage = (sheet.nominalVolts - sheet.freeCurrentA * resistanceOhm) / sheet.freeSpeedRadS;
  const torqueConstant = (sheet.stallTorqueNm + sheet.coulombTorqueNm) / sheet.stallCurrentA;
  if (backVoltage <= 0) return { ok: false, message: "its free current is as large as its stall current; check both" };
  if (torqueConstant > backVoltage * 1.000001) {
    return {
      ok: false,
      message:
        "its stall torque is more than its electrical power can give; check stall torque, stall current and free speed",
    };
  }
  return { ok: true, constants: { resistanceOhm, torqueConstant, backVoltage } };
}
