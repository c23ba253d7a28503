/**
 * How many cases of a long search are tried: a part of them by `npm test`, the whole by
 * `npm run soak -- --searches`.
 * @param whole - cases of the whole search @param share - one case of how many `npm test` takes
 */
export const part = (whole: number, share = 10): number =>
  process.env.GIDDY_SEARCHES === "whole" ? whole : Math.ceil(whole / share);

/** Those of a long list that are tried: one of so many by `npm test`, all by `npm run soak -- --searches`. */
export const some = <T>(all: readonly T[], share: number): T[] => {
  const step = process.env.GIDDY_SEARCHES === "whole" ? 1 : share;
  return all.filter((_, i) => i % step === 0);
};
