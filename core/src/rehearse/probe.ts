// What a robot's sensors read where it is put down: an ideal rehearsal that only waits, looked at when every sensor has
// delivered. Its readings are those of a rehearsal there because they are one.

import { readingsOf, SLOT } from "../cairn/readings.js";
import { COLOUR_NAMES } from "../field/colours.js";
import { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import type { Pose } from "../geometry/pose.js";
import { cos, PI, sin } from "../math/trig.js";
import type { Robot } from "../robot/schema.js";
import type { RayHit } from "../sensors/scene.js";
import { bodyPose } from "../simulate/fromRobot.js";
import { type PreparedMission, prepareMission } from "./prepare.js";
import { Rehearsal } from "./rehearsal.js";

const WAITING = "cairn 1\nmission\n  wait 0.5 s\n";
/** Ticks until the slowest sensor has delivered: two pings of a distance sensor. */
const TICKS = 45;

export interface ProbeReading {
  /** As a mission writes it: "eyes.left.light". */
  readonly id: string;
  /** The number the sensor gives, SI units; 0 or 1 for yes or no; an index for colours. */
  readonly value: number;
  readonly kind: "share" | "length" | "angle" | "truth" | "colour";
  /** As a person reads it. */
  readonly words: string;
}

/** What a distance sensor hears in a direction against the chassis. */
interface PolarPoint {
  readonly bearingRad: number;
  /** m; infinite for silence. */
  readonly heardM: number;
  /** What stands there, straight on: m; infinite for nothing in reach. */
  readonly thereM: number;
}

export interface ProbeEye {
  readonly name: string;
  readonly farM: number;
  readonly coneRad: number;
  /** Directions its head can turn it to, or its one aim. */
  readonly reachRad: readonly [number, number];
  readonly points: readonly PolarPoint[];
  /** What it hears now. */
  readonly hears: string;
}

export interface ProbeResult {
  readonly pose: Pose;
  readonly readings: readonly ProbeReading[];
  readonly eyes: readonly ProbeEye[];
}

const POLAR_STEP = PI / 60;

/** Words of a reading, with its unit. */
function readingWords(kind: ProbeReading["kind"], value: number): string {
  if (kind === "truth") return value === 1 ? "yes" : "no";
  if (kind === "colour") return COLOUR_NAMES[value] ?? "none";
  if (kind === "length") return `${Math.floor(value * 1000 + 0.5) / 10} cm`;
  if (kind === "angle") return `${Math.floor((value * 1800) / PI + 0.5) / 10} deg`;
  return `${Math.floor(value * 1000 + 0.5) / 10} %`;
}

function kindOf(id: string): ProbeReading["kind"] {
  const last = id.slice(id.lastIndexOf(".") + 1);
  if (last === "distance") return "length";
  if (last === "angle" || last === "pitch" || last === "roll" || last === "nearest" || last === "clearest")
    return "angle";
  if (last === "colour") return "colour";
  return last === "light" || last === "red" || last === "green" || last === "blue" ? "share" : "truth";
}

/** One robot over one field; put down again and again. */
export class Probe {
  readonly floor: FloorRaster;
  private readonly prepared: PreparedMission;

  /** @throws RangeError if the robot cannot be rehearsed */
  constructor(
    readonly robot: Robot,
    readonly field: Field,
    floor?: FloorRaster,
  ) {
    this.floor = floor?.field === field ? floor : new FloorRaster(field);
    this.prepared = prepareMission(WAITING, robot, field, this.floor);
    if (!this.prepared.program) throw new RangeError(`${robot.name} cannot be rehearsed as it is drawn`);
  }

  at(pose: Pose): ProbeResult {
    const { robot } = this;
    const rehearsal = new Rehearsal(this.prepared, { seed: 1, ideal: true });
    rehearsal.run.body.world.place(bodyPose(robot, pose));
    rehearsal.advance(TICKS);
    const { snapshot } = rehearsal.run.brain;
    const sensors = robot.sensors.filter(
      ({ kind }) => kind !== "gyro" && kind !== "potentiometer" && kind !== "button",
    );
    const readings = [...readingsOf(robot)].flatMap(([id, { slot }]): ProbeReading[] => {
      const own = sensors.some(({ name }) => id.startsWith(`${name}.`) || id.startsWith(`${name}[`));
      if (!own || slot < SLOT.motors) return [];
      const kind = kindOf(id);
      const value = snapshot[slot] as number;
      return [{ id, value, kind, words: readingWords(kind, value) }];
    });
    return { pose, readings, eyes: this.eyes(rehearsal) };
  }

  private eyes({ run }: Rehearsal): ProbeEye[] {
    const { scene, eyes } = run.body.senses;
    const hit: RayHit = { distance: 0, square: 0, reflectance: 0, rough: false, load: -1 };
    return this.robot.sensors.flatMap((sensor): ProbeEye[] => {
      const eye = sensor.kind === "eye" ? eyes.get(sensor.name) : undefined;
      if (!eye || sensor.kind !== "eye") return [];
      const { truth } = eye;
      const head = this.robot.servos.find(({ name }) => name === sensor.head);
      const reach: [number, number] =
        head?.kind === "positional"
          ? [truth.aimRad + head.lowRad, truth.aimRad + head.highRad]
          : [truth.aimRad, truth.aimRad];
      const { frame } = scene;
      const x = frame.xM + frame.cosH * truth.xM - frame.sinH * truth.yM;
      const y = frame.yM + frame.sinH * truth.xM + frame.cosH * truth.yM;
      const points: PolarPoint[] = [];
      for (let bearingRad = -PI; bearingRad < PI - 1e-9; bearingRad += POLAR_STEP) {
        const angle = frame.headingRad + bearingRad;
        scene.ray(x, y, truth.zM, cos(angle), sin(angle), truth.farM, hit);
        const heard = eye.echo(scene, bearingRad - truth.aimRad);
        points.push({ bearingRad, heardM: heard, thereM: hit.distance });
      }
      const hears = scene.nameOf(eye.source);
      return [{ name: sensor.name, farM: truth.farM, coneRad: truth.coneRad, reachRad: reach, points, hears }];
    });
  }
}
