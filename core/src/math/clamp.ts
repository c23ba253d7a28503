/** A value held between -most and most. */
export function clamp(value: number, most: number): number {
  return Math.max(-most, Math.min(most, value));
}
