// The gear bench: up to three choices of teeth, side by side on one chart of speed against torque and push at the
// wheel.
import { addStage, type GearChoice, gearChoice, leadWheel, packVolts, type Stage, setStages } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { extent, line, scaleLinear } from "d3";
import { useState } from "react";
import { usePaneSize } from "./Plan.js";
import { Teeth } from "./Stages.js";
import { useRobot } from "./state.js";
import { change } from "./store.js";

const SERIES = ["var(--water)", "var(--heather)", "var(--amber)"] as const;
const DASHES = ["", "7 4", "2 4"] as const;
const MOST_CHOICES = 3;

/** A choice to begin a comparison with: one step slower in the first stage. */
function nextChoice(stages: readonly Stage[]): Stage[] {
  const [first, ...rest] = stages.length > 0 ? stages : addStage([]);
  return first ? [{ ...first, drivenTeeth: first.drivenTeeth + 4 }, ...rest] : [];
}

export function GearBench() {
  const robot = useRobot((state) => state.robot);
  const figures = useRobot((state) => state.figures);
  const fitted = leadWheel(robot, "left")?.wheel.stages ?? [];
  const [others, setOthers] = useState<readonly (readonly Stage[])[]>([]);
  if (figures.length === 0)
    return <p className="quiet pad">The gear bench needs a robot that can drive: two driven wheels and a support.</p>;
  const full = packVolts(robot, 1) - robot.board.driverDropVolts;
  const tired = packVolts(robot, 0.1) - robot.board.driverDropVolts;
  const choices = [fitted, ...others].map((stages) => gearChoice(robot, stages, full, tired));
  const setChoice = (i: number, stages: readonly Stage[]) =>
    i === 0
      ? change(setStages(robot, stages), "gears", "gear bench")
      : setOthers(others.map((old, k) => (k === i - 1 ? stages : old)));
  return (
    <div className="gearbench">
      <GearChart choices={choices} />
      <div className="choices">
        {choices.map((choice, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a choice is its place on the bench
          <div className="gearchoice" key={i}>
            <header>
              <svg width="26" height="8" aria-hidden="true">
                <line x1="0" x2="26" y1="4" y2="4" stroke={SERIES[i]} strokeWidth="3" strokeDasharray={DASHES[i]} />
              </svg>
              <strong>{i === 0 ? "Fitted" : `Choice ${i + 1}`}</strong>
              {choice.stages.map((stage, k) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: a stage is its place in the chain
                <span className="stage" key={k}>
                  <Teeth
                    label={`Choice ${i + 1}, stage ${k + 1}, driving teeth`}
                    value={stage.driverTeeth}
                    onChange={(driverTeeth) =>
                      setChoice(
                        i,
                        choice.stages.map((s, n) => (n === k ? { ...s, driverTeeth } : s)),
                      )
                    }
                  />
                  :
                  <Teeth
                    label={`Choice ${i + 1}, stage ${k + 1}, driven teeth`}
                    value={stage.drivenTeeth}
                    onChange={(drivenTeeth) =>
                      setChoice(
                        i,
                        choice.stages.map((s, n) => (n === k ? { ...s, drivenTeeth } : s)),
                      )
                    }
                  />
                </span>
              ))}
              <span className="mono">{ratioWords(choice)}</span>
              {i > 0 && (
                <>
                  <button
                    type="button"
                    className="plain link"
                    onClick={() => change(setStages(robot, choice.stages), "gears from the bench")}
                  >
                    Fit this
                  </button>
                  <button
                    type="button"
                    className="plain"
                    aria-label={`Remove choice ${i + 1}`}
                    onClick={() => setOthers(others.filter((_, k) => k !== i - 1))}
                  >
                    ×
                  </button>
                </>
              )}
              <button type="button" className="plain link" onClick={() => setChoice(i, addStage(choice.stages))}>
                add a stage
              </button>
              {choice.stages.length > 0 && (
                <button type="button" className="plain link" onClick={() => setChoice(i, choice.stages.slice(0, -1))}>
                  take one off
                </button>
              )}
            </header>
            <p className={choice.startsEvenly ? "verdict" : "verdict caution"}>{choice.verdict}</p>
          </div>
        ))}
        {choices.length < MOST_CHOICES && (
          <Button variant="outlined" onClick={() => setOthers([...others, nextChoice(others.at(-1) ?? fitted)])}>
            Compare another choice
          </Button>
        )}
      </div>
    </div>
  );
}

/** "1 : 1.67 faster", and whether the wheel turns against its motor. */
function ratioWords({ ratio, flips }: GearChoice): string {
  const times = ratio >= 1 ? ratio : 1 / ratio;
  const how = ratio > 1 ? " slower" : ratio < 1 ? " faster" : "";
  return `1 : ${times.toFixed(2)}${how}${flips ? ", reverses" : ""}`;
}

function GearChart({ choices }: { choices: readonly GearChoice[] }) {
  const [pane, size] = usePaneSize<HTMLDivElement>();
  const { width, height } = size;
  const margin = { left: 44, right: 14, top: 34, bottom: 30 };
  const x = scaleLinear(
    [0, 1.05 * (extent(choices, (choice) => choice.stallN)[1] ?? 1)],
    [margin.left, width - margin.right],
  );
  const y = scaleLinear(
    [0, 1.1 * 100 * (extent(choices, (choice) => choice.freeSpeedMS)[1] ?? 1)],
    [height - margin.bottom, margin.top],
  );
  // The same axis as torque on the wheel: push times its radius.
  const radiusM = choices[0]?.radiusM ?? 0;
  const torque = scaleLinear(
    x.domain().map((push) => push * radiusM * 1000),
    x.range(),
  );
  const path = line<readonly [number, number]>(
    ([push]) => x(push),
    ([, speed]) => y(speed * 100),
  );
  return (
    <div className="gearchart" ref={pane}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label="Speed against torque and push at the wheel, with the working points"
      >
        {x.ticks(5).map((tick) => (
          <g key={`x${tick}`} transform={`translate(${x(tick)} 0)`}>
            <line y1={margin.top} y2={height - margin.bottom} className="rule" />
            <text y={height - margin.bottom + 14} textAnchor="middle" className="tick">
              {tick}
            </text>
          </g>
        ))}
        {torque.ticks(5).map((tick) => (
          <g key={`t${tick}`} transform={`translate(${torque(tick)} ${margin.top})`}>
            <line y1={-4} className="rule" />
            <text y={-7} textAnchor="middle" className="tick">
              {tick}
            </text>
          </g>
        ))}
        {y.ticks(4).map((tick) => (
          <g key={`y${tick}`} transform={`translate(0 ${y(tick)})`}>
            <line x1={margin.left} x2={width - margin.right} className="rule" />
            <text x={margin.left - 6} y={4} textAnchor="end" className="tick">
              {tick}
            </text>
          </g>
        ))}
        <text x={width - margin.right} y={height - 3} textAnchor="end" className="axisname">
          push of one side, N
        </text>
        <text x={width - margin.right} y={10} textAnchor="end" className="axisname">
          torque at the wheel, mN m
        </text>
        <text x={6} y={10} className="axisname">
          speed, cm/s
        </text>
        {choices.map((choice, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a choice is its place on the bench
          <g key={i} style={{ color: SERIES[i] }}>
            <path
              d={
                path([
                  [0, choice.freeSpeedMS],
                  [choice.stallN, 0],
                ]) ?? ""
              }
              fill="none"
              stroke="currentColor"
              strokeWidth="2"
              strokeDasharray={DASHES[i]}
            />
            {choice.points.map((point) => (
              <g key={point.id} transform={`translate(${x(point.pushN)} ${y(point.speedMS * 100)})`}>
                <circle
                  r="4"
                  fill={point.id === "start" ? "var(--sheet)" : "currentColor"}
                  stroke="currentColor"
                  strokeWidth="2"
                />
                {i === 0 && (
                  <text
                    x={point.id === "stall" ? -6 : 8}
                    y={point.id === "stall" || point.id === "start" ? -8 : 4}
                    textAnchor={point.id === "stall" ? "end" : "start"}
                    className="pointname"
                  >
                    {point.label}
                  </text>
                )}
              </g>
            ))}
          </g>
        ))}
      </svg>
    </div>
  );
}
