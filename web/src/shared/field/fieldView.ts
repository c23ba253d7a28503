// How field metres become screen pixels: pan, zoom and fit. Pure; the canvas only draws with it.

export interface FieldView {
  /** Pixels for a metre. */
  readonly scale: number;
  /** Screen place of the field's origin (lower left), pixels; y runs down the screen. */
  readonly originX: number;
  readonly originY: number;
}

const LEAST_SCALE = 20;
const MOST_SCALE = 6000;

/** Room around the field, px. */
export interface FieldMargin {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

const MARGIN: FieldMargin = { left: 36, right: 36, top: 26, bottom: 46 };

/** Room around the field on the drawing board: rulers at two edges. */
export const BOARD_MARGIN = { left: 46, right: 24, top: 40, bottom: 62 } as const satisfies FieldMargin;

/** The whole field in the pane with a margin for labels. */
export function fitField(
  widthPx: number,
  heightPx: number,
  field: { widthM: number; heightM: number },
  margin: FieldMargin = MARGIN,
): FieldView {
  const wide = widthPx - margin.left - margin.right;
  const scale = Math.max(
    LEAST_SCALE,
    Math.min(wide / field.widthM, (heightPx - margin.top - margin.bottom) / field.heightM),
  );
  const left = margin.left + (wide - field.widthM * scale) / 2;
  const top = margin.top + (heightPx - margin.top - margin.bottom - field.heightM * scale) / 2;
  return { scale, originX: left, originY: top + field.heightM * scale };
}

/** Panes narrower than this have no room for the buttons beside the field, px. */
const NARROW_PX = 800;

/**
 * Room that keeps the field clear of what stands over the pane: of a legend however many lines it has, and on a narrow
 * pane of the buttons.
 * @param over - heights of both, px; 0 for none
 */
export function clearMargin(widthPx: number, over: { readonly legend: number; readonly tools: number }): FieldMargin {
  return {
    ...MARGIN,
    top: widthPx < NARROW_PX ? Math.max(MARGIN.top, over.tools + 20) : MARGIN.top,
    bottom: Math.max(MARGIN.bottom, over.legend + 16),
  };
}

export function zoomAt(view: FieldView, x: number, y: number, factor: number): FieldView {
  const scale = Math.max(LEAST_SCALE, Math.min(MOST_SCALE, view.scale * factor));
  const real = scale / view.scale;
  return { scale, originX: x - (x - view.originX) * real, originY: y - (y - view.originY) * real };
}

export function pan(view: FieldView, dx: number, dy: number): FieldView {
  return { ...view, originX: view.originX + dx, originY: view.originY + dy };
}

export function toField(view: FieldView, x: number, y: number): readonly [number, number] {
  return [(x - view.originX) / view.scale, (view.originY - y) / view.scale];
}

/** A round length between 60 and 150 pixels for the scale bar, m. */
export function scaleBarM(view: FieldView): number {
  const wanted = 90 / view.scale;
  const power = 10 ** Math.floor(Math.log10(wanted));
  const step = [1, 2, 5, 10].find((candidate) => candidate * power >= wanted * 0.7) ?? 10;
  return step * power;
}

/** Index of the path point nearest to a screen place, if within `reachPx`; later points win ties by a little. */
export function nearestOnPath(
  view: FieldView,
  xs: Float32Array,
  ys: Float32Array,
  x: number,
  y: number,
  reachPx: number,
): number | null {
  const [fx, fy] = toField(view, x, y);
  let best = (reachPx / view.scale) ** 2;
  let found: number | null = null;
  for (let i = 0; i < xs.length; i += 2) {
    const d = ((xs[i] ?? 0) - fx) ** 2 + ((ys[i] ?? 0) - fy) ** 2;
    if (d < best) {
      best = d;
      found = i;
    }
  }
  return found;
}
