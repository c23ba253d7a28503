// Contact points between outlines: polygon, disc and segment in every pairing. Normals point towards the first
// of the pair. Points carry a feature id, so that last step's impulse starts this step's solve.
import { CONTACT_MARGIN_M } from "./constants.js";
import type { ContactSet } from "./contacts.js";

/** Face of polygon A that separates it best from polygon B, and how far. */
interface Separation {
  face: number;
  gap: number;
}

function bestFace(ax: Float64Array, ay: Float64Array, bx: Float64Array, by: Float64Array, out: Separation): void {
  out.gap = Number.NEGATIVE_INFINITY;
  const n = ax.length;
  for (let i = 0; i < n; i += 1) {
    const j = i + 1 === n ? 0 : i + 1;
    const x = ax[i] as number;
    const y = ay[i] as number;
    const ex = (ax[j] as number) - x;
    const ey = (ay[j] as number) - y;
    const size = Math.sqrt(ex * ex + ey * ey);
    const nx = ey / size;
    const ny = -ex / size;
    let least = Number.POSITIVE_INFINITY;
    for (let k = 0; k < bx.length; k += 1)
      least = Math.min(least, ((bx[k] as number) - x) * nx + ((by[k] as number) - y) * ny);
    if (least > out.gap) {
      out.gap = least;
      out.face = i;
    }
    if (least > CONTACT_MARGIN_M) return;
  }
}

const ofA: Separation = { face: 0, gap: 0 };
const ofB: Separation = { face: 0, gap: 0 };

/**
 * Two convex polygons, counter-clockwise world corners: separating axes, then the incident face clipped to the
 * reference one. @param base - first feature id; up to 64 are used
 */
export function polygonContacts(
  ax: Float64Array,
  ay: Float64Array,
  bx: Float64Array,
  by: Float64Array,
  base: number,
  set: ContactSet,
): void {
  bestFace(ax, ay, bx, by, ofA);
  if (ofA.gap > CONTACT_MARGIN_M) return;
  bestFace(bx, by, ax, ay, ofB);
  if (ofB.gap > CONTACT_MARGIN_M) return;
  // Keep to A's face unless B's is clearly better, so that the choice does not flicker.
  if (ofA.gap >= ofB.gap - 1e-4) clip(ax, ay, ofA.face, bx, by, -1, base, set);
  else clip(bx, by, ofB.face, ax, ay, 1, base + 32, set);
}

/** @param sign - 1 when the reference face's outward normal points towards the first body of the pair */
function clip(
  rx: Float64Array,
  ry: Float64Array,
  face: number,
  ix: Float64Array,
  iy: Float64Array,
  sign: number,
  base: number,
  set: ContactSet,
): void {
  const j = face + 1 === rx.length ? 0 : face + 1;
  const x0 = rx[face] as number;
  const y0 = ry[face] as number;
  const ex = (rx[j] as number) - x0;
  const ey = (ry[j] as number) - y0;
  const size = Math.sqrt(ex * ex + ey * ey);
  const tx = ex / size;
  const ty = ey / size;
  const nx = ty;
  const ny = -tx;
  // Incident face: the one that looks most against the normal.
  let incident = 0;
  let least = Number.POSITIVE_INFINITY;
  const n = ix.length;
  for (let i = 0; i < n; i += 1) {
    const k = i + 1 === n ? 0 : i + 1;
    const fx = (ix[k] as number) - (ix[i] as number);
    const fy = (iy[k] as number) - (iy[i] as number);
    const along = (fy * nx - fx * ny) / Math.sqrt(fx * fx + fy * fy);
    if (along < least) {
      least = along;
      incident = i;
    }
  }
  const k = incident + 1 === n ? 0 : incident + 1;
  let px = ix[incident] as number;
  let py = iy[incident] as number;
  let qx = ix[k] as number;
  let qy = iy[k] as number;
  let p = (px - x0) * tx + (py - y0) * ty;
  let q = (qx - x0) * tx + (qy - y0) * ty;
  if (Math.max(p, q) < -CONTACT_MARGIN_M || Math.min(p, q) > size + CONTACT_MARGIN_M) return;
  const span = q - p;
  if (Math.abs(span) > 1e-9) {
    // Both ends cut to the length of the reference face; beside it, only the end nearest to it is left.
    const first = Math.min(p, q);
    const last = Math.max(p, q);
    const low = Math.min(last, Math.max(first, 0));
    const high = Math.max(first, Math.min(last, size));
    const lowP = Math.max(low, Math.min(high, p));
    const lowQ = Math.max(low, Math.min(high, q));
    const dx = (qx - px) / span;
    const dy = (qy - py) / span;
    qx = px + dx * (lowQ - p);
    qy = py + dy * (lowQ - p);
    px += dx * (lowP - p);
    py += dy * (lowP - p);
    p = lowP;
    q = lowQ;
  }
  const gapP = (px - x0) * nx + (py - y0) * ny;
  const gapQ = (qx - x0) * nx + (qy - y0) * ny;
  if (gapP <= CONTACT_MARGIN_M) set.add(base + incident, px, py, sign * nx, sign * ny, gapP);
  if (gapQ <= CONTACT_MARGIN_M && Math.abs(q - p) > 1e-6)
    set.add(base + 16 + incident, qx, qy, sign * nx, sign * ny, gapQ);
}

/** Two discs. */
export function discPairContacts(
  ax: number,
  ay: number,
  radiusA: number,
  bx: number,
  by: number,
  radiusB: number,
  base: number,
  set: ContactSet,
): void {
  const dx = ax - bx;
  const dy = ay - by;
  const distance = Math.sqrt(dx * dx + dy * dy);
  const gap = distance - radiusA - radiusB;
  if (gap > CONTACT_MARGIN_M || distance < 1e-9) return;
  const nx = dx / distance;
  const ny = dy / distance;
  set.add(base, bx + nx * radiusB, by + ny * radiusB, nx, ny, gap);
}

/** A disc (first) with a segment. */
export function discSegmentContacts(
  x: number,
  y: number,
  radius: number,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  base: number,
  set: ContactSet,
): void {
  const ex = bx - ax;
  const ey = by - ay;
  const square = ex * ex + ey * ey;
  const t = square > 0 ? Math.max(0, Math.min(1, ((x - ax) * ex + (y - ay) * ey) / square)) : 0;
  discPairContacts(x, y, radius, ax + t * ex, ay + t * ey, 0, base, set);
}
