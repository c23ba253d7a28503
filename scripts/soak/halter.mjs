// Halts robots in a thread of its own, so that what is measured is the robots and not the attackers.
import { parentPort, workerData } from "node:worker_threads";
import { chanceOf } from "./chance.mjs";
import { newCounts } from "./counts.mjs";
import { haltOnce } from "./watchers.mjs";

const { seed, robots, url } = workerData;
const chance = chanceOf(seed);
let { robotsPort } = workerData;
let quiet = true;
let over = false;
parentPort?.on("message", (message) => {
  if (message.kind === "quiet") quiet = message.quiet;
  else if (message.kind === "port") robotsPort = message.port;
  else over = true;
});

const counts = newCounts();
while (!over) {
  const target = { url, robotsPort, counts, quiet: () => quiet && !over, samples: { robots, missions: [] } };
  await haltOnce(chance, target, chance.pick(robots)).catch(() => {});
  await new Promise((resolve) => setTimeout(resolve, 100));
}
parentPort?.postMessage({ halts: counts.halts, longestHaltMs: counts.longestHaltMs, failures: counts.failures });
process.exit(0);
