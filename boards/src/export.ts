// Everything that leaves with a mission: the mission itself, the runtime, the board's part, and a page that says what to do.
import {
  boardRobot,
  boardWatched,
  type DealtPins,
  type LinkRoom,
  type Program,
  type Robot,
  wiringWords,
} from "@giddy-pebble/core";
import { type ChipSizes, exportAvr } from "./avr.js";
import { boardFiles, runtimeFiles, versionHeader, type Written, writeCpp } from "./cpp.js";
import { pythonBoardFiles, pythonRuntime, versionModule, writePython } from "./python.js";

export const TARGETS = ["cpp", "micropython", "avr"] as const;
export type TargetName = (typeof TARGETS)[number];

export interface Exported extends Written {
  readonly target: TargetName;
  /** What it takes of a chip; null where there is none, or no compiler for it. */
  readonly chip: ChipSizes | null;
  /** Which line of a chip each part hangs on; null for boards whose pins a person fills in. */
  readonly pins: DealtPins | null;
  /** How much of the link there is room for. */
  readonly link: LinkRoom;
  /** What would have to be installed to measure that; null where nothing is missing. */
  readonly missing: string | null;
}

/** @param title - the mission's name, for the page */
export async function exportMission(
  target: TargetName,
  program: Program,
  robot: Robot,
  title: string,
): Promise<Exported> {
  if (target === "avr") {
    const { wires, ...made } = await exportAvr(program, robot);
    return { ...made, target, files: new Map([...made.files, ["README.md", readme(target, robot, title, wires)]]) };
  }
  const python = target === "micropython" ? writePython(program, robot) : null;
  const written = python ?? writeCpp(program, robot);
  const runtime = target === "cpp" ? await runtimeFiles() : await pythonRuntime();
  const board = target === "cpp" ? await boardFiles() : await pythonBoardFiles();
  const version: [string, string][] =
    target === "cpp"
      ? [["version.h", versionHeader(written.version, robot)]]
      : [["version.py", versionModule(written.version, robot, boardWatched(program, boardRobot(robot)))]];
  const files = new Map([
    ...written.files,
    ...version,
    ...runtime,
    ...board,
    ["README.md", readme(target, robot, title)],
  ]);
  return {
    ...written,
    target,
    files,
    pins: python?.pins ?? null,
    link: "live",
    chip: null,
    missing: null,
  };
}

/** What the page of each target says of its files and of what to do with them. */
const PAGES: Readonly<
  Record<
    TargetName,
    {
      readonly language: string;
      readonly mission: string;
      readonly numbers: string;
      readonly board: string;
      readonly steps: readonly string[];
    }
  >
> = {
  cpp: {
    language: "C++14 for any board with a compiler.",
    mission: "`mission.cpp`",
    numbers: "`robot.h`, `robot.cpp`, `uses.h`",
    board: "`wiring.cpp`, `contract.h`, `loop.cpp`, `my_board.cpp`",
    steps: [
      "1. Fill in the functions of `my_board.cpp` for your board. `contract.h` says what each is asked for.",
      "2. Compile all files with C++14: `g++ -std=c++14 -Wall -Wextra -ffp-contract=off *.cpp`, or your board's compiler.",
      "3. Put the wheels up before the first start.",
    ],
  },
  micropython: {
    language: "MicroPython 1.20 or newer, with the module `machine`.",
    mission: "`mission.py`",
    numbers: "`robot.py`",
    board: "`pins.py`, `board.py`, `main.py`",
    steps: [
      "1. Fill in `pins.py`: the number of the board's pin for each line.",
      "2. Copy all files with the ending `.py` onto the board.",
      "3. Put the wheels up. Then reset the board: `main.py` starts the mission.",
    ],
  },
  avr: {
    language: "C++14 for a board with an ATmega328P at 16 MHz, with its two-wire bus on C4 and C5.",
    mission: "`mission.cpp`",
    numbers: "`robot.h`, `robot.cpp`, `uses.h`",
    board: "`pins.h`, `wiring.cpp`, `contract.h`, `loop.cpp`, `avr_board.cpp`",
    steps: [
      "1. Wire the robot as `pins.h` says: port and number of each line. A motor's bridge has two lines.",
      "2. `mission.hex` is the finished program. Where it is missing, `sh compile.sh` makes it with gcc-avr.",
      "3. Write it through the bootloader: `avrdude -D -p m328p -c arduino -b 115200 -P PORT -U flash:w:mission.hex`. There `arduino` is avrdude's word for a bootloader that is reset when its port opens.",
      "4. Put the wheels up before the first start.",
    ],
  },
};

function readme(target: TargetName, robot: Robot, title: string, wires: readonly string[] | null = null): string {
  const { parts, sensors, drives } = boardRobot(robot);
  const motors = robot.motors.map(
    ({ name }, i) => `| motor ${i} | ${name} | ${drives[i] ? "drives" : "moves a part"} |`,
  );
  const servos = robot.servos.map(({ name }, i) => `| servo ${i} | ${name} | |`);
  const senses = sensors.map(({ name }, i) => `| sensor ${i} | ${name} | ${robot.sensors[i]?.kind ?? ""} |`);
  const wiring = wires ?? wiringWords(robot);
  const { language, mission, numbers, board, steps } = PAGES[target];
  const words = parts.map(({ name }) => plain(name)).join(", ");
  const lines = [
    `# ${plain(title)} for ${plain(robot.name)}`,
    "",
    language,
    "",
    "| file | what it is |",
    "|---|---|",
    `| ${mission} | the mission: one step one call, each under its line of Cairn |`,
    `| ${numbers} | the robot as it was built and calibrated |`,
    `| ${board} | the board |`,
    ...(target === "avr" ? ["| `whole.cpp` | all sources in one, for the compiler |"] : []),
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
