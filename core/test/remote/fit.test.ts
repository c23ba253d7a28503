// Steps fitted to a way: shapes with known answers, and hand-drives that are driven again.
import { describe, expect, test } from "vitest";
import {
  fitSteps,
  HANDSET_AT_REST,
  type Handset,
  LapTimer,
  lapFigures,
  openFloor,
  prepareMission,
  randomStream,
  rehearse,
  TICK_SEC,
  traceColumn,
  wrapAngle,
} from "../../src/index.js";
import { crossing } from "../../src/remote/gates.js";
import { demoRobot, drizzle, missionOf } from "../support/demo.js";

const DEG = Math.PI / 180;

interface Way {
  x: number[];
  y: number[];
  heading: number[];
  tickSec: number;
}

/** A way made of pieces [length m, turned deg, speed m/s or deg/s]. */
function wayOf(...pieces: readonly (readonly [number, number, number])[]): Way {
  const way: Way = { x: [0], y: [0], heading: [0], tickSec: 0.01 };
  for (const [length, turned, speed] of pieces) {
    const ticks = Math.round(Math.abs(length !== 0 ? length / speed : turned / speed) / 0.01);
    for (let i = 0; i < ticks; i += 1) {
      const heading = way.heading.at(-1) as number;
      const bend = (turned * DEG) / ticks;
      way.x.push((way.x.at(-1) as number) + (length / ticks) * Math.cos(heading + bend / 2));
      way.y.push((way.y.at(-1) as number) + (length / ticks) * Math.sin(heading + bend / 2));
      way.heading.push(heading + bend);
    }
  }
  return way;
}
const texts = (way: Way) => fitSteps(way).steps.map(({ text }) => text);

describe("shapes with known answers", () => {
  test("a straight line is one go, a circle one arc, a spin one turn, each at its speed", () => {
    expect(texts(wayOf([1.16, 0, 0.3]))).toEqual(["go 116 cm at 30 cm/s"]);
    expect(texts(wayOf([-0.21, 0, 0.2]))).toEqual(["back 21 cm at 20 cm/s"]);
    expect(texts(wayOf([(0.34 * Math.PI) / 2, 90, 0.25]))).toEqual(["arc left 90 deg radius 34 cm at 25 cm/s"]);
    expect(texts(wayOf([0, -90, 60]))).toEqual(["turn right 90 deg at 60 deg/s"]);
  });

  test("driven back with the heading growing, the centre lies to the right", () => {
    expect(texts(wayOf([(-0.4 * Math.PI) / 2, 90, 0.2]))).toEqual(["arc back right 90 deg radius 40 cm at 20 cm/s"]);
  });

  test("a square of goes and turns is eight steps", () => {
    const side = [0.5, 0, 0.3] as const;
    const corner = [0, 90, 90] as const;
    const found = texts(wayOf(side, corner, side, corner, side, corner, side, corner));
    expect(found).toHaveLength(8);
    expect(found.filter((text) => text.startsWith("turn left"))).toHaveLength(4);
  });

  test("a robot that can slide gets slides for its ways aside, and drives them again", () => {
    const way = wayOf([0.5, 0, 0.3]);
    const [heading] = way.heading.slice(-1);
    for (let i = 0; i < 200; i += 1) {
      way.x.push((way.x.at(-1) ?? 0) + 0.0015 * Math.sin(heading ?? 0));
      way.y.push((way.y.at(-1) ?? 0) - 0.0015 * Math.cos(heading ?? 0));
      way.heading.push(heading ?? 0);
    }
    const fitted = fitSteps({ ...way, slides: true });
    expect(fitted.steps.map(({ text }) => text.replace(/ at .*/, ""))).toEqual(["go 50 cm", "slide right 30 cm"]);
    const text = `cairn 1\nrobot "Flurry"\n\nmission\n${fitted.steps.map((step) => `  ${step.text}`).join("\n")}\n`;
    const { start, end } = rehearse(prepareMission(text, demoRobot("flurry"), openFloor()), {
      seed: 1,
      ideal: true,
    }).summary;
    expect(end.xM - start.xM).toBeCloseTo(0.5, 2);
    expect(end.yM - start.yM).toBeCloseTo(-0.3, 2);
    // Others cannot: no slide for them.
    expect(texts(way).some((step) => step.startsWith("slide"))).toBe(false);
  });

  test("standing still, broken samples and nothing at all give no steps", () => {
    expect(fitSteps({ x: [], y: [], heading: [], tickSec: 0.01 }).steps).toEqual([]);
    expect(
      texts({ x: new Array(90).fill(1), y: new Array(90).fill(1), heading: new Array(90).fill(0), tickSec: 0.01 }),
    ).toEqual([]);
    const way = wayOf([0.5, 0, 0.3]);
    way.x[40] = Number.NaN;
    expect(texts(way)).toEqual(["go 50 cm at 30 cm/s"]);
  });

  test("a tighter tolerance takes more steps and stays nearer", () => {
    // A curve that tightens: no single arc.
    const way = wayOf(...Array.from({ length: 20 }, (_, i) => [0.05, i, 0.25] as const));
    const loose = fitSteps(way, { distanceM: 0.03, angleRad: 8 * DEG });
    const tight = fitSteps(way, { distanceM: 0.006, angleRad: 3 * DEG });
    expect(tight.steps.length).toBeGreaterThan(loose.steps.length);
    expect(tight.worstM).toBeLessThanOrEqual(0.006);
    expect(loose.worstM).toBeLessThanOrEqual(0.03);
  });
});

/** Hands that jerk: sticks held for a moment, let go, hardly touched; the wheels follow with some delay. */
function jerkyWay(seed: number, longest: number): Way {
  const chance = randomStream(seed);
  const way: Way = { x: [0], y: [0], heading: [0], tickSec: 0.01 };
  let [speed, rate, wantedSpeed, wantedRate, left] = [0, 0, 0, 0, 0];
  for (let i = 0; i < 4000; i += 1) {
    left -= 1;
    if (left <= 0) {
      left = Math.floor(chance.uniform() * longest);
      const what = chance.uniform();
      wantedSpeed =
        what < 0.3 || what > 0.8 ? 0 : what < 0.6 ? 0.3 * chance.uniform() : 0.02 * (chance.uniform() - 0.3);
      wantedRate = what < 0.3 ? 0 : (chance.uniform() - 0.5) * (what < 0.6 ? 4 : what < 0.8 ? 1 : 6);
    }
    speed += (wantedSpeed - speed) * 0.1;
    rate += (wantedRate - rate) * 0.1;
    const heading = (way.heading.at(-1) as number) + rate * 0.01;
    way.heading.push(heading);
    way.x.push((way.x.at(-1) as number) + speed * 0.01 * Math.cos(heading));
    way.y.push((way.y.at(-1) as number) + speed * 0.01 * Math.sin(heading));
  }
  return way;
}

describe("jerky hands", () => {
  test("steps stay within any tolerance, however tight, and the 12 mm of a turn on the spot", () => {
    for (let seed = 1; seed <= 5; seed += 1) {
      const way = jerkyWay(seed, 60);
      // What leads back begins where such a turn ended; half a millimetre is the rounding of what is written.
      for (const distanceM of [0.0005, 0.003, 0.01, 0.02, 0.04])
        expect(fitSteps(way, { distanceM, angleRad: distanceM * 4 }).worstM, `seed ${seed}`).toBeLessThan(
          distanceM + 0.0125,
        );
    }
  });

  test.each([30, 150])(
    "held for up to %i ticks: few steps, no crumbs of turns, and nowhere far from the drive",
    (longest) => {
      let turns = 0;
      let crumbs = 0;
      for (let seed = 1; seed <= 12; seed += 1) {
        const way = jerkyWay(seed, longest);
        const { steps, x, y, worstM } = fitSteps(way);
        // Every other step changes what is held: no more than two steps for each.
        expect(steps.length, `seed ${seed}`).toBeLessThan((2 * 2 * 4000) / longest);
        const all = steps.filter(({ text }) => text.startsWith("turn"));
        turns += all.length;
        crumbs += all.filter(({ text }) => Number.parseFloat(text.split(" ")[2] ?? "") < 4).length;
        for (let i = 1; i < steps.length; i += 1) {
          const [before, now] = [steps[i - 1]?.text ?? "", steps[i]?.text ?? ""];
          const way = (text: string) => /^turn (left|right)/.exec(text)?.[1];
          expect(way(now) !== undefined && way(now) === way(before), `${before}, ${now}`).toBe(false);
        }
        // Against every tenth sample of the drive, by the drawn way of the steps.
        const far = (px: number, py: number) => {
          let nearest = Number.POSITIVE_INFINITY;
          for (let k = 1; k < x.length; k += 1) {
            const [ax, ay] = [x[k - 1] as number, y[k - 1] as number];
            const [dx, dy] = [(x[k] as number) - ax, (y[k] as number) - ay];
            const square = dx * dx + dy * dy;
            const share = square === 0 ? 0 : Math.max(0, Math.min(1, ((px - ax) * dx + (py - ay) * dy) / square));
            nearest = Math.min(nearest, Math.hypot(px - ax - share * dx, py - ay - share * dy));
          }
          return nearest;
        };
        const most = Math.max(...way.x.map((px, i) => (i % 10 === 0 ? far(px, way.y[i] as number) : 0)));
        expect(most, `seed ${seed}`).toBeLessThan(0.04);
        expect(worstM, `seed ${seed}`).toBeLessThan(0.04);
        const off = wrapAngle((steps.at(-1)?.end.headingRad ?? 0) - (way.heading.at(-1) as number));
        expect(Math.abs(off), `seed ${seed}`).toBeLessThan(6 * DEG);
      }
      expect(crumbs).toBeLessThan(0.05 * turns);
    },
  );
});

/** Drives by hand in the ideal rehearsal and returns the recorded way. */
function driven(script: readonly (readonly [sec: number, forward: number, across: number])[]) {
  const total = script.reduce((sum, [sec]) => sum + sec, 0);
  const text = `${missionOf(`hand over for ${(total + 0.6).toFixed(1)} s`)}remote\n  drive one stick at 30 cm/s curve 1.5 ramp 90 cm/s/s\n`;
  const hands = (tick: number): Handset => {
    let at = tick / 100;
    for (const [sec, forward, across] of script) {
      if (at < sec) return { ...HANDSET_AT_REST, sticks: [forward, across, 0, 0] };
      at -= sec;
    }
    return HANDSET_AT_REST;
  };
  const run = rehearse(prepareMission(text, drizzle(), openFloor()), { seed: 1, ideal: true, hands });
  const column = (id: string) => traceColumn(run.trace, id) as Float32Array;
  return {
    way: { x: column("x"), y: column("y"), heading: column("heading"), tickSec: TICK_SEC },
    end: run.summary.end,
  };
}

describe("a hand-drive of two metres with four turns", () => {
  test.each([
    [
      "stopping for each turn",
      [
        [1.9, 1, 0],
        [0.3, 0, 0],
        [0.9, 0, 0.9],
        [0.3, 0, 0],
        [1.8, 1, 0],
        [0.3, 0, 0],
        [0.9, 0, -0.9],
        [0.3, 0, 0],
        [1.8, 1, 0],
        [0.3, 0, 0],
        [0.8, 0, -0.9],
        [0.3, 0, 0],
        [1.8, 1, 0],
        [0.3, 0, 0],
        [0.7, 0, 0.9],
      ],
    ],
    [
      "in one flow",
      [
        [1.6, 1, 0],
        [1.2, 0.9, 0.6],
        [1.5, 1, 0.05],
        [1.4, 0.9, -0.6],
        [1.2, 1, 0],
        [0.9, 0.8, -0.7],
        [1.4, 1, 0],
        [1, 0.9, 0.7],
      ],
    ],
  ] as const)("%s replays within 5 cm and 5 deg", (_name, script) => {
    const { way, end } = driven(script);
    const fitted = fitSteps(way);
    const length = way.x.reduce(
      (sum, x, i) =>
        i === 0 ? 0 : sum + Math.hypot(x - (way.x[i - 1] as number), (way.y[i] as number) - (way.y[i - 1] as number)),
      0,
    );
    expect(length).toBeGreaterThan(1.9);
    expect(fitted.steps.length).toBeLessThan(24);
    expect(fitted.worstM).toBeLessThanOrEqual(0.02 + 0.013);
    const again = rehearse(
      prepareMission(missionOf(fitted.steps.map(({ text }) => text).join("\n")), drizzle(), openFloor()),
      { seed: 1, ideal: true },
    ).summary.end;
    expect(Math.hypot(again.xM - end.xM, again.yM - end.yM)).toBeLessThan(0.05);
    expect(Math.abs(wrapAngle((again.headingDeg - end.headingDeg) * DEG)) / DEG).toBeLessThan(5);
  });
});

describe("gates", () => {
  const gate = (name: string, x: number) => ({ name, fromM: [x, -0.2], toM: [x, 0.2] }) as const;

  test("are passed between the posts only, at the share of the way", () => {
    expect(crossing([0, 0], [1, 0], gate("1", 0.25))).toBeCloseTo(0.25, 12);
    expect(crossing([0, 0.3], [1, 0.3], gate("1", 0.25))).toBeNull();
    expect(crossing([0, 0], [0.2, 0], gate("1", 0.25))).toBeNull();
    expect(crossing([0, 0], [0, 1], gate("1", 0.25))).toBeNull();
  });

  test("laps run from the first gate to the first gate, gates in order only", () => {
    const timer = new LapTimer([gate("1", 1), gate("2", 2)]);
    const xs = [0, 1.5, 2.5, 1.5, 0.5, 1.5, 2.5, 0.5];
    const passed = xs.map((x, i) => timer.add(x, 0, i));
    expect(passed).toEqual([false, true, true, false, true, false, true, true]);
    expect(timer.laps.map((lap) => Math.round(lap * 100) / 100)).toEqual([2.83, 3.25]);
    expect(timer.passed).toBe(1);
    expect(new LapTimer([]).add(1, 1, 1)).toBe(false);
  });

  test("figures by hand", () => {
    expect(lapFigures([])).toBeNull();
    expect(lapFigures([10, 12])).toMatchObject({ count: 2, bestSec: 10, meanSec: 11 });
    expect(lapFigures([10, 12])?.unevenness).toBeCloseTo(Math.SQRT2 / 11, 12);
  });
});
