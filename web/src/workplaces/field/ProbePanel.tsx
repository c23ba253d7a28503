// What the robot on the drawing would see: its readings, with the threshold of dark, and what its distance sensor hears
// all around.
import { type ProbeEye, type ProbeReading, plainDigits, type Robot } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useEffect, useState } from "react";
import { api, type DocumentView } from "../../shared/api.js";
import { Polar } from "../../shared/charts/Polar.js";
import { Quantity } from "../../shared/quantity/Quantity.js";
import { chooseProbe, fieldChanged, moveProbe, removeProbe, takeThreshold } from "./probing.js";
import { useField } from "./state.js";

const PLACE = { least: -0.5, most: 50.5 } as const;
const TURN = { least: -20 * Math.PI, most: 20 * Math.PI } as const;

export function ProbePanel() {
  const { robot, trouble } = useField((state) => state.probe);
  const field = useField((state) => state.field);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a changed field is read anew
  useEffect(() => fieldChanged(), [field]);
  return (
    <section className="probe" aria-label="Probe">
      <header>
        <h2>{robot ? `What ${robot.name} would see here` : "What a robot would see"}</h2>
        {robot ? <Place /> : <span className="quiet">Put one of your robots down and drag it about.</span>}
        <span className="probeacts">
          {robot ? (
            <>
              <RobotChoice />
              <Button variant="outlined" onClick={removeProbe}>
                Take it away
              </Button>
            </>
          ) : (
            <Button variant="contained" onClick={() => void chooseProbe(null)}>
              Put a robot down
            </Button>
          )}
        </span>
      </header>
      {trouble && <p className="note warning">{trouble}</p>}
      {robot && <Readings robot={robot} />}
    </section>
  );
}

function Place() {
  const { pose } = useField((state) => state.probe);
  return (
    <span className="probeplace">
      <Quantity label="x" unit="cm" value={pose.xM} {...PLACE} onChange={(xM) => moveProbe({ ...pose, xM })} />
      <Quantity label="y" unit="cm" value={pose.yM} {...PLACE} onChange={(yM) => moveProbe({ ...pose, yM })} />
      <Quantity
        label="heading"
        unit="deg"
        digits={0}
        value={pose.headingRad}
        {...TURN}
        onChange={(headingRad) => moveProbe({ ...pose, headingRad })}
      />
    </span>
  );
}

function RobotChoice() {
  const id = useField((state) => state.probe.robotId);
  const [robots, setRobots] = useState<readonly DocumentView[]>([]);
  useEffect(() => {
    let here = true;
    void api.documents("robot").then((found) => here && found.ok && setRobots(found.value.documents));
    return () => {
      here = false;
    };
  }, []);
  return (
    <TextField
      select
      size="small"
      value={id ?? ""}
      slotProps={{ select: { native: true }, htmlInput: { "aria-label": "Robot of the probe" } }}
      onChange={(event) => void chooseProbe(event.target.value)}
    >
      {robots.map((one) => (
        <option key={one.id} value={one.id}>
          {one.name}
        </option>
      ))}
    </TextField>
  );
}

function Readings({ robot }: { robot: Robot }) {
  const result = useField((state) => state.probe.result);
  if (!result) return <p className="quiet">Reading…</p>;
  const lights = result.readings.filter(({ id }) => id.endsWith(".light"));
  const others = result.readings.filter(({ id }) => !/\.(light|dark|seen|red|green|blue|nearest|clearest)$/.test(id));
  return (
    <div className="probebody">
      <div className="probelights">
        {lights.map((reading) => (
          <Light key={reading.id} reading={reading} robot={robot} />
        ))}
        <Thresholds robot={robot} />
      </div>
      <dl className="probeothers">
        {others.map(({ id, words }) => (
          <div key={id}>
            <dt>{id.replaceAll(".", " ")}</dt>
            <dd className="mono">
              {words}
              {result.eyes.find((eye) => id === `${eye.name}.distance` && eye.hears !== "")?.hears.replace(/^/, ", ")}
            </dd>
          </div>
        ))}
      </dl>
      {result.eyes.map((eye) => (
        <EyePicture key={eye.name} eye={eye} />
      ))}
    </div>
  );
}

function darkOf(robot: Robot, id: string): number {
  const sensor = robot.sensors.find(({ name }) => id.startsWith(`${name}.`) || id.startsWith(`${name}[`));
  return sensor?.kind === "floor" ? sensor.dark.value : 0;
}

function Light({ reading: { id, value, words }, robot }: { reading: ProbeReading; robot: Robot }) {
  const dark = darkOf(robot, id);
  return (
    <div className="lightrow">
      <span>{id.replaceAll(".", " ")}</span>
      <span className="mono">{words}</span>
      <svg viewBox="0 0 200 12" preserveAspectRatio="none" role="img" aria-label={value < dark ? "dark" : "light"}>
        <rect className="lane" width="200" height="8" y="2" rx="4" />
        <rect className="fill" width={Math.max(0, Math.min(200, value * 200))} height="8" y="2" rx="4" />
        <line className="threshold" x1={dark * 200} x2={dark * 200} y1="0" y2="12" />
      </svg>
      <span className="quiet">{value < dark ? "dark" : "light"}</span>
    </div>
  );
}

function Thresholds({ robot }: { robot: Robot }) {
  const spans = useField((state) => state.probe.spans);
  return (
    <>
      {robot.sensors.map((sensor) => {
        if (sensor.kind !== "floor") return null;
        const span = spans[sensor.name];
        if (!span) return null;
        const middle = (span.least + span.most) / 2;
        const wide = span.most - span.least > 0.15;
        const said = (share: number) => `${plainDigits(share * 100, 0)} %`;
        return (
          <p key={sensor.name} className="quiet small threshold">
            {sensor.name}: dark below {said(sensor.dark.value)}. It read {said(span.least)} to {said(span.most)}.{" "}
            {wide ? (
              <Button variant="outlined" onClick={() => void takeThreshold(sensor.name, middle)}>
                Take {said(middle)} as threshold
              </Button>
            ) : (
              "Drag it over light and dark to find a threshold."
            )}
          </p>
        );
      })}
    </>
  );
}

/** What is heard in each direction, as the robot sees it: ahead is up. */
function EyePicture({ eye }: { eye: ProbeEye }) {
  const reach = Math.min(
    eye.farM,
    Math.max(0.3, ...eye.points.map(({ heardM }) => (Number.isFinite(heardM) ? heardM : 0))),
  );
  const [low, high] = eye.reachRad;
  const half = eye.coneRad / 2;
  const now = eye.points.reduce((best, one) =>
    Math.abs(one.bearingRad - (low + high) / 2) < Math.abs(best.bearingRad - (low + high) / 2) ? one : best,
  );
  return (
    <figure className="polar">
      <Polar
        label={`What ${eye.name} hears in each direction, up to ${plainDigits(reach * 100, 0)} cm`}
        reachM={reach}
        sectorRad={[low - half, high + half]}
      >
        {(at) => (
          <>
            <polygon
              className="there"
              points={eye.points.map(({ bearingRad, thereM }) => at(bearingRad, thereM)).join(" ")}
            />
            <polygon
              className="heard"
              points={eye.points.map(({ bearingRad, heardM }) => at(bearingRad, heardM)).join(" ")}
            />
          </>
        )}
      </Polar>
      <figcaption className="quiet small">
        {eye.name}: line heard, area stands there, to {plainDigits(reach * 100, 0)} cm
        <span className="sr">
          . Ahead it hears {Number.isFinite(now.heardM) ? `${plainDigits(now.heardM * 100, 0)} cm` : "nothing"}.
        </span>
      </figcaption>
    </figure>
  );
}
