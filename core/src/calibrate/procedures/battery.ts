// What a tired pack does to speed and straightness.
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { deviation, fitLine } from "../statistics.js";
import { CM_S, M, MM, SEC, VOLT } from "../units.js";
import { FEW, header, numberOf, presentKnown, usable } from "./common.js";

const PER_VOLT = { unit: "cm/s/V", perSi: 100, digits: 1 };

const batteryColumns: readonly Column[] = [
  { id: "volts", label: "pack", shown: VOLT, least: 0.5, from: (m) => m.notes.get("volts") ?? m.packVolts },
  { id: "alongM", label: "along", shown: M, least: 0.01, from: ({ tape }) => tape?.alongM ?? null },
  { id: "asideM", label: "aside", shown: MM, from: ({ tape }) => tape?.asideM ?? null },
  { id: "timeSec", label: "took", shown: SEC, least: 0.1, from: ({ notes }) => notes.get("took") ?? null },
];

export const batteryTest: Procedure = {
  id: "battery",
  title: "Battery",
  purpose: "Drive the same check at two charges of the pack: what a tired pack does to speed and straightness.",
  place: "Put the robot at the end of a tape. Drive some runs with a full pack, then some with a tired one.",
  measure: "Read where it ends along the tape and to its side.",
  rowsWanted: 6,
  settings: [],
  unfit: () => null,
  columns: () => batteryColumns,
  program: (robot) =>
    `${header(robot)}  wait 0.5 s\n  set began = clock\n  power both 70 % for 2 s\n  note volts = battery.voltage\n  note took = clock - began\n  wait 0.8 s\n`,
  estimate(_robot, rows): Estimate {
    const used = usable(rows, batteryColumns);
    const volts = used.map(({ row }) => numberOf(row, "volts"));
    if (used.length < 3 || deviation(volts) < 0.05)
      return { ok: false, why: "This needs runs at two charges at least: change the pack, and run it again." };
    const speed = fitLine(
      used.map(({ row }) => [numberOf(row, "volts"), numberOf(row, "alongM") / numberOf(row, "timeSec")]),
    );
    const aside = fitLine(used.map(({ row }) => [numberOf(row, "volts"), numberOf(row, "asideM")]));
    if (!speed || !aside) return { ok: false, why: FEW };
    const estimate = (value: number, error: number) => ({
      value,
      standardError: error,
      low: null,
      high: null,
      count: used.length,
    });
    return {
      ok: true,
      results: [
        {
          id: "speed",
          label: "Speed for one volt more",
          shown: PER_VOLT,
          estimate: estimate(speed.slope, speed.slopeError),
        },
        {
          id: "aside",
          label: "Aside for one volt more",
          shown: { unit: "mm/V", perSi: 1000, digits: 1 },
          estimate: estimate(aside.slope, aside.slopeError),
        },
      ],
      edits: [
        { ref: "drive", path: "speedMSPerVolt", value: speed.slope, standardError: speed.slopeError },
        { ref: "drive", path: "asideMPerVolt", value: aside.slope, standardError: aside.slopeError },
      ],
      doubtful: [],
      interval: "standard error of the line",
      verdict: {
        title: `One volt less makes it ${Math.abs(speed.slope * 100).toFixed(1)} cm/s slower at 70 % power`,
        text: `Its end moves ${Math.abs(aside.slope * 1000).toFixed(0)} mm to the ${aside.slope < 0 ? "left" : "right"} for each volt less. Steps that measure their way keep their length; steps by time and power do not.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, batteryColumns);
    if (used.length === 0) return null;
    return {
      title: "Speed against the pack's voltage",
      x: { label: "pack", shown: VOLT },
      y: { label: "speed", shown: CM_S },
      series: [
        {
          label: "runs",
          role: "measured",
          line: false,
          points: used.map(({ row }) => [numberOf(row, "volts"), numberOf(row, "alongM") / numberOf(row, "timeSec")]),
        },
      ],
    };
  },
  present: (robot) => {
    const known = robot.drive.speedMSPerVolt;
    return known
      ? [presentKnown("speed", "Speed for one volt more", PER_VOLT, known.value, known.standardError ?? 0, known)]
      : [];
  },
};
