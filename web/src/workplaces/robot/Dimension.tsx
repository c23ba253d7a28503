// A dimension line with its number, edited where it stands.
import { findUnit, plainDigits, readQuantity, shownQuantity } from "@giddy-pebble/core";
import { QuantityField } from "../../shared/quantity/QuantityField.js";

const LENGTH = findUnit("mm")?.dimension;

/** Metres from what was typed, such as "62 mm" or "2.5 in"; null when it is not a length. */
function typedMetres(text: string): number | null {
  if (!LENGTH) return null;
  const read = readQuantity(text, LENGTH, "mm");
  return read.ok ? read.quantity.value : null;
}

interface Props {
  label: string;
  caption: string;
  /** Ends, in pixels of the pane. */
  x1: number;
  y1: number;
  x2: number;
  y2: number;
  valueM: number;
  /** Upright lines: the number stands on the right of the line. */
  after?: boolean;
  onChange(valueM: number): void;
}

export function Dimension({ label, caption, x1, y1, x2, y2, valueM, after = false, onChange }: Props) {
  const upright = x1 === x2;
  const left = Math.min(x1, x2);
  const top = Math.min(y1, y2);
  const width = Math.abs(x2 - x1);
  const height = Math.abs(y2 - y1);
  return (
    <>
      <svg
        className="dimline"
        aria-hidden="true"
        style={{ left: left - 4, top: top - 4 }}
        width={width + 8}
        height={height + 8}
      >
        <line x1={4} y1={4} x2={4 + width} y2={4 + height} />
        <circle cx={4} cy={4} r={2.5} />
        <circle cx={4 + width} cy={4 + height} r={2.5} />
      </svg>
      <span
        className={upright ? `dimension upright${after ? " after" : ""}` : "dimension"}
        style={upright ? { left: after ? x1 + 6 : x1 - 6, top: (y1 + y2) / 2 } : { left: (x1 + x2) / 2, top: y1 - 12 }}
      >
        <QuantityField
          digits={plainDigits(valueM * 1000, 1)}
          unit="mm"
          label={`${label}: ${shownQuantity(valueM, { unit: "mm", perSi: 1000, digits: 1 })}`}
          refuse={() => null}
          onChange={(text) => {
            const value = typedMetres(text);
            if (value !== null) onChange(value);
          }}
        />
        {caption !== "" && <small>{caption}</small>}
      </span>
    </>
  );
}
