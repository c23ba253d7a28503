// What answers in a cone seen from above: exact geometry of faces and round things.
//
// Along a straight face at perpendicular distance h the distance at an angle a from its normal is h / cos a, so the
// nearest answer of a face lies at the angle nearest to its normal that is inside the cone, inside the face, and
// where the face still answers. A round thing answers square on everywhere; its nearest point lies toward its middle.
// What stands in front hides what is behind, also where it does not answer itself. The nearest point of all is taken
// first; only where something hides it is the cone cut at every edge, and each piece asked for what is nearest in it.
import { atan2, cos, PI, sin, TAU } from "../math/trig.js";

/** One thing that may answer. */
interface Thing {
  /** A face from a to b, or a round thing around a. */
  round: boolean;
  ax: number;
  ay: number;
  bx: number;
  by: number;
  radius: number;
  reflectance: number;
  /** Answers however slanted it is met. */
  rough: boolean;
  /** Which of the scene's things it is. */
  id: number;
  /** Angles it covers, against the middle of the cone, low < high, within the cone. */
  low: number;
  high: number;
  /** Distance along the normal, and the normal's angle against the middle; of round things of their middle. */
  near: number;
  normal: number;
  /** Nearest distance at which it would answer if nothing stood before it, and its angle. */
  best: number;
  bestAt: number;
}

export interface ConeAnswer {
  /** m; infinite for silence. */
  distance: number;
  reflectance: number;
  /** Where it lies, rad, left of the middle of the cone. */
  bearingRad: number;
  /** Which of the scene's things answered; -1 for none. */
  id: number;
}

/** Wraps to -π..π. */
function wrapped(angle: number): number {
  let a = angle;
  while (a > PI) a -= TAU;
  while (a < -PI) a += TAU;
  return a;
}

/** Angle within an interval nearest to a wanted one. */
function nearestWithin(low: number, high: number, wanted: number): number {
  return wanted < low ? low : Math.min(wanted, high);
}

const TINY = 1e-9;

export class Cone {
  private readonly things: Thing[] = [];
  private count = 0;
  private x = 0;
  private y = 0;
  private middle = 0;
  private half = 0;
  private far = 0;
  private silentRad = PI / 2;
  private readonly edges: number[] = [];

  /**
   * Begins a look.
   * @param middleRad - direction of its middle, world; coneRad - whole width
   * @param silentRad - faces met more slantingly than this against their normal do not answer
   */
  begin(x: number, y: number, middleRad: number, coneRad: number, farM: number, silentRad: number): void {
    this.count = 0;
    this.x = x;
    this.y = y;
    this.middle = middleRad;
    this.half = coneRad / 2;
    this.far = farM;
    this.silentRad = silentRad;
  }

  private next(): Thing {
    let thing = this.things[this.count];
    if (!thing) {
      thing = {
        round: false,
        ax: 0,
        ay: 0,
        bx: 0,
        by: 0,
        radius: 0,
        reflectance: 0,
        rough: false,
        id: 0,
        low: 0,
        high: 0,
        near: 0,
        normal: 0,
        best: 0,
        bestAt: 0,
      };
      this.things.push(thing);
    }
    return thing;
  }

  /** A straight face; left out when no part of it lies in the cone. */
  face(ax: number, ay: number, bx: number, by: number, reflectance: number, rough: boolean, id: number): void {
    const fromX = ax - this.x;
    const fromY = ay - this.y;
    const alongX = bx - ax;
    const alongY = by - ay;
    const length = Math.sqrt(alongX * alongX + alongY * alongY);
    if (length < TINY) return;
    // Foot of the perpendicular: its distance, and the normal toward the face.
    const across = (fromX * alongY - fromY * alongX) / length;
    const near = Math.abs(across);
    if (near > this.far) return;
    const a = wrapped(atan2(fromY, fromX) - this.middle);
    let span = wrapped(atan2(by - this.y, bx - this.x) - this.middle - a);
    if (Math.abs(span) < TINY) span = 0;
    // The face covers the angles from one end to the other, the short way round.
    let low = span >= 0 ? a : a + span;
    let high = span >= 0 ? a + span : a;
    if (low > this.half) {
      low -= TAU;
      high -= TAU;
    } else if (high < -this.half) {
      low += TAU;
      high += TAU;
    }
    low = Math.max(low, -this.half);
    high = Math.min(high, this.half);
    if (low > high || near < TINY) return;
    const sign = across >= 0 ? 1 : -1;
    const thing = this.next();
    thing.round = false;
    thing.ax = ax;
    thing.ay = ay;
    thing.bx = bx;
    thing.by = by;
    thing.reflectance = reflectance;
    thing.rough = rough;
    thing.id = id;
    thing.low = low;
    thing.high = high;
    thing.near = near;
    thing.normal = wrapped(atan2(-sign * alongX, sign * alongY) - this.middle);
    this.closest(thing, low, high);
    this.count += 1;
  }

  /** A round thing; answers from everywhere. */
  disc(cx: number, cy: number, radius: number, reflectance: number, id: number): void {
    const dx = cx - this.x;
    const dy = cy - this.y;
    const distance = Math.sqrt(dx * dx + dy * dy);
    if (distance - radius > this.far) return;
    const middle = wrapped(atan2(dy, dx) - this.middle);
    const reach = distance <= radius ? PI : asin(radius / distance);
    const low = Math.max(middle - reach, -this.half);
    const high = Math.min(middle + reach, this.half);
    if (low > high) return;
    const thing = this.next();
    thing.round = true;
    thing.ax = cx;
    thing.ay = cy;
    thing.radius = radius;
    thing.reflectance = reflectance;
    thing.rough = true;
    thing.id = id;
    thing.low = low;
    thing.high = high;
    thing.near = distance;
    thing.normal = middle;
    this.closest(thing, low, high);
    this.count += 1;
  }

  /** Where a thing answers nearest within some angles; infinite where it is silent on all of them. */
  private closest(thing: Thing, low: number, high: number): void {
    let from = low;
    let to = high;
    if (!thing.rough) {
      from = Math.max(from, thing.normal - this.silentRad);
      to = Math.min(to, thing.normal + this.silentRad);
    }
    if (from > to) {
      thing.best = Number.POSITIVE_INFINITY;
      thing.bestAt = 0;
      return;
    }
    thing.bestAt = nearestWithin(from, to, thing.normal);
    thing.best = this.distanceAt(thing, thing.bestAt);
  }

  /** Distance to a thing along a direction it covers. */
  private distanceAt(thing: Thing, angle: number): number {
    const off = angle - thing.normal;
    if (!thing.round) {
      const c = cos(off);
      return c > TINY ? thing.near / c : Number.POSITIVE_INFINITY;
    }
    const across = thing.near * sin(off);
    const inside = thing.radius * thing.radius - across * across;
    const t = thing.near * cos(off) - Math.sqrt(Math.max(0, inside));
    return Math.max(t, 0);
  }

  /**
   * The nearest answer.
   * @param reach - largest distance at which a thing of a shade is noticed; null takes the far limit for all
   */
  answer(into: ConeAnswer, reach: ((reflectance: number) => number) | null = null): void {
    into.distance = Number.POSITIVE_INFINITY;
    into.reflectance = 0;
    into.bearingRad = 0;
    into.id = -1;
    let first: Thing | null = null;
    for (let i = 0; i < this.count; i += 1) {
      const thing = this.things[i] as Thing;
      if (thing.best < (first?.best ?? Number.POSITIVE_INFINITY) && this.noticed(thing, thing.best, reach))
        first = thing;
    }
    if (!first) return;
    if (!this.hidden(first)) {
      this.take(first, into);
      return;
    }
    this.sweep(into, reach);
  }

  private noticed(thing: Thing, distance: number, reach: ((reflectance: number) => number) | null): boolean {
    return distance <= (reach ? reach(thing.reflectance) : this.far);
  }

  private take(thing: Thing, into: ConeAnswer): void {
    into.distance = thing.best;
    into.bearingRad = thing.bestAt;
    into.reflectance = thing.reflectance;
    into.id = thing.id;
  }

  /** Whether something stands before the nearest point of a thing. */
  private hidden(thing: Thing): boolean {
    const { best, bestAt } = thing;
    for (let i = 0; i < this.count; i += 1) {
      const other = this.things[i] as Thing;
      if (other === thing || bestAt < other.low || bestAt > other.high) continue;
      if (this.distanceAt(other, bestAt) < best - TINY) return true;
    }
    return false;
  }

  /** Cuts the cone at every edge: in each piece one thing is nearest, all over it. */
  private sweep(into: ConeAnswer, reach: ((reflectance: number) => number) | null): void {
    const { edges } = this;
    edges.length = 0;
    for (let i = 0; i < this.count; i += 1) {
      const thing = this.things[i] as Thing;
      edges.push(thing.low, thing.high);
      for (let k = 0; k < i; k += 1) this.crossings(thing, this.things[k] as Thing);
    }
    edges.sort((p, q) => p - q);
    for (let i = 0; i + 1 < edges.length; i += 1) {
      const low = edges[i] as number;
      const high = edges[i + 1] as number;
      if (high - low < TINY) continue;
      const seen = this.nearestAt((low + high) / 2);
      if (!seen) continue;
      const { best, bestAt } = seen;
      this.closest(seen, low, high);
      if (seen.best < into.distance && this.noticed(seen, seen.best, reach)) this.take(seen, into);
      seen.best = best;
      seen.bestAt = bestAt;
    }
  }

  private nearestAt(angle: number): Thing | null {
    let found: Thing | null = null;
    let distance = Number.POSITIVE_INFINITY;
    for (let i = 0; i < this.count; i += 1) {
      const thing = this.things[i] as Thing;
      if (angle < thing.low || angle > thing.high) continue;
      const d = this.distanceAt(thing, angle);
      if (d >= distance) continue;
      distance = d;
      found = thing;
    }
    return found;
  }

  /** Angles at which two things lie at the same distance: where they cross. */
  private crossings(one: Thing, other: Thing): void {
    if (one.low > other.high || other.low > one.high) return;
    if (one.round && other.round) return this.cut(this.discDisc(one, other));
    if (one.round) return this.cut(lineDisc(other, one));
    if (other.round) return this.cut(lineDisc(one, other));
    this.cut(lineLine(one, other));
  }

  private cut(points: readonly (readonly [number, number])[]): void {
    for (const [px, py] of points) {
      const angle = wrapped(atan2(py - this.y, px - this.x) - this.middle);
      if (angle > -this.half && angle < this.half) this.edges.push(angle);
    }
  }

  private discDisc(one: Thing, other: Thing): [number, number][] {
    const dx = other.ax - one.ax;
    const dy = other.ay - one.ay;
    const d = Math.sqrt(dx * dx + dy * dy);
    if (d < TINY || d > one.radius + other.radius || d < Math.abs(one.radius - other.radius)) return [];
    const along = (d * d + one.radius * one.radius - other.radius * other.radius) / (2 * d);
    const across = Math.sqrt(Math.max(0, one.radius * one.radius - along * along));
    const mx = one.ax + (along * dx) / d;
    const my = one.ay + (along * dy) / d;
    return [
      [mx - (across * dy) / d, my + (across * dx) / d],
      [mx + (across * dy) / d, my - (across * dx) / d],
    ];
  }
}

function lineLine(one: Thing, other: Thing): [number, number][] {
  const ex = one.bx - one.ax;
  const ey = one.by - one.ay;
  const fx = other.bx - other.ax;
  const fy = other.by - other.ay;
  const cross = ex * fy - ey * fx;
  if (Math.abs(cross) < 1e-12) return [];
  const t = ((other.ax - one.ax) * fy - (other.ay - one.ay) * fx) / cross;
  return [[one.ax + t * ex, one.ay + t * ey]];
}

function lineDisc(face: Thing, disc: Thing): [number, number][] {
  const ex = face.bx - face.ax;
  const ey = face.by - face.ay;
  const length = ex * ex + ey * ey;
  const ox = face.ax - disc.ax;
  const oy = face.ay - disc.ay;
  const b = ex * ox + ey * oy;
  const inside = b * b - length * (ox * ox + oy * oy - disc.radius * disc.radius);
  if (inside < 0) return [];
  const root = Math.sqrt(inside);
  return [(-b - root) / length, (-b + root) / length].map((t): [number, number] => [
    face.ax + t * ex,
    face.ay + t * ey,
  ]);
}

/** Arcsine by the arctangent: the core's own trigonometry has no other. */
function asin(value: number): number {
  const v = Math.min(1, Math.max(-1, value));
  return atan2(v, Math.sqrt(Math.max(0, 1 - v * v)));
}
