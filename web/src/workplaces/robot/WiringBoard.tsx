// The wiring: the board with its terminals, wires dragged onto them or chosen from a list, and what is wrong.
import {
  type BoardProfile,
  type BoardTerminal,
  boardProfile,
  type DeviceTerminal,
  deviceTerminals,
  fits,
  type Robot,
  setWire,
  withProposedWiring,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { type PointerEvent, useRef, useState } from "react";
import { Pick } from "../../shared/controls.js";
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
          <Button variant="contained" onClick={() => change(withProposedWiring(robot), "proposed wiring")}>
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
            <Pick
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
            </Pick>
          </li>
        );
      })}
    </ul>
  );
}

/** Lines of devices that have no other one: the device's name says it all. */
const ONLY_LINE: ReadonlySet<string> = new Set(["leads", "signal"]);

/** Who uses a terminal: of pins also which line of theirs, of supplies how many wires. */
function usersOf(board: BoardProfile, robot: Robot, terminal: BoardTerminal): string {
  const wires = robot.wiring.filter((wire) => wire.to === terminal.id);
  if (wires.length === 0) return terminal.shared ? "" : "free";
  if (wires.length > (terminal.shared ? 1 : 2)) return `${wires.length} wires`;
  const line = ({ part, terminal: own }: Robot["wiring"][number]) =>
    board.style === "plugs" || terminal.shared || ONLY_LINE.has(own) ? part : `${part} ${own.replace("encoder_", "")}`;
  return wires.map((wire) => words(line(wire))).join(", ");
}

/** Where terminals and their names stand: names of plugs lie beside them, those of many pins are slanted. */
const LEVEL = { height: 128, top: 34, spare: 20, most: 13 } as const;
const SLANTED = { height: 226, top: 86, spare: 50, most: 16 } as const;
const BODY_HIGH = 58;

function nameOf(text: string, most: number): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
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
  const layout = widest <= 10 ? LEVEL : SLANTED;
  const width = widest <= 10 ? Math.max(440, widest * 56) : widest * 44 + 40;
  const right = width - 2 * layout.spare;
  return (
    <svg
      className={layout === SLANTED ? "boarddrawing slanted" : "boarddrawing"}
      viewBox={`0 0 ${width} ${layout.height}`}
      role="img"
      aria-label={`${board.title} with its terminals`}
    >
      <rect x={14} y={layout.top} width={right + 12} height={BODY_HIGH} rx={12} className="boardbody" />
      <text x={20 + right / 2} y={layout.top + 33} textAnchor="middle" className="boardname">
        {board.title.charAt(0).toLowerCase()}
        {board.title.slice(1)}, {board.logicVolts} V and pack rails
      </text>
      {rows.map((row, r) =>
        row.map((terminal, i) => {
          const x = ((i + 0.5) * right) / row.length + 20;
          const y = layout.top + r * BODY_HIGH;
          const trouble = notes.find((note) => note.at === terminal.id && note.severity !== "fine");
          const open = dragged ? fits(board, dragged, terminal) : false;
          const user = usersOf(board, robot, terminal);
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
              <TerminalName user={nameOf(user, layout.most)} below={r === 1} slanted={layout === SLANTED} />
            </g>
          );
        }),
      )}
    </svg>
  );
}

function TerminalName({ user, below, slanted }: { user: string; below: boolean; slanted: boolean }) {
  const className = user === "free" ? "user free" : "user";
  // A free pin among many is seen by its empty ellipse.
  if (slanted)
    return user === "free" ? null : (
      <text className={className} transform={below ? "translate(-2 20) rotate(34)" : "translate(-2 -15) rotate(-34)"}>
        {user}
      </text>
    );
  return (
    <text textAnchor="middle" y={below ? 26 : -17} className={className}>
      {user}
    </text>
  );
}

function Notes() {
  const notes = useRobot((state) => state.wiring);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a long list is scrolled by keys, too
    <ul className="wiringnotes" aria-label="Wiring checks" tabIndex={0}>
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
