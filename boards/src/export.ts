// Everything that leaves with a mission: the mission itself, the runtime, the board's part, and a page that says what to do.
import { boardRobot, type Program, type Robot, wiringWords } from "@giddy-pebble/core";
import { boardFiles, runtimeFiles, type Written, writeCpp } from "./cpp.js";
import { pythonBoardFiles, pythonRuntime, writePython } from "./python.js";

export const TARGETS = ["cpp", "micropython"] as const;
export type TargetName = (typeof TARGETS)[number];

export interface Exported extends Written {
  readonly target: TargetName;
}

/** @param title - the mission's name, for the page */
export async function exportMission(
  target: TargetName,
  program: Program,
  robot: Robot,
  title: string,
): Promise<Exported> {
  const written = target === "cpp" ? writeCpp(program, robot) : writePython(program, robot);
  const runtime = target === "cpp" ? await runtimeFiles() : await pythonRuntime();
  const board = target === "cpp" ? await boardFiles() : await pythonBoardFiles();
  const files = new Map([...written.files, ...runtime, ...board, ["README.md", readme(target, robot, title)]]);
  return { ...written, target, files };
}

function readme(target: TargetName, robot: Robot, title: string): string {
  const { parts, sensors, drives } = boardRobot(robot);
  const motors = robot.motors.map(
    ({ name }, i) => `| motor ${i} | ${name} | ${drives[i] ? "drives" : "moves a part"} |`,
  );
  const servos = robot.servos.map(({ name }, i) => `| servo ${i} | ${name} | |`);
  const senses = sensors.map(({ name }, i) => `| sensor ${i} | ${name} | ${robot.sensors[i]?.kind ?? ""} |`);
  const wiring = wiringWords(robot);
  const steps =
    target === "cpp"
      ? [
          "1. Fill in the functions of `my_board.cpp` for your board. `contract.h` says what each is asked for.",
          "2. Compile all files with C++14: `g++ -std=c++14 -Wall -Wextra -ffp-contract=off *.cpp`, or your board's compiler.",
          "3. Put the wheels up before the first start.",
        ]
      : [
          "1. Fill in `pins.py`: the number of the board's pin for each line.",
          "2. Copy all files with the ending `.py` onto the board.",
          "3. Put the wheels up. Then reset the board: `main.py` starts the mission.",
        ];
  const own = target === "cpp";
  const words = parts.map(({ name }) => plain(name)).join(", ");
  const lines = [
    `# ${plain(title)} for ${plain(robot.name)}`,
    "",
    own ? "C++14 for any board with a compiler." : "MicroPython 1.20 or newer, with the module `machine`.",
    "",
    "| file | what it is |",
    "|---|---|",
    `| \`${own ? "mission.cpp" : "mission.py"}\` | the mission: one step one call, each under its line of Cairn |`,
    `| \`${own ? "robot.h, robot.cpp" : "robot.py"}\` | the robot as it was built and calibrated |`,
    `| \`${own ? "wiring.cpp, contract.h, loop.cpp, my_board.cpp" : "pins.py, board.py, main.py"}\` | the board |`,
    "| all others | the runtime: how a robot drives, turns, follows and waits |",
    "",
    "## What to do",
    "",
    ...steps,
    "",
    "The tick is 10 ms.",
    "Motors are off before the mission starts, after it ends, and when a tick is 100 ms late.",
    "",
    "## Numbers of its parts",
    "",
    "| number | name | |",
    "|---|---|---|",
    ...motors,
    ...servos,
    ...senses,
    "",
    ...(parts.length > 0 ? [`Parts that steps name: ${words}.`, ""] : []),
    "## Wiring",
    "",
    ...(wiring.length > 0 ? wiring.map((line) => `- ${plain(line)}`) : ["The robot has no wiring yet."]),
  ];
  return `${lines.join("\n")}\n`;
}

/** Words that a page of Markdown cannot take for anything else. */
function plain(words: string): string {
  return words.replace(/[\\`*{}[\]<>#|!\r\n]/g, " ").trim();
}
