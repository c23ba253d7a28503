// Every kind of drive there is. A new kind is a file beside these and its line here.
import * as z from "zod";
import { type CarDrive, car } from "./car.js";
import { fourWheel } from "./fourWheel.js";
import type { DriveKind } from "./kind.js";
import { fourRollers, threeRollers } from "./rollers.js";
import { twoWheel } from "./twoWheel.js";

const KINDS = {
  "two-wheel": twoWheel,
  "four-wheel": fourWheel,
  car,
  "four-rollers": fourRollers,
  "three-rollers": threeRollers,
} as const;

export type DriveKindName = keyof typeof KINDS;

/** Their names, in the order people choose from. */
export const DRIVE_KINDS = Object.keys(KINDS) as readonly DriveKindName[];

export const driveSchema = z.discriminatedUnion("kind", [
  twoWheel.schema,
  fourWheel.schema,
  car.schema,
  fourRollers.schema,
  threeRollers.schema,
]);
export type Drive = z.infer<typeof driveSchema>;

/** What there is to know of a kind of drive. */
export function driveKind({ kind }: { readonly kind: DriveKindName }): DriveKind<Drive> {
  return KINDS[kind] as unknown as DriveKind<Drive>;
}

/** The steering of a drive that has one. */
export function steeringOf(drive: Drive): CarDrive["steering"] | null {
  return "steering" in drive ? drive.steering : null;
}
