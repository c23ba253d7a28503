// What the sensors did in the run on the screen, and what they could do better: the error on the line, the tuner, the
// threshold of dark, and the looks of distance sensors.
import {
  type LineStep,
  lineSteps,
  type Robot,
  type RunSummary,
  type SensorOf,
  type Trace,
  traceColumn,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useMemo, useState } from "react";
import { Pick } from "../../shared/controls.js";
import { isBefore, selectedLine, useMission } from "../../shared/mission/state.js";
import { readRobotAgain } from "../../shared/mission/store.js";
import { Panel } from "../../shared/Panel.js";
import { keepThreshold, shareWords } from "../../shared/threshold.js";
import { EyeLooks } from "./EyeLooks.js";
import { LineError } from "./LineError.js";
import { LineTuner } from "./LineTuner.js";

/** What the panel speaks of: the latest run of what is on the screen, or its plan. */
export interface Shown {
  readonly trace: Trace;
  readonly summary: RunSummary;
  readonly robot: Robot;
  /** "the plan" or "the run". */
  readonly of: string;
}

function useShown(): Shown | null {
  const run = useMission((state) => state.run);
  const planned = useMission((state) => state.planned);
  const text = useMission((state) => state.history.present.text);
  const robot = useMission((state) => state.robot?.document ?? null);
  return useMemo(() => {
    if (!robot) return null;
    if (run && !isBefore(run, text)) return { trace: run.trace, summary: run.summary, robot, of: "the run" };
    return planned?.trace && planned.summary
      ? { trace: planned.trace, summary: planned.summary, robot, of: "the plan" }
      : null;
  }, [run, planned, text, robot]);
}

export function SensorsPanel() {
  const shown = useShown();
  const close = () => useMission.setState({ panel: "none" });
  const eyes = shown?.robot.sensors.filter((sensor) => sensor.kind === "eye") ?? [];
  const floors = shown?.robot.sensors.filter((sensor) => sensor.kind === "floor") ?? [];
  return (
    <Panel title="Sensors" label="Sensors" close={close}>
      {!shown && <p className="quiet">The mission has to be planned first. Fix its problems, then look here again.</p>}
      {shown && eyes.length + floors.length === 0 && (
        <p className="quiet">
          {shown.robot.name} has no sensor that looks at the floor or at things. Add one in Robot.
        </p>
      )}
      {shown && floors.length > 0 && <Line shown={shown} />}
      {shown && floors.map((sensor) => <Threshold key={sensor.name} sensor={sensor} shown={shown} />)}
      {shown && eyes.map((sensor) => <EyeLooks key={sensor.name} eye={sensor} shown={shown} />)}
    </Panel>
  );
}

function Line({ shown }: { shown: Shown }) {
  const mission = useMission((state) => state.mission);
  const selected = useMission(selectedLine);
  const [picked, setPicked] = useState<number | null>(null);
  const steps = useMemo(() => lineSteps(mission), [mission]);
  const step: LineStep | undefined =
    steps.find(({ line }) => line === selected) ?? steps.find(({ line }) => line === picked) ?? steps[0];
  if (!step)
    return (
      <section aria-label="On the line">
        <h3>On the line</h3>
        <p className="quiet">No step follows a line. Add one with “follow line”.</p>
      </section>
    );
  const words = (one: LineStep) => mission.text.slice(one.start, one.end);
  return (
    <section aria-label="On the line">
      <h3>On the line</h3>
      {steps.length > 1 ? (
        <Pick aria-label="Which step" value={step.line} onChange={(event) => setPicked(Number(event.target.value))}>
          {steps.map((one) => (
            <option key={one.line} value={one.line}>
              Line {one.line + 1}: {words(one)}
            </option>
          ))}
        </Pick>
      ) : (
        <p className="mono small quiet">{words(step)}</p>
      )}
      <LineError step={step} shown={shown} />
      <LineTuner step={step} />
    </section>
  );
}

/** The lightest and the darkest a floor sensor read in a run, 0..1. */
function spanOf(trace: Trace, sensor: string): readonly [number, number] | null {
  let [least, most] = [1, 0];
  for (const { id } of trace.columns) {
    if (!id.endsWith(".light") || !(id.startsWith(`${sensor}.`) || id.startsWith(`${sensor}[`))) continue;
    for (const value of traceColumn(trace, id) ?? []) {
      least = Math.min(least, value);
      most = Math.max(most, value);
    }
  }
  return most >= least ? [least, most] : null;
}

/** Light and dark lie this far apart, or there is no threshold between them. */
const APART = 0.15;

function Threshold({ sensor, shown: { trace, robot, of } }: { sensor: SensorOf<"floor">; shown: Shown }) {
  const fieldName = useMission((state) => state.field?.document.name ?? "");
  const id = useMission(
    (state) => state.library.find(({ kind, name }) => kind === "robot" && name === robot.name)?.id ?? null,
  );
  const span = useMemo(() => spanOf(trace, sensor.name), [trace, sensor.name]);
  if (!span || !id) return null;
  const middle = (span[0] + span[1]) / 2;
  const wide = span[1] - span[0] > APART;
  const take = async () => {
    const kept = await keepThreshold(id, sensor.name, middle, of, fieldName);
    if (!kept.ok) return useMission.setState({ message: kept.message });
    await readRobotAgain(robot.name);
    useMission.setState({ message: `${robot.name}: ${sensor.name} is dark below ${shareWords(middle)} now.` });
  };
  return (
    <section aria-label={`Threshold of ${sensor.name}`}>
      <h3>Light and dark of {sensor.name}</h3>
      <svg
        className="lightspan"
        viewBox="0 0 330 22"
        role="img"
        aria-label={`From ${shareWords(span[0])} to ${shareWords(span[1])}`}
      >
        <rect className="lane" width="330" height="8" y="7" rx="4" />
        <rect
          className="fill"
          x={span[0] * 330}
          width={Math.max(2, (span[1] - span[0]) * 330)}
          height="8"
          y="7"
          rx="4"
        />
        <line className="threshold" x1={sensor.dark.value * 330} x2={sensor.dark.value * 330} y1="2" y2="20" />
      </svg>
      <p>
        Dark below <span className="mono">{shareWords(sensor.dark.value)}</span>. In {of} it read{" "}
        <span className="mono">
          {shareWords(span[0])} to {shareWords(span[1])}
        </span>
        .
      </p>
      {wide ? (
        <Button
          size="small"
          variant="outlined"
          disabled={Math.abs(middle - sensor.dark.value) < 0.0005}
          onClick={() => void take()}
        >
          Take {shareWords(middle)} as threshold
        </Button>
      ) : (
        <p className="quiet">It did not drive over both light and dark. Put it on the line with the probe in Field.</p>
      )}
    </section>
  );
}
