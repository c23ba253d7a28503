/** What is computed away from a page. */
type Computation = "rehearsal" | "study" | "worth" | "probe" | "mat";

/** @returns a worker of its own for one kind of computation; it hears from now on, though it has yet to load */
export function startWorker(name: Computation): Worker {
  return new Worker(new URL("./compute.worker.ts", import.meta.url), { type: "module", name });
}
