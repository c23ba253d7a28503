// Charts of the notebook as SVG text: the same on the screen, on paper and in files.
import { wilson95 } from "../rehearse/study.js";

export interface VersionRate {
  readonly number: number;
  readonly runs: number;
  readonly successes: number;
}

const WIDTH = 640;
const HEIGHT = 190;
const PAD = { left: 52, right: 14, top: 12, bottom: 44 } as const;
const MOST = 24;
const at = (n: number) => Math.floor(n * 10 + 0.5) / 10;

/** Share of runs that worked by version, with Wilson's 95 % interval as a bar. @returns SVG text */
export function ratesDrawing(rates: readonly VersionRate[]): string {
  const shown = rates.slice(-MOST);
  const y = (share: number) => at(HEIGHT - PAD.bottom - share * (HEIGHT - PAD.bottom - PAD.top));
  const step = (WIDTH - PAD.left - PAD.right) / Math.max(1, shown.length);
  const every = -Math.floor(-(shown.length / 10));
  const grid = [0, 0.25, 0.5, 0.75, 1].map(
    (share) =>
      `<path d="M${PAD.left} ${y(share)}H${WIDTH - PAD.right}" stroke="#DDD6C8"/><text x="${PAD.left - 6}" y="${y(share) + 4}" text-anchor="end">${share * 100} %</text>`,
  );
  const marks = shown.map(({ number, runs, successes }, i) => {
    const [low, high] = wilson95(successes, runs);
    const x = at(PAD.left + step * (i + 0.5));
    const label =
      i % every === 0
        ? `<text x="${x}" y="${HEIGHT - PAD.bottom + 16}" text-anchor="middle">version ${number}</text><text x="${x}" y="${HEIGHT - PAD.bottom + 32}" text-anchor="middle">${successes} of ${runs}</text>`
        : "";
    return `<path d="M${x} ${y(low)}V${y(high)}M${x - 5} ${y(low)}h10M${x - 5} ${y(high)}h10" stroke="#0E6A6B" stroke-width="2" fill="none"/><circle cx="${x}" cy="${y(successes / runs)}" r="4.5" fill="#0E6A6B"/>${label}`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" font-family="sans-serif" font-size="12" fill="#1E2B33">${grid.join("")}${marks.join("")}</svg>\n`;
}
