// How exactly the robot is put on its begin place: put it down, measure, again and again.
import { robotInForce } from "../../robot/inForce.js";
import { PLACED_BY, PLACED_WORDS, type PlacedBy, placedBy, placingMethod } from "../../robot/placing.js";
import type { Column, Estimate, Procedure, Settings } from "../procedure.js";
import { deviation } from "../statistics.js";
import { DEG, MM, RAD_PER_DEG, WHOLE } from "../units.js";
import { FEW, header, numberOf, presentKnown, usable } from "./common.js";

/** What the tape itself scatters by, m and rad. */
const TAPE = { positionM: 0.001, headingRad: 0.5 * RAD_PER_DEG } as const;

const columns: readonly Column[] = [
  { id: "alongM", label: "along", shown: MM, hint: "off its place", from: ({ tape }) => tape?.alongM ?? null },
  { id: "asideM", label: "aside", shown: MM, hint: "to the left +", from: ({ tape }) => tape?.asideM ?? null },
  {
    id: "headingRad",
    label: "heading",
    shown: DEG,
    hint: "to the left +",
    from: ({ tape }) => tape?.headingRad ?? null,
  },
];

const wayOf = ({ how = 0 }: Settings): PlacedBy => PLACED_BY[how] ?? "eye";

/**
 * A scatter without the tape's own.
 * @returns what is left, but no less than n rows by this tape can tell from nothing: the variance of n rows is known
 * to √(2/(n−1)) of itself
 */
function without(total: number, own: number, n: number): number {
  const least = own * Math.sqrt(Math.sqrt(2 / (n - 1)));
  return Math.max(least, Math.sqrt(Math.max(0, total * total - own * own)));
}

export const placement: Procedure = {
  id: "placement",
  title: "Start placement",
  purpose: "Put the robot on its start place as you always do. Measure how far off it is. Do it again.",
  place: "Put it down the way you do at the table: by eye, in a jig, or against a wall.",
  measure: "Read how far off its place it stands, and by how much it looks aside.",
  rowsWanted: 8,
  settings: [
    {
      id: "how",
      label: "Put down",
      shown: WHOLE,
      value: 0,
      least: 0,
      most: PLACED_BY.length - 1,
      choices: PLACED_BY.map((by) => PLACED_WORDS[by]),
    },
  ],
  placing: wayOf,
  unfit: () => null,
  columns: () => columns,
  program: (robot) => `${header(robot)}  wait 0.1 s\n`,
  estimate(_robot, rows, settings): Estimate {
    const used = usable(rows, columns).map(({ row }) => row);
    if (used.length < 3) return { ok: false, why: used.length === 0 ? FEW : "Scatter needs at least three rows." };
    const of = (id: string) => deviation(used.map((row) => numberOf(row, id)));
    const [x, y] = [of("alongM"), of("asideM")];
    const n = used.length;
    const position = without(Math.sqrt((x * x + y * y) / 2), TAPE.positionM, n);
    const heading = without(of("headingRad"), TAPE.headingRad, n);
    const by = wayOf(settings);
    // Standard error of a standard deviation of normal scatter: s / sqrt(2(n − 1)).
    const error = (s: number) => s / Math.sqrt(2 * (n - 1));
    const result = (id: string, label: string, value: number, shown: typeof MM) => ({
      id,
      label,
      shown,
      estimate: { value, standardError: error(value), low: null, high: null, count: n },
    });
    return {
      ok: true,
      results: [
        result("position", "Off its place by", position, MM),
        result("heading", "Looks aside by", heading, DEG),
      ],
      edits: [
        { ref: "placement", path: "positionM", value: 0, standardError: position },
        { ref: "placement", path: "headingRad", value: 0, standardError: heading },
      ],
      doubtful: [],
      method: placingMethod(by),
      interval: "standard error of a standard deviation",
      verdict: {
        title: `Put down ${PLACED_WORDS[by]} it stands ${(position * 1000).toFixed(1)} mm off and ${(heading / RAD_PER_DEG).toFixed(1)} deg aside, two times in three`,
        text: `That heading alone moves the robot ${(heading * 2000).toFixed(0)} mm aside after 2 m.${by === "eye" ? " A jig or a wall to push against makes it smaller." : ""} The tape's own scatter, 1 mm and 0.5 deg, is taken off. ${n} rows cannot tell less than ${(without(0, TAPE.positionM, n) * 1000).toFixed(1)} mm and ${(without(0, TAPE.headingRad, n) / RAD_PER_DEG).toFixed(1)} deg.`,
      },
    };
  },
  chart(_robot, rows) {
    const used = usable(rows, columns);
    return used.length === 0
      ? null
      : {
          title: "Where it stood when it was put down",
          x: { label: "along", shown: MM },
          y: { label: "aside", shown: MM },
          series: [
            {
              label: "placings",
              role: "measured",
              line: false,
              points: used.map(({ row }) => [numberOf(row, "alongM"), numberOf(row, "asideM")]),
            },
          ],
        };
  },
  present: (robot) => {
    const { placementRad } = robotInForce(robot);
    const { headingRad } = robot.placement;
    return [
      presentKnown("heading", `Looks aside by, ${PLACED_WORDS[placedBy(robot)]}`, DEG, placementRad, 0, headingRad),
    ];
  },
};
