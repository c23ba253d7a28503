// Following a line by floor light.
//
// A spot ahead of the axle by x that is off by y across the line is brought back by turning at rate w, which moves it
// by x w: with w = k y / x the error dies with time constant 1 / k, whatever the speed. What a curve needs beyond that
// is taken up over the way (an integral in 1/m), so that it stays right when the speed changes. The speed falls with
// the error and with the curve. A line that is gone is looked for: straight on until the axle stands where it ended,
// then turning to the side where it went, then to the other, then straight on for as long as a gap may be.
import { clamp } from "../math/clamp.js";
import { PI } from "../math/trig.js";
import type { DriveControl } from "./drive.js";
import { approach, type Motion } from "./motions.js";

/** What the floor tells about the line at one moment. */
export interface LineLook {
  /** How far the sensor is to the right of where it should be, m; saturates. */
  off: number;
  /** on: some of the line is seen; light: none of it; dark: nothing but line. */
  sees: "on" | "light" | "dark";
}

interface LineSense {
  readonly look: (into: LineLook) => void;
  /** How far ahead of the axle it looks, m. */
  readonly aheadM: number;
  /** Size of one spot, m. */
  readonly spotM: number;
  /** Largest error it can tell, m. */
  readonly mostOffM: number;
  /** Side of the line whose edge is kept: 1 left, -1 right, 0 follows the centre. */
  readonly edge: 1 | -1 | 0;
  /** Angle by which its outermost spot leads when it turns, rad. */
  readonly wideRad: number;
  /** Distance over which a line may hide between its spots, m. */
  readonly blindM: number;
}

export type CrossingChoice = "straight" | "left" | "right" | "stop";

interface FollowLineOptions {
  readonly speedMS: number;
  readonly rampMS2: number;
  readonly mostDuty: number;
  /** Factors on the robot's own numbers. */
  readonly gain: number;
  readonly damp: number;
  /** Longest gap that is bridged, m. */
  readonly bridgeM: number;
  readonly crossings: CrossingChoice;
}

export const USUAL_BRIDGE_M = 0.18;

/** Errors die this fast, 1/s; how fast curves are taken up, 1/s; damping as a share of the gain and second. */
const GAIN = { perSec: 11, curveSec: 4, dampSec: 0.025 } as const;
/** Curves no tighter than this are taken up, m. */
const LEAST_RADIUS_M = 0.1;
/** Slowest while looking where the line goes, m/s, and the share of the asked speed. */
const SLOW = { mostMS: 0.07, share: 0.45 } as const;
/** Gains speed again no faster than this, m/s². */
const GATHER_MS2 = 0.8;
/** From the line bending away to the robot turning with it, s: sets how fast a curve can be driven. */
const REACTS_SEC = 0.2;
/** Searches up to this far to each side: beyond the sharpest corner, short of the line it came on. */
const SEARCH_RAD = (138 * PI) / 180;
/** How far to each side it looks at the far end of a gap. */
const SWEEP_RAD = (50 * PI) / 180;
const EDGE_SWEEP_M = 0.075;
/** The way over which the latest error is smoothed, m. */
const NEAR_M = 0.008;
/** An edge found again is followed this slowly, m/s, for this long, m. */
const CALM_MS = 0.12;
const CALM_M = 0.1;
/** What lies less far to the side than this is the line it came on, not the one it turns into. */
const OFF_CROSSING_RAD = (40 * PI) / 180;
/** Headings that tell where the line goes, and the way between two of them, m. */
const COURSE_SAMPLES = 14;
const SAMPLE_M = 0.01;
const WOBBLE_PER_M = 0.7;
/** Lines are no wider than this where they cross, m. */
const CROSS_M = 0.045;

/**
 * The fastest a line can be held at on curves of a radius, m/s: until the robot turns with it, a line that bends away
 * must not leave what the sensor can tell.
 * @param mostOffM - largest error the sensor can tell; periodSec - between two of its looks
 */
export function fastestOnLine(mostOffM: number, spotM: number, periodSec: number, radiusM: number): number {
  const bending = Math.sqrt(2 * (mostOffM + 0.004) * radiusM) / (REACTS_SEC + periodSec);
  // And of a line as wide as two spots there have to be two looks on the way across it.
  return Math.min(bending, (2 * spotM) / (2 * periodSec));
}

type Phase =
  | "track"
  | "pass"
  | "hook"
  | "first"
  | "second"
  | "return"
  | "bridge"
  | "sweep"
  | "back"
  | "straighten"
  | "retreat"
  | "crossing"
  | "turning";

const SPINS: ReadonlySet<Phase> = new Set<Phase>(["turning", "first", "second", "sweep", "back", "straighten"]);

export class FollowLine implements Motion {
  readonly expectedSec = null;
  readonly timed = false;
  arrivedBy: "lost" | null = null;
  private ended = false;
  private phase: Phase = "track";
  private speedMS: number;
  private rate = 0;
  private curve = 0;
  /** Headings over the last centimetres, for where the line was going and how it bent, 1/m. */
  private readonly headings = new Float64Array(COURSE_SAMPLES);
  private headingCount = 0;
  private sampledM = Number.NEGATIVE_INFINITY;
  private bend = 0;
  private offBefore = 0;
  private slope = 0;
  private readonly look: LineLook = { off: 0, sees: "on" };
  /** Way and heading driven in this step, by encoders and gyro where there are any. */
  private wayM = 0;
  private headingRad = 0;
  private travelBefore: number;
  private headingBefore: number;
  /** Where the line was seen last. */
  private seenM = 0;
  private seenRad = 0;
  /** Which side the line was on lately, and where that was. */
  private side: 1 | -1 = 1;
  private weight = 0;
  private weighedM = 0;
  /** How far off it was over the last centimetre, m. */
  private nearOff = 0;
  private darkFromM: number | null = null;
  private darkFromRad = 0;
  private darkEndedM = Number.NEGATIVE_INFINITY;
  private sawDark = false;
  private turning: 1 | -1 = 1;
  /** What found the line the last time is tried first the next time. */
  private bridgesFirst = false;
  /** Both sides were searched where it was lost. */
  private searched = false;
  private sweepAtM = 0;
  /** Heading at the far end of a gap, against the one it was lost with. */
  private ahead = 0;
  private crossedM = Number.NEGATIVE_INFINITY;
  private foundM = Number.NEGATIVE_INFINITY;
  /** Speed while an edge is met anew: it takes a few looks to know how it lies. */
  private readonly calmMS: number;
  private readonly slowMS: number;
  private readonly aheadM: number;
  private readonly mostRate: number;

  constructor(
    drive: DriveControl,
    private readonly sense: LineSense,
    private readonly options: FollowLineOptions,
  ) {
    this.speedMS = drive.wantedMS;
    this.travelBefore = drive.travelM;
    this.headingBefore = drive.headingRad;
    this.aheadM = Math.max(0.02, Math.abs(sense.aheadM));
    this.calmMS = sense.edge === 0 ? options.speedMS : CALM_MS;
    this.slowMS = Math.min(SLOW.mostMS, options.speedMS * SLOW.share);
    // A search must not swing the spot over a line between two looks.
    this.mostRate = Math.min(drive.model.topTurnRadS * 0.7, 0.25 / this.aheadM);
    if (sense.edge !== 0) this.side = sense.edge === 1 ? -1 : 1;
  }

  tick(drive: DriveControl, dt: number): boolean {
    this.measure(drive, dt);
    this.sense.look(this.look);
    const before = this.speedMS;
    if (this.phase === "track") this.track(dt);
    else this.search(drive, dt);
    if (this.arrivedBy || this.ended) {
      drive.release("brake");
      return true;
    }
    drive.follow(this.speedMS, (this.speedMS - before) / dt, this.rate, 0, 0, 0, this.options.mostDuty);
    return false;
  }

  private measure(drive: DriveControl, dt: number): void {
    const { model } = drive;
    const moved = model.hasEncoders ? drive.travelM - this.travelBefore : this.speedMS * dt;
    const turned = model.hasEncoders || drive.hasGyro ? drive.headingRad - this.headingBefore : this.rate * dt;
    this.wayM += moved;
    this.headingRad += turned;
    this.travelBefore = drive.travelM;
    this.headingBefore = drive.headingRad;
  }

  private track(dt: number): void {
    const { look, sense, options } = this;
    this.remember();
    this.sample();
    if (this.crossed()) return;
    const blind = look.sees === "light" ? this.wayM - this.seenM : 0;
    if (blind > sense.blindM + sense.spotM) return this.lose();
    let off = look.off;
    const blindly = look.sees === "light" && sense.edge === 0;
    // Gone between two looks: to the side where it was, if it was going there.
    if (blindly)
      off = Math.abs(this.nearOff) > 0.45 * sense.mostOffM ? (this.nearOff > 0 ? 1 : -1) * sense.mostOffM : 0;
    if (look.sees === "dark" && this.holdsStraight()) off = 0;
    const share = Math.min(1, Math.abs(off) / sense.mostOffM);
    const gain = (GAIN.perSec * options.gain) / this.aheadM;
    this.slope += (dt / (0.03 + dt)) * ((off - this.offBefore) / dt - this.slope);
    this.offBefore = off;
    const most = this.mostRate;
    const wanted = gain * (off + options.damp * GAIN.dampSec * this.slope);
    const v = this.speedMS;
    if (!blindly)
      this.curve = clamp(this.curve + (GAIN.curveSec * gain * off * v * dt) / (v * v + 0.0025), 1 / LEAST_RADIUS_M);
    this.rate = clamp(wanted + this.curve * this.speedMS, most);
    // In a curve no faster than it can turn, and slower while the line runs away.
    const bent = Math.sqrt((2 * (sense.mostOffM + 0.004)) / Math.max(0.1, Math.abs(this.curve))) / REACTS_SEC;
    const calm = this.wayM - this.foundM < CALM_M ? this.calmMS : options.speedMS;
    const target = Math.max(this.slowMS, Math.min(options.speedMS * (1 - 0.9 * share * share), bent, calm));
    this.drift(target, dt);
  }

  private drift(target: number, dt: number): void {
    const ramp = target > this.speedMS ? Math.min(this.options.rampMS2, GATHER_MS2) : this.options.rampMS2 * 1.5;
    this.speedMS = approach(this.speedMS, target, ramp * dt);
  }

  /** Keeps where the line was seen, and on which side it went. */
  private remember(): void {
    const { look, sense } = this;
    if (look.sees !== "light") {
      this.seenM = this.wayM;
    }
    if (look.sees === "dark" && this.darkFromM === null) {
      this.darkFromM = this.wayM;
      this.darkFromRad = this.headingRad;
    } else if (look.sees !== "dark" && this.darkFromM !== null) {
      this.darkFromM = null;
      this.darkEndedM = this.wayM;
    }
    if (sense.edge === 0) {
      // The side on which more of it was seen over the last few centimetres.
      const moved = Math.max(0, this.wayM - this.weighedM);
      this.weighedM = this.wayM;
      if (look.sees === "light") return;
      this.weight += moved * look.off - Math.min(1, moved / 0.05) * this.weight;
      this.side = this.weight > 0 ? 1 : -1;
      this.nearOff += Math.min(1, moved / NEAR_M) * (look.off - this.nearOff);
    } else {
      // Beside an edge the line lies on its side, unless it was crossed just now.
      const away = sense.edge === 1 ? -1 : 1;
      const straight = (this.headingRad - this.darkFromRad) * sense.edge < 0.1;
      const crossed = straight && this.wayM - this.darkEndedM < this.aheadM * 0.7;
      this.side = crossed ? (-away as 1 | -1) : away;
    }
  }

  private sample(): void {
    if (this.look.sees === "light" || this.wayM - this.sampledM < SAMPLE_M) return;
    this.sampledM = this.wayM;
    this.headings[this.headingCount % COURSE_SAMPLES] = this.headingRad;
    this.headingCount += 1;
  }

  /** Where the line was going: a straight line through the headings of the last centimetres, by least squares. */
  private course(): void {
    const n = Math.min(COURSE_SAMPLES, this.headingCount);
    if (n < 2) {
      this.seenRad = this.headingRad;
      this.bend = 0;
      return;
    }
    let sum = 0;
    let moment = 0;
    let square = 0;
    for (let i = 0; i < n; i += 1) {
      const heading = this.headings[(this.headingCount - 1 - i) % COURSE_SAMPLES] as number;
      const at = (n - 1) / 2 - i;
      sum += heading;
      moment += at * heading;
      square += at * at;
    }
    const slope = n < COURSE_SAMPLES ? 0 : moment / square;
    // What is less than this is wobble.
    this.bend = clamp((slope > 0 ? 1 : -1) * Math.max(0, Math.abs(slope / SAMPLE_M) - WOBBLE_PER_M), 8);
    this.seenRad = sum / n + (slope * (n - 1)) / 2;
  }

  private holdsStraight(): boolean {
    return this.sense.edge === 0 || (this.darkFromM !== null && this.wayM - this.darkFromM < CROSS_M * 0.6);
  }

  /** At a line across, where one is asked for: ends, or drives on until the axle stands on it and turns. */
  private crossed(): boolean {
    const { options, look } = this;
    if (options.crossings === "straight" || look.sees !== "dark") return false;
    if (this.wayM - this.crossedM < CROSS_M * 1.5) return false;
    if (options.crossings === "stop") {
      this.ended = true;
      return true;
    }
    this.course();
    this.seenM = this.wayM;
    this.turning = options.crossings === "left" ? 1 : -1;
    this.phase = "crossing";
    return true;
  }

  private lose(): void {
    this.searched = false;
    // One spot sees so little to its sides that it looks about half-way too.
    this.sweepAtM = this.sense.edge === 0 ? this.options.bridgeM : Math.min(EDGE_SWEEP_M, this.options.bridgeM);
    this.course();
    this.turning = this.side;
    this.sawDark = false;
    this.phase = this.bridgesFirst ? "bridge" : "pass";
  }

  private found(): boolean {
    const { look, sense } = this;
    // Swinging back it first comes out of where it looked too far.
    if (this.phase === "second" && (this.headingRad - this.seenRad) * this.turning < this.sense.wideRad - SEARCH_RAD)
      return false;
    if (this.phase === "turning" && (this.headingRad - this.seenRad) * this.turning < OFF_CROSSING_RAD) return false;
    if (sense.edge === 0) return look.sees !== "light";
    // Beside an edge: coming from the light it is the near one; from the other side the dark has to be crossed.
    const toward = sense.edge === 1 ? -1 : 1;
    if (!SPINS.has(this.phase) || this.turning === toward) return look.sees !== "light";
    if (look.sees === "dark") this.sawDark = true;
    return this.sawDark && look.sees === "on";
  }

  private search(drive: DriveControl, dt: number): void {
    const { options } = this;
    if (this.phase !== "crossing" && this.found()) {
      if (this.phase === "turning") this.crossedM = this.wayM;
      this.bridgesFirst = this.phase !== "first" && this.phase !== "second" && this.phase !== "return";
      if (SPINS.has(this.phase) || this.phase === "return") this.headingCount = 0;
      this.phase = "track";
      this.seenM = this.wayM;
      this.foundM = this.wayM;
      this.curve = this.bridgesFirst ? this.bend : 0;
      this.offBefore = this.look.off;
      this.slope = 0;
      return this.track(dt);
    }
    const far = SEARCH_RAD - this.sense.wideRad;
    const gone = this.wayM - this.seenM;
    const turned = this.headingRad - this.seenRad;
    switch (this.phase) {
      case "pass":
        this.onward(this.slowMS * 1.3, gone, turned, dt);
        if (gone >= this.aheadM) this.phase = "first";
        return;
      case "crossing":
        this.onward(this.slowMS * 1.3, gone, turned, dt);
        if (gone >= this.aheadM) this.phase = "turning";
        return;
      case "turning":
        this.spin(drive, this.turning, turned, dt);
        if (turned * this.turning >= far) this.other("second");
        return;
      case "bridge":
        this.onward(options.speedMS * 0.7, gone, turned, dt);
        if (gone >= this.sweepAtM) this.sweeps();
        return;
      case "sweep":
        this.spin(drive, this.turning, turned - this.ahead, dt);
        if ((turned - this.ahead) * this.turning >= SWEEP_RAD) this.other("back");
        return;
      case "back":
        this.spin(drive, this.turning, turned - this.ahead, dt);
        if ((turned - this.ahead) * this.turning >= SWEEP_RAD) this.other("straighten");
        return;
      case "straighten":
        this.spin(drive, this.turning, turned - this.ahead, dt);
        if ((turned - this.ahead) * this.turning < -0.15) return;
        if (this.sweepAtM < options.bridgeM) {
          this.sweepAtM = options.bridgeM;
          this.phase = "bridge";
        } else if (this.searched) this.arrivedBy = "lost";
        else this.phase = "retreat";
        return;
      case "retreat":
        this.onward(-this.slowMS * 1.5, gone, turned, dt);
        if (gone <= this.aheadM) this.phase = "first";
        return;
      case "first":
        this.spin(drive, this.turning, turned, dt);
        if (turned * this.turning >= far) this.other("second");
        return;
      case "second":
        this.spin(drive, this.turning, turned, dt);
        if (turned * this.turning >= far) this.other("return");
        return;
      case "return":
        this.spin(drive, turned > 0 ? -1 : 1, turned, dt);
        if (Math.abs(turned) < 0.15) {
          this.searched = true;
          if (this.bridgesFirst) this.arrivedBy = "lost";
          else {
            this.sweepAtM = options.bridgeM;
            this.phase = "hook";
          }
        }
        return;
      case "hook":
        this.onward(this.slowMS * 1.5, gone, turned, dt);
        if (gone >= options.bridgeM) this.sweeps();
        return;
      default:
        return;
    }
  }

  /** At the far end of a gap the line may have gone on a little to the side. */
  private sweeps(): void {
    this.ahead = this.headingRad - this.seenRad;
    this.turning = this.side;
    this.sawDark = false;
    this.phase = "sweep";
  }

  private other(next: Phase): void {
    this.turning = this.turning === 1 ? -1 : 1;
    this.sawDark = false;
    this.phase = next;
  }

  /** Along the way the line had, curve included. */
  private onward(speed: number, gone: number, turned: number, dt: number): void {
    // Beside an edge a gap is crossed leaning to the line, so that it is met and not passed.
    const lean = 0.04 + 1.1 * Math.max(0, gone - 0.03);
    const off = -this.sense.edge * lean + this.bend * gone - turned;
    this.rate = clamp(6 * off, this.mostRate);
    const slow = Math.abs(off) > 0.15 ? 0.3 : 1;
    this.speedMS = approach(this.speedMS, speed * slow, this.options.rampMS2 * dt);
  }

  /** Turns to a side: on the spot, or with a steered axle on its tightest circle, back along it when it swings back. */
  private spin(drive: DriveControl, side: 1 | -1, turned: number, dt: number): void {
    const { steering } = drive.model;
    if (steering) {
      const way = turned * side < -0.05 ? -1 : 1;
      this.speedMS = approach(this.speedMS, way * this.slowMS * 1.5, this.options.rampMS2 * dt);
      this.rate = (side * Math.abs(this.speedMS)) / steering.leastRadiusM;
      return;
    }
    this.speedMS = approach(this.speedMS, 0, this.options.rampMS2 * 1.5 * dt);
    this.rate = approach(this.rate, side * this.mostRate, 30 * dt);
  }
}
