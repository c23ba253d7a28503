// The plan: the robot from above, to scale. Parts are dragged with snapping or moved by arrow keys; dimension
// lines carry the numbers they show.
import {
  findPart,
  hasPlace,
  mirrorName,
  movePart,
  type Robot,
  type RobotPart,
  type Sensor,
  sensorKind,
  setPartValue,
  shownQuantity,
  snapPlace,
} from "@giddy-pebble/core";
import type React from "react";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import { type DrawingWindow, type Fit, fitWindow, gridStep, NARROW_PX, planWindow } from "./geometry.js";
import { PlanDimensions } from "./PlanDimensions.js";
import { AttachmentShape, points, SensorShape, SupportShape, WheelShape } from "./PlanParts.js";
import { useRobot } from "./state.js";
import { change, select } from "./store.js";
import { partTitle } from "./words.js";

const GRID_M = 0.001;

/** Size of an element, in pixels, as it changes. */
export function usePaneSize<T extends HTMLElement>(): [React.RefObject<T | null>, { width: number; height: number }] {
  const ref = useRef<T>(null);
  const [size, setSize] = useState({ width: 740, height: 400 });
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      const box = entry?.contentRect;
      if (box) setSize({ width: box.width, height: box.height });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, size];
}

/** The centre of mass is dragged like a part, though it belongs to the chassis. */
const CENTRE_OF_MASS = { ref: "centre of mass", kind: "chassis", group: "frame", path: ["chassis"] } as const;

function moveThing(robot: Robot, ref: string, xM: number, yM: number, mirror: boolean): Robot {
  if (ref !== CENTRE_OF_MASS.ref) return movePart(robot, ref, xM, yM, mirror);
  const ahead = setPartValue(robot, "chassis", "centreOfMassM.0", xM);
  return setPartValue(ahead, "chassis", "centreOfMassM.1", yM);
}

const thingWords = (ref: string) => ref.replaceAll("_", " ");

interface Held {
  readonly ref: string;
  readonly startX: number;
  readonly startY: number;
  readonly fromX: number;
  readonly fromY: number;
  moved: boolean;
}

interface Placed {
  readonly part: RobotPart;
  readonly xM: number;
  readonly yM: number;
}

function placed(parts: readonly RobotPart[]): Placed[] {
  return parts.flatMap((part) => {
    if (!hasPlace(part)) return [];
    const { xM, yM } = part.value as { xM: number; yM: number };
    return [{ part, xM, yM }];
  });
}

export function Plan({ parts }: { parts: readonly RobotPart[] }) {
  const robot = useRobot((state) => state.robot);
  const selected = useRobot((state) => state.selected);
  const mirror = useRobot((state) => state.mirror);
  const problems = useRobot((state) => state.problems);
  const [pane, size] = usePaneSize<HTMLDivElement>();
  const held = useRef<Held | null>(null);
  // While something is dragged the drawing keeps its scale.
  const [frozen, setFrozen] = useState<DrawingWindow | null>(null);
  const [snapped, setSnapped] = useState<{ x: number | null; y: number | null } | null>(null);
  const narrow = size.width < NARROW_PX;
  const window = frozen ?? planWindow(robot, narrow);
  const fit = fitPlan(window, size);

  const down = (event: PointerEvent, { part, xM, yM }: Placed): void => {
    event.stopPropagation();
    select(part.kind === "chassis" ? "chassis" : part.ref);
    held.current = { ref: part.ref, startX: event.clientX, startY: event.clientY, fromX: xM, fromY: yM, moved: false };
    setFrozen(window);
    (event.currentTarget as Element).setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent): void => {
    const now = held.current;
    if (!now) return;
    const dx = (event.clientX - now.startX) / fit.scale / 1000;
    const dy = -(event.clientY - now.startY) / fit.scale / 1000;
    if (!now.moved && Math.abs(dx) + Math.abs(dy) < 0.0015) return;
    now.moved = true;
    const place = event.altKey
      ? { xM: now.fromX + dx, yM: now.fromY + dy, lines: null }
      : snapPlace(robot, now.ref, now.fromX + dx, now.fromY + dy, GRID_M);
    setSnapped(place.lines);
    change(
      moveThing(robot, now.ref, place.xM, place.yM, mirror),
      `moving ${thingWords(now.ref)}`,
      `move ${now.ref} ${now.startX}`,
    );
  };
  const up = (): void => {
    held.current = null;
    setFrozen(null);
    setSnapped(null);
  };
  const keys = (event: KeyboardEvent, { part, xM, yM }: Placed): void => {
    const by = event.shiftKey ? 0.01 : 0.001;
    const steps: Record<string, readonly [number, number]> = {
      ArrowRight: [by, 0],
      ArrowLeft: [-by, 0],
      ArrowUp: [0, by],
      ArrowDown: [0, -by],
    };
    const step = steps[event.key];
    if (!step || event.altKey || event.ctrlKey) return;
    event.preventDefault();
    event.stopPropagation();
    const round = (value: number) => Math.round(value * 1e6) / 1e6;
    change(
      moveThing(robot, part.ref, round(xM + step[0]), round(yM + step[1]), mirror),
      `moving ${thingWords(part.ref)}`,
      `keys ${part.ref}`,
    );
  };

  const [comX, comY] = robot.chassis.centreOfMassM;
  const balance: Placed = { part: { ...CENTRE_OF_MASS, value: robot.chassis }, xM: comX, yM: comY };
  const isChosen = ({ part: one }: Placed) => one.ref === selected;
  const shown = placed(parts);
  const part = findPart(robot, selected);
  return (
    <div className="plan" ref={pane}>
      <svg
        width={size.width}
        height={size.height}
        role="group"
        aria-label="Plan of the robot, from above"
        onPointerDown={() => select("chassis")}
      >
        <g transform={`translate(${fit.left} ${fit.top}) scale(${fit.scale}) translate(${-window.x} ${-window.y})`}>
          <Grid window={wholePane(fit, size, window)} step={gridStep(fit.scale)} />
          <polygon
            points={points(robot.chassis.outlineM)}
            className={`chassis${selected === "chassis" ? " chosen" : ""}${problems.some(({ part: at }) => at === "chassis") ? " trouble" : ""}`}
          />
          <BoardShape robot={robot} />
          <line
            x1={0}
            x2={0}
            y1={window.y}
            y2={window.y + window.height}
            className={snapped?.x === 0 ? "axis live" : "axis"}
          />
          {snapped?.y === 0 && <line x1={window.x} x2={window.x + window.width} y1={0} y2={0} className="axis live" />}
          {shown.map((one) => {
            const trouble = problems.find((problem) => problem.part === one.part.ref);
            return (
              <g
                key={one.part.ref}
                transform={`translate(${one.xM * 1000} ${-one.yM * 1000})`}
                className={`piece${one.part.ref === selected ? " chosen" : ""}${trouble ? " trouble" : ""}`}
                role="button"
                tabIndex={0}
                aria-label={partTitle(robot, one.part)}
                aria-pressed={one.part.ref === selected}
                onPointerDown={(event) => down(event, one)}
                onPointerMove={move}
                onPointerUp={up}
                onPointerCancel={up}
                onFocus={() => select(one.part.ref)}
                onKeyDown={(event) => keys(event, one)}
              >
                <Shape robot={robot} part={one.part} />
                {trouble && <circle r={4} cy={-16} className="flag" />}
              </g>
            );
          })}
          <g
            transform={`translate(${comX * 1000} ${-comY * 1000})`}
            className="piece com"
            role="button"
            tabIndex={0}
            aria-label="Centre of mass"
            onPointerDown={(event) => down(event, balance)}
            onPointerMove={move}
            onPointerUp={up}
            onPointerCancel={up}
            onKeyDown={(event) => keys(event, balance)}
          >
            <circle r={9} className="grasp" />
            <circle r={5} />
            <line x1={-8} x2={8} />
            <line y1={-8} y2={8} />
          </g>
          {(!narrow || selected === "chassis") && <Loads scale={fit.scale} />}
        </g>
        <Forward x={size.width - 120} />
      </svg>
      <PlanDimensions robot={robot} part={part} window={window} fit={fit} mirror={mirror} narrow={narrow} />
      <Names robot={robot} shown={narrow ? shown.filter(isChosen) : shown} window={window} fit={fit} />
      <p className="scalewords">Plan · 1 square = {gridStep(fit.scale)} mm</p>
    </div>
  );
}

/** The window that fills the whole pane at this fit. */
/** Room above for the buttons and below for a dimension, on a narrow pane, px. */
const NARROW_ROOM = { top: 44, bottom: 72, right: 84 } as const;

function fitPlan(window: DrawingWindow, { width, height }: { width: number; height: number }): Fit {
  if (width >= NARROW_PX) return fitWindow(window, width, height);
  const { top, bottom, right } = NARROW_ROOM;
  const fit = fitWindow(window, width - right, height - top - bottom);
  return { ...fit, top: fit.top + top };
}

function wholePane(fit: Fit, size: { width: number; height: number }, window: DrawingWindow): DrawingWindow {
  return {
    x: window.x - fit.left / fit.scale,
    y: window.y - fit.top / fit.scale,
    width: size.width / fit.scale,
    height: size.height / fit.scale,
  };
}

function Grid({ window, step }: { window: DrawingWindow; step: number }) {
  const lines = (from: number, length: number) => {
    const first = Math.ceil(from / step) * step;
    return Array.from(
      { length: Math.max(0, Math.floor((from + length - first) / step) + 1) },
      (_, i) => first + i * step,
    );
  };
  return (
    <g className="grid">
      {lines(window.x, window.width).map((x) => (
        <line key={`x${x}`} x1={x} x2={x} y1={window.y} y2={window.y + window.height} />
      ))}
      {lines(window.y, window.height).map((y) => (
        <line key={`y${y}`} y1={y} y2={y} x1={window.x} x2={window.x + window.width} />
      ))}
    </g>
  );
}

function BoardShape({ robot }: { robot: Robot }) {
  const xs = robot.chassis.outlineM.map(([x]) => x * 1000);
  const ys = robot.chassis.outlineM.map(([, y]) => y * 1000);
  const [low, high] = [Math.min(...xs), Math.max(...xs)];
  const half = Math.max(...ys) * 0.52;
  const width = (high - low) * 0.46;
  return (
    <g className="board">
      <rect x={low + (high - low) * 0.2} y={-half} width={width} height={2 * half} rx={5} />
    </g>
  );
}

function Shape({ robot, part }: { robot: Robot; part: RobotPart }) {
  if (part.kind === "wheel") {
    const wheel = robot.wheels.find((candidate) => candidate.name === part.ref);
    return wheel ? <WheelShape wheel={wheel} steerRad={0.25} /> : null;
  }
  if (part.kind === "support") return robot.support ? <SupportShape support={robot.support} /> : null;
  if (part.kind === "attachment") {
    const attachment = robot.attachments.find((candidate) => candidate.name === part.ref);
    return attachment ? <AttachmentShape part={attachment} /> : null;
  }
  const sensor = robot.sensors.find((candidate) => candidate.name === part.ref);
  return sensor ? <SensorShape sensor={sensor} /> : null;
}

/** Load on each wheel and the support: a ring whose area is the load, and newtons beside it. */
function Loads({ scale }: { scale: number }) {
  const loads = useRobot((state) => state.loads);
  const whole = loads.reduce((sum, { loadN }) => sum + loadN, 0);
  if (whole <= 0) return null;
  return (
    <g className="loads">
      {loads.map(({ part, xM, yM, loadN }) => (
        <g key={part} transform={`translate(${xM * 1000} ${-yM * 1000})`}>
          <circle r={16 * Math.sqrt(loadN / whole)} />
          <text y={yM < -0.005 ? 24 : part === "support" ? -12 : -18} fontSize={10.5 / scale} textAnchor="middle">
            {shownQuantity(loadN, { unit: "N", perSi: 1, digits: 1 })}
          </text>
        </g>
      ))}
    </g>
  );
}

function Forward({ x }: { x: number }) {
  return (
    <g className="forward" transform={`translate(${x} 30)`}>
      <text x={26} y={-7} textAnchor="middle">
        forward
      </text>
      <path d="M0 0H44M44 0l-9 -4v8z" />
    </g>
  );
}

/** Where a part's name stands so that names in one corner of a robot do not meet. */
function nameStyle(part: RobotPart, x: number, y: number, scale: number): React.CSSProperties {
  const { aimRad = 0, widthM = 0 } = part.value as { aimRad?: number; widthM?: number };
  if (part.kind === "eye")
    return { left: x + 40 * scale * Math.cos(aimRad), top: y - 8 - 40 * scale * Math.sin(aimRad) };
  // Whiskers and the like at an angle: the name goes outwards, beyond them.
  const barred = part.group === "sensors" && sensorKind(part.value as Sensor).bar !== undefined;
  if (barred && Math.abs(aimRad) > 0.1)
    return { left: x + 34, top: y - 8 - Math.sign(aimRad) * 22 * Math.min(1.6, scale) };
  // Between its jaws there is room.
  if ((part.value as { kind?: string }).kind === "gripper") {
    const { lengthM = 0 } = part.value as { lengthM?: number };
    return {
      left: x + 700 * lengthM * scale * Math.cos(aimRad),
      top: y - 8 - 700 * lengthM * scale * Math.sin(aimRad),
    };
  }
  if (part.kind === "near") return { left: x - 44, top: y - 8 };
  if (barred) return { left: x + 4, top: y - (widthM * 500 + 4) * scale * Math.cos(aimRad) - 14 };
  if (part.kind === "floor") return { left: x - 26, top: y + 20 * scale };
  return { left: x, top: y + (part.kind === "attachment" ? 10 : 15) * Math.min(1.6, scale) };
}

/** Names beside the parts, as page text so that they keep their size. */
function Names({
  robot,
  shown,
  window,
  fit,
}: {
  robot: Robot;
  shown: readonly Placed[];
  window: DrawingWindow;
  fit: Fit;
}) {
  const selected = useRobot((state) => state.selected);
  return (
    <div aria-hidden="true">
      {shown
        .filter(({ part }) => part.kind !== "wheel" || part.ref === selected)
        .map(({ part, xM, yM }) => (
          <span
            key={part.ref}
            className={`partname ${part.group}${part.ref === selected ? " chosen" : ""}`}
            style={nameStyle(
              part,
              fit.left + (xM * 1000 - window.x) * fit.scale,
              fit.top + (-yM * 1000 - window.y) * fit.scale,
              fit.scale,
            )}
          >
            {part.kind === "wheel" ? "" : partTitle(robot, part).toLowerCase()}
          </span>
        ))}
    </div>
  );
}

/** Whether a part has somebody on the other side to follow it. */
export function hasMirror(robot: Robot, ref: string): boolean {
  const name = mirrorName(ref);
  return name !== null && findPart(robot, name) !== null;
}
