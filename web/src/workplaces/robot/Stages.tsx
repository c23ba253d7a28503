// Gears, belts and chains between what drives a part and the part: kind, teeth, and on a closer look efficiency,
// free play and where a belt slips.

import { addStage, quantityAt, type RobotPart, STAGE_QUANTITIES, type Stage, setPartValue } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { Pick, Typed } from "../../shared/controls.js";
import { Fold } from "../../shared/Fold.js";
import { PartQuantity } from "./PartQuantity.js";
import { useRobot } from "./state.js";
import { change } from "./store.js";

/** Torque at which a small belt slips, N m, until somebody knows better. */
const BELT_SLIPS_NM = 0.3;

/** A stage of another kind: only belts slip. */
function ofKind(stage: Stage, kind: Stage["kind"]): Stage {
  return { ...stage, kind, slipTorqueNm: kind === "belt" ? (stage.slipTorqueNm ?? BELT_SLIPS_NM) : null };
}

/** Gears, belts and chains between what drives a wheel and the wheel. */
export function Stages({ part, stages }: { part: RobotPart; stages: readonly Stage[] }) {
  const robot = useRobot((state) => state.robot);
  const mirror = useRobot((state) => state.mirror);
  const setStages = (next: readonly Stage[]) =>
    change(setPartValue(robot, part.ref, "stages", next, mirror), "gears", `stages ${part.ref}`);
  return (
    <div className="stages">
      <strong>Gears</strong>
      {stages.length === 0 && <span className="quiet"> straight on the shaft</span>}
      {stages.map((stage, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a stage is its place in the chain
        <div className="stage" key={i}>
          <Pick
            aria-label={`Kind of stage ${i + 1}`}
            value={stage.kind}
            onChange={(event) =>
              setStages(stages.map((s, k) => (k === i ? ofKind(s, event.target.value as Stage["kind"]) : s)))
            }
          >
            <option value="gears">gears</option>
            <option value="belt">belt</option>
            <option value="chain">chain</option>
          </Pick>
          <Teeth
            label={`Driving teeth of stage ${i + 1}`}
            value={stage.driverTeeth}
            onChange={(driverTeeth) => setStages(stages.map((s, k) => (k === i ? { ...s, driverTeeth } : s)))}
          />
          drives
          <Teeth
            label={`Driven teeth of stage ${i + 1}`}
            value={stage.drivenTeeth}
            onChange={(drivenTeeth) => setStages(stages.map((s, k) => (k === i ? { ...s, drivenTeeth } : s)))}
          />
          <button
            type="button"
            className="plain"
            aria-label={`Remove stage ${i + 1}`}
            onClick={() => setStages(stages.filter((_, k) => k !== i))}
          >
            ×
          </button>
          <Fold className="stagemore" summary="losses and play">
            {STAGE_QUANTITIES.slice(2).map((info) => {
              const value = quantityAt(stage, info);
              if (value === null) return null;
              return (
                <PartQuantity
                  key={info.path}
                  info={{ ...info, label: `${info.label}, stage ${i + 1}` }}
                  value={value}
                  known={null}
                  onChange={(next) => setStages(stages.map((s, k) => (k === i ? { ...s, [info.path]: next } : s)))}
                />
              );
            })}
          </Fold>
        </div>
      ))}
      <Button size="small" onClick={() => setStages(addStage(stages))}>
        Add a stage
      </Button>
    </div>
  );
}

export function Teeth({ label, value, onChange }: { label: string; value: number; onChange(value: number): void }) {
  return (
    <Typed
      className="teeth mono"
      type="number"
      min={1}
      max={500}
      aria-label={label}
      value={value}
      onChange={(event) => {
        const teeth = Number(event.target.value);
        if (Number.isFinite(teeth)) onChange(Math.floor(teeth));
      }}
    />
  );
}
