// Rehearses a mission with one known after the other off by its standard error, away from the page.
import "../shared/noEval.js";
import { openField, programSchema, readRobot, runnable, worthOnMission } from "@giddy-pebble/core";
import { z } from "zod";

const askSchema = z.object({ id: z.number(), program: programSchema, robot: z.unknown(), field: z.unknown() });

self.onmessage = (event: MessageEvent<unknown>) => {
  const { id, program, robot, field } = askSchema.parse(event.data);
  const [own, floor] = [readRobot(robot), openField(field)];
  if (!own.ok || !floor.ok) return self.postMessage({ id, worth: null });
  self.postMessage({ id, worth: worthOnMission(runnable(program, own.document, floor.document), own.document) });
};
