// Steps that drive where a hand drove: the recorded way is cut into straight goes, curves of constant radius and
// turns on the spot, and slides where the robot can, each as long as it stays within a tolerance. Each piece begins where the pieces before it
// really lead, rounding included, so that errors do not add up.
import { type Pose, wrapAngle } from "../geometry/pose.js";
import { atan2, cos, PI, sin } from "../math/trig.js";
import { plainDigits } from "../units/quantity.js";

/** A way, one sample a tick: m, m, rad. */
interface DrivenWay {
  readonly x: ArrayLike<number>;
  readonly y: ArrayLike<number>;
  readonly heading: ArrayLike<number>;
  readonly tickSec: number;
  /** Driven by a robot that can slide: ways to its side become slides. */
  readonly slides?: boolean;
}

export interface FitTolerance {
  readonly distanceM: number;
  readonly angleRad: number;
}

export const USUAL_TOLERANCE: FitTolerance = { distanceM: 0.02, angleRad: (5 * PI) / 180 };

interface FittedStep {
  readonly text: string;
  /** First and last sample of the way it stands for. */
  readonly from: number;
  readonly to: number;
  /** Where it leads to. */
  readonly end: Pose;
}

export interface FittedDrive {
  readonly steps: readonly FittedStep[];
  /** Largest distance and angle between the drive and its steps, m and rad. */
  readonly worstM: number;
  readonly worstRad: number;
  /** The steps' own way, for drawing. */
  readonly x: readonly number[];
  readonly y: readonly number[];
}

/** Samples closer together than this, in both, are one: the robot stands. */
const STILL = { distanceM: 0.0015, angleRad: 0.012 } as const;
/** A turn on the spot stays this near; a curve of a smaller radius is one too. */
const SPOT_M = 0.012;
const LEAST_RADIUS_M = 0.03;
const LARGEST_RADIUS_M = 8;
const DEG = 180 / PI;

interface Sample extends Pose {
  /** Index in the way. */
  readonly at: number;
  /** Travel so far, backwards counted down, and turned so far. */
  readonly travelM: number;
  /** To the left so far; only of a way with slides. */
  readonly asideM: number;
  readonly turnedRad: number;
}

/** The way without standing still. */
function moving(way: DrivenWay): Sample[] {
  const samples: Sample[] = [];
  let travel = 0;
  let aside = 0;
  let turned = 0;
  let last: Sample | null = null;
  const count = Math.min(way.x.length, way.y.length, way.heading.length);
  for (let i = 0; i < count; i += 1) {
    const pose = { xM: way.x[i] as number, yM: way.y[i] as number, headingRad: way.heading[i] as number };
    if (!(Math.abs(pose.xM) + Math.abs(pose.yM) + Math.abs(pose.headingRad) >= 0)) continue;
    if (last) {
      const [dx, dy] = [pose.xM - last.xM, pose.yM - last.yM];
      const bend = wrapAngle(pose.headingRad - last.headingRad);
      const distance = Math.sqrt(dx * dx + dy * dy);
      if (distance < STILL.distanceM && Math.abs(bend) < STILL.angleRad && i < count - 1) continue;
      const middle = last.headingRad + bend / 2;
      const ahead = dx * cos(middle) + dy * sin(middle);
      travel += way.slides ? ahead : ahead >= 0 ? distance : -distance;
      if (way.slides) aside += dy * cos(middle) - dx * sin(middle);
      turned += bend;
    }
    last = { ...pose, at: i, travelM: travel, asideM: aside, turnedRad: turned };
    samples.push(last);
  }
  return samples;
}

interface Piece {
  readonly kind: "go" | "arc" | "turn" | "slide";
  readonly lengthM: number;
  readonly angleRad: number;
}

function advance(from: Pose, { kind, lengthM, angleRad }: Piece, share: number): Pose {
  const length = lengthM * share;
  if (kind === "slide")
    return {
      xM: from.xM - length * sin(from.headingRad),
      yM: from.yM + length * cos(from.headingRad),
      headingRad: from.headingRad,
    };
  const bend = angleRad * share;
  const half = bend / 2;
  const chord = Math.abs(half) < 1e-6 ? length : (length * sin(half)) / half;
  return {
    xM: from.xM + chord * cos(from.headingRad + half),
    yM: from.yM + chord * sin(from.headingRad + half),
    headingRad: from.headingRad + bend,
  };
}

/** How far along its kind of way a sample is: to the side for a slide, else ahead, m. */
function wayOf(kind: Piece["kind"], sample: Sample): number {
  return kind === "slide" ? sample.asideM : sample.travelM;
}

/** Largest distance and angle between samples and a piece from a pose; null beyond the tolerance. */
function gap(
  samples: readonly Sample[],
  from: number,
  to: number,
  start: Pose,
  piece: Piece,
  most: FitTolerance,
): { distanceM: number; angleRad: number } | null {
  const first = samples[from] as Sample;
  const whole = wayOf(piece.kind, samples[to] as Sample) - wayOf(piece.kind, first);
  const bent = (samples[to] as Sample).turnedRad - first.turnedRad;
  let distance = 0;
  let angle = 0;
  for (let i = from + 1; i <= to; i += 1) {
    const sample = samples[i] as Sample;
    const done =
      piece.kind === "turn"
        ? (sample.turnedRad - first.turnedRad) / bent
        : (wayOf(piece.kind, sample) - wayOf(piece.kind, first)) / whole;
    const at = advance(start, piece, Math.max(0, Math.min(1, done)));
    const [dx, dy] = [at.xM - sample.xM, at.yM - sample.yM];
    const off = Math.sqrt(dx * dx + dy * dy);
    const turned = Math.abs(wrapAngle(at.headingRad - sample.headingRad));
    if (!(off <= most.distanceM) || (piece.kind !== "turn" && !(turned <= most.angleRad))) return null;
    distance = Math.max(distance, off);
    angle = Math.max(angle, piece.kind === "turn" ? 0 : turned);
  }
  return { distanceM: distance, angleRad: angle };
}

const rounded = (value: number, step: number) => Math.floor(value / step + 0.5) * step;

/** A piece as it will be written: its numbers rounded. */
function pieceTo(kind: Piece["kind"], samples: readonly Sample[], from: number, to: number, start: Pose): Piece | null {
  const [a, b] = [samples[from] as Sample, samples[to] as Sample];
  const length = wayOf(kind, b) - wayOf(kind, a);
  // Towards the heading the drive had at its end: what was off before is not carried on.
  const angle = b.turnedRad - a.turnedRad + wrapAngle(a.headingRad - start.headingRad);
  if (kind === "turn") return { kind, lengthM: 0, angleRad: rounded(angle * DEG, 0.5) / DEG };
  if (Math.abs(length) < 0.005) return null;
  if (kind === "slide") {
    const aside = (b.yM - start.yM) * cos(start.headingRad) - (b.xM - start.xM) * sin(start.headingRad);
    return { kind, lengthM: rounded(aside * length > 0 ? aside : length, 0.001), angleRad: 0 };
  }
  // The way that brings its end nearest to the drive's.
  const along = (b.xM - start.xM) * cos(start.headingRad) + (b.yM - start.yM) * sin(start.headingRad);
  if (kind === "go") return { kind, lengthM: rounded(along * length > 0 ? along : length, 0.001), angleRad: 0 };
  const bend = rounded(angle * DEG, 0.5) / DEG;
  if (Math.abs(bend) < 2 / DEG) return null;
  const radius = rounded(Math.abs(length / bend), 0.001);
  if (radius < LEAST_RADIUS_M || radius > LARGEST_RADIUS_M) return null;
  return { kind, lengthM: radius * Math.abs(bend) * (length < 0 ? -1 : 1), angleRad: bend };
}

const ONE_WAY_M = 0.006;

/** How far one piece of a kind reaches, with what it leaves; null when it reaches nowhere. */
function reach(
  kind: Piece["kind"],
  samples: readonly Sample[],
  from: number,
  start: Pose,
  most: FitTolerance,
): { to: number; piece: Piece; left: { distanceM: number; angleRad: number } } | null {
  let best: ReturnType<typeof reach> = null;
  const first = samples[from] as Sample;
  let turning = 0;
  let failures = 0;
  let [least, greatest] = [0, 0];
  for (let to = from + 1; to < samples.length; to += 1) {
    const sample = samples[to] as Sample;
    const travel = wayOf(kind, sample) - wayOf(kind, first);
    const [dx, dy] = [sample.xM - first.xM, sample.yM - first.yM];
    [least, greatest] = [Math.min(least, travel), Math.max(greatest, travel)];
    if (kind === "turn") {
      if (Math.sqrt(dx * dx + dy * dy) > SPOT_M) break;
      const bent = sample.turnedRad - first.turnedRad;
      // A turn goes one way round.
      if (Math.abs(bent) < Math.abs(turning) - STILL.angleRad * 4) break;
      turning = Math.abs(bent) > Math.abs(turning) ? bent : turning;
    } else if (greatest > ONE_WAY_M && least < -ONE_WAY_M) break;
    else if (Math.abs(travel) < Math.max(greatest, -least) - ONE_WAY_M) break;
    const piece = pieceTo(kind, samples, from, to, start);
    const left = piece && gap(samples, from, to, start, piece, most);
    if (piece && left) {
      best = { to, piece, left };
      failures = 0;
    } else if (piece) {
      failures += 1;
      // A little beyond the tolerance may come back within it; far beyond does not.
      if (failures > 12) break;
    }
  }
  return best;
}

function speedOf(way: DrivenWay, samples: readonly Sample[], from: number, to: number, piece: Piece): number {
  const [a, b] = [samples[from] as Sample, samples[to] as Sample];
  const seconds = Math.max(way.tickSec, movingTicks(samples, from, to) * way.tickSec);
  return piece.kind === "turn"
    ? Math.abs(b.turnedRad - a.turnedRad) / seconds
    : Math.abs(wayOf(piece.kind, b) - wayOf(piece.kind, a)) / seconds;
}

/** Ticks of a stretch without its pauses. */
function movingTicks(samples: readonly Sample[], from: number, to: number): number {
  let ticks = 0;
  for (let i = from + 1; i <= to; i += 1)
    ticks += Math.min(10, (samples[i] as Sample).at - (samples[i - 1] as Sample).at);
  return ticks;
}

const LEAST_SPEED = { metres: 0.05, rad: 15 / DEG } as const;

function written(piece: Piece, speed: number): string {
  const cm = (value: number) => `${plainDigits(value * 100, 1)} cm`;
  const deg = (value: number) => plainDigits(Math.abs(value) * DEG, 1);
  const side = piece.angleRad >= 0 ? "left" : "right";
  if (piece.kind === "turn")
    return `turn ${side} ${deg(piece.angleRad)} deg at ${plainDigits(Math.max(LEAST_SPEED.rad, speed) * DEG, 0)} deg/s`;
  const at = `at ${plainDigits(Math.max(LEAST_SPEED.metres, speed) * 100, 0)} cm/s`;
  const back = piece.lengthM < 0;
  if (piece.kind === "slide") return `slide ${back ? "right" : "left"} ${cm(Math.abs(piece.lengthM))} ${at}`;
  if (piece.kind === "go") return `${back ? "back" : "go"} ${cm(Math.abs(piece.lengthM))} ${at}`;
  // Driven back with the heading growing, the centre lies to the right.
  const centre = back ? (side === "left" ? "right" : "left") : side;
  const radius = Math.abs(piece.lengthM / piece.angleRad);
  return `arc ${back ? "back " : ""}${centre} ${deg(piece.angleRad)} deg radius ${cm(radius)} ${at}`;
}

/** A piece of a drive: where it starts, and which samples it stands for. */
interface Placed {
  readonly piece: Piece;
  readonly start: Pose;
  readonly from: number;
  readonly to: number;
}

/** Turns smaller than this belong to the turn beside them, whichever way round they go. */
const SMALL_TURN = 6 / DEG;
/** Less of a way than this is hardly one. */
const SHORT_M = 0.03;
/** Nearer than this is on the drive: more than the shortest go. */
const LEAST_RETURN_M = 0.006;

/**
 * @param way - as driven; what cannot be read is left out
 * @returns steps in order; none for a way that stands still
 */
export function fitSteps(way: DrivenWay, tolerance: FitTolerance = USUAL_TOLERANCE): FittedDrive {
  const samples = moving(way);
  const placed: Placed[] = [];
  let worst = { distanceM: 0, angleRad: 0 };
  let pose: Pose | null = samples[0] ?? null;
  let at = 0;
  const take = (piece: Piece, from: number, to: number) => {
    const small = piece.kind === "turn" ? Math.abs(piece.angleRad) < 1.5 / DEG : Math.abs(piece.lengthM) < 0.004;
    if (small || !pose) return false;
    add(placed, { piece, start: pose, from, to });
    pose = advance(pose, piece, 1);
    return true;
  };
  while (pose && at < samples.length - 1) {
    const found = longest(samples, at, pose, tolerance, way.slides ?? false);
    const back = hardlyReaches(found, samples, at) ? returning(samples, at, pose, tolerance) : null;
    if (back) {
      for (const piece of back.pieces) take(piece, at, back.to);
      worst = { ...worst, distanceM: Math.max(worst.distanceM, back.distanceM) };
      at = back.to;
    } else if (found) {
      const { to, piece, left } = found;
      if (take(piece, at, to))
        worst = {
          distanceM: Math.max(worst.distanceM, left.distanceM),
          angleRad: Math.max(worst.angleRad, left.angleRad),
        };
      at = to;
    } else at += 1;
  }
  const points = placed.flatMap(({ piece, start }) =>
    Array.from({ length: 17 }, (_, i) => advance(start, piece, i / 16)),
  );
  return {
    steps: placed.map(({ piece, start, from, to }) => ({
      text: written(piece, speedOf(way, samples, from, to, piece)),
      from: (samples[from] as Sample).at,
      to: (samples[to] as Sample).at,
      end: advance(start, piece, 1),
    })),
    worstM: worst.distanceM,
    worstRad: worst.angleRad,
    x: points.map(({ xM }) => xM),
    y: points.map(({ yM }) => yM),
  };
}

/** Two turns after one another are one, unless they go different ways round and both far. */
function add(placed: Placed[], next: Placed): void {
  const last = placed.at(-1);
  if (last?.piece.kind === "turn" && next.piece.kind === "turn") {
    const [a, b] = [last.piece.angleRad, next.piece.angleRad];
    if (a * b > 0 || Math.min(Math.abs(a), Math.abs(b)) < SMALL_TURN) {
      placed.pop();
      const angleRad = a + b;
      // Two that undo each other are none.
      if (Math.abs(angleRad) > 0.2 / DEG)
        placed.push({ piece: { ...next.piece, angleRad }, start: last.start, from: last.from, to: next.to });
      return;
    }
  }
  placed.push(next);
}

/** Whether a piece, of all that were tried, gets hardly on. */
function hardlyReaches(found: ReturnType<typeof longest>, samples: readonly Sample[], from: number): boolean {
  if (!found) return true;
  if (found.to === samples.length - 1 && found.to > from) return false;
  return found.piece.kind === "turn"
    ? Math.abs(found.piece.angleRad) < SMALL_TURN
    : Math.abs(found.piece.lengthM) < SHORT_M;
}

/** How far a point is from the straight way between two others, m. */
function fromStraight(point: Pose, a: Pose, b: Pose): number {
  const [dx, dy] = [b.xM - a.xM, b.yM - a.yM];
  const square = dx * dx + dy * dy;
  const share = square === 0 ? 0 : ((point.xM - a.xM) * dx + (point.yM - a.yM) * dy) / square;
  const near = Math.max(0, Math.min(1, share));
  const [ox, oy] = [point.xM - a.xM - near * dx, point.yM - a.yM - near * dy];
  return Math.sqrt(ox * ox + oy * oy);
}

/**
 * Back onto the drive from beside it: straight to the furthest sample on whose way nothing of the drive is left far aside,
 * and to the heading it had there.
 * @returns null where the pose is on the drive
 */
function returning(samples: readonly Sample[], from: number, start: Pose, tolerance: FitTolerance) {
  const first = samples[from] as Sample;
  const off = fromStraight(start, first, first);
  if (off < Math.max(LEAST_RETURN_M, tolerance.distanceM / 2)) return null;
  const most = Math.max(tolerance.distanceM, off);
  let to = from;
  let distanceM = off;
  for (let k = from + 1; k < samples.length; k += 1) {
    const sample = samples[k] as Sample;
    // No further than where the drive turns away, or round, or comes back.
    if (Math.abs(sample.turnedRad - first.turnedRad) > PI / 2) break;
    if (fromStraight(sample, start, start) > 0.5) break;
    let worst = 0;
    for (let i = from; i <= k; i += 1) worst = Math.max(worst, fromStraight(samples[i] as Sample, start, sample));
    if (worst <= most) {
      to = k;
      distanceM = Math.max(off, worst);
    } else if (k > to + 12) break;
  }
  const goal = samples[to] as Sample;
  const [dx, dy] = [goal.xM - start.xM, goal.yM - start.yM];
  // As the drive went: ahead or back, whichever needs the smaller turn.
  const bearing = wrapAngle(atan2(dy, dx) - start.headingRad);
  const ahead = Math.abs(bearing) <= PI / 2;
  const angleRad = rounded(wrapAngle(ahead ? bearing : bearing + PI) * DEG, 0.5) / DEG;
  const lengthM = rounded(Math.sqrt(dx * dx + dy * dy), 0.001) * (ahead ? 1 : -1);
  const after = rounded(wrapAngle(goal.headingRad - start.headingRad - angleRad) * DEG, 0.5) / DEG;
  const pieces: Piece[] = [
    { kind: "turn", lengthM: 0, angleRad },
    { kind: "go", lengthM, angleRad: 0 },
    { kind: "turn", lengthM: 0, angleRad: after },
  ];
  return { to, pieces, distanceM };
}

/** The piece that reaches furthest; a plain go is taken before a curve that reaches hardly further. */
function longest(samples: readonly Sample[], from: number, start: Pose, tolerance: FitTolerance, slides: boolean) {
  const turn = reach("turn", samples, from, start, { ...tolerance, distanceM: tolerance.distanceM + SPOT_M });
  const first = samples[from] as Sample;
  // A robot that turns on the spot hardly travels meanwhile.
  if (turn && Math.abs((samples[turn.to] as Sample).turnedRad - first.turnedRad) > 6 / DEG) return turn;
  const go = reach("go", samples, from, start, tolerance);
  const arc = reach("arc", samples, from, start, tolerance);
  const lengthOf = (found: typeof go) => (found ? found.to - from : 0);
  const slide = slides ? reach("slide", samples, from, start, tolerance) : null;
  if (lengthOf(slide) > Math.max(lengthOf(go), lengthOf(arc))) return slide;
  if (!go && !arc) return turn ?? stepOn(samples, from, start, tolerance);
  return lengthOf(go) >= 0.85 * lengthOf(arc) ? go : arc;
}

/** Nothing fits from here: turns to the drive's heading first, so that something does. */
function stepOn(samples: readonly Sample[], from: number, start: Pose, tolerance: FitTolerance) {
  const off = wrapAngle((samples[from] as Sample).headingRad - start.headingRad);
  if (Math.abs(off) < tolerance.angleRad / 4) return null;
  const piece: Piece = { kind: "turn", lengthM: 0, angleRad: rounded(off * DEG, 0.5) / DEG };
  return { to: from, piece, left: { distanceM: 0, angleRad: 0 } };
}
