// C++ for boards: the written files of a mission, and what the host's compiler makes of them.
import { execFile } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { lstat, mkdir, mkdtemp, readdir, readFile, rename, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";
import {
  type BoardStep,
  boardRobot,
  boardWatched,
  cppMission,
  cppRobotHeader,
  cppRobotParts,
  cppUses,
  cppWiring,
  type LinkRoom,
  type Program,
  quoted,
  type Robot,
} from "@giddy-pebble/core";

const run = promisify(execFile);
const here = path.dirname(fileURLToPath(import.meta.url));
/** Sources of the runtime, as they are given away. */
const RUNTIME = path.join(here, "..", "runtime", "cpp");
const HOST = path.join(here, "..", "runtime", "host");

/** As an exported mission has to compile anywhere; single precision, and no sums of products at once. */
const FLAGS = ["-std=c++14", "-Wall", "-Wextra", "-Werror", "-ffp-contract=off"];
/** A compiler that takes longer is ended, ms: beside its own limit of 20 s of work. */
const COMPILE_MS = 120_000;
/** At most 20 s of work and 512 MB for each of the compiler's parts; "exec" so that ending it ends the compiler. */
const LIMITED = 'ulimit -t 20; ulimit -v 524288; exec "$@"';
/** What a shell says of a program that is not there. */
const NOT_FOUND = 127;

/** A tool is not there: what is missing, and the package of Debian that has it. */
export class MissingTool extends Error {
  constructor(tool: string, name: string) {
    super(`${tool} is not installed. Install the package "${name}".`);
  }
}

export interface ExportProblem {
  readonly line: number;
  readonly step: string;
  readonly message: string;
}

export interface Written {
  /** What tells this program from others: a board that holds it says it over its link. */
  readonly version: number;
  /** Readings that a board tells of while it runs, in the order in which it does. */
  readonly watched: readonly string[];
  /** Each file's text by its name. */
  readonly files: ReadonlyMap<string, string>;
  readonly steps: readonly BoardStep[];
  readonly problems: readonly ExportProblem[];
}

/** Of 32 bits, from the texts of a mission. */
export function versionOf(files: ReadonlyMap<string, string>): number {
  return Number.parseInt(hashOf([...files].flat()).slice(0, 8), 16);
}

/** For the board's link: which program it holds, of which robot. */
export function versionHeader(version: number, robot: Robot): string {
  return `// What the board says of itself when it is asked over its link.
#pragma once
#include "pebble.h"

namespace robot {
constexpr uint32_t VERSION = 0x${version.toString(16).padStart(8, "0")};
constexpr char NAME[] FLASH = ${quoted(robot.name.slice(0, MOST_NAME))};
}  // namespace robot
`;
}
/** Characters of a robot's name that fit a frame. */
export const MOST_NAME = 20;

/** A mission as C++, without the runtime: robot.h, robot.cpp and mission.cpp. */
export function writeCpp(program: Program, robot: Robot, link: LinkRoom = "live"): Written {
  const board = boardRobot(robot);
  const mission = cppMission(program, board);
  const files = new Map([
    ["robot.h", cppRobotHeader(board)],
    ["robot.cpp", cppRobotParts(board)],
    ["uses.h", cppUses(program, board, link)],
    ["mission.cpp", mission.text],
    ["wiring.cpp", cppWiring(board)],
  ]);
  return {
    files,
    version: versionOf(files),
    watched: boardWatched(program, board).map(({ id }) => id),
    steps: mission.steps,
    problems: mission.problems,
  };
}

/** Texts of a folder of the runtime by their names. */
export async function textsIn(folder: string): Promise<Map<string, string>> {
  const names = (await readdir(folder)).filter((name) => /\.(h|cpp|py)$/.test(name)).sort();
  return new Map(
    await Promise.all(names.map(async (name) => [name, await readFile(path.join(folder, name), "utf8")] as const)),
  );
}

/** The runtime in C++, without a board. */
export function runtimeFiles(): Promise<Map<string, string>> {
  return textsIn(RUNTIME);
}

/** The board's own files in C++: its loop, what it has to offer, and one to fill in. */
export function boardFiles(): Promise<Map<string, string>> {
  return textsIn(path.join(here, "..", "runtime", "board"));
}

/** Compiles an exported mission with the board that is to be filled in. @throws MissingTool, Error with what the compiler said */
export async function compileExport(files: ReadonlyMap<string, string>): Promise<void> {
  await once(`export-${hashOf([...files].flat())}`, async (folder) => {
    for (const [name, text] of files) await writeFile(path.join(folder, path.basename(name)), text);
    const sources = [...files.keys()].filter((name) => name.endsWith(".cpp"));
    await compile([...FLAGS, "-O1", "-o", "brain", ...sources], folder);
  });
}

/** A name for what something is made of. */
export function hashOf(parts: readonly string[]): string {
  const hash = createHash("sha256");
  for (const part of parts) hash.update(`${part.length}:`).update(part);
  return hash.digest("hex").slice(0, 32);
}

/** Where compiled files are kept, by what they are made of. */
async function cacheFolder(): Promise<string> {
  const { uid } = os.userInfo();
  const folder = process.env.GIDDY_BOARDS ?? path.join(os.tmpdir(), `giddy-pebble-boards-${uid}`);
  await mkdir(folder, { recursive: true, mode: 0o700 });
  // Programs are run from here: a folder that somebody else made first is none of ours.
  const { uid: owner } = await lstat(folder);
  if (owner === uid) return folder;
  throw new Error(`${folder} belongs to somebody else. Name another folder in GIDDY_BOARDS.`);
}

const COMPILERS = {
  "g++": new MissingTool("The C++ compiler g++", "g++"),
  "avr-g++": new MissingTool("The compiler for AVR chips", "gcc-avr"),
} as const;

/** Compilers at once: each takes a core for seconds, and others work on this computer too. */
const MOST_AT_ONCE = 2;
let running = 0;
const waiting: (() => void)[] = [];

async function inTurn<T>(work: () => Promise<T>): Promise<T> {
  if (running >= MOST_AT_ONCE) await new Promise<void>((resolve) => waiting.push(resolve));
  else running += 1;
  try {
    return await work();
  } finally {
    // Whoever waits longest takes this place.
    const next = waiting.shift();
    if (next) next();
    else running -= 1;
  }
}

/** Runs a compiler in a folder. @throws MissingTool, Error with what the compiler said */
export async function compile(
  args: readonly string[],
  cwd: string,
  compiler: keyof typeof COMPILERS = "g++",
): Promise<void> {
  try {
    const limits = { cwd, timeout: COMPILE_MS, maxBuffer: 10_000_000 };
    await inTurn(() => run("sh", ["-c", LIMITED, "sh", compiler, ...args], limits));
  } catch (error) {
    const failure = error as Error & { code?: number | string; stderr?: string };
    if (failure.code === NOT_FOUND) throw COMPILERS[compiler];
    const told = (failure.stderr ?? failure.message).split("\n").filter((line) => !line.includes("note: disable pass"));
    throw new Error(`The compiler refused it:\n${told.slice(0, 20).join("\n")}`);
  }
}

/** Makes a folder once for what it is made of; whoever comes second finds it whole. */
export async function once(key: string, make: (folder: string) => Promise<void>): Promise<string> {
  const cache = await cacheFolder();
  const folder = path.join(cache, key);
  if (existsSync(folder)) return folder;
  const scratch = await mkdtemp(path.join(cache, "making-"));
  try {
    await make(scratch);
    await rename(scratch, folder).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== "ENOTEMPTY" && error.code !== "EEXIST") throw error;
    });
  } finally {
    await rm(scratch, { recursive: true, force: true });
  }
  return folder;
}

/** What a compiler is given in place of many sources. */
export const WHOLE = "whole.cpp";

/**
 * Sources as one: in half the time, and for a chip a smaller program than of pieces that are linked.
 * @param names - of files; those that are no sources are passed over
 */
export function wholeOf(names: readonly string[]): string {
  const sources = names.filter((name) => name.endsWith(".cpp") && name !== WHOLE);
  const lines = sources.map((name) => `#include "${name}"`);
  return `${["// All sources for the compiler: it sees at once what is used of them.", ...lines].join("\n")}\n`;
}

export interface HostOptions {
  /** Numbers of double precision: for telling rounding from a difference in the runtime. */
  readonly double?: boolean;
}

/** Compiles a mission with the runtime and the host board. @returns path of the program @throws MissingTool, Error with what the compiler said */
export async function buildHost(written: Written, { double = false }: HostOptions = {}): Promise<string> {
  const runtime = await runtimeFiles();
  const host = await readFile(path.join(HOST, "host.cpp"), "utf8");
  // With all of the runtime, so that the missions of a robot share it.
  const uses = (written.files.get("uses.h") ?? "").replaceAll("false", "true");
  const own = [written.files.get("robot.h") ?? "", written.files.get("robot.cpp") ?? "", uses];
  const flags = [...FLAGS, ...(double ? ["-DPEBBLE_DOUBLE"] : ["-fsingle-precision-constant"])];
  const body = [...runtime].flat();
  const objects = await once(`runtime-${hashOf([...flags, host, ...own, ...body])}`, async (folder) => {
    for (const [name, text] of runtime) await writeFile(path.join(folder, name), text);
    await writeFile(path.join(folder, "host.cpp"), host);
    for (const [i, name] of ["robot.h", "robot.cpp", "uses.h"].entries())
      await writeFile(path.join(folder, name), own[i] as string);
    await writeFile(path.join(folder, WHOLE), wholeOf([...runtime.keys(), "host.cpp", "robot.cpp"]));
    await compile([...flags, "-c", WHOLE], folder);
  });
  const mission = written.files.get("mission.cpp") ?? "";
  const built = await once(`mission-${hashOf([objects, mission])}`, async (folder) => {
    await writeFile(path.join(folder, "mission.cpp"), mission);
    const parts = ["mission.cpp", path.join(objects, WHOLE.replace("cpp", "o"))];
    await compile([...flags, `-I${objects}`, "-o", "brain", ...parts], folder);
  });
  return path.join(built, "brain");
}
