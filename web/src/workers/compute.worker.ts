// The worker for all that is computed away from a page. It reads what it is for, by its name. It is one for all kinds,
// so that what they share is sent once and compiled once.
const READ: Record<string, () => Promise<unknown>> = {
  rehearsal: () => import("./rehearsal.js"),
  study: () => import("./study.js"),
  worth: () => import("./worth.js"),
  probe: () => import("./probe.js"),
  mat: () => import("./mat.js"),
};

/** What was asked before it could be heard. */
const early: MessageEvent<unknown>[] = [];
self.onmessage = (event: MessageEvent<unknown>) => {
  early.push(event);
};
try {
  await READ[self.name]?.();
  for (const event of early) self.onmessage?.(event);
} catch (error) {
  // The page hears of it as of anything else that goes wrong in here.
  self.reportError(error);
}

export {};
