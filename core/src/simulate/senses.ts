// All sensors of a robot in one run: stepped once a tick against the scene, and read as its board reads them.

import type { RawSenses } from "../brain/raw.js";
import type { Wheel } from "../drives/parts.js";
import { mountSign, shaftsOf } from "../drives/shafts.js";
import { gearTrain, type Lead } from "../drives/train.js";
import type { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import type { RandomStream } from "../math/random.js";
import type { BodyShape } from "../physics/body.js";
import { TICK_SEC } from "../physics/constants.js";
import type { ShaftState } from "../physics/shaft.js";
import type { World } from "../physics/world.js";
import type { RobotInForce, SideInForce } from "../robot/inForce.js";
import type { Attachment, Robot } from "../robot/schema.js";
import { encoderCounts, GearPlay } from "../sensors/encoder.js";
import type { EyeSensor } from "../sensors/eye.js";
import { GyroSensor } from "../sensors/gyro.js";
import { sensorKind, sensorsWithBars } from "../sensors/kinds/all.js";
import { type SensorBench, type SensorLine, ticksOf } from "../sensors/kinds/kind.js";
import { SensorScene } from "../sensors/scene.js";
import type { Fittings } from "./fittings.js";
import type { RunDraw } from "./scatter.js";

interface WheelSense {
  /** Turns of the motor's output shaft for one turn of the wheel. */
  readonly shaftRatio: number;
  readonly countsPerTurn: number | null;
  readonly play: GearPlay;
  readonly motorIndex: number;
  readonly motorName: string;
  /** -1 where its motor is mounted to turn backwards: the encoder sits on the motor and counts with it. */
  readonly sign: 1 | -1;
}

/** Voltage readings come through a divider with this much noise, V. */
const VOLTAGE_NOISE = 0.01;

/** One sensor as the tick sees it: steps, then writes what the board reads. */
type Reader = () => void;

export class RobotSenses {
  readonly scene: SensorScene;
  readonly gyro: GyroSensor | null;
  readonly wheels: readonly WheelSense[];
  /** By the sensor's name, for drawing what each sees. */
  readonly eyes = new Map<string, EyeSensor>();
  /** Buttons a person holds down. */
  readonly held = new Set<string>();
  private readonly readers: readonly Reader[];
  /** The sensors themselves, with what they keep from tick to tick. */
  readonly devices: object[] = [];
  /** Of each motor its board knows: its place among those that are built in; -1 for one that is not. */
  private readonly motorsBuilt: readonly number[];
  private readonly lastCounts: Float64Array;

  constructor(
    private readonly robot: Robot,
    private readonly wired: Robot,
    private readonly known: RobotInForce,
    readonly world: World,
    field: Field,
    floor: FloorRaster,
    private readonly fittings: Fittings,
    private readonly draw: RunDraw,
    private readonly chance: RandomStream,
    raw: RawSenses,
    private readonly unplugged: ReadonlySet<string>,
  ) {
    const [comX, comY] = robot.chassis.centreOfMassM;
    this.scene = new SensorScene(field, floor, world, comX, comY);
    this.gyro = this.newGyro();
    this.motorsBuilt = wired.motors.map(({ name }) => robot.motors.findIndex((motor) => motor.name === name));
    this.wheels = known.shafts.map((shaft, i) => this.wheelSense(shaft, i));
    this.lastCounts = new Float64Array(known.shafts.length);
    const bench = this.bench();
    this.readers = robot.sensors.flatMap((sensor, i): Reader[] => {
      const own = raw.sensors[i] as SensorLine;
      const made = sensorKind(sensor).simulate(sensor, own, bench);
      if (!made) return [];
      // A plug that is out leaves the reading as it last was.
      const read = () => {
        if (this.unplugged.has(sensor.name)) return;
        own.told = true;
        made();
      };
      return [read];
    });
  }

  private get noise(): RandomStream | null {
    return this.draw.sensorNoise > 0 ? this.chance : null;
  }

  private newGyro(): GyroSensor | null {
    const { gyro } = this.known;
    if (!gyro) return null;
    const { noiseRadS, rangeRadS, periodMs, wanderRadS } = gyro.part;
    return new GyroSensor(
      {
        scale: this.draw.gyroScale,
        scaleClockwise: this.draw.gyroScaleClockwise ?? this.draw.gyroScale,
        restRadS: this.draw.gyroRestRadS,
        noiseRadS,
        rangeRadS,
        wanderRadS,
        periodTicks: ticksOf(periodMs),
      },
      this.world.headingRad,
      this.noise,
    );
  }

  private wheelSense({ wheel: believed, motor }: SideInForce, place: number): WheelSense {
    // The gears are those that are fitted, whatever the program believes of them.
    const wheel = this.robot.wheels.find(({ name }) => name === believed.name) ?? believed;
    const train = gearTrain(this.robot, wheel);
    return {
      shaftRatio: train.ratio,
      countsPerTurn: motor.encoder?.countsPerTurn ?? null,
      play: new GearPlay(train.backlashRad),
      motorIndex: this.robot.motors.findIndex(({ name }) => name === motor.name),
      motorName: motor.name,
      sign: mountSign(this.robot, this.builtAs(wheel, place)),
    };
  }

  /** The wheel with the motor that turns it in what is built; a car's right one goes with its left. */
  private builtAs(wheel: Wheel, place: number): Lead | undefined {
    const shafts = shaftsOf(this.robot);
    return shafts.find((lead) => lead.wheel.name === wheel.name) ?? shafts[place] ?? shafts[0];
  }

  /** What its sensors are lent. */
  private bench(): SensorBench {
    const { scene, world, chance, noise, draw, eyes, held, fittings, robot, devices } = this;
    const barred = sensorsWithBars(robot.sensors).map(({ name }) => name);
    return {
      scene,
      world,
      chance,
      noise,
      draw,
      eyes,
      held,
      keep(device) {
        devices.push(device);
        return device;
      },
      angleOf: (part) => fittings.angleOf(part),
      head: (servo) => fittings.servo(servo),
      shapeOf: (sensor) => world.body.shapes[1 + barred.indexOf(sensor)] as BodyShape,
    };
  }

  /** Encoder counts of a shaft's motor, free play included; null without an encoder. */
  counts(index: number): number | null {
    const { countsPerTurn, shaftRatio, play, motorName, sign } = this.wheels[index] as WheelSense;
    if (countsPerTurn === null) return null;
    // Without its plug an encoder counts no more.
    if (this.unplugged.has(motorName)) return this.lastCounts[index] as number;
    const wheel = this.world.wheels[index];
    const shaft = this.world.drives[index] ?? this.world.drives[0];
    if (!wheel || !shaft) return null;
    // The one motor of a car feels the middle of both wheels.
    const angle = shaft.mate ? (shaft.angleRad + shaft.mate.angleRad) / 2 : wheel.angleRad;
    const counted = sign * encoderCounts((angle + play.leadRad) * shaftRatio, countsPerTurn);
    this.lastCounts[index] = counted;
    return counted;
  }

  /** Reads everything once; the order of what is random is part of the core's version. */
  tick(raw: RawSenses): void {
    raw.gyroSec = 0;
    if (this.gyro && !this.unplugged.has(this.known.gyro?.part.name ?? "")) {
      if (this.gyro.tick(this.world.headingRad, TICK_SEC)) raw.gyroSec = this.gyro.truth.periodTicks * TICK_SEC;
      raw.gyroRateRadS = this.gyro.rateRadS;
    }
    const noise = this.draw.sensorNoise > 0 ? VOLTAGE_NOISE * this.draw.sensorNoise * this.chance.normal() : 0;
    raw.packVolts = this.world.packVolts + noise;
    raw.packCurrentA = this.world.packCurrentA;
    for (let i = 0; i < this.wheels.length; i += 1) raw.counts[i] = this.counts(i);
    this.scene.update();
    for (const read of this.readers) read();
    this.fittings.sense(raw);
    const { attachments } = this.wired;
    for (let i = 0; i < attachments.length; i += 1)
      raw.holds[i] = this.fittings.holds((attachments[i] as Attachment).name) ? 1 : 0;
    for (let i = 0; i < this.motorsBuilt.length; i += 1) {
      const heat = this.shaftOf(this.motorsBuilt[i] as number);
      raw.motorHeat[i] = heat ? heatShare(heat) : 0;
    }
  }

  /** Free play follows the torque the motor gives. */
  followPlay(): void {
    for (let i = 0; i < this.wheels.length; i += 1) this.followShaft(i);
  }

  private followShaft(index: number): void {
    const shaft = this.world.drives[index];
    if (!shaft?.drive) return;
    const push = shaft.motorCurrentA > 0.002 ? 1 : shaft.motorCurrentA < -0.002 ? -1 : 0;
    const free = (shaft.driveVolts / (shaft.drive.constants.backVoltage * shaft.drive.gearRatio)) * TICK_SEC;
    (this.wheels[index] as WheelSense).play.tick(push, Math.abs(free) + 1e-4);
  }

  private shaftOf(motorIndex: number): ShaftState | null {
    const wheel = this.wheels.findIndex((candidate) => candidate.motorIndex === motorIndex);
    if (wheel >= 0) return this.world.drives[wheel] ?? null;
    return this.fittings.shaftOf(motorIndex);
  }
}

/** How near a winding is to cutting out: 0 cold, 1 there. */
function heatShare(shaft: ShaftState): number {
  const thermal = shaft.drive?.thermal;
  return thermal ? Math.max(0, (shaft.windingC - 25) / (thermal.cutOutC - 25)) : 0;
}
