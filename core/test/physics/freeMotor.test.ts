// A motor that drives no wheel, against the closed forms of a DC motor.
import { describe, expect, test } from "vitest";
import { FreeMotor } from "../../src/physics/freeMotor.js";
import { deriveMotor } from "../../src/physics/motor.js";
import { drizzle, missionOf, problemsOf, runText } from "../support/demo.js";
import { WEAK } from "./r1.js";

const G = 50;
const J = 2e-7;
const derived = deriveMotor(WEAK);
if (!derived.ok) throw new Error(derived.message);
const { resistanceOhm: R, torqueConstant: KT, backVoltage: KE } = derived.constants;
const motor = (coulombTorqueNm = 0) =>
  new FreeMotor({
    constants: { resistanceOhm: R, torqueConstant: KT, backVoltage: KE },
    gearRatio: G,
    efficiency: 0.7,
    coulombTorqueNm,
    viscousNmS: 0,
    rotorInertiaKgM2: J,
  });

function run(shaft: FreeMotor, seconds: number): void {
  for (let i = 0; i < Math.round(seconds / 0.005); i += 1) shaft.step(0.005, 7.4);
}

describe("a free shaft", () => {
  test("reaches its free speed with the motor's own time constant", () => {
    const shaft = motor();
    const tau = (J * R) / (0.7 * KT * KE);
    const free = 7.4 / (KE * G);
    shaft.command("drive", 1);
    run(shaft, tau);
    // Backward Euler at 5 ms lags by at most dt/(2 tau) of what is left.
    expect(Math.abs(shaft.spinRadS / (free * (1 - Math.exp(-1))) - 1)).toBeLessThan(0.005 / tau);
    run(shaft, 20 * tau);
    expect(shaft.spinRadS).toBeCloseTo(free, 6);
  });

  test("half the duty, half the speed; below its friction it stands", () => {
    const shaft = motor();
    shaft.command("drive", -0.5);
    run(shaft, 5);
    expect(shaft.spinRadS).toBeCloseTo((-0.5 * 7.4) / (KE * G), 6);
    const stiff = motor(1e-4);
    const deadBand = (1e-4 * R) / (KT * 7.4);
    stiff.command("drive", 0.98 * deadBand);
    run(stiff, 1);
    expect(stiff.spinRadS).toBe(0);
    stiff.command("drive", 1.05 * deadBand);
    run(stiff, 1);
    expect(stiff.spinRadS).toBeGreaterThan(0);
  });

  test("brakes by short circuit and coasts by inertia", () => {
    const spin = (mode: "brake" | "coast") => {
      const shaft = motor();
      shaft.command("drive", 1);
      run(shaft, 5);
      shaft.command(mode, 0);
      run(shaft, 1);
      return shaft.spinRadS;
    };
    expect(Math.abs(spin("brake"))).toBeLessThan(1e-3);
    expect(spin("coast")).toBeGreaterThan(2);
  });

  test("a mission turns the arm and reads how far", () => {
    const { summary } = runText(
      missionOf(
        "power arm 40 % until arm.angle > 90 deg limit 5 s\nnote reached = arm.angle\nwait 0.3 s\nnote later = arm.angle\npower arm -40 % for 200 ms\nnote swing = arm.speed",
      ),
    );
    const notes = Object.fromEntries(summary.notes.map(({ name, value }) => [name, Number(value)]));
    expect(summary).toMatchObject({ success: true });
    expect(summary.steps[0]?.endedBy).toBe("until");
    expect(notes.reached).toBeGreaterThan(Math.PI / 2);
    expect(notes.later).toBeLessThan(Math.PI / 2 + 0.3);
    expect(notes.swing).toBeLessThan(0);
  });

  test("a motor without an encoder has no readings", () => {
    const blind = drizzle((body) => {
      for (const part of body.motors) if (part.name === "arm") part.encoder = null;
    });
    expect(problemsOf(missionOf("wait until arm.angle > 3 deg"), blind)[0]?.code).toBe("unknown-reading");
  });
});
