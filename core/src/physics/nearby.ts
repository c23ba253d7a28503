// Which pairs of things may touch in this step: fixed things near each moving body, and bodies near each other.
import type { Point } from "../geometry/pose.js";
import type { Body, BodyShape } from "./body.js";
import { discPairContacts, discSegmentContacts, polygonContacts } from "./collide.js";
import { CONTACT_MARGIN_M } from "./constants.js";
import { type ContactSet, discContacts, FIXED, segmentContacts, segmentDistanceSquare } from "./contacts.js";
import type { FixedDisc, WorldSpec } from "./parts.js";

/** A body's list of near things is made anew after it moved this far, m. */
const REFRESH_M = 0.02;

function refresh(body: Body, spec: WorldSpec): void {
  const { segments, discs } = spec;
  const { midX: x, midY: y } = body;
  const reach = body.boundM + REFRESH_M + 0.03;
  body.nearX = x;
  body.nearY = y;
  body.near.length = 0;
  for (let i = 0; i < segments.length; i += 1) {
    const [a, b] = segments[i] as readonly [Point, Point];
    if (segmentDistanceSquare(a, b, x, y) < reach * reach) body.near.push(i);
  }
  for (let i = 0; i < discs.length; i += 1) {
    const disc = discs[i] as FixedDisc;
    const span = reach + disc.radiusM;
    if ((disc.xM - x) ** 2 + (disc.yM - y) ** 2 < span * span) body.near.push(segments.length + i);
  }
}

/** Numbers of the things that an outline can meet: fixed ones first, then the outlines of bodies. */
export const THINGS = 32_768;
const FIRST_BODY = 24_576;

/** Feature ids of one pair of outlines start here: 64 for each. */
function firstId(body: number, shape: number, other: number): number {
  return ((body * 8 + shape) * THINGS + other) * 64;
}

/** Contacts of one body, in world coordinates for this step, with the fixed things near it. */
export function fixedContacts(index: number, body: Body, spec: WorldSpec, set: ContactSet): void {
  const { segments, discs } = spec;
  if (segments.length + discs.length === 0) return;
  const dx = body.midX - body.nearX;
  const dy = body.midY - body.nearY;
  if (!(dx * dx + dy * dy < REFRESH_M * REFRESH_M)) refresh(body, spec);
  if (body.near.length === 0) return;
  const friction = body.load ? body.load.friction : spec.wallFriction;
  for (let k = 0; k < body.shapes.length; k += 1) {
    const shape = body.shapes[k] as BodyShape;
    set.between(index, k, FIXED, 0, friction);
    for (let n = 0; n < body.near.length; n += 1) {
      const thing = body.near[n] as number;
      const id = firstId(index, k, thing);
      if (thing < segments.length) {
        if (shape.lowM >= (spec.segmentHeightsM?.[thing] ?? Number.POSITIVE_INFINITY)) continue;
        const [a, b] = segments[thing] as readonly [Point, Point];
        if (shape.radiusM > 0)
          discSegmentContacts(body.midX, body.midY, shape.radiusM, a[0], a[1], b[0], b[1], id, set);
        else segmentContacts(shape.worldX, shape.worldY, a[0], a[1], b[0], b[1], id, set);
        continue;
      }
      const disc = discs[thing - segments.length] as FixedDisc;
      if (shape.lowM >= (disc.heightM ?? Number.POSITIVE_INFINITY)) continue;
      if (shape.radiusM > 0)
        discPairContacts(body.midX, body.midY, shape.radiusM, disc.xM, disc.yM, disc.radiusM, id, set);
      else discContacts(shape.worldX, shape.worldY, disc, id, set);
    }
  }
}

/** Whether two bodies are near enough to look at their outlines. */
export function mayTouch(a: Body, b: Body): boolean {
  const reach = a.boundM + b.boundM + CONTACT_MARGIN_M;
  const dx = a.midX - b.midX;
  const dy = a.midY - b.midY;
  return dx * dx + dy * dy < reach * reach;
}

/** Contacts between two bodies. @returns how many were added */
export function pairContacts(i: number, a: Body, j: number, b: Body, friction: number, set: ContactSet): number {
  const before = set.count;
  for (let k = 0; k < a.shapes.length; k += 1) {
    const one = a.shapes[k] as BodyShape;
    for (let m = 0; m < b.shapes.length; m += 1) {
      const other = b.shapes[m] as BodyShape;
      if (one.under || other.under || one.lowM >= other.highM || other.lowM >= one.highM) continue;
      const id = firstId(i, k, FIRST_BODY + j * 8 + m);
      set.between(i, k, j, m, friction);
      if (one.radiusM > 0 && other.radiusM > 0)
        discPairContacts(a.midX, a.midY, one.radiusM, b.midX, b.midY, other.radiusM, id, set);
      else if (other.radiusM > 0)
        discContacts(one.worldX, one.worldY, { xM: b.midX, yM: b.midY, radiusM: other.radiusM }, id, set);
      else if (one.radiusM > 0) {
        set.between(j, m, i, k, friction);
        discContacts(other.worldX, other.worldY, { xM: a.midX, yM: a.midY, radiusM: one.radiusM }, id, set);
      } else polygonContacts(one.worldX, one.worldY, other.worldX, other.worldY, id, set);
    }
  }
  return set.count - before;
}
