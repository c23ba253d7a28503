// A kept run with what it was made with.
import { type Field, openField, openFloor, openRobot, type Robot, type Trace, unpackTrace } from "@giddy-pebble/core";
import { type Answer, api, type TrialView } from "./api.js";
import { withPng } from "./field/pictures.js";

/** The field as it was in the run's version of it; the open floor where it cannot be read any more. */
export async function fieldOf({ field }: TrialView): Promise<Field> {
  if (!field || field.document === null || field.number === null) return openFloor();
  const version = await api.revision(field.document, field.number);
  const read = version.ok ? openField(version.value.body) : null;
  return read?.ok ? withPng(read.document) : openFloor();
}

/** The version of the robot that ran it; null when it cannot be read any more. */
export async function robotOf({ robot }: TrialView): Promise<Robot | null> {
  const version = await api.revision(robot.document, robot.number);
  const read = version.ok ? openRobot(version.value.body) : null;
  return read?.ok ? read.document : null;
}

/** What it recorded. */
export async function traceOf(trial: TrialView): Promise<Answer<Trace>> {
  const bytes = await api.trace(trial.id);
  if (!bytes.ok) return bytes;
  const read = unpackTrace(bytes.value);
  return read.ok
    ? { ok: true, value: read.trace }
    : { ok: false, code: "unreadable", message: `This run cannot be shown: ${read.message}.`, current: null };
}
