// How well a run kept to a line: the error of its floor sensor against the drawn line, over the way it drove.
import { floorNamed } from "../cairn/partRules.js";
import { walk } from "../cairn/symbols.js";
import { bodiesOf, type Mission, type Side, type Statement } from "../cairn/tree.js";
import type { Field } from "../field/schema.js";
import { strokePoints } from "../field/strokes.js";
import type { Point } from "../geometry/pose.js";
import { cos, sin } from "../math/trig.js";
import { TICK_MS } from "../physics/constants.js";
import type { Robot } from "../robot/schema.js";
import { floorOffsets } from "../sensors/floorSensor.js";
import type { RunSummary } from "../trials/summary.js";
import { type Trace, traceColumn } from "../trials/trace.js";

/** A step that follows a line, as its mission has it. */
export type LineStep = Extract<Statement, { type: "follow line" }>;

/** What of such a step its error is measured by. */
export type FollowedLine = {
  /** Of the text, from 0. */
  readonly line: number;
  readonly sensor: { readonly name: string };
  readonly edge: Side | null;
};

/** Error of one stretch of a step that followed a line. Lengths of all arrays are equal. */
export interface LineWay {
  /** Ticks of the run. */
  readonly ticks: Int32Array;
  /** Way driven since the stretch began, m. */
  readonly wayM: Float64Array;
  /** How far the sensor is from where it should be: to the left of it is positive, m. */
  readonly offM: Float64Array;
}

interface LineFigures {
  /** Root of the mean square over the way, m. */
  readonly rmsM: number;
  /** Largest without its sign, m. */
  readonly worstM: number;
  /** How often it went astray: off by more than its sensor looks ahead, and more. */
  readonly losses: number;
  readonly wayM: number;
}

/** Beyond what the sensor looks ahead (a corner is overshot by that much) it is astray, m. */
const ASTRAY_M = 0.03;

/** All steps of a mission that follow a line, in order. */
export function lineSteps(mission: Mission): LineStep[] {
  const steps: LineStep[] = [];
  const keep = (statement: Statement) => {
    if (statement.type === "follow line") steps.push(statement);
  };
  for (const block of bodiesOf(mission)) walk(block, keep);
  return steps.sort((a, b) => a.line - b.line);
}

/** The lines drawn on a field, with their gaps filled: [points, width in m]. Only what is darker than the floor. */
export function drawnLines(field: Field): { readonly points: readonly Point[]; readonly widthM: number }[] {
  return field.marks.flatMap((mark) =>
    mark.kind === "area" || mark.reflectance >= field.surface.reflectance
      ? []
      : [{ points: strokePoints(mark), widthM: mark.widthM }],
  );
}

interface Aim {
  /** Place of the spot on the robot, m. */
  readonly xM: number;
  readonly yM: number;
  readonly edge: Side | null;
}

function aimOf(step: FollowedLine, robot: Robot): Aim | null {
  const found = floorNamed(robot.sensors, step.sensor.name);
  if (!found) return null;
  const { sensor, spot } = found;
  const offsets = floorOffsets(sensor.layout, sensor.count, sensor.spacingM);
  const one = spot === "right" ? 1 : spot.startsWith("[") ? Number(spot.slice(1, -1)) - 1 : 0;
  const across = step.edge === null ? 0 : (offsets[one] ?? 0);
  return { xM: sensor.xM, yM: sensor.yM + across, edge: step.edge };
}

/** Nearest place on the lines; `into` gets its vector from the point, m. */
function nearest(lines: ReturnType<typeof drawnLines>, x: number, y: number, into: { x: number; y: number }): number {
  let best = Number.POSITIVE_INFINITY;
  let widthM = 0;
  for (const line of lines) {
    const { points } = line;
    for (let i = 1; i < points.length; i += 1) {
      const [ax, ay] = points[i - 1] as Point;
      const [bx, by] = points[i] as Point;
      const [dx, dy] = [bx - ax, by - ay];
      const square = dx * dx + dy * dy;
      const t = square > 0 ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / square)) : 0;
      const [px, py] = [ax + t * dx - x, ay + t * dy - y];
      const distance = px * px + py * py;
      if (distance < best) {
        best = distance;
        widthM = line.widthM;
        into.x = px;
        into.y = py;
      }
    }
  }
  return widthM;
}

/**
 * The error of each stretch in which a step followed its line.
 * @returns empty when the field has no drawn line, or the step never ran
 */
export function lineWays(
  trace: Trace,
  summary: Pick<RunSummary, "steps">,
  step: FollowedLine,
  robot: Robot,
  field: Field,
): LineWay[] {
  const lines = drawnLines(field);
  const aim = aimOf(step, robot);
  const [x, y, heading] = ["x", "y", "heading"].map((id) => traceColumn(trace, id));
  if (lines.length === 0 || !aim || !x || !y || !heading) return [];
  const toward = { x: 0, y: 0 };
  return summary.steps
    .filter(({ line, startMs, endMs }) => line === step.line + 1 && endMs > startMs)
    .map(({ startMs, endMs }) => {
      const from = Math.floor(startMs / TICK_MS);
      const count = Math.max(0, Math.min(x.length - 1, Math.floor(endMs / TICK_MS)) - from + 1);
      const way = { ticks: new Int32Array(count), wayM: new Float64Array(count), offM: new Float64Array(count) };
      for (let i = 0; i < count; i += 1) {
        const tick = from + i;
        const [rx, ry, h] = [x[tick] as number, y[tick] as number, heading[tick] as number];
        const [c, s] = [cos(h), sin(h)];
        const widthM = nearest(lines, rx + c * aim.xM - s * aim.yM, ry + s * aim.xM + c * aim.yM, toward);
        // The line lies to the right of a sensor that is to the left of it.
        const left = s * toward.x - c * toward.y;
        const apart = Math.sqrt(toward.x * toward.x + toward.y * toward.y);
        const side = aim.edge === null ? 0 : aim.edge === "left" ? 1 : -1;
        way.ticks[i] = tick;
        way.offM[i] = (left < 0 ? -apart : apart) - (side * widthM) / 2;
        way.wayM[i] =
          i === 0
            ? 0
            : (way.wayM[i - 1] as number) +
              Math.sqrt((rx - (x[tick - 1] as number)) ** 2 + (ry - (y[tick - 1] as number)) ** 2);
      }
      return way;
    });
}

/** @param aheadM - how far its sensor looks ahead of the axle, m. @returns null without any way */
export function lineFigures(ways: readonly LineWay[], aheadM: number): LineFigures | null {
  let [square, wayM, worstM, losses] = [0, 0, 0, 0];
  const most = Math.abs(aheadM) + ASTRAY_M;
  for (const { offM, wayM: at } of ways) {
    let astray = false;
    for (let i = 1; i < offM.length; i += 1) {
      const off = offM[i] as number;
      const driven = (at[i] as number) - (at[i - 1] as number);
      square += off * off * driven;
      worstM = Math.max(worstM, Math.abs(off));
      if (Math.abs(off) > most && !astray) losses += 1;
      astray = Math.abs(off) > (astray ? most / 2 : most);
    }
    wayM += at.at(-1) ?? 0;
  }
  return wayM > 0 ? { rmsM: Math.sqrt(square / wayM), worstM, losses, wayM } : null;
}

/** How far ahead of the axle the sensor of a step looks, m. */
export function aheadOfLine(step: FollowedLine, robot: Robot): number {
  return aimOf(step, robot)?.xM ?? 0;
}
