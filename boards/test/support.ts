// Missions of the demo folder and of a test's own, made ready; and what two brains did with them.
import { readFileSync } from "node:fs";
import path from "node:path";
import * as core from "@giddy-pebble/core";
import { cases } from "../../core/test/net/cases.mjs";

const demo = path.resolve(import.meta.dirname, "../../demo");

interface Ready {
  readonly id: string;
  readonly prepared: core.PreparedMission;
}

let known: Ready[] | null = null;

/** Each demo mission on the robot that it names, by its file's name. Made ready once. */
export function demoMissions(): readonly Ready[] {
  known ??= [...demoCases()];
  return known;
}

function* demoCases(): Generator<Ready> {
  for (const { id, prepared } of cases(core, false)) {
    const [kind, , robot] = id.split("/");
    // The demo missions come first.
    if (kind !== "demo") return;
    const mission = prepared as core.PreparedMission;
    if (robot === core.headerValue(mission.mission, "robot")) yield { id, prepared: mission };
  }
}

function robotOf(file: string): core.Robot {
  const read = core.openRobot(JSON.parse(readFileSync(path.join(demo, file), "utf8")));
  if (!read.ok) throw new Error(`${file}: ${read.problems.join("; ")}`);
  return read.document;
}

export function demoMission(name: string): core.PreparedMission {
  const found = demoMissions().find(({ id }) => id.split("/")[1] === `${name}.cairn`);
  if (!found) throw new Error(`no demo mission is called ${name}`);
  return found.prepared;
}

/** A mission of these steps on a demo robot, on the demo table. */
export function missionOf(steps: string, top = "", robot = "drizzle"): core.PreparedMission {
  const field = core.readField(JSON.parse(readFileSync(path.join(demo, "fellside.field.json"), "utf8")));
  if (!field.ok) throw new Error("the demo table does not open");
  const lines = steps.split("\n").map((line) => `  ${line}`);
  const text = `cairn 1\n${top}\nmission\n${lines.join("\n")}\n`;
  const prepared = core.prepareMission(text, robotOf(`${robot}.robot.json`), field.document);
  const wrong = prepared.check.problems.filter(({ severity }) => severity === "error");
  if (!prepared.program) throw new Error(wrong.map(({ message }) => message).join("; "));
  return prepared;
}

/** Driver's hands by chance: sticks, buttons and sliders that change three times a second, and silences. */
export function handsOf(seed: number): NonNullable<core.RunOptions["hands"]> {
  const chance = core.randomStream(seed);
  const frames = Array.from({ length: 100 }, (): core.Handset | null => {
    if (chance.uniform() < 0.15) return null;
    if (chance.uniform() < 0.2) return core.HANDSET_AT_REST;
    const push = () => (chance.uniform() < 0.3 ? 0 : 2 * chance.uniform() - 1);
    return {
      sticks: [push(), push(), push(), push()],
      levels: [chance.uniform(), chance.uniform(), chance.uniform(), chance.uniform()],
      buttons: chance.uniform() < 0.5 ? 0 : 1 << Math.floor(chance.uniform() * 16),
    };
  });
  return (tick) => frames[Math.floor(tick / 30) % frames.length] ?? null;
}
