// Reading a robot document: its shape, and for those who will run it, whether it is sound.
import { type DocumentReading, parseVersioned } from "../documents/read.js";
import { checkRobot } from "./check.js";
import { type Robot, robotSchema } from "./schema.js";
import { ROBOT_UPGRADES } from "./upgrade.js";

/** Takes any document of the right shape, faults and all: to look at it and mend it. */
export function openRobot(value: unknown): DocumentReading<Robot> {
  return parseVersioned(value, {
    format: "giddy-pebble/robot",
    newest: 3,
    upgrades: ROBOT_UPGRADES,
    schema: robotSchema,
  });
}

/** Takes a robot that can be rehearsed; otherwise sentences that say what is wrong. @param value - parsed JSON */
export function readRobot(value: unknown): DocumentReading<Robot> {
  const read = openRobot(value);
  if (!read.ok) return read;
  const problems = checkRobot(read.document)
    .filter((problem) => problem.severity === "error")
    .map(({ message, mend }) => {
      const [fault, then] = [message, mend].map((sentence) => sentence.replace(/\.$/, "")) as [string, string];
      return `${fault}; ${then.charAt(0).toLowerCase()}${then.slice(1)}`;
    });
  return problems.length > 0 ? { ok: false, problems } : read;
}
