// Robots with roller wheels for tests: Flurry of the demo, and one with three at 120 deg.
import { openRobot, type Robot, readRobot } from "../../src/index.js";
import { demoRobot } from "./demo.js";

/** Distance of the three wheels from the middle, m. */
export const RING_M = 0.09;

/** Three roller wheels at 120 deg on a ring: two in front, one behind that rolls to the left. */
export function threeRollers(change: (body: Robot) => void = () => {}): Robot {
  const flurry = demoRobot("flurry");
  const at = [60, -60, 180].map((deg) => (deg * Math.PI) / 180);
  const aims = [-Math.PI / 6, Math.PI / 6, Math.PI / 2];
  const names = ["front_left", "front_right", "rear_left"];
  const wheels = names.map((name, i) => ({
    ...flurry.wheels.find((wheel) => wheel.name === name),
    xM: RING_M * Math.cos(at[i] ?? 0),
    yM: RING_M * Math.sin(at[i] ?? 0),
    aimRad: aims[i],
    rollers: { axleRad: 0, friction: 0.02 },
  }));
  const opened = openRobot({
    ...structuredClone(flurry),
    name: "Hail",
    drive: { kind: "three-rollers", trackWidthM: { value: 0.2 }, slideShare: { value: 1 } },
    wheels,
    motors: flurry.motors.filter(({ name }) => name !== "rear_right_motor"),
    wiring: flurry.wiring.filter(({ part }) => part !== "rear_right_motor"),
  });
  if (!opened.ok) throw new Error(opened.problems.join("; "));
  const body = structuredClone(opened.document);
  change(body);
  const read = readRobot(body);
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}
