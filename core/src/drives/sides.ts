// Drives whose two sides run each at one speed: what two wheels and four in tied pairs share.
import type { Coupling, DriveRobot, ReportDrive } from "./kind.js";
import type { Wheel } from "./parts.js";
import { drivenWheels, sourceOf } from "./train.js";

/** Names of the motors that turn wheels of a side. */
export function motorsOfSide(robot: DriveRobot, side: "left" | "right"): Set<string> {
  return new Set(
    drivenWheels(robot).flatMap((wheel) => {
      const source = wheel.side === side ? sourceOf(robot, wheel) : null;
      return source?.is === "motor" ? [source.motor.name] : [];
    }),
  );
}

/** Only a car steers. */
export function checkSteered(robot: DriveRobot, report: ReportDrive): void {
  const steered = robot.wheels.find((wheel) => wheel.steered);
  if (steered)
    report(
      "steered-here",
      steered.name,
      "Only a car type has steered wheels.",
      "Choose the car type, or switch steering off on this wheel.",
    );
}

/** One motor a side, and so many wheels, all of them driven. */
export function checkSides(
  robot: DriveRobot,
  report: ReportDrive,
  wanted: { readonly count: number; readonly words: string; readonly mend: string },
): void {
  checkSteered(robot, report);
  const sides = [
    ["left", motorsOfSide(robot, "left")],
    ["right", motorsOfSide(robot, "right")],
  ] as const;
  if ([...sides[0][1]].some((name) => sides[1][1].has(name)))
    report(
      "one-motor-both",
      "drive",
      "One motor drives both sides, so the robot cannot turn.",
      "Give each side a motor, or choose the car type.",
    );
  for (const [side, names] of sides)
    if (names.size > 1)
      report(
        "side-motors",
        "drive",
        `The ${side} side has ${names.size} motors; one turns all wheels of a side here.`,
        "Tie its wheels together: let one be driven by the other.",
      );
  const driven = drivenWheels(robot).length;
  if (driven !== wanted.count || robot.wheels.length !== wanted.count)
    report(
      "wheel-count",
      "drive",
      `${wanted.words}; this robot has ${driven} driven of ${robot.wheels.length}.`,
      wanted.mend,
    );
}

/** Lead wheels have the motors; the others of a side are tied to them. */
export function coupledBySide(wheel: Wheel, place: number): Coupling {
  return place < 2 ? { is: "own" } : { is: "tied", to: wheel.side === "left" ? 0 : 1 };
}
