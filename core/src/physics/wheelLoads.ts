// How the weight lies on wheels and casters: a rigid chassis on equal springs, N = A + B·x + C·y, so that
// the loads sum to the weight and balance the moments of the accelerations.
import { GRAVITY } from "./constants.js";

export class WheelLoads {
  /** Load on each support, N, in the order given. */
  readonly loadsN: Float64Array;
  /** True while a support carries nothing: the robot is about to tip. */
  tipping = false;
  private readonly xM: Float64Array;
  private readonly yM: Float64Array;
  private readonly inverse: Float64Array;
  private readonly weightN: number;
  private readonly massTimesHeight: number;
  /** What is carried: weight, its moments about the centre of mass, and mass times height. */
  private carriedN = 0;
  private carriedX = 0;
  private carriedY = 0;
  private carriedHeight = 0;

  /** @param supports - x, y of each support relative to the centre of mass, m, at least three not in one line */
  constructor(supports: readonly (readonly [number, number])[], massKg: number, comHeightM: number) {
    this.loadsN = new Float64Array(supports.length);
    this.xM = Float64Array.from(supports, ([x]) => x);
    this.yM = Float64Array.from(supports, ([, y]) => y);
    this.weightN = massKg * GRAVITY;
    this.massTimesHeight = massKg * comHeightM;
    this.inverse = invertNormal(this.xM, this.yM);
    this.update(0, 0);
  }

  /** Sets what the robot carries besides itself: mass, its place against the centre of mass, its height. */
  carry(massKg: number, xM: number, yM: number, heightM: number): void {
    this.carriedN = massKg * GRAVITY;
    this.carriedX = this.carriedN * xM;
    this.carriedY = this.carriedN * yM;
    this.carriedHeight = massKg * heightM;
  }

  /**
   * @param forward - acceleration of the centre of mass along x of the robot, m/s²; left along y
   * @param press - share of the weight that presses on the floor: cos θ on a slope
   */
  update(forward: number, left: number, press = 1): void {
    const weight = (this.weightN + this.carriedN) * press;
    const height = this.massTimesHeight + this.carriedHeight;
    const momentX = this.carriedX * press - height * forward;
    const momentY = this.carriedY * press - height * left;
    const k = this.inverse as unknown as readonly number[];
    const at = (i: number) => k[i] as number;
    const a = at(0) * weight + at(1) * momentX + at(2) * momentY;
    const b = at(3) * weight + at(4) * momentX + at(5) * momentY;
    const c = at(6) * weight + at(7) * momentX + at(8) * momentY;
    let sum = 0;
    this.tipping = false;
    for (let i = 0; i < this.loadsN.length; i += 1) {
      let load = a + b * (this.xM[i] as number) + c * (this.yM[i] as number);
      if (load <= 0) {
        load = 0;
        this.tipping = true;
      }
      this.loadsN[i] = load;
      sum += load;
    }
    if (!this.tipping || sum <= 0) return;
    const scale = weight / sum;
    for (let i = 0; i < this.loadsN.length; i += 1) this.loadsN[i] = (this.loadsN[i] as number) * scale;
  }
}

/** Inverse of [[n, Σx, Σy], [Σx, Σxx, Σxy], [Σy, Σxy, Σyy]], row by row. */
function invertNormal(x: Float64Array, y: Float64Array): Float64Array {
  let sx = 0;
  let sy = 0;
  let sxx = 0;
  let sxy = 0;
  let syy = 0;
  for (let i = 0; i < x.length; i += 1) {
    const xi = x[i] as number;
    const yi = y[i] as number;
    sx += xi;
    sy += yi;
    sxx += xi * xi;
    sxy += xi * yi;
    syy += yi * yi;
  }
  const n = x.length;
  const c00 = sxx * syy - sxy * sxy;
  const c01 = sy * sxy - sx * syy;
  const c02 = sx * sxy - sy * sxx;
  const determinant = n * c00 + sx * c01 + sy * c02;
  if (!(Math.abs(determinant) > 1e-18))
    throw new RangeError("wheels and caster stand in one line: nothing holds the robot up");
  const c11 = n * syy - sy * sy;
  const c12 = sx * sy - n * sxy;
  const c22 = n * sxx - sx * sx;
  return Float64Array.of(c00, c01, c02, c01, c11, c12, c02, c12, c22).map((value) => value / determinant);
}
