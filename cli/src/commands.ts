// The commands of `giddy`: check, format and rehearse missions from files, and figure out robots.
//
// Exit status of every command: 0 well, 1 not (a goal missed, a file to be formatted), 2 problems in a file, or an
// option or file that cannot be used.
import { readFileSync } from "node:fs";
import { CORE_VERSION } from "@giddy-pebble/core";
import { Command, CommanderError } from "commander";
import { exportBoardCommand, lockstepCommand } from "./boards.js";
import { checkCommand } from "./check.js";
import { checkFieldCommand, exportCommand, importCommand, makeCommand, probeCommand } from "./field.js";
import { eachFile } from "./files.js";
import { formatCommand } from "./format.js";
import { programCommand } from "./program.js";
import { rehearseCommand } from "./rehearse.js";
import { robotCommand } from "./robot.js";

const { version } = JSON.parse(readFileSync(new URL("../package.json", import.meta.url), "utf8")) as {
  version: string;
};

/** What nobody expected is one sentence, never a stack. */
export function sentenceOf(error: unknown): string {
  if (error instanceof RangeError || error instanceof TypeError) return `giddy failed: ${error.message}`;
  return error instanceof Error ? error.message : String(error);
}

const MISSION = "a .cairn mission; - reads standard input";
const ROBOT_FILE = "robot document (JSON); default: the demo robot the mission names";
const FIELD_FILE = "field document (JSON); default: the demo field the mission names";

/** Runs one command. @param args - as they are typed after `giddy` @returns its exit status */
export async function giddy(args: readonly string[]): Promise<number> {
  let status = 0;
  const program = new Command("giddy")
    .description("Check, format and rehearse Cairn missions.")
    .version(`giddy ${version}, core ${CORE_VERSION}`, "-V, --version", "print the version")
    .exitOverride()
    .showHelpAfterError("(giddy --help lists commands and options)");

  program
    .command("check")
    .description("say what is wrong with missions, line by line")
    .argument("<file...>", MISSION)
    .option("--robot <file>", ROBOT_FILE)
    .option("--field <file>", FIELD_FILE)
    .option("--use <file...>", "collections of routines; those beside the mission are found by themselves")
    .option("--json", "print one JSON object a file")
    .action(async (files: string[], options) => {
      status = await eachFile(files, (file) => checkCommand(file, options, files.length > 1));
    });

  program
    .command("format")
    .description("put missions into the usual layout")
    .argument("<file...>", MISSION)
    .option("--write", "write the files instead of printing them")
    .option("--check", "change nothing; list files that are not in the usual layout")
    .action(async (files: string[], options) => {
      status = await eachFile(files, (file) => formatCommand(file, options));
    });

  program
    .command("rehearse")
    .description("run missions on simulated physics, once or many times")
    .argument("<file...>", MISSION)
    .option("--robot <file>", ROBOT_FILE)
    .option("--field <file>", FIELD_FILE)
    .option("--use <file...>", "collections of routines; those beside the mission are found by themselves")
    .option("--hands <file>", "table (CSV) of what a driver does, for missions that hand over")
    .option(
      "--memory <file>",
      "values that the mission remembers: read before the run, and written after one run alone",
    )
    .option("--seed <n>", "whole number that decides the scatter", "1")
    .option("--times <n>", "how many rehearsals")
    .option("--ideal", "no noise and no scatter")
    .option("--trace <file>", "write the run's trace as CSV; with one mission only")
    .option("--json", "print one JSON object a mission")
    .action(async (files: string[], options) => {
      if (options.trace !== undefined && files.length > 1)
        throw new Error("--trace takes the run of one mission. Name one file.");
      if (options.memory !== undefined && files.length > 1)
        throw new Error("--memory keeps the values of one mission. Name one file.");
      status = await eachFile(files, (file) => rehearseCommand(file, options, files.length > 1));
    });

  program
    .command("program")
    .description("say what a mission becomes: the program that a robot runs, instruction by instruction")
    .argument("<file...>", "a .cairn mission, or a program (.json) as --json prints it; - reads a mission")
    .option("--robot <file>", ROBOT_FILE)
    .option("--field <file>", FIELD_FILE)
    .option("--use <file...>", "collections of routines; those beside the mission are found by themselves")
    .option("--json", "print the program itself, one JSON object a file")
    .action(async (files: string[], options) => {
      status = await eachFile(files, (file) => programCommand(file, options));
    });

  program
    .command("export")
    .description("write a mission out for a real board: the mission, the runtime and the board's part")
    .argument("<file>", MISSION)
    .requiredOption("--target <name>", "cpp, micropython or avr")
    .requiredOption("--out <folder>", "where the files go")
    .option("--robot <file>", ROBOT_FILE)
    .option("--field <file>", FIELD_FILE)
    .option("--use <file...>", "collections of routines; those beside the mission are found by themselves")
    .option("--json", "print one JSON object")
    .action(async (file: string, options) => {
      status = await exportBoardCommand(file, options);
    });

  program
    .command("lockstep")
    .description("run a mission's written brain and the rehearsal side by side, and say where they differ")
    .argument("<file>", MISSION)
    .requiredOption("--target <name>", "cpp, micropython or avr")
    .option("--robot <file>", ROBOT_FILE)
    .option("--field <file>", FIELD_FILE)
    .option("--use <file...>", "collections of routines; those beside the mission are found by themselves")
    .option("--seed <n>", "whole number that decides the scatter", "1")
    .option("--ideal", "no noise and no scatter")
    .option("--json", "print one JSON object")
    .action(async (file: string, options) => {
      status = await lockstepCommand(file, options);
    });

  program
    .command("put")
    .description("write a mission into a board that hangs on a serial port")
    .argument("<file>", MISSION)
    .requiredOption("--target <name>", "avr or micropython")
    .requiredOption("--port <path>", "the board's serial port")
    .option("--robot <file>", ROBOT_FILE)
    .option("--field <file>", FIELD_FILE)
    .option("--use <file...>", "collections of routines; those beside the mission are found by themselves")
    .option("--json", "print one JSON object")
    .action(async (file: string, options) => {
      status = await (await import("./put.js")).putCommand(file, options);
    });

  program
    .command("board")
    .description("switch on a board of this computer, with a simulated robot; its line is a pseudo-terminal")
    .argument("<file>", `${MISSION}; the robot is wired for it and stands at its begin`)
    .requiredOption("--target <name>", "avr or micropython")
    .option("--robot <file>", ROBOT_FILE)
    .option("--field <file>", FIELD_FILE)
    .option("--use <file...>", "collections of routines; those beside the mission are found by themselves")
    .option("--seed <n>", "whole number that decides the robot's own ways", "1")
    .action(async (file: string, options) => {
      status = await (await import("./board.js")).boardCommand(file, options);
      // What still waits for input ends with it.
      process.stdin.destroy();
    });

  program
    .command("robot")
    .description("say what robots' descriptions mean, and what is wrong with them")
    .argument("<file...>", "a robot document (JSON); - reads standard input")
    .option("--json", "print one JSON object a file")
    .action(async (files: string[], options) => {
      status = await eachFile(files, (file) => robotCommand(file, options));
    });

  const field = program
    .command("field")
    .description("fields: from drawings and pictures, checked, and probed by a robot");
  field
    .command("import")
    .description("make a field from an SVG drawing or a PNG picture of a mat")
    .argument("<file>", "a drawing (.svg) or a picture (.png); - reads a drawing from standard input")
    .option("--out <file>", "field document to write; default: standard output")
    .option("--name <name>", "name of the field; default: that of the file")
    .option("--as <what=kind...>", 'what a colour or group becomes, as "stroke #C8352B=wall"')
    .option("--corners <points>", "picture: the mat's corners in pixels, lower left first, counter-clockwise")
    .option("--size <width,depth>", 'picture: size of the mat, as "2.4 m,1.2 m"')
    .option("--scale <points>", 'picture from straight above: two points and their distance, as "10,20 900,20 1m"')
    .option("--white <point>", "picture: a pixel of something white")
    .option("--black <point>", "picture: a pixel of something black")
    .option("--mend", "fix what can be fixed")
    .option("--json", "print what was read as one JSON object")
    .action(async (file: string, options) => {
      status = await importCommand(file, options);
    });
  field
    .command("export")
    .description("write a field as an SVG drawing in millimetres")
    .argument("<file>", "a field document (JSON); - reads standard input")
    .option("--svg <file>", "drawing to write; default: standard output")
    .action(async (file: string, options) => {
      status = await exportCommand(file, options);
    });
  field
    .command("make")
    .description("make a field from a ready start: table, floor, oval, eight, switchback, maze, slalom, corridor, ...")
    .argument("<start>", "name of the ready start")
    .option("--set <key=value...>", "its numbers, as radius=60cm")
    .option("--name <name>", "name of the field")
    .option("--out <file>", "field document to write; default: standard output")
    .action(async (start: string, options) => {
      status = await makeCommand(start, options);
    });
  field
    .command("check")
    .description("say what is wrong with fields")
    .argument("<file...>", "a field document (JSON); - reads standard input")
    .option("--json", "print one JSON object a file")
    .action(async (files: string[], options) => {
      status = await eachFile(files, (file) => checkFieldCommand(file, options));
    });
  field
    .command("probe")
    .description("say what each sensor of a robot reads at a place, without noise")
    .argument("<file>", "a field document (JSON)")
    .option("--robot <file>", "robot document (JSON)")
    .option("--at <pose>", "where it stands, as 40cm,25cm,90deg")
    .option("--json", "print one JSON object")
    .action(async (file: string, options) => {
      status = await probeCommand(file, options);
    });

  try {
    await program.parseAsync(args, { from: "user" });
  } catch (error) {
    // Help and version end with 0; what cannot be used was said by the parser itself.
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    process.stderr.write(`${sentenceOf(error)}\n`);
    return 2;
  }
  return status;
}
