// Procedures: their programs run on every demo robot they fit, typed rows become knowns, doubtful rows are named.
import { readFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";
import {
  applyEstimate,
  defaultSettings,
  doubtOf,
  openFloor,
  PROCEDURES,
  type Procedure,
  prepareMission,
  procedureOf,
  type Robot,
  readField,
  readRobot,
  robotInForce,
  stageField,
  type TableRow,
  worthOnMission,
} from "../../src/index.js";

const demo = path.resolve(path.dirname(fileURLToPath(import.meta.url)), "../../../demo");

function demoRobot(name: string): Robot {
  const read = readRobot(JSON.parse(readFileSync(path.join(demo, `${name}.robot.json`), "utf8")));
  if (!read.ok) throw new Error(read.problems.join("; "));
  return read.document;
}

function procedure(id: string): Procedure {
  const found = procedureOf(id);
  if (!found) throw new Error(`no procedure ${id}`);
  return found;
}

const row = (values: Record<string, number | null>): TableRow => ({ values, struck: false });
const HOW = { method: "test", conditions: "", measuredAt: "2026-11-23T12:00:00Z", count: 5 };

describe("programs", () => {
  for (const name of ["drizzle", "gust", "sleet", "fog"])
    it(`of every procedure that fits ${name} can be run as they stand`, () => {
      const robot = demoRobot(name);
      for (const one of PROCEDURES) {
        if (one.unfit(robot) !== null) continue;
        const settings = defaultSettings(one);
        for (let i = 0; i < 4; i += 1) {
          const text = one.program(robot, settings, i);
          if (text === null) continue;
          const field = one.stage ? stageField(one.stage(settings, i, robot), robot) : openFloor();
          const prepared = prepareMission(text, robot, field);
          expect(
            prepared.check.problems.filter(({ severity }) => severity === "error"),
            `${one.id}: ${text}`,
          ).toEqual([]);
          expect(prepared.program).not.toBeNull();
        }
      }
    });

  it("say in a sentence why they do not fit", () => {
    const fog = demoRobot("fog");
    for (const one of PROCEDURES) {
      const why = one.unfit(fog);
      if (why !== null) expect(why).toMatch(/^[A-Z].*\.$/);
    }
    expect(procedure("wheel-size").unfit(fog)).toContain("encoders");
    expect(procedure("steering").unfit(demoRobot("drizzle"))).not.toBeNull();
  });
});

describe("typed rows", () => {
  const robot = demoRobot("gust");

  it("of straight driving give the picture's sentence and the sides' new sizes", () => {
    const rows = [
      [1.992, -0.041],
      [1.988, -0.052],
      [1.991, -0.046],
      [1.994, -0.038],
      [1.989, -0.049],
    ].map(([alongM, asideM]) => row({ alongM: alongM as number, asideM: asideM as number }));
    // Its width was measured, so that the sides' difference does not hang on the drawing.
    const width = { ref: "drive", path: "trackWidthM", value: 0.138, standardError: 0.0003 };
    const found = procedure("straight-driving").estimate(applyEstimate(robot, [width], HOW), rows, {});
    if (!found.ok) throw new Error(found.why);
    expect(found.verdict.title).toBe("The left wheel rolls 0.31 % further than the right");
    expect(found.verdict.text).toContain("turn the left wheel 0.16 % less and the right 0.16 % more");
    expect(found.verdict.text).toContain("between 0.26 and 0.36 %");
    const after = robotInForce(applyEstimate(robot, found.edits, HOW));
    expect(after.left.rollPerTurnM.value / after.right.rollPerTurnM.value).toBeCloseTo(1.00314, 4);
    expect(after.left.rollPerTurnM.value + after.right.rollPerTurnM.value).toBeCloseTo(
      robotInForce(robot).left.rollPerTurnM.value * 2,
      9,
    );
    expect(after.left.wheel.rollPerTurnM).toMatchObject({ source: "measured", count: 5, method: "test" });
  });

  it("that were struck out do not count, and one far out is named", () => {
    const values = [2, 2.001, 1.999, 2.0005, 2.3];
    const rows = values.map((alongM) => row({ alongM, asideM: 0, turns: 10 }));
    const all = procedure("wheel-size").estimate(robot, rows, {});
    if (!all.ok) throw new Error(all.why);
    expect(all.doubtful.map((one) => one.row)).toEqual([4]);
    const struck = procedure("wheel-size").estimate(
      robot,
      rows.map((one, i) => (i === 4 ? { ...one, struck: true } : one)),
      {},
    );
    if (!struck.ok) throw new Error(struck.why);
    expect(struck.results[0]?.estimate).toMatchObject({ count: 4 });
    expect(struck.results[0]?.estimate.value).toBeCloseTo(0.2000125, 6);
  });

  it("fewer than three give a value and say there is no interval", () => {
    const found = procedure("wheel-size").estimate(robot, [row({ alongM: 2, asideM: 0, turns: 10 })], {});
    if (!found.ok) throw new Error(found.why);
    expect(found.results[0]?.estimate).toMatchObject({ standardError: null, low: null });
    expect(found.verdict.text).toContain("no interval yet");
  });

  it("scale the width with the wheels only when it was found by odometry", () => {
    const rows = [1, 2, 3].map(() => row({ alongM: 2 * 0.1947787 * 1.02 * 5, asideM: 0, turns: 10 }));
    const drawn = procedure("wheel-size").estimate(robot, rows, {});
    expect(drawn.ok && drawn.edits.some(({ path }) => path === "trackWidthM")).toBe(false);
    const spun = applyEstimate(robot, [{ ref: "drive", path: "trackWidthM", value: 0.14, standardError: 0.001 }], HOW);
    const found = procedure("wheel-size").estimate(spun, rows, {});
    if (!found.ok) throw new Error(found.why);
    expect(found.edits.find(({ path }) => path === "trackWidthM")?.value).toBeCloseTo(0.14 * 1.02, 5);
  });

  it("with impossible numbers are refused, unlikely ones questioned", () => {
    const column = procedure("wheel-size").columns(robot)[0];
    if (!column) throw new Error("wheel size has columns");
    expect(doubtOf(column, -1, [])).toMatchObject({ refused: true });
    expect(doubtOf(column, 21, [1.9, 2, 2.1])).toMatchObject({ refused: false });
    expect(doubtOf(column, 2.05, [1.9, 2, 2.1])).toBeNull();
    // Rows that scatter about nothing are not ten times each other because one of them happens to be small.
    const aside = procedure("placement").columns(robot)[1];
    if (!aside) throw new Error("placing has columns");
    expect(doubtOf(aside, 0.0038, [0, 0.0001, -0.0002])).toBeNull();
    expect(doubtOf(aside, 0.008, [0.003, -0.001])).toBeNull();
    expect(doubtOf(aside, 0.9, [0.003, -0.001])).toMatchObject({
      refused: false,
      why: expect.stringContaining("3.0 mm"),
    });
  });

  it("of one way only make no square", () => {
    const found = procedure("square").estimate(robot, [row({ way: 1, xM: 0.01, yM: 0.02 })], { sideM: 1 });
    expect(found).toMatchObject({ ok: false });
  });

  it("of a gyro that was moved while it stood are not averaged", () => {
    const moved: TableRow = { ...row({ rateRadS: 0.01 }), recorded: [0, 0.004, 0.3, 0.304, 0.308, 0.312, 0.316] };
    expect(procedure("gyro-rest").estimate(robot, [moved], {})).toMatchObject({ ok: false });
    const still: TableRow = { ...row({ rateRadS: 0.001 }), recorded: [0, 0.004, 0.008, 0.012, 0.016, 0.02, 0.024] };
    const found = procedure("gyro-rest").estimate(robot, [moved, still], {});
    if (!found.ok) throw new Error(found.why);
    expect(found.doubtful).toEqual([{ row: 0, why: expect.stringContaining("moved") }]);
    expect(found.edits[0]).toMatchObject({ path: "restRadS", value: expect.closeTo(0.001, 9) });
  });

  it("never make an estimator throw, whatever was typed", () => {
    const odd = [0, -1, 1e9, 1e-9, null];
    for (const name of ["drizzle", "sleet", "fog"]) {
      const own = demoRobot(name);
      for (const one of PROCEDURES.filter((p) => p.unfit(own) === null)) {
        const columns = one.columns(own);
        const rows = odd.map((value) => row(Object.fromEntries(columns.map(({ id }) => [id, value]))));
        for (let n = 1; n <= rows.length; n += 1) {
          const found = one.estimate(own, rows.slice(0, n), defaultSettings(one));
          if (!found.ok) expect(found.why).toMatch(/\.$|\?$/);
          one.chart(own, rows.slice(0, n), defaultSettings(one));
        }
      }
    }
  });
});

describe("what a known is worth", () => {
  it("orders knowns by how far they move the robot on a mission", () => {
    const field = readField(JSON.parse(readFileSync(path.join(demo, "fellside.field.json"), "utf8")));
    if (!field.ok) throw new Error("Fellside reads");
    const robot = demoRobot("drizzle");
    const text = readFileSync(path.join(demo, "missions/first-roll-out.cairn"), "utf8");
    const worth = worthOnMission(prepareMission(text, robot, field.document), robot);
    const of = (key: string) => worth.find((one) => one.key === key)?.mostM ?? 0;
    expect(worth.length).toBeGreaterThan(5);
    expect([...worth].sort((a, b) => b.mostM - a.mostM)).toEqual(worth);
    // The drive is closed by encoders and gyro: how it is put down matters, how strong its motors are does not.
    expect(of("heading")).toBeGreaterThan(of("strength left"));
    expect(worth.find((one) => one.key === "heading")?.procedure).toBe("placement");
  });
});
