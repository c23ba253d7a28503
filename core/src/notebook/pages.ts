// Pages that make themselves: plain data of the project in, pieces of a page out.

import type { Chart } from "../calibrate/procedure.js";
import { driveKind } from "../drives/kinds.js";
import type { Stage } from "../drives/parts.js";
import { leadWheel } from "../drives/train.js";
import type { Field } from "../field/schema.js";
import { fieldSketch } from "../field/svg/sketch.js";
import { robotFigures } from "../insight/figures.js";
import { gearChoice, teethWords } from "../insight/gearBench.js";
import { expectedPoints } from "../matchday/round.js";
import { packVolts } from "../robot/budget.js";
import { checkRobot } from "../robot/check.js";
import { compareRobots } from "../robot/compare.js";
import { addStage } from "../robot/edits.js";
import { partsOf } from "../robot/parts.js";
import type { Robot } from "../robot/schema.js";
import { robotSketch } from "../robot/sketch.js";
import { wiringSketch } from "../robot/wiringSketch.js";
import { sensorKind } from "../sensors/kinds/all.js";
import type { TypedTape } from "../trials/typedTape.js";
import { CHART_COLOURS, chartDrawing } from "./charts.js";
import { ratesDrawing, type VersionRate } from "./drawings.js";
import { dayWords, drawing, heading, rateWords, SOURCE_WORDS, spoken, table, tapeWords, text } from "./pieces.js";
import type { NotebookPage, PageBlock } from "./schema.js";

/** A version of a document as a list has it. */
export interface ListedVersion {
  readonly number: number;
  readonly name: string | null;
  readonly reason: string;
  /** ISO 8601. */
  readonly madeAt: string;
}

export interface PageDocument {
  readonly name: string;
  readonly href: string;
  readonly versions: readonly ListedVersion[];
}

function versionsTable(document: PageDocument): PageBlock[] {
  if (document.versions.length === 0) return [];
  const rows = document.versions.map(({ number, name, reason, madeAt }) => [
    String(number),
    name ?? "",
    reason,
    dayWords(madeAt),
  ]);
  return [
    heading("What was changed, and why"),
    table(["Version", "Name", "Why", "When"], rows, { words: `Versions of ${document.name}`, href: document.href }),
  ];
}

const mmWords = (metres: number) => `${Math.floor(metres * 10_000 + 0.5) / 10} mm`;

/** What a part is, in a few words with its numbers. */
function partWords(robot: Robot, ref: string, kind: string): string {
  const wheel = robot.wheels.find(({ name }) => name === ref);
  if (wheel) {
    const driven = wheel.drivenBy === null ? "rolls freely" : `driven by ${spoken(wheel.drivenBy)}`;
    return `wheel, ${mmWords(wheel.diameterM)} across, ${driven}`;
  }
  const motor = robot.motors.find(({ name }) => name === ref);
  if (motor) return `motor, ${motor.encoder ? "with" : "without"} encoder`;
  if (kind === "chassis")
    return `chassis, ${Math.floor(robot.chassis.massKg * 1000 + 0.5)} g, ${mmWords(robot.chassis.heightM)} high`;
  if (kind === "drive") return driveKind(robot.drive).words.page;
  if (kind === "pack") return `pack of ${robot.pack.nominalVolts} V, ${robot.pack.capacityAh} Ah`;
  const sensor = robot.sensors.find(({ name }) => name === ref);
  if (sensor) return sensorKind(sensor).words;
  return kind;
}

/** What a motor straight on its wheel is held against: 16 : 24 is slower, 24 : 16 faster. */
const STRAIGHT_BESIDE: readonly (readonly Stage[])[] = [
  [16, 24],
  [24, 16],
].map(([driverTeeth = 1, drivenTeeth = 1]) => addStage([]).map((gear) => ({ ...gear, driverTeeth, drivenTeeth })));

/** The same stages with four teeth more, then four fewer, on the first driven gear. */
function beside(first: Stage, rest: readonly Stage[]): (readonly Stage[])[] {
  return [4, -4]
    .filter((teeth) => first.drivenTeeth + teeth >= 8)
    .map((teeth) => [{ ...first, drivenTeeth: first.drivenTeeth + teeth }, ...rest]);
}

/** Why these gears: speed against push for the fitted ones, with one step slower and one faster beside them. */
function gearPieces(robot: Robot, href: string): PageBlock[] {
  const [first, ...rest] = leadWheel(robot, "left")?.wheel.stages ?? [];
  const [full, tired] = [packVolts(robot, 1), packVolts(robot, 0.1)].map((v) => v - robot.board.driverDropVolts);
  const choice = (stages: readonly Stage[]) => gearChoice(robot, stages, full ?? 0, tired ?? 0);
  const fitted = choice(first ? [first, ...rest] : []);
  const others = (first ? beside(first, rest) : STRAIGHT_BESIDE).map(choice);
  const svg = chartDrawing({
    x: { label: "push of one side", unit: "N" },
    y: { label: "speed", unit: "cm/s" },
    fromZero: true,
    lines: [fitted, ...others].map(({ freeSpeedMS, stallN, stages }, i) => ({
      label: `${i === 0 ? "fitted " : ""}${teethWords(stages)}`,
      points: [
        [0, freeSpeedMS * 100],
        [stallN, 0],
      ],
      colour: CHART_COLOURS[i] ?? CHART_COLOURS[0],
      line: true,
      ...(i === 0 ? {} : { dash: i === 1 ? "7 4" : "2 4" }),
    })),
  });
  const from = { words: "Gear bench", href };
  return [
    heading("Why these gears"),
    text(`Fitted, ${teethWords(fitted.stages)}: ${fitted.verdict}`, from),
    ...others.map((other) => text(`Instead, ${teethWords(other.stages)}: ${other.verdict}`)),
    ...drawing(svg, "Speed against push of one side: the fitted gears, and others beside them", from),
  ];
}

/** @param before - the version before the newest, when there is one */
export function robotPage(robot: Robot, document: PageDocument, before: Robot | null): PageBlock[] {
  const from = { words: `Drawing of ${robot.name}`, href: document.href };
  const sound = checkRobot(robot).every(({ severity }) => severity !== "error");
  const figures = sound ? robotFigures(robot) : [];
  const changes = before ? compareRobots(before, robot) : [];
  return [
    { kind: "drawing", svg: robotSketch(robot), caption: `${robot.name} from above, ahead is to the right`, from },
    heading("Parts", from),
    table(
      ["Part", "What it is"],
      partsOf(robot).map(({ ref, kind }) => [spoken(ref), partWords(robot, ref, kind)]),
      from,
    ),
    ...(figures.length === 0
      ? [text(`${robot.name} cannot drive as it is drawn, so there are no figures yet.`, from)]
      : [
          heading("What the gears and motors give"),
          table(
            ["Figure", "Value", "How it is worked out", "Mind"],
            figures.map(({ label, shown, formula, caution }) => [label, shown, formula, caution ?? ""]),
            { words: "Gear bench", href: document.href },
          ),
          ...gearPieces(robot, document.href),
        ]),
    ...drawing(wiringSketch(robot), `Wiring of ${robot.name}`, from),
    ...(changes.length === 0
      ? []
      : [
          heading("Changed by the newest version"),
          table(
            ["Part", "What", "Before", "Now"],
            changes.map(({ part, label, before: was, after }) => [spoken(part), label, was, after]),
            from,
          ),
        ]),
    ...versionsTable(document),
  ];
}

interface PageCalibration {
  readonly title: string;
  readonly result: string;
  readonly words: string;
  readonly rows: number;
  /** Version of the robot that took it over; null when none did. */
  readonly version: number | null;
  readonly madeAt: string;
  /** Its rows as a chart; null where the calibration has none. */
  readonly chart: Chart | null;
}

const ROLE_COLOURS = { measured: "#9A5B00", after: "#0E6A6B", fit: "#5B6A73", struck: "#B9B2A4" } as const;

/** A calibration's chart as SVG text. */
export function calibrationDrawing(chart: Chart): string {
  const { x, y } = chart;
  return chartDrawing({
    x: { label: x.label, unit: x.shown.unit },
    y: { label: y.label, unit: y.shown.unit },
    lines: chart.series.map(({ label, role, points, line }) => ({
      label,
      colour: ROLE_COLOURS[role],
      line,
      points: points.map(([a, b]): [number, number] => [a * x.shown.perSi, b * y.shown.perSi]),
      ...(role === "fit" ? { dash: "6 4" } : {}),
    })),
  });
}

export function calibrationsPage(robot: string, href: string, list: readonly PageCalibration[]): PageBlock[] {
  if (list.length === 0) return [text(`Nothing was measured on ${robot} yet.`, { words: "Calibrate", href })];
  const from = { words: `Measured on ${robot}`, href };
  return [
    table(
      ["What", "Found", "Rows", "Used in", "When"],
      list.map(({ title, result, rows, version, madeAt }) => [
        title,
        result,
        String(rows),
        version === null ? "not used" : `version ${version}`,
        dayWords(madeAt),
      ]),
      from,
    ),
    ...list.flatMap(({ title, words, chart }): PageBlock[] => {
      const svg = chart && calibrationDrawing(chart);
      if (words === "" && !svg) return [];
      return [
        heading(title, from),
        ...(words === "" ? [] : [text(words)]),
        ...drawing(svg, chart?.title ?? title, from),
      ];
    }),
  ];
}

export function fieldPage(field: Field, document: PageDocument): PageBlock[] {
  const from = { words: `Drawing of ${field.name}`, href: document.href };
  const counted = (["marks", "walls", "obstacles", "boulders", "loads", "zones", "gates", "begins", "ramps"] as const)
    .map((list) => [list === "begins" ? "start places" : list, String(field[list].length)])
    .filter(([, n]) => n !== "0");
  const cm = (metres: number) => `${Math.floor(metres * 1000 + 0.5) / 10} cm`;
  return [
    {
      kind: "drawing",
      svg: fieldSketch(field),
      caption: `${field.name}, ${cm(field.size.widthM)} by ${cm(field.size.heightM)}`,
      from,
    },
    ...(field.about ? [text(field.about)] : []),
    table(["On it", "How many"], counted as string[][], from),
    ...versionsTable(document),
  ];
}

interface PageMission {
  readonly text: string;
  readonly robot: string | null;
  readonly field: string | null;
  /** Runs of each version. */
  readonly rates: readonly VersionRate[];
  /** Steps in which runs were lost, with how many. */
  readonly lostIn: readonly { readonly step: string; readonly runs: number }[];
  /** The field with the newest run on it. */
  readonly picture: string | null;
}

export function missionPage(mission: PageMission, document: PageDocument, trialsHref: string): PageBlock[] {
  const from = { words: `Mission ${document.name}`, href: document.href };
  const runs = { words: "Trials", href: trialsHref };
  const about = mission.text
    .split("\n")
    .filter((line) => line.startsWith("#"))
    .slice(0, 4)
    .map((line) => line.replace(/^#+ ?/, ""))
    .join(" ");
  const newest = mission.rates.at(-1);
  const places = [mission.robot && `for ${mission.robot}`, mission.field && `on ${mission.field}`]
    .filter(Boolean)
    .join(", ");
  return [
    ...(places === "" ? [] : [text(`It is ${places}.`, from)]),
    ...(about === "" ? [] : [text(about, from)]),
    ...(mission.picture
      ? [
          {
            kind: "drawing" as const,
            svg: mission.picture,
            caption: newest ? "The way of its newest run" : "The field it is on",
            from: newest ? runs : from,
          },
        ]
      : []),
    heading("How often it works", runs),
    ...(newest
      ? [
          text(`Version ${newest.number} worked ${rateWords(newest.successes, newest.runs)}.`, runs),
          {
            kind: "drawing" as const,
            svg: ratesDrawing(mission.rates),
            caption: "Share of runs that worked, by version, with 95 % intervals",
            from: runs,
          },
        ]
      : [text("Nobody has run it yet.", runs)]),
    ...(mission.lostIn.length === 0
      ? []
      : [
          heading("Where runs were lost"),
          table(
            ["Step", "Runs lost there"],
            mission.lostIn.map(({ step, runs: n }) => [step, String(n)]),
            runs,
          ),
        ]),
    heading("Its text", from),
    { kind: "markdown", text: `\`\`\`\n${mission.text.replaceAll("```", "'''").trimEnd()}\n\`\`\`` },
    ...versionsTable(document),
  ];
}

interface PageTrial {
  readonly mission: string;
  readonly version: number;
  readonly source: string;
  readonly worked: boolean;
  readonly seconds: number;
  readonly note: string;
  /** Where the tape found the robot, seen from its start place; null when nobody measured. */
  readonly tape: TypedTape | null;
  readonly at: string;
  /** Its own page. */
  readonly href: string;
}

export function trialsPage(list: readonly PageTrial[], count: number, worked: number): PageBlock[] {
  if (count === 0) return [text("No run is kept yet.", { words: "Trials", href: "/trials" })];
  return [
    text(`${count} runs are kept, ${worked} of them worked. The newest ${list.length}:`, {
      words: "Trials",
      href: "/trials",
    }),
    table(
      ["When", "Mission", "How", "Result", "Time", "By the tape", "Note"],
      list.map(({ at, mission, version, source, worked: good, seconds, tape, note }) => [
        dayWords(at),
        `${mission} ${version}`,
        SOURCE_WORDS[source] ?? source,
        good ? "worked" : "did not work",
        `${seconds.toFixed(1)} s`,
        tape === null ? "" : tapeWords(tape),
        note,
      ]),
      { words: "Trials", href: "/trials" },
      list.map(({ href }) => href),
    ),
  ];
}

interface PageEvent {
  readonly at: string;
  readonly words: string;
  readonly href: string;
}

/** A match sheet as it stands in the notebook: the order, what it brings, and how practice went. */
export function matchPage(page: Extract<NotebookPage, { kind: "match" }>): PageBlock[] {
  const { entries, rounds, ...rules } = page;
  if (entries.length === 0) return [text("No mission is on this sheet yet.")];
  const { total, each } = expectedPoints(entries, rules);
  const played = rounds.map(({ points }) => points);
  const mean = played.reduce((sum, points) => sum + points, 0) / Math.max(1, played.length);
  return [
    text(`A round of ${rules.roundS} s brings ${total.toFixed(1)} points on average in this order.`),
    table(
      ["", "Mission", "Start place", "Attachment", "Points", "Time", "Works", "Brings"],
      entries.map((entry, i) => [
        String(i + 1),
        entry.name,
        entry.begin,
        entry.attachment,
        String(entry.points),
        `${entry.meanS.toFixed(1)} ± ${entry.spreadS.toFixed(1)} s`,
        `${Math.floor(entry.success * 100 + 0.5)} %`,
        (each[i] ?? 0).toFixed(1),
      ]),
    ),
    ...(rounds.length === 0
      ? []
      : [
          heading("Practice"),
          text(
            `${rounds.length} rounds brought ${mean.toFixed(1)} points on average, the best ${Math.max(...played)}.`,
          ),
          table(
            ["When", "Points", "Worked"],
            rounds
              .slice(-20)
              .reverse()
              .map(({ at, points, marks }) => [
                dayWords(at),
                String(points),
                marks
                  .filter(({ worked }) => worked)
                  .map(({ name, atS }) => `${name} at ${atS.toFixed(0)} s`)
                  .join(", "),
              ]),
          ),
        ]),
  ];
}

export function pitPage(page: Extract<NotebookPage, { kind: "pit" }>): PageBlock[] {
  return [
    {
      kind: "list",
      items: page.lines.map(({ text: words, done }) => ({ text: `${done ? "☑" : "☐"} ${words}`, from: null })),
    },
  ];
}

/** Everything that happened, newest day first. */
export function timelinePage(events: readonly PageEvent[]): PageBlock[] {
  if (events.length === 0) return [text("Nothing has happened yet.")];
  const days = new Map<string, PageEvent[]>();
  for (const event of [...events].sort((a, b) => (a.at < b.at ? 1 : -1))) {
    const day = event.at.slice(0, 10);
    days.set(day, [...(days.get(day) ?? []), event]);
  }
  return [...days].slice(0, 120).flatMap(([day, list]): PageBlock[] => {
    // What happened several times in a day is one line.
    const times = new Map<string, { readonly href: string; count: number }>();
    for (const { words, href } of list) {
      const known = times.get(words);
      if (known) known.count += 1;
      else times.set(words, { href, count: 1 });
    }
    return [
      heading(dayWords(day)),
      {
        kind: "list",
        items: [...times].slice(0, 40).map(([words, { href, count }]) => ({
          text: count === 1 ? words : `${words} (${count} times)`,
          from: { words: "open", href },
        })),
      },
    ];
  });
}

/** What a frozen page says that the page of now does not, and the other way round: one sentence each. */
export function changedSince(frozen: readonly PageBlock[], now: readonly PageBlock[]): string[] {
  const lines = (blocks: readonly PageBlock[]) => new Set(blocks.flatMap(linesOf));
  const [before, after] = [lines(frozen), lines(now)];
  return [
    ...[...after].filter((line) => !before.has(line)).map((line) => `New: ${line}`),
    ...[...before].filter((line) => !after.has(line)).map((line) => `Gone: ${line}`),
  ];
}

function linesOf(block: PageBlock): string[] {
  switch (block.kind) {
    case "heading":
      return [];
    case "text":
      return [block.text];
    case "list":
      return block.items.map((item) => item.text);
    case "table":
      return block.rows.map((row) => row.filter(Boolean).join(" · "));
    case "drawing":
      return [];
    case "markdown":
      return block.text.split("\n").filter((line) => line.trim() !== "" && line !== "```");
    case "photo":
      return [`photograph: ${block.caption}`];
  }
}
