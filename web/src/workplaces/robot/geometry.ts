// From the robot's frame to the drawing: plan (from above, forward to the right) and side (from its right).
import { type Robot, wheelOutline } from "@giddy-pebble/core";

/** Millimetres shown: the drawing's window. */
export interface DrawingWindow {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

const MARGIN_MM = 46;
/** On a narrow pane, where names and most numbers are left out. */
const NARROW_MARGIN_MM = 8;

/** Window of the plan around everything the robot has. y grows downwards, so left is up. */
export function planWindow(robot: Robot, narrow = false): DrawingWindow {
  const xs: number[] = [];
  const ys: number[] = [];
  const add = (x: number, y: number) => {
    if (!Number.isFinite(x) || !Number.isFinite(y)) return;
    xs.push(Math.max(-2, Math.min(2, x)));
    ys.push(Math.max(-2, Math.min(2, y)));
  };
  for (const [x, y] of robot.chassis.outlineM) add(x, y);
  for (const [x, y] of robot.wheels.flatMap(wheelOutline)) add(x, y);
  for (const part of [...robot.sensors, ...robot.attachments]) add(part.xM, part.yM);
  for (const part of robot.attachments)
    add(part.xM + Math.cos(part.aimRad) * part.lengthM, part.yM + Math.sin(part.aimRad) * part.lengthM);
  for (const sensor of robot.sensors)
    if (sensor.kind === "eye")
      add(sensor.xM + Math.cos(sensor.aimRad) * 0.07, sensor.yM + Math.sin(sensor.aimRad) * 0.07);
  const margin = narrow ? NARROW_MARGIN_MM : MARGIN_MM;
  const [left, right] = [Math.min(...xs) * 1000 - margin, Math.max(...xs) * 1000 + margin];
  const half = Math.max(...ys.map(Math.abs)) * 1000 + margin;
  return { x: left, y: -half, width: right - left, height: 2 * half };
}

/** Window of the side drawing; y grows downwards from the floor at 0. */
export function sideWindow(robot: Robot): DrawingWindow {
  const plan = planWindow(robot);
  const tops = [
    robot.chassis.heightM,
    ...robot.wheels.map((wheel) => wheel.diameterM),
    ...robot.sensors.map((sensor) => sensor.zM),
    ...robot.attachments.map((part) => part.zM + part.lengthM),
  ];
  const top = Math.min(1000, Math.max(...tops) * 1000);
  return { x: plan.x, y: -top - MARGIN_MM, width: plan.width, height: top + MARGIN_MM + 30 };
}

export interface Fit {
  /** Pixels for a millimetre. */
  readonly scale: number;
  readonly left: number;
  readonly top: number;
}

/** A pane narrower than this has no room for names and numbers of everything, px. */
export const NARROW_PX = 480;

/** Largest even fit of a window into a pane, in the middle. */
export function fitWindow(window: DrawingWindow, widthPx: number, heightPx: number): Fit {
  const scale = Math.max(0.2, Math.min(widthPx / window.width, heightPx / window.height));
  return { scale, left: (widthPx - window.width * scale) / 2, top: (heightPx - window.height * scale) / 2 };
}

/** Grid a plan of this scale has, mm: squares of 12 px or more. */
export function gridStep(scale: number): number {
  return [5, 10, 20, 50, 100, 200].find((step) => step * scale >= 18) ?? 500;
}
