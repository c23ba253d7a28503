// Keeps a child process: when it ends by itself it is started again, with pauses that grow while that does not help.
import { SetupError, say } from "./say.mjs";

/** Pauses before a child is started again, ms; the last one stays. */
const PAUSES = [300, 1000, 2000, 4000, 8000, 15_000];
/** From so many restarts in a row on it is told how many there were. */
const MANY = 5;
/** A child that lived this long starts the pauses afresh, ms. */
const WELL_MS = 30_000;
/** For a child to stop when it is asked to, ms; then it is ended. */
const STOPPING_MS = 8000;

/** Pause before a child that ended so many times in a row is started again, ms. @param {number} times */
export function pauseAfter(times) {
  return /** @type {number} */ (PAUSES[Math.min(times - 1, PAUSES.length - 1)]);
}

/** @typedef {import("node:child_process").ChildProcess} Child */

/** @param {Child} child @returns {Promise<void>} */
export function untilExit(child) {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    child.once("exit", () => resolve());
    child.once("error", () => resolve());
  });
}

/** @param {Child} child @returns {Promise<any>} what it says once it serves; null when it ended instead */
function untilServing(child) {
  return new Promise((resolve) => {
    child.once("message", (message) => resolve(message));
    child.once("exit", () => resolve(null));
    child.once("error", () => resolve(null));
  });
}

/**
 * @template T
 * @param {string} title - as a sentence begins with it, "the web server"
 * @param {() => Child} make
 * @param {(child: Child) => void} [born] - told of each child
 * @param {Promise<void>} [asked] - to stop: nobody waits for the child to serve any longer
 * @param {{ paused?: (times: number) => number, tell?: (words: string) => void }} [how]
 */
export async function keepRunning(title, make, born = () => {}, asked = new Promise(() => {}), how = {}) {
  const { paused = pauseAfter, tell = say } = how;
  let wanted = true;
  let restarts = 0;
  /** @type {NodeJS.Timeout | null} */
  let timer = null;
  /** @type {Child} */
  let child;

  const begin = () => {
    const made = make();
    child = made;
    const since = performance.now();
    // A child that cannot be started at all tells it here, and must not end us.
    made.on("error", (error) => say(`${title} could not be started: ${error.message}`));
    void untilExit(made).then(() => {
      if (!wanted || !served) return;
      if (performance.now() - since > WELL_MS) restarts = 0;
      restarts += 1;
      const pause = paused(restarts);
      tell(
        restarts < MANY
          ? `${title} stopped by itself and is started again`
          : `${title} stopped by itself ${restarts} times in a row. It is tried again in ${pause / 1000} s; its last words are above.`,
      );
      timer = setTimeout(begin, pause);
    });
    born(made);
    return made;
  };

  let served = false;
  const first = await Promise.race([untilServing(begin()), asked.then(() => "asked to stop")]);
  if (first === null)
    throw new SetupError(`${title.charAt(0).toUpperCase()}${title.slice(1)} stopped while starting; its last words are above.`);
  served = true;
  return {
    /** What the first child said once it served. @type {T} */
    said: first,
    /** Ends the child, which is then started again. */
    renew() {
      child.kill("SIGTERM");
    },
    async stop() {
      wanted = false;
      if (timer) clearTimeout(timer);
      child.kill("SIGTERM");
      const enough = setTimeout(() => child.kill("SIGKILL"), STOPPING_MS);
      await untilExit(child);
      clearTimeout(enough);
    },
  };
}
