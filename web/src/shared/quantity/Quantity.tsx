// A quantity in SI edited in place, in a row with its name: shown in people's units, refused with a reason.
import { findUnit, plainDigits, readQuantity } from "@giddy-pebble/core";
import { QuantityField } from "./QuantityField.js";

interface QuantityProps {
  readonly label: string;
  readonly hint?: string;
  /** SI. */
  readonly value: number;
  /** As it is shown; "" for a plain number, "%" for a share. */
  readonly unit: string;
  readonly digits?: number;
  /** SI. */
  readonly least: number;
  readonly most: number;
  readonly onChange: (value: number, how: "typed" | "stepped") => void;
}

export function Quantity({ label, hint, value, unit, digits = 1, least, most, onChange }: QuantityProps) {
  const scale = unit === "" ? 1 : (findUnit(unit)?.scale ?? 1);
  const said = (si: number) => `${plainDigits(si / scale, 3)}${unit === "" ? "" : ` ${unit}`}`;
  const refuse = (typed: string): string | null => {
    const si = Number(typed) * scale;
    // Half a digit of what is shown: the ends of the range can be typed as they are said.
    const slack = 1e-9 + Math.abs(si) * 1e-9;
    return si < least - slack || si > most + slack ? `${label} is from ${said(least)} to ${said(most)}.` : null;
  };
  return (
    <div className="quantityrow">
      <span>
        {label}
        {hint && <small>{hint}</small>}
      </span>
      <span className="value">
        <QuantityField
          digits={plainDigits(value / scale, digits)}
          unit={unit}
          label={label}
          refuse={refuse}
          onChange={(text, how) => {
            const dimension = findUnit(unit === "" ? "%" : unit)?.dimension;
            const read = dimension ? readQuantity(text, dimension, unit === "" ? undefined : unit) : null;
            const next = read?.ok ? read.quantity.value : Number.parseFloat(text);
            if (Number.isFinite(next)) onChange(Math.max(least, Math.min(most, next)), how);
          }}
        />
      </span>
    </div>
  );
}
