// Numbers typed while drawing: how far and which way from the last point, or a place of the first one.
import { ANGLE, LENGTH, type Point, readQuantity } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useLayoutEffect, useRef, useState } from "react";
import { pointFrom, takesOf } from "./drawing.js";
import { useField } from "./state.js";
import { addPoint, finishDrawing, lastPoint } from "./store.js";

interface Read {
  readonly point: Point | null;
  readonly trouble: string | null;
}

/** @param from - the last point; null reads a place: along and up */
function readTyped(first: string, second: string, from: Point | null): Read {
  const a = readQuantity(first, LENGTH, "cm");
  if (!a.ok) return { point: null, trouble: a.message };
  if (from === null) {
    const b = readQuantity(second === "" ? "0 cm" : second, LENGTH, "cm");
    if (!b.ok) return { point: null, trouble: b.message };
    return { point: [a.quantity.value, b.quantity.value], trouble: null };
  }
  const b = readQuantity(second === "" ? "0 deg" : second, ANGLE, "deg");
  if (!b.ok) return { point: null, trouble: b.message };
  return { point: pointFrom(from, a.quantity.value, b.quantity.value), trouble: null };
}

export function TypedNumbers() {
  const typed = useField((state) => state.typed);
  const tool = useField((state) => state.tool);
  const points = useField((state) => state.drawing?.points.length ?? 0);
  const [trouble, setTrouble] = useState<string | null>(null);
  const first = useRef<HTMLInputElement>(null);
  const open = typed !== null;
  // Before the next key comes: whoever types fast loses no digit.
  // biome-ignore lint/correctness/useExhaustiveDependencies: each point begins anew at the first number
  useLayoutEffect(() => {
    if (open) first.current?.focus();
    setTrouble(null);
  }, [open, points]);
  if (!typed) return null;
  const from = lastPoint();
  const box = takesOf(tool) === "outline" && points === 1;
  const take = () => {
    const read = box ? readBox(typed.first, typed.second, from) : readTyped(typed.first, typed.second, from);
    if (!read.point) return setTrouble(read.trouble);
    useField.setState({ typed: { first: "", second: "" } });
    const { point } = read;
    if (box) {
      const { drawing } = useField.getState();
      if (drawing) useField.setState({ drawing: { ...drawing, points: [...drawing.points, point], dragged: true } });
      return finishDrawing();
    }
    addPoint(point);
    if (useField.getState().drawing === null) useField.setState({ typed: null });
  };
  const labels = box ? ["Width", "Depth"] : from ? ["Length", "Direction"] : ["Along", "Up"];
  return (
    <form
      className="typednumbers"
      data-over
      aria-label="Numbers of the next point"
      onSubmit={(event) => {
        event.preventDefault();
        take();
      }}
      onKeyDown={(event) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        useField.setState({ typed: null });
      }}
    >
      <TextField
        inputRef={first}
        size="small"
        label={labels[0]}
        value={typed.first}
        placeholder="60 cm"
        onChange={(event) => useField.setState({ typed: { ...typed, first: event.target.value } })}
      />
      <TextField
        size="small"
        label={labels[1]}
        value={typed.second}
        placeholder={from && !box ? "45 deg" : "40 cm"}
        onChange={(event) => useField.setState({ typed: { ...typed, second: event.target.value } })}
      />
      <Button type="submit" variant="contained">
        Place
      </Button>
      {points > 1 && (
        <Button variant="outlined" onClick={finishDrawing}>
          Done
        </Button>
      )}
      {trouble && (
        <span className="bubble" role="alert">
          {trouble}
        </span>
      )}
    </form>
  );
}

/** The opposite corner of a box, by its width and depth. */
function readBox(first: string, second: string, from: Point | null): Read {
  const [a, b] = [readQuantity(first, LENGTH, "cm"), readQuantity(second, LENGTH, "cm")];
  if (!a.ok) return { point: null, trouble: a.message };
  if (!b.ok) return { point: null, trouble: b.message };
  const [x, y] = from ?? [0, 0];
  return { point: [x + a.quantity.value, y + b.quantity.value], trouble: null };
}
