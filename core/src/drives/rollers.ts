// Drives whose wheels have rollers round their rims, each with a motor of its own: four with rollers at 45 deg, or three
// at 120 deg to one another. They slide sideways, and turn while they drive. The frame's origin is the middle of the wheels.
import * as z from "zod";
import { PI } from "../math/trig.js";
import { knownSchema } from "../units/known.js";
import type { DriveKind, DriveRobot, ReportDrive } from "./kind.js";
import { mixingOf, rowOf } from "./mixing.js";
import { manner, type Wheel } from "./parts.js";
import { checkSteered } from "./sides.js";
import { sourceOf } from "./train.js";

const common = {
  trackWidthM: knownSchema,
  /** Way sideways over what its wheels say. */
  slideShare: knownSchema,
  ...manner,
};
const fourSchema = z.object({ kind: z.literal("four-rollers"), ...common });
const threeSchema = z.object({ kind: z.literal("three-rollers"), ...common });

/** What makes a number of roller wheels another kind. */
interface Layout {
  readonly count: number;
  readonly said: string;
  readonly mend: string;
}

function check(robot: DriveRobot, report: ReportDrive, { count, said, mend }: Layout): void {
  checkSteered(robot, report);
  const motors = new Set<string>();
  for (const wheel of robot.wheels) {
    const source = sourceOf(robot, wheel);
    if (!wheel.rollers)
      report(
        "no-rollers",
        wheel.name,
        `Wheel "${wheel.name}" has no rollers, so it would scrub when the robot slides.`,
        "Switch its rollers on, or choose another kind of drive.",
      );
    if (source.is !== "motor") continue;
    if (motors.has(source.motor.name))
      report(
        "shared-motor",
        wheel.name,
        `Wheel "${wheel.name}" shares motor "${source.motor.name}" with another wheel.`,
        "Give each roller wheel a motor of its own.",
      );
    motors.add(source.motor.name);
  }
  if (robot.wheels.length !== count || motors.size !== count)
    report(
      "wheel-count",
      "drive",
      `${said}; this robot has ${robot.wheels.length} wheels and ${motors.size} driven ones.`,
      "Add or remove wheels and motors, or choose another kind of drive.",
    );
  else if (!mixingOf(robot.wheels, { slide: 1, turn: 1 }))
    report(
      "rollers-alike",
      "drive",
      "With rollers that lie like this, there is a way that no wheel can push the robot.",
      mend,
    );
}

/** What rollers on plain axles resist with, as a share of the load. */
const USUAL_FRICTION = 0.02;

/** A wheel that rolls and holds in these directions; how easily its rollers turn stays. */
function rolling({ rollers }: Wheel, aimRad: number, axleRad: number): Pick<Wheel, "aimRad" | "rollers"> {
  return { aimRad, rollers: { friction: USUAL_FRICTION, ...rollers, axleRad } };
}

const shared = {
  turnsOnSpot: true,
  slides: true,
  scrubs: false,
  oneAxle: false,
  trackError: 0.02,
  steers: false,
  runsAsDrawn: true,
  fresh: { slideShare: { value: 1 } },
  /** The lead wheels run with v ∓ w b / 2, told by their share of v. So b is their lever over that share. */
  drawnTrackM(_robot: DriveRobot, left: Wheel, right: Wheel): number {
    const [a, b] = [rowOf(left), rowOf(right)];
    return a.forward === 0 ? left.yM - right.yM : (b.turn - a.turn) / a.forward;
  },
  turnsAboutM: () => 0,
  restAtM: () => undefined,
  restDrag: () => 0,
  coupling: () => ({ is: "own" }) as const,
};

const FOUR: Layout = {
  count: 4,
  said: "Four roller wheels have four motors",
  mend: "Set the rollers to -45 deg at front left and rear right, and to 45 deg at the others.",
};

export const fourRollers: DriveKind<z.infer<typeof fourSchema>> & { readonly schema: typeof fourSchema } = {
  ...shared,
  schema: fourSchema,
  words: { short: "4 roller wheels", choice: "four roller wheels", page: "four roller wheels at 45 deg" },
  motors: 4,
  check: (robot, report) => check(robot, report, FOUR),
  wheelFor(wheel) {
    const ahead = wheel.xM >= 0;
    const axleRad = (wheel.side === "left") === ahead ? -PI / 4 : PI / 4;
    return rolling(wheel, 0, axleRad);
  },
};

const THREE: Layout = {
  count: 3,
  said: "Three roller wheels have three motors",
  mend: "Let the wheels stand 120 deg apart, and each roll along the circle they stand on.",
};

export const threeRollers: DriveKind<z.infer<typeof threeSchema>> & { readonly schema: typeof threeSchema } = {
  ...shared,
  schema: threeSchema,
  words: { short: "3 roller wheels", choice: "three roller wheels", page: "three roller wheels at 120 deg" },
  motors: 3,
  check: (robot, report) => check(robot, report, THREE),
  wheelFor(wheel) {
    // Two in front that roll 30 deg inwards and outwards, one behind that rolls to the left.
    const aimRad = wheel.xM < 0 ? PI / 2 : wheel.side === "left" ? -PI / 6 : PI / 6;
    return rolling(wheel, aimRad, 0);
  },
};
