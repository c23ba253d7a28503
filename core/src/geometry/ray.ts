// Where rays meet segments and discs.

/**
 * Distance along a ray to a segment, in lengths of the ray's direction; infinite when it passes by.
 * @param least - a cross product of both directions below this counts as parallel
 */
export function faceDistance(
  x: number,
  y: number,
  dx: number,
  dy: number,
  ax: number,
  ay: number,
  bx: number,
  by: number,
  least = 1e-12,
): number {
  const ex = bx - ax;
  const ey = by - ay;
  const cross = dx * ey - dy * ex;
  if (Math.abs(cross) < least) return Number.POSITIVE_INFINITY;
  const ox = ax - x;
  const oy = ay - y;
  const t = (ox * ey - oy * ex) / cross;
  const u = (ox * dy - oy * dx) / cross;
  return t >= 0 && u >= 0 && u <= 1 ? t : Number.POSITIVE_INFINITY;
}

/** Distance along a ray to a disc; 0 from inside, infinite when it passes by. */
export function discDistance(
  x: number,
  y: number,
  dx: number,
  dy: number,
  cx: number,
  cy: number,
  radius: number,
): number {
  const ox = cx - x;
  const oy = cy - y;
  const along = ox * dx + oy * dy;
  const off = ox * ox + oy * oy - along * along;
  const inside = radius * radius - off;
  if (inside < 0) return Number.POSITIVE_INFINITY;
  const t = along - Math.sqrt(inside);
  return t >= 0 ? t : along + Math.sqrt(inside) >= 0 ? 0 : Number.POSITIVE_INFINITY;
}
