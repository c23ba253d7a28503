/** Whether all is tried: by `npm run soak -- --searches`. What one test of `npm test` has shown need not be shown twice. */
export const WHOLE = process.env.GIDDY_SEARCHES === "whole";

/**
 * How many cases of a long search are tried: a part of them by `npm test`, the whole by
 * `npm run soak -- --searches`.
 * @param whole - cases of the whole search @param share - one case of how many `npm test` takes
 */
export const part = (whole: number, share = 10): number => (WHOLE ? whole : Math.ceil(whole / share));

/** Those of a long list that are tried: one of so many by `npm test`, all by `npm run soak -- --searches`. */
export const some = <T>(all: readonly T[], share: number): T[] => {
  const step = WHOLE ? 1 : share;
  return all.filter((_, i) => i % step === 0);
};
