// What counts as dark, taken from readings: a new revision of the robot.
import { openRobot, type Robot } from "@giddy-pebble/core";
import { api } from "./api.js";

/** A threshold as people read it, "42.5 %". */
export function shareWords(share: number): string {
  return `${Math.round(share * 1000) / 10} %`;
}

/**
 * Keeps a threshold in the robot, 0..1.
 * @param from - where it comes from: "the probe", "the run"
 * @param place - name of the field
 */
export async function keepThreshold(
  robotId: string,
  sensorName: string,
  threshold: number,
  from: string,
  place: string,
): Promise<{ readonly ok: true; readonly robot: Robot } | { readonly ok: false; readonly message: string }> {
  const opened = await api.open(robotId);
  if (!opened.ok) return opened;
  const { document, draft, head } = opened.value;
  const read = openRobot(draft?.body ?? head.body);
  if (!read.ok) return { ok: false, message: `${document.name} cannot be read.` };
  const value = Math.round(threshold * 1000) / 1000;
  const robot: Robot = {
    ...read.document,
    sensors: read.document.sensors.map((sensor) =>
      sensor.name === sensorName && sensor.kind === "floor"
        ? {
            ...sensor,
            dark: {
              ...sensor.dark,
              value,
              source: "typed" as const,
              method: `${from.replace("the ", "")} on ${place}`.slice(0, 200),
            },
          }
        : sensor,
    ),
  };
  const reason = `dark below ${shareWords(value)} from ${from}`;
  const cut = await api.cutBody(robotId, document.headRevision, robot, reason, null, draft?.version ?? 0);
  return cut.ok ? { ok: true, robot } : { ok: false, message: `Not taken: ${cut.message}` };
}
