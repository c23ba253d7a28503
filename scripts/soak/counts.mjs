// What a soak counts, over all its attackers.

export function newCounts() {
  return {
    requests: 0,
    answers: /** @type {Record<string, number>} */ ({}),
    serverErrors: 0,
    /** Requests that got no answer while nothing was being killed. */
    unanswered: 0,
    nulls: 0,
    frames: 0,
    sockets: 0,
    links: 0,
    halts: 0,
    longestHaltMs: 0,
    writes: 0,
    lostWrites: 0,
    kills: /** @type {Record<string, number>} */ ({}),
    restarts: 0,
    longestAwayMs: 0,
    mostRssMb: /** @type {Record<string, number>} */ ({}),
    failures: /** @type {string[]} */ ([]),
  };
}

/** @typedef {ReturnType<typeof newCounts>} Counts */

/** @param {Counts} counts @param {string} sentence */
export function failure(counts, sentence) {
  if (counts.failures.length < 40) counts.failures.push(sentence.slice(0, 1500));
}
