// A potentiometer on a shaft: its angle in 1024 steps over its travel, held at its ends.

const POTENTIOMETER_STEPS = 1024;

/** Angle it reads, rad. @param travelRad - from its one end, at 0, to the other */
export function potentiometerReading(angleRad: number, travelRad: number): number {
  const step = Math.floor((angleRad / travelRad) * POTENTIOMETER_STEPS);
  const held = Math.max(0, Math.min(POTENTIOMETER_STEPS - 1, step));
  return ((held + 0.5) * travelRad) / POTENTIOMETER_STEPS;
}
