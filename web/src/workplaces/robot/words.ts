// Parts in people's words.
import { boardProfile, driveKind, type Robot, type RobotPart, shownQuantity } from "@giddy-pebble/core";

const MM = { unit: "mm", perSi: 1000, digits: 0 };

export const GROUPS: readonly (readonly [RobotPart["group"], string])[] = [
  ["frame", "Frame"],
  ["drive", "Drive"],
  ["motors", "Motors"],
  ["attachments", "Attachments"],
  ["sensors", "Sensors"],
  ["power", "Board and power"],
];

const KIND_WORDS: Readonly<Record<string, string>> = {
  chassis: "Chassis",
  drive: "Drive",
  board: "Board",
  pack: "Pack",
};

const SUPPORT_WORDS = { ball: "Ball caster", skid: "Skid", caster: "Free caster" } as const;

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** "left_wheel" → "Left wheel" */
export function partTitle(robot: Robot, part: Pick<RobotPart, "ref" | "kind">): string {
  if (part.kind === "support") return robot.support ? SUPPORT_WORDS[robot.support.kind] : "Support";
  return KIND_WORDS[part.kind] ?? capital(part.ref.replaceAll("_", " "));
}

function wired(robot: Robot, ref: string): string {
  return (
    robot.wiring.find((wire) => wire.part === ref && (wire.terminal === "plug" || wire.terminal === "leads"))?.to ?? ""
  );
}

/** The one fact about a part that stands beside its name in the list. */
export function partFact(robot: Robot, part: RobotPart): string {
  const mm = (value: number) => shownQuantity(value, MM);
  switch (part.kind) {
    case "chassis":
      return shownQuantity(robot.chassis.massKg, { unit: "kg", perSi: 1, digits: 2 });
    case "drive":
      return driveKind(robot.drive).words.short;
    case "wheel": {
      const wheel = robot.wheels.find((candidate) => candidate.name === part.ref);
      return wheel ? mm(wheel.diameterM) : "";
    }
    case "support":
      return robot.support && robot.support.xM < 0 ? "rear" : "front";
    case "motor": {
      const motor = robot.motors.find((candidate) => candidate.name === part.ref);
      return [wired(robot, part.ref), motor?.reversed ? "reversed" : ""].filter((word) => word !== "").join(", ");
    }
    case "attachment":
      return robot.attachments.find((candidate) => candidate.name === part.ref)?.kind ?? "";
    case "board":
      return boardProfile(robot.board.profile)?.id ?? robot.board.profile;
    case "pack":
      return shownQuantity(robot.pack.nominalVolts, { unit: "V", perSi: 1, digits: 1 });
    default:
      return wired(robot, part.ref);
  }
}

/** Ids of the figures that say most about a part. */
export function figuresFor(kind: string): readonly string[] {
  switch (kind) {
    case "wheel":
      return [
        "top-speed",
        "travel-per-turn",
        "quarter-turn",
        "to-speed",
        "push-before-slip",
        "pull-away-full",
        "pull-away-tired",
      ];
    case "motor":
      return ["top-speed", "to-speed", "stall-push", "pull-away-full", "pull-away-tired", "stopping-distance"];
    case "drive":
      return ["wheel-turns", "quarter-turn", "turning-circle", "pivot-duty", "top-speed", "stopping-distance"];
    case "chassis":
    case "support":
      return ["tips-at", "push-before-slip", "turning-circle", "stopping-distance", "to-speed"];
    case "pack":
    case "board":
      return ["run-time", "pull-away-full", "pull-away-tired", "top-speed"];
    default:
      return ["top-speed", "turning-circle", "stopping-distance"];
  }
}
