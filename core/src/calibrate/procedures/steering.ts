// A car type's steering: its centre and its circle.

import { driveKind, steeringOf } from "../../drives/kinds.js";
import { atan, tan } from "../../math/trig.js";
import { robotInForce } from "../../robot/inForce.js";
import type { Robot } from "../../robot/schema.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { type Estimated, fitLine, lineAt } from "../statistics.js";
import { DEG, M, MM, plain, RAD_PER_DEG, withError } from "../units.js";
import { doubtfulRows, header, knownEdit, numberOf, presentKnown, STUDENT, usable } from "./common.js";

const STEER_SHARES = [-1, -0.5, 0, 0.5, 1];

const steeringColumns: readonly Column[] = [
  { id: "steerRad", label: "steered", shown: DEG, hint: "as told, to the left +" },
  { id: "alongM", label: "along", shown: MM, from: ({ tape }) => tape?.alongM ?? null },
  { id: "asideM", label: "aside", shown: MM, hint: "to the left +", from: ({ tape }) => tape?.asideM ?? null },
];

function mostSteer(robot: Robot): number {
  return steeringOf(robot.drive)?.mostRad ?? 0;
}

export const steeringTest: Procedure = {
  id: "steering",
  title: "Steering",
  purpose: "Drive arcs full left, half, straight, half and full right, and measure where they end: centre and circle.",
  place: "Put the robot on its mark, looking along the tape; leave a metre on both sides.",
  measure: "Read where the rear axle's middle ends, along its first direction and to the left.",
  rowsWanted: 10,
  settings: [],
  unfit: (robot) =>
    !driveKind(robot.drive).steers
      ? "Only a car type steers with an axle."
      : steeringOf(robot.drive)?.locked
        ? "The lock pin holds the axle. Take it out first."
        : null,
  columns: (robot) =>
    steeringColumns.map(
      (column): Column =>
        column.id === "steerRad"
          ? { ...column, from: (_m, row) => mostSteer(robot) * (STEER_SHARES[row % 5] as number) }
          : column,
    ),
  program: (robot, _settings, row) => {
    const angle = mostSteer(robot) * (STEER_SHARES[row % 5] as number);
    return `${header(robot)}  steer ${angle >= 0 ? "left" : "right"} ${plain(Math.abs(angle) / RAD_PER_DEG, 2)} deg\n  wait 0.8 s\n  power both 40 % until robot.travel > 60 cm limit 8 s\n  wait 0.6 s\n`;
  },
  estimate(robot, rows): Estimate {
    const base = robotInForce(robot).steering?.wheelbaseM.value ?? 0;
    const used = usable(rows, steeringColumns).map(({ row, index }) => {
      const [along, aside] = [numberOf(row, "alongM"), numberOf(row, "asideM")];
      // tan δ = wheelbase · curvature, with the arc's curvature from where it ended.
      const did = atan((base * 2 * aside) / (along * along + aside * aside));
      return { index, told: numberOf(row, "steerRad"), did };
    });
    const line = fitLine(used.map(({ told, did }) => [told, did]));
    if (!line || used.length < 3)
      return {
        ok: false,
        why: "Centre and circle need at least three arcs of different steering. Run it, or type rows.",
      };
    // Where the line crosses straight.
    const centre: Estimated = lineAt(
      line,
      used.map(({ told }) => told),
      0,
    );
    const most = line.slope * mostSteer(robot);
    const radius = base / tan(most);
    return {
      ok: true,
      results: [
        { id: "centre", label: "Told straight, it steers", shown: DEG, estimate: centre },
        {
          id: "circle",
          label: "Smallest circle, diameter",
          shown: M,
          estimate: { value: 2 * radius, standardError: null, low: null, high: null, count: used.length },
        },
      ],
      edits: [knownEdit("drive", "steering.centreRad", centre)],
      doubtful: doubtfulRows(
        used,
        used.map(({ told, did }) => did - told * line.slope),
        0.02,
      ),
      interval: STUDENT,
      verdict: {
        title: `Told to go straight it steers ${withError(Math.abs(centre.value), centre.standardError, DEG)} to the ${centre.value >= 0 ? "left" : "right"}`,
        text: `Its wheels take ${(line.slope * 100).toFixed(0)} % of the angle they are told; the smallest circle is ${(2 * radius * 100).toFixed(0)} cm across. R = wheelbase / tan of the angle, with a wheelbase of ${(base * 1000).toFixed(0)} mm.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const points = usable(rows, steeringColumns).map(({ row }): [number, number] => [
      numberOf(row, "alongM"),
      numberOf(row, "asideM"),
    ]);
    return points.length === 0
      ? null
      : {
          title: "Where each arc ended",
          x: { label: "along", shown: { ...MM, digits: 0 } },
          y: { label: "aside", shown: { ...MM, digits: 0 } },
          series: [{ label: "arcs", role: "measured", points, line: false }],
        };
  },
  present: (robot) => {
    const steering = robotInForce(robot).steering;
    return steering && "steering" in robot.drive
      ? [
          presentKnown(
            "centre",
            "Told straight, it steers",
            DEG,
            steering.centreRad.value,
            steering.centreRad.standardError,
            robot.drive.steering.centreRad,
          ),
        ]
      : [];
  },
};
