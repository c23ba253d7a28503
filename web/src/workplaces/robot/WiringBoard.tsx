// The wiring: the board with its terminals, wires dragged onto them or chosen from a list, and what is wrong.
import {
  type BoardProfile,
  type BoardTerminal,
  boardProfile,
  type DeviceTerminal,
  deviceTerminals,
  fits,
  proposeWiring,
  type Robot,
  setWire,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { type PointerEvent, useRef, useState } from "react";
import { useRobot } from "./state.js";
import { change, select } from "./store.js";

interface Drag {
  readonly part: string;
  readonly terminal: string;
  readonly x: number;
  readonly y: number;
}

const words = (text: string) => text.replaceAll("_", " ");

export function WiringBoard() {
  const robot = useRobot((state) => state.robot);
  const notes = useRobot((state) => state.wiring);
  const board = boardProfile(robot.board.profile);
  const [drag, setDrag] = useState<Drag | null>(null);
  const pane = useRef<HTMLDivElement>(null);
  if (!board) return <p className="note error">{notes[0]?.message}</p>;
  const devices = deviceTerminals(robot);
  const drop = (event: PointerEvent) => {
    const target = document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-terminal]");
    const to = target?.getAttribute("data-terminal");
    if (drag && to) change(setWire(robot, drag.part, drag.terminal, to), `wire of ${words(drag.part)}`);
    setDrag(null);
  };
  const dragged = drag
    ? devices.find((device) => device.part === drag.part && device.terminal === drag.terminal)
    : undefined;
  return (
    <div
      className="wiring"
      ref={pane}
      onPointerMove={(event) => drag && setDrag({ ...drag, x: event.clientX, y: event.clientY })}
      onPointerUp={drop}
    >
      <div className="wiringmain">
        <BoardDrawing board={board} robot={robot} dragged={dragged} startDrag={setDrag} />
        <Notes />
      </div>
      <div className="wiringlist">
        <div className="wiringacts">
          <Button
            variant="contained"
            onClick={() => change({ ...robot, wiring: proposeWiring(robot) }, "proposed wiring")}
          >
            Propose the wiring
          </Button>
          <Button variant="outlined" onClick={() => window.print()}>
            Print the sheet
          </Button>
        </div>
        <Terminals board={board} devices={devices} startDrag={setDrag} />
      </div>
      {drag && (
        <span className="dragwire" style={{ left: drag.x + 10, top: drag.y + 6 }} aria-hidden="true">
          {words(drag.part)} {drag.terminal === "plug" ? "" : words(drag.terminal)}
        </span>
      )}
    </div>
  );
}

/** Every terminal of every device with its place on the board: by list for the keyboard, by handle for dragging. */
function Terminals({
  board,
  devices,
  startDrag,
}: {
  board: BoardProfile;
  devices: readonly DeviceTerminal[];
  startDrag(drag: Drag): void;
}) {
  const robot = useRobot((state) => state.robot);
  if (devices.length === 0) return <p className="quiet small">Nothing to wire yet. Add motors and sensors first.</p>;
  return (
    <ul className="terminals">
      {devices.map((device) => {
        const wire = robot.wiring.find((w) => w.part === device.part && w.terminal === device.terminal);
        return (
          <li key={`${device.part}.${device.terminal}`}>
            <button
              type="button"
              className="wirehandle"
              aria-label={`Drag ${words(device.part)} ${device.label}`}
              onPointerDown={(event) => {
                event.preventDefault();
                startDrag({ part: device.part, terminal: device.terminal, x: event.clientX, y: event.clientY });
              }}
              onClick={() => select(device.part)}
            />
            <span>
              {words(device.part)} {device.terminal !== "plug" && <small>{device.label}</small>}
            </span>
            <select
              aria-label={`Where ${words(device.part)} ${device.label} goes`}
              value={wire?.to ?? ""}
              onChange={(event) =>
                change(
                  setWire(robot, device.part, device.terminal, event.target.value === "" ? null : event.target.value),
                  `wire of ${words(device.part)}`,
                )
              }
            >
              <option value="">nowhere</option>
              {board.terminals.map((terminal) => (
                <option key={terminal.id} value={terminal.id}>
                  {terminal.id}
                  {fits(board, device, terminal) ? "" : " (does not fit)"}
                </option>
              ))}
            </select>
          </li>
        );
      })}
    </ul>
  );
}

function usersOf(robot: Robot, terminal: BoardTerminal): string {
  const wires = robot.wiring.filter((wire) => wire.to === terminal.id);
  if (wires.length === 0) return terminal.shared ? "" : "free";
  if (wires.length > 2) return `${wires.length} wires`;
  return wires.map((wire) => words(wire.part)).join(", ");
}

function BoardDrawing({
  board,
  robot,
  dragged,
  startDrag,
}: {
  board: BoardProfile;
  robot: Robot;
  dragged: DeviceTerminal | undefined;
  startDrag(drag: Drag): void;
}) {
  const notes = useRobot((state) => state.wiring);
  const rows = (["top", "bottom"] as const).map((edge) => board.terminals.filter((terminal) => terminal.edge === edge));
  const widest = Math.max(...rows.map((row) => row.length));
  // More terminals than names fit beside: the list tells what goes where.
  const named = widest <= 10;
  const width = Math.max(440, widest * (named ? 56 : 42));
  return (
    <svg
      className="boarddrawing"
      viewBox={`0 0 ${width} 128`}
      role="img"
      aria-label={`${board.title} with its terminals`}
    >
      <rect x={14} y={34} width={width - 28} height={58} rx={12} className="boardbody" />
      <text x={width / 2} y={67} textAnchor="middle" className="boardname">
        {board.title.toLowerCase()}, {board.logicVolts} V and pack rails
      </text>
      {rows.map((row, r) =>
        row.map((terminal, i) => {
          const x = ((i + 0.5) * (width - 40)) / row.length + 20;
          const y = r === 0 ? 34 : 92;
          const trouble = notes.find((note) => note.at === terminal.id && note.severity !== "fine");
          const open = dragged ? fits(board, dragged, terminal) : false;
          const user = usersOf(robot, terminal);
          const first = robot.wiring.find((wire) => wire.to === terminal.id);
          return (
            <g
              key={terminal.id}
              data-terminal={terminal.id}
              className={`terminal${trouble ? ` ${trouble.severity}` : ""}${dragged ? (open ? " open" : " shut") : ""}${first ? " used" : ""}`}
              transform={`translate(${x} ${y})`}
              onPointerDown={(event) => {
                if (!first || terminal.shared) return;
                event.preventDefault();
                startDrag({ part: first.part, terminal: first.terminal, x: event.clientX, y: event.clientY });
              }}
            >
              <title>{`${terminal.id}, ${user === "" ? "shared" : user}: ${terminal.volts === null ? "pack" : terminal.volts === 0 ? "ground" : `${terminal.volts} V`}${terminal.can.length > 0 ? `, ${terminal.can.join(", ")}` : ""}`}</title>
              <ellipse rx={17} ry={11} />
              <text textAnchor="middle" y={4} className="id">
                {terminal.id}
              </text>
              {named && (
                <text textAnchor="middle" y={r === 0 ? -17 : 26} className={user === "free" ? "user free" : "user"}>
                  {user.length > 13 ? `${user.slice(0, 12)}…` : user}
                </text>
              )}
            </g>
          );
        }),
      )}
    </svg>
  );
}

function Notes() {
  const notes = useRobot((state) => state.wiring);
  return (
    <ul className="wiringnotes" aria-label="Wiring checks">
      {notes.map((note) => (
        <li key={`${note.code} ${note.at} ${note.part} ${note.message}`} className={note.severity} title={note.mend}>
          {note.message}
          {note.severity !== "fine" && <small> {note.mend}</small>}
        </li>
      ))}
      {notes.length === 0 && <li className="fine">Nothing is wired yet.</li>}
    </ul>
  );
}
