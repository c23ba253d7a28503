// The probe: a robot of the person's put down on the drawing. What its sensors read there is worked out away from the
// page; while one answer is on its way, only the newest place waits.
import { openRobot, type Pose, type Robot } from "@giddy-pebble/core";
import { api } from "../../shared/api.js";
import { placed } from "../../shared/place.js";
import { keepThreshold, shareWords } from "../../shared/threshold.js";
import { whenLeft } from "../../shared/visit.js";
import { type ProbeAnswer, probeAnswerSchema } from "../../workers/probeProtocol.js";
import { startWorker } from "../../workers/startWorker.js";
import { type Span, useField } from "./state.js";

const get = useField.getState;
const set = useField.setState;

let worker: Worker | null = null;
let busy = false;
let waiting = false;
let sentRobot: Robot | null = null;
let sentField: unknown = null;
whenLeft(() => {
  worker?.terminate();
  worker = null;
  busy = false;
  waiting = false;
  sentRobot = null;
  sentField = null;
});

function patch(changes: Partial<ReturnType<typeof get>["probe"]>): void {
  set({ probe: { ...get().probe, ...changes } });
}

function ready(): Worker {
  if (worker) return worker;
  worker = startWorker("probe");
  worker.onmessage = (event: MessageEvent<unknown>) => {
    busy = false;
    const read = probeAnswerSchema.safeParse(event.data);
    if (read.success) take(read.data as ProbeAnswer);
    if (waiting) ask();
  };
  return worker;
}

function take(answer: ProbeAnswer): void {
  if (answer.trouble !== null || !answer.result) {
    patch({ result: null, trouble: answer.trouble ?? "The sensors could not be read here." });
    return;
  }
  const { robot, spans } = get().probe;
  patch({ result: answer.result, trouble: null, spans: widened(robot, spans, answer.result.readings) });
}

/** The lightest and darkest each floor sensor has read. */
function widened(
  robot: Robot | null,
  spans: Readonly<Record<string, Span>>,
  readings: readonly { readonly id: string; readonly value: number }[],
): Readonly<Record<string, Span>> {
  const next = { ...spans };
  for (const sensor of robot?.sensors ?? []) {
    if (sensor.kind !== "floor") continue;
    const values = readings
      .filter(
        ({ id }) => id.endsWith(".light") && (id.startsWith(`${sensor.name}.`) || id.startsWith(`${sensor.name}[`)),
      )
      .map(({ value }) => value);
    const old = next[sensor.name];
    next[sensor.name] = {
      least: Math.min(old?.least ?? 1, ...values),
      most: Math.max(old?.most ?? 0, ...values),
    };
  }
  return next;
}

/** Asks for the readings at the place the robot has now. */
export function ask(): void {
  const { field, probe } = get();
  if (!probe.robot) return;
  waiting = busy;
  if (busy) return;
  busy = true;
  const setup = probe.robot !== sentRobot || field !== sentField;
  sentRobot = probe.robot;
  sentField = field;
  ready().postMessage({ pose: probe.pose, ...(setup ? { robot: probe.robot, field } : {}) });
}

export function moveProbe(pose: Pose): void {
  const { widthM, heightM } = get().field.size;
  const within = (value: number, most: number) => Math.max(-0.5, Math.min(most + 0.5, value));
  patch({ pose: { xM: within(pose.xM, widthM), yM: within(pose.yM, heightM), headingRad: pose.headingRad } });
  ask();
}

/** Puts a robot on the drawing; the one that was chosen elsewhere first. */
export async function chooseProbe(id: string | null): Promise<void> {
  const found = await api.documents("robot");
  if (!found.ok) return patch({ trouble: found.message });
  const wanted = id ?? placed("robot");
  const view = found.value.documents.find((one) => one.id === wanted) ?? found.value.documents[0];
  if (!view) return patch({ robot: null, robotId: null, trouble: "There is no robot yet. Describe one in Robot." });
  const opened = await api.open(view.id);
  if (!opened.ok) return patch({ trouble: opened.message });
  const read = openRobot(opened.value.draft?.body ?? opened.value.head.body);
  if (!read.ok) return patch({ robot: null, robotId: view.id, trouble: `${view.name} cannot be read.` });
  patch({ robot: read.document, robotId: view.id, trouble: null, result: null, spans: {} });
  ask();
}

export function removeProbe(): void {
  patch({ robot: null, robotId: null, result: null, spans: {} });
}

/** The middle between the lightest and darkest that was read becomes what counts as dark. @returns what it says */
export async function takeThreshold(sensorName: string, threshold: number): Promise<void> {
  const { robotId, robot } = get().probe;
  if (!robotId || !robot) return;
  const kept = await keepThreshold(robotId, sensorName, threshold, "the probe", get().field.name);
  if (!kept.ok) return set({ message: kept.message });
  patch({ robot: kept.robot });
  ask();
  set({ message: `${robot.name}: ${sensorName} is dark below ${shareWords(threshold)} now.` });
}

/** The field changed under the robot. */
export function fieldChanged(): void {
  if (get().probe.robot) ask();
}
