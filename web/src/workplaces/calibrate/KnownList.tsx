// What is known of the robot: every procedure with its present value, where it comes from and what it is worth.
import { PROCEDURES, type Procedure, type Robot, type Worth, withError } from "@giddy-pebble/core";
import type { CalibrationView } from "../../shared/api.js";
import { Pick } from "../../shared/controls.js";
import { Pebble, type PebbleFill } from "../../shared/Pebble.js";
import { Foot } from "../../shared/shell/Shell.js";
import { chooseNext } from "./CalibrateWorkplace.js";
import { type CalibrateState, rowsOf, useCalibrate } from "./state.js";
import { choose, openRobot } from "./store.js";
import { weigh } from "./weighing.js";

interface Line {
  readonly fill: PebbleFill;
  readonly value: string;
  readonly from: string;
}

/** Newest calibration of a procedure. */
function latest(history: readonly CalibrationView[], procedure: Procedure): CalibrationView | undefined {
  return history.find(({ quantity }) => quantity === procedure.id);
}

function lineOf(state: CalibrateState, procedure: Procedure, robot: Robot): Line {
  const unfit = procedure.unfit(robot);
  if (unfit !== null) return { fill: "hollow", value: "", from: unfit };
  const rows = rowsOf(state, procedure).filter(({ struck }) => !struck).length;
  const known = procedure.present(robot)[0];
  const before = latest(state.history, procedure);
  const day = before ? new Date(before.createdAt).toLocaleDateString("en-GB", { day: "numeric", month: "short" }) : "";
  const value = known ? withError(known.estimate.value, known.estimate.standardError, known.shown) : "";
  const measuring = rows > 0 ? `${rows} row${rows === 1 ? "" : "s"} in the table` : null;
  if (known && known.estimate.count > 0)
    return {
      fill: rows > 0 ? "half" : "full",
      value,
      from: measuring ?? `${known.estimate.count} rows${day ? ` of ${day}` : ""}`,
    };
  if (before) return { fill: "full", value, from: measuring ?? `${before.result.title ?? "measured"}, ${day}` };
  return { fill: known ? "half" : "hollow", value, from: measuring ?? (known ? "from the drawing" : "not measured") };
}

function worthOf(worth: readonly Worth[] | null, procedure: Procedure): Worth | null {
  return worth?.find((one) => one.procedure === procedure.id) ?? null;
}

export function KnownList() {
  const state = useCalibrate();
  const { open, robots, procedure, worth, missions, worthMission, undo } = state;
  if (!open) return null;
  const mission = missions.find(({ id }) => id === worthMission);
  return (
    <section className="knowns" aria-label="What is known">
      <header>
        <h1>
          What is known of{" "}
          <Pick aria-label="Robot" value={open.id} onChange={(event) => void openRobot(event.target.value)}>
            {robots.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Pick>
        </h1>
        <p className="quiet">version {open.number}</p>
      </header>
      <ul
        onKeyDown={(event) => {
          if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
          event.preventDefault();
          chooseNext(event.key === "ArrowDown" ? 1 : -1);
          requestAnimationFrame(() => document.querySelector<HTMLElement>(".knowns [aria-current='true']")?.focus());
        }}
      >
        {PROCEDURES.map((one) => {
          const { fill, value, from } = lineOf(state, one, open.robot);
          const unfit = one.unfit(open.robot) !== null;
          const own = worthOf(worth, one);
          return (
            <li key={one.id}>
              <button
                type="button"
                aria-current={one === procedure}
                className={unfit ? "unfit" : ""}
                title={unfit ? from : one.purpose}
                onClick={() => choose(one)}
              >
                <Pebble fill={fill} width={16} />
                <span className="name">{one.title}</span>
                <span className="mono value">{value}</span>
                <span className="quiet from">
                  {unfit ? "does not apply to this robot" : from}
                  {own && own.mostM >= 0.0005 && ` · effect ${(own.mostM * 1000).toFixed(0)} mm`}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      <footer>
        <label>
          Effect on{" "}
          <Pick
            aria-label="Mission whose end it moves"
            value={worthMission ?? ""}
            onChange={(event) => void weigh(event.target.value)}
          >
            {!mission && <option value="">no mission</option>}
            {missions.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Pick>
        </label>
        <NextOne worth={worth} />
      </footer>
      <Foot canUndo={undo.length > 0} />
    </section>
  );
}

/** Which calibration pays most now. */
function NextOne({ worth }: { worth: readonly Worth[] | null }) {
  if (worth === null) return <p className="quiet">Working out the effect…</p>;
  const first = worth.find(({ procedure }) => procedure !== null);
  const procedure = PROCEDURES.find(({ id }) => id === first?.procedure);
  if (!first || !procedure || first.mostM < 0.001)
    return <p className="quiet">Uncertainty here feeds every rehearsal.</p>;
  return (
    <p>
      Measure next:{" "}
      <button type="button" className="plain link" onClick={() => choose(procedure)}>
        {procedure.title}
      </button>
      . One standard error of the {first.words} moves the mission {(first.mostM * 1000).toFixed(0)} mm
      {first.step ? ` by step ${first.step}` : ""}.
    </p>
  );
}
