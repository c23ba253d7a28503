import type { FromRobot } from "@giddy-pebble/core";

/** A frame as text. A number that is none never leaves: JSON would make it null. */
export function frameText(frame: FromRobot): string {
  return JSON.stringify(frame, (_key, value: unknown) =>
    typeof value === "number" && !Number.isFinite(value) ? 0 : value,
  );
}
