// How far the sensor was from its line, over the way it drove.

import { aheadOfLine, type LineStep, type LineWay, lineFigures, lineWays, plainDigits } from "@giddy-pebble/core";
import { axisBottom, axisLeft, bisectLeft, line as lineOf, scaleLinear, select } from "d3";
import { type PointerEvent, useEffect, useMemo, useRef } from "react";
import { plainAxis } from "../../shared/charts/plainAxis.js";
import { useFollow } from "../../shared/mission/follow.js";
import { pause } from "../../shared/mission/running.js";
import { movePlayhead, playhead, useMission } from "../../shared/mission/state.js";
import type { Shown } from "./SensorsPanel.js";

const WIDE = 330;
const HIGH = 118;
const LEFT = 34;
const FOOT = 26;
/** The chart never shows less than this to each side, m: a good run looks good. */
const LEAST_M = 0.005;

/** All passes of a step, one after the other. */
function joined(ways: readonly LineWay[]): { ticks: number[]; wayM: number[]; offM: number[] } {
  const all = { ticks: [] as number[], wayM: [] as number[], offM: [] as number[] };
  let from = 0;
  for (const { ticks, wayM, offM } of ways) {
    for (let i = 0; i < ticks.length; i += 1) {
      all.ticks.push(ticks[i] as number);
      all.wayM.push(from + (wayM[i] as number));
      all.offM.push(offM[i] as number);
    }
    from += wayM.at(-1) ?? 0;
  }
  return all;
}

export function LineError({ step, shown }: { step: LineStep; shown: Shown }) {
  const field = useMission((state) => state.field?.document ?? null);
  const { trace, summary, robot, of } = shown;
  const ways = useMemo(
    () => (field ? lineWays(trace, summary, step, robot, field) : []),
    [trace, summary, step, robot, field],
  );
  const figures = useMemo(() => lineFigures(ways, aheadOfLine(step, robot)), [ways, step, robot]);
  const drawn = field?.marks.some(({ kind }) => kind !== "area") ?? false;
  if (!drawn)
    return <p className="quiet">The field has no drawn line, so the error cannot be measured. The tuner still can.</p>;
  if (!figures) return <p className="quiet">In {of} this step never drives.</p>;
  return (
    <>
      <ErrorChart ways={ways} worstM={figures.worstM} />
      <p className="small">
        In {of}: off by <span className="mono">{plainDigits(figures.rmsM * 1000, 1)} mm</span> (root mean square), at
        most <span className="mono">{plainDigits(figures.worstM * 1000, 0)} mm</span>,{" "}
        {figures.losses === 0 ? "never astray" : `astray ${figures.losses === 1 ? "once" : `${figures.losses} times`}`},{" "}
        <span className="mono">{plainDigits(figures.wayM, 2)} m</span> driven.
      </p>
    </>
  );
}

function ErrorChart({ ways, worstM }: { ways: readonly LineWay[]; worstM: number }) {
  const svg = useRef<SVGSVGElement>(null);
  const all = useMemo(() => joined(ways), [ways]);
  const most = Math.max(LEAST_M, worstM);
  const x = useMemo(() => scaleLinear([0, Math.max(0.01, all.wayM.at(-1) ?? 0)], [LEFT, WIDE - 6]), [all]);
  const y = useMemo(() => scaleLinear([-most, most], [HIGH - FOOT, 6]), [most]);
  const path = useMemo(() => {
    const every = Math.max(1, Math.floor(all.wayM.length / 600));
    const picked = all.wayM.map((_, i) => i).filter((i) => i % every === 0);
    return lineOf<number>(
      (i) => x(all.wayM[i] as number),
      (i) => y(all.offM[i] as number),
    )(picked);
  }, [all, x, y]);
  useEffect(() => {
    if (!svg.current) return;
    const below = select(svg.current).select<SVGGElement>("g.way");
    below.call(
      axisBottom(x)
        .ticks(5)
        .tickSize(3)
        .tickFormat((value) => `${value} m`),
    );
    const left = select(svg.current).select<SVGGElement>("g.off");
    left.call(
      axisLeft(y)
        .ticks(3)
        .tickSize(3)
        .tickFormat((value) => `${Math.round(Number(value) * 1000)}`),
    );
    for (const axis of [below, left]) {
      plainAxis(axis);
    }
  }, [x, y]);
  useFollow(() => {
    const mark = svg.current?.querySelector(".playhead");
    const i = bisectLeft(all.ticks, Math.floor(playhead.tick));
    const inside = i < all.ticks.length && all.ticks[i] === Math.floor(playhead.tick);
    mark?.setAttribute("visibility", inside ? "visible" : "hidden");
    if (inside) mark?.setAttribute("transform", `translate(${x(all.wayM[i] as number)} ${y(all.offM[i] as number)})`);
  });
  const go = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const way = x.invert(((event.clientX - box.left) / box.width) * WIDE);
    pause();
    movePlayhead(all.ticks[Math.min(all.ticks.length - 1, bisectLeft(all.wayM, way))] ?? 0);
  };
  return (
    <figure className="lineerror">
      <svg
        ref={svg}
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label="Error on the line over the way"
        onPointerDown={go}
        onPointerMove={(event) => event.buttons === 1 && go(event)}
      >
        <line x1={LEFT} x2={WIDE - 6} y1={y(0)} y2={y(0)} stroke="var(--hair)" />
        <path d={path ?? ""} fill="none" stroke="var(--water)" strokeWidth={1.5} />
        <g className="way" transform={`translate(0 ${HIGH - FOOT})`} />
        <g className="off" transform={`translate(${LEFT} 0)`} />
        <g className="playhead">
          <line y1={-HIGH} y2={HIGH} stroke="var(--ink)" strokeWidth={1} opacity={0.4} />
          <circle r={4} fill="var(--ink)" />
        </g>
      </svg>
      <figcaption className="quiet small">mm to the left of the line, over the way</figcaption>
    </figure>
  );
}
