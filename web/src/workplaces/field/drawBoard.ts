// The layers of the drawing board: the field, what is wrong on it, what is chosen with its handles, what is being drawn
// with its numbers, the robot of the probe, and rulers.
import { type Field, handlesOf, outlineOf, type Point, type Pose, type Thing, thingOf } from "@giddy-pebble/core";
import {
  drawBegin,
  drawGates,
  drawLoads,
  drawRobot,
  drawScaleBar,
  drawThings,
  drawZones,
  Labels,
  type Pen,
} from "../../shared/field/drawField.js";
import { drawFloor } from "../../shared/field/drawFloor.js";
import { drawRulers } from "../../shared/field/drawRulers.js";
import { drawSenses } from "../../shared/field/drawSenses.js";
import { measureWords } from "../../shared/field/words.js";
import { finished, takesOf } from "./drawing.js";
import type { FieldState } from "./state.js";

function at({ view }: Pen, [x, y]: Point): [number, number] {
  return [view.originX + x * view.scale, view.originY - y * view.scale];
}

function trace(pen: Pen, points: readonly Point[], close: boolean): void {
  pen.context.beginPath();
  for (const point of points) pen.context.lineTo(...at(pen, point));
  if (close) pen.context.closePath();
}

function drawChosen(pen: Pen, thing: Thing, alone: boolean): void {
  const { context, colours } = pen;
  const outline = outlineOf(thing);
  const open = "pointsM" in thing || "nodes" in thing;
  trace(pen, outline, !open);
  context.lineWidth = 2;
  context.strokeStyle = colours.water ?? "";
  context.setLineDash([4, 3]);
  context.stroke();
  context.setLineDash([]);
  if (!alone) return;
  if ("nodes" in thing) {
    context.lineWidth = 1;
    for (const { atM, inM, outM } of thing.nodes)
      for (const arm of [inM, outM]) {
        if (!arm) continue;
        trace(pen, [atM, arm], false);
        context.stroke();
      }
  }
  let drawnAt: readonly [number, number] | null = null;
  for (const handle of handlesOf(thing)) {
    const [x, y] = at(pen, handle.at);
    // Where points lie close, every one can be taken but not all are shown.
    if (handle.kind === "point" && drawnAt && Math.hypot(x - drawnAt[0], y - drawnAt[1]) < 11) continue;
    drawnAt = [x, y];
    context.beginPath();
    if (handle.kind === "arm") context.arc(x, y, 3.5, 0, 2 * Math.PI);
    else context.arc(x, y, 5, 0, 2 * Math.PI);
    context.fillStyle = (handle.kind === "arm" ? colours.water : colours.sheet) ?? "";
    context.fill();
    context.lineWidth = 1.5;
    context.strokeStyle = colours.water ?? "";
    context.stroke();
  }
}

/** Words with a rim, so that they can be read on anything. */
function tagWords(pen: Pen, words: string, x: number, y: number): void {
  const { context, colours } = pen;
  context.font = '500 12px "JetBrains Mono Variable", monospace';
  context.textAlign = "center";
  context.lineWidth = 4;
  context.lineJoin = "round";
  context.strokeStyle = colours.sheet ?? "";
  context.strokeText(words, x, y);
  context.fillStyle = colours.ink ?? "";
  context.fillText(words, x, y);
}

function drawDrawing(pen: Pen, state: FieldState): void {
  const { drawing, field } = state;
  if (!drawing) return;
  const { context, colours } = pen;
  const points = drawing.dragged ? drawing.points : [...drawing.points, drawing.now];
  const preview = finished({ ...drawing, points }, field);
  if (preview) {
    trace(pen, outlineOf(preview.thing), !("pointsM" in preview.thing || "nodes" in preview.thing));
    context.lineWidth = "widthM" in preview.thing ? Math.max(2, preview.thing.widthM * pen.view.scale) : 2;
    context.globalAlpha = 0.35;
    context.strokeStyle = colours.water ?? "";
    context.stroke();
    context.globalAlpha = 1;
  }
  trace(pen, points, false);
  context.lineWidth = 1.5;
  context.strokeStyle = colours.water ?? "";
  context.stroke();
  for (const point of points) {
    context.beginPath();
    context.arc(...at(pen, point), 3.5, 0, 2 * Math.PI);
    context.fillStyle = colours.sheet ?? "";
    context.fill();
    context.stroke();
  }
  const [a, b] = [points.at(-2), points.at(-1)];
  if (!a || !b || (a[0] === b[0] && a[1] === b[1])) return;
  const [x, y] = at(pen, [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
  const outline = takesOf(drawing.tool) === "outline" && points.length === 2;
  const words = outline
    ? `${cm(Math.abs(b[0] - a[0]))} × ${cm(Math.abs(b[1] - a[1]))} cm`
    : drawing.tool === "boulder"
      ? `radius ${cm(Math.hypot(b[0] - a[0], b[1] - a[1]))} cm`
      : measureWords(a, b);
  tagWords(pen, words, x, y - 9);
}

function cm(metres: number): string {
  return String(Math.round(metres * 1000) / 10);
}

function drawMeasure(pen: Pen, points: readonly Point[]): void {
  const { context, colours } = pen;
  context.strokeStyle = colours.ink ?? "";
  context.lineWidth = 1.5;
  for (const point of points) {
    context.beginPath();
    context.arc(...at(pen, point), 4, 0, 2 * Math.PI);
    context.stroke();
  }
  const [from, to] = points;
  if (!from || !to) return;
  trace(pen, [from, to], false);
  context.stroke();
  const [x, y] = at(pen, [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2]);
  tagWords(pen, measureWords(from, to), x, y - 8);
}

function drawTrouble(pen: Pen, state: FieldState): void {
  const { context, colours } = pen;
  for (const { at: ref, severity } of state.problems) {
    const thing = ref === "field" ? null : thingOf(state.field, ref);
    if (!thing) continue;
    trace(pen, outlineOf(thing), !("pointsM" in thing || "nodes" in thing));
    context.lineWidth = 2;
    context.setLineDash([2, 3]);
    context.strokeStyle = (severity === "error" ? colours.rust : colours.amber) ?? "";
    context.stroke();
    context.setLineDash([]);
  }
}

function drawProbe(pen: Pen, state: FieldState): void {
  const { robot, pose, result } = state.probe;
  if (!robot) return;
  drawRobot(pen, robot, pose, false);
  if (!result) return;
  const values = new Map(result.readings.map(({ id, value }) => [id, value]));
  drawSenses(pen, robot, result.pose, (id) => values.get(id) ?? null);
}

export function drawBoard(pen: Pen, state: FieldState, width: number, height: number): void {
  const { context, colours } = pen;
  const { field, chosen } = state;
  drawFloor(pen, field);
  drawGrid(pen, field);
  const labels = new Labels(pen.blocked);
  drawZones(pen, field, labels);
  drawThings(pen, field, labels);
  drawGates(pen, field);
  drawLoads(pen, field, null);
  for (const begin of field.begins) drawBegin(pen, begin, labels);
  for (const begin of field.begins) drawHeading(pen, begin);
  drawTrouble(pen, state);
  for (const ref of chosen) {
    const thing = thingOf(field, ref);
    if (thing) drawChosen(pen, thing, chosen.length === 1);
  }
  drawProbe(pen, state);
  drawDrawing(pen, state);
  if (state.measure.length > 0) drawMeasure(pen, state.measure);
  if (state.box) {
    const [a, b] = state.box.map((point) => at(pen, point)) as [[number, number], [number, number]];
    context.strokeStyle = colours.water ?? "";
    context.setLineDash([4, 4]);
    context.strokeRect(Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.abs(a[0] - b[0]), Math.abs(a[1] - b[1]));
    context.setLineDash([]);
  }
  if (state.snapped && state.snapped.to !== "grid" && state.snapped.to !== "nothing") {
    const [x, y] = at(pen, state.snapped.at);
    context.strokeStyle = colours["amber-ink"] ?? "";
    context.lineWidth = 1.5;
    context.strokeRect(x - 5, y - 5, 10, 10);
    tagWords(pen, state.snapped.to, x, y + 20);
  }
  drawRulers(pen, width, height);
  drawScaleBar(pen, width, height);
}

function drawGrid(pen: Pen, field: Field): void {
  const { context, colours, view } = pen;
  const step = [0.01, 0.05, 0.1, 0.5, 1].find((metres) => metres * view.scale >= 22) ?? 1;
  context.beginPath();
  const { widthM, heightM } = field.size;
  for (let x = step; x < widthM; x += step) {
    context.moveTo(...at(pen, [x, 0]));
    context.lineTo(...at(pen, [x, heightM]));
  }
  for (let y = step; y < heightM; y += step) {
    context.moveTo(...at(pen, [0, y]));
    context.lineTo(...at(pen, [widthM, y]));
  }
  context.globalAlpha = 0.13;
  context.strokeStyle = colours.ink ?? "";
  context.lineWidth = 1;
  context.stroke();
  context.globalAlpha = 1;
}

function drawHeading(pen: Pen, { xM, yM, headingRad }: Pose): void {
  const { context, colours } = pen;
  const [x, y] = at(pen, [xM, yM]);
  context.save();
  context.translate(x, y);
  context.rotate(-headingRad);
  context.beginPath();
  context.moveTo(11, 0);
  context.lineTo(-5, 6);
  context.lineTo(-5, -6);
  context.closePath();
  context.fillStyle = colours.water ?? "";
  context.fill();
  context.restore();
}
