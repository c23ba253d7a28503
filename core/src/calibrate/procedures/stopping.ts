// How far it rolls on when it brakes.
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { stopping } from "../rest.js";
import { fitLine } from "../statistics.js";
import { CM_S, MM, plain } from "../units.js";
import { header, needsEncoders, numberOf, of, usable } from "./common.js";

const STOP_SPEEDS = [0.15, 0.25, 0.35];

const stopColumns: readonly Column[] = [
  { id: "speedMS", label: "speed", shown: CM_S, least: 0.01, from: ({ notes }) => notes.get("speed") ?? null },
  {
    id: "distanceM",
    label: "rolled on",
    shown: MM,
    least: 0,
    from: ({ notes }) => {
      const [from, to] = [notes.get("travel_before"), notes.get("travel_after")];
      return from === undefined || to === undefined ? null : Math.max(0, to - from);
    },
  },
];

export const stoppingTest: Procedure = {
  id: "stopping",
  title: "Stopping",
  purpose: "Brake from several speeds and measure how far it rolls on.",
  place: "Give it two metres of free floor ahead.",
  measure: "With encoders nothing; without, mark where it was told to stop, and measure from there.",
  rowsWanted: 6,
  settings: [],
  unfit: () => null,
  columns: () => stopColumns,
  program: (robot, _settings, row) =>
    needsEncoders(robot) === null && robot.drive.kind !== "car"
      ? `${header(robot)}  wait 0.3 s\n  wheels left ${plain(of(STOP_SPEEDS, row) * 100)} cm/s right ${plain(of(STOP_SPEEDS, row) * 100)} cm/s for 1.5 s then keep\n  set before = robot.travel\n  wait 0.1 s\n  note speed = (robot.travel - before) / 0.1 s\n  note travel_before = robot.travel\n  stop\n  wait 0.8 s\n  note travel_after = robot.travel\n`
      : null,
  estimate(_robot, rows): Estimate {
    const stops = usable(rows, stopColumns).map(({ row }) => ({
      speedMS: numberOf(row, "speedMS"),
      distanceM: numberOf(row, "distanceM"),
    }));
    const found = stopping(stops);
    if (!found)
      return { ok: false, why: "A line needs stops from at least two speeds, of which the faster rolled further." };
    const at = (speed: number) => found.line.intercept + found.line.slope * speed * speed;
    const none = { standardError: null, low: null, high: null, count: stops.length };
    return {
      ok: true,
      results: [
        {
          id: "deceleration",
          label: "Brakes with",
          shown: { unit: "m/s2", perSi: 1, digits: 2 },
          estimate: { ...none, value: found.decelerationMS2 },
        },
        { id: "at30", label: "Rolls on from 30 cm/s", shown: MM, estimate: { ...none, value: Math.max(0, at(0.3)) } },
      ],
      edits: [],
      doubtful: [],
      interval: "standard error of the line",
      verdict: {
        title: `From 30 cm/s it rolls on ${(Math.max(0, at(0.3)) * 1000).toFixed(0)} mm`,
        text: `Distance grows with the square of the speed, ${(found.line.rSquared * 100).toFixed(0)} % of the scatter explained. A step that ends on a sensor stops that much later than the sensor says.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, stopColumns);
    if (used.length === 0) return null;
    const points = used.map(({ row }): [number, number] => [
      numberOf(row, "speedMS") * numberOf(row, "speedMS"),
      numberOf(row, "distanceM"),
    ]);
    const line = fitLine(points);
    return {
      title: "Distance rolled on against the square of the speed",
      x: { label: "speed squared", shown: { unit: "m2/s2", perSi: 1, digits: 2 } },
      y: { label: "rolled on", shown: MM },
      series: [
        { label: "stops", role: "measured", points, line: false },
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
  present: () => [],
};
