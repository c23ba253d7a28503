// The command line as scripts use it: the JSON contract, exit statuses, and bad input of every size.
import { spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { giddyBin, giddyIn, giddyProcess } from "./support.js";

const root = path.resolve(import.meta.dirname, "../..");
let folder = "";
beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), "giddy-cli-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A robot document as JSON has it; tests break it on purpose. */
interface RobotBody {
  wheels: { diameterM: number }[];
  motors: { stallTorqueNm: number }[];
  chassis: { massKg: number };
}

const giddy = (...args: string[]) => giddyIn(folder, args);

function file(name: string, content: string | Buffer): string {
  const full = path.join(folder, name);
  writeFileSync(full, content);
  return full;
}

function mission(steps: string, name = "m.cairn"): string {
  return file(name, `cairn 1\nrobot "Drizzle"\nmission\n${steps.replace(/^/gm, "  ")}\n`);
}

function robotWith(change: (body: RobotBody) => void): string {
  const body = JSON.parse(readFileSync(path.join(root, "demo/drizzle.robot.json"), "utf8"));
  change(body);
  return file("robot.json", JSON.stringify(body));
}

describe("as a process", () => {
  const text = 'cairn 1\nrobot "Drizzle"\nmission\n  go 10 cm\n';

  test("it ends with 0, 1 or 2, and prints what the command prints", async () => {
    const name = mission("go 10 cm");
    expect(await giddyProcess(folder, ["rehearse", name, "--json"])).toEqual(await giddy("rehearse", name, "--json"));
    const loose = mission("go   10cm", "loose.cairn");
    const [missed, wrong, help] = await Promise.all(
      [["format", "--check", loose], ["rehearse", "--seed", "many", name], ["--help"]].map((args) =>
        giddyProcess(folder, args),
      ),
    );
    expect(missed).toMatchObject({ status: 1, err: "" });
    expect(wrong).toMatchObject({ status: 2, out: "" });
    expect(wrong?.err).toContain("--seed must be a whole number from");
    expect(help).toMatchObject({ status: 0, err: "" });
    expect(help?.out).toContain("Check, format and rehearse Cairn missions.");
  });

  test("it reads a mission from its standard input", async () => {
    const said = await giddyProcess(folder, ["check", "-"], text.replace("10 cm", "10"));
    expect(said.status).toBe(2);
    expect(said.out).toMatch(/:4:6: error:/);
    expect((await giddyProcess(folder, ["format", "-"], text.replace("go 10", "go   10"))).out).toBe(text);
  });

  test("it ends without a word when nobody reads on", async () => {
    const child = spawn(process.execPath, [giddyBin, "program", mission("go 10 cm\n".repeat(900)), "--json"]);
    let err = "";
    child.stderr.on("data", (part: Buffer) => {
      err += part.toString();
    });
    child.stdout.once("data", () => child.stdout.destroy());
    expect(await new Promise((resolve) => child.once("exit", resolve))).toBe(0);
    expect(err).toBe("");
  });
});

describe("program", () => {
  test("lists the instructions with their steps, and prints the program itself", async () => {
    const text = mission("set way = 10 cm\nrepeat 2 times\n  go way until eye.distance < 20 cm");
    const listed = await giddy("program", text);
    expect(listed.status).toBe(0);
    expect(listed.out).toContain("> 0  set way = 0.1   # 1");
    expect(listed.out).toContain("drive: go way until eye.distance < 0.2   # 2a");
    const printed = await giddy("program", text, "--json");
    const program = JSON.parse(printed.out);
    expect([program.format, program.version, program.instructions[0].op]).toEqual(["giddy-pebble/program", 1, "set"]);
    const again = await giddy("program", file("p.json", printed.out), "--json");
    expect([again.status, again.out]).toEqual([0, printed.out]);
  });

  test("refuses what is none, with its place", async () => {
    const program = JSON.parse((await giddy("program", mission("go 10 cm"), "--json")).out);
    program.instructions[0].motion.length = [1, "+"];
    program.instructions.unshift({ op: "jump", to: 77 });
    const spoilt = await giddy("program", file("bad.json", JSON.stringify(program)));
    expect(spoilt.status).toBe(2);
    expect(spoilt.err).toContain("instructions[0].to: it goes to instruction 77");
    expect(spoilt.err).toContain("instructions[1].motion.length: item 2 takes 2 values");
    expect(await giddy("program", file("words.json", "hello"))).toMatchObject({ status: 2 });
    expect(await giddy("program", mission("go 10"), "--json")).toMatchObject({ status: 2, err: "" });
    expect((await giddy("program", "nowhere.json")).err).toContain("there is no such file");
  });
});

describe("rehearse --json", () => {
  test("prints the contract: outcome, poses, hash and steps", async () => {
    const { status, out } = await giddy(
      "rehearse",
      mission("repeat 2 times\n  go 30 cm\n  turn left 90 deg\nfinish"),
      "--ideal",
      "--json",
    );
    const said = JSON.parse(out);
    expect(status).toBe(0);
    expect(said).toMatchObject({
      outcome: "finished",
      success: true,
      reason: "",
      score: null,
      start: { xM: 2, yM: 2, headingDeg: 0 },
    });
    expect(said.traceHash).toMatch(/^[0-9a-f]{16}$/);
    expect(said.durationMs).toBeGreaterThan(1000);
    expect(Object.keys(said.end)).toEqual(["xM", "yM", "headingDeg"]);
    expect(
      said.steps.map((step: { step: string; pass: number; text: string; endedBy: string }) => [
        step.step,
        step.pass,
        step.text,
        step.endedBy,
      ]),
    ).toEqual([
      ["1a", 1, "go 30 cm", "done"],
      ["1b", 1, "turn left 90 deg", "done"],
      ["1a", 2, "go 30 cm", "done"],
      ["1b", 2, "turn left 90 deg", "done"],
      ["2", 1, "finish", "done"],
    ]);
  });

  test("the same seed twice prints the same bytes, another seed other ones", async () => {
    const text = mission("go 50 cm\nturn right 60 deg");
    const [one, two, other] = await Promise.all([
      giddy("rehearse", text, "--seed", "7", "--json"),
      giddy("rehearse", text, "--seed", "7", "--json"),
      giddy("rehearse", text, "--seed", "8", "--json"),
    ]);
    expect(one.out).toBe(two.out);
    expect(one.out).not.toBe(other.out);
  });

  test("--times counts successes with Wilson's interval", async () => {
    const { status, out } = await giddy(
      "rehearse",
      path.join(root, "demo/missions/first-roll-out.cairn"),
      "--times",
      "20",
      "--json",
    );
    const said = JSON.parse(out);
    expect(status).toBe(0);
    expect(said).toMatchObject({ runs: 20, successRate: said.successes / 20 });
    expect(said.successes).toBeGreaterThanOrEqual(19);
    expect(said.interval95[0]).toBeLessThan(said.successRate);
    expect(said.ends).toHaveLength(20);
  });

  test("not meeting the goal exits 1, problems exit 2 with their places", async () => {
    const missed = await giddy(
      "rehearse",
      file("goal.cairn", 'cairn 1\nrobot "Drizzle"\ngoal clock > 9 s\nmission\n  wait 1 s\n'),
      "--json",
    );
    expect(missed.status).toBe(1);
    expect(JSON.parse(missed.out)).toMatchObject({ outcome: "finished", success: false });
    const wrong = await giddy("rehearse", mission("go 90"), "--json");
    expect(wrong.status).toBe(2);
    expect(JSON.parse(wrong.out)).toMatchObject({
      outcome: "problem",
      problems: [{ code: "dimension", severity: "error", line: 4, column: 6, length: 2, mend: "write 90 cm" }],
    });
  });

  test("tells which task ran a step, how each ended, and what was shown", async () => {
    const text = `cairn 1\nrobot "Drizzle"\n\nroutine lift()\n  move arm to 40 deg\n\nmission\n  start lift()\n  show "away", clock\n  go until robot.travel > 20 cm\n  move arm to 300 deg\n`;
    const said = await giddy("rehearse", file("tasks.cairn", text), "--ideal", "--json");
    const { steps, signs, outcome } = JSON.parse(said.out);
    expect(outcome).toBe("finished");
    expect(signs).toEqual([{ atMs: 0, kind: "show", text: "away  clock 0 s" }]);
    expect(steps.find((step: { step: string }) => step.step === "lift.1")).toMatchObject({ task: 1, endedBy: "done" });
    expect(steps.at(-1)).toMatchObject({ step: "4", endedBy: "stalled" });
    expect(steps.at(-1).task).toBeUndefined();
  });

  test("tasks that wait for each other stop at once, with status 1", async () => {
    const steps = "together\n  wait until heard ping\n  send pong\nalso\n  wait until heard pong\n  send ping";
    const said = await giddy("rehearse", mission(steps), "--json");
    expect(said.status).toBe(1);
    expect(JSON.parse(said.out).reason).toContain("tasks wait for each other");
  });

  test("--trace writes RFC 4180 CSV; without --json the lines are readable", async () => {
    const trace = path.join(folder, "out.csv");
    const { out } = await giddy("rehearse", mission("go 10 cm"), "--ideal", "--trace", trace);
    expect(readFileSync(trace, "utf8").split("\r\n")[0]).toContain("t [ms],x [m]");
    expect(out).toMatch(/ended {2}x \d+\.\d cm, y \d+\.\d cm, heading -?\d+\.\d deg\nfinished after/);
  });

  test("a weaker motor in the robot file changes where a fast mission goes", async () => {
    const text = mission("go 1 m at 55 cm/s ramp 3 m/s/s\narc left 180 deg radius 12 cm at 50 cm/s");
    const weak = robotWith((body) => {
      for (const motor of body.motors) motor.stallTorqueNm *= 0.5;
    });
    const [usual, weaker] = await Promise.all([
      giddy("rehearse", text, "--ideal", "--json"),
      giddy("rehearse", text, "--ideal", "--robot", weak, "--json"),
    ]);
    expect(JSON.parse(usual.out).traceHash).not.toBe(JSON.parse(weaker.out).traceHash);
  });
});

describe("documents from files", () => {
  test("--field puts the robot on another floor, at its start place", async () => {
    const field = file(
      "hall.json",
      JSON.stringify({
        format: "giddy-pebble/field",
        version: 1,
        name: "hall",
        size: { widthM: 6, heightM: 3 },
        edge: "rim",
        surface: { grip: 0.8 },
        begins: [
          { name: "door", xM: 1, yM: 1.5, headingRad: Math.PI / 2 },
          { name: "desk", xM: 5, yM: 1.5, headingRad: 0 },
        ],
        zones: [
          { name: "middle", shape: { kind: "ellipse", centreM: [1, 2], radiusXM: 0.3, radiusYM: 0.3 }, points: 7 },
        ],
      }),
    );
    const { status, out } = await giddy("rehearse", mission("go 50 cm"), "--field", field, "--ideal", "--json");
    expect(status).toBe(0);
    const said = JSON.parse(out);
    expect(said).toMatchObject({ score: 7, start: { xM: 1, yM: 1.5, headingDeg: 90 } });
    expect(said.end.yM).toBeCloseTo(2, 2);
  });

  test("a field that is none says what is wrong with it", async () => {
    const { status, out } = await giddy(
      "check",
      mission("wait 1 s"),
      "--field",
      file("bad.json", '{"format": "giddy-pebble/field", "version": 1, "size": {}}'),
      "--json",
    );
    expect(status).toBe(2);
    expect(
      JSON.parse(out)
        .problems.map((problem: { message: string }) => problem.message)
        .join(" "),
    ).toContain("size.widthM must be a number");
  });

  test("--times without --json says the rate in one line; --trace keeps the first run", async () => {
    const trace = path.join(folder, "first.csv");
    const { out } = await giddy("rehearse", mission("go 10 cm"), "--times", "5", "--trace", trace);
    expect(out).toBe("5 of 5 rehearsals met the goal: 100.0 % (95 % interval 56.6 % to 100.0 %)\n");
    expect(readFileSync(trace, "utf8").split("\r\n").length).toBeGreaterThan(50);
  });
});

describe("--memory", () => {
  const counting = () =>
    file("counts.cairn", 'cairn 1\nrobot "Drizzle"\nremember runs = 0\nmission\n  set runs = runs + 1\n');
  const remembered = async (...more: string[]) =>
    JSON.parse((await giddy("rehearse", counting(), "--json", ...more)).out).remembered[0].value;

  test("a run begins with what the one before left; many runs leave it as it was", async () => {
    const memory = path.join(folder, "counts.memory.json");
    expect(await remembered("--memory", memory)).toBe(1);
    expect(await remembered("--memory", memory)).toBe(2);
    expect(await remembered("--memory", memory, "--times", "3")).toBe(3);
    expect(await remembered("--memory", memory)).toBe(3);
    expect(JSON.parse(readFileSync(memory, "utf8"))).toEqual({ runs: { value: 3, kind: "a number" } });
    expect(await remembered()).toBe(1);
  });

  test.each([
    ["not json", "text"],
    ['{"runs": 3}', "other.json"],
    ["[]", "list.json"],
  ])("%s in the file is said, and stays as it is", async (content, name) => {
    const memory = file(name, content);
    const { status, err } = await giddy("rehearse", counting(), "--memory", memory);
    expect(status).toBe(2);
    expect(err).toContain("holds no remembered values. Name a file that --memory wrote");
    expect(readFileSync(memory, "utf8")).toBe(content);
  });
});

test("a mission that names no robot runs as the first demo robot, and is told so", async () => {
  const nameless = file("none.cairn", "cairn 1\nmission\n  wait 1 s\n");
  const { status, err } = await giddy("rehearse", nameless);
  expect(status).toBe(0);
  expect(err).toContain("so Drizzle drives it");
});

describe("bad input", () => {
  test.each<[string, (body: RobotBody) => void, string]>([
    [
      "wheel size 0",
      (body) => Object.assign(body.wheels[0] ?? {}, { diameterM: 0 }),
      "Left wheel: diameter must be at least 3 mm; type a value in its range.",
    ],
    [
      "negative mass",
      (body) => Object.assign(body.chassis, { massKg: -1 }),
      "Chassis: mass, whole robot must be at least 0.01 kg; type a value in its range.",
    ],
  ])("a robot with %s", async (_, change, words) => {
    const { status, out } = await giddy("rehearse", mission("wait 1 s"), "--robot", robotWith(change), "--json");
    expect(status).toBe(2);
    expect(JSON.parse(out).problems[0]).toMatchObject({ code: "bad-robot", message: expect.stringContaining(words) });
  });

  test("a robot file with NaN in it is not JSON, and says so", async () => {
    const robot = file("nan.json", '{"format": "giddy-pebble/robot", "version": 1, "chassis": NaN}');
    expect(
      JSON.parse((await giddy("rehearse", mission("wait 1 s"), "--robot", robot, "--json")).out).problems[0].message,
    ).toContain("is not JSON");
  });

  test.each<[string, () => string, string]>([
    [
      "random bytes",
      () => file("bytes.cairn", Buffer.from(Array.from({ length: 4000 }, (_, i) => (i * 7919) % 256))),
      "not-text",
    ],
    ["5 MB of text", () => file("long.cairn", "wait 1 s\n".repeat(600_000)), "file-too-large"],
    [
      "10,000 nested repeats",
      () =>
        file(
          "deep.cairn",
          `cairn 1\nrobot "Drizzle"\nmission\n${Array.from({ length: 10_000 }, (_, i) => `${"  ".repeat(i + 1)}repeat 2 times`).join("\n")}\n`,
        ),
      "file-too-large",
    ],
    [
      "900 nested repeats",
      () =>
        file(
          "deeper.cairn",
          `cairn 1\nrobot "Drizzle"\nmission\n${Array.from({ length: 900 }, (_, i) => `${"  ".repeat(i + 1)}repeat 2 times`).join("\n")}\n`,
        ),
      "too-deep",
    ],
    [
      "a robot that does not exist",
      () => file("dizzle.cairn", 'cairn 1\nrobot "Dizzle"\nmission\n  wait 1 s\n'),
      "unknown-robot",
    ],
    [
      "a field that does not exist",
      () => file("moon.cairn", 'cairn 1\nrobot "Drizzle"\nfield "Moon"\nmission\n  wait 1 s\n'),
      "unknown-field",
    ],
    ["no file at all", () => path.join(folder, "nothing.cairn"), "unreadable-file"],
    ["an empty file", () => file("empty.cairn", ""), "no-version"],
  ])("%s is one clear problem and exit status 2", async (_, make, code) => {
    const { status, out } = await giddy("rehearse", make(), "--json");
    expect(status).toBe(2);
    const { problems } = JSON.parse(out);
    const codes = problems.map((problem: { code: string }) => problem.code);
    expect(codes).toContain(code);
    expect(problems.length).toBeLessThanOrEqual(2);
  });

  test.each([
    ["--seed", "many"],
    ["--times", "0"],
    ["--times", "1e9"],
  ])("%s %s says what would be right", async (option, value) => {
    const { status, err } = await giddy("rehearse", mission("wait 1 s"), option, value);
    expect(status).toBe(2);
    expect(err).toContain(`${option} must be a whole number from`);
  });
});

describe("check and format", () => {
  test("check prints place, sentence and mend", async () => {
    const { status, out } = await giddy("check", mission("turn 90 deg"));
    expect(status).toBe(2);
    expect(out).toMatch(
      /m\.cairn:4:8: error: Left or right\? Write left 90 deg or right 90 deg\.\n {4}mend: write left 90 deg {2}\[which-side\]/,
    );
    expect((await giddy("check", mission("wait 1 s"))).out).toContain("no problems");
  });

  test("format prints, --write writes, and a text with problems stays as it is", async () => {
    const loose = mission("go   30cm");
    expect((await giddy("format", loose)).out).toContain("  go 30 cm\n");
    await giddy("format", loose, "--write");
    expect(readFileSync(loose, "utf8")).toContain("  go 30 cm\n");
    const broken = mission("trun left", "broken.cairn");
    const before = readFileSync(broken, "utf8");
    expect((await giddy("format", broken, "--write")).status).toBe(2);
    expect(readFileSync(broken, "utf8")).toBe(before);
  });
});

describe("robot", () => {
  test("--json prints figures with formulas, loads and wiring of a sound robot", async () => {
    const { status, out } = await giddy("robot", path.join(root, "demo/fog.robot.json"), "--json");
    expect(status).toBe(0);
    const said = JSON.parse(out);
    expect(said).toMatchObject({ ok: true, name: "Fog", problems: [] });
    const figures = Object.fromEntries(
      said.figures.map((figure: { id: string; value: number }) => [figure.id, figure.value]),
    );
    // By hand: pi (T + L²/T) / (pi D), and mu m g on four driven wheels.
    expect(figures["wheel-turns"]).toBeCloseTo((0.14 + 0.01 / 0.14) / 0.062, 3);
    expect(figures["push-before-slip"]).toBeCloseTo(0.62 * 0.86 * 9.81, 6);
    expect(said.figures[0]).toMatchObject({
      unit: "cm/s",
      formula: expect.stringContaining("V"),
      terms: expect.any(Array),
    });
    expect(said.loads).toHaveLength(4);
    expect(said.wiring.every((note: { severity: string }) => note.severity === "fine")).toBe(true);
  });

  test("without --json it is a table for people", async () => {
    const { out } = await giddy("robot", path.join(root, "demo/gust.robot.json"));
    expect(out).toContain("Top speed");
    expect(out).toContain("106 cm/s");
  });

  test("faults are named with their mends, and the status says so", async () => {
    const file = robotWith((body) => {
      Object.assign(body.wheels[0] ?? {}, { drivenBy: "left_wheel" });
    });
    const { status, out } = await giddy("robot", file, "--json");
    expect(status).toBe(2);
    const said = JSON.parse(out);
    expect(said).toMatchObject({ ok: false, figures: [] });
    expect(said.problems[0]).toMatchObject({
      code: "gear-loop",
      part: "left_wheel",
      mend: expect.stringContaining("motor"),
    });
  });

  test.each([
    ["no such file", () => "/nowhere/robot.json", "cannot be read"],
    ["not JSON", () => file("bad.json", "{"), "not JSON"],
    ["20 MB", () => file("big.json", `"${"x".repeat(20_000_000)}"`), "2 MB at most"],
    ["another format", () => file("cake.json", '{"format":"cake"}'), "not a giddy-pebble/robot document"],
  ])("%s is refused in words", async (_, make, words) => {
    const { status, out } = await giddy("robot", make(), "--json");
    expect(status).toBe(2);
    expect(JSON.parse(out).problems[0].message).toContain(words);
  });
});

test("a load that was pushed is told with its place, and zones that gave points", async () => {
  const text =
    'cairn 1\nrobot "Drizzle"\nfield "Fellside"\nbegin "hut dock"\nmission\n  go 80 cm\n  turn right 90 deg\n  go 50 cm\n  turn right 90 deg\n  go 35 cm at 15 cm/s\n';
  const { out } = await giddy("rehearse", file("push.cairn", text), "--ideal", "--json");
  const said = JSON.parse(out);
  expect(said.loads[0]).toMatchObject({ name: "snow gauge", upright: true });
  expect(said.loads[0].xM).toBeLessThan(0.6);
  expect(said.zones).toBeUndefined();
});

describe("giddy export and giddy lockstep", () => {
  const MISSION = 'cairn 1\nrobot "Drizzle"\n\nmission\n  go 20 cm\n  turn left 90 deg\n';

  test.each(["cpp", "micropython", "avr"])("a mission leaves for %s and behaves as rehearsed", async (target) => {
    const name = file(`leaves-${target}.cairn`, MISSION);
    const written = await giddy("export", name, "--target", target, "--out", path.join(folder, target), "--json");
    expect(written.status).toBe(0);
    const { files } = JSON.parse(written.out) as { files: string[] };
    for (const one of files) expect(readFileSync(path.join(folder, target, one), "utf8").length).toBeGreaterThan(20);
    const { status, out } = await giddy("lockstep", name, "--target", target, "--seed", "4", "--json");
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ target, equal: true, events: { same: 2, different: 0 }, differences: [] });
  });

  test("another target, a mission with errors and what a board cannot do are said, with status 2", async () => {
    const name = file("fine.cairn", MISSION);
    const other = await giddy("export", name, "--target", "abacus", "--out", folder);
    expect([other.status, other.err]).toEqual([2, '--target must be one of cpp, micropython, avr, not "abacus".\n']);
    const wrong = await giddy("lockstep", file("wrong.cairn", MISSION.replace("20 cm", "20")), "--target", "cpp");
    expect(wrong.status).toBe(2);
    expect(wrong.err).toContain("wrong.cairn:5");
    const kept = MISSION.replace(
      "mission\n",
      'set words = ""\n\nmission\n  set words = "far " + eye.distance\n  show words\n',
    );
    const told = await giddy("export", file("kept.cairn", kept), "--target", "cpp", "--out", path.join(folder, "kept"));
    expect(told.status).toBe(2);
    expect(told.err).toContain("kept.cairn:7: A board cannot keep a text that it puts together.");
  });
});
