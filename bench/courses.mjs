// Line courses made by functions with seeds: a way to be followed, the marks that show it, and where a robot begins.

/** A small generator of numbers in 0..1: the same seed gives the same course everywhere. @param {number} seed */
export function numbers(seed) {
  let state = (seed * 2654435761 + 12345) >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** @typedef {[number, number]} Point */
/** @typedef {{ way: Point[], lines: { points: Point[], widthM: number }[] }} Course */

const RAD = Math.PI / 180;
export const WIDTH_M = 0.022;

/** A way drawn like a turtle's: straights and curves. */
class Way {
  constructor() {
    /** @type {Point[]} */
    this.points = [[0, 0]];
    this.heading = 0;
  }

  /** @param {number} lengthM */
  go(lengthM) {
    const [x, y] = /** @type {Point} */ (this.points.at(-1));
    this.points.push([x + lengthM * Math.cos(this.heading), y + lengthM * Math.sin(this.heading)]);
    return this;
  }

  /** On the spot: a corner. @param {number} deg */
  corner(deg) {
    this.heading += deg * RAD;
    return this;
  }

  /** A curve; left is positive. @param {number} deg @param {number} radiusM */
  curve(deg, radiusM) {
    const pieces = Math.max(2, Math.ceil(Math.abs(deg) / 6));
    const step = (deg * RAD) / pieces;
    for (let i = 0; i < pieces; i += 1) {
      this.heading += step / 2;
      this.go(2 * radiusM * Math.sin(Math.abs(step) / 2));
      this.heading += step / 2;
    }
    return this;
  }
}

/** Length along a way up to each of its points, m. @param {readonly Point[]} way */
export function lengths(way) {
  const at = [0];
  for (let i = 1; i < way.length; i += 1) {
    const [a, b] = [/** @type {Point} */ (way[i - 1]), /** @type {Point} */ (way[i])];
    at.push(/** @type {number} */ (at[i - 1]) + Math.hypot(b[0] - a[0], b[1] - a[1]));
  }
  return at;
}

/** Points every few millimetres. @param {readonly Point[]} way @param {number} stepM @returns {Point[]} */
export function resampled(way, stepM) {
  const at = lengths(way);
  const whole = /** @type {number} */ (at.at(-1));
  /** @type {Point[]} */
  const out = [];
  let piece = 1;
  for (let s = 0; s <= whole; s += stepM) {
    while (piece < way.length - 1 && /** @type {number} */ (at[piece]) < s) piece += 1;
    const [a, b] = [/** @type {Point} */ (way[piece - 1]), /** @type {Point} */ (way[piece])];
    const [from, to] = [/** @type {number} */ (at[piece - 1]), /** @type {number} */ (at[piece])];
    const t = to > from ? (s - from) / (to - from) : 0;
    out.push([a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])]);
  }
  return out;
}

/** The part of a way between two lengths. @param {readonly Point[]} way @param {number} from @param {number} to */
function part(way, from, to) {
  return resampled(way, 0.005).filter((_, i) => i * 0.005 >= from && i * 0.005 <= to);
}

/** A line with gaps. @param {Point[]} way @param {(n: number) => number} drawn length of dash n @param {(n: number) => number} gap */
function dashed(way, drawn, gap) {
  const whole = /** @type {number} */ (lengths(way).at(-1));
  const lines = [];
  for (let s = 0, n = 0; s < whole; n += 1) {
    // The last of it is drawn, so that its end can be reached.
    const end = whole - s < 0.3 ? whole : Math.min(whole, s + drawn(n));
    if (end - s > 0.01) lines.push({ points: part(way, s, end), widthM: WIDTH_M });
    s = end + gap(n);
  }
  return lines;
}

/** Begins straight, so that every course is entered alike; ends straight too. */
const LEAD_M = 0.35;

/** @type {Readonly<Record<string, (random: () => number) => Course>>} */
export const COURSES = {
  oval: (random) => {
    const radius = 0.25 + 0.1 * random();
    const side = 0.5 + 0.3 * random();
    const { points } = new Way().go(LEAD_M).curve(180, radius).go(side).curve(180, radius).go(side).curve(90, radius);
    return plain(points);
  },
  // Two loops of three quarters of a circle; the way crosses itself at a right angle.
  "figure eight": (random) => {
    const radius = 0.2 + 0.08 * random();
    const way = new Way()
      .go(LEAD_M)
      .go(radius)
      .curve(270, radius)
      .go(2 * radius)
      .curve(-270, radius)
      .go(radius - 0.05);
    return plain(way.points);
  },
  "right angles": (random) => {
    const way = new Way().go(LEAD_M);
    for (let i = 0; i < 6; i += 1) way.corner([90, -90, -90, 90, 90, -90][i] ?? 0).go(0.25 + 0.15 * random());
    return plain(way.points);
  },
  "acute corners": (random) => {
    const way = new Way().go(LEAD_M);
    for (let i = 0; i < 4; i += 1) way.corner(i % 2 === 0 ? 120 : -120).go(0.35 + 0.1 * random());
    return plain(way.points);
  },
  gaps: (random) => {
    const way = new Way().go(LEAD_M + 0.2);
    way.go(0.9).curve(60, 0.4).go(1.1);
    const gaps = [0.05, 0.1, 0.15, 0.08 + 0.07 * random(), 0.12];
    return {
      way: way.points,
      lines: dashed(
        way.points,
        () => 0.3 + 0.05 * random(),
        (n) => gaps[n % 5] ?? 0.1,
      ),
    };
  },
  crossings: (random) => {
    const way = new Way().go(LEAD_M).go(1.8);
    const lines = [{ points: way.points, widthM: WIDTH_M }];
    for (let i = 0; i < 4; i += 1) {
      const x = LEAD_M + 0.2 + 0.4 * i;
      const lean = (random() - 0.5) * 60 * RAD;
      const [dx, dy] = [0.3 * Math.sin(lean), 0.3 * Math.cos(lean)];
      lines.push({
        points: [
          [x - dx, -dy],
          [x + dx, dy],
        ],
        widthM: WIDTH_M,
      });
    }
    return { way: way.points, lines };
  },
  tight: (random) => {
    const way = new Way().go(LEAD_M);
    for (let i = 0; i < 4; i += 1) way.curve((i % 2 === 0 ? 1 : -1) * (90 + 90 * random()), 0.138).go(0.08);
    return plain(way.points);
  },
  dashes: (random) => {
    const way = new Way().go(LEAD_M).curve(90, 0.4).go(0.3).curve(-90, 0.4).go(0.4);
    return {
      way: way.points,
      lines: dashed(
        way.points,
        () => 0.06 + 0.02 * random(),
        () => 0.04,
      ),
    };
  },
  widths: (random) => {
    const way = new Way().go(LEAD_M).go(0.4).curve(70, 0.35).go(0.5).curve(-70, 0.35).go(0.4);
    const whole = /** @type {number} */ (lengths(way.points).at(-1));
    const lines = [];
    for (let s = 0, n = 0; s < whole; n += 1) {
      const end = s + 0.25 + 0.1 * random();
      lines.push({ points: part(way.points, s - 0.005, end), widthM: [0.022, 0.014, 0.034][n % 3] ?? 0.022 });
      s = end;
    }
    return { way: way.points, lines };
  },
};

/** @param {Point[]} points @returns {Course} */
function plain(points) {
  return { way: points, lines: [{ points, widthM: WIDTH_M }] };
}

/** A field with a course on it; odd seeds are mirrored. @param {string} name @param {number} seed */
export function courseField(name, seed) {
  const make = COURSES[name];
  if (!make) throw new Error(`no course "${name}"`);
  const course = make(numbers(seed));
  const flip = seed % 2 === 1 ? -1 : 1;
  const xs = course.lines.flatMap(({ points }) => points.map(([x]) => x));
  const ys = course.lines.flatMap(({ points }) => points.map(([, y]) => y * flip));
  const [lowX, lowY] = [Math.min(...xs) - 0.5, Math.min(...ys) - 0.5];
  /** @param {Point} p @returns {Point} */
  const placed = ([x, y]) => [x - lowX, y * flip - lowY];
  const marks = course.lines
    .filter(({ points }) => points.length > 1)
    .flatMap(({ points, widthM }) =>
      Array.from({ length: Math.ceil((points.length - 1) / 399) }, (_, i) => ({
        kind: "line",
        pointsM: points.slice(i * 399, i * 399 + 400).map(placed),
        widthM,
        reflectance: 0.06,
        colour: "#222222",
      })),
    );
  const [x, y] = placed([0.06, 0]);
  return {
    way: resampled(course.way, 0.005).map(placed),
    field: {
      format: "giddy-pebble/field",
      version: 1,
      name: "Course",
      surface: { reflectance: 0.82 },
      size: { widthM: Math.max(...xs) - lowX + 0.5, heightM: Math.max(...ys) - lowY + 0.5 },
      marks,
      begins: [{ name: "start", xM: x, yM: y, headingRad: 0 }],
    },
    begin: { xM: x, yM: y },
  };
}

/** How far along a way a robot has come: it has to pass all of it, in order. */
export class Progress {
  /** @param {readonly Point[]} way every 5 mm @param {number} nearM */
  constructor(way, nearM = 0.07) {
    this.way = way;
    this.nearM = nearM;
    this.at = 0;
  }

  /** @param {number} x @param {number} y @returns {boolean} whether the end is reached */
  see(x, y) {
    let best = this.nearM;
    let found = -1;
    for (let i = this.at; i < Math.min(this.way.length, this.at + 40); i += 1) {
      const [wx, wy] = /** @type {Point} */ (this.way[i]);
      const d = Math.hypot(wx - x, wy - y);
      if (d < best) {
        best = d;
        found = i;
      }
    }
    if (found >= 0) this.at = found;
    return this.at >= this.way.length - 5;
  }

  get share() {
    return this.at / (this.way.length - 1);
  }
}
