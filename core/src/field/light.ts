// Light of the room on the floor, as a share of the light that sensors are stated for: an even level, and a lamp.
//
// A small lamp at height h over its foot lights the floor at distance r with level · h³ / (r² + h²)^(3/2): the inverse
// square law and Lambert's cosine, 1 · level right below it. What stands between lamp and floor casts a shadow with a
// sharp edge. Robots and loads cast none.

import type { Point } from "../geometry/pose.js";
import { faceDistance } from "../geometry/ray.js";
import type { SolidFace } from "./edges.js";
import type { Field } from "./schema.js";

/** @returns share of the lamp's level at a distance from its foot */
export function lampShare(heightM: number, distanceM: number): number {
  const square = distanceM * distanceM + heightM * heightM;
  return (heightM * heightM * heightM) / (square * Math.sqrt(square));
}

export class FloorLight {
  private readonly level: number;
  private readonly lamp: NonNullable<Field["light"]>["lamp"] | null;

  constructor(
    private readonly field: Pick<Field, "light" | "boulders">,
    private readonly solids: readonly SolidFace[],
  ) {
    this.level = field.light?.level ?? 1;
    this.lamp = field.light?.lamp ?? null;
  }

  /** @returns light at a place, 1 for that of an ordinary room */
  at(xM: number, yM: number): number {
    const { lamp, level } = this;
    if (!lamp) return level;
    const distance = Math.sqrt((lamp.xM - xM) ** 2 + (lamp.yM - yM) ** 2);
    return level + (this.shaded(xM, yM) ? 0 : lamp.level * lampShare(lamp.heightM, distance));
  }

  /** Whether something stands between a place and the lamp: what is as high as the ray where it is met. */
  shaded(xM: number, yM: number): boolean {
    const { lamp } = this;
    if (!lamp) return false;
    const dx = lamp.xM - xM;
    const dy = lamp.yM - yM;
    for (const { ends, heightM } of this.solids) {
      const t = crossing(xM, yM, dx, dy, ends[0], ends[1]);
      if (t >= 0 && heightM > t * lamp.heightM) return true;
    }
    const square = dx * dx + dy * dy;
    for (const { xM: bx, yM: by, radiusM, heightM } of this.field.boulders) {
      const along = square > 0 ? ((bx - xM) * dx + (by - yM) * dy) / square : 0;
      const off = (xM + along * dx - bx) ** 2 + (yM + along * dy - by) ** 2;
      if (off > radiusM * radiusM) continue;
      // Where the ray enters it, seen from the floor: a boulder is as high all over.
      const half = square > 0 ? Math.sqrt((radiusM * radiusM - off) / square) : 0;
      if (along + half < 0 || along - half > 1) continue;
      if (heightM > Math.max(0, along - half) * lamp.heightM) return true;
    }
    return false;
  }
}

/** Share of the way at which a segment is crossed; -1 where it is not. */
function crossing(x: number, y: number, dx: number, dy: number, a: Point, b: Point): number {
  const t = faceDistance(x, y, dx, dy, a[0], a[1], b[0], b[1], 1e-15);
  return t > 0 && t < 1 ? t : -1;
}
