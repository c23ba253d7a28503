// How far an arm goes from stop to stop.
import { PI } from "../../math/trig.js";
import type { Robot } from "../../robot/schema.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { meanOf } from "../statistics.js";
import { DEG, RAD_PER_DEG, WHOLE, withError } from "../units.js";
import { doubtfulRows, FEW, header, knownEdit, numberOf, presentKnown, STUDENT, usable } from "./common.js";

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
  {
    id: "playRad",
    label: "play",
    shown: DEG,
    least: 0,
    most: 1,
    optional: true,
    hint: "between the marks when it is sent to one angle from below and from above",
  },
];

export const armTravel: Procedure = {
  id: "arm-travel",
  title: "Arm travel",
  purpose: "Touch both end stops gently: how far the arm goes, and how far it may safely be sent.",
  place: "Leave the arm room to move from stop to stop.",
  measure:
    "Nothing to measure with an encoder; else type the angle between both stops. At each beep it stands at half way, from above and from below: mark both, what lies between is its play.",
  rowsWanted: 4,
  settings: [],
  unfit: (robot) =>
    armOf(robot) ? null : "This robot has no arm, fork, gripper or lid moved by a motor with an encoder.",
  columns: () => armColumns,
  program: (robot) => {
    const name = armOf(robot)?.drivenBy ?? "arm";
    const home = `  home ${name} toward low\n`;
    const middle = `  move ${name} to middle\n  beep\n  wait 2 s\n`;
    return [
      header(robot),
      home,
      `  wait 0.3 s\n  set low_angle = ${name}.angle\n  note low_stop = low_angle\n`,
      `  move ${name} at 60 deg/s until ${name}.stalled limit 8 s\n`,
      `  set high_angle = ${name}.angle\n  note high_stop = high_angle\n  set middle = (low_angle + high_angle) / 2\n`,
      middle,
      home,
      middle,
      home,
    ].join("");
  },
  estimate(robot, rows): Estimate {
    const used = usable(rows, armColumns).map(({ row, index }) => ({ index, range: numberOf(row, "rangeRad") }));
    const arm = armOf(robot);
    if (used.length === 0 || !arm) return { ok: false, why: FEW };
    const range = meanOf(used.map((run) => run.range));
    const drawn = arm.highRad - arm.lowRad;
    const played = used.flatMap(({ index }) => rows[index]?.values.playRad ?? []);
    const play = played.length === 0 ? null : meanOf(played);
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
        ...(play ? [{ id: "play", label: "Play", shown: DEG, estimate: play }] : []),
      ],
      edits: [knownEdit(arm.name, "travelRad", range), ...(play ? [knownEdit(arm.name, "playRad", play)] : [])],
      doubtful: doubtfulRows(
        used,
        used.map((run) => run.range),
        2 * RAD_PER_DEG,
      ),
      interval: STUDENT,
      verdict: {
        title: `The arm travels ${withError(range.value, range.standardError, DEG)}`,
        text: `Send it to 3 deg from either stop at most: ${(safe / RAD_PER_DEG).toFixed(0)} deg in all. The drawing says ${(drawn / RAD_PER_DEG).toFixed(0)} deg${
          Math.abs(drawn - range.value) > 3 * RAD_PER_DEG ? "; in use, the found one counts" : ""
        }.${play ? ` Sent from above it stops ${withError(play.value, play.standardError, DEG)} from where it stops from below: come to an angle from one side always.` : ""}`,
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
  present: (robot) => {
    const known = armOf(robot)?.travelRad;
    return known ? [presentKnown("range", "From stop to stop", DEG, known.value, known.standardError ?? 0, known)] : [];
  },
};
