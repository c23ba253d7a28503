// Other fields, ready starts, files.
import { READY_STARTS } from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useRef, useState } from "react";
import { Panel } from "../../shared/Panel.js";
import { exportDrawing, exportJson, takeFile } from "./files.js";
import { useField } from "./state.js";
import { makeFrom, openFieldDocument, showPanel } from "./store.js";

export function StartChoices() {
  const [name, setName] = useState("");
  const [trouble, setTrouble] = useState<string | null>(null);
  const [making, setMaking] = useState(false);
  return (
    <>
      <TextField
        size="small"
        fullWidth
        value={name}
        placeholder="Name of the new field (if you like)"
        slotProps={{ htmlInput: { "aria-label": "Name of the new field", maxLength: 40 } }}
        onChange={(event) => setName(event.target.value)}
      />
      <ul className="startlist">
        {READY_STARTS.map(({ id, title, about }) => (
          <li key={id}>
            <Button
              variant="outlined"
              disabled={making}
              onClick={() => {
                setMaking(true);
                void makeFrom(id, name.trim())
                  .then(setTrouble)
                  .finally(() => setMaking(false));
              }}
            >
              {title}
            </Button>
            <span className="quiet">{about}</span>
          </li>
        ))}
      </ul>
      {trouble && (
        <p className="note error" role="alert">
          {trouble}
        </p>
      )}
    </>
  );
}

export function ReadFile() {
  const file = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  return (
    <>
      <div className="acts">
        <Button variant="outlined" onClick={() => file.current?.click()}>
          Read from a file
        </Button>
      </div>
      <p className="quiet small">
        A drawing (SVG), a picture of a mat (PNG, JPEG, WebP), or a field (JSON). You can drop it on the page too.
      </p>
      <input
        ref={file}
        type="file"
        accept=".svg,.png,.jpg,.jpeg,.webp,.json,image/svg+xml,image/png,image/jpeg,image/webp,application/json"
        aria-label="Field file"
        className="sr"
        tabIndex={-1}
        onChange={(event) => {
          const [chosen] = event.target.files ?? [];
          if (chosen) void takeFile(chosen).then(setTrouble);
          event.target.value = "";
        }}
      />
      {trouble && (
        <p className="note error" role="alert">
          {trouble}
        </p>
      )}
    </>
  );
}

export function FieldsPanel() {
  const library = useField((state) => state.library);
  const open = useField((state) => state.open);
  return (
    <Panel title="Fields" label="Fields" close={() => showPanel("none")}>
      <ul className="kept">
        {library.map((one) => (
          <li key={one.id}>
            <button
              type="button"
              aria-current={one.id === open?.id ? "true" : undefined}
              onClick={() => void openFieldDocument(one.id)}
            >
              <span aria-hidden="true">●</span>
              <span>{one.name}</span>
              <span className="mono quiet">version {one.headRevision}</span>
            </button>
          </li>
        ))}
      </ul>
      <h3>Another field</h3>
      <StartChoices />
      <h3>From a file</h3>
      <ReadFile />
      <h3>This field as a file</h3>
      <div className="acts">
        <Button variant="outlined" onClick={exportJson}>
          Save as JSON
        </Button>
        <Button variant="outlined" onClick={exportDrawing}>
          Save as SVG
        </Button>
      </div>
      <p className="quiet small">
        Open formats: <a href="/api/schemas/field">the JSON Schema</a>; SVG is drawn in millimetres.
      </p>
    </Panel>
  );
}
