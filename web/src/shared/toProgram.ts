// From a mission's text to its program, for pages that seldom need it: read only when asked for.
import { type Collections, openField, type Program, parseMission, prepareMission, readRobot } from "@giddy-pebble/core";

/** @returns null when the mission, the robot or the field cannot be used */
export function programOf(text: string, robot: unknown, field: unknown, collections: Collections): Program | null {
  const [own, floor] = [readRobot(robot), openField(field)];
  if (!own.ok || !floor.ok) return null;
  return prepareMission(parseMission(text), own.document, floor.document, undefined, collections).program;
}
