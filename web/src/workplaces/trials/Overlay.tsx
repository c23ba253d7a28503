// Chosen runs laid over one another: their paths on the field, and one reading against time.
import { type Chart, openFloor, type Pose, type Trace, traceColumn, traceToCsv } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useRef } from "react";
import {
  drawFloor,
  drawPath,
  drawScaleBar,
  drawThings,
  drawZones,
  Labels,
  readColours,
} from "../../shared/drawField.js";
import { fitField } from "../../shared/fieldView.js";
import { type ShownTrial, useTrials } from "./store.js";

/** One colour a run, in the order they were chosen; told apart by dashes too. */
export const COLOURS = ["var(--water)", "var(--amber)", "var(--heather)", "var(--moss)"] as const;
const DASHES: readonly (readonly number[])[] = [[], [7, 4], [2, 4], [10, 3, 2, 3]];
/** Points of a line in the chart; more than the screen has are not drawn. */
const MOST_POINTS = 600;

function tapeOf({ summary }: ShownTrial): Pose | null {
  const { tape } = summary as unknown as { tape?: Pose | null };
  return tape ?? null;
}

export function Overlay() {
  const shown = useTrials((state) => state.shown);
  if (shown.length === 0)
    return (
      <section className="card overlayhint">
        <p>Choose runs on the left: their paths are laid over one another here, with what changed between them.</p>
      </section>
    );
  return (
    <>
      <section className="card overlay" aria-label="Paths">
        <Paths />
        <ul className="overlaykeys">
          {shown.map((one, i) => (
            <li key={one.trial.id}>
              <svg width="28" height="8" aria-hidden="true">
                <line
                  x1="0"
                  x2="28"
                  y1="4"
                  y2="4"
                  stroke={COLOURS[i]}
                  strokeWidth="3"
                  strokeDasharray={(DASHES[i] ?? []).join(" ")}
                />
              </svg>
              {one.trial.mission.name} {one.trial.mission.number},{" "}
              {one.trial.source !== "rehearsal" ? one.trial.robot.name : "rehearsed"}
              {tapeOf(one) && " (+ taped)"}
              <Button onClick={() => save(one)}>CSV</Button>
            </li>
          ))}
        </ul>
      </section>
      <Readings />
    </>
  );
}

function save({ trial, trace }: ShownTrial): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([traceToCsv(trace)], { type: "text/csv" }));
  link.download = `${trial.mission.name.toLowerCase().replaceAll(/[^a-z0-9]+/g, "-")}-${trial.mission.number}-${trial.startedAt.slice(0, 19).replaceAll(":", "")}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}

function Paths() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useTrials((state) => state.shown);
  const field = useTrials((state) => state.field) ?? openFloor();
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context) return;
    const paint = () => {
      const ratio = window.devicePixelRatio || 1;
      element.width = Math.round(element.clientWidth * ratio);
      element.height = Math.round(element.clientHeight * ratio);
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      const dark = window.matchMedia("(prefers-color-scheme: dark)").matches;
      const view = fitField(element.clientWidth, element.clientHeight, field.size);
      const pen = { context, view, colours: readColours(), dark };
      drawFloor(pen, field);
      const labels = new Labels();
      drawZones(pen, field, labels);
      drawThings(pen, field, labels);
      const style = getComputedStyle(document.documentElement);
      shown.forEach((one, i) => {
        const [x, y] = [traceColumn(one.trace, "x"), traceColumn(one.trace, "y")];
        const colour = style.getPropertyValue((COLOURS[i] ?? COLOURS[0]).slice(4, -1)).trim();
        if (x && y)
          drawPath(pen, x, y, 0, x.length, {
            colour,
            widthPx: 2.5,
            dash: [...(DASHES[i] ?? [])],
            halo: null,
            alpha: 1,
          });
        const tape = tapeOf(one);
        if (!tape) return;
        context.strokeStyle = colour;
        context.lineWidth = 2.5;
        const [px, py] = [view.originX + tape.xM * view.scale, view.originY - tape.yM * view.scale];
        context.beginPath();
        context.moveTo(px - 7, py);
        context.lineTo(px + 7, py);
        context.moveTo(px, py - 7);
        context.lineTo(px, py + 7);
        context.stroke();
      });
      drawScaleBar(pen, element.clientWidth, element.clientHeight);
    };
    const observer = new ResizeObserver(paint);
    observer.observe(element);
    paint();
    return () => observer.disconnect();
  }, [shown, field]);
  return <canvas ref={canvas} role="img" aria-label="The paths of the chosen runs on the field" />;
}

/** Readings every chosen run has. */
function common(traces: readonly Trace[]): string[] {
  const [first, ...rest] = traces;
  return (first?.columns ?? [])
    .map(({ id }) => id)
    .filter((id) => rest.every((trace) => trace.columns.some((column) => column.id === id)));
}

function Readings() {
  const shown = useTrials((state) => state.shown);
  const reading = useTrials((state) => state.reading);
  const ids = common(shown.map(({ trace }) => trace));
  const id = ids.includes(reading) ? reading : (ids[0] ?? "");
  const unit = shown[0]?.trace.columns.find((column) => column.id === id)?.unit ?? "";
  return (
    <section className="card" aria-label="Readings">
      <label>
        Reading{" "}
        <select value={id} onChange={(event) => useTrials.setState({ reading: event.target.value })}>
          {ids.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </label>
      <Lines id={id} unit={unit} />
    </section>
  );
}

const WIDTH = 640;
const HEIGHT = 150;
const LEFT = 54;

/** One line a run over the same time. */
function Lines({ id, unit }: { id: string; unit: string }) {
  const shown = useTrials((state) => state.shown);
  const lines = shown.map(({ trace }) => {
    const values = traceColumn(trace, id) ?? new Float32Array(0);
    const step = Math.max(1, Math.floor(values.length / MOST_POINTS));
    return [...values]
      .filter((_, i) => i % step === 0)
      .map((value, i): [number, number] => [(i * step * trace.tickMs) / 1000, value]);
  });
  const all = lines.flat();
  if (all.length === 0) return <p className="quiet">These runs have no reading in common.</p>;
  const end = Math.max(...all.map(([t]) => t));
  const factor = unit === "rad" ? 180 / Math.PI : 1;
  const low = Math.min(...all.map(([, v]) => v));
  const high = Math.max(...all.map(([, v]) => v));
  const span = Math.max(1e-9, high - low);
  const x = (t: number) => LEFT + (t / end) * (WIDTH - LEFT - 8);
  const y = (v: number) => 10 + ((high - v) / span) * (HEIGHT - 34);
  const shownUnit: Chart["y"]["shown"]["unit"] = unit === "rad" ? "deg" : unit === "1" ? "" : unit;
  return (
    <svg
      className="chart readinglines"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${id} of the chosen runs against time`}
    >
      {[low, high].map((value) => (
        <text key={value} x={LEFT - 6} y={y(value)} dy="0.32em" textAnchor="end">
          {(value * factor).toFixed(2)}
        </text>
      ))}
      <text x={LEFT} y={HEIGHT - 4}>
        0 s
      </text>
      <text x={WIDTH - 8} y={HEIGHT - 4} textAnchor="end">
        {end.toFixed(1)} s
      </text>
      <text x={LEFT - 6} y={HEIGHT - 4} textAnchor="end">
        {shownUnit}
      </text>
      {lines.map((line, i) => (
        <polyline
          key={shown[i]?.trial.id}
          points={line.map(([t, v]) => `${x(t).toFixed(1)},${y(v).toFixed(1)}`).join(" ")}
          fill="none"
          stroke={COLOURS[i]}
          strokeWidth="1.8"
          strokeDasharray={(DASHES[i] ?? []).join(" ")}
        />
      ))}
    </svg>
  );
}
