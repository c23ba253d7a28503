// What people do to a robot's parts, as pure functions: numbers, places, names, mirror images.

import { driveKind } from "../drives/kinds.js";
import type { Stage } from "../drives/parts.js";
import { findPart, isFixedRef, type PartRef, type RobotPart } from "./parts.js";
import { QUANTITIES } from "./quantities.js";
import { openRobot } from "./read.js";
import type { Robot } from "./schema.js";

type Path = readonly (string | number)[];

function at(value: unknown, path: Path): unknown {
  let here = value;
  for (const key of path)
    here = typeof here === "object" && here !== null ? (here as Record<string, unknown>)[key as string] : undefined;
  return here;
}

/** A copy with the value at a path replaced; everything not on the path is shared. */
export function replaceAt<T>(value: T, path: Path, next: unknown): T {
  const [key, ...rest] = path;
  if (key === undefined) return next as T;
  const copy = (Array.isArray(value) ? [...value] : { ...value }) as Record<string | number, unknown>;
  copy[key] = replaceAt(copy[key], rest, next);
  return copy as T;
}

function keys(path: string): (string | number)[] {
  return path.split(".").map((key) => (/^\d+$/.test(key) ? Number(key) : key));
}

/** Name of the part on the other side: left_wheel and right_wheel, near_left and near_right; null when it has none. */
export function mirrorName(name: string): string | null {
  if (/(^|_)left(_|$)/.test(name)) return name.replace(/(^|_)left(_|$)/, "$1right$2");
  return /(^|_)right(_|$)/.test(name) ? name.replace(/(^|_)right(_|$)/, "$1left$2") : null;
}

function partner(robot: Robot, part: RobotPart): RobotPart | null {
  const name = mirrorName(part.ref);
  const found = name === null ? null : findPart(robot, name);
  return found && found.kind === part.kind ? found : null;
}

/** Quantities whose sign turns in a mirror. */
const MIRRORED_PATHS = new Set(["yM", "aimRad"]);

/**
 * The robot with one value of a part set. A number typed over a known becomes that known's typed value; with
 * `mirror` the part on the other side follows.
 * @param path - inside the part: "diameterM", "encoder.countsPerTurn", "drivenBy"
 */
export function setPartValue(robot: Robot, ref: PartRef, path: string, value: unknown, mirror = false): Robot {
  const part = findPart(robot, ref);
  if (!part) return robot;
  const changed = setOne(robot, part, path, value);
  const other = mirror ? partner(robot, part) : null;
  if (!other || path === "name" || path === "side" || path === "drivenBy" || path === "reversed") return changed;
  const turned = MIRRORED_PATHS.has(path) && typeof value === "number" ? -value : value;
  return setOne(changed, other, path, turned);
}

function setOne(robot: Robot, part: RobotPart, path: string, value: unknown): Robot {
  const whole = [...part.path, ...keys(path)];
  const now = at(robot, whole);
  if (typeof value === "number" && typeof now === "object" && now !== null && "standardError" in now)
    return replaceAt(robot, whole, {
      ...now,
      value,
      standardError: null,
      count: 0,
      method: "",
      conditions: "",
      measuredAt: null,
      source: "typed",
    });
  return replaceAt(robot, whole, value);
}

/** Lets a known follow the drawing again; one that no drawing gives is forgotten. */
export function useDrawing(robot: Robot, ref: PartRef, path: string): Robot {
  const part = findPart(robot, ref);
  if (!part) return robot;
  const whole = [...part.path, ...keys(path)];
  if (QUANTITIES[part.kind]?.some((info) => info.path === path && info.found)) return replaceAt(robot, whole, null);
  const now = at(robot, whole) as object;
  return replaceAt(robot, whole, {
    ...now,
    standardError: null,
    count: 0,
    method: "",
    measuredAt: null,
    source: "drawing",
  });
}

/** Whether a part has a place of its own in the drawing. */
export function hasPlace(part: RobotPart): boolean {
  return "xM" in part.value && "yM" in part.value;
}

/** Whether a wheel stands on the driven axle, whose middle is the robot's origin. */
function onAxle(robot: Robot, part: RobotPart): boolean {
  return part.kind === "wheel" && driveKind(robot.drive).oneAxle;
}

/** Moves a part; wheels of a two-wheel drive stay on their axle. */
export function movePart(robot: Robot, ref: PartRef, xM: number, yM: number, mirror = false): Robot {
  const part = findPart(robot, ref);
  if (!part || !hasPlace(part)) return robot;
  const x = onAxle(robot, part) ? 0 : xM;
  const value = { ...part.value, xM: x, yM };
  const moved = replaceAt(robot, part.path, value);
  const other = mirror ? partner(robot, part) : null;
  return other ? replaceAt(moved, other.path, { ...other.value, xM: x, yM: -yM }) : moved;
}

interface SnapLines {
  /** Snapped to the axle, the middle, or the partner's line; null where only to the grid. */
  readonly x: number | null;
  readonly y: number | null;
}

/** Rounds a place to the grid, and to the axle and the middle line when they are near. */
export function snapPlace(
  robot: Robot,
  ref: PartRef,
  xM: number,
  yM: number,
  gridM: number,
): { xM: number; yM: number; lines: SnapLines } {
  const near = gridM * 2;
  const part = findPart(robot, ref);
  const other = part ? partner(robot, part) : null;
  const lines = (own: "xM" | "yM", value: number): number | null => {
    const partnerAt = other ? (other.value as Record<string, number>)[own] : undefined;
    const stops = [0, ...(partnerAt === undefined ? [] : [own === "yM" ? -partnerAt : partnerAt])];
    return stops.find((stop) => Math.abs(value - stop) < near) ?? null;
  };
  const round = (value: number) => Math.floor(value / gridM + 0.5) * gridM;
  const x = lines("xM", xM);
  const y = lines("yM", yM);
  // Whole micrometres keep 0.1 + 0.2 out of the file.
  const clean = (value: number) => Math.floor(value * 1e6 + 0.5) / 1e6;
  return { xM: clean(x ?? round(xM)), yM: clean(y ?? round(yM)), lines: { x, y } };
}

type RenameResult = { ok: true; robot: Robot } | { ok: false; message: string };

/** Gives a part another name, everywhere it is spoken of. */
export function renamePart(robot: Robot, ref: PartRef, name: string): RenameResult {
  if (isFixedRef(ref)) return { ok: false, message: "This part keeps its name." };
  if (!/^[a-z][a-z0-9_]{0,39}$/.test(name))
    return { ok: false, message: "A name starts with a small letter and holds only small letters, digits and _." };
  if (name === ref) return { ok: true, robot };
  if (findPart(robot, name))
    return { ok: false, message: `There is already a part called "${name}". Choose another name.` };
  const swap = <T>(value: T): T => (value === ref ? name : value) as T;
  const named = <T extends { name: string }>(list: readonly T[]) =>
    list.map((part) => ({ ...part, name: swap(part.name) }));
  return {
    ok: true,
    robot: {
      ...robot,
      wheels: named(robot.wheels).map((wheel) => ({ ...wheel, drivenBy: swap(wheel.drivenBy) })),
      motors: named(robot.motors),
      servos: named(robot.servos),
      attachments: named(robot.attachments).map((part) => ({ ...part, drivenBy: swap(part.drivenBy) })),
      sensors: named(robot.sensors).map((sensor) =>
        sensor.kind === "eye" ? { ...sensor, head: swap(sensor.head) } : sensor,
      ),
      wiring: robot.wiring.map((wire) => ({ ...wire, part: swap(wire.part) })),
      drive:
        "steering" in robot.drive
          ? { ...robot.drive, steering: { ...robot.drive.steering, servo: swap(robot.drive.steering.servo) } }
          : robot.drive,
    },
  };
}

/** The chassis stretched to a length and a width, about its middle; corners keep their shape. */
export function sizeChassis(robot: Robot, lengthM: number, widthM: number): Robot {
  const { outlineM } = robot.chassis;
  const xs = outlineM.map(([x]) => x);
  const ys = outlineM.map(([, y]) => y);
  const [lowX, highX, lowY, highY] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  if (!(lengthM > 0) || !(widthM > 0) || highX === lowX || highY === lowY) return robot;
  const [midX, midY] = [(lowX + highX) / 2, (lowY + highY) / 2];
  const clean = (value: number) => Math.floor(value * 1e6 + 0.5) / 1e6;
  const outline = outlineM.map(([x, y]): [number, number] => [
    clean(midX + ((x - midX) * lengthM) / (highX - lowX)),
    clean(midY + ((y - midY) * widthM) / (highY - lowY)),
  ]);
  return { ...robot, chassis: { ...robot.chassis, outlineM: outline } };
}

/** One more stage at the end, with gears that change nothing yet. */
export function addStage(stages: readonly Stage[]): Stage[] {
  return [
    ...stages,
    { kind: "gears", driverTeeth: 20, drivenTeeth: 20, efficiency: 0.95, backlashRad: 0, slipTorqueNm: null },
  ];
}

/** Stages between a motor and its wheel, on every wheel a motor turns itself. */
export function setStages(robot: Robot, stages: readonly Stage[]): Robot {
  const motors = new Set(robot.motors.map((motor) => motor.name));
  return {
    ...robot,
    wheels: robot.wheels.map((wheel) =>
      wheel.drivenBy !== null && motors.has(wheel.drivenBy) ? { ...wheel, stages: [...stages] } : wheel,
    ),
  };
}

/** Force of a small rubber wheel on a light load, N, until somebody types another. */
const USUAL_GRIP_N = 1;

/** The robot with an attachment of another kind: what becomes a spinner drags with the usual force, what stops being one with none. */
export function setAttachmentKind(robot: Robot, ref: PartRef, kind: Robot["attachments"][number]["kind"]): Robot {
  return {
    ...robot,
    attachments: robot.attachments.map((part) =>
      part.name === ref ? { ...part, kind, gripN: kind === "spinner" ? (part.gripN ?? USUAL_GRIP_N) : null } : part,
    ),
  };
}

/** Another kind of drive, with what is known of it kept and the rest as drawn. */
export function setDriveKind(robot: Robot, kind: Robot["drive"]["kind"]): Robot {
  const { trackWidthM, speedAtPower } = robot.drive;
  if (kind === robot.drive.kind) return robot;
  const drive = { kind, trackWidthM, speedAtPower, ...driveKind({ kind }).fresh };
  const wheels = robot.wheels.map((wheel) => ({ ...wheel, ...driveKind({ kind }).wheelFor(wheel) }));
  const read = openRobot({ ...robot, drive, wheels });
  return read.ok ? read.document : robot;
}

/** Wires one terminal to a place on the board, or takes its wire off. */
export function setWire(robot: Robot, part: string, terminal: string, to: string | null): Robot {
  const others = robot.wiring.filter((wire) => wire.part !== part || wire.terminal !== terminal);
  return { ...robot, wiring: to === null ? others : [...others, { part, terminal, to }] };
}
