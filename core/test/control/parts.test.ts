// Motions of parts against closed forms: a trapezoid's time, a hold, a stall, an end stop; and lines and walls that
// followers keep to, on a plain kinematic robot.
import { describe, expect, test } from "vitest";
import { FollowLine, type LineLook } from "../../src/control/followLine.js";
import { FollowWall } from "../../src/control/followWall.js";
import { HomePart, type PartControl, TurnPart } from "../../src/control/partMotion.js";
import { type DriveControl, driveModel } from "../../src/index.js";
import { drizzle } from "../support/demo.js";

const DT = 0.01;

/** A shaft that turns as fast as its duty says, between stops: speed = duty times top, no inertia. */
class PlainPart implements PartControl {
  readonly servo = false;
  angleRad = 0;
  rateRadS = 0;
  readonly topRateRadS = 10;
  readonly settled = true;
  readonly eyeAgeTicks = null;
  readonly eyeDistanceM = 0;
  private duty = 0;
  private offset = 0;

  constructor(private readonly stops: readonly [number, number] = [-100, 100]) {}

  aim(): void {}
  found(): void {}
  power(_mode: "drive" | "brake" | "coast", duty: number): void {
    this.duty = duty;
  }
  zero(): void {
    this.offset += this.angleRad;
    this.angleRad = 0;
  }
  step(): void {
    const before = this.angleRad;
    const [low, high] = this.stops;
    const next = this.angleRad + this.offset + this.duty * this.topRateRadS * DT;
    this.angleRad = Math.max(low, Math.min(high, next)) - this.offset;
    this.rateRadS = (this.angleRad - before) / DT;
  }
}

function run(part: PlainPart, motion: { arrived: boolean; stalled: boolean; tick(p: PartControl, dt: number): void }) {
  let ticks = 0;
  while (!motion.arrived && !motion.stalled && ticks < 1000) {
    motion.tick(part, DT);
    part.step();
    ticks += 1;
  }
  return ticks * DT;
}

describe("a part that turns to an angle", () => {
  test("takes the time of its trapezoid, and holds what it reached", () => {
    const part = new PlainPart();
    const motion = new TurnPart(part, 2, 1, 2, 1);
    const seconds = run(part, motion);
    // 2 rad at 2 rad/s with a ramp of 10 rad/s²: 1 s, and 0.2 s for the ramps.
    expect(seconds).toBeGreaterThan(1.1);
    expect(seconds).toBeLessThan(1.5);
    expect(part.angleRad).toBeCloseTo(2, 1);
    for (let i = 0; i < 200; i += 1) {
      motion.tick(part, DT);
      part.step();
    }
    expect(part.angleRad).toBeCloseTo(2, 2);
  });

  test("goes the other way in the mirror", () => {
    const [left, right] = [new PlainPart(), new PlainPart()];
    run(left, new TurnPart(left, 1, 1, 3, 1));
    run(right, new TurnPart(right, -1, 1, 3, 1));
    expect(left.angleRad).toBeCloseTo(-right.angleRad, 9);
  });

  test("against a stop it says that it stalled, and stays there", () => {
    const part = new PlainPart([-1, 1]);
    const motion = new TurnPart(part, 3, 1, 3, 1);
    run(part, motion);
    expect(motion.stalled).toBe(true);
    expect(part.angleRad).toBeCloseTo(1, 6);
  });

  test("homing finds the stop and makes it zero", () => {
    const part = new PlainPart([-1.5, 2]);
    const home = new HomePart(-1, 0.3);
    const seconds = run(part, home);
    expect(part.angleRad).toBe(0);
    // 1.5 rad at 3 rad/s and the time a stall is watched.
    expect(seconds).toBeCloseTo(0.5 + 0.15, 1);
  });
});

/** A robot that does what it is told: x and y by its speed and turning rate. */
function follower(robot = drizzle()) {
  const model = driveModel(robot);
  const at = { x: 0, y: 0, heading: 0 };
  const told = { speed: 0, rate: 0 };
  const drive = {
    model,
    wantedMS: 0,
    wantedRadS: 0,
    hasGyro: true,
    get travelM() {
      return at.x;
    },
    get headingRad() {
      return at.heading;
    },
    follow(speed: number, _a: number, rate: number) {
      told.speed = speed;
      told.rate = rate;
    },
  } as unknown as DriveControl;
  const step = () => {
    at.heading += told.rate * DT;
    at.x += told.speed * Math.cos(at.heading) * DT;
    at.y += told.speed * Math.sin(at.heading) * DT;
  };
  return { at, told, drive, step };
}

describe("followers", () => {
  const options = { speedMS: 0.15, rampMS2: 1, mostDuty: 1 };
  const eye = { awayM: 0.2, aheadM: 0.05, besideM: 0.06, noseM: 0.1, corners: null, blocked: null };

  test.each([0.006, -0.006])("a line: an offset of %f m ahead of the axle dies away", (startM) => {
    const { at, drive, step } = follower();
    const aheadM = 0.07;
    at.y = startM;
    // Off to the left is negative "to the right".
    const look = (into: LineLook) => {
      into.off = Math.max(-0.012, Math.min(0.012, -(at.y + aheadM * Math.sin(at.heading))));
      into.sees = "on";
    };
    const sense = { look, aheadM, spotM: 0.008, mostOffM: 0.012, edge: 0, wideRad: 0.2, blindM: 0.02 } as const;
    const motion = new FollowLine(drive, sense, { ...options, gain: 1, damp: 1, bridgeM: 0.18, crossings: "straight" });
    for (let i = 0; i < 400; i += 1) {
      motion.tick(drive, DT);
      step();
    }
    expect(Math.abs(at.y)).toBeLessThan(0.001);
    expect(Math.abs(at.heading)).toBeLessThan(0.02);
  });

  test.each(["left", "right"] as const)("a wall on the %s: keeps 20 cm away within a centimetre", (side) => {
    const { at, drive, step } = follower();
    const sign = side === "left" ? 1 : -1;
    const wallY = sign * 0.25;
    const distanceM = () => Math.abs(wallY - at.y) / Math.max(0.5, Math.cos(at.heading));
    const motion = new FollowWall(drive, { ...eye, distanceM, seen: () => true, side }, options);
    for (let i = 0; i < 800; i += 1) {
      motion.tick(drive, DT);
      step();
    }
    expect(Math.abs(wallY - at.y)).toBeCloseTo(0.2, 2);
    expect(Math.abs(at.heading)).toBeLessThan(0.05);
  });

  test("a wall that is not seen is not steered by", () => {
    const { told, drive } = follower();
    const motion = new FollowWall(drive, { ...eye, distanceM: () => 9, seen: () => false, side: "left" }, options);
    motion.tick(drive, DT);
    expect(told.rate).toBe(0);
  });
});
