// Pages that make themselves: plain data of the project in, pieces of a page out.
import type { Field } from "../field/schema.js";
import { fieldSketch } from "../field/sketch.js";
import { expectedPoints } from "../matchday/round.js";
import { wilson95 } from "../rehearse/study.js";
import { checkRobot } from "../robot/check.js";
import { compareRobots } from "../robot/compare.js";
import { robotFigures } from "../robot/figures.js";
import { partsOf } from "../robot/parts.js";
import type { Robot } from "../robot/schema.js";
import { robotSketch } from "../robot/sketch.js";
import { ratesDrawing, type VersionRate } from "./drawings.js";
import type { NotebookPage, PageBlock, PageSource } from "./schema.js";

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

const heading = (text: string, from: PageSource | null = null): PageBlock => ({ kind: "heading", text, from });
const text = (words: string, from: PageSource | null = null): PageBlock => ({ kind: "text", text: words, from });
const table = (head: string[], rows: string[][], from: PageSource | null = null): PageBlock => ({
  kind: "table",
  head,
  rows,
  from,
});

/** "27 Nov 2026", of UTC, so that a page reads the same everywhere. */
export function dayWords(iso: string): string {
  const [year = "", month = "", day = ""] = iso.slice(0, 10).split("-");
  const names = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
  return `${Number(day)} ${names[Number(month) - 1] ?? month} ${year}`;
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

const spoken = (name: string) => name.replaceAll("_", " ");

const SENSOR_WORDS: Readonly<Record<string, string>> = {
  eye: "distance sensor",
  near: "proximity sensor",
  floor: "light sensor",
  tag: "colour sensor for plates",
};
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
  if (kind === "drive")
    return {
      "two-wheel": "two driven wheels",
      "four-wheel": "four driven wheels in tied pairs",
      car: "car type, front wheels steer",
    }[robot.drive.kind];
  if (kind === "pack") return `pack of ${robot.pack.nominalVolts} V, ${robot.pack.capacityAh} Ah`;
  const sensor = robot.sensors.find(({ name }) => name === ref);
  if (sensor) return SENSOR_WORDS[sensor.kind] ?? sensor.kind;
  return kind;
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
        ]),
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

export interface PageCalibration {
  readonly title: string;
  readonly result: string;
  readonly words: string;
  readonly rows: number;
  /** Version of the robot that took it over; null when none did. */
  readonly version: number | null;
  readonly madeAt: string;
}

export function calibrationsPage(robot: string, href: string, list: readonly PageCalibration[]): PageBlock[] {
  if (list.length === 0) return [text(`Nothing was measured on ${robot} yet.`, { words: "Calibrate", href })];
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
      { words: `Measured on ${robot}`, href },
    ),
    ...list.filter(({ words }) => words !== "").map(({ title, words }) => text(`${title}: ${words}`)),
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

export interface PageMission {
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

/** "19 of 20 (95 %, between 76 % and 99 %)" */
export function rateWords(successes: number, runs: number): string {
  const [low, high] = wilson95(successes, runs);
  const percent = (share: number) => `${Math.floor(share * 100 + 0.5)} %`;
  return `${successes} of ${runs} (${percent(successes / runs)}, between ${percent(low)} and ${percent(high)})`;
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
      ? [{ kind: "drawing" as const, svg: mission.picture, caption: "The way of its newest run", from: runs }]
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

export interface PageTrial {
  readonly mission: string;
  readonly version: number;
  readonly source: string;
  readonly worked: boolean;
  readonly seconds: number;
  readonly note: string;
  readonly at: string;
}

const SOURCE: Readonly<Record<string, string>> = { rehearsal: "rehearsed", robot: "robot", drive: "by hand" };

export function trialsPage(list: readonly PageTrial[], count: number, worked: number): PageBlock[] {
  if (count === 0) return [text("No run is kept yet.", { words: "Trials", href: "/trials" })];
  return [
    text(`${count} runs are kept, ${worked} of them worked. The newest ${list.length}:`, {
      words: "Trials",
      href: "/trials",
    }),
    table(
      ["When", "Mission", "How", "Result", "Time", "Note"],
      list.map(({ at, mission, version, source, worked: good, seconds, note }) => [
        dayWords(at),
        `${mission} ${version}`,
        SOURCE[source] ?? source,
        good ? "worked" : "did not work",
        `${seconds.toFixed(1)} s`,
        note,
      ]),
      { words: "Trials", href: "/trials" },
    ),
  ];
}

export interface PageEvent {
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
