// Floor light: where dark ends, and how sure that is.

import type { Robot } from "../../robot/schema.js";
import type { SensorOf } from "../../sensors/kinds/all.js";
import { traceColumn } from "../../trials/trace.js";
import type { Chart, Column, Estimate, Measured, Procedure } from "../procedure.js";
import { lightLevels } from "../signals.js";
import { mean, median } from "../statistics.js";
import { PERCENT, WHOLE } from "../units.js";
import { header, numberOf, presentKnown, STUDENT, usable } from "./common.js";

type Floor = SensorOf<"floor">;
const floorOf = (robot: Robot): Floor | null =>
  robot.sensors.find((sensor): sensor is Floor => sensor.kind === "floor") ?? null;

/** Name of the floor sensor's first spot, as its reading begins. */
function spotOf({ name, layout }: Floor): string {
  return layout === "single" ? `${name}.light` : layout === "pair" ? `${name}.left.light` : `${name}[1].light`;
}

/** Half width of a level, as a share of the gap between dark and pale. */
const LEVEL_SHARE = 0.1;

/** Light of a sweep, split where dark and pale lie furthest apart (N. Otsu 1979, largest variance between classes). */
export function splitLevels(values: readonly number[]): { readonly dark: number[]; readonly pale: number[] } | null {
  const sorted = [...values].sort((a, b) => a - b);
  let best = -1;
  let at = 0;
  const total = sorted.reduce((sum, value) => sum + value, 0);
  let below = 0;
  for (let i = 1; i < sorted.length; i += 1) {
    below += sorted[i - 1] as number;
    const m1 = below / i;
    const m2 = (total - below) / (sorted.length - i);
    const between = i * (sorted.length - i) * (m1 - m2) * (m1 - m2);
    if (between > best) {
      best = between;
      at = i;
    }
  }
  if (at === 0 || at === sorted.length) return null;
  // Spots partly on the edge belong to neither: what is further than a tenth of the gap from the middle one of a level
  // is left out. They would make one level look wider than its noise, and move the threshold.
  const low = median(sorted.slice(0, at));
  const high = median(sorted.slice(at));
  const near = (high - low) * LEVEL_SHARE;
  return {
    dark: sorted.filter((v) => Math.abs(v - low) < near),
    pale: sorted.filter((v) => Math.abs(v - high) < near),
  };
}

function sweep(robot: Robot, { trace }: Measured): number[] | undefined {
  const floor = floorOf(robot);
  const column = floor && trace ? traceColumn(trace, spotOf(floor)) : null;
  if (!column) return undefined;
  return [...column].filter((_, i) => i > 60 && i % 2 === 0).map((value) => Math.floor(value * 10_000 + 0.5) / 10_000);
}

const lightColumns = (robot: Robot): readonly Column[] => [
  {
    id: "dark",
    label: "dark",
    shown: PERCENT,
    least: 0,
    most: 1.2,
    from: (m) => {
      const split = splitLevels(sweep(robot, m) ?? []);
      return split && split.dark.length > 0 ? mean(split.dark) : null;
    },
  },
  {
    id: "pale",
    label: "pale",
    shown: PERCENT,
    least: 0,
    most: 1.2,
    from: (m) => {
      const split = splitLevels(sweep(robot, m) ?? []);
      return split && split.pale.length > 0 ? mean(split.pale) : null;
    },
  },
];

function allLevels(robot: Robot, rows: Parameters<Procedure["estimate"]>[1]) {
  const used = usable(rows, lightColumns(robot));
  const dark: number[] = [];
  const pale: number[] = [];
  for (const { row } of used) {
    const split = row.recorded ? splitLevels(row.recorded) : null;
    dark.push(...(split ? split.dark : [numberOf(row, "dark")]));
    pale.push(...(split ? split.pale : [numberOf(row, "pale")]));
  }
  return { dark, pale, rows: used.length };
}

export const floorLight: Procedure = {
  id: "floor-light",
  title: "Light threshold",
  purpose: "Sweep across dark and pale: where does dark end, and how sure is that?",
  place: "Put the robot before a dark line, so that it drives across it.",
  measure: "Nothing to measure when linked; else type what it reads over dark and over pale.",
  rowsWanted: 3,
  settings: [],
  unfit: (robot) => (floorOf(robot) ? null : "This robot has no light sensor."),
  columns: lightColumns,
  program: (robot) =>
    `${header(robot)}  wait 0.3 s\n  ${robot.drive.speedAtPower ? "power both 30 % for 3 s" : "go 40 cm at 10 cm/s"}\n`,
  stage: () => ({ floor: "stripe", aheadM: 0.25 }),
  record: sweep,
  estimate(robot, rows): Estimate {
    const levels = allLevels(robot, rows);
    if (levels.dark.length < 2 || levels.pale.length < 2)
      return { ok: false, why: "This needs at least two readings of dark and two of pale. Run it, or type rows." };
    const found = lightLevels(levels.dark, levels.pale);
    if (found.marginSigma <= 0) return { ok: false, why: "Dark reads lighter than pale. Are the columns swapped?" };
    const floor = floorOf(robot) as Floor;
    const gap = found.pale.value - found.dark.value;
    const wide = found.marginSigma > 4;
    // How sure the threshold is: the spread of the levels' means, at the threshold's share of each.
    const error = Math.max(found.dark.standardError ?? 0, found.pale.standardError ?? 0, gap * 0.01);
    return {
      ok: true,
      results: [
        { id: "dark", label: "Dark", shown: PERCENT, estimate: found.dark },
        { id: "pale", label: "Pale", shown: PERCENT, estimate: found.pale },
        {
          id: "threshold",
          label: "Threshold",
          shown: PERCENT,
          estimate: { value: found.threshold, standardError: error, low: null, high: null, count: levels.rows },
        },
      ],
      edits: [{ ref: floor.name, path: "dark", value: found.threshold, standardError: error }],
      doubtful: [],
      interval: STUDENT,
      verdict: {
        title: `Dark ends at ${(found.threshold * 100).toFixed(0)} % of the light`,
        text: `Dark reads ${(found.dark.value * 100).toFixed(0)} %, pale ${(found.pale.value * 100).toFixed(0)} %: a margin of ${found.marginSigma.toFixed(1)} standard deviations, which is ${
          wide ? "wide" : found.marginSigma > 2.5 ? "enough" : "narrow"
        }. Of a metre at 20 cm/s, 500 looks, ${found.misreads * 500 < 0.05 ? "none" : `about ${(found.misreads * 500).toFixed(1)}`} would be misread.`,
      },
    };
  },
  chart(robot, rows): Chart | null {
    const levels = allLevels(robot, rows);
    if (levels.dark.length + levels.pale.length === 0) return null;
    const bins = (values: readonly number[]) => {
      const counts = new Array<number>(51).fill(0);
      for (const value of values) {
        const bin = Math.max(0, Math.min(50, Math.floor(value * 50)));
        counts[bin] = (counts[bin] as number) + 1;
      }
      return counts.flatMap((count, i): [number, number][] => (count > 0 ? [[(i + 0.5) / 50, count]] : []));
    };
    return {
      title: "How often each light was read",
      x: { label: "light", shown: { ...PERCENT, digits: 0 } },
      y: { label: "readings", shown: WHOLE },
      series: [
        { label: "dark", role: "measured", points: bins(levels.dark), line: false },
        { label: "pale", role: "after", points: bins(levels.pale), line: false },
      ],
    };
  },
  present: (robot) => {
    const floor = floorOf(robot);
    return floor ? [presentKnown("threshold", "Threshold", PERCENT, floor.dark.value, 0, floor.dark)] : [];
  },
};
