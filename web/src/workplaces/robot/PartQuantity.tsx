// One quantity of a part, edited in place: shown in people's units, kept in SI, refused with a reason.
import {
  findUnit,
  type Known,
  plainDigits,
  type QuantityInfo,
  rangeFault,
  readQuantity,
  shownQuantity,
} from "@giddy-pebble/core";
import { QuantityField } from "../../shared/quantity/QuantityField.js";

interface Props {
  info: QuantityInfo;
  value: number;
  known: Known | null;
  /** What the drawing says of a known now; null for what no drawing gives. */
  drawn?: number | null;
  onChange(value: number, how: "typed" | "stepped"): void;
  onDrawing?: (() => void) | undefined;
}

/** SI value of what a field gave back: its own unit, or one that converts to it. */
function siValue(text: string, info: QuantityInfo): number | null {
  const { unit, perSi } = info.shown;
  const dimension = unit === "" ? findUnit("%")?.dimension : findUnit(unit)?.dimension;
  if (dimension) {
    const read = readQuantity(text, dimension, unit === "" ? undefined : unit);
    return read.ok ? read.quantity.value : null;
  }
  const number = Number.parseFloat(text);
  return Number.isFinite(number) ? number / perSi : null;
}

function monthDay(iso: string): string {
  return new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "short", timeZone: "UTC" });
}

/** Where a known's value comes from, in a few words. */
function sourceWords(known: Known, info: QuantityInfo): string {
  if (known.source === "drawing") return info.hint ?? "as drawn, nobody measured it";
  if (known.source === "typed") return known.method === "" ? "typed" : `typed, ${known.method}`;
  const runs = known.count === 1 ? "1 run" : `${known.count} runs`;
  return `measured${known.measuredAt ? ` ${monthDay(known.measuredAt)}` : ""}, ${runs}`;
}

/** Typed or measured values this far from the drawing are said to disagree with it: most knowns differ by less. */
const DISAGREES = { share: 0.05, errors: 4 } as const;

/** What the drawing says, when the value in use says something else; null when they agree. */
function disagreement(known: Known | null, drawn: number | null, info: QuantityInfo): string | null {
  if (!known || known.source === "drawing" || drawn === null || drawn === 0) return null;
  const off = Math.abs(known.value - drawn);
  const enough = Math.max(DISAGREES.share * Math.abs(drawn), DISAGREES.errors * (known.standardError ?? 0));
  return off > enough ? `The drawing says ${shownQuantity(drawn, info.shown)}.` : null;
}

export function PartQuantity({ info, value, known, drawn = null, onChange, onDrawing }: Props) {
  const { unit, perSi, digits } = info.shown;
  const text = plainDigits(value * perSi, digits);
  const differs = disagreement(known, drawn, info);
  const hint = known ? sourceWords(known, info) : (info.hint ?? null);
  const refuse = (typed: string): string | null => {
    const fault = rangeFault(Number(typed) / perSi, info);
    return fault === null ? null : `${info.label} ${fault}.`;
  };
  return (
    <div className="quantityrow">
      <span>
        {info.label}
        {hint && <small>{hint}</small>}
        {differs && <small className="differs">{differs}</small>}
        {known && known.source !== "drawing" && onDrawing && (
          <button type="button" className="plain link" onClick={onDrawing}>
            {info.found ? "forget it" : "use the drawing"}
          </button>
        )}
      </span>
      <span className="value">
        <QuantityField
          digits={text}
          unit={unit}
          label={info.label}
          refuse={refuse}
          onChange={(typed, how) => {
            const next = siValue(typed, info);
            if (next !== null) onChange(next, how);
          }}
        />
        {known?.standardError != null && known.source !== "drawing" && (
          <span className="mono quiet"> ± {plainDigits(known.standardError * perSi, Math.max(digits, 1))}</span>
        )}
      </span>
    </div>
  );
}
