// One contact patch that resists sliding: the impulse that stops it, or the largest allowed one that
// opposes the sliding it leaves.
//
// Clamping the stopping impulse to the limit is wrong where the 2 × 2 response is not a multiple of the
// identity: skid turns come out at a sixth of their rate. So (K + λI) P = -b is solved with |P| = limit,
// which makes P point against the velocity that remains (principle of maximum dissipation).

const NEWTON_STEPS = 6;
/** A patch that can give less than this, N s, gives nothing; the ratios below would overflow. */
const LEAST_LIMIT = 1e-12;

/** Result of the last solve; one object so that a step allocates nothing. */
export interface PatchImpulse {
  forward: number;
  side: number;
}

/**
 * @param kff - response of forward velocity to forward impulse, 1/kg; kfs, kss likewise, symmetric
 * @param bf - forward velocity with no impulse from this patch, m/s; bs sideways
 * @param limit - largest impulse, N s
 * @param out - receives the impulse
 */
export function solvePatch(
  kff: number,
  kfs: number,
  kss: number,
  bf: number,
  bs: number,
  limit: number,
  out: PatchImpulse,
): void {
  if (limit < LEAST_LIMIT) {
    out.forward = 0;
    out.side = 0;
    return;
  }
  let determinant = kff * kss - kfs * kfs;
  let pf = (-bf * kss + bs * kfs) / determinant;
  let ps = (-bs * kff + bf * kfs) / determinant;
  let size = Math.sqrt(pf * pf + ps * ps);
  if (size > limit) {
    let lambda = 0;
    for (let i = 0; i < NEWTON_STEPS; i += 1) {
      const a = kff + lambda;
      const d = kss + lambda;
      determinant = a * d - kfs * kfs;
      // Newton on 1/|P| - 1/limit, which is concave in λ: converges from λ = 0 without overshoot.
      const qf = (pf * d - ps * kfs) / determinant;
      const qs = (ps * a - pf * kfs) / determinant;
      lambda += ((size * size) / (pf * qf + ps * qs)) * ((size - limit) / limit);
      const a2 = kff + lambda;
      const d2 = kss + lambda;
      determinant = a2 * d2 - kfs * kfs;
      pf = (-bf * d2 + bs * kfs) / determinant;
      ps = (-bs * a2 + bf * kfs) / determinant;
      size = Math.sqrt(pf * pf + ps * ps);
      if (size - limit < 1e-9 * limit) break;
    }
    const scale = limit / size;
    pf *= scale;
    ps *= scale;
  }
  out.forward = pf;
  out.side = ps;
}
