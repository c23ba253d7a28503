// The compilers that missions for boards are tried with, the emulator of a chip, what writes into one, and what lays a
// serial line: all of them Debian's.
import { existsSync } from "node:fs";
import { onPath } from "./command.mjs";
import { installDebian } from "./debian.mjs";
import { SetupError } from "./say.mjs";

const TOOLS = [
  { name: "g++", is: () => onPath("g++") },
  { name: "gcc-avr", is: () => onPath("avr-g++") },
  { name: "avr-libc", is: () => existsSync("/usr/lib/avr/include/avr/io.h") },
  { name: "avrdude", is: () => onPath("avrdude") },
  { name: "socat", is: () => onPath("socat") },
  { name: "libsimavr-dev", is: () => existsSync("/usr/include/simavr/sim_avr.h") },
];

/** Installs what is not there. */
export function ensureCompiler() {
  const missing = TOOLS.filter(({ is }) => !is()).map(({ name }) => name);
  if (missing.length === 0) return;
  installDebian(missing, "Compilers for boards");
  const still = TOOLS.filter(({ is }) => !is()).map(({ name }) => name);
  if (still.length > 0) throw new SetupError(`These packages were installed but are not found: ${still.join(", ")}.`);
}
