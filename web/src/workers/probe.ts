// Reads a robot's sensors over a field, away from the page.
import "../shared/noEval.js";
import { openField, Probe, readRobot } from "@giddy-pebble/core";
import { probeAskSchema } from "./probeProtocol.js";

let probe: Probe | null = null;
let trouble: string | null = null;

function setUp(robot: unknown, field: unknown): void {
  const [own, floor] = [readRobot(robot), openField(field)];
  probe = null;
  trouble = null;
  if (!own.ok) trouble = `This robot cannot be rehearsed: ${own.problems.slice(0, 2).join("; ")}.`;
  else if (floor.ok) probe = new Probe(own.document, floor.document);
}

self.onmessage = (event: MessageEvent<unknown>) => {
  const { pose, robot, field } = probeAskSchema.parse(event.data);
  try {
    if (robot !== undefined) setUp(robot, field);
    self.postMessage({ result: probe?.at(pose) ?? null, trouble });
  } catch (error) {
    self.postMessage({ result: null, trouble: error instanceof Error ? error.message : String(error) });
  }
};
