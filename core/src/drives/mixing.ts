// How the shafts of a drive with rollers move it together, and what each has to do for a motion of the whole.
//
// A wheel with rollers holds the floor along its rollers' axles and rolls freely across them. Its rim runs with
// s = (u · g) / cos α: u the velocity of its contact point, g the direction of the axle, α the angle between rolling and axle.
import { cos, sin } from "../math/trig.js";
import type { Wheel } from "./parts.js";

/** One wheel: rim speed, m/s, for 1 m/s forward, for 1 m/s to the left, and for 1 rad/s left round. */
export interface ShaftRow {
  readonly forward: number;
  readonly left: number;
  readonly turn: number;
}

export interface Mixing {
  /** In the order of the shafts. */
  readonly rows: readonly ShaftRow[];
  /** Of each shaft: how much 1 m/s at its rim adds to the speeds of the whole (least squares). */
  readonly back: readonly ShaftRow[];
}

/** What was found about a drive against its drawing, as factors. */
interface MixingShares {
  /** Way to the left over what the wheels say. */
  readonly slide: number;
  /** Width it turns with over the drawn one. */
  readonly turn: number;
}

/** The row of a wheel as drawn. A wheel without rollers counts as one whose rollers lie across. */
export function rowOf({ xM, yM, aimRad, rollers }: Wheel): ShaftRow {
  const axle = rollers?.axleRad ?? 0;
  const forward = cos(aimRad + axle) / cos(axle);
  const left = sin(aimRad + axle) / cos(axle);
  return { forward, left, turn: xM * left - yM * forward };
}

/** Smallest determinant of the rows that still moves the robot in every direction. */
const LEAST_DETERMINANT = 1e-9;

/** @returns null when some motion of the whole is one that no wheel can push */
export function mixingOf(wheels: readonly Wheel[], { slide, turn }: MixingShares): Mixing | null {
  const rows = wheels.map((wheel): ShaftRow => {
    const row = rowOf(wheel);
    return { forward: row.forward, left: row.left / slide, turn: row.turn * turn };
  });
  const sum = (a: keyof ShaftRow, b: keyof ShaftRow) => rows.reduce((total, row) => total + row[a] * row[b], 0);
  const [ff, fl, ft] = [sum("forward", "forward"), sum("forward", "left"), sum("forward", "turn")];
  const [ll, lt, tt] = [sum("left", "left"), sum("left", "turn"), sum("turn", "turn")];
  // Inverse of the symmetric AᵀA by its cofactors.
  const c = [
    ll * tt - lt * lt,
    ft * lt - fl * tt,
    fl * lt - ft * ll,
    ff * tt - ft * ft,
    fl * ft - ff * lt,
    ff * ll - fl * fl,
  ];
  const [cff, cfl, cft, cll, clt, ctt] = c as [number, number, number, number, number, number];
  const determinant = ff * cff + fl * cfl + ft * cft;
  if (!(Math.abs(determinant) > LEAST_DETERMINANT * tt * tt)) return null;
  const back = rows.map(
    ({ forward, left, turn: round }): ShaftRow => ({
      forward: (cff * forward + cfl * left + cft * round) / determinant,
      left: (cfl * forward + cll * left + clt * round) / determinant,
      turn: (cft * forward + clt * left + ctt * round) / determinant,
    }),
  );
  return { rows, back };
}
