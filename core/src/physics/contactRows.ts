// Contact points as rows of the solver: no approach along the normal, friction along the tangent, last.
import type { Body, BodyShape } from "./body.js";
import { CONTACT_MOST_MS, CONTACT_PUSH, CONTACT_SLOP_M } from "./constants.js";
import type { ContactSet } from "./contacts.js";

/** Takes the points found in the middle of the step to rows: lever arms, masses, gaps at the step's start. */
export function prepareContacts(set: ContactSet, bodies: readonly Body[], half: number): void {
  for (let i = 0; i < set.count; i += 1) {
    const a = bodies[set.first[i] as number] as Body;
    const second = set.second[i] as number;
    const nx = set.nx[i] as number;
    const ny = set.ny[i] as number;
    const ax = (set.x[i] as number) - a.midX;
    const ay = (set.y[i] as number) - a.midY;
    set.firstX[i] = ax;
    set.firstY[i] = ay;
    const armN = ax * ny - ay * nx;
    const armT = ax * nx + ay * ny;
    let normal = a.inverseMass + armN * armN * a.inverseInertia;
    let tangent = a.inverseMass + armT * armT * a.inverseInertia;
    let vx = a.velocityX - a.turnRateRadS * ay;
    let vy = a.velocityY + a.turnRateRadS * ax;
    if (second >= 0) {
      const b = bodies[second] as Body;
      const bx = (set.x[i] as number) - b.midX;
      const by = (set.y[i] as number) - b.midY;
      set.secondX[i] = bx;
      set.secondY[i] = by;
      const armNb = bx * ny - by * nx;
      const armTb = bx * nx + by * ny;
      normal += b.inverseMass + armNb * armNb * b.inverseInertia;
      tangent += b.inverseMass + armTb * armTb * b.inverseInertia;
      vx -= b.velocityX - b.turnRateRadS * by;
      vy -= b.velocityY + b.turnRateRadS * bx;
    }
    set.normalMass[i] = 1 / normal;
    set.tangentMass[i] = 1 / tangent;
    // The gap was taken half a step ahead; the velocity aim counts from the start of the step.
    set.gap[i] = (set.gap[i] as number) - half * (vx * nx + vy * ny);
  }
}

function applyContact(set: ContactSet, i: number, bodies: readonly Body[], normal: number, tangent: number): void {
  const nx = set.nx[i] as number;
  const ny = set.ny[i] as number;
  const px = normal * nx - tangent * ny;
  const py = normal * ny + tangent * nx;
  (bodies[set.first[i] as number] as Body).push(set.firstX[i] as number, set.firstY[i] as number, px, py);
  const second = set.second[i] as number;
  if (second >= 0) (bodies[second] as Body).push(set.secondX[i] as number, set.secondY[i] as number, -px, -py);
}

/** Last step's impulses once more, as a start. */
export function warmContacts(set: ContactSet, bodies: readonly Body[]): void {
  for (let i = 0; i < set.count; i += 1)
    applyContact(set, i, bodies, set.normalImpulse[i] as number, set.tangentImpulse[i] as number);
}

/**
 * One round over all contacts.
 * @param pushing - whether overlaps push apart; the last rounds run without, so that no speed of it stays
 * @returns the largest change of an impulse, N s
 */
export function solveContacts(set: ContactSet, bodies: readonly Body[], dt: number, pushing: boolean): number {
  let change = 0;
  for (let i = 0; i < set.count; i += 1) {
    const a = bodies[set.first[i] as number] as Body;
    const second = set.second[i] as number;
    const b = second >= 0 ? (bodies[second] as Body) : null;
    const nx = set.nx[i] as number;
    const ny = set.ny[i] as number;
    const ax = set.firstX[i] as number;
    const ay = set.firstY[i] as number;
    const bx = set.secondX[i] as number;
    const by = set.secondY[i] as number;
    const gap = set.gap[i] as number;
    const push = pushing ? Math.min(CONTACT_MOST_MS, (CONTACT_PUSH * Math.max(0, -gap - CONTACT_SLOP_M)) / dt) : 0;
    const aim = gap > 0 ? -gap / dt : push;
    let vx = a.velocityX - a.turnRateRadS * ay;
    let vy = a.velocityY + a.turnRateRadS * ax;
    if (b) {
      vx -= b.velocityX - b.turnRateRadS * by;
      vy -= b.velocityY + b.turnRateRadS * bx;
    }
    const oldN = set.normalImpulse[i] as number;
    const newN = Math.max(0, oldN + (aim - (vx * nx + vy * ny)) * (set.normalMass[i] as number));
    applyContact(set, i, bodies, newN - oldN, 0);
    set.normalImpulse[i] = newN;
    vx = a.velocityX - a.turnRateRadS * ay;
    vy = a.velocityY + a.turnRateRadS * ax;
    if (b) {
      vx -= b.velocityX - b.turnRateRadS * by;
      vy -= b.velocityY + b.turnRateRadS * bx;
    }
    const oldT = set.tangentImpulse[i] as number;
    const limit = (set.friction[i] as number) * newN;
    const wanted = oldT - (vy * nx - vx * ny) * (set.tangentMass[i] as number);
    const newT = Math.max(-limit, Math.min(limit, wanted));
    applyContact(set, i, bodies, 0, newT - oldT);
    set.tangentImpulse[i] = newT;
    change = Math.max(change, Math.abs(newN - oldN), Math.abs(newT - oldT));
  }
  return change;
}

/** Pushes on each outline, N, and the moment with which bodies push each load over, N m. */
export function readForces(set: ContactSet, bodies: readonly Body[], dt: number): void {
  for (let k = 0; k < bodies.length; k += 1) {
    const { shapes } = bodies[k] as Body;
    (bodies[k] as Body).pushMomentNm = 0;
    for (let j = 0; j < shapes.length; j += 1) (shapes[j] as BodyShape).forceN = 0;
  }
  for (let i = 0; i < set.count; i += 1) {
    const force = (set.normalImpulse[i] as number) / dt;
    if (force === 0) continue;
    const a = bodies[set.first[i] as number] as Body;
    (a.shapes[set.shape[i] as number] as BodyShape).forceN += force;
    const second = set.second[i] as number;
    if (second < 0) continue;
    const b = bodies[second] as Body;
    const one = a.shapes[set.shape[i] as number] as BodyShape;
    const other = b.shapes[set.secondShape[i] as number] as BodyShape;
    other.forceN += force;
    // Flat on each other they meet, in the mean, halfway up where both are.
    const height = (Math.max(one.lowM, other.lowM) + Math.min(one.highM, other.highM)) / 2;
    a.pushMomentNm += force * height;
    b.pushMomentNm += force * height;
  }
}
