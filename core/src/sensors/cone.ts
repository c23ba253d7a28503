// What answers in a cone seen from above: exact geometry of faces and round things.
//
// A straight face at perpendicular distance h is nearest at the foot of its perpendicular, and u along it from there the
// distance is the root of h² + u². What of it answers is an interval of u: between its ends, between the edges of the
// cone, and within h tan(slant) of the foot, where it is still met squarely enough. A round thing answers from
// everywhere; its nearest point lies toward its middle, or on the edge of the cone.
// What stands in front hides what is behind, also where it does not answer itself. The nearest point of all is taken
// first; only where something hides it is the cone cut at every edge, and each piece asked for what is nearest in it.
import { atan2, cos, PI, sin, tan } from "../math/trig.js";

/** One thing that may answer. */
interface Thing {
  round: boolean;
  reflectance: number;
  /** Answers however slanted it is met. */
  rough: boolean;
  /** Which of the scene's things it is. */
  id: number;
  /** Of a face: unit normal from the eye to it, and its distance. Of a round thing: its middle from the eye. */
  nx: number;
  ny: number;
  near: number;
  radius: number;
  /** Of a face: its ends, m along it from the foot, left positive. */
  low: number;
  high: number;
  /** Nearest distance at which it would answer if nothing stood before it, and the direction there. */
  best: number;
  bestX: number;
  bestY: number;
  /** The angles it covers against the middle of the cone, low < high: worked out only when the cone is cut. */
  fromRad: number;
  toRad: number;
  normalRad: number;
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

const TINY = 1e-9;
/** What shows under a smaller angle than this is none of it, rad: two thousandths of a millimetre at two metres. */
const SLIVER = 1e-6;
const NOTHING = Number.POSITIVE_INFINITY;

function newThing(): Thing {
  return {
    round: false,
    reflectance: 0,
    rough: false,
    id: 0,
    nx: 0,
    ny: 0,
    near: 0,
    radius: 0,
    low: 0,
    high: 0,
    best: 0,
    bestX: 0,
    bestY: 0,
    fromRad: 0,
    toRad: 0,
    normalRad: 0,
  };
}

export class Cone {
  private readonly things: Thing[] = [];
  private count = 0;
  private x = 0;
  private y = 0;
  private half = 0;
  private far = 0;
  private silentTan = 0;
  /** Unit vectors of its middle and its edges. */
  private aheadX = 1;
  private aheadY = 0;
  private leftX = 1;
  private leftY = 0;
  private rightX = 1;
  private rightY = 0;
  private readonly edges: number[] = [];

  /**
   * Begins a look.
   * @param middleRad - direction of its middle, world; coneRad - whole width, less than π
   * @param silentRad - faces met more slantingly than this against their normal do not answer
   */
  begin(x: number, y: number, middleRad: number, coneRad: number, farM: number, silentRad: number): void {
    this.count = 0;
    this.x = x;
    this.y = y;
    this.half = coneRad / 2;
    this.far = farM;
    this.silentTan = silentRad >= PI / 2 - 1e-6 ? NOTHING : tan(silentRad);
    const c = cos(middleRad);
    const s = sin(middleRad);
    const ch = cos(this.half);
    const sh = sin(this.half);
    this.aheadX = c;
    this.aheadY = s;
    this.leftX = c * ch - s * sh;
    this.leftY = s * ch + c * sh;
    this.rightX = c * ch + s * sh;
    this.rightY = s * ch - c * sh;
  }

  private next(): Thing {
    let thing = this.things[this.count];
    if (!thing) {
      thing = newThing();
      this.things.push(thing);
    }
    return thing;
  }

  /** A straight face; left out when no part of it lies in the cone. */
  face(ax: number, ay: number, bx: number, by: number, reflectance: number, rough: boolean, id: number): void {
    const { leftX, leftY, rightX, rightY } = this;
    const fromX = ax - this.x;
    const fromY = ay - this.y;
    const toX = bx - this.x;
    const toY = by - this.y;
    // Both ends beyond the same edge, or both behind.
    if (leftX * fromY - leftY * fromX > 0 && leftX * toY - leftY * toX > 0) return;
    if (rightX * fromY - rightY * fromX < 0 && rightX * toY - rightY * toX < 0) return;
    const { aheadX, aheadY } = this;
    if (aheadX * fromX + aheadY * fromY < 0 && aheadX * toX + aheadY * toY < 0) return;
    const alongX = bx - ax;
    const alongY = by - ay;
    const length = Math.sqrt(alongX * alongX + alongY * alongY);
    if (length < TINY) return;
    const across = (fromX * alongY - fromY * alongX) / length;
    const near = Math.abs(across);
    if (near > this.far || near < TINY) return;
    const turn = across >= 0 ? 1 / length : -1 / length;
    const nx = turn * alongY;
    const ny = -turn * alongX;
    // Along the face, to the left as seen from the eye.
    const tx = -ny;
    const ty = nx;
    const a = fromX * tx + fromY * ty;
    const b = toX * tx + toY * ty;
    // The part inside the cone.
    let low = Math.min(a, b);
    let high = Math.max(a, b);
    const leftN = leftX * nx + leftY * ny;
    const rightN = rightX * nx + rightY * ny;
    if (leftN > TINY) high = Math.min(high, (near * (leftX * tx + leftY * ty)) / leftN);
    else if (leftX * tx + leftY * ty < 0) return;
    if (rightN > TINY) low = Math.max(low, (near * (rightX * tx + rightY * ty)) / rightN);
    else if (rightX * tx + rightY * ty > 0) return;
    if (high - low < SLIVER * near) return;
    const thing = this.next();
    thing.round = false;
    thing.reflectance = reflectance;
    thing.rough = rough;
    thing.id = id;
    thing.nx = nx;
    thing.ny = ny;
    thing.near = near;
    thing.low = Math.min(a, b);
    thing.high = Math.max(a, b);
    this.closestOfFace(thing, low, high);
    this.count += 1;
  }

  /** Where a face answers nearest on a part of it; infinite where it is silent on all of that. */
  private closestOfFace(thing: Thing, low: number, high: number): void {
    const { near, nx, ny } = thing;
    const reach = thing.rough ? NOTHING : near * this.silentTan;
    const from = Math.max(low, -reach);
    const to = Math.min(high, reach);
    if (to - from < SLIVER * near) {
      thing.best = NOTHING;
      return;
    }
    const u = Math.min(to, Math.max(from, 0));
    const distance = Math.sqrt(near * near + u * u);
    thing.best = distance;
    thing.bestX = (near * nx - u * ny) / distance;
    thing.bestY = (near * ny + u * nx) / distance;
  }

  /** A round thing; answers from everywhere. */
  disc(cx: number, cy: number, radius: number, reflectance: number, id: number): void {
    const dx = cx - this.x;
    const dy = cy - this.y;
    const square = dx * dx + dy * dy;
    const reach = this.far + radius;
    if (square > reach * reach) return;
    const distance = Math.sqrt(square);
    const overLeft = this.leftX * dy - this.leftY * dx;
    const overRight = this.rightX * dy - this.rightY * dx;
    const ahead = this.aheadX * dx + this.aheadY * dy;
    let best: number;
    let bestX = this.aheadX;
    let bestY = this.aheadY;
    if (distance <= radius) best = 0;
    else if (overLeft <= 0 && overRight >= 0 && ahead > 0) {
      best = distance - radius;
      bestX = dx / distance;
      bestY = dy / distance;
    } else {
      // Its middle lies outside: it reaches in over the edge on its side, or not at all.
      const left = this.aheadX * dy - this.aheadY * dx > 0;
      bestX = left ? this.leftX : this.rightX;
      bestY = left ? this.leftY : this.rightY;
      best = rayDisc(bestX, bestY, dx, dy, radius);
      if (best === NOTHING) return;
    }
    const thing = this.next();
    thing.round = true;
    thing.reflectance = reflectance;
    thing.rough = true;
    thing.id = id;
    thing.nx = dx;
    thing.ny = dy;
    thing.near = distance;
    thing.radius = radius;
    thing.best = best;
    thing.bestX = bestX;
    thing.bestY = bestY;
    this.count += 1;
  }

  /**
   * The nearest answer.
   * @param reach - largest distance at which a thing of a shade is noticed; null takes the far limit for all
   */
  answer(into: ConeAnswer, reach: ((reflectance: number) => number) | null = null): void {
    into.distance = NOTHING;
    into.reflectance = 0;
    into.bearingRad = 0;
    into.id = -1;
    let first: Thing | null = null;
    for (let i = 0; i < this.count; i += 1) {
      const thing = this.things[i] as Thing;
      if (thing.best < (first?.best ?? NOTHING) && this.noticed(thing, thing.best, reach)) first = thing;
    }
    if (!first) return;
    if (this.hidden(first)) this.sweep(into, reach);
    else this.take(first, first.best, this.bearing(first.bestX, first.bestY), into);
  }

  private noticed(thing: Thing, distance: number, reach: ((reflectance: number) => number) | null): boolean {
    return distance <= (reach ? reach(thing.reflectance) : this.far);
  }

  private take(thing: Thing, distance: number, bearingRad: number, into: ConeAnswer): void {
    into.distance = distance;
    into.reflectance = thing.reflectance;
    into.bearingRad = bearingRad;
    into.id = thing.id;
  }

  /** Angle of a direction against the middle of the cone, left positive. */
  private bearing(x: number, y: number): number {
    return atan2(this.aheadX * y - this.aheadY * x, this.aheadX * x + this.aheadY * y);
  }

  /** Whether something stands before the nearest point of a thing. */
  private hidden({ best, bestX, bestY }: Thing): boolean {
    for (let i = 0; i < this.count; i += 1)
      if (distanceAlong(this.things[i] as Thing, bestX, bestY) < best - TINY) return true;
    return false;
  }

  /** Cuts the cone at every edge: in each piece one thing is nearest, all over it. */
  private sweep(into: ConeAnswer, reach: ((reflectance: number) => number) | null): void {
    const { edges, half } = this;
    edges.length = 0;
    for (let i = 0; i < this.count; i += 1) {
      const thing = this.things[i] as Thing;
      this.cover(thing);
      edges.push(Math.max(-half, thing.fromRad), Math.min(half, thing.toRad));
      for (let k = 0; k < i; k += 1) this.crossings(thing, this.things[k] as Thing);
    }
    edges.sort((p, q) => p - q);
    for (let i = 0; i + 1 < edges.length; i += 1) {
      const low = edges[i] as number;
      const high = edges[i + 1] as number;
      if (high - low >= SLIVER) this.piece(low, high, into, reach);
    }
  }

  /** The angles a thing covers, against the middle of the cone. */
  private cover(thing: Thing): void {
    const { near, low, high, radius } = thing;
    thing.normalRad = this.bearing(thing.nx, thing.ny);
    if (thing.round) {
      const reach = near <= radius ? PI : atan2(radius, Math.sqrt(near * near - radius * radius));
      thing.fromRad = thing.normalRad - reach;
      thing.toRad = thing.normalRad + reach;
    } else {
      thing.fromRad = thing.normalRad + atan2(low, near);
      thing.toRad = thing.normalRad + atan2(high, near);
    }
  }

  /** Between two edges: what is nearest in the middle is so all over, and answers nearest where it lies nearest. */
  private piece(low: number, high: number, into: ConeAnswer, reach: ((reflectance: number) => number) | null): void {
    const middle = (low + high) / 2;
    const x = this.aheadX * cos(middle) - this.aheadY * sin(middle);
    const y = this.aheadY * cos(middle) + this.aheadX * sin(middle);
    let seen: Thing | null = null;
    let distance = NOTHING;
    for (let i = 0; i < this.count; i += 1) {
      const d = distanceAlong(this.things[i] as Thing, x, y);
      if (d >= distance) continue;
      distance = d;
      seen = this.things[i] as Thing;
    }
    if (!seen) return;
    const silent = seen.rough ? PI : this.silentTan === NOTHING ? PI / 2 : atan2(this.silentTan, 1);
    const from = Math.max(low, seen.normalRad - silent);
    const to = Math.min(high, seen.normalRad + silent);
    if (to - from < SLIVER) return;
    const at = Math.min(to, Math.max(from, seen.normalRad));
    const nearest = nearestAt(seen, at);
    if (nearest < into.distance && this.noticed(seen, nearest, reach)) this.take(seen, nearest, at, into);
  }

  /** Angles at which two things lie at the same distance: where they cross. */
  private crossings(one: Thing, other: Thing): void {
    if (one.fromRad > other.toRad || other.fromRad > one.toRad) return;
    if (one.round && other.round) return this.cut(discDisc(one, other));
    if (one.round) return this.cut(faceDisc(other, one));
    if (other.round) return this.cut(faceDisc(one, other));
    this.cut(faceFace(one, other));
  }

  private cut(points: readonly (readonly [number, number])[]): void {
    for (const [px, py] of points) {
      const angle = this.bearing(px, py);
      if (angle > -this.half && angle < this.half) this.edges.push(angle);
    }
  }
}

/** Distance to a round thing along a unit direction; infinite when it passes by. */
function rayDisc(x: number, y: number, cx: number, cy: number, radius: number): number {
  const along = cx * x + cy * y;
  const across = cx * y - cy * x;
  const inside = radius * radius - across * across;
  if (inside < 0) return NOTHING;
  const t = along - Math.sqrt(inside);
  return t >= 0 ? t : along + Math.sqrt(inside) >= 0 ? 0 : NOTHING;
}

/** Distance to a thing along a unit direction inside the cone; infinite when it passes by. */
function distanceAlong(thing: Thing, x: number, y: number): number {
  const { nx, ny, near } = thing;
  if (thing.round) return rayDisc(x, y, nx, ny, thing.radius);
  const toward = x * nx + y * ny;
  if (toward < TINY) return NOTHING;
  const u = (near * (y * nx - x * ny)) / toward;
  return u >= thing.low && u <= thing.high ? near / toward : NOTHING;
}

/** Distance to a thing at an angle that it covers. */
function nearestAt(thing: Thing, at: number): number {
  const off = at - thing.normalRad;
  if (!thing.round) return thing.near / Math.max(TINY, cos(off));
  const across = thing.near * sin(off);
  const inside = Math.max(0, thing.radius * thing.radius - across * across);
  return Math.max(0, thing.near * cos(off) - Math.sqrt(inside));
}

/** Where two straight lines meet, from the eye. */
function faceFace(one: Thing, other: Thing): [number, number][] {
  const cross = one.nx * other.ny - one.ny * other.nx;
  if (Math.abs(cross) < 1e-12) return [];
  return [[(one.near * other.ny - other.near * one.ny) / cross, (other.near * one.nx - one.near * other.nx) / cross]];
}

/** Where a straight line meets a round thing, from the eye. */
function faceDisc({ nx, ny, near }: Thing, disc: Thing): [number, number][] {
  const off = nx * disc.nx + ny * disc.ny - near;
  const inside = disc.radius * disc.radius - off * off;
  if (inside < 0) return [];
  const root = Math.sqrt(inside);
  const footX = disc.nx - off * nx;
  const footY = disc.ny - off * ny;
  return [
    [footX - root * ny, footY + root * nx],
    [footX + root * ny, footY - root * nx],
  ];
}

function discDisc(one: Thing, other: Thing): [number, number][] {
  const dx = other.nx - one.nx;
  const dy = other.ny - one.ny;
  const d = Math.sqrt(dx * dx + dy * dy);
  if (d < TINY || d > one.radius + other.radius || d < Math.abs(one.radius - other.radius)) return [];
  const along = (d * d + one.radius * one.radius - other.radius * other.radius) / (2 * d);
  const across = Math.sqrt(Math.max(0, one.radius * one.radius - along * along));
  const mx = one.nx + (along * dx) / d;
  const my = one.ny + (along * dy) / d;
  return [
    [mx - (across * dy) / d, my + (across * dx) / d],
    [mx + (across * dy) / d, my - (across * dx) / d],
  ];
}
