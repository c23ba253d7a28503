import type { SensorOf } from "../../sensors/kinds/all.js";
import { eyeOffset } from "../../sensors/kinds/eye.js";
import type { Chart, Column, Estimate, Procedure } from "../procedure.js";
import { eyeDistance } from "../signals.js";
import type { Estimated } from "../statistics.js";
import { intervalWords, MM, plain, withError } from "../units.js";
import {
  doubtfulRows,
  eyeOf,
  FEW,
  header,
  knownEdit,
  middleReading,
  numberOf,
  presentKnown,
  STUDENT,
  towards,
  usable,
} from "./common.js";

type Eye = SensorOf<"eye">;

const BOARD_AT = [0.1, 0.2, 0.4, 0.7];

const eyeColumns: readonly Column[] = [
  { id: "trueM", label: "true", shown: MM, least: 0.005, hint: "from the distance sensor's face to the board" },
  { id: "readM", label: "read", shown: MM, least: 0, hint: "the middle of a second's readings" },
];

export const eyeDistanceTest: Procedure = {
  id: "eye-distance",
  title: "Distance sensor",
  purpose: "Hold a board at four or more distances and compare what the distance sensor reads with the tape.",
  place: "Stand a board square to the distance sensor's view, at 10, 20, 40 and 70 cm from its face.",
  measure: "Read the distance from the distance sensor's face to the board.",
  rowsWanted: 8,
  settings: [],
  unfit: (robot) => (eyeOf(robot) ? null : "This robot has no distance sensor."),
  columns: (robot) =>
    eyeColumns.map(
      (column): Column =>
        column.id === "trueM"
          ? {
              ...column,
              from: ({ tape }, row) =>
                tape === null ? null : (BOARD_AT[row % BOARD_AT.length] as number) - towards(robot, tape),
            }
          : { ...column, from: (measured) => middleReading(robot, measured) },
    ),
  program: (robot) => `${header(robot)}  wait 1.5 s\n`,
  stage: (_settings, row) => ({ floor: "board", aheadM: BOARD_AT[row % BOARD_AT.length] as number }),
  next: (_settings, row) => `Next: ${plain((BOARD_AT[row % BOARD_AT.length] as number) * 100)} cm.`,
  estimate(robot, rows): Estimate {
    const used = usable(rows, eyeColumns).map(({ row, index }) => ({
      index,
      trueM: numberOf(row, "trueM"),
      readM: numberOf(row, "readM"),
    }));
    if (used.length === 0) return { ok: false, why: FEW };
    const eye = eyeOf(robot) as Eye;
    const found = eyeDistance(used);
    const now = eyeOffset(eye).value;
    // Readings have the present offset taken off already; what is left comes on top.
    const { offsetM: left } = found;
    const offset: Estimated = {
      ...left,
      value: left.value + now,
      low: left.low === null ? null : left.low + now,
      high: left.high === null ? null : left.high + now,
    };
    return {
      ok: true,
      results: [{ id: "offset", label: "Reads too far by", shown: MM, estimate: offset }],
      edits: [knownEdit(eye.name, "offsetM", offset)],
      doubtful: doubtfulRows(
        used,
        used.map(({ trueM, readM }) => readM - trueM),
        0.01,
      ),
      interval: STUDENT,
      verdict: {
        title: `The distance sensor reads ${withError(Math.abs(offset.value), offset.standardError, MM)} too ${offset.value >= 0 ? "far" : "near"}`,
        text: `${used.length} readings put it ${intervalWords(offset, MM, 1)}; they scatter by ${(found.scatterM * 1000).toFixed(1)} mm.${
          found.line && used.length > 3 ? ` For each 10 cm it reads ${(found.scale * 100).toFixed(1)} mm.` : ""
        }`,
      },
    };
  },
  chart(_robot, rows): Chart | null {
    const points = usable(rows, eyeColumns).map(({ row }): [number, number] => [
      numberOf(row, "trueM"),
      numberOf(row, "readM") - numberOf(row, "trueM"),
    ]);
    return points.length === 0
      ? null
      : {
          title: "How much too far the distance sensor read",
          x: { label: "true distance", shown: { ...MM, digits: 0 } },
          y: { label: "too far", shown: MM },
          series: [{ label: "readings", role: "measured", points, line: false }],
        };
  },
  present: (robot) => {
    const eye = eyeOf(robot);
    if (!eye) return [];
    const { value, standardError } = eyeOffset(eye);
    return [presentKnown("offset", "Reads too far by", MM, value, standardError, eye.offsetM)];
  },
};
