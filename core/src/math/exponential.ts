// Exponential and natural logarithm with the same bits in every engine; see trig.ts for why.
// Kernels of fdlibm 5.3 (Sun Microsystems, 1993), powers of two by exact doubling.

const LN2_HIGH = 6.9314718036912381649e-1;
const LN2_LOW = 1.90821492927058770002e-10;
const LOG2_E = 1.4426950408889634;

function timesPowerOfTwo(value: number, power: number): number {
  let result = value;
  let left = power;
  for (; left > 0; left -= 1) result *= 2;
  for (; left < 0; left += 1) result *= 0.5;
  return result;
}

/** e to the x. Infinity above 709.78, 0 below -745. */
export function exp(x: number): number {
  if (Number.isNaN(x)) return x;
  if (x > 709.78) return Number.POSITIVE_INFINITY;
  if (x < -745) return 0;
  const k = Math.floor(x * LOG2_E + 0.5);
  const high = x - k * LN2_HIGH;
  const low = k * LN2_LOW;
  const r = high - low;
  const t = r * r;
  const c =
    r -
    t *
      (1.66666666666666019037e-1 +
        t *
          (-2.77777777770155933842e-3 +
            t * (6.61375632143793436117e-5 + t * (-1.6533902205465251539e-6 + t * 4.13813679705723846039e-8))));
  return timesPowerOfTwo(1 - (low - (r * c) / (2 - c) - high), k);
}

/** Natural logarithm. -Infinity at 0, NaN below. */
export function log(x: number): number {
  if (Number.isNaN(x) || x < 0) return Number.NaN;
  if (x === 0) return Number.NEGATIVE_INFINITY;
  if (x === Number.POSITIVE_INFINITY) return x;
  let k = 0;
  let m = x;
  for (; m >= 1.4142135623730951; k += 1) m *= 0.5;
  for (; m < 0.7071067811865476; k -= 1) m *= 2;
  const f = m - 1;
  const s = f / (2 + f);
  const z = s * s;
  const w = z * z;
  const even = w * (3.999999999940941908e-1 + w * (2.222219843214978396e-1 + w * 1.531383769920937332e-1));
  const odd =
    z *
    (6.66666666666673513e-1 +
      w * (2.857142874366239149e-1 + w * (1.818357216161805012e-1 + w * 1.479819860511658591e-1)));
  const halfSquare = 0.5 * f * f;
  return k * LN2_HIGH - (halfSquare - (s * (halfSquare + even + odd) + k * LN2_LOW) - f);
}
