// How far an arm goes from stop to stop.
import { PI } from "../../math/trig.js";
import type { Robot } from "../../robot/schema.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { meanOf } from "../statistics.js";
import { DEG, RAD_PER_DEG, WHOLE, withError } from "../units.js";
import { doubtfulRows, FEW, header, numberOf, STUDENT, usable } from "./common.js";

/** Attachment with end stops and a motor that has an encoder. */
function armOf(robot: Robot) {
  return (
    robot.attachments.find(
      ({ kind, drivenBy }) =>
        (kind === "arm" || kind === "fork" || kind === "gripper" || kind === "lid") &&
        robot.motors.some((m) => m.name === drivenBy && m.encoder),
    ) ?? null
  );
}

const armColumns: readonly Column[] = [
  {
    id: "rangeRad",
    label: "stop to stop",
    shown: DEG,
    least: 0.02,
    most: 2 * PI,
    from: ({ notes }) => {
      const [low, high] = [notes.get("low_stop"), notes.get("high_stop")];
      return low === undefined || high === undefined ? null : Math.abs(high - low);
    },
  },
];

export const armTravel: Procedure = {
  id: "arm-travel",
  title: "Arm travel",
  purpose: "Touch both end stops gently: how far the arm goes, and how far it may safely be sent.",
  place: "Leave the arm room to move from stop to stop.",
  measure: "Nothing to measure with an encoder; else type the angle between both stops.",
  rowsWanted: 4,
  settings: [],
  unfit: (robot) =>
    armOf(robot) ? null : "This robot has no arm, fork, gripper or lid moved by a motor with an encoder.",
  columns: () => armColumns,
  program: (robot) => {
    const name = armOf(robot)?.drivenBy ?? "arm";
    return `${header(robot)}  home ${name} toward low\n  wait 0.3 s\n  note low_stop = ${name}.angle\n  move ${name} at 60 deg/s until ${name}.stalled limit 8 s\n  note high_stop = ${name}.angle\n  home ${name} toward low\n`;
  },
  estimate(robot, rows): Estimate {
    const used = usable(rows, armColumns).map(({ row, index }) => ({ index, range: numberOf(row, "rangeRad") }));
    const arm = armOf(robot);
    if (used.length === 0 || !arm) return { ok: false, why: FEW };
    const range = meanOf(used.map((run) => run.range));
    const drawn = arm.highRad - arm.lowRad;
    const safe = Math.max(0, range.value - 6 * RAD_PER_DEG);
    return {
      ok: true,
      results: [
        { id: "range", label: "From stop to stop", shown: DEG, estimate: range },
        {
          id: "safe",
          label: "Safe without touching",
          shown: DEG,
          estimate: { value: safe, standardError: null, low: null, high: null, count: used.length },
        },
      ],
      edits: [],
      doubtful: doubtfulRows(
        used,
        used.map((run) => run.range),
        2 * RAD_PER_DEG,
      ),
      interval: STUDENT,
      verdict: {
        title: `The arm travels ${withError(range.value, range.standardError, DEG)}`,
        text: `Send it to 3 deg from either stop at most: ${(safe / RAD_PER_DEG).toFixed(0)} deg in all. The drawing says ${(drawn / RAD_PER_DEG).toFixed(0)} deg${
          Math.abs(drawn - range.value) > 3 * RAD_PER_DEG ? "; change its end stops in the Robot workplace" : ""
        }.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, armColumns);
    return used.length === 0
      ? null
      : {
          title: "From stop to stop, run by run",
          x: { label: "run", shown: WHOLE },
          y: { label: "travel", shown: DEG },
          series: [
            {
              label: "runs",
              role: "measured",
              line: false,
              points: used.map(({ row, index }) => [index + 1, numberOf(row, "rangeRad")]),
            },
          ],
        };
  },
  present: () => [],
};
