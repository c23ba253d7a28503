// All sensors of a robot in one run: stepped once a tick against the scene, and read as its board reads them.
import type { RawSenses, RawSensor } from "../brain/raw.js";
import type { LinearRgb } from "../field/colours.js";
import type { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import type { RandomStream } from "../math/random.js";
import type { BodyShape } from "../physics/body.js";
import { TICK_MS, TICK_SEC } from "../physics/constants.js";
import type { ShaftState } from "../physics/shaft.js";
import type { World } from "../physics/world.js";
import { gearTrain, mountSign } from "../robot/drivetrain.js";
import { nearLimitM, silentRad } from "../robot/found.js";
import { eyeOffset, nearThreshold, type RobotInForce } from "../robot/inForce.js";
import type { Attachment, Robot, Sensor, SensorOf } from "../robot/schema.js";
import { encoderCounts, GearPlay } from "../sensors/encoder.js";
import { EyeSensor } from "../sensors/eye.js";
import { FloorSensor, floorOffsets } from "../sensors/floorSensor.js";
import { GyroSensor } from "../sensors/gyro.js";
import { NearSensor } from "../sensors/near.js";
import { potentiometerReading } from "../sensors/potentiometer.js";
import { SensorScene } from "../sensors/scene.js";
import { SwitchSensor } from "../sensors/switch.js";
import { TagSensor } from "../sensors/tag.js";
import { TiltSensor } from "../sensors/tilt.js";
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
const EVEN_LIGHT: LinearRgb = [1, 1, 1];

/** One sensor as the tick sees it: steps, then writes what the board reads. */
type Reader = () => void;

function ticksOf(ms: number): number {
  return Math.max(1, Math.floor(ms / TICK_MS + 0.5));
}

export class RobotSenses {
  readonly scene: SensorScene;
  readonly gyro: GyroSensor | null;
  readonly wheels: readonly [WheelSense, WheelSense];
  /** By the sensor's name, for drawing what each sees. */
  readonly eyes = new Map<string, EyeSensor>();
  /** Buttons a person holds down. */
  readonly held = new Set<string>();
  private readonly readers: readonly Reader[];
  /** The sensors themselves, with what they keep from tick to tick. */
  readonly devices: object[] = [];
  /** Of each motor its board knows: its place among those that are built in; -1 for one that is not. */
  private readonly motorsBuilt: readonly number[];
  private readonly lastCounts: [number, number] = [0, 0];

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
    this.wheels = [this.wheelSense("left"), this.wheelSense("right")];
    this.readers = robot.sensors.flatMap((sensor, i): Reader[] => {
      const own = raw.sensors[i] as RawSensor;
      const made = this.newReader(sensor, own);
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

  private wheelSense(side: "left" | "right"): WheelSense {
    const { wheel: believed, motor } = this.known[side];
    // The gears are those that are fitted, whatever the program believes of them.
    const wheel = this.robot.wheels.find(({ name }) => name === believed.name) ?? believed;
    const train = gearTrain(this.robot, wheel);
    return {
      shaftRatio: train.ratio,
      countsPerTurn: motor.encoder?.countsPerTurn ?? null,
      play: new GearPlay(train.backlashRad),
      motorIndex: this.robot.motors.findIndex(({ name }) => name === motor.name),
      motorName: motor.name,
      sign: mountSign(this.robot, side),
    };
  }

  private newReader(sensor: Sensor, raw: RawSensor): Reader | null {
    const { values: out } = raw;
    switch (sensor.kind) {
      case "gyro":
        return null;
      case "bumper":
        return this.bumper(sensor, out);
      case "button": {
        const made = new SwitchSensor({ forceN: 0.5, pullUp: sensor.pullUp, bounceTicks: 0 }, this.chance, false);
        this.devices.push(made);
        return () => {
          made.tick(this.held.has(sensor.name) ? 1 : 0);
          out[0] = made.pressed ? 1 : 0;
        };
      }
      case "eye":
        return this.eye(sensor, out);
      case "near": {
        const { xM, yM, zM, aimRad, coneRad, hysteresis, periodMs } = sensor;
        const thresholdM = nearThreshold(sensor).value * (this.draw.nearFactors.get(sensor.name) ?? 1);
        const place = { xM, yM, zM, aimRad };
        const near = new NearSensor({ ...place, coneRad, hysteresis, thresholdM, periodTicks: ticksOf(periodMs) });
        this.devices.push(near);
        return () => {
          near.tick(this.scene);
          out[0] = near.blocked ? 1 : 0;
        };
      }
      case "floor":
        return this.floorSense(sensor, raw);
      case "tag": {
        const { xM, yM, zM, aimRad, gapM, noise, periodMs } = sensor;
        const gains = this.draw.tagGains?.get(sensor.name) ?? EVEN_LIGHT;
        const place = { xM, yM, zM, aimRad, gapM };
        const tag = new TagSensor({ ...place, noise, periodTicks: ticksOf(periodMs), gains }, this.noise);
        this.devices.push(tag);
        return () => {
          tag.tick(this.scene);
          for (let i = 0; i < 3; i += 1) out[i] = tag.light[i] as number;
          out[3] = tag.lit ? 1 : 0;
          raw.told = tag.told;
        };
      }
      case "tilt": {
        const { settleMs, noiseRad, rangeRad, periodMs } = sensor;
        const truth = { settleSec: settleMs / 1000, noiseRad, rangeRad, periodTicks: ticksOf(periodMs) };
        const tilt = new TiltSensor(truth, this.noise);
        this.devices.push(tilt);
        return () => {
          const { slope, body } = this.world;
          const forward = slope.x * body.forwardX + slope.y * body.forwardY;
          const left = slope.y * body.forwardX - slope.x * body.forwardY;
          tilt.tick(forward, left, TICK_SEC);
          out[0] = tilt.pitchRad;
          out[1] = tilt.rollRad;
        };
      }
      case "potentiometer":
        return () => {
          const angle = sensor.on === null ? 0 : this.fittings.angleOf(sensor.on);
          out[0] = potentiometerReading(angle, sensor.travelRad);
        };
    }
  }

  private bumper(sensor: SensorOf<"bumper">, out: Float64Array): Reader {
    const shapeIndex = 1 + this.robot.sensors.filter((other) => other.kind === "bumper").indexOf(sensor);
    const shape = this.world.body.shapes[shapeIndex] as BodyShape;
    const { forceN, bounceMs, pullUp } = sensor;
    const made = new SwitchSensor(
      { forceN, pullUp, bounceTicks: Math.floor(bounceMs / TICK_MS + 0.5) },
      this.chance,
      this.noise !== null,
    );
    this.devices.push(made);
    return () => {
      made.tick(shape.forceN);
      out[0] = made.pressed ? 1 : 0;
    };
  }

  private eye(sensor: SensorOf<"eye">, out: Float64Array): Reader {
    const { xM, yM, zM, aimRad, coneRad, farM, noiseM, cycleMs, dropOut, nearReads } = sensor;
    const made = new EyeSensor(
      {
        xM,
        yM,
        zM,
        aimRad,
        coneRad,
        nearM: nearLimitM(sensor),
        farM,
        noiseM,
        dropOut,
        nearReads,
        silentRad: silentRad(sensor),
        cycleTicks: ticksOf(cycleMs),
        offsetM: eyeOffset(sensor).value + (this.draw.eyeOffsetsM.get(sensor.name) ?? 0),
      },
      this.noise,
    );
    this.eyes.set(sensor.name, made);
    return () => {
      const head = sensor.head === null ? null : this.fittings.servo(sensor.head);
      made.tick(this.scene, head?.angleRad ?? 0, head?.settled ?? true, TICK_SEC);
      out[0] = made.distanceM;
      out[1] = made.seen ? 1 : 0;
      out[2] = made.ageTicks;
    };
  }

  private floorSense(sensor: SensorOf<"floor">, raw: RawSensor): Reader {
    const { xM, yM, zM, layout, count, spacingM, spotM, noise, ambient, periodMs } = sensor;
    const offsetsM = floorOffsets(layout, count, spacingM);
    const made = new FloorSensor(
      { xM, yM, zM, spotM, noise, ambient, offsetsM, periodTicks: ticksOf(periodMs) },
      this.noise,
    );
    this.devices.push(made);
    const { light, colour } = made;
    const { values } = raw;
    return () => {
      made.tick(this.scene);
      for (let i = 0; i < light.length; i += 1) {
        values[i] = light[i] as number;
        values[light.length + i] = colour[i] as number;
      }
      raw.told = made.told;
    };
  }

  /** Encoder counts of a side's motor, free play included; null without an encoder. */
  counts(side: 0 | 1): number | null {
    const { countsPerTurn, shaftRatio, play, motorName, sign } = this.wheels[side];
    if (countsPerTurn === null) return null;
    // Without its plug an encoder counts no more.
    if (this.unplugged.has(motorName)) return this.lastCounts[side];
    const wheel = this.world.wheels[side];
    const shaft = this.world.drives[side] ?? this.world.drives[0];
    if (!wheel || !shaft) return null;
    // The one motor of a car feels the middle of both wheels.
    const angle = shaft.mate ? (shaft.angleRad + shaft.mate.angleRad) / 2 : wheel.angleRad;
    this.lastCounts[side] = sign * encoderCounts((angle + play.leadRad) * shaftRatio, countsPerTurn);
    return this.lastCounts[side];
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
    raw.counts[0] = this.counts(0);
    raw.counts[1] = this.counts(1);
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
    this.followSide(0);
    this.followSide(1);
  }

  private followSide(side: 0 | 1): void {
    const shaft = this.world.drives[side];
    if (!shaft?.drive) return;
    const push = shaft.motorCurrentA > 0.002 ? 1 : shaft.motorCurrentA < -0.002 ? -1 : 0;
    const free = (shaft.driveVolts / (shaft.drive.constants.backVoltage * shaft.drive.gearRatio)) * TICK_SEC;
    this.wheels[side].play.tick(push, Math.abs(free) + 1e-4);
  }

  private shaftOf(motorIndex: number): ShaftState | null {
    if (this.wheels[0].motorIndex === motorIndex) return this.world.drives[0] ?? null;
    if (this.wheels[1].motorIndex === motorIndex) return this.world.drives[1] ?? null;
    return this.fittings.shaftOf(motorIndex);
  }
}

/** How near a winding is to cutting out: 0 cold, 1 there. */
function heatShare(shaft: ShaftState): number {
  const thermal = shaft.drive?.thermal;
  return thermal ? Math.max(0, (shaft.windingC - 25) / (thermal.cutOutC - 25)) : 0;
}
