// Installing Debian packages, when we may (root, or sudo without a password).
import { mkdirSync, writeFileSync } from "node:fs";
import { capture, isRoot, onPath } from "./command.mjs";
import { SetupError, say } from "./say.mjs";

/**
 * @param {string[]} packages - Debian package names
 * @param {string} what - for the sentences, e.g. "PostgreSQL"
 * @throws SetupError that says what the person can run instead
 */
export function installDebian(packages, what) {
  const advice = `Ask someone with root rights to run: apt-get install --no-install-recommends ${packages.join(" ")}`;
  if (!onPath("apt-get")) {
    throw new SetupError(`${what} is not on this machine and there is no apt-get to install it with. Install ${what} and start again.`);
  }
  const prefix = isRoot() ? [] : onPath("sudo") && capture("sudo", ["-n", "true"]).ok ? ["sudo", "-n"] : null;
  if (prefix === null) throw new SetupError(`${what} is not on this machine, and only root can install it. ${advice}`);
  say(`installing ${what} from Debian's packages (a minute or two, once)`);
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive" };
  /** @param {string[]} args */
  const apt = (args) => {
    const [program, ...rest] = [...prefix, "apt-get", "-qq", "-y", ...args];
    return capture(/** @type {string} */ (program), rest, { env });
  };
  const install = ["install", "--no-install-recommends", ...packages];
  let result = apt(install);
  if (!result.ok) {
    apt(["update"]);
    result = apt(install);
  }
  if (!result.ok) {
    const reason = result.err.trim().split("\n").pop() ?? "no reason given";
    throw new SetupError(`${what} could not be installed: ${reason}. Check the network connection and the free disk space. ${advice}`);
  }
}

/** Debian starts a cluster of its own with a new server package unless told not to. */
export function forbidMainCluster() {
  if (!isRoot()) return;
  try {
    mkdirSync("/etc/postgresql-common/createcluster.d", { recursive: true });
    writeFileSync("/etc/postgresql-common/createcluster.d/giddy-pebble.conf", "create_main_cluster = false\n");
  } catch {
    // not Debian's layout: the package brings no main cluster there
  }
}
