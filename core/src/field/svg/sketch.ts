// A small picture of a field as SVG text, with the way of a run on it.
import type { Field } from "../schema.js";
import { exportSvg } from "./export.js";

/** Most points of a way that a small picture shows. */
const MOST_POINTS = 400;
const mm = (metres: number) => Math.floor(metres * 10_000 + 0.5) / 10;

/** @param way - the middle of the robot over a run, m @returns the text of an SVG file, without the floor's picture */
export function fieldSketch(field: Field, way: { x: ArrayLike<number>; y: ArrayLike<number> } | null = null): string {
  const drawn = exportSvg({ ...field, picture: undefined } as Field);
  if (!way || way.x.length < 2) return drawn;
  const every = Math.max(1, -Math.floor(-(way.x.length / MOST_POINTS)));
  const points: string[] = [];
  for (let i = 0; i < way.x.length; i += every)
    points.push(`${mm(way.x[i] ?? 0)},${mm(field.size.heightM - (way.y[i] ?? 0))}`);
  const line = `<polyline points="${points.join(" ")}" fill="none" stroke="#0E6A6B" stroke-width="18" stroke-linejoin="round"/>`;
  return drawn.replace(/<\/svg>\s*$/, `${line}\n</svg>\n`);
}
