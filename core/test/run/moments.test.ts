// A run put back to an earlier moment goes on as if it had never left it: world, sensors, brain, chance.
import { readdirSync } from "node:fs";
import path from "node:path";
import { describe, expect, test } from "vitest";
import { type Handset, type PreparedMission, Rehearsal, randomStream } from "../../src/index.js";
import { generated } from "../net/cases.mjs";
import { demoFolder, missionFile, preparedDemo } from "../support/demo.js";
import { part } from "../support/search.js";

/** Runs to the end, going back to some moments on the way: each time as far on as chance has it. */
function withReturns(
  mission: PreparedMission,
  seed: number,
  moments: number,
  hands?: (tick: number) => Handset | null,
) {
  const options = { seed, ideal: false, ...(hands ? { hands } : {}) };
  const straight = new Rehearsal(mission, options);
  while (!straight.advance(1000));
  const ticks = straight.tick;
  const chance = randomStream(seed + 77);
  const run = new Rehearsal(mission, options);
  let returned = 0;
  for (let i = 0; i < moments; i += 1) {
    run.advance(1 + Math.floor((chance.uniform() * 2 * ticks) / moments));
    if (run.done) break;
    const moment = run.run.moment();
    run.advance(1 + Math.floor(chance.uniform() * 200));
    moment.restore();
    expect(run.tick).toBe(moment.tick);
    returned += 1;
  }
  while (!run.advance(1000));
  return { returned, straight: straight.result().summary, bent: run.result().summary };
}

describe("returns", () => {
  const demo = readdirSync(path.join(demoFolder, "missions")).filter((file) => file.endsWith(".cairn"));

  const MOMENTS = part(50, 10);
  test.each(demo)(`%s ends the same after up to ${MOMENTS} of them`, (file) => {
    const mission = preparedDemo(missionFile(`missions/${file}`));
    if (!mission.program) return expect(missionFile(`missions/${file}`)).toMatch(/^use /m);
    const { straight, bent } = withReturns(mission, 4, MOMENTS);
    expect(bent).toEqual(straight);
  });

  const MISSIONS = part(40, 20);
  test(`so do ${MISSIONS} generated missions over all constructs`, () => {
    let all = 0;
    for (let seed = 1; seed <= MISSIONS; seed += 1) {
      const { straight, bent, returned } = withReturns(preparedDemo(generated(seed, true)), seed, 12);
      expect(bent).toEqual(straight);
      all += returned;
    }
    expect(all).toBeGreaterThan(5 * MISSIONS);
  }, 60_000);

  test("and one that is driven by hand, buttons and all", () => {
    const mission = preparedDemo(missionFile("missions/fog-by-hand.cairn"));
    const hands = (tick: number): Handset | null =>
      tick % 400 > 380
        ? null
        : {
            sticks: [Math.floor(tick / 60) % 3 === 0 ? 0 : 0.7, 0.2, 0.4, -0.3],
            levels: [0, 0, (tick % 100) / 100, 0.5],
            buttons: Math.floor(tick / 90) % 16,
          };
    const run = (moments: number) => {
      const rehearsal = new Rehearsal(mission, { seed: 2, ideal: false, hands });
      for (let i = 0; i < moments; i += 1) {
        rehearsal.advance(70);
        const moment = rehearsal.run.moment();
        rehearsal.advance(55);
        moment.restore();
      }
      while (rehearsal.tick < 3000 && !rehearsal.advance(1));
      rehearsal.run.close();
      return rehearsal.result().summary;
    };
    expect(run(30)).toEqual(run(0));
  });
});
