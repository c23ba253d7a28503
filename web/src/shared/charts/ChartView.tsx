// A chart of points and lines with axes and units, labelled where the series end.
import type { Chart, ChartSeries } from "@giddy-pebble/core";
import { extent, line, scaleLinear } from "d3";
import "./charts.css";

const EDGES = { left: 54, top: 14, bottom: 40 } as const;
/** Width of a letter of the labels beside the chart, px. */
const LETTER_PX = 6.4;

/** Room around the chart; at the right as much as the longest label needs. */
function room(chart: Chart) {
  const longest = Math.max(0, ...chart.series.map(({ label }) => label.length));
  return { ...EDGES, right: Math.max(30, 20 + longest * LETTER_PX) };
}

function colourOf({ role }: ChartSeries): string {
  return { measured: "var(--amber)", after: "var(--water)", fit: "var(--quiet)", struck: "var(--hair)" }[role];
}

/** The same for words, dark enough to be read. */
function inkOf(series: ChartSeries): string {
  if (series.role === "struck") return "var(--quiet)";
  return series.role === "measured" ? "var(--amber-ink)" : colourOf(series);
}

/** An axis wide enough for its values, with zero on it where that is near. */
function domain(values: readonly number[], square = 0): [number, number] {
  const [low = 0, high = 1] = extent(values) as [number, number];
  const span = Math.max(high - low, Math.abs(high) * 0.004, square, 1e-9);
  const zero = low > 0 && low < span * 1.5 ? 0 : low;
  const top = high < 0 && high > -span * 1.5 ? 0 : high;
  return [Math.min(zero, low - 0.08 * span), Math.max(top, high + 0.08 * span)];
}

/** Points have no names: their place in the series tells equal ones apart. */
function keyOf([x, y]: readonly [number, number], i: number): string {
  return `${i} ${x} ${y}`;
}

export function ChartView({ chart, width, height }: { chart: Chart; width: number; height: number }) {
  const pad = room(chart);
  const points = chart.series.flatMap(({ points: own }) => own);
  const xs = points.map(([x]) => x * chart.x.shown.perSi);
  const ys = points.map(([, y]) => y * chart.y.shown.perSi);
  const x = scaleLinear(domain(xs), [pad.left, width - pad.right]).nice();
  const y = scaleLinear(domain(ys), [height - pad.bottom, pad.top]).nice();
  const at = ([px, py]: readonly [number, number]): [number, number] => [
    x(px * chart.x.shown.perSi),
    y(py * chart.y.shown.perSi),
  ];
  const path = line<readonly [number, number]>(
    (point) => at(point)[0],
    (point) => at(point)[1],
  );
  const unit = (shown: { unit: string }) => (shown.unit === "" ? "" : ` (${shown.unit})`);
  return (
    <svg
      className="chart"
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      role="img"
      aria-label={chart.title}
    >
      <rect
        x={pad.left}
        y={pad.top}
        width={width - pad.left - pad.right}
        height={height - pad.top - pad.bottom}
        className="chartground"
      />
      {y.ticks(5).map((tick) => (
        <g key={tick}>
          <line
            x1={pad.left}
            x2={width - pad.right}
            y1={y(tick)}
            y2={y(tick)}
            className={tick === 0 ? "zero" : "grid"}
          />
          <text x={pad.left - 8} y={y(tick)} dy="0.32em" textAnchor="end">
            {y.tickFormat(5)(tick)}
          </text>
        </g>
      ))}
      {x.ticks(6).map((tick) => (
        <text key={tick} x={x(tick)} y={height - pad.bottom + 16} textAnchor="middle">
          {x.tickFormat(6)(tick)}
        </text>
      ))}
      <text x={(pad.left + width - pad.right) / 2} y={height - 6} textAnchor="middle" className="axis">
        {chart.x.label + unit(chart.x.shown)}
      </text>
      <text x={pad.left} y={pad.top - 3} className="axis">
        {chart.y.label + unit(chart.y.shown)}
      </text>
      {chart.series.map((series, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a series is its place in the chart
        <g key={i} data-role={series.role}>
          {series.line ? (
            <path
              d={path([...series.points]) ?? ""}
              fill="none"
              stroke={colourOf(series)}
              strokeWidth={1.8}
              strokeDasharray={series.role === "fit" ? "6 4" : undefined}
            />
          ) : (
            series.points.map((point, k) =>
              series.role === "struck" ? (
                <text
                  key={keyOf(point, k)}
                  x={at(point)[0]}
                  y={at(point)[1]}
                  dy="0.35em"
                  textAnchor="middle"
                  className="struckmark"
                >
                  ×
                </text>
              ) : (
                <circle
                  key={keyOf(point, k)}
                  cx={at(point)[0]}
                  cy={at(point)[1]}
                  r={4.5}
                  fill={series.role === "after" ? "none" : colourOf(series)}
                  stroke={colourOf(series)}
                  strokeWidth={2}
                />
              ),
            )
          )}
        </g>
      ))}
      {labels(chart, at, height).map(({ text, top, colour }) => (
        <text key={text} x={width - pad.right + 8} y={top} dy="0.32em" style={{ fill: colour }} className="serieslabel">
          {text}
        </text>
      ))}
    </svg>
  );
}

/** Labels at the right, at the height of each series' last point, kept apart. */
function labels(chart: Chart, at: (point: readonly [number, number]) => [number, number], height: number) {
  const named = chart.series.filter(({ label, points }) => label !== "" && points.length > 0);
  const list = named
    .map((series) => {
      const last = series.points.reduce((far, point) => (point[0] > far[0] ? point : far));
      return {
        text: series.label,
        top: at(last)[1],
        colour: inkOf(series),
      };
    })
    .filter(({ text }, i, all) => all.findIndex((other) => other.text === text) === i)
    .sort((a, b) => a.top - b.top);
  let free = EDGES.top + 6;
  return list.map((label) => {
    const top = Math.min(height - EDGES.bottom, Math.max(label.top, free));
    free = top + 15;
    return { ...label, top };
  });
}
