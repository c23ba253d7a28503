// Charts with two axes as SVG text: the same on the screen, on paper and in files.
import { ticks } from "d3-array";
import { escapeHtml } from "../words/escape.js";

interface ChartAxis {
  readonly label: string;
  /** "" for plain numbers. */
  readonly unit: string;
}

interface ChartLine {
  readonly label: string;
  /** In the units of the axes. */
  readonly points: readonly (readonly [x: number, y: number])[];
  readonly colour: string;
  /** Joined by a line; else dots. */
  readonly line: boolean;
  readonly dash?: string;
}

interface ChartPlan {
  readonly x: ChartAxis;
  readonly y: ChartAxis;
  readonly lines: readonly ChartLine[];
  /** Whether the axes begin at zero. */
  readonly fromZero?: boolean;
}

const WIDTH = 640;
const HEIGHT = 260;
const PAD = { left: 64, right: 18, top: 26, bottom: 44 } as const;
/** Most points of a line; more than paper shows are left out. */
const MOST_POINTS = 800;
const LETTER_PX = 6.6;

export const CHART_COLOURS = ["#0E6A6B", "#9A5B00", "#7A4E86", "#4F6B2F"] as const;

const at = (n: number) => Math.floor(n * 10 + 0.5) / 10;

/** Least and greatest with a little room, never an empty span. */
function domainOf(values: readonly number[], fromZero: boolean): [number, number] {
  let [low, high] = fromZero ? [0, 0] : [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (const value of values) {
    if (value < low) low = value;
    if (value > high) high = value;
  }
  if (low > high) return [0, 1];
  const span = high - low || Math.abs(high) * 0.1 || 1;
  return [fromZero && low === 0 ? 0 : low - span * 0.06, high + span * 0.06];
}

/** A tick's number without the dust of its sum: "0.3", not "0.30000000000000004". */
function tickWords(value: number, step: number): string {
  let digits = 0;
  for (let unit = step; unit < 0.999 && digits < 9; unit *= 10) digits += 1;
  const words = value.toFixed(digits);
  return /^-0(\.0+)?$/.test(words) ? words.slice(1) : words;
}

function thinned(points: ChartLine["points"]): ChartLine["points"] {
  const every = Math.max(1, -Math.floor(-points.length / MOST_POINTS));
  return every === 1 ? points : points.filter((_, i) => i % every === 0 || i === points.length - 1);
}

const axisWords = ({ label, unit }: ChartAxis) => escapeHtml(unit === "" ? label : `${label} (${unit})`);

/** @returns SVG text; "" when there is no point to draw */
export function chartDrawing({ x, y, lines, fromZero = false }: ChartPlan): string {
  const drawn = lines.map((line) => ({
    ...line,
    points: thinned(line.points.filter(([px, py]) => Number.isFinite(px) && Number.isFinite(py))),
  }));
  const points = drawn.flatMap((line) => line.points);
  if (points.length === 0) return "";
  const xs = domainOf(
    points.map(([px]) => px),
    fromZero,
  );
  const ys = domainOf(
    points.map(([, py]) => py),
    fromZero,
  );
  const [right, bottom] = [WIDTH - PAD.right, HEIGHT - PAD.bottom];
  const px = (value: number) => at(PAD.left + ((value - xs[0]) / (xs[1] - xs[0])) * (right - PAD.left));
  const py = (value: number) => at(bottom - ((value - ys[0]) / (ys[1] - ys[0])) * (bottom - PAD.top));
  const [xTicks, yTicks] = [ticks(xs[0], xs[1], 8), ticks(ys[0], ys[1], 5)];
  const step = (all: readonly number[]) => (all[1] ?? 1) - (all[0] ?? 0);
  const grid = [
    ...yTicks.map(
      (tick) =>
        `<path d="M${PAD.left} ${py(tick)}H${right}" stroke="#DDD6C8"/><text x="${PAD.left - 6}" y="${at(py(tick) + 4)}" text-anchor="end">${tickWords(tick, step(yTicks))}</text>`,
    ),
    ...xTicks.map(
      (tick) =>
        `<path d="M${px(tick)} ${bottom}v4" stroke="#5B6A73"/><text x="${px(tick)}" y="${bottom + 17}" text-anchor="middle">${tickWords(tick, step(xTicks))}</text>`,
    ),
    `<text x="${PAD.left}" y="14">${axisWords(y)}</text>`,
    `<text x="${right}" y="${HEIGHT - 6}" text-anchor="end">${axisWords(x)}</text>`,
  ];
  const marks = drawn.map(({ points: own, colour, line, dash }) =>
    line
      ? `<polyline points="${own.map(([a, b]) => `${px(a)},${py(b)}`).join(" ")}" fill="none" stroke="${colour}" stroke-width="2"${dash ? ` stroke-dasharray="${dash}"` : ""}/>`
      : own.map(([a, b]) => `<circle cx="${px(a)}" cy="${py(b)}" r="4" fill="${colour}"/>`).join(""),
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" font-family="sans-serif" font-size="12" fill="#1E2B33">${grid.join("")}${marks.join("")}${keyOf(drawn)}</svg>\n`;
}

/** Names of the lines in one row at the top right, each in front of its mark. */
function keyOf(lines: readonly ChartLine[]): string {
  let x = WIDTH - PAD.right;
  return [...lines]
    .reverse()
    .filter(({ label, points }) => label !== "" && points.length > 0)
    .map(({ label, colour, line, dash }) => {
      const words = escapeHtml(label);
      const end = x;
      x = at(x - label.length * LETTER_PX - 34);
      const mark = line
        ? `<path d="M${at(x + 6)} 10h18" stroke="${colour}" stroke-width="2"${dash ? ` stroke-dasharray="${dash}"` : ""}/>`
        : `<circle cx="${at(x + 18)}" cy="10" r="4" fill="${colour}"/>`;
      return `${mark}<text x="${end}" y="14" text-anchor="end">${words}</text>`;
    })
    .join("");
}
