// Rehearses a mission with one known after the other off by its standard error, away from the page.
import "../shared/noEval.js";
import { openField, prepareMission, readRobot, worthOnMission } from "@giddy-pebble/core";
import { z } from "zod";

const askSchema = z.object({ id: z.number(), text: z.string(), robot: z.unknown(), field: z.unknown() });

self.onmessage = (event: MessageEvent<unknown>) => {
  const { id, text, robot, field } = askSchema.parse(event.data);
  const [own, floor] = [readRobot(robot), openField(field)];
  if (!own.ok || !floor.ok) return self.postMessage({ id, worth: null });
  const prepared = prepareMission(text, own.document, floor.document);
  self.postMessage({ id, worth: prepared.program ? worthOnMission(prepared, own.document) : null });
};
