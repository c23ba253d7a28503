// One voice for the scripts: short lines, and one clear sentence on failure.

/** A failure whose message already says what is wrong and what would mend it. */
export class SetupError extends Error {}

/** @param {string} line */
export function say(line) {
  process.stdout.write(`  ${line}\n`);
}

/**
 * Runs a script's main function; a SetupError prints as one sentence, anything else with its stack.
 * @param {() => Promise<number | void>} main
 */
export async function runMain(main) {
  try {
    const status = await main();
    if (typeof status === "number") process.exitCode = status;
  } catch (error) {
    if (error instanceof SetupError) process.stderr.write(`\n  ${error.message}\n`);
    else process.stderr.write(`\n${error instanceof Error ? error.stack : String(error)}\n`);
    process.exitCode = 1;
  }
}
