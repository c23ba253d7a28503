// The map between two views of a plane: eight numbers that take four corners of one to four corners of the other.
//
// x' = (h0 x + h1 y + h2) / (h6 x + h7 y + 1), y' likewise. From four pairs by linear equations (direct linear
// transform); two points and a length give the same for a picture taken from straight above.
import type { Point } from "../geometry/pose.js";

/** h0 … h8, h8 = 1. */
export type Homography = readonly number[];

/** Solves a linear system by elimination with row pivots. @returns null when it has no single solution */
function solve(rows: number[][]): number[] | null {
  const n = rows.length;
  for (let column = 0; column < n; column += 1) {
    let pivot = column;
    for (let r = column + 1; r < n; r += 1)
      if (Math.abs((rows[r] as number[])[column] as number) > Math.abs((rows[pivot] as number[])[column] as number))
        pivot = r;
    [rows[column], rows[pivot]] = [rows[pivot] as number[], rows[column] as number[]];
    const top = rows[column] as number[];
    const lead = top[column] as number;
    if (Math.abs(lead) < 1e-12) return null;
    for (let r = 0; r < n; r += 1) {
      if (r === column) continue;
      const row = rows[r] as number[];
      const factor = (row[column] as number) / lead;
      if (factor === 0) continue;
      for (let k = column; k <= n; k += 1) row[k] = (row[k] as number) - factor * (top[k] as number);
    }
  }
  return rows.map((row, i) => (row[n] as number) / (row[i] as number));
}

/** @returns the map that takes each of four points to its partner; null when three of them lie in one line */
export function homographyOf(from: readonly Point[], to: readonly Point[]): Homography | null {
  const rows = from.slice(0, 4).flatMap(([x, y], i) => {
    const [u, v] = to[i] as Point;
    return [
      [x, y, 1, 0, 0, 0, -u * x, -u * y, u],
      [0, 0, 0, x, y, 1, -v * x, -v * y, v],
    ];
  });
  if (rows.length !== 8) return null;
  const solved = solve(rows);
  return solved ? [...solved, 1] : null;
}

export function mapPoint(h: Homography, [x, y]: Point): Point {
  const k = h as readonly [number, number, number, number, number, number, number, number, number];
  const w = k[6] * x + k[7] * y + k[8];
  return [(k[0] * x + k[1] * y + k[2]) / w, (k[3] * x + k[4] * y + k[5]) / w];
}

/** Whether four corners go round a convex shape that is not folded. */
export function isQuad(corners: readonly Point[]): boolean {
  if (corners.length !== 4) return false;
  const turns = corners.map((a, i) => {
    const b = corners[(i + 1) % 4] as Point;
    const c = corners[(i + 2) % 4] as Point;
    return (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]);
  });
  return turns.every((turn) => turn > 1e-9) || turns.every((turn) => turn < -1e-9);
}
