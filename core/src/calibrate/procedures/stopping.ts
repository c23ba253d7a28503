// How far it rolls on when it brakes.
import { driveKind } from "../../drives/kinds.js";
import { stopDistanceM } from "../../robot/found.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { stopping } from "../signals.js";
import { CM_S, MM, MS, plain, withError } from "../units.js";
import { header, knownEdit, needsEncoders, numberOf, of, presentKnown, STUDENT, usable } from "./common.js";

const BRAKING = { unit: "m/s/s", perSi: 1, digits: 2 };
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
    needsEncoders(robot) === null && driveKind(robot.drive).turnsOnSpot
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
    const { decelerationMS2: braking, leadSec: lead } = found;
    const at30 = stopDistanceM(0.3, lead.value, braking.value);
    const none = { standardError: null, low: null, high: null, count: stops.length };
    return {
      ok: true,
      results: [
        {
          id: "deceleration",
          label: "Brakes with",
          shown: BRAKING,
          estimate: braking,
        },
        { id: "lead", label: "After", shown: MS, estimate: lead },
        { id: "at30", label: "Rolls on from 30 cm/s", shown: MM, estimate: { ...none, value: at30 } },
      ],
      edits: [knownEdit("drive", "stopsWithMS2", braking), knownEdit("drive", "stopsAfterSec", lead)],
      doubtful: [],
      interval: `${STUDENT}, from the line`,
      verdict: {
        title: `From 30 cm/s it rolls on ${(at30 * 1000).toFixed(0)} mm`,
        text: `It slows down with ${withError(braking.value, braking.standardError, BRAKING)} after ${withError(lead.value, lead.standardError, MS)}: d = t · v + v² ÷ (2 · a). A step that ends on a sensor stops that much later than the sensor says. In use, robot.stop_distance in a mission is that way at the speed of the moment: until eye.distance < 20 cm + robot.stop_distance.`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const used = usable(rows, stopColumns);
    if (used.length === 0) return null;
    const points = used.map(({ row }): [number, number] => [numberOf(row, "speedMS"), numberOf(row, "distanceM")]);
    const found = stopping(points.map(([speedMS, distanceM]) => ({ speedMS, distanceM })));
    const fastest = Math.max(...points.map(([x]) => x));
    return {
      title: "Distance rolled on against the speed",
      x: { label: "speed", shown: CM_S },
      y: { label: "rolled on", shown: MM },
      series: [
        { label: "stops", role: "measured", points, line: false },
        ...(found
          ? [
              {
                label: "t v + v² / 2a",
                role: "fit" as const,
                line: true,
                points: Array.from({ length: 21 }, (_, k): [number, number] => {
                  const speed = (fastest * k) / 20;
                  return [speed, stopDistanceM(speed, found.leadSec.value, found.decelerationMS2.value)];
                }),
              },
            ]
          : []),
      ],
    };
  },
  present: (robot) => {
    const known = robot.drive.stopsWithMS2;
    return known
      ? [presentKnown("deceleration", "Brakes with", BRAKING, known.value, known.standardError ?? 0, known)]
      : [];
  },
};
