// One run on a page of its own: what ran, how it ended, its way, its readings, its steps.
import type { Field } from "../field/schema.js";
import { fieldSketch } from "../field/svg/sketch.js";
import type { TrialSummary } from "../trials/summary.js";
import { columnName, columnUnit, type Trace, traceColumn } from "../trials/trace.js";
import type { TypedTape } from "../trials/typedTape.js";
import { CHART_COLOURS, chartDrawing } from "./charts.js";
import { dayWords, drawing, heading, SOURCE_WORDS, table, tapeWords, text } from "./pieces.js";
import type { PageBlock } from "./schema.js";

export interface PageRun {
  readonly mission: { readonly name: string; readonly number: number; readonly href: string };
  readonly robot: { readonly name: string; readonly number: number; readonly href: string };
  readonly field: Field | null;
  readonly source: string;
  readonly ideal: boolean;
  readonly seed: number;
  readonly worked: boolean;
  readonly score: number | null;
  readonly seconds: number;
  readonly note: string;
  readonly tags: readonly string[];
  readonly tape: TypedTape | null;
  /** ISO 8601. */
  readonly at: string;
  /** Null for a run that nothing recorded. */
  readonly trace: Trace | null;
  readonly summary: TrialSummary;
}

/** Most steps a page lists. */
const MOST_STEPS = 300;
const cm = (metres: number) => `${Math.floor(metres * 1000 + 0.5) / 10} cm`;
const s = (ms: number) => `${(ms / 1000).toFixed(2)} s`;

function facts(run: PageRun): string[][] {
  const { summary, tape } = run;
  return [
    ["Mission", `${run.mission.name}, version ${run.mission.number}`],
    ["Robot", `${run.robot.name}, version ${run.robot.number}`],
    ["Field", run.field?.name ?? "open floor"],
    ["How", (SOURCE_WORDS[run.source] ?? run.source) + (run.ideal ? ", ideal: nothing varies" : "")],
    ["When", `${dayWords(run.at)}, ${run.at.slice(11, 16)} UTC`],
    ["Time", `${run.seconds.toFixed(2)} s`],
    ...(run.score === null ? [] : [["Points", String(run.score)]]),
    ...(summary.end
      ? [
          [
            "Ended at",
            `${cm(summary.end.xM)}, ${cm(summary.end.yM)}, heading ${Math.floor(summary.end.headingDeg * 10 + 0.5) / 10}°`,
          ],
        ]
      : []),
    ...(tape ? [["By the tape", `${tapeWords(tape)}, from where it began`]] : []),
    ...(run.source === "rehearsal" ? [["Seed", String(run.seed)]] : []),
    ...(run.tags.length === 0 ? [] : [["Tags", run.tags.join(", ")]]),
    ...(run.note === "" ? [] : [["Note", run.note]]),
  ];
}

/** Two speeds in one chart, then the heading, then each sensor: what says most of a run. */
function charts(trace: Trace): PageBlock[] {
  const seconds = (i: number) => (i * trace.tickMs) / 1000;
  const line = (id: string, i: number) => {
    const info = trace.columns.find((column) => column.id === id);
    const values = traceColumn(trace, id);
    if (!info || !values) return [];
    const { perSi } = columnUnit(info);
    const points = Array.from(values, (value, at): [number, number] => [seconds(at), value * perSi]);
    return [{ label: columnName(info), points, colour: CHART_COLOURS[i] ?? CHART_COLOURS[0], line: true }];
  };
  const chart = (ids: readonly string[], label: string, unit: string) =>
    drawing(
      chartDrawing({ x: { label: "time", unit: "s" }, y: { label, unit }, lines: ids.flatMap(line) }),
      label.charAt(0).toUpperCase() + label.slice(1),
      null,
    );
  const sensors = trace.columns.filter(({ id }) => /\.(distance|light|left|right|near|pressed)$/.test(id)).slice(0, 4);
  return [
    ...chart(["leftSpeed", "rightSpeed"], "speed of the wheels", "m/s"),
    ...chart(["heading", "gyroHeading"], "heading", "deg"),
    ...sensors.flatMap((column) => chart([column.id], columnName(column), columnUnit(column).unit)),
  ];
}

export function runPage(run: PageRun): PageBlock[] {
  const { trace, summary, field } = run;
  const mission = { words: `Mission ${run.mission.name}`, href: run.mission.href };
  const [x, y] = trace ? [traceColumn(trace, "x"), traceColumn(trace, "y")] : [null, null];
  const steps = (summary.steps ?? []).filter(({ timed, startMs, endMs }) => timed || endMs > startMs);
  const zones = (summary.zones ?? []).map(({ zone, points }) => [zone, String(points)]);
  const touched = [...new Set((summary.contacts ?? []).map(({ what }) => what))];
  return [
    text(run.worked ? "It worked." : `It did not work. ${summary.reason ?? ""}`.trim(), mission),
    table(["What", "Value"], facts(run), { words: `Robot ${run.robot.name}`, href: run.robot.href }),
    ...(touched.length === 0 ? [] : [text(`It touched ${touched.join(", ")}.`)]),
    ...(field && x && y ? drawing(fieldSketch(field, { x, y }), "Its way on the field", mission) : []),
    ...(trace ? [heading("Readings"), ...charts(trace)] : [text("Nothing recorded this run: it was timed by hand.")]),
    ...(zones.length === 0 ? [] : [heading("Points"), table(["Zone", "Points"], zones)]),
    ...(steps.length === 0
      ? []
      : [
          heading("Steps"),
          table(
            ["Line", "Step", "From", "Took", "Ended by"],
            steps
              .slice(0, MOST_STEPS)
              .map(({ line, text: words, startMs, endMs, endedBy }) => [
                String(line),
                words,
                s(startMs),
                s(endMs - startMs),
                String(endedBy),
              ]),
            mission,
          ),
          ...(steps.length > MOST_STEPS ? [text(`And ${steps.length - MOST_STEPS} more steps.`)] : []),
        ]),
  ];
}
