// Our solver beside two general physics engines on one scene: five boxes in a walled yard of twenty walls, a
// driven box of the robot's size among them. Theirs have no wheels, motors or floor friction: they are given linear
// damping instead, so that they do less. Printed as µs a step and ratios of one run.

import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import RAPIER from "@dimforge/rapier2d-compat";
import { Box, World as PlanckWorld, Vec2 } from "planck";
import { noDeviations, openFloor, readRobot, worldFromRobot } from "../core/dist/index.js";

const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const robot = readRobot(JSON.parse(readFileSync(path.join(root, "demo/drizzle.robot.json"), "utf8")));
if (!robot.ok) throw new Error("the demo robot does not read");
const drizzle = robot.document;

/** Twenty walls: a yard of 2 × 1.5 m and posts within. */
export const WALLS = Array.from({ length: 20 }, (_, i) => {
  if (i < 4) {
    const corners = [
      [0, 0],
      [2, 0],
      [2, 1.5],
      [0, 1.5],
    ];
    return [corners[i], corners[(i + 1) % 4]];
  }
  const x = 0.35 + ((i - 4) % 8) * 0.2;
  const y = i < 12 ? 0.25 : 1.25;
  return [
    [x, y],
    [x + 0.06, y + 0.03],
  ];
});
export const BOXES = Array.from({ length: 5 }, (_, i) => ({
  x: 0.62 + 0.075 * i,
  y: 0.75 + 0.01 * (i % 2),
  size: 0.06,
  mass: 0.1,
}));
const DT = 0.005;
const STEPS = 4000;

export function yardField() {
  return {
    ...openFloor(),
    walls: WALLS.map(([fromM, toM]) => ({ fromM, toM, heightM: 0.1, reflectance: 0.7 })),
    loads: BOXES.map((box, i) => ({
      name: `box ${i}`,
      shape: "box",
      sizeM: [box.size, box.size],
      heightM: 0.08,
      massKg: box.mass,
      friction: 0.35,
      xM: box.x,
      yM: box.y,
      headingRad: 0,
      colour: "#888888",
    })),
  };
}

/** Speeds of the two sides over time: pushes, turns, comes back. @param {number} i */
const left = (i) => (i % 800 < 500 ? 0.5 : -0.4);
/** @param {number} i */
const right = (i) => (i % 800 < 400 ? 0.5 : -0.4);

/** @param {() => void} run @returns {number} µs a step, the better of three */
function measure(run) {
  let best = Number.POSITIVE_INFINITY;
  for (let k = 0; k < 3; k += 1) {
    const begun = performance.now();
    run();
    best = Math.min(best, ((performance.now() - begun) * 1000) / STEPS);
  }
  return best;
}

function ours() {
  // @ts-expect-error a field made here, of the schema's shape
  const world = worldFromRobot(drizzle, yardField(), noDeviations(drizzle));
  world.place({ xM: 0.4, yM: 0.75, headingRad: 0 });
  for (let i = 0; i < STEPS; i += 1) {
    world.command(0, "drive", left(i));
    world.command(1, "drive", right(i));
    world.step(DT);
  }
}

function planck() {
  const world = new PlanckWorld({ gravity: new Vec2(0, 0) });
  for (const [a, b] of WALLS) {
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const length = Math.hypot(dx, dy);
    world
      .createBody({ position: new Vec2((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), angle: Math.atan2(dy, dx) })
      .createFixture({ shape: new Box(length / 2, 0.002), friction: 0.25 });
  }
  /** @param {number} x @param {number} y @param {number} hx @param {number} hy @param {number} mass */
  const add = (x, y, hx, hy, mass) => {
    const body = world.createBody({ type: "dynamic", position: new Vec2(x, y), linearDamping: 3, angularDamping: 3 });
    body.createFixture({ shape: new Box(hx, hy), density: mass / (4 * hx * hy), friction: 0.35 });
    return body;
  };
  const chassis = add(0.4, 0.75, 0.083, 0.055, 0.92);
  for (const box of BOXES) add(box.x, box.y, box.size / 2, box.size / 2, box.mass);
  for (let i = 0; i < STEPS; i += 1) {
    const forward = (left(i) + right(i)) * 3;
    const angle = chassis.getAngle();
    chassis.applyForceToCenter(new Vec2(Math.cos(angle) * forward, Math.sin(angle) * forward), true);
    chassis.applyTorque((right(i) - left(i)) * 0.15, true);
    world.step(DT, 8, 3);
  }
}

function rapier() {
  const world = new RAPIER.World({ x: 0, y: 0 });
  world.timestep = DT;
  for (const [a, b] of WALLS) {
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    world.createCollider(
      RAPIER.ColliderDesc.cuboid(Math.hypot(dx, dy) / 2, 0.002)
        .setTranslation((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        .setRotation(Math.atan2(dy, dx))
        .setFriction(0.25),
    );
  }
  /** @param {number} x @param {number} y @param {number} hx @param {number} hy @param {number} mass */
  const add = (x, y, hx, hy, mass) => {
    const body = world.createRigidBody(
      RAPIER.RigidBodyDesc.dynamic().setTranslation(x, y).setLinearDamping(3).setAngularDamping(3),
    );
    world.createCollider(RAPIER.ColliderDesc.cuboid(hx, hy).setMass(mass).setFriction(0.35), body);
    return body;
  };
  const chassis = add(0.4, 0.75, 0.083, 0.055, 0.92);
  for (const box of BOXES) add(box.x, box.y, box.size / 2, box.size / 2, box.mass);
  for (let i = 0; i < STEPS; i += 1) {
    const forward = (left(i) + right(i)) * 3 * DT;
    const angle = chassis.rotation();
    chassis.applyImpulse({ x: Math.cos(angle) * forward, y: Math.sin(angle) * forward }, true);
    chassis.applyTorqueImpulse((right(i) - left(i)) * 0.15 * DT, true);
    world.step();
  }
  world.free();
}

/** Prints the comparison. */
export async function engines() {
  await RAPIER.init();
  const rows = [
    ["ours: wheels, motors, pack, 5 loads, 20 walls", measure(ours)],
    ["planck, the same boxes and walls", measure(planck)],
    ["rapier2d, the same boxes and walls", measure(rapier)],
  ];
  const [, mine] = rows[0];
  for (const [what, us] of rows)
    process.stdout.write(
      `${String(what).padEnd(48)} ${Number(us).toFixed(2)} µs a step   ${(Number(us) / Number(mine)).toFixed(1)} × ours   ${Math.round((DT * 1e6) / Number(us))} × real time\n`,
    );
}
