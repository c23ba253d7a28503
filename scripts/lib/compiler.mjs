// The C++ compiler that missions for boards are tried with: Debian's g++.
import { onPath } from "./command.mjs";
import { installDebian } from "./debian.mjs";
import { SetupError } from "./say.mjs";

/** Installs the compiler where there is none. */
export function ensureCompiler() {
  if (onPath("g++")) return;
  installDebian(["g++"], "The C++ compiler");
  if (!onPath("g++")) throw new SetupError("The C++ compiler was installed but g++ is not on PATH.");
}
