// `giddy` as a process.
import { giddy, sentenceOf } from "./commands.js";

function unexpected(error: unknown): void {
  // Whoever read our output stopped reading: nothing is wrong.
  if ((error as NodeJS.ErrnoException | null)?.code === "EPIPE") process.exit(0);
  process.stderr.write(`${sentenceOf(error)}\n`);
  process.exitCode = 2;
}

process.stdout.on("error", unexpected);
process.on("uncaughtException", unexpected);
const status = await giddy(process.argv.slice(2));
process.exitCode ||= status;
