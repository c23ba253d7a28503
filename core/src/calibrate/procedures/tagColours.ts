// Colours of plates as a tag reader sees them: its own references, how far apart they lie, and what is mistaken for what.

import { COLOUR_NAMES, type ColourName, type Lab, labDistance, labOf, plateHex } from "../../field/colours.js";
import type { Robot } from "../../robot/schema.js";
import type { SensorOf } from "../../sensors/kinds/all.js";
import type { Chart, Column, Estimate, Procedure, TableRow } from "../procedure.js";
import { type Estimated, estimated, mean, meanOf } from "../statistics.js";
import { PERCENT, PLAIN, WHOLE } from "../units.js";
import { FEW, header, knownEdit, numberOf, STUDENT, usable } from "./common.js";

type Tag = SensorOf<"tag">;
const tagOf = (robot: Robot): Tag | null =>
  robot.sensors.find((sensor): sensor is Tag => sensor.kind === "tag") ?? null;

/** Plates in the order they are put before the reader. */
const PLATES: readonly ColourName[] = ["red", "yellow", "green", "blue", "white", "black", "orange", "violet"];
const LOOKS = 10;
const PARTS = ["red", "green", "blue"] as const;

const plateOfRow = (row: number, count: number) => PLATES[row % count] as ColourName;

const columns: readonly Column[] = [
  {
    id: "plate",
    label: "plate",
    shown: WHOLE,
    least: 0,
    most: COLOUR_NAMES.length - 1,
    choices: COLOUR_NAMES.map((words, value) => ({ value, words })),
    from: ({ notes }) => notes.get("plate") ?? null,
  },
  ...PARTS.map(
    (part): Column => ({
      id: part,
      label: part,
      shown: PERCENT,
      least: 0,
      most: 2,
      hint: "as the reader reads it, a mean of several looks",
      from: ({ notes }) => notes.get(part) ?? null,
    }),
  ),
];

interface Look {
  readonly index: number;
  readonly plate: number;
  readonly lab: Lab;
  readonly light: readonly number[];
}

function looks(rows: readonly TableRow[]): Look[] {
  return usable(rows, columns).map(({ row, index }) => {
    const light = PARTS.map((part) => numberOf(row, part)) as [number, number, number];
    return { index, plate: numberOf(row, "plate"), lab: labOf(light), light };
  });
}

interface PlateFound {
  readonly plate: number;
  readonly name: ColourName;
  readonly count: number;
  /** Red, green and blue. */
  readonly light: readonly [Estimated, Estimated, Estimated];
  readonly lab: Lab;
  /** Root mean square distance of its looks from their mean. */
  readonly scatter: number;
}

function platesOf(all: readonly Look[]): PlateFound[] {
  return [...new Set(all.map(({ plate }) => plate))].map((plate) => {
    const own = all.filter((look) => look.plate === plate);
    const part = (i: number) => meanOf(own.map(({ light }) => light[i] as number));
    const light = [part(0), part(1), part(2)] as const;
    const lab = labOf([light[0].value, light[1].value, light[2].value]);
    const squares = own.map((look) => labDistance(look.lab, lab) * labDistance(look.lab, lab));
    return {
      plate,
      name: COLOUR_NAMES[plate] as ColourName,
      count: own.length,
      light,
      lab,
      scatter: Math.sqrt(mean(squares)),
    };
  });
}

/** Which plate a look is nearest to, itself left out of its own plate's mean. */
function namedAs(look: Look, all: readonly Look[]): number {
  const others = platesOf(all.filter(({ index }) => index !== look.index));
  const nearest = [...others].sort((a, b) => labDistance(a.lab, look.lab) - labDistance(b.lab, look.lab))[0];
  return nearest?.plate ?? look.plate;
}

function nearestPair(plates: readonly PlateFound[]): { a: PlateFound; b: PlateFound; apart: number } | null {
  const pairs = plates.flatMap((a, i) => plates.slice(i + 1).map((b) => ({ a, b, apart: labDistance(a.lab, b.lab) })));
  return [...pairs].sort((one, other) => one.apart - other.apart)[0] ?? null;
}

function confusion(plates: readonly PlateFound[], all: readonly Look[]): string[][] {
  const named = all.map((look) => ({ plate: look.plate, as: namedAs(look, all) }));
  return [
    ["plate", ...plates.map(({ name }) => `read as ${name}`)],
    ...plates.map(({ plate, name }) => [
      name,
      ...plates.map((other) => String(named.filter((one) => one.plate === plate && one.as === other.plate).length)),
    ]),
  ];
}

export const tagColours: Procedure = {
  id: "tag-colours",
  title: "Tag colours",
  purpose: "Put each plate before the reader several times, at its real gap: how surely are they told apart?",
  place: "Hold a plate of the colour asked for in front of the reader. Hold it as near as on the field.",
  measure: "Nothing to measure when linked; else type red, green and blue as the robot shows them.",
  rowsWanted: 12,
  settings: [{ id: "plates", label: "Plates", shown: WHOLE, value: 4, least: 2, most: PLATES.length }],
  unfit: (robot) => (tagOf(robot) ? null : "This robot has no tag reader. Add one in the Robot workplace."),
  columns: () => columns,
  program: (robot, { plates = 4 }, row) => {
    const name = tagOf(robot)?.name ?? "tag";
    const plate = COLOUR_NAMES.indexOf(plateOfRow(row, plates));
    const sums = PARTS.map((part) => `  set sum_${part} = 0 %\n`).join("");
    const adds = PARTS.map((part) => `    set sum_${part} = sum_${part} + ${name}.${part} / ${LOOKS}\n`).join("");
    const notes = PARTS.map((part) => `  note ${part} = sum_${part}\n`).join("");
    return `${header(robot)}  note plate = ${plate}\n${sums}  wait 0.3 s\n  repeat ${LOOKS} times\n${adds}    wait 60 ms\n${notes}`;
  },
  stage: ({ plates = 4 }, row) => ({ floor: "plate", aheadM: 0, colour: plateHex(plateOfRow(row, plates)) }),
  next: ({ plates = 4 }, row) => `Next: the ${plateOfRow(row, plates)} plate.`,
  estimate(robot, rows): Estimate {
    const all = looks(rows);
    const tag = tagOf(robot);
    const plates = platesOf(all);
    if (!tag || plates.length < 2)
      return { ok: false, why: all.length === 0 ? FEW : "This needs plates of at least two colours." };
    const pair = nearestPair(plates) as NonNullable<ReturnType<typeof nearestPair>>;
    const scatter = Math.sqrt(mean(plates.map((plate) => plate.scatter * plate.scatter)));
    const right = all.filter((look) => namedAs(look, all) === look.plate).length;
    const apart = (value: number, error: number): Estimated =>
      estimated(value, error, all.length, all.length - plates.length);
    const margin = scatter === 0 ? null : pair.apart / 2 / scatter;
    return {
      ok: true,
      results: [
        {
          id: "apart",
          label: `${pair.a.name} and ${pair.b.name} lie apart`,
          shown: { ...PLAIN, digits: 1 },
          estimate: apart(pair.apart, scatter * Math.sqrt(1 / pair.a.count + 1 / pair.b.count)),
        },
        {
          id: "right",
          label: "Named right",
          shown: { ...PERCENT, digits: 0 },
          estimate: { value: right / all.length, standardError: null, low: null, high: null, count: all.length },
        },
      ],
      edits: plates.flatMap(({ name, light }) =>
        PARTS.map((part, i) => knownEdit(tag.name, `references.${name}.${part}`, light[i] as Estimated)),
      ),
      doubtful: all.flatMap((look) => {
        const as = namedAs(look, all);
        return as === look.plate
          ? []
          : [{ row: look.index, why: `It looks like ${COLOUR_NAMES[as]}. Was another plate before the reader?` }];
      }),
      interval: `${STUDENT}; distances in CIE Lab`,
      table: { title: "What each plate is taken for, itself left out", rows: confusion(plates, all) },
      verdict: {
        title: `${right} of ${all.length} looks are named right`,
        text: `Nearest to one another are ${pair.a.name} and ${pair.b.name}, ${pair.apart.toFixed(0)} apart in CIE Lab; looks at one plate scatter by ${scatter.toFixed(1)}${
          margin === null
            ? ""
            : `, so the border between them lies ${margin.toFixed(1)} standard deviations away, which is ${margin > 4 ? "wide" : margin > 2.5 ? "enough" : "narrow"}`
        }. In use, the reader names only these ${plates.length} colours.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const all = looks(rows);
    if (all.length === 0) return null;
    return {
      title: "Each look in CIE Lab",
      x: { label: "a, green to red", shown: WHOLE },
      y: { label: "b, blue to yellow", shown: WHOLE },
      series: platesOf(all).map(({ plate, name }, i) => ({
        label: name,
        role: i % 2 === 0 ? ("measured" as const) : ("after" as const),
        line: false,
        points: all.filter((look) => look.plate === plate).map(({ lab }): [number, number] => [lab[1], lab[2]]),
      })),
    };
  },
  present: (robot) => {
    const count = Object.keys(tagOf(robot)?.references ?? {}).length;
    return count === 0
      ? []
      : [
          {
            id: "plates",
            label: "Plates it knows",
            shown: WHOLE,
            estimate: { value: count, standardError: null, low: null, high: null, count },
          },
        ];
  },
};
