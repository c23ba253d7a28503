// First roll: nudge one motor, say which wheel turned and which way; ports and reversal are set from the answers.
import {
  type Answer,
  applyAnswers,
  type BenchRobot,
  benchRobot,
  benchWheels,
  driveKind,
  type NudgeSeen,
  nudge,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useMemo, useState } from "react";
import { Panel } from "../../shared/Panel.js";
import { useRobot } from "./state.js";
import { change, showPanel } from "./store.js";

type Stage =
  | { readonly at: "nudge"; readonly shaft: number }
  | { readonly at: "answer"; readonly shaft: number }
  | { readonly at: "check" }
  | { readonly at: "done" };

function someSeed(): number {
  const [seed = 1] = crypto.getRandomValues(new Uint32Array(1));
  return seed;
}

export function FirstRoll() {
  const robot = useRobot((state) => state.robot);
  const problems = useRobot((state) => state.problems);
  const [seed] = useState(someSeed);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the cables stay as they are while their description changes
  const bench: BenchRobot = useMemo(() => benchRobot(robot, seed), [seed]);
  const [stage, setStage] = useState<Stage>({ at: "nudge", shaft: 0 });
  const [answers, setAnswers] = useState<readonly Answer[]>([]);
  const [moving, setMoving] = useState<readonly NudgeSeen[]>([]);
  const [message, setMessage] = useState<string | null>(null);
  const first = problems.find((problem) => problem.severity === "error");

  if (first || driveKind(robot.drive).motors === 1)
    return (
      <Panel title="First roll" label="First roll" close={() => showPanel("none")}>
        <p>
          {first
            ? `A first roll needs a robot that can drive. ${first.message} ${first.mend}`
            : "A car type has one motor: if it drives backwards, switch Reversed on its motor."}
        </p>
      </Panel>
    );

  const wheels = benchWheels(robot);
  const nameOf = (shaft: number) => wheels[shaft]?.name ?? "";
  const doNudge = (shaft: number) => {
    const seen = nudge(robot, bench, shaft);
    if (!seen) return setMessage(`The ${nameOf(shaft)} motor is not wired. Let the wiring be proposed first.`);
    setMessage(null);
    setMoving([seen]);
    setStage({ at: "answer", shaft });
  };
  const begin = (words: string | null) => {
    setMessage(words);
    setAnswers([]);
    setMoving([]);
    setStage({ at: "nudge", shaft: 0 });
  };
  const answer = (wheel: number, direction: "forward" | "back") => {
    if (stage.at !== "answer") return;
    const now = [...answers, { wheel, direction }];
    setAnswers(now);
    setMoving([]);
    if (now.length < wheels.length) return setStage({ at: "nudge", shaft: now.length });
    const result = applyAnswers(robot, now);
    if (!result.ok) return begin(result.message);
    if (result.robot !== robot) change(result.robot, "first roll");
    setMessage(
      result.changes.length === 0 ? "All was as described." : `Set from your answers: ${result.changes.join("; ")}.`,
    );
    setStage({ at: "check" });
  };
  const all = () => {
    setMoving(wheels.flatMap((_, shaft) => nudge(robot, bench, shaft) ?? []));
    setStage({ at: "done" });
  };
  const two = wheels.length === 2;
  const every = two ? "Both" : "All";
  const allForward =
    stage.at === "done" && moving.length === wheels.length && moving.every(({ direction }) => direction === "forward");
  return (
    <Panel title="First roll" label="First roll" close={() => showPanel("none")}>
      <p>
        {stage.at === "nudge" &&
          `Nudge what is described as the ${nameOf(stage.shaft)} ${two ? "side" : "wheel"}, and watch the robot.`}
        {stage.at === "answer" && "Which wheel turned, and which way? Press that wheel, at the end it rolls towards."}
        {stage.at === "check" && `Now ${every.toLowerCase()} forward, as the check.`}
        {stage.at === "done" &&
          (allForward
            ? `${every} wheels turned forward. Ports and directions are right.`
            : `Not ${every.toLowerCase()} went forward. Begin again.`)}
      </p>
      {message && <p className="note warning">{message}</p>}
      <BenchDrawing wheels={placed(wheels)} moving={moving} asking={stage.at === "answer"} answer={answer} />
      <div className="acts">
        {stage.at === "nudge" && (
          <Button variant="contained" onClick={() => doNudge(stage.shaft)}>
            Nudge {nameOf(stage.shaft)}
          </Button>
        )}
        {stage.at === "answer" && (
          <Button variant="outlined" onClick={() => doNudge(stage.shaft)}>
            Nudge {nameOf(stage.shaft)} again
          </Button>
        )}
        {stage.at === "check" && (
          <Button variant="contained" onClick={all}>
            {every} forward
          </Button>
        )}
        {(stage.at === "done" || stage.at === "check") && (
          <Button variant="outlined" onClick={() => begin(null)}>
            Begin again
          </Button>
        )}
      </div>
    </Panel>
  );
}

/** A wheel as the bench shows it: where its middle lies in the drawing, and how its rolling is turned. */
interface BenchWheel {
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly aimDeg: number;
}

/** Size of the drawing, and of a wheel in it. */
const BENCH = { width: 330, height: 180, middleX: 165, middleY: 90 } as const;

/** Two wheels lie in the middle of their sides; more lie where they are on the robot. */
function placed(wheels: ReturnType<typeof benchWheels>): BenchWheel[] {
  const aheads = wheels.map(({ lead }) => Math.abs(lead.wheel.xM));
  const asides = wheels.map(({ lead }) => Math.abs(lead.wheel.yM));
  const [far, wide] = [Math.max(...aheads), Math.max(...asides)];
  return wheels.map(({ name, lead: { wheel } }) => ({
    name,
    x: BENCH.middleX + (wheels.length === 2 || far === 0 ? 0 : (wheel.xM / far) * 72),
    y: BENCH.middleY - (wide === 0 ? 0 : (wheel.yM / wide) * 59),
    aimDeg: (-wheel.aimRad * 180) / Math.PI,
  }));
}

/** The robot on the bench: treads run on the wheels that turn; with a question open the wheels are buttons. */
function BenchDrawing({
  wheels,
  moving,
  asking,
  answer,
}: {
  wheels: readonly BenchWheel[];
  moving: readonly NudgeSeen[];
  asking: boolean;
  answer(wheel: number, direction: "forward" | "back"): void;
}) {
  const [phase, setPhase] = useState(0);
  const running = moving.length > 0;
  useEffect(() => {
    if (!running) return;
    let frame = 0;
    let begun: number | null = null;
    const draw = (now: number) => {
      begun ??= now;
      setPhase(((now - begun) / 1000) * 40);
      frame = requestAnimationFrame(draw);
    };
    frame = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(frame);
  }, [running]);
  const long = wheels.length === 2 ? 90 : 62;
  // Two wheels leave room for words at their ends.
  const over = wheels.length === 2 ? { width: 270, height: 40 } : { width: long, height: 30 };
  const drawn = ({ name, x, y, aimDeg }: BenchWheel, index: number) => {
    const seen = moving.find((one) => one.wheel === index);
    const shift = seen ? (seen.direction === "forward" ? phase : -phase) % 12 : 0;
    return (
      <g
        key={name}
        transform={`translate(${x} ${y}) rotate(${aimDeg}) translate(${-long / 2} -15)`}
        data-turning={seen ? `${name} ${seen.direction}` : undefined}
      >
        <rect width={long} height="30" rx="6" className="wheel" />
        {Array.from({ length: Math.floor(long / 12) + 2 }, (_, i) => {
          const at = Math.max(2, Math.min(long - 2, i * 12 - 8 + shift));
          // biome-ignore lint/suspicious/noArrayIndexKey: the treads of a tyre
          return <line key={i} x1={at} x2={at} y1="3" y2="27" className="tread" />;
        })}
      </g>
    );
  };
  return (
    <div className="bench">
      <svg
        viewBox={`0 0 ${BENCH.width} ${BENCH.height}`}
        role="img"
        aria-label={
          moving.length === 0
            ? "The robot stands still"
            : moving.map((one) => `The ${wheels[one.wheel]?.name ?? ""} wheel turns ${one.direction}`).join(". ")
        }
      >
        <rect x="70" y="46" width="190" height="88" rx="10" className="chassis" />
        <g className="forward" transform="translate(285 90)">
          <path d="M0 0H34M34 0l-8 -4v8z" />
          <text x="16" y="-8" textAnchor="middle">
            forward
          </text>
        </g>
        {wheels.map(drawn)}
        {wheels.map(({ name, x, y }) => (
          <text
            key={name}
            x={wheels.length === 2 ? x : x + (BENCH.middleX - x) * 0.3}
            y={y > BENCH.middleY ? y - 24 : y + 32}
            textAnchor="middle"
            className="sidename"
          >
            {name}
          </text>
        ))}
      </svg>
      {asking &&
        wheels.map(({ name, x, y, aimDeg }, index) => (
          <div
            key={name}
            className={wheels.length === 2 ? "wheelends wide" : "wheelends"}
            style={{
              left: `${((x - over.width / 2) / BENCH.width) * 100}%`,
              top: `${((y - over.height / 2) / BENCH.height) * 100}%`,
              width: `${(over.width / BENCH.width) * 100}%`,
              height: `${(over.height / BENCH.height) * 100}%`,
              transform: `rotate(${aimDeg}deg)`,
            }}
          >
            <button type="button" aria-label={`${name} wheel, back`} onClick={() => answer(index, "back")}>
              {wheels.length === 2 ? "← back" : "←"}
            </button>
            <button type="button" aria-label={`${name} wheel, forward`} onClick={() => answer(index, "forward")}>
              {wheels.length === 2 ? "forward →" : "→"}
            </button>
          </div>
        ))}
    </div>
  );
}
