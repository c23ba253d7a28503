// Hands hostile inputs out to threads and watches them: one that says nothing for long hangs.
import { Worker } from "node:worker_threads";

/** A thread silent for this long hangs, ms. */
const HANGS_MS = 15_000;

/**
 * @typedef {object} HostileResult
 * @property {number} tried
 * @property {number} ran - of these, so many were sound and ran
 * @property {string[]} failures - crashes and numbers that are none, each with its input
 * @property {number} slow - over a second
 * @property {number} hangs
 */

/**
 * @param {"mission" | "document"} kind
 * @param {number} count
 * @param {number} seed
 * @param {number} [threads]
 * @returns {Promise<HostileResult>}
 */
export async function tryHostile(kind, count, seed, threads = 2) {
  /** @type {HostileResult} */
  const result = { tried: 0, ran: 0, failures: [], slow: 0, hangs: 0 };
  const share = Math.ceil(count / threads);
  await Promise.all(Array.from({ length: threads }, (_, t) => stretch(kind, t * share, Math.min(count, (t + 1) * share), seed, result)));
  return result;
}

/** @param {string} kind @param {number} from @param {number} to @param {number} seed @param {HostileResult} result @returns {Promise<void>} */
async function stretch(kind, from, to, seed, result) {
  let next = from;
  while (next < to) {
    const begun = next;
    next = await new Promise((resolve) => {
      let last = begun;
      let text = "";
      let finished = false;
      let beat = performance.now();
      const worker = new Worker(new URL("./hostileCore.mjs", import.meta.url), { workerData: { kind, seed, from: begun, to } });
      const watch = setInterval(() => {
        if (performance.now() - beat < HANGS_MS) return;
        result.hangs += 1;
        result.failures.push(`${kind} ${last} (seed ${seed}) hangs: ${text.slice(0, 2000)}`);
        void worker.terminate();
      }, 500);
      worker.on("message", (message) => {
        beat = performance.now();
        if (message.kind === "begins") {
          last = message.i;
          text = message.text;
          result.tried += 1;
        } else if (message.kind === "failed")
          result.failures.push(`${kind} ${message.i} (seed ${seed}): ${message.reason}\n${message.text}`);
        else if (message.kind === "slow") {
          result.slow += 1;
          result.failures.push(`${kind} ${message.i} (seed ${seed}) took ${Math.round(message.ms)} ms: ${message.text.slice(0, 1000)}`);
        } else {
          result.ran += message.ran;
          finished = true;
        }
      });
      worker.on("error", (error) =>
        result.failures.push(`${kind} ${last} (seed ${seed}) ended its thread: ${error.message}\n${text.slice(0, 2000)}`),
      );
      worker.on("exit", () => {
        clearInterval(watch);
        resolve(finished ? to : last + 1);
      });
    });
  }
}
