// Lengths and directions on a field, in words.
import type { Point } from "@giddy-pebble/core";

/** Length and direction from one point to the other. */
export function measureWords(from: Point, to: Point): string {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const cm = Math.hypot(dx, dy) * 100;
  return `${cm.toFixed(1)} cm, heading ${((Math.atan2(dy, dx) * 180) / Math.PI).toFixed(0)} deg`;
}
