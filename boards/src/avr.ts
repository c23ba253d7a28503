// Missions for 8-bit AVR chips: compiled by avr-gcc, measured, and run instruction by instruction by an emulator.
import { execFile } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import { avrPins, boardRobot, type DealtPins, type LinkRoom, type Program, type Robot } from "@giddy-pebble/core";
import {
  boardFiles,
  compile,
  type ExportProblem,
  hashOf,
  MissingTool,
  once,
  runtimeFiles,
  textsIn,
  versionHeader,
  WHOLE,
  type Written,
  wholeOf,
  writeCpp,
} from "./cpp.js";

const run = promisify(execFile);
const runtime = path.join(path.dirname(fileURLToPath(import.meta.url)), "..", "runtime");

interface AvrChip {
  readonly name: string;
  readonly flashBytes: number;
  readonly ramBytes: number;
}
/** The chip boards have, and a larger one of its family on which missions are tried that do not fit it. */
const AVR_CHIP: AvrChip = { name: "atmega328p", flashBytes: 32_768, ramBytes: 2048 };
const AVR_LARGE: AvrChip = { name: "atmega1284p", flashBytes: 131_072, ramBytes: 16_384 };
export const AVR_HZ = 16_000_000;

/**
 * Small code before quick code: one copy of each function, no widening of pieces, short jumps. Sums of products are two
 * roundings, as everywhere.
 */
const AVR_FLAGS = [
  "-std=gnu++14",
  "-Os",
  "-fwhole-program",
  "-Wall",
  "-Wextra",
  "-Werror",
  "-Wno-type-limits",
  `-DF_CPU=${AVR_HZ}UL`,
  "-ffp-contract=off",
  "-ffunction-sections",
  "-fdata-sections",
  "-Wl,--gc-sections",
  "-fno-exceptions",
  "-fno-threadsafe-statics",
  "-fno-inline",
  "-fno-split-wide-types",
  "-fno-tree-pre",
  "-fno-gcse",
  "-fno-tree-dominator-opts",
  "-fno-tree-sra",
  "-mcall-prologues",
  "-mrelax",
  // gcc 5.4 loses a pointer there: it counts on a register that an addition has used for its constant.
  "-fdisable-rtl-postreload",
  "-mstrict-X",
];
/** The linker refuses nothing: how much too large a mission is can only be told once it is linked. */
const LINK = ["-Wl,--defsym=__TEXT_REGION_LENGTH__=256K", "-Wl,--defsym=__DATA_REGION_LENGTH__=64K"];

export interface AvrBuild {
  readonly folder: string;
  readonly elf: string;
  readonly chip: AvrChip;
  /** Program and the values it begins with. */
  readonly flashBytes: number;
  /** Values, without the stack. */
  readonly ramBytes: number;
}

/** Compiles sources for a chip. @param files - texts by name @throws MissingTool, Error with what the compiler said */
async function buildAvr(files: ReadonlyMap<string, string>, chip: AvrChip): Promise<AvrBuild> {
  const flags = [`-mmcu=${chip.name}`, ...AVR_FLAGS];
  const folder = await once(`avr-${hashOf([...flags, ...LINK, ...[...files].flat()])}`, async (scratch) => {
    for (const [name, text] of files) await writeFile(path.join(scratch, name), text);
    await writeFile(path.join(scratch, WHOLE), wholeOf([...files.keys()]));
    await compile([...flags, ...LINK, "-o", "brain.elf", WHOLE, "-lm"], scratch, "avr-g++");
    const { stdout } = await run("avr-size", ["brain.elf"], { cwd: scratch });
    await writeFile(path.join(scratch, "sizes"), stdout);
    await run("avr-objcopy", ["-O", "ihex", "-R", ".eeprom", "brain.elf", "mission.hex"], { cwd: scratch });
    const symbols = await run("avr-nm", ["-S", "-C", "brain.elf"], { cwd: scratch, maxBuffer: 10_000_000 });
    await writeFile(path.join(scratch, "symbols"), symbols.stdout);
  });
  const [text = 0, data = 0, bss = 0] = ((await readFile(path.join(folder, "sizes"), "utf8")).split("\n")[1] ?? "")
    .trim()
    .split(/\s+/)
    .map(Number);
  return { folder, elf: path.join(folder, "brain.elf"), chip, flashBytes: text + data, ramBytes: data + bss };
}

/** A mission's brain alone, asked through registers: for holding it against the rehearsal. */
export async function buildAvrBrain(written: Written): Promise<AvrBuild> {
  const host = await readFile(path.join(runtime, "host", "host.cpp"), "utf8");
  const own = [...written.files].filter(([name]) => name !== "wiring.cpp");
  const files = new Map([...(await runtimeFiles()), ...own, ["host.cpp", host]]);
  const small = await buildAvr(files, AVR_CHIP);
  const fits = small.flashBytes <= AVR_CHIP.flashBytes && small.ramBytes + STACK_BYTES <= AVR_CHIP.ramBytes;
  return fits ? small : buildAvr(files, AVR_LARGE);
}

/** What a mission's calls and interrupts need of memory beside its values: 280 at most was seen, and 200 to spare. */
const STACK_BYTES = 480;
/** What a bootloader keeps of the chip's flash. */
const BOOTLOADER_BYTES = 512;

/** What a mission takes of a chip, and the most it may take. */
export interface ChipSizes {
  readonly name: string;
  readonly flashBytes: number;
  readonly flashMost: number;
  readonly ramBytes: number;
  readonly ramMost: number;
}

interface AvrExport extends Written {
  /** Each part with its lines, in words. */
  readonly wires: readonly string[];
  /** Measured by the compiler; null where there is none. */
  readonly chip: ChipSizes | null;
  readonly link: LinkRoom;
  /** Which line of the chip each part hangs on. */
  readonly pins: DealtPins;
  /** What would have to be installed to measure it. */
  readonly missing: string | null;
}

/**
 * A mission for the chip, with its board and, where the compiler is there and it fits, the file to be written into the chip.
 * Where the link does not fit beside it, as much of it as does.
 */
export async function exportAvr(program: Program, robot: Robot): Promise<AvrExport> {
  const first = await exportWith("live", program, robot);
  if (first.fits) return first;
  for (const link of ["bare", "none"] as const) {
    const less = await exportWith(link, program, robot);
    if (less.fits) return less;
  }
  return first;
}

async function exportWith(
  link: LinkRoom,
  program: Program,
  robot: Robot,
): Promise<AvrExport & { readonly fits: boolean }> {
  const written = writeCpp(program, robot, link);
  const pins = avrPins(program, boardRobot(robot));
  const files = await avrSources(written, pins.text);
  files.set("version.h", versionHeader(written.version, robot));
  files.set(WHOLE, wholeOf([...files.keys()]));
  files.set("compile.sh", COMPILE_SCRIPT);
  const problems = [...written.problems, ...pins.problems.map(ofRobot)];
  const none = {
    ...written,
    files,
    problems,
    wires: pins.wires,
    pins: pins.pins,
    chip: null,
    missing: null,
    link,
    fits: true,
  };
  // What cannot be written has nothing to measure.
  if (written.problems.length > 0) return none;
  let build: AvrBuild;
  try {
    build = await buildAvrBoard(files);
  } catch (error) {
    if (error instanceof MissingTool) return { ...none, missing: error.message };
    throw error;
  }
  const chip = {
    name: AVR_CHIP.name,
    flashBytes: build.flashBytes,
    flashMost: AVR_CHIP.flashBytes - BOOTLOADER_BYTES,
    ramBytes: build.ramBytes,
    ramMost: AVR_CHIP.ramBytes - STACK_BYTES,
  };
  const tooLarge = await sizeProblems(build, chip, files);
  const fits = tooLarge.length === 0;
  if (fits) files.set("mission.hex", await readFile(path.join(build.folder, "mission.hex"), "utf8"));
  return { ...none, problems: [...problems, ...tooLarge.map(ofRobot)], chip, fits };
}

/** The compiler's call, for whoever changes the source. */
const COMPILE_SCRIPT = `#!/bin/sh
# Makes mission.hex of the files beside it. Needs Debian's packages gcc-avr and avr-libc.
set -e
avr-g++ -mmcu=${AVR_CHIP.name} \\
${AVR_FLAGS.map((flag) => `  ${flag} \\\n`).join("")}  -o mission.elf ${WHOLE} -lm
avr-objcopy -O ihex -R .eeprom mission.elf mission.hex
avr-size mission.elf
`;

async function avrSources(written: Written, pins: string): Promise<Map<string, string>> {
  const board = await boardFiles();
  board.delete("my_board.cpp");
  const own = await textsIn(path.join(runtime, "avr"));
  return new Map([...written.files, ...(await runtimeFiles()), ...board, ...own, ["pins.h", pins]]);
}

/** Compiles the files of an export for the chip. @throws MissingTool, Error with what the compiler said */
export function buildAvrBoard(files: ReadonlyMap<string, string>): Promise<AvrBuild> {
  return buildAvr(new Map([...files].filter(([name]) => /\.(cpp|h)$/.test(name))), AVR_CHIP);
}

function ofRobot(message: string): ExportProblem {
  return { line: 1, step: "", message };
}

/** What the runtime's files are about, for whoever has to shorten a mission. */
const ABOUT: Readonly<Record<string, string>> = {
  "mission.cpp": "the mission's own steps and values",
  "line.cpp": "following lines",
  "wall.cpp": "following walls",
  "path.cpp": "ways to places",
  "parts.cpp": "motors and servos beside the drive",
  "hand.cpp": "driving by hand",
  "tasks.cpp": "tasks, interrupts and steps",
  "motions.cpp": "straight ways, turns and arcs",
  "values.cpp": "texts, lists and colours",
};

async function sizeProblems(
  build: AvrBuild,
  { flashBytes, flashMost, ramBytes, ramMost }: ChipSizes,
  files: ReadonlyMap<string, string>,
): Promise<string[]> {
  const symbols = await readFile(path.join(build.folder, "symbols"), "utf8");
  const most = (kinds: RegExp) => {
    const found = largest(symbols, kinds, files).slice(0, 3);
    return found.map(([words, bytes]) => `${words} ${thousands(bytes)} bytes`).join(", ");
  };
  const problems: string[] = [];
  if (flashBytes > flashMost)
    problems.push(
      `The mission is ${thousands(flashBytes - flashMost)} bytes too large for the chip. It needs ${thousands(flashBytes)} bytes, and there is room for ${thousands(flashMost)}. Most is taken by: ${most(/^[tTwW]$/)}. Use fewer kinds of steps, or fewer steps.`,
    );
  if (ramBytes > ramMost)
    problems.push(
      `The mission's values are ${thousands(ramBytes - ramMost)} bytes too large for the chip's memory. They need ${thousands(ramBytes)} bytes, and there is room for ${thousands(ramMost)}. Most is taken by: ${most(/^[bBdD]$/)}. Use shorter lists, or fewer things at once.`,
    );
  return problems;
}

/** Bytes by what they are for, largest first. @param kinds - letters of the symbols that count */
function largest(symbols: string, kinds: RegExp, files: ReadonlyMap<string, string>): [string, number][] {
  const sums = new Map<string, number>();
  const sources = [...files].filter(([name]) => name in ABOUT);
  for (const line of symbols.split("\n")) {
    const [, hex, kind, words] = /^\S+ (\S+) (\S) (.*)$/.exec(line) ?? [];
    const name = /([A-Za-z_]\w*)(?:\(|$| \[|\.)/.exec((words ?? "").replace(/^.*::/, ""))?.[1];
    if (!hex || !kind || !name || !kinds.test(kind)) continue;
    const place = sources.find(([, text]) =>
      new RegExp(`^(?!.*\\breturn\\b)\\S.*\\b${name}\\b *[({\\[=;]`, "m").test(text),
    );
    const about = ABOUT[place?.[0] ?? ""];
    if (about) sums.set(about, (sums.get(about) ?? 0) + Number.parseInt(hex, 16));
  }
  return [...sums].sort(([, a], [, b]) => b - a);
}

function thousands(bytes: number): string {
  return String(bytes).replace(/\B(?=(\d{3})+$)/g, ",");
}

/**
 * Small programs of ours around libsimavr: the emulator asks a brain tick by tick, the bench runs a whole chip with its
 * lines. @returns its path @throws MissingTool
 */
export async function buildEmulator(kind: "emulator" | "bench" = "emulator"): Promise<string> {
  const files = await textsIn(path.join(runtime, kind));
  const folder = await once(`emulator-${hashOf([...files].flat())}`, async (scratch) => {
    for (const [name, text] of files) await writeFile(path.join(scratch, name), text);
    const sources = [...files.keys()].filter((name) => name.endsWith(".cpp"));
    try {
      await compile(["-std=c++14", "-O2", "-Wall", "-Wextra", "-o", "emulator", ...sources, "-lsimavr"], scratch);
    } catch (error) {
      if (error instanceof Error && /simavr/.test(error.message))
        throw new MissingTool("The emulator of AVR chips", "libsimavr-dev");
      throw error;
    }
  });
  return path.join(folder, "emulator");
}

/** Small code, and all of it in the chip's last 512 bytes. */
const BOOT_FLAGS = [
  `-mmcu=${AVR_CHIP.name}`,
  "-std=gnu++14",
  "-Os",
  "-Wall",
  "-Wextra",
  "-Werror",
  `-DF_CPU=${AVR_HZ}UL`,
  "-mrelax",
  "-fno-exceptions",
  "-nostartfiles",
  "-nostdlib",
  "-fno-split-wide-types",
  "-fno-move-loop-invariants",
  `-Wl,--section-start=.text=0x${(AVR_CHIP.flashBytes - BOOTLOADER_BYTES).toString(16)}`,
];

/** The bootloader that emulated boards hold. @returns its path @throws MissingTool */
export async function buildBootloader(): Promise<string> {
  const files = await textsIn(path.join(runtime, "boot"));
  const folder = await once(`boot-${hashOf([...BOOT_FLAGS, ...[...files].flat()])}`, async (scratch) => {
    for (const [name, text] of files) await writeFile(path.join(scratch, name), text);
    await compile([...BOOT_FLAGS, "-o", "boot.elf", "boot.cpp"], scratch, "avr-g++");
  });
  return path.join(folder, "boot.elf");
}
