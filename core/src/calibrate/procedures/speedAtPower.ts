// Speed at power: what a robot without encoders drives lengths by.
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { speedAtPower } from "../signals.js";
import { fitLine } from "../statistics.js";
import { M, MS, plain, SEC, SPEED_PER_VOLT, VOLT, withError } from "../units.js";
import { hasEncoders, header, knownEdit, numberOf, of, presentKnown, STUDENT, usable } from "./common.js";

const POWERS = [0.6, 0.6, 0.9, 0.9];
const TIMES = [1.2, 2.4, 1, 2];

const speedColumns: readonly Column[] = [
  { id: "timeSec", label: "time", shown: SEC, least: 0.05, from: (_m, row) => of(TIMES, row) },
  {
    id: "volts",
    label: "volts given",
    shown: VOLT,
    least: 0.2,
    hint: "pack voltage before it drives, times the power",
    from: (m, row) => {
      const pack = m.notes.get("volts") ?? m.packVolts;
      return pack === null || pack === undefined ? null : pack * of(POWERS, row);
    },
  },
  { id: "alongM", label: "along", shown: M, least: 0.01, from: ({ tape }) => tape?.alongM ?? null },
];

function speedDrives(rows: Parameters<Procedure["estimate"]>[1]) {
  return usable(rows, speedColumns).map(({ row }) => {
    return { volts: numberOf(row, "volts"), timeSec: numberOf(row, "timeSec"), distanceM: numberOf(row, "alongM") };
  });
}

export const speedAtPowerTest: Procedure = {
  id: "speed-at-power",
  title: "Speed at power",
  purpose: "Drive for a time at two or three powers along a tape: what a robot without encoders drives lengths by.",
  place: "Put the robot at the end of a tape, its axle on zero, along the tape.",
  measure: "Read where the axle stands along the tape.",
  rowsWanted: 8,
  settings: [],
  unfit: (robot) =>
    hasEncoders(robot) ? "This robot measures its way with encoders; it does not drive by time." : null,
  columns: () => speedColumns,
  program: (robot, _settings, row) => {
    const power = plain(of(POWERS, row) * 100, 0);
    const time = of(TIMES, row);
    return `${header(robot)}  wait 0.5 s\n  note volts = battery.voltage\n  power both ${power} % for ${plain(time)} s\n  wait 0.8 s\n`;
  },
  estimate(_robot, rows): Estimate {
    const drives = speedDrives(rows);
    const found = drives.length < 3 ? null : speedAtPower(drives);
    if (!found)
      return {
        ok: false,
        why: "Speed and dead time need at least three drives of different times. Run it, or type what you measured.",
      };
    const { speedPerVolt: speed, deadTimeSec: dead, deadVolts: still, residualM } = found;
    return {
      ok: true,
      results: [
        { id: "speed", label: "Speed for one volt", shown: SPEED_PER_VOLT, estimate: speed },
        { id: "dead", label: "Time before it moves", shown: MS, estimate: dead },
        ...(still ? [{ id: "still", label: "Volts before it moves", shown: VOLT, estimate: still }] : []),
      ],
      edits: [
        knownEdit("drive", "speedAtPower.speedPerVolt", speed),
        knownEdit("drive", "speedAtPower.deadTimeSec", dead),
        ...(still ? [knownEdit("drive", "speedAtPower.deadVolts", { ...still, value: Math.max(0, still.value) })] : []),
      ],
      doubtful: [],
      interval: `${STUDENT}, from the fit`,
      verdict: {
        title: `It drives ${withError(speed.value, speed.standardError, { ...SPEED_PER_VOLT, unit: "mm/s" })} for each volt`,
        text: `${
          still ? `The first ${withError(still.value, still.standardError, VOLT)} only overcome friction. ` : ""
        }${
          dead.value >= 0
            ? `After ${withError(dead.value, dead.standardError, MS)} it drives as if at once at that speed`
            : `It rolls on for ${withError(-dead.value, dead.standardError, MS)} longer than it takes to start`
        }. Drives scatter by ${(residualM * 1000).toFixed(0)} mm about this.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const drives = speedDrives(rows);
    if (drives.length === 0) return null;
    const points = drives.map(({ timeSec, volts, distanceM }): [number, number] => [timeSec, distanceM / volts]);
    const line = fitLine(points);
    return {
      title: "Distance for each volt against time",
      x: { label: "time", shown: SEC },
      y: { label: "distance for one volt", shown: { unit: "mm/V", perSi: 1000, digits: 0 } },
      series: [
        { label: "drives", role: "measured", points, line: false },
        ...(line
          ? [
              {
                label: "line",
                role: "fit" as const,
                line: true,
                points: [0, Math.max(...points.map(([x]) => x))].map((x): [number, number] => [
                  x,
                  line.intercept + line.slope * x,
                ]),
              },
            ]
          : []),
      ],
    };
  },
  present: (robot) => {
    const known = robot.drive.speedAtPower;
    return known
      ? [
          presentKnown(
            "speed",
            "Speed for one volt",
            SPEED_PER_VOLT,
            known.speedPerVolt.value,
            known.speedPerVolt.standardError ?? 0,
            known.speedPerVolt,
          ),
        ]
      : [];
  },
};
