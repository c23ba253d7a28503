// A quantity edited where it stands: click or type, drag sideways, arrow keys by one digit, Shift by ten.
// The unit is converted, never dropped; what cannot be read says why and stays as it was typed.
import { useEffect, useRef, useState } from "react";
import { LineEditor } from "./LineEditor.js";
import { readTyped, written } from "./reading.js";
import { Spinner } from "./Spinner.js";

interface Props {
  /** As typed: "30". */
  digits: string;
  unit: string;
  /** For screen readers: what the number is. */
  label: string;
  onChange(text: string, how: "typed" | "stepped"): void;
  /** Why a value may not be taken, as a sentence; null when it may. Digits in the unit shown. */
  refuse?(digits: string): string | null;
  /** For screen readers and tests: a description that stands beside it. */
  describedBy?: string;
  /** Offers to give the number a name; returns why a name may not be taken, or null once it is. */
  nameIt?(name: string): string | null;
}

type State = { readonly is: "shown" } | { readonly is: "edited"; readonly from: string } | { readonly is: "named" };

export function QuantityField({ digits, unit, label, onChange, refuse, describedBy, nameIt }: Props) {
  const [state, setState] = useState<State>({ is: "shown" });
  const spin = useRef<HTMLSpanElement>(null);
  const refocus = useRef(false);
  const { is } = state;

  useEffect(() => {
    if (is !== "shown" || !refocus.current) return;
    refocus.current = false;
    spin.current?.focus();
  }, [is]);

  const close = (stay: boolean): null => {
    refocus.current = stay;
    setState({ is: "shown" });
    return null;
  };
  const take = (text: string, stay: boolean): string | null => {
    if (text === written(digits, unit) || text === "") return close(stay);
    const read = readTyped(text, unit, refuse);
    if (!read.ok) return read.message;
    close(stay);
    onChange(read.text, "typed");
    return null;
  };
  const takeName = (name: string): string | null => {
    const why = name === "" ? null : (nameIt?.(name) ?? null);
    return why === null ? close(false) : why;
  };

  if (is === "named")
    return (
      <LineEditor
        label={`Name for ${written(digits, unit)}`}
        first={{ text: "", selected: false }}
        placeholder="name"
        width={10}
        take={takeName}
        leave={() => close(true)}
      />
    );
  if (is === "edited")
    return (
      <LineEditor
        label={label}
        first={{ text: state.from, selected: state.from === written(digits, unit) }}
        width={5}
        take={take}
        leave={() => close(true)}
      >
        {nameIt && (
          <button
            type="button"
            className="mend"
            onPointerDown={(event) => event.preventDefault()}
            onClick={(event) => {
              event.stopPropagation();
              setState({ is: "named" });
            }}
          >
            name it
          </button>
        )}
      </LineEditor>
    );
  return (
    <Spinner
      ref={spin}
      digits={digits}
      unit={unit}
      label={label}
      describedBy={describedBy}
      refuse={refuse}
      onStep={(next) => onChange(written(next, unit), "stepped")}
      onEdit={(from) => setState({ is: "edited", from })}
      onName={nameIt ? () => setState({ is: "named" }) : undefined}
    />
  );
}
