// What a drawn line means for a robot: how long it is, and how tight its tightest curve.
import { atan2, PI } from "../math/trig.js";
import type { StrokeMark } from "./schema.js";
import { lengthOf, strokePoints } from "./strokes.js";

interface LineMeaning {
  readonly lengthM: number;
  /** Radius of the tightest curve, m; infinite for a straight line. */
  readonly tightestM: number;
  /** Largest turn at one point, rad: of a corner. */
  readonly sharpestRad: number;
}

/** Turns at one point smaller than this are part of a curve, rad. */
const CORNER_RAD = (20 * PI) / 180;

/**
 * The radius of a curve through three points is that of their circle, a b c / (4 × area). Corners are told apart: there a
 * line has no radius.
 */
export function lineMeaning(mark: StrokeMark): LineMeaning {
  const points = strokePoints(mark);
  const closed = mark.closed === true;
  let tightestM = Number.POSITIVE_INFINITY;
  let sharpestRad = 0;
  const n = points.length;
  const whole = closed && n > 3;
  // A closed line's last point is its first one again.
  const count = whole ? n - 1 : n;
  for (let i = whole ? 0 : 1; i < (whole ? count : n - 1); i += 1) {
    const a = points[(i - 1 + count) % count];
    const b = points[i];
    const c = points[(i + 1) % count];
    if (!a || !b || !c) continue;
    const [ux, uy] = [b[0] - a[0], b[1] - a[1]];
    const [vx, vy] = [c[0] - b[0], c[1] - b[1]];
    const [la, lb] = [Math.sqrt(ux * ux + uy * uy), Math.sqrt(vx * vx + vy * vy)];
    if (la < 1e-9 || lb < 1e-9) continue;
    const cross = ux * vy - uy * vx;
    const turn = Math.abs(atan2(cross, ux * vx + uy * vy));
    sharpestRad = Math.max(sharpestRad, turn);
    if (turn > CORNER_RAD || turn < 1e-6) continue;
    const chord = Math.sqrt((c[0] - a[0]) ** 2 + (c[1] - a[1]) ** 2);
    tightestM = Math.min(tightestM, (la * lb * chord) / (2 * Math.abs(cross)));
  }
  return { lengthM: lengthOf(points), tightestM, sharpestRad };
}
