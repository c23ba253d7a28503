// How to place the robot, what it does, and what to read: three short lines and a drawing to scale with nothing.
import { defaultSettings, type Procedure, type Robot } from "@giddy-pebble/core";
import { rowsOf, useCalibrate } from "./state.js";

export function Placing({ procedure, robot }: { procedure: Procedure; robot: Robot }) {
  const rows = useCalibrate((state) => rowsOf(state).length);
  const settings = useCalibrate((state) => state.settings[state.procedure.id]);
  const next = procedure.next?.({ ...defaultSettings(procedure), ...settings }, rows, robot) ?? null;
  return (
    <ol className="placing">
      <li>
        <PlaceDrawing kind={drawingOf(procedure)} />
        <span>
          <strong>Place</strong> {procedure.place}
          {next && <em> {next}</em>}
        </span>
      </li>
      <li>
        <span>
          <strong>Run</strong>{" "}
          {procedure.program(robot, {}, 0) === null
            ? "Do it by hand; there is no program to run."
            : "The robot drives a short program; it stands below."}
        </span>
      </li>
      <li>
        <span>
          <strong>Measure</strong> {procedure.measure}
        </span>
      </li>
    </ol>
  );
}

type Kind = "straight" | "spin" | "square" | "still" | "board" | "stripe" | "arc" | "slide";

function drawingOf({ id }: Procedure): Kind {
  if (/turn|spin|gyro-scale/.test(id)) return "spin";
  if (id === "square") return "square";
  if (id === "gyro-rest" || id === "arm-travel" || id === "placement") return "still";
  if (id === "eye-distance" || id === "eye-limits" || id === "tag-colours") return "board";
  if (id === "floor-light") return "stripe";
  if (id === "sliding") return "slide";
  return id === "steering" ? "arc" : "straight";
}

const WAY: Readonly<Record<Kind, string>> = {
  straight: "M 44 34 L 132 34",
  spin: "M 95.6 22 A 22 22 0 1 0 94 35",
  square: "M 44 34 L 110 34 L 110 8 L 44 8 L 44 26",
  still: "",
  board: "",
  stripe: "M 44 34 L 132 34",
  arc: "M 44 34 Q 96 34 104 4",
  slide: "M 42 30 L 132 30",
};

/** The robot seen from above, its way, and the tape or mark it is measured against. */
function PlaceDrawing({ kind }: { kind: Kind }) {
  return (
    <svg width="148" height="52" viewBox="0 0 148 52" aria-hidden="true" className="placedrawing">
      {(kind === "straight" || kind === "arc" || kind === "square" || kind === "slide") && (
        <g className="tape">
          <line x1="30" x2="140" y1="48" y2="48" />
          {Array.from({ length: 12 }, (_, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: the marks of a tape
            <line key={i} x1={30 + i * 10} x2={30 + i * 10} y1={i % 5 === 0 ? 42 : 45} y2="48" />
          ))}
        </g>
      )}
      {kind === "spin" && <line x1="30" x2="118" y1="42" y2="42" className="tapeline" />}
      {kind === "board" && <line x1="104" x2="104" y1="8" y2="50" className="board" />}
      {kind === "stripe" && <rect x="86" y="8" width="7" height="42" className="dark" />}
      <g
        transform={
          kind === "spin" ? "translate(45 -8)" : kind === "slide" ? "translate(0 -7) rotate(-90 29 34)" : undefined
        }
      >
        <rect x="14" y="24" width="30" height="20" rx="4" className="body" />
        <rect x="24" y="20" width="10" height="4" rx="1.500" className="wheel" />
        <rect x="24" y="44" width="10" height="4" rx="1.500" className="wheel" />
        <path d="M 36 30 L 42 34 L 36 38 Z" className="nose" />
      </g>
      {WAY[kind] !== "" && <path d={WAY[kind]} className="way" markerEnd="url(#placearrow)" />}
      <defs>
        <marker id="placearrow" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="6" markerHeight="6" orient="auto">
          <path d="M 0 0 L 8 4 L 0 8 Z" className="nose" />
        </marker>
      </defs>
    </svg>
  );
}
