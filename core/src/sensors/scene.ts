// What sensors look at: fixed things with heights and shades, loads where they are now, the floor, the plates.

import { type LinearRgb, linearRgb } from "../field/colours.js";
import { type SolidFace, solidFaces } from "../field/edges.js";
import { FloorLight } from "../field/light.js";
import type { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import { discDistance, faceDistance } from "../geometry/ray.js";
import { cos, sin } from "../math/trig.js";
import type { Body, BodyShape } from "../physics/body.js";
import type { World } from "../physics/world.js";
import { Cone } from "./cone.js";

const LOAD_REFLECTANCE = 0.6;

/** Nearest thing along a ray. */
export interface RayHit {
  /** m; infinite when nothing is met. */
  distance: number;
  /** Cosine between ray and the face's normal: 1 square on, 0 grazing. */
  square: number;
  reflectance: number;
  /** Rough things send an echo back however slanted they are met. */
  rough: boolean;
  /** Index of the load met, or -1. */
  load: number;
}

interface FixedFace {
  readonly ax: number;
  readonly ay: number;
  readonly bx: number;
  readonly by: number;
  readonly heightM: number;
  readonly reflectance: number;
}

/** Pose of the robot's frame, as numbers that change in place. */
interface FramePose {
  xM: number;
  yM: number;
  headingRad: number;
  cosH: number;
  sinH: number;
}

export class SensorScene {
  readonly frame: FramePose = { xM: 0, yM: 0, headingRad: 0, cosH: 1, sinH: 0 };
  readonly loadColours: readonly LinearRgb[];
  readonly tags: readonly {
    readonly xM: number;
    readonly yM: number;
    readonly sizeM: number;
    readonly rgb: LinearRgb;
  }[];
  /** Light of the room on the floor. */
  readonly light: FloorLight;
  private readonly solids: readonly SolidFace[];
  private readonly faces: readonly FixedFace[];
  private readonly boulders: Field["boulders"];
  private readonly cone = new Cone();

  constructor(
    readonly field: Field,
    readonly floor: FloorRaster,
    readonly world: World,
    private readonly comX: number,
    private readonly comY: number,
  ) {
    this.solids = solidFaces(field);
    this.faces = this.solids.map(({ ends: [a, b], heightM, reflectance }) => ({
      ax: a[0],
      ay: a[1],
      bx: b[0],
      by: b[1],
      heightM,
      reflectance,
    }));
    this.light = new FloorLight(field, this.solids);
    this.boulders = field.boulders;
    this.loadColours = field.loads.map((load) => linearRgb(load.colour));
    this.tags = field.tags.map(({ xM, yM, sizeM, colour }) => ({ xM, yM, sizeM, rgb: linearRgb(colour) }));
    this.update();
  }

  /** What of it never changes in a run. */
  get fixed(): readonly object[] {
    return [this.field, this.floor, this.light, this.solids, this.faces, this.boulders, this.loadColours, this.tags];
  }

  /** Takes in where the robot stands now. */
  update(): void {
    const { frame, world } = this;
    frame.headingRad = world.headingRad;
    frame.cosH = cos(world.headingRad);
    frame.sinH = sin(world.headingRad);
    frame.xM = world.xM - frame.cosH * this.comX + frame.sinH * this.comY;
    frame.yM = world.yM - frame.sinH * this.comX - frame.cosH * this.comY;
  }

  /**
   * What a cone meets, at a height: faces, boulders, and loads as they stand now.
   * @param middleRad - direction of its middle, world; silentRad - faces met more slantingly do not answer
   */
  look(x: number, y: number, zM: number, middleRad: number, coneRad: number, farM: number, silentRad: number): Cone {
    const { cone } = this;
    cone.begin(x, y, middleRad, coneRad, farM, silentRad);
    for (let i = 0; i < this.faces.length; i += 1) {
      const face = this.faces[i] as FixedFace;
      if (face.heightM > zM) cone.face(face.ax, face.ay, face.bx, face.by, face.reflectance, false, i);
    }
    for (let i = 0; i < this.boulders.length; i += 1) {
      const { xM, yM, radiusM, heightM, reflectance } = this.boulders[i] as Field["boulders"][number];
      if (heightM > zM) cone.disc(xM, yM, radiusM, reflectance, this.faces.length + i);
    }
    this.addLoads(x, y, zM, farM);
    return cone;
  }

  private addLoads(x: number, y: number, zM: number, farM: number): void {
    const { bodies, held } = this.world;
    const first = this.faces.length + this.boulders.length;
    for (let i = 1; i < bodies.length; i += 1) {
      const body = bodies[i] as Body;
      const shape = body.shapes[0] as BodyShape;
      // A load on the fork hangs higher, but sensors that look over a standing one still do.
      if (shape.highM <= zM && body !== held) continue;
      const ox = body.midX - x;
      const oy = body.midY - y;
      const reach = farM + body.boundM;
      if (ox * ox + oy * oy > reach * reach) continue;
      const id = first + i - 1;
      if (shape.radiusM > 0) {
        this.cone.disc(body.midX, body.midY, shape.radiusM, LOAD_REFLECTANCE, id);
        continue;
      }
      const n = shape.worldX.length;
      for (let k = 0; k < n; k += 1) {
        const j = k + 1 === n ? 0 : k + 1;
        const ax = shape.worldX[k] as number;
        const ay = shape.worldY[k] as number;
        const bx = shape.worldX[j] as number;
        const by = shape.worldY[j] as number;
        // Corners run counter-clockwise: what turns its back is hidden by the rest of the load.
        if ((bx - ax) * (y - ay) - (by - ay) * (x - ax) >= 0) continue;
        this.cone.face(ax, ay, bx, by, LOAD_REFLECTANCE, false, id);
      }
    }
  }

  /** What a thing of a look is called: its own name, or its kind and number. */
  nameOf(id: number): string {
    const { field } = this;
    const { boulders, loads } = field;
    if (id < 0) return "";
    const solid = this.solids[id];
    if (solid) return solid.name;
    const boulder = id - this.faces.length;
    if (boulder < boulders.length) return boulders[boulder]?.name ?? `boulder ${boulder + 1}`;
    return loads[boulder - boulders.length]?.name ?? "";
  }

  /** Nearest thing along a ray at a height. @param dx - unit direction, world; mostM - how far it matters */
  ray(x: number, y: number, zM: number, dx: number, dy: number, mostM: number, hit: RayHit): void {
    hit.distance = Number.POSITIVE_INFINITY;
    hit.load = -1;
    let best = mostM;
    for (const face of this.faces) {
      // Both ends on one side of the ray: it passes by.
      const a = (face.ax - x) * dy - (face.ay - y) * dx;
      const b = (face.bx - x) * dy - (face.by - y) * dx;
      if ((a > 0 && b > 0) || (a < 0 && b < 0) || face.heightM <= zM) continue;
      const t = faceDistance(x, y, dx, dy, face.ax, face.ay, face.bx, face.by);
      if (t >= best) continue;
      best = t;
      hit.square = squareness(dx, dy, face.bx - face.ax, face.by - face.ay);
      hit.reflectance = face.reflectance;
      hit.rough = false;
      hit.load = -1;
    }
    for (const boulder of this.boulders) {
      if (boulder.heightM <= zM) continue;
      const t = discDistance(x, y, dx, dy, boulder.xM, boulder.yM, boulder.radiusM);
      if (t >= best) continue;
      best = t;
      hit.square = 1;
      hit.reflectance = boulder.reflectance;
      hit.rough = true;
      hit.load = -1;
    }
    best = this.rayLoads(x, y, zM, dx, dy, best, hit);
    if (best < mostM) hit.distance = best;
  }

  private rayLoads(x: number, y: number, zM: number, dx: number, dy: number, mostM: number, hit: RayHit): number {
    const { bodies, held } = this.world;
    let best = mostM;
    for (let i = 1; i < bodies.length; i += 1) {
      const body = bodies[i] as Body;
      const shape = body.shapes[0] as BodyShape;
      // A load on the fork hangs higher, but sensors that look over a standing one still do.
      if (shape.highM <= zM && body !== held) continue;
      const ox = body.midX - x;
      const oy = body.midY - y;
      const along = ox * dx + oy * dy;
      const off = ox * dy - oy * dx;
      if (along < -body.boundM || Math.abs(off) > body.boundM || along - body.boundM > best) continue;
      if (shape.radiusM > 0) {
        const t = discDistance(x, y, dx, dy, body.midX, body.midY, shape.radiusM);
        if (t < best) {
          best = t;
          hit.square = 1;
          hit.rough = true;
          hit.reflectance = LOAD_REFLECTANCE;
          hit.load = i - 1;
        }
        continue;
      }
      const n = shape.worldX.length;
      for (let k = 0; k < n; k += 1) {
        const j = k + 1 === n ? 0 : k + 1;
        const ax = shape.worldX[k] as number;
        const ay = shape.worldY[k] as number;
        const bx = shape.worldX[j] as number;
        const by = shape.worldY[j] as number;
        const t = faceDistance(x, y, dx, dy, ax, ay, bx, by);
        if (t >= best) continue;
        best = t;
        hit.square = squareness(dx, dy, bx - ax, by - ay);
        hit.rough = false;
        hit.reflectance = LOAD_REFLECTANCE;
        hit.load = i - 1;
      }
    }
    return best;
  }
}

function squareness(dx: number, dy: number, ex: number, ey: number): number {
  const size = Math.sqrt(ex * ex + ey * ey);
  return Math.abs(dx * ey - dy * ex) / size;
}
