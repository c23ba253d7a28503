// Missions for 8-bit AVR chips: compiled by avr-gcc, measured, and run instruction by instruction by an emulator.
import { execFile } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import { compile, hashOf, MissingTool, once, runtimeFiles, textsIn, type Written } from "./cpp.js";

const run = promisify(execFile);
const runtime = path.join(path.dirname(fileURLToPath(import.meta.url)), "..", "runtime");

export interface AvrChip {
  readonly name: string;
  readonly flashBytes: number;
  readonly ramBytes: number;
}
/** The chip boards have, and a larger one of its family on which missions are tried that do not fit it. */
export const AVR_CHIP: AvrChip = { name: "atmega328p", flashBytes: 32_768, ramBytes: 2048 };
export const AVR_LARGE: AvrChip = { name: "atmega1284p", flashBytes: 131_072, ramBytes: 16_384 };
export const AVR_HZ = 16_000_000;

/**
 * Small code before quick code: one copy of each function, no widening of pieces, short jumps. Sums of products are two
 * roundings, as everywhere.
 */
const FLAGS = [
  "-std=gnu++14",
  "-Os",
  "-flto",
  "-Wall",
  "-Wextra",
  "-Wno-type-limits",
  `-DF_CPU=${AVR_HZ}UL`,
  "-ffp-contract=off",
  "-ffunction-sections",
  "-fdata-sections",
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
const LINK = [
  "-Wl,--gc-sections",
  "-Wl,--defsym=__TEXT_REGION_LENGTH__=256K",
  "-Wl,--defsym=__DATA_REGION_LENGTH__=64K",
];

export interface AvrBuild {
  readonly elf: string;
  readonly chip: AvrChip;
  /** Program and the values it begins with. */
  readonly flashBytes: number;
  /** Values, without the stack. */
  readonly ramBytes: number;
}

/** Compiles sources for a chip. @param files - texts by name @throws MissingTool, Error with what the compiler said */
export async function buildAvr(files: ReadonlyMap<string, string>, chip: AvrChip): Promise<AvrBuild> {
  const all = [...FLAGS, `-mmcu=${chip.name}`, ...LINK];
  const folder = await once(`avr-${hashOf([...all, ...[...files].flat()])}`, async (scratch) => {
    for (const [name, text] of files) await writeFile(path.join(scratch, path.basename(name)), text);
    const sources = [...files.keys()].filter((name) => name.endsWith(".cpp"));
    await compile([...all, "-o", "brain.elf", ...sources, "-lm"], scratch, "avr-g++");
    const { stdout } = await run("avr-size", ["brain.elf"], { cwd: scratch });
    await writeFile(path.join(scratch, "sizes"), stdout);
  });
  const [text = 0, data = 0, bss = 0] = ((await readFile(path.join(folder, "sizes"), "utf8")).split("\n")[1] ?? "")
    .trim()
    .split(/\s+/)
    .map(Number);
  return { elf: path.join(folder, "brain.elf"), chip, flashBytes: text + data, ramBytes: data + bss };
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

/** What a mission's calls and interrupts may need of memory beside its values. */
export const STACK_BYTES = 300;

/** The emulator: a small program of ours around libsimavr. @returns its path @throws MissingTool */
export async function buildEmulator(): Promise<string> {
  const files = await textsIn(path.join(runtime, "emulator"));
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
