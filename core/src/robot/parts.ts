// A robot as a list of parts: each with a reference that stays while its numbers change.
import type { Robot } from "./schema.js";

/** The parts there is one of, and every other part by its name. */
export type PartRef = "chassis" | "drive" | "support" | "board" | "pack" | (string & {});

export interface RobotPart {
  readonly ref: PartRef;
  /** Key into the table of quantities: wheel, motor, eye, … */
  readonly kind: string;
  readonly group: "frame" | "drive" | "motors" | "attachments" | "sensors" | "power";
  readonly value: object;
  /** Keys from the document's root to the value. */
  readonly path: readonly (string | number)[];
}

const FIXED = ["chassis", "drive", "support", "board", "pack"] as const;

/** Every part, in the order people list them. */
export function partsOf(robot: Robot): RobotPart[] {
  const one = (ref: (typeof FIXED)[number], group: RobotPart["group"]): RobotPart[] => {
    const value = robot[ref];
    return value ? [{ ref, kind: ref, group, value, path: [ref] }] : [];
  };
  const many = (
    key: "wheels" | "motors" | "servos" | "attachments" | "sensors",
    kind: string | null,
    group: RobotPart["group"],
  ): RobotPart[] =>
    robot[key].map((value, i) => ({
      ref: value.name,
      kind: kind ?? (value as { kind: string }).kind,
      group,
      value,
      path: [key, i],
    }));
  return [
    ...one("chassis", "frame"),
    ...one("drive", "drive"),
    ...many("wheels", "wheel", "drive"),
    ...one("support", "drive"),
    ...many("motors", "motor", "motors"),
    ...many("servos", "servo", "motors"),
    ...many("attachments", "attachment", "attachments"),
    ...many("sensors", null, "sensors"),
    ...one("board", "power"),
    ...one("pack", "power"),
  ];
}

export function findPart(robot: Robot, ref: PartRef): RobotPart | null {
  return partsOf(robot).find((part) => part.ref === ref) ?? null;
}

export function isFixedRef(ref: string): boolean {
  return (FIXED as readonly string[]).includes(ref);
}
