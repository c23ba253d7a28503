// `giddy`: check, format and rehearse missions from files, and figure out robots.
import { Command } from "commander";
import { checkCommand } from "./check.js";
import { formatCommand } from "./format.js";
import { rehearseCommand } from "./rehearse.js";
import { robotCommand } from "./robot.js";

const program = new Command("giddy").description("Check, format and rehearse Cairn missions.");

program
  .command("check")
  .argument("<file>", "a .cairn mission")
  .option("--robot <file>", "robot document (JSON); default: the demo robot the mission names")
  .option("--field <file>", "field document (JSON); default: the demo field the mission names")
  .option("--json", "print one JSON object")
  .action(async (file: string, options) => {
    process.exitCode = await checkCommand(file, options);
  });

program
  .command("format")
  .argument("<file>", "a .cairn mission")
  .option("--write", "write the file instead of printing it")
  .action(async (file: string, options) => {
    process.exitCode = await formatCommand(file, options);
  });

program
  .command("rehearse")
  .argument("<file>", "a .cairn mission")
  .option("--robot <file>", "robot document (JSON); default: the demo robot the mission names")
  .option("--field <file>", "field document (JSON); default: the demo field the mission names")
  .option("--seed <n>", "whole number that decides the scatter", "1")
  .option("--times <n>", "how many rehearsals")
  .option("--ideal", "no noise and no scatter")
  .option("--trace <file>", "write the run's trace as CSV")
  .option("--json", "print one JSON object")
  .action(async (file: string, options) => {
    process.exitCode = await rehearseCommand(file, options);
  });

program
  .command("robot")
  .argument("<file>", "a robot document (JSON)")
  .option("--json", "print one JSON object")
  .action(async (file: string, options) => {
    process.exitCode = await robotCommand(file, options);
  });

program.parseAsync().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exitCode = 2;
});
