// Where a person's tape found the robot after a run, typed from its begin place; a stand-in's own tape stands there
// until somebody types another.
import {
  composePoses,
  differenceWords,
  findUnit,
  inversePose,
  plainDigits,
  poseAt,
  poseDifference,
  readQuantity,
  type TypedTape,
} from "@giddy-pebble/core";
import { useEffect, useState } from "react";
import type { TrialView } from "../../shared/api.js";
import { Typed } from "../../shared/controls.js";
import { type ShownTrial, tapeOf, useTrials, writeTape } from "./store.js";

const PARTS = [
  { id: "alongM", label: "along", unit: "cm", digits: 1 },
  { id: "asideM", label: "aside, left +", unit: "mm", digits: 0 },
  { id: "headingRad", label: "looks, left +", unit: "deg", digits: 1 },
] as const;
type PartId = (typeof PARTS)[number]["id"];
type Texts = Record<PartId, string>;
const EMPTY: Texts = { alongM: "", asideM: "", headingRad: "" };

/** What the tape says, seen from where the run began. */
function readingOf(shown: ShownTrial): TypedTape | null {
  if (shown.trial.tape) return shown.trial.tape;
  const [begin, tape] = [poseAt(shown.trace, 0), tapeOf(shown)];
  if (!begin || !tape) return null;
  const { xM, yM, headingRad } = composePoses(inversePose(begin), tape);
  return { alongM: xM, asideM: yM, headingRad };
}

function textsOf(reading: TypedTape | null): Texts {
  if (!reading) return EMPTY;
  const text = (part: (typeof PARTS)[number]) => {
    const value = reading[part.id];
    return value === null ? "" : `${plainDigits(value / (findUnit(part.unit)?.scale ?? 1), part.digits)} ${part.unit}`;
  };
  return Object.fromEntries(PARTS.map((part) => [part.id, text(part)])) as Texts;
}

/** The three of them in SI; null when all are empty; a sentence when one cannot be read. */
function read(texts: Texts): TypedTape | null | string {
  if (PARTS.every(({ id }) => texts[id].trim() === "")) return null;
  const values: Partial<Record<PartId, number>> = {};
  for (const { id, label, unit } of PARTS) {
    const text = texts[id].trim().replace("−", "-");
    if (text === "" && id === "headingRad") continue;
    if (text === "") return `Type what the tape says ${label.split(",")[0]} too, or leave all three empty.`;
    const dimension = findUnit(unit)?.dimension;
    const quantity = dimension ? readQuantity(text, dimension, unit) : null;
    if (!quantity?.ok) return quantity?.message ?? "This is not a number.";
    values[id] = quantity.quantity.value;
  }
  return { alongM: values.alongM ?? 0, asideM: values.asideM ?? 0, headingRad: values.headingRad ?? null };
}

export function Tape({ trial }: { trial: TrialView }) {
  const shown = useTrials((state) => state.shown.find((one) => one.trial.id === trial.id));
  const written = JSON.stringify(shown ? textsOf(readingOf(shown)) : EMPTY);
  const [texts, setTexts] = useState<Texts>(EMPTY);
  const [wrong, setWrong] = useState<string | null>(null);
  useEffect(() => {
    setTexts(JSON.parse(written));
    setWrong(null);
  }, [written]);
  if (!shown) return null;
  const commit = () => {
    if (JSON.stringify(texts) === written) return setWrong(null);
    const reading = read(texts);
    if (typeof reading === "string") return setWrong(reading);
    setWrong(null);
    void writeTape(trial, reading);
  };
  const [end, tape] = [poseAt(shown.trace, Number.POSITIVE_INFINITY), tapeOf(shown)];
  const off = end && tape ? differenceWords(poseDifference(end, tape)) : null;
  return (
    <div className="trialtape">
      <p className="quiet">
        Tape, from its start place{trial.tape === null && tape ? ", as the simulated robot's own tape found it" : ""}
      </p>
      <div className="trialtapecells">
        {PARTS.map(({ id, label, unit }) => (
          <label key={id}>
            <span className="quiet">{label}</span>
            <Typed
              className="mono"
              aria-label={`Tape ${label.split(",")[0]} of this run of ${trial.mission.name}`}
              placeholder={unit}
              value={texts[id]}
              onChange={(event) => setTexts({ ...texts, [id]: event.target.value })}
              onBlur={(event) => {
                // A reading is three numbers: it is taken when one leaves them.
                if (!event.currentTarget.closest(".trialtapecells")?.contains(event.relatedTarget)) commit();
              }}
              onKeyDown={(event) => {
                if (event.key === "Enter") commit();
                if (event.key === "Escape") setTexts(JSON.parse(written));
              }}
            />
          </label>
        ))}
      </div>
      {wrong && (
        <p className="wrong" role="alert">
          {wrong}
        </p>
      )}
      {off && <p>The tape finds it {off} from where the robot thinks it is.</p>}
    </div>
  );
}
