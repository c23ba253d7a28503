// What the pit list asks of the linked robot: does its gyro stay still, which versions does it hold.
import { openFloor, openRobot, type Robot } from "@giddy-pebble/core";
import { api, type ListedDocument } from "../../shared/api.js";
import { ask, packageText, runOnRobot, sendPackage, useLink } from "../../shared/link/linkStore.js";
import { heldNumber } from "../../shared/mission/origin.js";

const NAME = "Pit check";
const REST_S = 5;
/** A gyro that drifts more turns a mission of ten seconds by a degree, deg/s. */
const MOST_DRIFT = 0.1;

export interface Looked {
  readonly good: boolean | null;
  readonly words: string;
}

/** The robot of that name as it is described now. */
export async function describedRobot(name: string, project: readonly ListedDocument[]): Promise<Robot | null> {
  const own = project.find((one) => one.kind === "robot" && one.name === name);
  const open = own ? await api.open(own.id) : null;
  const read = open?.ok ? openRobot(open.value.draft?.body ?? open.value.head.body) : null;
  return read?.ok ? read.document : null;
}

/** Each mission on the robot's shelf: whether it is the newest version of it. */
export function heldVersions(project: readonly ListedDocument[]): Looked[] {
  return useLink.getState().shelf.flatMap(({ name, origin }): Looked[] => {
    const held = heldNumber(origin);
    const newest = project.find((one) => one.kind === "mission" && one.name === name)?.headRevision;
    if (held === null || newest === undefined) return [];
    return held === newest
      ? [{ good: true, words: `It holds ${name}, version ${held}, the newest` }]
      : [{ good: false, words: `It holds ${name}, version ${held}. Version ${newest} is newer: send it again` }];
  });
}

/** Lets the robot stand still and reads how far its gyro says that it turned. */
export async function checkGyro(robot: Robot): Promise<Looked> {
  const gyro = robot.sensors.find(({ kind }) => kind === "gyro")?.name;
  if (gyro === undefined) return { good: null, words: `${robot.name} has no gyro` };
  const text = `cairn 1\nrobot "${robot.name}"\n\nmission\n  wait 0.5 s\n  note before = ${gyro}.heading\n  wait ${REST_S} s\n  note after = ${gyro}.heading\n`;
  const sent = await sendPackage(NAME, packageText(text, robot, openFloor()), "", "");
  if (!sent.ok) return { good: null, words: `The gyro was not looked at: ${sent.why}` };
  const run = await runOnRobot(NAME);
  await ask({ kind: "remove", name: NAME });
  if (!run.ok) return { good: null, words: `The gyro was not looked at: ${run.why}` };
  const read = (name: string) => Number(run.summary.notes.find((note) => note.name === name)?.value ?? Number.NaN);
  const drift = ((read("after") - read("before")) * 180) / Math.PI / REST_S;
  if (!Number.isFinite(drift)) return { good: false, words: `The gyro of ${robot.name} does not answer` };
  const words = `At rest the gyro drifts ${drift.toFixed(2)} deg/s`;
  return Math.abs(drift) <= MOST_DRIFT
    ? { good: true, words }
    : { good: false, words: `${words}. Leave the robot still, or measure Gyro drift again in Calibrate` };
}
