// A pack: open-circuit voltage from the charge left, internal resistance, and the terminal voltage with
// all motors drawing, in closed form (their current depends on that voltage again).

export interface BatterySpec {
  readonly cells: number;
  readonly internalResistanceOhm: number;
  readonly capacityAh: number;
  /** Volts of one cell against the share of charge left, ascending. */
  readonly curve: readonly (readonly [charge: number, volts: number])[];
}

/** One lithium-ion cell at rest; typical catalogue values. */
export const LITHIUM_CELL: BatterySpec["curve"] = [
  [0, 3.0],
  [0.05, 3.4],
  [0.1, 3.52],
  [0.2, 3.62],
  [0.4, 3.74],
  [0.6, 3.9],
  [0.8, 4.04],
  [1, 4.18],
];

/** One nickel-metal hydride cell at rest; typical catalogue values. */
export const NICKEL_CELL: BatterySpec["curve"] = [
  [0, 1.0],
  [0.05, 1.14],
  [0.1, 1.2],
  [0.2, 1.24],
  [0.4, 1.27],
  [0.6, 1.29],
  [0.8, 1.32],
  [1, 1.41],
];

export function cellCurve(chemistry: "lithium" | "nickel"): BatterySpec["curve"] {
  return chemistry === "lithium" ? LITHIUM_CELL : NICKEL_CELL;
}

/** Open-circuit voltage of the pack, V, straight lines between the curve's points. */
export function openCircuitVolts(spec: BatterySpec, charge: number): number {
  const { curve, cells } = spec;
  for (let i = 0; i < curve.length; i += 1) {
    const at = curve[i] as readonly [number, number];
    if (charge > at[0]) continue;
    const before = curve[i === 0 ? 0 : i - 1] as readonly [number, number];
    const span = at[0] - before[0];
    const share = span > 0 ? (charge - before[0]) / span : 1;
    return cells * (before[1] + Math.max(0, share) * (at[1] - before[1]));
  }
  return cells * (curve[curve.length - 1] as readonly [number, number])[1];
}

/**
 * Terminal voltage with motors that draw I = d·(d·V - e)/R each.
 * @param openVolts - open-circuit voltage less the sag of other loads
 * @param sumDutyBack - Σ d·e/R over motors that are driven, A (e is the back voltage)
 * @param sumDutySquare - Σ d²/R over the same motors, 1/ohm
 */
export function terminalVolts(
  openVolts: number,
  internalOhm: number,
  sumDutyBack: number,
  sumDutySquare: number,
): number {
  return (openVolts + internalOhm * sumDutyBack) / (1 + internalOhm * sumDutySquare);
}
