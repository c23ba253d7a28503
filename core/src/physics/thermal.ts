// Winding temperature: one resistance and one capacity, C dT/dt = I² R(T) - (T - Ta)/Rth. Hot copper resists
// more, so the motor fades; its protection opens above one temperature and closes below another.
import type { ThermalSpec } from "./parts.js";

export const AMBIENT_C = 25;
/** Growth of copper's resistance for each kelvin, at 25 deg C. Source: IEC 60028 gives 0.00393 at 20 deg C. */
export const COPPER_PER_K = 0.00393;

/** How many times its cold resistance a winding has. */
export function warmFactor(windingC: number, spec: ThermalSpec): number {
  return 1 + spec.copperPerK * (windingC - AMBIENT_C);
}

/** Temperature after `dt` seconds with `watts` of heat in it: exact while the heat stays the same, deg C. */
export function warmed(windingC: number, watts: number, spec: ThermalSpec, dt: number): number {
  const { resistanceKPerW: r, capacityJPerK: c } = spec;
  // Backward Euler: a step is a hundred-thousandth of the time constant, and no exponential is needed.
  return (windingC + (dt / c) * (watts + AMBIENT_C / r)) / (1 + dt / (r * c));
}
