// Sloping parts of the floor. The world stays a plane seen from above: what stands on a slope θ is pulled down it by
// m g sin θ and presses on it with m g cos θ. Lengths along the slope are kept as they are on the plan.
import { containsPoint } from "../geometry/polygon.js";
import { cos, sin } from "../math/trig.js";
import { GRAVITY } from "./constants.js";
import type { RampSpec } from "./parts.js";

interface Slope {
  readonly cornersM: RampSpec["cornersM"];
  /** Pull of gravity along the plan, m/s². */
  readonly pullX: number;
  readonly pullY: number;
  /** Share of the weight that presses on the floor. */
  readonly press: number;
}

/** What a slope does at a place. */
export interface Pull {
  x: number;
  y: number;
  /** cos θ. */
  press: number;
}

export class Ramps {
  private readonly slopes: readonly Slope[];

  constructor(ramps: readonly RampSpec[]) {
    this.slopes = ramps.map(({ cornersM, slopeRad, upRad }) => {
      const down = -GRAVITY * sin(slopeRad);
      return { cornersM, pullX: down * cos(upRad), pullY: down * sin(upRad), press: cos(slopeRad) };
    });
  }

  get none(): boolean {
    return this.slopes.length === 0;
  }

  /** The pull at a place; where ramps lie over one another the last one counts. */
  at(xM: number, yM: number, out: Pull): void {
    out.x = 0;
    out.y = 0;
    out.press = 1;
    for (let i = this.slopes.length - 1; i >= 0; i -= 1) {
      const slope = this.slopes[i] as Slope;
      if (!containsPoint(slope.cornersM, [xM, yM])) continue;
      out.x = slope.pullX;
      out.y = slope.pullY;
      out.press = slope.press;
      return;
    }
  }
}
