// Contact points between the robot's convex outline and fixed things: segments and discs.
//
// A segment meets the outline in up to two points (each end of the clipped overlap), a disc in one. Points
// carry a feature id, so that last step's impulse starts this step's solve.
import type { Point } from "../geometry/pose.js";
import { CONTACT_MARGIN_M } from "./constants.js";
import type { FixedDisc } from "./parts.js";

const MOST_CONTACTS = 96;
/** Second body of a contact with something that does not move. */
export const FIXED = -1;

/** Contact points of one step, in flat arrays that are reused. */
export class ContactSet {
  count = 0;
  readonly id = new Int32Array(MOST_CONTACTS);
  /** World point, m. */
  readonly x = new Float64Array(MOST_CONTACTS);
  readonly y = new Float64Array(MOST_CONTACTS);
  /** Unit normal, from the fixed thing towards the robot. */
  readonly nx = new Float64Array(MOST_CONTACTS);
  readonly ny = new Float64Array(MOST_CONTACTS);
  /** Gap, m; negative when overlapping. */
  readonly gap = new Float64Array(MOST_CONTACTS);
  /** Impulses along normal and tangent, N s. */
  readonly normalImpulse = new Float64Array(MOST_CONTACTS);
  readonly tangentImpulse = new Float64Array(MOST_CONTACTS);
  /** Body the normal points to, and the other one or FIXED; the outline of the first that is touched. */
  readonly first = new Int32Array(MOST_CONTACTS);
  readonly second = new Int32Array(MOST_CONTACTS);
  readonly shape = new Int32Array(MOST_CONTACTS);
  readonly secondShape = new Int32Array(MOST_CONTACTS);
  readonly friction = new Float64Array(MOST_CONTACTS);
  /** Lever arms from both centres of mass, and the inverse effective masses along normal and tangent. */
  readonly firstX = new Float64Array(MOST_CONTACTS);
  readonly firstY = new Float64Array(MOST_CONTACTS);
  readonly secondX = new Float64Array(MOST_CONTACTS);
  readonly secondY = new Float64Array(MOST_CONTACTS);
  readonly normalMass = new Float64Array(MOST_CONTACTS);
  readonly tangentMass = new Float64Array(MOST_CONTACTS);
  private nowFirst = 0;
  private nowSecond = FIXED;
  private nowShape = 0;
  private nowSecondShape = 0;
  private nowFriction = 0;
  private readonly lastId = new Int32Array(MOST_CONTACTS);
  private readonly lastNormal = new Float64Array(MOST_CONTACTS);
  private readonly lastTangent = new Float64Array(MOST_CONTACTS);
  private lastCount = 0;

  begin(): void {
    this.lastCount = this.count;
    for (let i = 0; i < this.count; i += 1) {
      this.lastId[i] = this.id[i] as number;
      this.lastNormal[i] = this.normalImpulse[i] as number;
      this.lastTangent[i] = this.tangentImpulse[i] as number;
    }
    this.count = 0;
  }

  /** Drops all points and their impulses. */
  forget(): void {
    this.count = 0;
    this.lastCount = 0;
  }

  /** What the points added next are between. */
  between(first: number, shape: number, second: number, secondShape: number, friction: number): void {
    this.nowFirst = first;
    this.nowShape = shape;
    this.nowSecond = second;
    this.nowSecondShape = secondShape;
    this.nowFriction = friction;
  }

  add(id: number, x: number, y: number, nx: number, ny: number, gap: number): void {
    if (this.count >= MOST_CONTACTS) return;
    const i = this.count;
    this.id[i] = id;
    this.x[i] = x;
    this.y[i] = y;
    this.nx[i] = nx;
    this.ny[i] = ny;
    this.gap[i] = gap;
    this.first[i] = this.nowFirst;
    this.second[i] = this.nowSecond;
    this.shape[i] = this.nowShape;
    this.secondShape[i] = this.nowSecondShape;
    this.friction[i] = this.nowFriction;
    this.normalImpulse[i] = 0;
    this.tangentImpulse[i] = 0;
    for (let j = 0; j < this.lastCount; j += 1) {
      if (this.lastId[j] !== id) continue;
      this.normalImpulse[i] = this.lastNormal[j] as number;
      this.tangentImpulse[i] = this.lastTangent[j] as number;
      break;
    }
    this.count += 1;
  }
}

/**
 * Adds the contacts of the outline with one segment: separating axes (faces of the outline, and both sides of
 * the segment), then the points of the incident feature clipped to the reference one.
 *
 * @param px - world corners x of the outline, counter-clockwise; py likewise
 * @param base - first feature id this segment may use; it uses up to 64
 */
export function segmentContacts(
  px: Float64Array,
  py: Float64Array,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  base: number,
  set: ContactSet,
): void {
  const n = px.length;
  const sx = bx - ax;
  const sy = by - ay;
  const length = Math.sqrt(sx * sx + sy * sy);
  if (length < 1e-9) return;
  const tx = sx / length;
  const ty = sy / length;
  // Sides of the segment: the normal points to where the outline's middle is.
  let nx = -ty;
  let ny = tx;
  let mx = 0;
  let my = 0;
  for (let i = 0; i < n; i += 1) {
    mx += px[i] as number;
    my += py[i] as number;
  }
  if ((mx / n - ax) * nx + (my / n - ay) * ny < 0) {
    nx = -nx;
    ny = -ny;
  }
  let segmentGap = Number.POSITIVE_INFINITY;
  for (let i = 0; i < n; i += 1)
    segmentGap = Math.min(segmentGap, ((px[i] as number) - ax) * nx + ((py[i] as number) - ay) * ny);
  if (segmentGap > CONTACT_MARGIN_M) return;
  // Faces of the outline: how far the segment's nearer end is outside each.
  let faceGap = Number.NEGATIVE_INFINITY;
  let face = 0;
  for (let i = 0; i < n; i += 1) {
    const j = i + 1 === n ? 0 : i + 1;
    const ex = (px[j] as number) - (px[i] as number);
    const ey = (py[j] as number) - (py[i] as number);
    const size = Math.sqrt(ex * ex + ey * ey);
    const fx = ey / size;
    const fy = -ex / size;
    const gapA = (ax - (px[i] as number)) * fx + (ay - (py[i] as number)) * fy;
    const gapB = (bx - (px[i] as number)) * fx + (by - (py[i] as number)) * fy;
    const gap = Math.min(gapA, gapB);
    if (gap > CONTACT_MARGIN_M) return;
    if (gap > faceGap) {
      faceGap = gap;
      face = i;
    }
  }
  // Beyond an end of the segment no face or side separates, but a corner region may.
  if (faceGap <= segmentGap + 1e-4) {
    for (let i = 0; i < n; i += 1) {
      const x = px[i] as number;
      const y = py[i] as number;
      const along = (x - ax) * tx + (y - ay) * ty;
      const gap = (x - ax) * nx + (y - ay) * ny;
      if (gap <= CONTACT_MARGIN_M && along >= 0 && along <= length) set.add(base + i, x, y, nx, ny, gap);
    }
    return;
  }
  const j = face + 1 === n ? 0 : face + 1;
  const fxStart = px[face] as number;
  const fyStart = py[face] as number;
  const ex = (px[j] as number) - fxStart;
  const ey = (py[j] as number) - fyStart;
  const size = Math.sqrt(ex * ex + ey * ey);
  const outX = ey / size;
  const outY = -ex / size;
  for (let end = 0; end < 2; end += 1) {
    const x = end === 0 ? ax : bx;
    const y = end === 0 ? ay : by;
    const gap = (x - fxStart) * outX + (y - fyStart) * outY;
    const along = ((x - fxStart) * ex + (y - fyStart) * ey) / size;
    if (gap <= CONTACT_MARGIN_M && along >= -CONTACT_MARGIN_M && along <= size + CONTACT_MARGIN_M) {
      set.add(base + 32 + end, x, y, -outX, -outY, gap);
    }
  }
}

/** Adds the contact of the outline with a disc: from the nearest point of the outline to its centre. */
export function discContacts(px: Float64Array, py: Float64Array, disc: FixedDisc, base: number, set: ContactSet): void {
  const n = px.length;
  let best = Number.POSITIVE_INFINITY;
  let bestX = 0;
  let bestY = 0;
  let inside = true;
  for (let i = 0; i < n; i += 1) {
    const j = i + 1 === n ? 0 : i + 1;
    const x = px[i] as number;
    const y = py[i] as number;
    const ex = (px[j] as number) - x;
    const ey = (py[j] as number) - y;
    const t = Math.max(0, Math.min(1, ((disc.xM - x) * ex + (disc.yM - y) * ey) / (ex * ex + ey * ey)));
    const dx = x + t * ex - disc.xM;
    const dy = y + t * ey - disc.yM;
    const square = dx * dx + dy * dy;
    if (square < best) {
      best = square;
      bestX = dx;
      bestY = dy;
    }
    if (ex * (disc.yM - y) - ey * (disc.xM - x) < 0) inside = false;
  }
  const distance = Math.sqrt(best);
  const gap = (inside ? -distance : distance) - disc.radiusM;
  if (gap > CONTACT_MARGIN_M || distance < 1e-9) return;
  const sign = inside ? -1 : 1;
  set.add(base, disc.xM + bestX, disc.yM + bestY, (sign * bestX) / distance, (sign * bestY) / distance, gap);
}

/** Squared distance from a point to a segment, m². */
export function segmentDistanceSquare([ax, ay]: Point, [bx, by]: Point, x: number, y: number): number {
  const ex = bx - ax;
  const ey = by - ay;
  const square = ex * ex + ey * ey;
  const t = square > 0 ? Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / square)) : 0;
  const dx = ax + t * ex - x;
  const dy = ay + t * ey - y;
  return dx * dx + dy * dy;
}
