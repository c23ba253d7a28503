// Time from left to right: a stone for each step, traces with the value at the playhead, a playhead that scrubs.

import { type RunSummary, type StepSummary, TICK_MS, type Trace, traceColumn } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Popover from "@mui/material/Popover";
import { axisBottom, extent, line as lineOf, scaleLinear, select } from "d3";
import { type PointerEvent, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { plainAxis } from "../../shared/charts/plainAxis.js";
import { useFollow } from "../../shared/mission/follow.js";
import { pause } from "../../shared/mission/running.js";
import { movePlayhead, playhead, shownPath, useMission } from "../../shared/mission/state.js";
import { selectLine } from "../../shared/mission/store.js";
import { PlayheadSlider } from "./PlayheadSlider.js";
import { bandPaths, type Strip, stripsOf } from "./strips.js";

const LABEL_PX = 168;
const STONE_PX = 16;
const ROW_PX = 27;
interface TraceRow {
  readonly label: string;
  readonly colour: string;
  readonly unit: string;
  readonly places: number;
  readonly values: Float32Array;
  readonly factor: number;
}

const TRACES = [
  { id: "leftSpeed", label: "left wheel", colour: "var(--amber)", unit: "cm/s", factor: 100, places: 1 },
  { id: "rightSpeed", label: "right wheel", colour: "var(--water)", unit: "cm/s", factor: 100, places: 1 },
  { id: "heading", label: "heading", colour: "var(--heather)", unit: "deg", factor: 180 / Math.PI, places: 1 },
  { id: "battery", label: "battery", colour: "var(--moss)", unit: "V", factor: 1, places: 2 },
  { id: "leftDuty", label: "left power", colour: "var(--amber)", unit: "%", factor: 100, places: 0 },
  { id: "rightDuty", label: "right power", colour: "var(--water)", unit: "%", factor: 100, places: 0 },
] as const;

const SERIES = ["var(--rust)", "var(--water)", "var(--amber)", "var(--heather)", "var(--moss)"];
const MOST_SHOWN = 6;

/** Everything a run recorded that can be shown over time, each with its unit. */
function allRows(trace: Trace | null): (TraceRow & { id: string })[] {
  if (!trace) return [];
  const known = TRACES.flatMap((row) => {
    const values = traceColumn(trace, row.id);
    return values ? [{ ...row, values }] : [];
  });
  const sensors = trace.columns
    .filter((column) => column.id.includes(".") && !column.id.startsWith("load:"))
    .flatMap(({ id }, i) => {
      const values = traceColumn(trace, id);
      if (!values) return [];
      const unit = id.endsWith(".distance") ? "cm" : id.endsWith(".light") ? "%" : "";
      const factor = unit === "" ? 1 : 100;
      return [
        { id, label: id, colour: SERIES[i % SERIES.length] ?? "", unit, factor, places: unit === "" ? 0 : 1, values },
      ];
    });
  return [...known, ...sensors];
}

/** What the mission's own text mentions comes first: a strip of each sensor, and its readings. */
function usualRows(all: readonly { id: string }[], strips: readonly Strip[], text: string): string[] {
  const seen = strips.filter(({ bands }) => bands.some(({ id }) => mentions(text, id))).map(({ id }) => id);
  const mentioned = all.filter(({ id }) => id.includes(".") && mentions(text, id)).map(({ id }) => id);
  return [...seen.slice(0, 1), ...mentioned.slice(0, 1), "leftSpeed", "rightSpeed", "heading", "battery"].slice(0, 4);
}

function mentions(text: string, id: string): boolean {
  const [part = ""] = id.split(/[.[]/);
  return text.includes(id) || (id.endsWith(".light") && text.includes(`with ${part}`));
}

/** Steps on the stones: one for each stretch of time, named by its label. */
function stones(summary: RunSummary | null): StepSummary[] {
  return (summary?.steps ?? []).filter((step) => step.endMs > step.startMs);
}

/** Always the same number of decimals, so that the value does not jump about; no minus before a zero. */
function fixed(value: number, places: number): string {
  const text = value.toFixed(places);
  return Number(text) === 0 ? text.replace("-", "") : text;
}

/** Width of a box that may come and go. */
function useWidth(): [(element: HTMLElement | null) => void, number] {
  const [width, setWidth] = useState(800);
  const observer = useRef<ResizeObserver | null>(null);
  const attach = useCallback((element: HTMLElement | null) => {
    observer.current?.disconnect();
    observer.current = null;
    if (!element) return;
    observer.current = new ResizeObserver(([entry]) => entry && setWidth(Math.max(240, entry.contentRect.width)));
    observer.current.observe(element);
  }, []);
  return [attach, width];
}

function tracePath(row: TraceRow, x: (tick: number) => number, y: (value: number) => number, widthPx: number): string {
  const every = Math.max(1, Math.floor(row.values.length / Math.max(200, widthPx)));
  const ticks = Array.from({ length: Math.ceil(row.values.length / every) }, (_, i) => i * every);
  return (
    lineOf<number>()
      .x((tick) => x(tick))
      .y((tick) => y((row.values[tick] ?? 0) * row.factor))(ticks) ?? ""
  );
}

/** Of a path of so many ticks, the one at the playhead. */
function playheadTick(length: number): number {
  return Math.max(0, Math.min(length - 1, Math.floor(playhead.tick)));
}

export function Timeline() {
  const run = useMission((state) => state.run);
  const planned = useMission((state) => state.planned);
  const summary = run?.summary ?? planned?.summary ?? null;
  const length = (run?.path ?? planned)?.x.length ?? 0;
  const wanted = useMission((state) => state.traces);
  const text = useMission((state) => state.history.present.text);
  const all = useMemo(() => allRows(run?.trace ?? planned?.trace ?? null), [run, planned]);
  const robot = useMission((state) => state.robot?.document ?? null);
  const strips = useMemo(() => stripsOf(run?.trace ?? planned?.trace ?? null, robot), [run, planned, robot]);
  const shown = wanted ?? usualRows(all, strips, text);
  const key = shown.join(" ");
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the names
  const rows = useMemo(() => all.filter((row) => shown.includes(row.id)), [all, key]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the names
  const bands = useMemo(() => strips.filter((strip) => shown.includes(strip.id)), [strips, key]);
  const [box, width] = useWidth();
  const chart = useRef<SVGSVGElement>(null);
  const plotWidth = width - LABEL_PX;
  const under = STONE_PX + 8 + bands.length * ROW_PX;
  const height = under + rows.length * ROW_PX + 18;
  const x = useMemo(
    () => scaleLinear([0, Math.max(1, length - 1)], [LABEL_PX, LABEL_PX + plotWidth]),
    [length, plotWidth],
  );

  useEffect(() => {
    const svg = chart.current;
    if (!svg) return;
    const group = select(svg).select<SVGGElement>("g.time");
    const seconds = scaleLinear([0, (Math.max(1, length - 1) * TICK_MS) / 1000], [LABEL_PX, LABEL_PX + plotWidth]);
    group.call(
      axisBottom(seconds)
        .ticks(Math.max(3, plotWidth / 90))
        .tickSize(3)
        .tickFormat((value) => `${value} s`),
    );
    plainAxis(group);
  }, [length, plotWidth]);

  useFollow(() => {
    const svg = chart.current;
    if (!svg) return;
    const mark = svg.querySelector<SVGGElement>(".playhead");
    if (mark) mark.style.transform = `translateX(${x(playheadTick(length))}px)`;
  });

  useFollow(() => {
    const svg = chart.current;
    if (!svg) return;
    const tick = playheadTick(length);
    rows.forEach((row, i) => {
      const text = svg.querySelector(`[data-value="${i}"]`);
      if (text) text.textContent = `${fixed((row.values[tick] ?? 0) * row.factor, row.places)} ${row.unit}`;
    });
    bands.forEach((strip, i) => {
      const text = svg.querySelector(`[data-strip="${i}"]`);
      // A row of many spots tells by its colours.
      if (text)
        text.textContent = strip.bands.length > 2 ? "" : strip.bands.map(({ words }) => words(tick)).join(" · ");
    });
  }, true);

  const scrub = (event: PointerEvent<SVGSVGElement>) => {
    const left = event.currentTarget.getBoundingClientRect().left;
    pause();
    movePlayhead(Math.max(0, Math.min(length - 1, Math.round(x.invert(event.clientX - left)))));
  };
  if (length === 0) return null;
  return (
    <section className="timeline" ref={box} aria-label="Timeline">
      <PlayheadSlider last={length - 1} />
      <svg
        ref={chart}
        height={height}
        aria-hidden="true"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          scrub(event);
        }}
        onPointerMove={(event) => event.buttons === 1 && scrub(event)}
      >
        <Stones summary={summary} x={x} />
        {bands.map((strip, i) => (
          <StripRow key={strip.id} strip={strip} index={i} x={x} plotWidth={plotWidth} />
        ))}
        {rows.map((row, i) => {
          const top = under + i * ROW_PX;
          const [low = 0, high = 1] = extent(row.values, (value) => value * row.factor);
          const y = scaleLinear([low, high === low ? low + 1 : high], [top + ROW_PX - 5, top + 3]);
          return (
            <g key={row.label}>
              <line
                x1={LABEL_PX}
                x2={LABEL_PX + plotWidth}
                y1={top + ROW_PX - 1}
                y2={top + ROW_PX - 1}
                stroke="var(--hair)"
              />
              <rect x={2} y={top + 7} width={8} height={11} rx={3} fill={row.colour} />
              <text x={16} y={top + 17}>
                {row.label}
              </text>
              <text className="value" data-value={i} x={LABEL_PX - 10} y={top + 17} textAnchor="end" />
              <path d={tracePath(row, x, y, plotWidth)} fill="none" stroke={row.colour} strokeWidth={1.5} />
            </g>
          );
        })}
        <g className="time" transform={`translate(0 ${height - 17})`} />
        <g className="playhead">
          <line y1={2} y2={height - 16} stroke="var(--ink)" strokeWidth={1.5} />
          <circle cy={4} r={4} fill="var(--ink)" />
        </g>
      </svg>
      <TracePicker
        groups={[
          { title: "What each sensor sees", list: strips.map(({ id, label }) => ({ id, label })) },
          { title: "Readings", list: all.map(({ id, label }) => ({ id, label })) },
        ]}
        shown={shown}
      />
    </section>
  );
}

/** A strip over time, its bands one above the other, the leftmost spot on top. */
function StripRow({
  strip,
  index,
  x,
  plotWidth,
}: {
  strip: Strip;
  index: number;
  x: (tick: number) => number;
  plotWidth: number;
}) {
  const top = STONE_PX + 8 + index * ROW_PX;
  const high = (ROW_PX - 7) / strip.bands.length;
  const paths = useMemo(
    () =>
      strip.bands.flatMap((band, b) =>
        bandPaths(band, strip.length, x, top + 2 + b * high, high, plotWidth).map((path) => ({ ...path, id: band.id })),
      ),
    [strip, x, top, high, plotWidth],
  );
  return (
    <g data-strip-of={strip.label}>
      <line x1={LABEL_PX} x2={LABEL_PX + plotWidth} y1={top + ROW_PX - 1} y2={top + ROW_PX - 1} stroke="var(--hair)" />
      <text x={2} y={top + 17}>
        {strip.label}
      </text>
      <text className="value" data-strip={index} x={LABEL_PX - 10} y={top + 17} textAnchor="end" />
      {paths.map(({ id, fill, d }) => (
        <path key={`${id} ${fill}`} d={d} style={{ fill }} />
      ))}
    </g>
  );
}

interface PickerGroup {
  readonly title: string;
  readonly list: readonly { readonly id: string; readonly label: string }[];
}

/** Which strips and readings stand under the field. */
function TracePicker({ groups, shown }: { groups: readonly PickerGroup[]; shown: readonly string[] }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  if (groups.every(({ list }) => list.length === 0)) return null;
  const toggle = (id: string) => {
    const next = shown.includes(id) ? shown.filter((other) => other !== id) : [...shown, id].slice(-MOST_SHOWN);
    useMission.setState({ traces: next });
  };
  return (
    <div className="tracepicker">
      <Button aria-haspopup="true" aria-expanded={anchor !== null} onClick={(event) => setAnchor(event.currentTarget)}>
        Readings
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "top", horizontal: "left" }}
        transformOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { className: "tracelist", "aria-label": "Readings", role: "dialog" } }}
      >
        {groups.map(
          ({ title, list }) =>
            list.length > 0 && (
              <fieldset key={title}>
                <legend>{title}</legend>
                {list.map(({ id, label }) => (
                  <FormControlLabel
                    key={id}
                    label={label}
                    control={<Checkbox size="small" checked={shown.includes(id)} onChange={() => toggle(id)} />}
                  />
                ))}
              </fieldset>
            ),
        )}
      </Popover>
    </div>
  );
}

function Stones({ summary, x }: { summary: RunSummary | null; x: (tick: number) => number }) {
  const hoverLine = useMission((state) => state.hoverLine);
  return (
    <g>
      {stones(summary).map((step) => {
        const left = x(step.startMs / TICK_MS);
        const wide = Math.max(2, x(step.endMs / TICK_MS) - left - 2);
        const trouble = step.endedBy === "bound" || step.endedBy === "limit" || step.endedBy === "stalled";
        const fill = trouble ? "var(--rust)" : step.line - 1 === hoverLine ? "var(--ink)" : "var(--water)";
        return (
          <g
            key={`${step.step}/${step.pass}`}
            onPointerEnter={() => useMission.setState({ hoverLine: step.line - 1 })}
            onPointerLeave={() => useMission.setState({ hoverLine: null })}
            onPointerUp={() => selectLine(step.line - 1)}
          >
            <rect x={left} y={0} width={wide} height={STONE_PX} rx={Math.min(6, wide / 2)} fill={fill} />
            {wide > 9 * step.step.length && (
              <text
                x={left + wide / 2}
                y={11.5}
                textAnchor="middle"
                style={{ fill: "var(--sheet)", fontSize: 9, fontWeight: 600 }}
              >
                {step.step}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** Advances the playhead while playing. */
export function usePlayback(): void {
  const playing = useMission((state) => state.playing);
  const speed = useMission((state) => state.speed);
  useEffect(() => {
    if (!playing) return;
    let frame = 0;
    let before = performance.now();
    const advance = (now: number) => {
      const last = (shownPath(useMission.getState())?.x.length ?? 1) - 1;
      const tick = playhead.tick + ((now - before) / TICK_MS) * speed;
      before = now;
      movePlayhead(Math.min(last, tick));
      if (tick >= last) pause();
      else frame = requestAnimationFrame(advance);
    };
    frame = requestAnimationFrame(advance);
    return () => cancelAnimationFrame(frame);
  }, [playing, speed]);
}
