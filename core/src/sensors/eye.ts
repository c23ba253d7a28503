// A distance sensor: an ultrasonic pulse in a cone; the nearest thing that answers anywhere in it wins.
//
// Sound takes 2 d / 343 m/s, and a new ping starts every cycle; control sees the newest delivered reading. No
// echo comes back from smooth faces met too slantingly, from beyond the far limit, or at times at all. While
// its head moves no ping is sent: the reading is stale.
import type { RandomStream } from "../math/random.js";
import type { ConeAnswer } from "./cone.js";
import type { SensorScene } from "./scene.js";

/** Speed of sound at 20 deg C, m/s. */
export const SOUND_M_S = 343;
export interface EyeTruth {
  readonly xM: number;
  readonly yM: number;
  readonly zM: number;
  readonly aimRad: number;
  readonly coneRad: number;
  readonly nearM: number;
  readonly farM: number;
  readonly noiseM: number;
  readonly offsetM: number;
  readonly cycleTicks: number;
  /** Smooth faces met more slantingly than this against their normal send nothing back, rad. */
  readonly silentRad: number;
  readonly dropOut: number;
  /** What something nearer than the near limit reads as. */
  readonly nearReads: "nearest" | "nothing";
}

const answer: ConeAnswer = { distance: 0, reflectance: 0, bearingRad: 0, id: -1 };

export class EyeSensor {
  /** Newest delivered reading; the far limit when nothing was seen. */
  distanceM: number;
  seen = false;
  /** Ticks since the delivered ping was sent. */
  ageTicks = 0;
  /** What the newest delivered echo came from, as the scene numbers it; -1 for silence. */
  source = -1;
  private pendingSource = -1;
  private pendingM = 0;
  private pendingSeen = false;
  private deliverIn = -1;
  private untilPing = 0;
  /** Pings sent so far. */
  pings = 0;

  constructor(
    readonly truth: EyeTruth,
    private readonly chance: RandomStream | null,
  ) {
    this.distanceM = truth.farM;
  }

  /** @param headRad - angle of its head against the chassis; headStill - whether the head has settled */
  tick(scene: SensorScene, headRad: number, headStill: boolean, tickSec: number): void {
    this.ageTicks += 1;
    if (this.deliverIn >= 0) {
      if (this.deliverIn === 0) {
        this.distanceM = this.pendingM;
        this.seen = this.pendingSeen;
        this.source = this.pendingSource;
        this.ageTicks = 0;
      }
      this.deliverIn -= 1;
    }
    if (this.untilPing > 0) {
      this.untilPing -= 1;
      if (this.untilPing > 0) return;
    }
    if (!headStill) return;
    this.untilPing = this.truth.cycleTicks;
    this.pings += 1;
    this.ping(scene, headRad, tickSec);
  }

  private ping(scene: SensorScene, headRad: number, tickSec: number): void {
    const { truth, chance } = this;
    const distance = this.echo(scene, headRad);
    const missed = chance !== null && chance.uniform() < truth.dropOut;
    const noise = chance ? truth.noiseM * chance.normal() : 0;
    const tooNear = distance < truth.nearM;
    const heard = distance <= truth.farM && !missed && !(tooNear && truth.nearReads === "nothing");
    const read = (tooNear ? truth.nearM : distance) + truth.offsetM + noise;
    this.pendingSeen = heard;
    this.pendingSource = heard ? answer.id : -1;
    this.pendingM = heard ? Math.max(0, Math.min(truth.farM, read)) : truth.farM;
    const soundSec = heard ? (2 * distance) / SOUND_M_S : truth.cycleTicks * tickSec;
    this.deliverIn = Math.min(truth.cycleTicks, Math.floor(soundSec / tickSec + 0.999999)) - 1;
    if (this.deliverIn < 0) this.deliverIn = 0;
  }

  /** Distance to the nearest thing that sends an echo back, m; infinite for silence. */
  echo(scene: SensorScene, headRad: number): number {
    const { truth } = this;
    const { frame } = scene;
    const x = frame.xM + frame.cosH * truth.xM - frame.sinH * truth.yM;
    const y = frame.yM + frame.sinH * truth.xM + frame.cosH * truth.yM;
    const middle = frame.headingRad + truth.aimRad + headRad;
    scene.look(x, y, truth.zM, middle, truth.coneRad, truth.farM, truth.silentRad).answer(answer);
    return answer.distance;
  }
}
