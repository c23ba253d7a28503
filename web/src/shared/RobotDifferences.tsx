// Two versions of a robot side by side: only what differs.
import { compareRobots, type Robot } from "@giddy-pebble/core";
import { DifferenceTable } from "./DifferenceTable.js";

export function RobotDifferences({ before, after }: { before: Robot; after: Robot }) {
  const rows = compareRobots(before, after).map(
    (row) => [row.part.replaceAll("_", " "), row.label, row.before, row.after] as const,
  );
  return <DifferenceTable head="Part" rows={rows} />;
}
