// What a stand-in really is: the robot of the drawing with deviations dealt from a seed, and effects that no
// estimator models. Only its wheels, its sensors and a tape measure show any of it.
import {
  type Deviations,
  drawnKnown,
  drawnTrackWidthM,
  GRAVITY,
  type Known,
  mixSeed,
  noDeviations,
  type Oddities,
  PI,
  type RandomStream,
  type Robot,
  type RunDraw,
  randomStream,
  robotInForce,
  type Sensor,
  type Stage,
} from "@giddy-pebble/core";

export interface HiddenTruth {
  /** Factors on the drawing's values. */
  readonly rollLeft: number;
  readonly rollRight: number;
  readonly trackWidth: number;
  readonly strengthLeft: number;
  readonly strengthRight: number;
  readonly gyroScale: number;
  readonly gyroScaleClockwise: number;
  /** rad/s */
  readonly gyroRestRadS: number;
  /** Factors on motor friction and on what the support drags. */
  readonly frictionLeft: number;
  readonly frictionRight: number;
  readonly support: number;
  /** Free play beyond the drawing's, rad at the driven shaft. */
  readonly backlashRad: number;
  readonly steeringRad: number;
  /** Of drives with rollers: way sideways over what the drawing says. */
  readonly slide: number;
  readonly charge: number;
  /** Beyond what the drawing says, by sensor. */
  readonly eyeOffsetsM: ReadonlyMap<string, number>;
  readonly nearFactors: ReadonlyMap<string, number>;
  /** Of eyes: factor on the near limit, and what comes on the angle beyond which they are silent, rad. */
  readonly eyeLimits: ReadonlyMap<string, { readonly near: number; readonly silentRad: number }>;
  /** Of arms and the like, by name: what comes on their travel, rad. */
  readonly armTravelRad: ReadonlyMap<string, number>;
  /** Of tag readers: factors on the red, green and blue that they see. */
  readonly tagGains: ReadonlyMap<string, readonly [number, number, number]>;
  readonly oddities: StandInOddities;
}

/** Effects that no estimator models. */
interface StandInOddities extends Oddities {
  readonly commandDelayTicks: number;
  /** Heading wander from bumps, rad for the square root of a metre. */
  readonly bumpRad: number;
}

const NO_ODDITIES: StandInOddities = {
  wobble: [0, 0],
  wobblePhaseRad: [0, 0],
  tiltX: 0,
  tiltY: 0,
  napRadPerM: 0,
  napRad: 0,
  commandDelayTicks: 0,
  bumpRad: 0,
};

/** Half widths of what is dealt, each evenly. */
const WIDTH = {
  roll: 0.02,
  difference: 0.015,
  track: 0.05,
  strength: 0.06,
  gyroScale: 0.015,
  gyroSides: 0.0004,
  gyroRestRadS: (0.3 * PI) / 180,
  steeringRad: 0.03,
  slide: 0.06,
  eyeM: 0.012,
  near: 0.15,
  nearLimit: 0.2,
  silentRad: (5 * PI) / 180,
  armRad: (5 * PI) / 180,
  tagGain: 0.15,
} as const;
const TILT_RAD = (0.5 * PI) / 180;

/**
 * @param seed - equal seeds give equal truths for the same robot
 * @param odd - false leaves out what no estimator models: for tests of the estimators' intervals
 */
export function dealTruth(robot: Robot, seed: number, odd = true): HiddenTruth {
  // Neighbouring seeds begin their streams alike; mixed, they are strangers.
  const chance = randomStream(mixSeed(seed, 0x7e57));
  const within = (width: number) => (2 * chance.uniform() - 1) * width;
  const common = 1 + within(WIDTH.roll);
  const difference = within(WIDTH.difference);
  const scale = 1 + within(WIDTH.gyroScale);
  const truth = {
    rollLeft: common * (1 - difference / 2),
    rollRight: common * (1 + difference / 2),
    trackWidth: 1 + within(WIDTH.track),
    strengthLeft: 1 + within(WIDTH.strength),
    strengthRight: 1 + within(WIDTH.strength),
    gyroScale: scale,
    gyroScaleClockwise: odd ? scale * (1 + within(WIDTH.gyroSides)) : scale,
    gyroRestRadS: within(WIDTH.gyroRestRadS),
    frictionLeft: 1 + within(0.25),
    frictionRight: 1 + within(0.25),
    support: 1 + within(0.3),
    backlashRad: 0.006 * chance.uniform(),
    steeringRad: within(WIDTH.steeringRad),
    charge: 0.8 + 0.2 * chance.uniform(),
    eyeOffsetsM: dealEach(robot, "eye", () => within(WIDTH.eyeM)),
    nearFactors: dealEach(robot, "near", () => 1 + within(WIDTH.near)),
    ...dealFittings(robot, seed),
  };
  return { ...truth, oddities: odd ? dealOddities(chance) : NO_ODDITIES };
}

/** From a stream of its own, so that a part more does not change what everything else was dealt. */
function dealFittings(
  robot: Robot,
  seed: number,
): Pick<HiddenTruth, "eyeLimits" | "armTravelRad" | "tagGains" | "slide"> {
  const chance = randomStream(mixSeed(seed, 0xf177));
  const within = (width: number) => (2 * chance.uniform() - 1) * width;
  const gain = () => 1 + within(WIDTH.tagGain);
  return {
    eyeLimits: dealEach(robot, "eye", () => ({
      near: 1 + within(WIDTH.nearLimit),
      silentRad: within(WIDTH.silentRad),
    })),
    tagGains: dealEach(robot, "tag", () => [gain(), gain(), gain()] as const),
    armTravelRad: new Map(robot.attachments.map(({ name }) => [name, within(WIDTH.armRad)])),
    // Rollers press in and slip: they rather lose than gain.
    slide: 1 - WIDTH.slide * chance.uniform(),
  };
}

function dealEach<T>(robot: Robot, kind: "eye" | "near" | "tag", deal: () => T): Map<string, T> {
  return new Map(robot.sensors.filter((sensor) => sensor.kind === kind).map(({ name }) => [name, deal()]));
}

function dealOddities(chance: RandomStream): StandInOddities {
  // An even direction without a sine: two even numbers, taken again until they lie in the circle.
  let [x, y] = [0, 0];
  do {
    x = 2 * chance.uniform() - 1;
    y = 2 * chance.uniform() - 1;
  } while (x * x + y * y > 1 || x * x + y * y < 0.01);
  const length = Math.sqrt(x * x + y * y);
  const pull = GRAVITY * TILT_RAD * chance.uniform();
  return {
    wobble: [0.004 * chance.uniform(), 0.004 * chance.uniform()],
    wobblePhaseRad: [2 * PI * chance.uniform(), 2 * PI * chance.uniform()],
    tiltX: (pull * x) / length,
    tiltY: (pull * y) / length,
    napRadPerM: (0.12 * PI * (2 * chance.uniform() - 1)) / 180,
    napRad: 2 * PI * chance.uniform(),
    commandDelayTicks: 1,
    bumpRad: (0.2 * PI) / 180,
  };
}

function typed(value: number, known: Known): Known {
  return { ...known, value, standardError: 0, source: "typed" };
}

function exactly(value: number): Known {
  return typed(value, drawnKnown(value));
}

/** What a sensor cannot do is in its making, whatever a program believes of it. */
function trueSensor(sensor: Sensor, built: Robot, truth: HiddenTruth): Sensor {
  const limits = truth.eyeLimits.get(sensor.name);
  const made = built.sensors.find(({ name }) => name === sensor.name);
  if (sensor.kind !== "eye" || made?.kind !== "eye" || !limits) return sensor;
  return {
    ...sensor,
    nearLimitM: exactly(made.nearM * limits.near),
    silentRad: exactly(made.slantRad + limits.silentRad),
  };
}

/**
 * The robot as it was really built. Its sensors stay those of `believed`: how far they are off stands in the draw.
 * @param built - the drawing the stand-in was made from
 */
export function trueRobot(built: Robot, believed: Robot, truth: HiddenTruth): Robot {
  const sides = { left: truth.rollLeft, right: truth.rollRight };
  const strength = new Map<string, { strength: number; friction: number }>();
  const known = robotInForce(built);
  // The lead wheels last: a car's one motor is that of its left.
  for (const { wheel, motor } of [...known.shafts].reverse()) {
    const left = wheel.side === "left";
    strength.set(motor.name, {
      strength: left ? truth.strengthLeft : truth.strengthRight,
      friction: left ? truth.frictionLeft : truth.frictionRight,
    });
  }
  const loose = (stages: readonly Stage[]) =>
    stages.map((stage, i) =>
      i === stages.length - 1 ? { ...stage, backlashRad: stage.backlashRad + truth.backlashRad } : stage,
    );
  return {
    ...built,
    sensors: believed.sensors.map((sensor) => trueSensor(sensor, built, truth)),
    attachments: built.attachments.map((part) => ({
      ...part,
      travelRad: exactly(Math.max(0.1, part.highRad - part.lowRad + (truth.armTravelRad.get(part.name) ?? 0))),
    })),
    drive: {
      ...built.drive,
      trackWidthM: typed(drawnTrackWidthM(built) * truth.trackWidth, built.drive.trackWidthM),
      ...("slideShare" in built.drive ? { slideShare: typed(truth.slide, built.drive.slideShare) } : {}),
    },
    wheels: built.wheels.map((wheel) => ({
      ...wheel,
      rollPerTurnM: typed(PI * wheel.diameterM * sides[wheel.side], wheel.rollPerTurnM),
      stages: loose(wheel.stages),
    })),
    motors: built.motors.map((assembled) => {
      // How it is mounted was decided when it was built; which way the board turns it comes with the mission.
      const reversed = believed.motors.find(({ name }) => name === assembled.name)?.reversed ?? assembled.reversed;
      const motor = { ...assembled, reversed };
      const own = strength.get(motor.name);
      return own
        ? {
            ...motor,
            strength: typed(own.strength, motor.strength),
            coulombTorqueNm: motor.coulombTorqueNm * own.friction,
            pullAwayVolts: null,
          }
        : motor;
    }),
    support: built.support && { ...built.support, friction: built.support.friction * truth.support },
  };
}

/** What the world of the true robot has beyond its document. */
export function trueDeviations(robot: Robot, truth: HiddenTruth, charge: number): Deviations {
  return { ...noDeviations(robot), charge, steeringRad: truth.steeringRad };
}

/** How its sensors are off, as a run is dealt it. Eyes subtract what is known of their offset themselves. */
export function trueDraw(built: Robot, believed: Robot, truth: HiddenTruth, deviations: Deviations): RunDraw {
  const offset = (name: string, robot: Robot) => {
    const eye = robot.sensors.find((sensor) => sensor.name === name);
    return eye?.kind === "eye" && eye.offsetM.source !== "drawing" ? eye.offsetM.value : 0;
  };
  const threshold = (name: string, robot: Robot) => {
    const near = robot.sensors.find((sensor) => sensor.name === name);
    return near?.kind === "near" ? near.thresholdM.value : 1;
  };
  return {
    deviations,
    startXM: 0,
    startYM: 0,
    startRad: 0,
    gyroScale: truth.gyroScale,
    gyroScaleClockwise: truth.gyroScaleClockwise,
    gyroRestRadS: truth.gyroRestRadS,
    bumpRad: truth.oddities.bumpRad,
    sensorNoise: 1,
    tagGains: truth.tagGains,
    eyeOffsetsM: new Map(
      [...truth.eyeOffsetsM].map(([name, off]) => [name, offset(name, built) + off - offset(name, believed)]),
    ),
    nearFactors: new Map(
      [...truth.nearFactors].map(([name, factor]) => [
        name,
        (factor * threshold(name, built)) / threshold(name, believed),
      ]),
    ),
  };
}
