// Revisions of the open robot.
import { openRobot, type Robot } from "@giddy-pebble/core";
import { RobotDifferences } from "../../shared/RobotDifferences.js";
import { RevisionsPanel } from "../../shared/shell/RevisionsPanel.js";
import { useRobot } from "./state.js";
import { nameRevision, restoreRevision, showPanel } from "./store.js";

function read(body: unknown): Robot | null {
  const found = openRobot(body);
  return found.ok ? found.document : null;
}

export function Revisions() {
  return (
    <RevisionsPanel<Robot>
      word="robot"
      open={useRobot((state) => state.open)}
      now={useRobot((state) => state.robot)}
      read={read}
      name={nameRevision}
      restore={restoreRevision}
      compare={(before, after) => <RobotDifferences before={before} after={after} />}
      close={() => showPanel("none")}
    />
  );
}
