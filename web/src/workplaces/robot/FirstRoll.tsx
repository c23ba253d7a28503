// First roll: nudge one side, say which wheel turned and which way; ports and reversal are set from the answers.
import { type Answer, applyAnswers, type BenchRobot, benchRobot, type NudgeSeen, nudge } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useMemo, useState } from "react";
import { Panel } from "../../shared/Panel.js";
import { useRobot } from "./state.js";
import { change, showPanel } from "./store.js";

type Side = "left" | "right";
type Stage =
  | { readonly at: "nudge"; readonly side: Side }
  | { readonly at: "answer"; readonly side: Side }
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
  const [stage, setStage] = useState<Stage>({ at: "nudge", side: "left" });
  const [answers, setAnswers] = useState<Partial<Record<Side, Answer>>>({});
  const [moving, setMoving] = useState<readonly NudgeSeen[]>([]);
  const [message, setMessage] = useState<string | null>(null);
  const first = problems.find((problem) => problem.severity === "error");

  if (first || robot.drive.kind === "car")
    return (
      <Panel title="First roll" label="First roll" close={() => showPanel("none")}>
        <p>
          {first
            ? `A first roll needs a robot that can drive. ${first.message} ${first.mend}`
            : "A car type has one motor: if it drives backwards, switch Reversed on its motor."}
        </p>
      </Panel>
    );

  const doNudge = (side: Side) => {
    const seen = nudge(robot, bench, side);
    if (!seen) return setMessage(`The ${side} motor is not wired. Let the wiring be proposed first.`);
    setMessage(null);
    setMoving([seen]);
    setStage({ at: "answer", side });
  };
  const answer = (wheel: Side, direction: "forward" | "back") => {
    if (stage.at !== "answer") return;
    const now = { ...answers, [stage.side]: { wheel, direction } };
    setAnswers(now);
    setMoving([]);
    if (stage.side === "left") return setStage({ at: "nudge", side: "right" });
    const { left, right } = now;
    if (!left || !right) return setStage({ at: "nudge", side: "left" });
    const result = applyAnswers(robot, { left, right });
    if (!result.ok) {
      setMessage(result.message);
      setAnswers({});
      return setStage({ at: "nudge", side: "left" });
    }
    if (result.robot !== robot) change(result.robot, "first roll");
    setMessage(
      result.changes.length === 0 ? "All was as described." : `Set from your answers: ${result.changes.join("; ")}.`,
    );
    setStage({ at: "check" });
  };
  const both = () => {
    const seen = [nudge(robot, bench, "left"), nudge(robot, bench, "right")].filter(
      (one): one is NudgeSeen => one !== null,
    );
    setMoving(seen);
    setStage({ at: "done" });
  };
  const allForward =
    stage.at === "done" && moving.length === 2 && moving.every(({ direction }) => direction === "forward");
  return (
    <Panel title="First roll" label="First roll" close={() => showPanel("none")}>
      <p>
        {stage.at === "nudge" && `Nudge what is described as the ${stage.side} side, and watch the robot.`}
        {stage.at === "answer" && "Which wheel turned, and which way? Press that wheel, at the end it rolls towards."}
        {stage.at === "check" && "Now both forward, as the check."}
        {stage.at === "done" &&
          (allForward
            ? "Both wheels turned forward. Ports and directions are right."
            : "Not both went forward. Begin again.")}
      </p>
      {message && <p className="note warning">{message}</p>}
      <BenchDrawing moving={moving} asking={stage.at === "answer"} answer={answer} />
      <div className="acts">
        {stage.at === "nudge" && (
          <Button variant="contained" onClick={() => doNudge(stage.side)}>
            Nudge {stage.side}
          </Button>
        )}
        {stage.at === "answer" && (
          <Button variant="outlined" onClick={() => doNudge(stage.side)}>
            Nudge {stage.side} again
          </Button>
        )}
        {stage.at === "check" && (
          <Button variant="contained" onClick={both}>
            Both forward
          </Button>
        )}
        {(stage.at === "done" || stage.at === "check") && (
          <Button
            variant="outlined"
            onClick={() => {
              setAnswers({});
              setMoving([]);
              setMessage(null);
              setStage({ at: "nudge", side: "left" });
            }}
          >
            Begin again
          </Button>
        )}
      </div>
    </Panel>
  );
}

/** The robot on the bench: treads run on the wheels that turn; with a question open the wheels are buttons. */
function BenchDrawing({
  moving,
  asking,
  answer,
}: {
  moving: readonly NudgeSeen[];
  asking: boolean;
  answer(wheel: Side, direction: "forward" | "back"): void;
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
  const wheel = (side: Side) => {
    const seen = moving.find((one) => one.wheel === side);
    const shift = seen ? (seen.direction === "forward" ? phase : -phase) % 12 : 0;
    const y = side === "left" ? 16 : 134;
    return (
      <g key={side} transform={`translate(120 ${y})`} data-turning={seen ? `${side} ${seen.direction}` : undefined}>
        <rect width="90" height="30" rx="6" className="wheel" />
        {[0, 1, 2, 3, 4, 5, 6, 7, 8].map((i) => (
          <line
            key={i}
            x1={Math.max(2, Math.min(88, i * 12 - 8 + shift))}
            x2={Math.max(2, Math.min(88, i * 12 - 8 + shift))}
            y1="3"
            y2="27"
            className="tread"
          />
        ))}
      </g>
    );
  };
  return (
    <div className="bench">
      <svg
        viewBox="0 0 330 180"
        role="img"
        aria-label={
          moving.length === 0
            ? "The robot stands still"
            : moving.map((one) => `The ${one.wheel} wheel turns ${one.direction}`).join(". ")
        }
      >
        <rect x="70" y="46" width="190" height="88" rx="10" className="chassis" />
        <g className="forward" transform="translate(275 90)">
          <path d="M0 0H34M34 0l-8 -4v8z" />
          <text x="16" y="-8" textAnchor="middle">
            forward
          </text>
        </g>
        {wheel("left")}
        {wheel("right")}
        <text x="165" y="66" textAnchor="middle" className="sidename">
          left
        </text>
        <text x="165" y="122" textAnchor="middle" className="sidename">
          right
        </text>
      </svg>
      {asking &&
        (["left", "right"] as const).map((side) => (
          <div key={side} className={`wheelends ${side}`}>
            <button type="button" aria-label={`${side} wheel, back`} onClick={() => answer(side, "back")}>
              ← back
            </button>
            <button type="button" aria-label={`${side} wheel, forward`} onClick={() => answer(side, "forward")}>
              forward →
            </button>
          </div>
        ))}
    </div>
  );
}
