// The side drawing: the robot from its right, with heights. Forward is to the right.
import { type Robot, type RobotPart, setPartValue } from "@giddy-pebble/core";
import { Dimension } from "./Dimension.js";
import { fitWindow, sideWindow } from "./geometry.js";
import { usePaneSize } from "./Plan.js";
import { useRobot } from "./state.js";
import { change, select } from "./store.js";
import { partTitle } from "./words.js";

const mm = (metres: number) => metres * 1000;

export function Side({ parts }: { parts: readonly RobotPart[] }) {
  const robot = useRobot((state) => state.robot);
  const selected = useRobot((state) => state.selected);
  const [pane, size] = usePaneSize<HTMLDivElement>();
  const window = sideWindow(robot);
  const fit = fitWindow(window, size.width, size.height);
  const xs = robot.chassis.outlineM.map(([x]) => mm(x));
  const [low, high] = [Math.min(...xs), Math.max(...xs)];
  const [comX, , comZ] = robot.chassis.centreOfMassM;
  const toX = (x: number) => fit.left + (mm(x) - window.x) * fit.scale;
  const toY = (z: number) => fit.top + (-mm(z) - window.y) * fit.scale;
  const chosen = parts.find((part) => part.ref === selected);
  const height = chosen && "zM" in chosen.value ? (chosen.value as { zM: number; xM: number }) : null;
  return (
    <div className="plan" ref={pane}>
      <svg width={size.width} height={size.height} role="group" aria-label="Side of the robot, from its right">
        <g transform={`translate(${fit.left} ${fit.top}) scale(${fit.scale}) translate(${-window.x} ${-window.y})`}>
          <line x1={window.x} x2={window.x + window.width} y1={0} y2={0} className="floorline" />
          <rect
            x={low}
            y={-mm(robot.chassis.heightM)}
            width={high - low}
            height={Math.max(1, mm(robot.chassis.heightM - robot.chassis.clearanceM))}
            rx={5}
            className={`chassis${selected === "chassis" ? " chosen" : ""}`}
            onPointerDown={() => select("chassis")}
          />
          {robot.wheels.map((wheel) => (
            <g
              key={wheel.name}
              className={`piece${wheel.name === selected ? " chosen" : ""}`}
              role="button"
              tabIndex={0}
              aria-label={partTitle(robot, { ref: wheel.name, kind: "wheel" })}
              onPointerDown={() => select(wheel.name)}
              onFocus={() => select(wheel.name)}
            >
              <circle cx={mm(wheel.xM)} cy={-mm(wheel.diameterM) / 2} r={mm(wheel.diameterM) / 2} className="wheel" />
              <circle cx={mm(wheel.xM)} cy={-mm(wheel.diameterM) / 2} r={mm(wheel.diameterM) / 5} className="hub" />
            </g>
          ))}
          {robot.support && <circle cx={mm(robot.support.xM)} cy={-7} r={7} className="support" />}
          {robot.sensors.map((sensor) => (
            <g
              key={sensor.name}
              transform={`translate(${mm(sensor.xM)} ${-mm(sensor.zM)})`}
              className={`piece${sensor.name === selected ? " chosen" : ""}`}
              role="button"
              tabIndex={0}
              aria-label={partTitle(robot, { ref: sensor.name, kind: sensor.kind })}
              onPointerDown={() => select(sensor.name)}
              onFocus={() => select(sensor.name)}
            >
              {sensor.kind === "eye" && (
                <path
                  d="M5 0 L62 -6 L62 6 Z"
                  className="beam"
                  transform={Math.cos(sensor.aimRad) < 0 ? "scale(-1 1)" : undefined}
                />
              )}
              {sensor.kind === "floor" && <path d="M0 0 L-4 8 L4 8 Z" className="beam" />}
              <rect x={-4} y={-4} width={8} height={8} rx={2} className={sensor.kind === "bumper" ? "bumper" : "eye"} />
            </g>
          ))}
          {robot.attachments.map((part) => (
            <g
              key={part.name}
              transform={`translate(${mm(part.xM)} ${-mm(part.zM)})`}
              className={`piece${part.name === selected ? " chosen" : ""}`}
              role="button"
              tabIndex={0}
              aria-label={partTitle(robot, { ref: part.name, kind: "attachment" })}
              onPointerDown={() => select(part.name)}
              onFocus={() => select(part.name)}
            >
              <Swing robot={robot} name={part.name} />
            </g>
          ))}
          <g transform={`translate(${mm(comX)} ${-mm(comZ)})`} className="com">
            <circle r={5} />
            <line x1={-8} x2={8} />
            <line y1={-8} y2={8} />
          </g>
        </g>
      </svg>
      <Dimension
        label="Height of the robot"
        caption="height"
        x1={toX(low / 1000) - 30}
        y1={toY(robot.chassis.heightM)}
        x2={toX(low / 1000) - 30}
        y2={toY(0)}
        valueM={robot.chassis.heightM}
        onChange={(value) => change(setPartValue(robot, "chassis", "heightM", value), "height", "dimension height")}
      />
      <Dimension
        label="Height of the centre of mass"
        caption="centre of mass"
        x1={toX(comX)}
        y1={toY(comZ)}
        x2={toX(comX)}
        y2={toY(0)}
        valueM={comZ}
        onChange={(value) =>
          change(setPartValue(robot, "chassis", "centreOfMassM.2", value), "centre of mass", "dimension com")
        }
      />
      {height && chosen && (
        <Dimension
          label="Height of the part"
          caption=""
          x1={toX(height.xM) + 24}
          y1={toY(height.zM)}
          x2={toX(height.xM) + 24}
          y2={toY(0)}
          valueM={height.zM}
          onChange={(value) =>
            change(setPartValue(robot, chosen.ref, "zM", value), `height of ${chosen.ref}`, "dimension z")
          }
        />
      )}
      <p className="scalewords">Side, from the right · floor at the line · 1 mm = {fit.scale.toFixed(1)} px</p>
    </div>
  );
}

/** An attachment at both of its end stops: where it can go. */
function Swing({ robot, name }: { robot: Robot; name: string }) {
  const part = robot.attachments.find((candidate) => candidate.name === name);
  if (!part) return null;
  const length = mm(part.lengthM);
  const end = (angle: number) => ({ x: length * Math.cos(angle), y: -length * Math.sin(angle) });
  const low = end(part.lowRad);
  const high = end(part.highRad);
  const turns = part.kind === "spinner" || part.kind === "belt";
  return (
    <>
      {!turns && (
        <>
          <path
            d={`M${low.x} ${low.y} A${length} ${length} 0 ${part.highRad - part.lowRad > Math.PI ? 1 : 0} 0 ${high.x} ${high.y}`}
            className="swing"
          />
          <line x2={high.x} y2={high.y} className="swing" />
        </>
      )}
      <line x2={low.x} y2={low.y} className="lever" />
      <circle r={3} className="hinge" />
    </>
  );
}
