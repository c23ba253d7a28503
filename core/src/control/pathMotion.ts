// Driving to a place and along a path by odometry: pure pursuit (Coulter 1992). The robot aims at a point of the path
// a little ahead; the circle through it that touches its heading has the curvature 2 y / d², where y is how far the
// point lies to the side and d how far away it is.

import { wrapAngle } from "../geometry/pose.js";
import { clamp } from "../math/clamp.js";
import { atan2, cos, PI, sin } from "../math/trig.js";
import type { DriveControl } from "./drive.js";
import { type Motion, type MotionOptions, turnMotion } from "./motions.js";
import { Profile } from "./profile.js";

type PathPoint = readonly [x: number, y: number];

/** Where a path starts from: place and direction of travel, in the drive's own frame. */
interface PathStart {
  readonly xM: number;
  readonly yM: number;
  readonly headingRad: number;
}

const ARRIVED = { distanceM: 0.0015, speedMS: 0.012, settleSec: 0.5 } as const;
/** The plan waits for a robot further behind than this, m. */
const LEAD_M = 0.03;
/** How far ahead it aims unless told, m: at least this, and this long at the speed it has. */
const LOOK = { leastM: 0.06, sec: 0.35 } as const;
/** Beyond this angle to the point it aims at a robot that can turns on the spot. */
const PIVOT_RAD = 1.1;
/** A robot that can turn on the spot faces the first place when it lies further aside than this. */
const TURNS_FROM_RAD = 0.05;
const SPACING_M = 0.01;

/** Points with their length along the way. */
class Way {
  readonly at: number[] = [0];

  constructor(readonly points: readonly PathPoint[]) {
    for (let i = 1; i < points.length; i += 1) {
      const [a, b] = [points[i - 1] as PathPoint, points[i] as PathPoint];
      const dx = b[0] - a[0];
      const dy = b[1] - a[1];
      this.at.push((this.at[i - 1] as number) + Math.sqrt(dx * dx + dy * dy));
    }
  }

  get length(): number {
    return this.at[this.at.length - 1] as number;
  }

  /** A point at a length; beyond the end straight on as the last piece went. */
  point(s: number): PathPoint {
    const { points, at } = this;
    let i = 1;
    while (i < points.length - 1 && (at[i] as number) < s) i += 1;
    const [a, b] = [points[i - 1] as PathPoint, points[i] as PathPoint];
    const span = (at[i] as number) - (at[i - 1] as number);
    const t = span > 0 ? (s - (at[i - 1] as number)) / span : 1;
    return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];
  }

  /** Length of the point nearest to a place, not before `from` nor further on than `reach`. */
  nearest(x: number, y: number, from: number, reach: number): number {
    let best = Number.POSITIVE_INFINITY;
    let found = from;
    for (let i = 1; i < this.points.length; i += 1) {
      const [low, high] = [this.at[i - 1] as number, this.at[i] as number];
      if (high < from || low > from + reach) continue;
      const [ax, ay] = this.points[i - 1] as PathPoint;
      const [bx, by] = this.points[i] as PathPoint;
      const square = (bx - ax) * (bx - ax) + (by - ay) * (by - ay);
      const t = square > 0 ? Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / square)) : 0;
      const s = Math.max(from, low + t * (high - low));
      const [px, py] = this.point(s);
      const d = (px - x) * (px - x) + (py - y) * (py - y);
      if (d >= best) continue;
      best = d;
      found = s;
    }
    return found;
  }
}

/**
 * The shortest way of a steered axle to a place, its heading there left open: the tightest circle to the side where it
 * lies until the place is straight ahead, then straight. A place inside that circle is reached round the other one.
 */
function steeredWay(start: PathStart, to: PathPoint, radiusM: number): { points: PathPoint[]; end: PathStart } {
  const c = cos(start.headingRad);
  const s = sin(start.headingRad);
  const dx = to[0] - start.xM;
  const dy = to[1] - start.yM;
  const ahead = c * dx + s * dy;
  const aside = c * dy - s * dx;
  const inside = (side: number) =>
    ahead * ahead + (aside - side * radiusM) * (aside - side * radiusM) < radiusM * radiusM;
  let side = aside >= 0 ? 1 : -1;
  if (inside(side)) side = -side;
  // From the circle's middle: the place, and where the straight leaves the circle as its tangent.
  const mx = ahead;
  const my = aside - side * radiusM;
  const far = Math.sqrt(mx * mx + my * my);
  const straight = Math.sqrt(Math.max(0, far * far - radiusM * radiusM));
  let turn = side * (atan2(my, mx) + side * (PI / 2) - side * atan2(straight, radiusM));
  while (turn < -1e-9) turn += 2 * PI;
  while (turn >= 2 * PI - 1e-9) turn -= 2 * PI;
  const points: PathPoint[] = [[start.xM, start.yM]];
  const pieces = Math.max(1, -Math.floor((-turn * radiusM) / SPACING_M));
  for (let i = 1; i <= pieces; i += 1) {
    const a = (turn * i) / pieces;
    const x = radiusM * sin(a);
    const y = side * radiusM * (1 - cos(a));
    points.push([start.xM + c * x - s * y, start.yM + s * x + c * y]);
  }
  points.push(to);
  return { points, end: { xM: to[0], yM: to[1], headingRad: start.headingRad + side * turn } };
}

/** Along points by pure pursuit, to their end. */
class Pursuit implements Motion {
  readonly expectedSec: number | null;
  readonly timed = false;
  private readonly way: Way;
  private readonly profile: Profile;
  private doneM = 0;
  private settlingSec = 0;

  constructor(
    drive: DriveControl,
    points: readonly PathPoint[],
    private readonly sign: 1 | -1,
    private readonly lookM: number | null,
    private readonly options: MotionOptions,
  ) {
    this.way = new Way(points);
    const { cruise, ramp, keep } = options;
    this.profile = new Profile(this.way.length, cruise, ramp, Math.max(0, drive.wantedMS * sign), keep ? cruise : 0);
    this.expectedSec = this.profile.expectedSec();
  }

  tick(drive: DriveControl, dt: number): boolean {
    const { way, profile, sign, options } = this;
    this.doneM = way.nearest(drive.xM, drive.yM, this.doneM, 0.25);
    if (profile.distance - this.doneM < LEAD_M) profile.advance(dt);
    const look = this.lookM ?? Math.max(LOOK.leastM, LOOK.sec * profile.speed);
    const [tx, ty] = way.point(this.doneM + look);
    const heading = drive.headingRad + (sign === 1 ? 0 : PI);
    const c = cos(heading);
    const s = sin(heading);
    const dx = tx - drive.xM;
    const dy = ty - drive.yM;
    const ahead = c * dx + s * dy;
    const aside = c * dy - s * dx;
    const square = Math.max(1e-6, dx * dx + dy * dy);
    const behind = profile.distance - this.doneM;
    const bearing = atan2(aside, ahead);
    if (!drive.model.steering && Math.abs(bearing) > PIVOT_RAD) {
      drive.follow(0, 0, clamp(4 * bearing, drive.model.turnRadS), 0, 0, 0, options.mostDuty);
      return false;
    }
    const curvature = (2 * aside) / square;
    // The outer wheel has to follow, and a sharp bend is taken slowly.
    const { topSpeedMS, trackWidthM } = drive.model;
    const most = Math.min(
      (0.92 * topSpeedMS) / (1 + (Math.abs(curvature) * trackWidthM) / 2),
      0.9 / Math.max(1, Math.abs(curvature)),
    );
    const speed = Math.min(profile.speed, Math.max(0.04, most));
    // Catching up with the plan would leave the circle: only near the end, where it has to stop in place.
    const near = way.length - this.doneM < look;
    drive.follow(
      sign * speed,
      sign * profile.acceleration,
      curvature * speed,
      0,
      near ? sign * behind : 0,
      0,
      options.mostDuty,
    );
    if (!profile.done) return false;
    if (options.keep) return true;
    this.settlingSec += dt;
    const still = Math.abs(drive.speedMS) < ARRIVED.speedMS;
    return (Math.abs(behind) < ARRIVED.distanceM && still) || this.settlingSec >= ARRIVED.settleSec;
  }
}

/** One motion after another; each is made when its turn comes, from where the robot is then. */
class InTurn implements Motion {
  readonly timed = false;
  private index = 0;
  private motion: Motion | null = null;

  constructor(
    readonly expectedSec: number,
    private readonly makers: readonly ((drive: DriveControl) => Motion | null)[],
  ) {}

  tick(drive: DriveControl, dt: number): boolean {
    for (; this.index < this.makers.length; this.index += 1) {
      this.motion ??= this.makers[this.index]?.(drive) ?? null;
      if (this.motion && !this.motion.tick(drive, dt)) return false;
      this.motion = null;
      if (this.index < this.makers.length - 1) {
        this.index += 1;
        return this.tick(drive, dt);
      }
    }
    return true;
  }
}

interface PathOrder {
  /** In the drive's own frame; the first is where to go first. */
  readonly places: readonly PathPoint[];
  /** Heading at the end, in the drive's own frame; null leaves it open. */
  readonly facingRad: number | null;
  readonly back: boolean;
  readonly lookM: number | null;
}

/** To one or more places, from where the robot is. */
export function pathMotion(drive: DriveControl, order: PathOrder, options: MotionOptions): Motion {
  const { places, facingRad, back, lookM } = order;
  const sign = back ? -1 : 1;
  const { steering, turnRadS, turnRampRadS2 } = drive.model;
  const travel = drive.headingRad + (back ? PI : 0);
  const here: PathPoint = [drive.xM, drive.yM];
  const turning: MotionOptions = { ...options, cruise: turnRadS, ramp: turnRampRadS2, keep: false };
  const turnTo = (wanted: (now: DriveControl) => number) => (now: DriveControl) => {
    const angle = wrapAngle(wanted(now) - now.headingRad);
    return Math.abs(angle) < TURNS_FROM_RAD / 5 ? null : turnMotion(now, angle, angle < 0 ? -1 : 1, 0, turning);
  };
  let points: PathPoint[] = [here];
  if (steering) {
    let at: PathStart = { xM: here[0], yM: here[1], headingRad: travel };
    for (const place of places) {
      const leg = steeredWay(at, place, steering.leastRadiusM * 1.05);
      points.push(...leg.points.slice(1));
      at = leg.end;
    }
  } else points = [here, ...places];
  const way = new Way(points);
  const [first] = places;
  const makers: ((now: DriveControl) => Motion | null)[] = [];
  let turned = 0;
  if (!steering && first) {
    const dx = first[0] - here[0];
    const dy = first[1] - here[1];
    const aside = wrapAngle(atan2(dy, dx) - travel);
    if (Math.abs(aside) > TURNS_FROM_RAD && dx * dx + dy * dy > 1e-4) {
      turned += Math.abs(aside);
      makers.push(turnTo((now) => atan2(first[1] - now.yM, first[0] - now.xM) - (back ? PI : 0)));
    }
  }
  if (way.length > 1e-3)
    makers.push(
      (now) => new Pursuit(now, points, sign, lookM, { ...options, keep: options.keep && facingRad === null }),
    );
  if (facingRad !== null && !steering) {
    turned += PI;
    makers.push(turnTo(() => facingRad));
  }
  return new InTurn(1 + way.length / options.cruise + options.cruise / options.ramp + turned / turnRadS, makers);
}
