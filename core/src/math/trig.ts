// Sine, cosine, tangent and arc tangent that give the same bits in every JavaScript engine.
//
// Math.sin and its kin may differ in the last bit between engines; these use only + - * / and floor, which
// IEEE 754 fixes. Polynomial kernels and split constants are those of fdlibm 5.3 (Sun Microsystems, 1993);
// error below 1 unit in the last place for |x| < 1e5 rad.

const TWO_OVER_PI = 6.36619772367581382433e-1;
const HALF_PI_1 = 1.57079632673412561417;
const HALF_PI_2 = 6.0771005063039659766e-11;
const HALF_PI_3 = 2.02226624879595063154e-21;

export const PI = 3.141592653589793;
export const TAU = 6.283185307179586;

function sinKernel(x: number): number {
  const z = x * x;
  const tail =
    8.33333333332248946124e-3 +
    z *
      (-1.98412698298579493134e-4 +
        z * (2.75573137070700676789e-6 + z * (-2.50507602534068634195e-8 + z * 1.58969099521155010221e-10)));
  return x + z * x * (-1.66666666666666324348e-1 + z * tail);
}

function cosKernel(x: number): number {
  const z = x * x;
  const tail =
    z *
    (4.16666666666666019037e-2 +
      z *
        (-1.38888888888741095749e-3 +
          z *
            (2.48015872894767294178e-5 +
              z * (-2.75573143513906633035e-7 + z * (2.0875723212981748279e-9 + z * -1.13596475577881948265e-11)))));
  const half = 0.5 * z;
  const w = 1 - half;
  return w + (1 - w - half + z * tail);
}

function quadrantOf(x: number): number {
  return Math.floor(x * TWO_OVER_PI + 0.5);
}

function remainder(x: number, quadrant: number): number {
  return x - quadrant * HALF_PI_1 - quadrant * HALF_PI_2 - quadrant * HALF_PI_3;
}

/** Sine of x radians. NaN for a value that is not finite. */
export function sin(x: number): number {
  if (x < 0.785 && x > -0.785) return sinKernel(x);
  const quadrant = quadrantOf(x);
  const r = remainder(x, quadrant);
  switch (((quadrant % 4) + 4) % 4) {
    case 0:
      return sinKernel(r);
    case 1:
      return cosKernel(r);
    case 2:
      return -sinKernel(r);
    default:
      return -cosKernel(r);
  }
}

/** Cosine of x radians. NaN for a value that is not finite. */
export function cos(x: number): number {
  if (x < 0.785 && x > -0.785) return cosKernel(x);
  const quadrant = quadrantOf(x);
  const r = remainder(x, quadrant);
  switch (((quadrant % 4) + 4) % 4) {
    case 0:
      return cosKernel(r);
    case 1:
      return -sinKernel(r);
    case 2:
      return -cosKernel(r);
    default:
      return sinKernel(r);
  }
}

/** Tangent of x radians. */
export function tan(x: number): number {
  return sin(x) / cos(x);
}

const ATAN_POLYNOMIAL = [
  3.33333333333329318027e-1, -1.99999999998764832476e-1, 1.42857142725034663711e-1, -1.1111110405462355788e-1,
  9.09088713343650656196e-2, -7.69187620504482999495e-2, 6.66107313738753120669e-2, -5.83357013379057348645e-2,
  4.97687799461593236017e-2, -3.6531572744216915527e-2, 1.62858201153657823623e-2,
] as const;

function atanKernel(x: number): number {
  const z = x * x;
  let sum = 0;
  for (let i = ATAN_POLYNOMIAL.length - 1; i >= 0; i -= 1) sum = z * (sum + (ATAN_POLYNOMIAL[i] as number));
  return x - x * sum;
}

/** Arc tangent, radians in [-pi/2, pi/2]. */
export function atan(x: number): number {
  const a = x < 0 ? -x : x;
  let result: number;
  if (a < 0.4375) result = atanKernel(a);
  else if (a < 0.6875) result = 4.63647609000806093515e-1 + atanKernel((2 * a - 1) / (2 + a));
  else if (a < 1.1875) result = 7.85398163397448278999e-1 + atanKernel((a - 1) / (a + 1));
  else if (a < 2.4375) result = 9.82793723247329054082e-1 + atanKernel((a - 1.5) / (1 + 1.5 * a));
  else result = 1.570796326794896558 + atanKernel(-1 / a);
  return x < 0 ? -result : result;
}

/** Angle of the point (x, y), radians in (-pi, pi]; 0 for the origin. */
export function atan2(y: number, x: number): number {
  if (x > 0) return atan(y / x);
  if (x < 0) return y >= 0 ? atan(y / x) + PI : atan(y / x) - PI;
  if (y > 0) return PI / 2;
  return y < 0 ? -PI / 2 : 0;
}
