// What every kind of drive says of itself. The rest of the core and the pages ask this; only here stands what tells
// one kind from another.
import type { z } from "zod";
import type { Known } from "../units/known.js";
import type { Wheel } from "./parts.js";
import type { Rolling } from "./train.js";

/** What all drives have. */
interface AnyDrive {
  readonly kind: string;
  readonly trackWidthM: Known;
}

/** As much of a robot as a drive needs. */
export interface DriveRobot<D extends AnyDrive = AnyDrive> extends Rolling {
  readonly drive: D;
  readonly support: { readonly xM: number; readonly friction: number } | null;
}

/** Takes what is wrong with a drive. */
export type ReportDrive = (code: string, part: string, message: string, mend: string, path?: string) => void;

/** How a driven wheel hangs on the wheels before it: by its own motor, tied to one, or by a differential with one. */
export type Coupling =
  | { readonly is: "own" }
  | { readonly is: "tied"; readonly to: number; readonly ratio?: number }
  | { readonly is: "differential"; readonly with: number };

export interface DriveKind<D extends AnyDrive = AnyDrive> {
  readonly schema: z.ZodType<D> & z.core.$ZodTypeDiscriminable;
  /** "2 wheels" in a list, "two wheels" in a choice, "two driven wheels" on a page of the notebook. */
  readonly words: { readonly short: string; readonly choice: string; readonly page: string };
  /** Motors that drive it. */
  readonly motors: number;
  readonly turnsOnSpot: boolean;
  /** It can move sideways without turning. */
  readonly slides: boolean;
  /** Its wheels scrub sideways when it turns, with the whole grip. */
  readonly scrubs: boolean;
  /** Its driven wheels stand on one line across, which is where the robot's frame has its origin. */
  readonly oneAxle: boolean;
  /** Standard error of an unmeasured track width, as a share. */
  readonly trackError: number;
  /** Steered wheels are its own. */
  readonly steers: boolean;
  /** Wheels run where they are drawn, whatever track width it turns with. */
  readonly runsAsDrawn: boolean;
  /** What a drive of this kind begins with beside its track width, as a document says it. */
  readonly fresh: object;
  /** Track width it turns with as the drawing has it, m. */
  drawnTrackM(robot: DriveRobot<D>, left: Wheel, right: Wheel): number;
  /** How far ahead the point is that it turns about on the spot, m. */
  turnsAboutM(robot: DriveRobot<D>, left: Wheel): number;
  /** How far ahead the place is that carries what the driven wheels do not, m; undefined where they carry all. */
  restAtM(robot: DriveRobot<D>): number | undefined;
  /** Drag of what carries the rest, as a share of its load. */
  restDrag(robot: DriveRobot<D>, wheel: Wheel): number;
  /** What a wheel becomes when this kind is chosen: where it rolls, and its rollers. */
  wheelFor(wheel: Wheel): Pick<Wheel, "aimRad" | "rollers">;
  /** What is wrong with its wheels and motors, once both sides are driven. */
  check(robot: DriveRobot<D>, report: ReportDrive): void;
  /** @param place - of the driven wheel in the world's order: left lead, right lead, the others */
  coupling(robot: DriveRobot<D>, wheel: Wheel, place: number): Coupling;
}
