// Chosen runs laid over one another: their paths on the field, and one reading against time.
import {
  type ColumnInfo,
  columnName,
  columnUnit,
  type Field,
  openFloor,
  type Trace,
  traceColumn,
  traceToCsv,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { extent, line, max, scaleLinear } from "d3";
import { Pick } from "../../shared/controls.js";
import { drawPath, drawScaleBar, drawThings, drawZones, Labels, type Pen } from "../../shared/field/drawField.js";
import { drawFloor } from "../../shared/field/drawFloor.js";
import { FieldStage } from "../../shared/field/FieldStage.js";
import { onPictures } from "../../shared/field/pictures.js";
import { COLOURS } from "./colours.js";
import { type ShownTrial, tapeOf, useTrials } from "./store.js";

const DASHES: readonly (readonly number[])[] = [[], [7, 4], [2, 4], [10, 3, 2, 3]];
/** Points of a line in the chart; more than the screen has are not drawn. */
const MOST_POINTS = 600;

export function Overlay() {
  const shown = useTrials((state) => state.shown);
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
              {rememberedWords(one.summary)}
              <Button onClick={() => save(one)}>CSV</Button>
            </li>
          ))}
        </ul>
      </section>
      <Readings />
    </>
  );
}

/** What a run left for the next one, and what it touched. */
function rememberedWords({ remembered = [], contacts = [] }: ShownTrial["summary"]): string {
  const kept = remembered.map(({ name, words }) => `${name} = ${words}`).join(", ");
  const touched = [...new Set(contacts.map(({ what }) => what))].join(", ");
  return `${kept === "" ? "" : ` · remembers ${kept}`}${touched === "" ? "" : ` · touched ${touched}`}`;
}

function save({ trial, trace }: ShownTrial): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([traceToCsv(trace)], { type: "text/csv" }));
  link.download = `${trial.mission.name.toLowerCase().replaceAll(/[^a-z0-9]+/g, "-")}-${trial.mission.number}-${trial.startedAt.slice(0, 19).replaceAll(":", "")}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}

function Paths() {
  const field = useTrials((state) => state.field) ?? openFloor();
  return (
    <FieldStage
      size={field.size}
      fitKey={`${field.name}/${field.size.widthM}×${field.size.heightM}`}
      label="The paths of the chosen runs on the field"
      draw={(pen, width, height) => drawRuns(pen, field, useTrials.getState().shown, width, height)}
      watch={watch}
    />
  );
}

function watch(ask: () => void): () => void {
  const [unsubscribe, forget] = [useTrials.subscribe(ask), onPictures(ask)];
  return () => {
    unsubscribe();
    forget();
  };
}

function drawRuns(pen: Pen, field: Field, shown: readonly ShownTrial[], widthPx: number, heightPx: number): void {
  const { context, view } = pen;
  drawFloor(pen, field);
  const labels = new Labels(pen.blocked);
  drawZones(pen, field, labels);
  drawThings(pen, field, labels);
  const style = getComputedStyle(document.documentElement);
  shown.forEach((one, i) => {
    const [x, y] = [traceColumn(one.trace, "x"), traceColumn(one.trace, "y")];
    const colour = style.getPropertyValue((COLOURS[i] ?? COLOURS[0]).slice(4, -1)).trim();
    if (x && y)
      drawPath(pen, x, y, 0, x.length, { colour, widthPx: 2.5, dash: [...(DASHES[i] ?? [])], halo: null, alpha: 1 });
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
  drawScaleBar(pen, widthPx, heightPx);
}

/** Readings every chosen run has. */
function common(traces: readonly Trace[]): ColumnInfo[] {
  const [first, ...rest] = traces;
  return (first?.columns ?? []).filter(({ id }) =>
    rest.every((trace) => trace.columns.some((column) => column.id === id)),
  );
}

/** A reading's name with its unit. */
function titleOf(column: ColumnInfo): string {
  const { unit } = columnUnit(column);
  return unit === "" ? columnName(column) : `${columnName(column)}, ${unit}`;
}

/** Most readings under one another: more are not read. */
const MOST_READINGS = 5;

function Readings() {
  const shown = useTrials((state) => state.shown);
  const readings = useTrials((state) => state.readings);
  const columns = common(shown.map(({ trace }) => trace));
  if (columns.length === 0)
    return (
      <section className="card" aria-label="Readings">
        <p className="quiet">These runs have no reading in common.</p>
      </section>
    );
  const known = readings.map((id) => columns.find((column) => column.id === id) ?? columns[0]);
  const change = (next: readonly string[]) => useTrials.setState({ readings: next });
  const free = columns.find(({ id }) => !readings.includes(id));
  return (
    <section className="card" aria-label="Readings">
      {known.map((column, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a chart is its place among the charts
        <div key={i} className="onereading">
          <label>
            Reading{" "}
            <Pick
              value={column?.id ?? ""}
              onChange={(event) => change(readings.map((id, k) => (k === i ? event.target.value : id)))}
            >
              {columns.map((one) => (
                <option key={one.id} value={one.id}>
                  {titleOf(one)}
                </option>
              ))}
            </Pick>
          </label>
          {readings.length > 1 && (
            <Button onClick={() => change(readings.filter((_, k) => k !== i))} aria-label={`Take chart ${i + 1} away`}>
              Take away
            </Button>
          )}
          {column && <Lines column={column} />}
        </div>
      ))}
      {free && readings.length < MOST_READINGS && (
        <Button variant="outlined" onClick={() => change([...readings, free.id])}>
          Add a reading
        </Button>
      )}
    </section>
  );
}

const WIDTH = 640;
const HEIGHT = 170;
const MARGIN = { left: 48, right: 10, top: 20, bottom: 26 } as const;

/** One line a run over the same time. */
function Lines({ column }: { column: ColumnInfo }) {
  const { id } = column;
  const shown = useTrials((state) => state.shown);
  const { perSi: factor } = columnUnit(column);
  const lines = shown.map(({ trace }) => {
    const values = traceColumn(trace, id) ?? new Float32Array(0);
    const step = Math.max(1, Math.floor(values.length / MOST_POINTS));
    return [...values]
      .filter((_, i) => i % step === 0)
      .map((value, i): [number, number] => [(i * step * trace.tickMs) / 1000, value * factor]);
  });
  const all = lines.flat();
  if (all.length === 0) return <p className="quiet">These runs have no reading in common.</p>;
  const x = scaleLinear([0, max(all, ([t]) => t) ?? 1], [MARGIN.left, WIDTH - MARGIN.right]);
  const [low = 0, high = 1] = extent(all, ([, value]) => value);
  // A reading that never changes still has a line in the middle of its chart.
  const y = scaleLinear(low === high ? [low - 1, high + 1] : [low, high], [HEIGHT - MARGIN.bottom, MARGIN.top]).nice(4);
  const path = line<readonly [number, number]>(
    ([t]) => x(t),
    ([, value]) => y(value),
  );
  return (
    <svg
      className="chart readinglines"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`${titleOf(column)} of the chosen runs against time`}
    >
      {y.ticks(4).map((tick) => (
        <g key={`y${tick}`} transform={`translate(0 ${y(tick)})`}>
          <line x1={MARGIN.left} x2={WIDTH - MARGIN.right} className="grid" />
          <text x={MARGIN.left - 6} dy="0.32em" textAnchor="end">
            {y.tickFormat(4)(tick)}
          </text>
        </g>
      ))}
      {x.ticks(8).map((tick) => (
        <text key={`x${tick}`} x={x(tick)} y={HEIGHT - MARGIN.bottom + 14} textAnchor="middle">
          {tick} s
        </text>
      ))}
      <text x={6} y={10}>
        {titleOf(column)}
      </text>
      {lines.map((points, i) => (
        <path
          key={shown[i]?.trial.id}
          d={path(points) ?? ""}
          fill="none"
          stroke={COLOURS[i]}
          strokeWidth="1.8"
          strokeDasharray={(DASHES[i] ?? []).join(" ")}
        />
      ))}
    </svg>
  );
}
