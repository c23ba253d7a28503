// How a push becomes speed, and what every place of the stick gives each wheel, with the live stick in both.
import {
  HANDSET_AT_REST,
  type Handset,
  mapSticks,
  plainDigits,
  type StickMode,
  type StickShape,
  shaped,
  switched,
} from "@giddy-pebble/core";
import { contours, line, scaleLinear } from "d3";
import { type PointerEvent, useEffect, useMemo, useRef } from "react";
import { held } from "./hands.js";

const SIZE = 132;
const GRID = 41;

/** Places of the stick square as a handset, for the ways of mixing that use one stick, two, or one for each side. */
function squareHands(mode: StickMode, across: number, forward: number): Handset {
  const sticks: Handset["sticks"] =
    mode === "tank"
      ? [-across, 0, forward, 0]
      : mode === "one stick"
        ? [forward, across, 0, 0]
        : [forward, 0, 0, across];
  return { ...HANDSET_AT_REST, sticks };
}

/** What the square shows two values of: both wheels, a car's speed and axle, or ways ahead and aside. */
export type SquareOf = "wheels" | "axle" | "ways";

/** Where the live sticks are in that square. */
function livePlace(mode: StickMode, { sticks }: Handset): readonly [across: number, forward: number] {
  if (mode === "tank") return [-sticks[0], sticks[2]];
  return [mode === "one stick" ? sticks[1] : sticks[3], sticks[0]];
}

/** Redraws as the sticks move, without React. */
function useLive(draw: (hands: Handset) => void): void {
  const latest = useRef(draw);
  latest.current = draw;
  useEffect(() => {
    const listener = () => latest.current(held.now);
    held.listeners.add(listener);
    listener();
    return () => {
      held.listeners.delete(listener);
    };
  }, []);
}

interface Props {
  readonly mode: StickMode;
  readonly shape: StickShape;
  /** Sets the dead zone and the curve while dragging; shares and exponent. */
  readonly drag: (word: "dead" | "curve", value: number) => void;
}

const x = scaleLinear([-1, 1], [0, SIZE]);
const y = scaleLinear([-1, 1], [SIZE, 0]);

/** Speed of a push, share of the ceiling. @param switching - for drivers that are only on or off: the push that counts */
function speedAt(push: number, dead: number, curve: number, switching: number | null): number {
  const share = shaped(push, dead, curve);
  return switching === null ? share : switched(share, 0, switching);
}

export function ResponseChart({ mode, shape, drag, switching }: Props & { readonly switching: number | null }) {
  const { dead, curve } = shape;
  const dot = useRef<SVGCircleElement>(null);
  const word = useRef<SVGTextElement>(null);
  const holding = useRef<"dead" | "curve" | null>(null);
  const path = useMemo(() => {
    const pushes = Array.from({ length: 161 }, (_, i) => -1 + i / 80);
    return (
      line<number>(
        (push) => x(push),
        (push) => y(speedAt(push, dead, curve, switching)),
      )(pushes) ?? ""
    );
  }, [dead, curve, switching]);
  useLive((hands) => {
    const forward = livePlace(mode, hands)[1];
    const speed = speedAt(forward, dead, curve, switching);
    dot.current?.setAttribute("cx", String(x(forward)));
    dot.current?.setAttribute("cy", String(y(speed)));
    if (word.current) word.current.textContent = `${plainDigits(speed * 100, 0)} %`;
  });
  const at = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const push = x.invert(((event.clientX - box.left) / box.width) * SIZE);
    const speed = y.invert(((event.clientY - box.top) / box.height) * SIZE);
    return { push: Math.min(1, Math.abs(push)), speed: Math.min(0.99, Math.max(0.01, speed * (push < 0 ? -1 : 1))) };
  };
  const pull = (event: PointerEvent<SVGSVGElement>) => {
    if (!holding.current) return;
    const { push, speed } = at(event);
    if (holding.current === "dead") return drag("dead", Math.round(Math.min(0.6, push) * 100) / 100);
    const share = (push - dead) / (1 - dead);
    // The exponent of the curve through the pointer.
    if (share > 0.05 && share < 0.98)
      drag("curve", Math.round(Math.max(0.4, Math.min(4, Math.log(speed) / Math.log(share))) * 10) / 10);
  };
  return (
    <figure className="stickchart">
      <svg
        viewBox={`0 0 ${SIZE} ${SIZE}`}
        role="img"
        aria-label={`Push of the stick against speed: dead zone ${plainDigits(dead * 100, 0)} %, curve ${plainDigits(curve, 1)}. Drag the zone's edge or the curve.`}
        onPointerDown={(event) => {
          const { push } = at(event);
          holding.current = Math.abs(push - dead) < 0.09 ? "dead" : "curve";
          event.currentTarget.setPointerCapture(event.pointerId);
          pull(event);
        }}
        onPointerMove={pull}
        onPointerUp={() => {
          holding.current = null;
        }}
        onPointerCancel={() => {
          holding.current = null;
        }}
      >
        <rect className="back" width={SIZE} height={SIZE} rx="6" />
        <rect className="zone" x={x(-dead)} width={x(dead) - x(-dead)} height={SIZE} />
        <path className="axis" d={`M0 ${SIZE / 2}H${SIZE}M${SIZE / 2} 0V${SIZE}`} />
        <path className="plain" d={`M0 ${SIZE}L${SIZE} 0`} />
        <path className="curve" d={path} />
        <circle ref={dot} className="now" r="4.5" />
        <text ref={word} className="now mono" x={SIZE - 4} y={SIZE - 5} textAnchor="end" />
      </svg>
      <figcaption>push → speed</figcaption>
    </figure>
  );
}

const SQUARE_WORDS: Readonly<
  Record<SquareOf, { readonly of: string; readonly two: readonly [string, string]; readonly after: string }>
> = {
  wheels: {
    of: "speeds of the left and the right wheel, as lines of equal speed",
    two: ["left", "right"],
    after: " wheel",
  },
  axle: { of: "speed and the angle of the axle, as lines of equal value", two: ["speed", "axle"], after: "" },
  ways: { of: "speeds ahead and to the left, as lines of equal speed", two: ["ahead", "aside"], after: "" },
};

export function SquareChart({ mode, shape, of }: Omit<Props, "drag"> & { readonly of: SquareOf }) {
  const dot = useRef<SVGCircleElement>(null);
  const { dead, curve, turning } = shape;
  const words = SQUARE_WORDS[of];
  const lines = useMemo(() => {
    const value = (side: "left" | "right") =>
      Array.from({ length: GRID * GRID }, (_, i) => {
        const across = 1 - (2 * (i % GRID)) / (GRID - 1);
        const forward = 1 - (2 * Math.floor(i / GRID)) / (GRID - 1);
        const hands = of === "ways" ? squareHands("one stick", across, forward) : squareHands(mode, across, forward);
        const wanted = mapSticks(hands, mode, { dead, curve, turning });
        if (of === "wheels") return wanted[side];
        if (side === "left") return (wanted.left + wanted.right) / 2;
        return of === "axle" ? wanted.steer : wanted.aside;
      });
    const path = (side: "left" | "right") =>
      contours()
        .size([GRID, GRID])
        .thresholds([-0.7, -0.35, 0.35, 0.7])(value(side))
        .map(({ coordinates }) =>
          coordinates
            .flat()
            .map((ring) => openRing(ring as [number, number][]))
            .join(""),
        )
        .join("");
    return { left: path("left"), right: path("right") };
  }, [mode, dead, curve, turning, of]);
  useLive((hands) => {
    const [across, forward] = livePlace(of === "ways" ? "one stick" : mode, hands);
    dot.current?.setAttribute("cx", String(x(-across)));
    dot.current?.setAttribute("cy", String(y(forward)));
  });
  return (
    <figure className="stickchart">
      <svg viewBox={`0 0 ${SIZE} ${SIZE}`} role="img" aria-label={`Every place of the stick with the ${words.of}`}>
        <rect className="back" width={SIZE} height={SIZE} rx="6" />
        <path className="axis" d={`M0 ${SIZE / 2}H${SIZE}M${SIZE / 2} 0V${SIZE}`} />
        <path className="left" d={lines.left} />
        <path className="right" d={lines.right} />
        <circle ref={dot} className="now" r="4.5" />
      </svg>
      <figcaption>
        {mode === "tank" ? "left stick × right stick" : of === "ways" ? "left stick" : "stick"} →{" "}
        <span className="leftword">{words.two[0]}</span>, <span className="rightword">{words.two[1]}</span>
        {words.after}
      </figcaption>
    </figure>
  );
}

/** A ring without the stretches along the square's edge, which are no lines of equal speed. */
function openRing(ring: readonly (readonly [number, number])[]): string {
  const scale = SIZE / GRID;
  let drawn = "";
  let open = false;
  for (const [px, py] of ring) {
    const edge = px <= 0.51 || py <= 0.51 || px >= GRID - 0.51 || py >= GRID - 0.51;
    drawn += edge && !open ? "" : `${open ? "L" : "M"}${(px * scale).toFixed(1)} ${(py * scale).toFixed(1)}`;
    open = !edge;
  }
  return drawn;
}
