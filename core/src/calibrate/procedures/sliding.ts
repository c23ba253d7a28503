// How far a drive with rollers really slides for what its wheels say.
import { driveKind } from "../../drives/kinds.js";
import { robotInForce } from "../../robot/inForce.js";
import type { Robot } from "../../robot/schema.js";
import type { Chart, Column, Estimate, Procedure, TableRow } from "../procedure.js";
import { meanOf } from "../statistics.js";
import { intervalWords, MM, PERCENT, plain } from "../units.js";
import {
  doubtfulRows,
  FEW,
  header,
  knownEdit,
  needsEncoders,
  numberOf,
  presentKnown,
  STUDENT,
  usable,
} from "./common.js";

/** Ways said apart by less than this are alike, as a share. */
const ALIKE = 0.004;

function shareOf(robot: Robot): number {
  return robotInForce(robot).slideShare?.value ?? 1;
}

function slideColumns(robot: Robot): readonly Column[] {
  return [
    {
      id: "saidM",
      label: "by the wheels",
      shown: MM,
      hint: "to the left +",
      // What the drawing makes of the wheels' turns, whatever was in use.
      from: ({ notes }) => {
        const aside = notes.get("aside");
        return aside === undefined ? null : aside / shareOf(robot);
      },
    },
    { id: "asideM", label: "by the tape", shown: MM, hint: "to the left +", from: ({ tape }) => tape?.asideM ?? null },
  ];
}

function slides(robot: Robot, rows: readonly TableRow[]): { index: number; saidM: number; asideM: number }[] {
  return usable(rows, slideColumns(robot)).flatMap(({ row, index }) => {
    const [saidM, asideM] = [numberOf(row, "saidM"), numberOf(row, "asideM")];
    return Math.abs(saidM) > 0.05 ? [{ index, saidM, asideM }] : [];
  });
}

export const slidingTest: Procedure = {
  id: "sliding",
  title: "Sliding",
  purpose: "Slide left and right by turns, and measure how far it went: what rollers lose on the way is then made up.",
  place: "Put the robot in a jig, and leave two metres free on both sides.",
  measure: "Read how far its middle went to its side, to the left positive.",
  rowsWanted: 6,
  settings: [
    { id: "lengthM", label: "Slide", shown: { unit: "m", perSi: 1, digits: 2 }, value: 1.5, least: 0.2, most: 1.6 },
  ],
  unfit: (robot) => (driveKind(robot.drive).slides ? needsEncoders(robot) : "Only a drive with roller wheels slides."),
  columns: slideColumns,
  program: (robot, { lengthM = 1.5 }, row) =>
    `${header(robot)}  wait 0.5 s\n  slide ${row % 2 === 0 ? "left" : "right"} ${plain(lengthM)} m at 20 cm/s\n  wait 0.6 s\n  note aside = robot.aside\n`,
  estimate(robot, rows): Estimate {
    const used = slides(robot, rows);
    if (used.length === 0) return { ok: false, why: FEW };
    const shares = used.map(({ saidM, asideM }) => asideM / saidM);
    if (shares.some((share) => share <= 0))
      return {
        ok: false,
        why: "The tape and the wheels disagree about the side. To the left is positive: look at the signs.",
      };
    const share = meanOf(shares);
    const lost = (1 - share.value) * 100;
    return {
      ok: true,
      results: [{ id: "slide", label: "Slides, of what the wheels say", shown: PERCENT, estimate: share }],
      edits: [knownEdit("drive", "slideShare", share)],
      doubtful: doubtfulRows(used, shares, ALIKE),
      interval: STUDENT,
      verdict: {
        title: `Of a metre its wheels say, it slides ${(share.value * 1000).toFixed(0)} mm`,
        text: `${
          Math.abs(lost) < 0.05
            ? "Its rollers lose nothing that can be measured."
            : `Its rollers ${lost > 0 ? "lose" : "gain"} ${Math.abs(lost).toFixed(1)} % of the way.`
        } slide will turn the wheels that much ${lost > 0 ? "further" : "less"}. ${used.length} slide${used.length === 1 ? "" : "s"} put the share ${intervalWords(share, PERCENT)}.`,
      },
    };
  },
  chart(robot, rows): Chart | null {
    const used = slides(robot, rows);
    if (used.length === 0) return null;
    const points = used.map(({ saidM, asideM }): [number, number] => [saidM, asideM - saidM]);
    const share = meanOf(used.map(({ saidM, asideM }) => asideM / saidM)).value;
    const far = Math.max(...used.map(({ saidM }) => Math.abs(saidM)));
    return {
      title: "How much further it went than its wheels say",
      x: { label: "by the wheels", shown: { unit: "m", perSi: 1, digits: 1 } },
      y: { label: "further", shown: MM },
      series: [
        { label: "slides", role: "measured", points, line: false },
        {
          label: "share",
          role: "fit",
          line: true,
          points: [-far, far].map((said) => [said, said * (share - 1)] as const),
        },
      ],
    };
  },
  present: (robot) => {
    const { slideShare } = robotInForce(robot);
    return slideShare && "slideShare" in robot.drive
      ? [
          presentKnown(
            "slide",
            "Slides, of what the wheels say",
            PERCENT,
            slideShare.value,
            slideShare.standardError,
            robot.drive.slideShare,
          ),
        ]
      : [];
  },
};
