// What a description means, by hand; gears; and the drive model beside the physics.
import { describe, expect, test } from "vitest";
import {
  driveModel,
  type Figure,
  gearChoice,
  noDeviations,
  openFloor,
  robotFigures,
  setStages,
  supportLoads,
  worldFromRobot,
} from "../../src/index.js";
import { pullAwayMargin, speedAfter } from "../../src/insight/figures.js";
import { teethWords } from "../../src/insight/gearBench.js";
import { run } from "../physics/r1.js";
import { demoRobot, drizzle } from "../support/demo.js";

function figureOf(figures: readonly Figure[], id: string): Figure {
  const found = figures.find((figure) => figure.id === id);
  if (!found) throw new Error(`no figure ${id}`);
  return found;
}
const near = (value: number, byHand: number) => expect(Math.abs(value / byHand - 1)).toBeLessThan(0.01);

describe("Drizzle by hand, within 1 %", () => {
  const figures = robotFigures(drizzle());
  const value = (id: string) => figureOf(figures, id).value;
  // Motor: R 8.222 ohm, kt 9.889e-3, ke (7.4 - 0.411)/628.3 = 11.124e-3, G 30, eta 0.8, r 30.97 mm.
  const push = (9.889e-3 * 30 * 0.8) / (8.222 * 0.03097);
  const back = (11.124e-3 * 30) / 0.03097;
  const driven = 0.92 * 9.81 * (0.046 / 0.06);
  const friction = (0.8 * 30 * 0.0004) / 0.03097 + (0.012 * driven) / 2 + (0.08 * (0.92 * 9.81 - driven)) / 2;

  test("top speed (V - F/s)/e", () => near(value("top-speed"), (7.4 - friction / push) / back));
  test("travel per turn as measured", () => near(value("travel-per-turn"), 0.1946));
  test("wheel turns per robot turn pi b / c", () => near(value("wheel-turns"), (Math.PI * 0.1384) / 0.1946));
  test("push before slip mu N", () => near(value("push-before-slip"), 0.85 * driven));
  test("stall push 2 (s V - F)", () => near(value("stall-push"), 2 * (push * 7.4 - friction)));
  test("pull-away at a full pack", () => near(value("pull-away-full"), (0.2 * 8.36 * push) / friction));
  test("time to 90 % of speed tau ln 10", () => {
    const mass = 0.92 / 2 + (2e-5 + 900 * 1e-7) / 0.03097 ** 2;
    near(value("to-speed"), (mass / (push * back)) * Math.log(10));
  });
  test("tipping g e / h", () => near(value("tips-at"), (9.81 * 0.014) / 0.045));
  test("the loads balance the weight and the lever", () => {
    const loads = supportLoads(drizzle());
    near(
      loads.reduce((sum, { loadN }) => sum + loadN, 0),
      0.92 * 9.81,
    );
    near(loads.find(({ part }) => part === "support")?.loadN ?? 0, 0.92 * 9.81 - driven);
  });
  test("each opens a formula with its numbers and units", () => {
    for (const figure of figures) {
      expect(figure.formula.length, figure.id).toBeGreaterThan(4);
      for (const term of figure.terms) expect(term.shown, `${figure.id} ${term.symbol}`).toMatch(/\d/);
    }
  });
});

describe("the others", () => {
  test("Sleet's circle is L / tan of its steering", () => {
    const { value } = figureOf(robotFigures(demoRobot("sleet")), "turning-circle");
    const r = 0.16 / Math.tan(0.48);
    near(value, 2 * Math.hypot(0.2, r + 0.06));
  });
  test("Fog turns on the spot from the duty that overcomes scrubbing", () => {
    const fog = demoRobot("fog");
    const model = driveModel(fog);
    near(model.scrubN, 0.62 * ((0.86 * 9.81) / 2) * (0.05 / Math.hypot(0.05, 0.07)));
    const { value } = figureOf(robotFigures(fog), "pivot-duty");
    near(value, ((model.scrubN + model.left.frictionN) * model.left.voltsPerNewton) / 5.6);
  });
  test("Gust is told that it starts unevenly on a tired pack", () => {
    expect(figureOf(robotFigures(demoRobot("gust")), "pull-away-tired").caution).toContain("unevenly");
  });
  test("the physics reaches the speed the figure says, on the curve it says", () => {
    for (const name of ["drizzle", "gust"]) {
      const robot = demoRobot(name, (body) => {
        for (const wheel of body.wheels) wheel.grip.value = 3;
        body.pack.internalResistanceOhm = 0;
        body.pack.charge = 0.2;
        body.pack.nominalVolts = 7.24;
      });
      const world = worldFromRobot(robot, openFloor(), noDeviations(robot));
      for (const i of [0, 1]) world.command(i, "drive", 1);
      run(world, 0.1);
      // Speeding up shifts weight onto the support, which then rubs more: up to a twelfth of the push.
      expect(Math.abs(world.velocityX / speedAfter(robot, 0.1) - 1)).toBeLessThan(0.08);
      run(world, 4);
      // The pack gives a little less after 4 s of it: 2 %.
      expect(Math.abs(world.velocityX / driveModel(robot).topSpeedMS - 1)).toBeLessThan(0.02);
    }
  });
});

describe("the gear bench", () => {
  const gust = demoRobot("gust");
  const stages = gust.wheels[0]?.stages ?? [];
  const choice = gearChoice(gust, stages, 8.36, 7.04);
  test("the line runs from stall to free speed, and its points lie on or under it", () => {
    for (const { speedMS, pushN } of choice.points)
      expect(speedMS / choice.freeSpeedMS + pushN / choice.stallN).toBeLessThan(1 + 1e-9);
    const push = choice.points.find(({ id }) => id === "push");
    expect((push?.speedMS ?? 0) / choice.freeSpeedMS + (push?.pushN ?? 0) / choice.stallN).toBeCloseTo(1, 9);
  });
  test("fewer driven teeth are faster and pull away worse; it says so", () => {
    const slower = gearChoice(
      gust,
      stages.map((stage) => ({ ...stage, drivenTeeth: 30 })),
      8.36,
      7.04,
    );
    expect(slower.topSpeedMS).toBeLessThan(choice.topSpeedMS);
    expect(slower.marginTired).toBeGreaterThan(choice.marginTired);
    expect(choice.verdict).toContain("unevenly");
    expect(slower.startsEvenly).toBe(true);
    expect(choice.flips).toBe(true);
    expect(teethWords(stages)).toBe("20 : 12");
    expect(teethWords([])).toBe("straight");
  });
  test("fitting a choice changes both sides", () => {
    const fitted = setStages(gust, []);
    expect(fitted.wheels.map((wheel) => wheel.stages)).toEqual([[], []]);
    expect(pullAwayMargin(driveModel(fitted).left, 7.04)).toBeGreaterThan(choice.marginTired);
  });
});
