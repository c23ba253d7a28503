// All sensors of a robot in one run: stepped once a tick against the scene, their readings put into the snapshot.
import { MOTOR_SLOTS, type ReadingLayout, readingLayout, SLOT } from "../cairn/readings.js";
import type { PartControl } from "../control/partMotion.js";
import type { LinearRgb } from "../field/colours.js";
import type { FloorRaster } from "../field/raster.js";
import type { Field } from "../field/schema.js";
import type { RandomStream } from "../math/random.js";
import { TAU } from "../math/trig.js";
import type { BodyShape } from "../physics/body.js";
import { TICK_MS, TICK_SEC } from "../physics/constants.js";
import type { ShaftState } from "../physics/shaft.js";
import type { World } from "../physics/world.js";
import { gearTrain, sideSign } from "../robot/drivetrain.js";
import { nearLimitM, silentRad, tagReferences } from "../robot/found.js";
import { nearThreshold, type RobotInForce } from "../robot/inForce.js";
import type { Attachment, Robot, Sensor } from "../robot/schema.js";
import { encoderCounts, GearPlay } from "../sensors/encoder.js";
import { EyeSensor } from "../sensors/eye.js";
import { FloorSensor, floorOffsets } from "../sensors/floorSensor.js";
import { GyroSensor } from "../sensors/gyro.js";
import { NearSensor } from "../sensors/near.js";
import { potentiometerReading } from "../sensors/potentiometer.js";
import { SensorScene } from "../sensors/scene.js";
import { SwitchSensor } from "../sensors/switch.js";
import { TagSensor } from "../sensors/tag.js";
import type { Fittings } from "./fittings.js";
import type { RunDraw } from "./scatter.js";
import { SensedPart } from "./sensedPart.js";

interface WheelSense {
  /** Turns of the motor's output shaft for one turn of the wheel. */
  readonly shaftRatio: number;
  readonly countsPerTurn: number | null;
  readonly play: GearPlay;
  readonly motorIndex: number;
  readonly motorName: string;
  /** -1 where its motor turns the wheel backwards: the encoder sits on the motor and counts with it. */
  readonly sign: 1 | -1;
}

const EVEN_LIGHT: LinearRgb = [1, 1, 1];

/** One sensor as the tick sees it: steps, then writes its slots. */
type Sense = (snapshot: Float64Array) => unknown;

function ticksOf(ms: number): number {
  return Math.max(1, Math.floor(ms / TICK_MS + 0.5));
}

export class RobotSenses {
  readonly scene: SensorScene;
  readonly gyro: GyroSensor | null;
  readonly wheels: readonly [WheelSense, WheelSense];
  /** By the sensor's name, for drawing what each sees. */
  readonly eyes = new Map<string, EyeSensor>();
  readonly floors = new Map<string, FloorSensor>();
  private readonly parts = new Map<string, SensedPart>();
  /** Buttons a person holds down. */
  readonly held = new Set<string>();
  private readonly senses: readonly Sense[];
  private readonly lastCounts: [number, number] = [0, 0];
  private readonly layout: ReadingLayout;

  constructor(
    private readonly robot: Robot,
    private readonly known: RobotInForce,
    readonly world: World,
    field: Field,
    floor: FloorRaster,
    private readonly fittings: Fittings,
    private readonly draw: RunDraw,
    private readonly chance: RandomStream,
    private readonly snapshot: Float64Array,
    private readonly unplugged: ReadonlySet<string> = new Set(),
  ) {
    const [comX, comY] = robot.chassis.centreOfMassM;
    this.scene = new SensorScene(field, floor, world, comX, comY);
    this.layout = readingLayout(robot);
    this.gyro = this.newGyro();
    this.wheels = [this.wheelSense("left"), this.wheelSense("right")];
    this.senses = robot.sensors.flatMap((sensor, i) => {
      const made = this.newSense(sensor, this.layout.sensors[i] as number);
      // A plug that is out leaves the reading as it last was.
      return made ? [(out: Float64Array) => !this.unplugged.has(sensor.name) && made(out)] : [];
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
      sign: sideSign(this.robot, side),
    };
  }

  private newSense(sensor: Sensor, base: number): Sense | null {
    switch (sensor.kind) {
      case "gyro":
        return null;
      case "bumper":
        return this.bumper(sensor, base);
      case "button":
        return this.button(sensor, base);
      case "eye":
        return this.eye(sensor, base);
      case "near": {
        const { xM, yM, zM, aimRad, coneRad, hysteresis, periodMs } = sensor;
        const thresholdM = nearThreshold(sensor).value * (this.draw.nearFactors.get(sensor.name) ?? 1);
        const near = new NearSensor({
          xM,
          yM,
          zM,
          aimRad,
          coneRad,
          hysteresis,
          thresholdM,
          periodTicks: ticksOf(periodMs),
        });
        return (out) => {
          near.tick(this.scene);
          out[base] = near.blocked ? 1 : 0;
        };
      }
      case "floor":
        return this.floorSense(sensor, base);
      case "tag": {
        const { xM, yM, zM, aimRad, gapM, noise, periodMs } = sensor;
        const gains = this.draw.tagGains?.get(sensor.name) ?? EVEN_LIGHT;
        const references = tagReferences(sensor);
        const place = { xM, yM, zM, aimRad, gapM };
        const tag = new TagSensor({ ...place, noise, periodTicks: ticksOf(periodMs), gains, references }, this.noise);
        return (out) => {
          tag.tick(this.scene);
          out[base] = tag.colour;
          out[base + 1] = tag.sure ? 1 : 0;
          for (let i = 0; i < 3; i += 1) out[base + 2 + i] = tag.light[i] as number;
        };
      }
      case "potentiometer":
        return (out) => {
          const angle = sensor.on === null ? 0 : this.fittings.angleOf(sensor.on);
          out[base] = potentiometerReading(angle, sensor.travelRad);
        };
    }
  }

  private bumper(sensor: Extract<Sensor, { kind: "bumper" }>, base: number): Sense {
    const shapeIndex = 1 + this.robot.sensors.filter((other) => other.kind === "bumper").indexOf(sensor);
    const shape = this.world.body.shapes[shapeIndex] as BodyShape;
    const { forceN, bounceMs, pullUp } = sensor;
    const made = new SwitchSensor(
      { forceN, pullUp, bounceTicks: Math.floor(bounceMs / TICK_MS + 0.5) },
      this.chance,
      this.noise !== null,
    );
    return (out) => {
      made.tick(shape.forceN);
      out[base] = made.pressed ? 1 : 0;
    };
  }

  private button(sensor: Extract<Sensor, { kind: "button" }>, base: number): Sense {
    const made = new SwitchSensor({ forceN: 0.5, pullUp: sensor.pullUp, bounceTicks: 0 }, this.chance, false);
    let was = false;
    return (out) => {
      made.tick(this.held.has(sensor.name) ? 1 : 0);
      if (made.pressed && !was) out[base + 1] = (out[base + 1] as number) + 1;
      was = made.pressed;
      out[base] = was ? 1 : 0;
    };
  }

  private eye(sensor: Extract<Sensor, { kind: "eye" }>, base: number): Sense {
    const { xM, yM, zM, aimRad, coneRad, farM, noiseM, cycleMs, dropOut, nearReads } = sensor;
    const knownOffset = sensor.offsetM.source === "drawing" ? 0 : sensor.offsetM.value;
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
        offsetM: knownOffset + (this.draw.eyeOffsetsM.get(sensor.name) ?? 0),
      },
      this.noise,
    );
    this.eyes.set(sensor.name, made);
    return (out) => {
      const head = sensor.head === null ? null : this.fittings.servo(sensor.head);
      made.tick(this.scene, head?.angleRad ?? 0, head?.settled ?? true, TICK_SEC);
      // The known offset is taken off; an eye that sees nothing reads its far limit.
      out[base] = made.seen ? Math.max(0, made.distanceM - knownOffset) : farM;
      out[base + 1] = made.seen ? 1 : 0;
    };
  }

  private floorSense(sensor: Extract<Sensor, { kind: "floor" }>, base: number): Sense {
    const { xM, yM, zM, layout, count, spacingM, spotM, noise, ambient, periodMs } = sensor;
    const made = new FloorSensor(
      {
        xM,
        yM,
        zM,
        spotM,
        noise,
        ambient,
        offsetsM: floorOffsets(layout, count, spacingM),
        dark: sensor.dark.value,
        periodTicks: ticksOf(periodMs),
      },
      this.noise,
    );
    this.floors.set(sensor.name, made);
    const { light, colour } = made;
    return (out) => {
      made.tick(this.scene);
      out[base] = made.crossing ? 1 : 0;
      for (let i = 0; i < light.length; i += 1) {
        out[base + 1 + 3 * i] = light[i] as number;
        out[base + 2 + 3 * i] = colour[i] as number;
        out[base + 3 + 3 * i] = made.isDark(i) ? 1 : 0;
      }
    };
  }

  /** The button one of these slots belongs to, or null. */
  buttonAt(slots: readonly number[]): string | null {
    const { sensors } = this.robot;
    for (let i = 0; i < sensors.length; i += 1) {
      const sensor = sensors[i] as Sensor;
      const base = this.layout.sensors[i] as number;
      if (sensor.kind === "button" && (slots.includes(base) || slots.includes(base + 1))) return sensor.name;
    }
    return null;
  }

  /** A motor beside the drive, a servo, or the attachment one of them turns. */
  part(name: string): PartControl {
    let part = this.parts.get(name);
    if (!part) {
      part = new SensedPart(name, this.robot, this.fittings, this.eyes, this.snapshot);
      this.parts.set(name, part);
    }
    return part;
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

  /** Steps everything but gyro and encoders, which the drive takes first, and fills the snapshot. */
  tick(snapshot: Float64Array): void {
    this.scene.update();
    for (const sense of this.senses) sense(snapshot);
    for (const part of this.parts.values()) part.follow(TICK_SEC);
    const { motors, servos } = this.robot;
    for (let i = 0; i < servos.length; i += 1)
      snapshot[this.layout.servos + i] = this.fittings.servos[i]?.angleRad ?? 0;
    const { attachments } = this.robot;
    for (let i = 0; i < attachments.length; i += 1) {
      const { name, drivenBy } = attachments[i] as Attachment;
      const base = this.layout.attachments + 2 * i;
      if (drivenBy !== null) snapshot[base] = this.part(name).angleRad;
      snapshot[base + 1] = this.fittings.holds(name) ? 1 : 0;
    }
    for (let i = 0; i < motors.length; i += 1) {
      const heat = this.shaftOf(i);
      snapshot[SLOT.motors + i * MOTOR_SLOTS + 3] = heat ? heatShare(heat) : 0;
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

  /** Speed of a wheel's motor shaft for a wheel speed. */
  shaftSpeed(side: 0 | 1, speedMS: number): number {
    const known = side === 0 ? this.known.left : this.known.right;
    return (speedMS / known.rollPerTurnM.value) * TAU * this.wheels[side].shaftRatio;
  }
}

/** How near a winding is to cutting out: 0 cold, 1 there. */
function heatShare(shaft: ShaftState): number {
  const thermal = shaft.drive?.thermal;
  return thermal ? Math.max(0, (shaft.windingC - 25) / (thermal.cutOutC - 25)) : 0;
}
