// Readings of sensors in missions: names, kinds, rows, colours, and how they are written.
import { describe, expect, test } from "vitest";
import { formatMission, readingsOf } from "../../src/index.js";
import { drizzle, missionOf, problemsOf, runSteps } from "../support/demo.js";

const row = drizzle((body) => {
  body.sensors = body.sensors.map((sensor) =>
    sensor.kind === "floor" ? { ...sensor, layout: "row", count: 5, spacingM: 0.012 } : sensor,
  );
});
const codes = (steps: string, robot = drizzle(), top = "") =>
  problemsOf(missionOf(steps, top), robot).map(({ code }) => code);

describe("readings of parts", () => {
  test("every kind of sensor has its own", () => {
    const names = [...readingsOf(row).keys()];
    for (const name of [
      "bumper.pressed",
      "eye.distance",
      "eye.seen",
      "floor[1].light",
      "floor[5].dark",
      "floor.crossing",
      "head.angle",
      "arm.heat",
    ])
      expect(names).toContain(name);
    expect(names).not.toContain("floor.left.light");
    expect(names).not.toContain("floor[6].light");
  });

  test("one of a row is named by its number, and stays so when formatted", () => {
    const text = missionOf("go until floor[3].dark limit 1 m");
    expect(problemsOf(text, row)).toEqual([]);
    const formatted = formatMission(text.replace("floor[3].dark", "floor[3].dark  "));
    expect(formatted.ok && formatted.text).toContain("floor[3].dark limit");
    expect(codes("go until floor[9].dark limit 1 m", row)).toEqual(["unknown-reading"]);
    expect(codes("go until floor[x].dark limit 1 m", row).length).toBeGreaterThan(0);
  });

  test("lengths, shares, truths and colours keep apart", () => {
    expect(codes("wait until eye.distance < 12 cm limit 1 s")).toEqual([]);
    expect(codes("wait until floor.left.light < 40 % limit 1 s")).toEqual([]);
    expect(codes("wait until floor.left.colour is red limit 1 s")).toEqual([]);
    expect(codes("wait until eye.distance < 12 s limit 1 s")).toEqual(["mixed-dimensions"]);
    expect(codes("wait until floor.left.colour is 3 cm limit 1 s")).toEqual(["mixed-dimensions"]);
    expect(codes("wait until eye.distance limit 1 s")).toEqual(["not-a-condition"]);
    expect(codes("set red = 3 cm\ngo red")).toContain("same-name");
  });

  test("an unknown word of a part is fixed to the nearest one it has", () => {
    const [problem] = problemsOf(missionOf("wait until eye.distanse < 12 cm limit 1 s"));
    expect(problem?.code).toBe("unknown-reading");
    expect(problem?.mend).toContain("eye.distance");
  });

  test("a servo's angle is a shaft's and stands where it was left", () => {
    const { summary } = runSteps("note head_angle = head.angle / 1 deg\nwait 0.1 s");
    expect(summary.notes[0]?.value).toBe(0);
  });
});
