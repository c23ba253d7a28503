// One thing chosen from words, in a row with its name; and colours by their names.
import { COLOUR_NAMES, linearRgb, nameColour, plateHex } from "@giddy-pebble/core";
import TextField from "@mui/material/TextField";

export function Choice(props: {
  label: string;
  value: string;
  options: readonly (readonly [value: string, words: string])[];
  onChange: (value: string) => void;
}) {
  return (
    <div className="quantityrow">
      <span>{props.label}</span>
      <TextField
        select
        size="small"
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
        slotProps={{ select: { native: true }, htmlInput: { "aria-label": props.label } }}
      >
        {props.options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </TextField>
    </div>
  );
}

export const COLOURS: readonly (readonly [string, string])[] = COLOUR_NAMES.map((name) => [plateHex(name), name]);

/** A colour of its own by the name it is nearest to. */
export function likeWords(hex: string): string {
  return `nearly ${COLOUR_NAMES[nameColour(linearRgb(hex)).index] ?? "grey"}`;
}
