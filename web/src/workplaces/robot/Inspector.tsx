// The selected part: its name, its numbers in place, what is wrong with it, and what it means.

import {
  drawnValue,
  type Figure,
  findPart,
  useDrawing as followDrawing,
  isFixedRef,
  type Known,
  mirrorName,
  QUANTITIES,
  type QuantityInfo,
  quantityAt,
  type RobotPart,
  removePart,
  renamePart,
  setPartValue,
} from "@giddy-pebble/core";
import Button from "@mui/material/Button";
import { useEffect, useState } from "react";
import { Typed } from "../../shared/controls.js";
import { Fold } from "../../shared/Fold.js";
import { Choices } from "./Choices.js";
import { PartQuantity } from "./PartQuantity.js";
import { hasMirror } from "./Plan.js";
import { useRobot } from "./state.js";
import { change, select } from "./store.js";
import { figuresFor, partTitle } from "./words.js";

function knownAt(part: RobotPart, path: string): Known | null {
  let at: unknown = part.value;
  for (const key of path.split("."))
    at = typeof at === "object" && at !== null ? (at as Record<string, unknown>)[key] : undefined;
  return typeof at === "object" && at !== null && "standardError" in at ? (at as Known) : null;
}

export function Inspector() {
  const robot = useRobot((state) => state.robot);
  const selected = useRobot((state) => state.selected);
  const part = findPart(robot, selected) ?? findPart(robot, "chassis");
  if (!part) return null;
  const title = partTitle(robot, part);
  return (
    <aside className="inspector" aria-label="Inspector">
      <header>
        <h2>{title}</h2>
        {!isFixedRef(part.ref) && <PartName part={part} />}
      </header>
      <Problems part={part} />
      <Choices part={part} />
      <Quantities part={part} />
      <Figures kind={part.kind} />
      {!["chassis", "drive", "board", "pack"].includes(part.ref) && (
        <div className="acts">
          {mirrorName(part.ref) !== null && !hasMirror(robot, part.ref) && <MirrorButton part={part} />}
          <Button
            variant="outlined"
            onClick={() => {
              change(removePart(robot, part.ref), `removing ${title.toLowerCase()}`);
              select("chassis");
            }}
          >
            Remove
          </Button>
        </div>
      )}
    </aside>
  );
}

/** The numbers of a part; those of data sheets stand folded below the others. */
function Quantities({ part }: { part: RobotPart }) {
  const shown = (QUANTITIES[part.kind] ?? []).filter((info) => quantityAt(part.value, info) !== null);
  const seldom = shown.filter((info) => info.seldom);
  return (
    <>
      {shown
        .filter((info) => !info.seldom)
        .map((info) => (
          <Quantity key={`${part.ref} ${info.path}`} part={part} info={info} />
        ))}
      {seldom.length > 0 && (
        <Fold className="seldom" summary="Seldom changed" late>
          {seldom.map((info) => (
            <Quantity key={`${part.ref} ${info.path}`} part={part} info={info} />
          ))}
        </Fold>
      )}
    </>
  );
}

function Quantity({ part, info }: { part: RobotPart; info: QuantityInfo }) {
  const robot = useRobot((state) => state.robot);
  const mirror = useRobot((state) => state.mirror);
  const written = quantityAt(part.value, info);
  if (written === null) return null;
  const known = info.known ? knownAt(part, info.path) : null;
  const drawn = known ? drawnValue(robot, part, info.path) : null;
  return (
    <PartQuantity
      info={info}
      value={known?.source === "drawing" && drawn !== null ? drawn : written}
      known={known}
      drawn={drawn}
      onChange={(next) =>
        change(
          setPartValue(robot, part.ref, info.path, next, mirror),
          info.label.toLowerCase(),
          `${part.ref} ${info.path}`,
        )
      }
      onDrawing={() => change(followDrawing(robot, part.ref, info.path), `${info.label.toLowerCase()} as drawn`)}
    />
  );
}

function PartName({ part }: { part: RobotPart }) {
  const robot = useRobot((state) => state.robot);
  const [name, setName] = useState(part.ref);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    setName(part.ref);
    setTrouble(null);
  }, [part.ref]);
  const commit = () => {
    const renamed = renamePart(robot, part.ref, name.trim());
    if (!renamed.ok) return setTrouble(renamed.message);
    change(renamed.robot, "another name");
    select(name.trim());
  };
  return (
    <label className="partnamefield">
      <span className="sr">Name in missions</span>
      <Typed
        className="mono"
        value={name}
        aria-invalid={trouble !== null}
        onChange={(event) => {
          setName(event.target.value);
          setTrouble(null);
        }}
        onBlur={commit}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") commit();
          if (event.key === "Escape") setName(part.ref);
        }}
      />
      {trouble && <span role="alert">{trouble}</span>}
    </label>
  );
}

function MirrorButton({ part }: { part: RobotPart }) {
  const robot = useRobot((state) => state.robot);
  const other = mirrorName(part.ref);
  return (
    <Button
      variant="outlined"
      onClick={() => {
        const list = part.path[0] as "wheels" | "motors" | "servos" | "attachments" | "sensors";
        const value = part.value as Record<string, unknown>;
        const turned: Record<string, unknown> = { ...value, name: other };
        for (const key of ["yM", "aimRad"]) if (typeof value[key] === "number") turned[key] = -(value[key] as number);
        if (value.side === "left" || value.side === "right") turned.side = value.side === "left" ? "right" : "left";
        if (typeof value.drivenBy === "string") turned.drivenBy = mirrorName(value.drivenBy) ?? value.drivenBy;
        change({ ...robot, [list]: [...robot[list], turned] }, "mirror image");
        if (other) select(other);
      }}
    >
      Mirror to the other side
    </Button>
  );
}

function Problems({ part }: { part: RobotPart }) {
  const problems = useRobot((state) => state.problems);
  const wiring = useRobot((state) => state.wiring);
  const mine = problems.filter((problem) => problem.part === part.ref);
  const wires = wiring.filter((note) => note.part === part.ref && note.severity !== "fine");
  return (
    <>
      {[...mine, ...wires].map((problem) => (
        <p key={problem.code + problem.message} className={`note ${problem.severity}`}>
          {problem.message} {problem.mend}
        </p>
      ))}
    </>
  );
}

/** "What this means": the figures a part has most to do with; each opens its formula. */
function Figures({ kind }: { kind: string }) {
  const figures = useRobot((state) => state.figures);
  const problems = useRobot((state) => state.problems);
  const first = problems.find((problem) => problem.severity === "error");
  if (figures.length === 0)
    return (
      <div className="means">
        <strong>What this means</strong>
        <p className="quiet">{first ? `Not to be told yet: ${first.message}` : "Nothing to tell yet."}</p>
      </div>
    );
  const wanted = figuresFor(kind);
  const shown = wanted.flatMap((id) => figures.filter((figure) => figure.id === id));
  const rest = figures.filter((figure) => !wanted.includes(figure.id));
  const cautions = shown.filter((figure) => figure.caution !== null);
  return (
    <>
      <div className="means">
        <strong>What this means</strong>
        {shown.map((figure) => (
          <FigureRow key={figure.id} figure={figure} />
        ))}
        <Fold className="more" summary="All figures">
          {rest.map((figure) => (
            <FigureRow key={figure.id} figure={figure} />
          ))}
        </Fold>
      </div>
      {cautions.length > 0 && (
        <p className="note warning">{[...new Set(cautions.map((figure) => figure.caution))].join(" ")}</p>
      )}
    </>
  );
}

function FigureRow({ figure }: { figure: Figure }) {
  return (
    <Fold
      className="figure"
      late
      summary={
        <>
          <span>{figure.label}</span>
          <span className={`mono${figure.caution ? " caution" : ""}`}>{figure.shown}</span>
        </>
      }
    >
      <div className="formula">
        <code>{figure.formula}</code>
        <dl>
          {figure.terms.map((term) => (
            <div key={term.symbol}>
              <dt>{term.symbol}</dt>
              <dd>
                {term.label} <span className="mono">{term.shown}</span>
              </dd>
            </div>
          ))}
        </dl>
      </div>
    </Fold>
  );
}
