// A drawing that was read: what its colours and groups become, what is left out, and where it goes.
import { plainDigits, SVG_KINDS, type SvgKind } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useMemo, useState } from "react";
import { Panel } from "../../shared/Panel.js";
import { addDrawing, openDrawing, readDrawing, stemOf } from "./files.js";
import { useField } from "./state.js";
import { showPanel } from "./store.js";

const WORDS: Readonly<Record<SvgKind, string>> = {
  mark: "marks on the floor",
  wall: "walls",
  obstacle: "obstacles",
  zone: "zones",
  nothing: "nothing, leave out",
};

function close(): void {
  useField.setState({ file: null });
  showPanel("none");
}

export function DrawingPanel() {
  const file = useField((state) => state.file);
  const [kinds, setKinds] = useState<ReadonlyMap<string, SvgKind>>(new Map());
  const [trouble, setTrouble] = useState<string | null>(null);
  const read = useMemo(
    () => (file?.text === undefined ? null : readDrawing(file.text, stemOf(file.name), kinds)),
    [file, kinds],
  );
  if (!file || !read) return null;
  if (!read.ok)
    return (
      <Panel title="A drawing" label="A drawing" close={close}>
        <p className="note error">{read.problem}</p>
      </Panel>
    );
  const { field, choices, leftOut } = read;
  const counts = [
    [field.marks.length, "marks"],
    [field.walls.length, "walls"],
    [field.obstacles.length, "obstacles"],
    [field.zones.length, "zones"],
  ] as const;
  return (
    <Panel title="A drawing" label="A drawing" close={close}>
      <p>
        {file.name}: {plainDigits(field.size.widthM * 100, 1)} × {plainDigits(field.size.heightM * 100, 1)} cm, with{" "}
        {counts
          .filter(([n]) => n > 0)
          .map(([n, word]) => `${n} ${word}`)
          .join(", ") || "nothing on it"}
        .
      </p>
      {choices.length > 0 && <h3>What shall they be?</h3>}
      {choices.map(({ key, count, becomes }) => (
        <div className="quantityrow" key={key}>
          <span>
            <Swatch words={key} /> {key.replace(/ #[0-9A-F]{6}$/, "")}
            <small>{count === 1 ? "1 shape" : `${count} shapes`}</small>
          </span>
          <TextField
            select
            size="small"
            value={becomes}
            slotProps={{ select: { native: true }, htmlInput: { "aria-label": `What ${key} becomes` } }}
            onChange={(event) => setKinds(new Map(kinds).set(key, event.target.value as SvgKind))}
          >
            {SVG_KINDS.map((kind) => (
              <option key={kind} value={kind}>
                {WORDS[kind]}
              </option>
            ))}
          </TextField>
        </div>
      ))}
      {leftOut.map((words) => (
        <p key={words} className="note warning">
          {words}
        </p>
      ))}
      {trouble && (
        <p className="note error" role="alert">
          {trouble}
        </p>
      )}
      <div className="acts">
        <Button
          variant="contained"
          onClick={() =>
            void openDrawing(field, file.name).then((failed) => (failed === null ? close() : setTrouble(failed)))
          }
        >
          Open as a field
        </Button>
        <Button
          variant="outlined"
          onClick={() => {
            addDrawing(field, file.name);
            close();
          }}
        >
          Add to this field
        </Button>
      </div>
    </Panel>
  );
}

function Swatch({ words }: { words: string }) {
  const [hex] = /#[0-9A-F]{6}$/.exec(words) ?? [];
  return hex ? (
    <svg width="14" height="10" aria-hidden="true">
      <rect width="14" height="10" rx="2" fill={hex} stroke="var(--hair)" />
    </svg>
  ) : null;
}
