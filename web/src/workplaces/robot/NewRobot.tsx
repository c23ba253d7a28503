// Another robot: from nothing, from the one that is open, or from a file.

import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Radio from "@mui/material/Radio";
import RadioGroup from "@mui/material/RadioGroup";
import { useRef, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { Panel } from "../../shared/Panel.js";
import { useRobot } from "./state.js";
import { importRobot, makeRobot, openRobotDocument, showPanel } from "./store.js";

export function NewRobotForm({ first }: { first: boolean }) {
  const robot = useRobot((state) => state.robot);
  const [name, setName] = useState("");
  const [from, setFrom] = useState<"empty" | "this">("empty");
  const [trouble, setTrouble] = useState<string | null>(null);
  const [making, setMaking] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  return (
    <form
      className="nameform"
      onSubmit={(event) => {
        event.preventDefault();
        if (making) return;
        setMaking(true);
        void makeRobot(name.trim(), from)
          .then(setTrouble)
          .finally(() => setMaking(false));
      }}
    >
      <Typed
        required
        maxLength={40}
        placeholder="Name of the robot"
        aria-label="Name of the new robot"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      {!first && (
        <fieldset>
          <legend>Start from</legend>
          <RadioGroup name="from" value={from} onChange={(_, value) => setFrom(value === "this" ? "this" : "empty")}>
            <FormControlLabel value="empty" control={<Radio size="small" />} label="an empty chassis" />
            <FormControlLabel value="this" control={<Radio size="small" />} label={`${robot.name}, as it is`} />
          </RadioGroup>
        </fieldset>
      )}
      <Button type="submit" variant="contained" disabled={making || name.trim() === ""}>
        Make the robot
      </Button>
      <Button variant="outlined" onClick={() => file.current?.click()}>
        Read from a file
      </Button>
      <input
        ref={file}
        type="file"
        accept="application/json,.json"
        aria-label="Robot file"
        className="sr"
        tabIndex={-1}
        onChange={(event) => {
          const [chosen] = event.target.files ?? [];
          if (chosen) void importRobot(chosen).then(setTrouble);
          event.target.value = "";
        }}
      />
      {trouble && (
        <p className="note error" role="alert">
          {trouble}
        </p>
      )}
    </form>
  );
}

/** Saves the robot on the screen as a file of our open format. */
function exportRobot(): void {
  const { robot } = useRobot.getState();
  const address = URL.createObjectURL(new Blob([`${JSON.stringify(robot, null, 2)}\n`], { type: "application/json" }));
  const link = document.createElement("a");
  link.href = address;
  link.download = `${robot.name.toLowerCase().replace(/[^a-z0-9]+/g, "-")}.robot.json`;
  link.click();
  URL.revokeObjectURL(address);
}

export function RobotsPanel() {
  const robots = useRobot((state) => state.library);
  const open = useRobot((state) => state.open);
  return (
    <Panel title="Robots" label="Robots" close={() => showPanel("none")}>
      <ul className="kept">
        {robots.map((robot) => (
          <li key={robot.id}>
            <button
              type="button"
              aria-current={robot.id === open?.id ? "true" : undefined}
              onClick={() => void openRobotDocument(robot.id)}
            >
              <span aria-hidden="true">●</span>
              <span>{robot.name}</span>
              <span className="mono quiet">version {robot.headRevision}</span>
            </button>
          </li>
        ))}
      </ul>
      <h3>Another robot</h3>
      <NewRobotForm first={false} />
      <h3>This robot as a file</h3>
      <Button variant="outlined" onClick={exportRobot}>
        Save as a file
      </Button>
      <p className="quiet small">
        An open format: <a href="/api/schemas/robot">its JSON Schema</a>.
      </p>
    </Panel>
  );
}
