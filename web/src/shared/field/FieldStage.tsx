// The stage every workplace shows a field on: a canvas that pans, zooms and fits, with layers that draw and a tool that
// acts. It knows nothing of missions or of drawing boards; frames go through refs, never through state.
import type { Point } from "@giddy-pebble/core";
import IconButton from "@mui/material/IconButton";
import Tooltip from "@mui/material/Tooltip";
import { type ReactNode, type PointerEvent as ReactPointerEvent, useEffect, useRef } from "react";
import { type Pen, readColours } from "./drawField.js";
import { clearMargin, type FieldMargin, type FieldView, fitField, pan, toField, zoomAt } from "./fieldView.js";

/** A place of the pointer: on the field, m, and on the canvas, px; with what one pixel is, m. */
export interface StagePoint {
  readonly place: Point;
  readonly px: readonly [number, number];
  readonly perPixelM: number;
  readonly event: PointerEvent;
}

/** What the pointer does. Whatever it does not take pans the view. */
export interface StageTool {
  /** @returns true when the pointer is the tool's until it is let go */
  down?(at: StagePoint): boolean;
  drag?(at: StagePoint): void;
  /** Let go. @param moved - false for a press in one place */
  up?(at: StagePoint, moved: boolean): void;
  /** Nothing is pressed. @returns a cursor of its own, or "" */
  hover?(at: StagePoint): string;
  leave?(): void;
  twice?(at: StagePoint): void;
}

/** What a workplace may ask of its stage. */
export interface StageHandle {
  ask(): void;
  view(): FieldView | null;
  zoom(factor: number): void;
  fit(): void;
}

interface StageProps {
  /** Null while there is no field. */
  readonly size: { readonly widthM: number; readonly heightM: number } | null;
  /** The view starts anew when this changes. */
  readonly fitKey: string;
  readonly label: string;
  readonly draw: (pen: Pen, widthPx: number, heightPx: number) => void;
  /** Calls back whenever what is shown may have changed. @returns how to stop */
  readonly watch: (ask: () => void) => () => void;
  readonly tool?: StageTool;
  readonly handle?: (stage: StageHandle | null) => void;
  /** Room kept free around the field, px. */
  readonly margin?: FieldMargin;
  readonly className?: string;
  readonly canvasProps?: Readonly<Record<string, unknown>>;
  readonly children?: ReactNode;
}

const CLICK_PX = 4;

interface Held {
  x: number;
  y: number;
  moved: boolean;
  tool: boolean;
}

export function FieldStage(props: StageProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const view = useRef<FieldView | null>(null);
  const ask = useRef<() => void>(() => {});
  const held = useRef<Held | null>(null);
  const latest = useRef(props);
  latest.current = props;
  const { fitKey, watch, handle } = props;
  const empty = props.size === null;

  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context || empty || fitKey === "") return;
    view.current = null;
    let frame = 0;
    /** The view that shows the whole field, for as long as nobody moved it. */
    let fitted: { readonly view: FieldView; readonly key: string } | null = null;
    /** The room for it changed. It is not moved under a hand that holds something. */
    let refit = false;
    let colours = readColours();
    const scheme = window.matchMedia("(prefers-color-scheme: dark)");
    const paint = () => {
      frame = 0;
      const { size, draw, margin } = latest.current;
      const ratio = window.devicePixelRatio || 1;
      const [width, height] = [element.clientWidth, element.clientHeight];
      if (element.width !== Math.round(width * ratio) || element.height !== Math.round(height * ratio)) {
        element.width = Math.round(width * ratio);
        element.height = Math.round(height * ratio);
        refit = true;
      }
      if (!size) return;
      const room = margin ?? clearMargin(width, overHeights(element));
      const key = `${room.top} ${room.bottom}`;
      if (view.current === fitted?.view && fitted?.key !== key) refit = true;
      if (refit && !held.current) view.current = null;
      if (!view.current) {
        refit = false;
        view.current = fitField(width, height, size, room);
        fitted = { view: view.current, key };
      }
      const { scale, originX, originY } = view.current;
      const where = `${scale} ${originX} ${originY}`;
      // What is written anew is laid out anew, even where it says the same.
      if (element.dataset.view !== where) element.dataset.view = where;
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      context.clearRect(0, 0, width, height);
      draw(
        { context, view: view.current, colours, dark: scheme.matches, blocked: blockedBoxes(element) },
        width,
        height,
      );
    };
    const again = () => {
      if (frame === 0) frame = requestAnimationFrame(paint);
    };
    ask.current = again;
    const recolour = () => {
      colours = readColours();
      again();
    };
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      if (!view.current) return;
      view.current = zoomAt(view.current, event.offsetX, event.offsetY, Math.exp(-event.deltaY * 0.0015));
      again();
    };
    const observer = new ResizeObserver(again);
    observer.observe(element);
    element.addEventListener("wheel", wheel, { passive: false });
    scheme.addEventListener("change", recolour);
    const stop = watch(again);
    handle?.({
      ask: again,
      view: () => view.current,
      zoom: (factor) => {
        if (view.current)
          view.current = zoomAt(view.current, element.clientWidth / 2, element.clientHeight / 2, factor);
        again();
      },
      fit: () => {
        view.current = null;
        again();
      },
    });
    document.fonts.addEventListener("loadingdone", again);
    again();
    return () => {
      cancelAnimationFrame(frame);
      observer.disconnect();
      element.removeEventListener("wheel", wheel);
      scheme.removeEventListener("change", recolour);
      document.fonts.removeEventListener("loadingdone", again);
      stop();
      handle?.(null);
    };
  }, [fitKey, empty, watch, handle]);

  const pointOf = (event: ReactPointerEvent<HTMLCanvasElement>): StagePoint | null => {
    const now = view.current;
    if (!now) return null;
    const { offsetX, offsetY } = event.nativeEvent;
    return {
      place: toField(now, offsetX, offsetY),
      px: [offsetX, offsetY],
      perPixelM: 1 / now.scale,
      event: event.nativeEvent,
    };
  };

  const move = (event: ReactPointerEvent<HTMLCanvasElement>) => {
    const at = pointOf(event);
    const { tool } = latest.current;
    if (!at) return;
    const now = held.current;
    if (!now) {
      event.currentTarget.style.cursor = tool?.hover?.(at) ?? "";
      return;
    }
    const [dx, dy] = [event.clientX - now.x, event.clientY - now.y];
    if (!now.moved && Math.abs(dx) + Math.abs(dy) < CLICK_PX) return;
    now.moved = true;
    if (now.tool) {
      tool?.drag?.(at);
      return;
    }
    if (view.current) view.current = pan(view.current, dx, dy);
    now.x = event.clientX;
    now.y = event.clientY;
    ask.current();
  };

  return (
    <section className={`fieldpane ${props.className ?? ""}`} aria-label="Field">
      <canvas
        ref={canvas}
        role="img"
        aria-label={props.label}
        {...props.canvasProps}
        onPointerDown={(event) => {
          const at = pointOf(event);
          if (!at || (event.button !== 0 && event.button !== 1)) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          const taken = event.button === 0 && latest.current.tool?.down?.(at) === true;
          held.current = { x: event.clientX, y: event.clientY, moved: false, tool: taken };
        }}
        onPointerMove={move}
        onPointerUp={(event) => {
          const now = held.current;
          held.current = null;
          ask.current();
          const at = pointOf(event);
          if (!now || !at || (now.moved && !now.tool)) return;
          latest.current.tool?.up?.(at, now.moved);
        }}
        onPointerCancel={() => {
          held.current = null;
          ask.current();
        }}
        onDoubleClick={(event) => {
          const at = pointOf(event as never);
          if (at) latest.current.tool?.twice?.(at);
        }}
        onPointerLeave={() => latest.current.tool?.leave?.()}
      />
      {props.children}
    </section>
  );
}

/** Heights of the legend and the buttons over a canvas, px. */
function overHeights(canvas: HTMLCanvasElement): { readonly legend: number; readonly tools: number } {
  const high = (selector: string) => canvas.parentElement?.querySelector<HTMLElement>(selector)?.offsetHeight ?? 0;
  return { legend: high(".legend"), tools: high(".fieldtools") };
}

/** Where the page's own words lie over the canvas: labels keep away from there. */
function blockedBoxes(canvas: HTMLCanvasElement): { left: number; top: number; right: number; bottom: number }[] {
  const own = canvas.getBoundingClientRect();
  return [...(canvas.parentElement?.querySelectorAll(".legend, .fieldtools, [data-over]") ?? [])].map((one) => {
    const { left, top, right, bottom } = one.getBoundingClientRect();
    return { left: left - own.left, top: top - own.top, right: right - own.left, bottom: bottom - own.top };
  });
}

/** One of the small buttons over the field. */
export function StageButton(props: {
  label: string;
  sign: string;
  pressed?: boolean;
  shortcut?: string;
  onPress: () => void;
}) {
  return (
    <Tooltip title={props.shortcut ? `${props.label} (${props.shortcut})` : props.label}>
      <IconButton aria-label={props.label} aria-pressed={props.pressed} onClick={props.onPress}>
        {props.sign}
      </IconButton>
    </Tooltip>
  );
}
