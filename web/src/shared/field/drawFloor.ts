// The floor and what is drawn on it: its picture, slopes, marks, shadows of the lamp, and its rim.
import {
  boundsOf,
  CELL_M,
  type Field,
  type FieldMark,
  type Point,
  rimOutline,
  type StrokeMark,
  solidFaces,
  strokeRuns,
} from "@giddy-pebble/core";
import { type Pen, tracePoints, traceShape } from "./drawField.js";
import { pictureImage } from "./pictures.js";

/** The runs of a line or curve, made once. */
const runs = new WeakMap<object, readonly (readonly Point[])[]>();

function runsOf(mark: StrokeMark): readonly (readonly Point[])[] {
  const known = runs.get(mark);
  if (known) return known;
  const made = strokeRuns(mark);
  runs.set(mark, made);
  return made;
}

function drawMark(pen: Pen, mark: FieldMark): void {
  const { context, colours, view, dark } = pen;
  if (mark.kind === "area") {
    traceShape(pen, mark.shape);
    context.fillStyle = mark.colour;
    // Holes of an outline are cut in by the even-odd rule, as sensors see them.
    context.fill("evenodd");
    return;
  }
  context.beginPath();
  for (const run of runsOf(mark))
    run.forEach(([x, y], i) => {
      const [px, py] = [view.originX + x * view.scale, view.originY - y * view.scale];
      if (i === 0) context.moveTo(px, py);
      else context.lineTo(px, py);
    });
  context.strokeStyle = dark && isDark(mark.colour) ? (colours.mark ?? "") : mark.colour;
  context.lineWidth = mark.widthM * view.scale;
  context.stroke();
}

/** Dark lines take the scheme's own dark, which stands out from its floor. */
function isDark(hex: string): boolean {
  return /^#[0-5][0-9a-f][0-5][0-9a-f][0-5][0-9a-f]$/i.test(hex);
}

export function drawFloor(pen: Pen, field: Field): void {
  const { context, colours, view, dark } = pen;
  const outline = rimOutline(field.size);
  tracePoints(pen, outline, true);
  context.fillStyle = dark ? (colours.floor ?? "") : field.surface.colour;
  context.fill();
  context.save();
  context.clip();
  const picture = pictureImage(field);
  if (picture && field.picture) {
    const [width, height] = [field.picture.columns * CELL_M * view.scale, field.picture.rows * CELL_M * view.scale];
    context.imageSmoothingEnabled = view.scale * CELL_M < 3;
    context.drawImage(picture, view.originX, view.originY - height, width, height);
  }
  for (const ramp of field.ramps) drawRamp(pen, ramp);
  // Lines end round, as sensors see them.
  context.lineCap = "round";
  context.lineJoin = "round";
  for (const mark of field.marks) drawMark(pen, mark);
  drawLampShade(pen, field);
  context.restore();
  tracePoints(pen, outline, true);
  context.lineWidth = field.edge === "rim" ? 2.5 : 1;
  context.setLineDash(field.edge === "rim" ? [] : [6, 6]);
  context.strokeStyle = colours.wall ?? "";
  context.stroke();
  context.setLineDash([]);
}

/** A slope: hatched, with an arrow that leads up. */
function drawRamp(pen: Pen, ramp: Field["ramps"][number]): void {
  const { context, colours, view } = pen;
  context.save();
  tracePoints(pen, ramp.cornersM, true);
  context.globalAlpha = 0.14;
  context.fillStyle = colours.ink ?? "";
  context.fill();
  context.globalAlpha = 0.7;
  context.lineWidth = 1;
  context.strokeStyle = colours.quiet ?? "";
  context.stroke();
  const { lowX, lowY, highX, highY } = boundsOf(ramp.cornersM);
  const [x, y] = [view.originX + ((lowX + highX) / 2) * view.scale, view.originY - ((lowY + highY) / 2) * view.scale];
  const reach = Math.max(10, Math.min(highX - lowX, highY - lowY) * view.scale * 0.3);
  context.translate(x, y);
  context.rotate(-ramp.upRad);
  context.globalAlpha = 0.9;
  context.lineWidth = 2;
  context.beginPath();
  context.moveTo(-reach, 0);
  context.lineTo(reach, 0);
  context.moveTo(reach - 7, -5);
  context.lineTo(reach, 0);
  context.lineTo(reach - 7, 5);
  context.stroke();
  context.restore();
}

/** Shadows that walls and obstacles cast under the lamp, and the lamp's foot. */
function drawLampShade(pen: Pen, field: Field): void {
  const lamp = field.light?.lamp;
  if (!lamp) return;
  const { context, colours, view } = pen;
  const place = ([x, y]: Point): [number, number] => [view.originX + x * view.scale, view.originY - y * view.scale];
  context.save();
  context.globalAlpha = 0.22;
  context.fillStyle = colours.ink ?? "";
  context.beginPath();
  for (const { ends, heightM } of solidFaces(field)) {
    // An edge h high under a lamp H high: its shadow falls H / (H - h) times as far from the lamp's foot.
    const times = heightM < lamp.heightM * 0.99 ? lamp.heightM / (lamp.heightM - heightM) : 50;
    if (!Number.isFinite(heightM)) continue;
    const cast = ([x, y]: Point): Point => [lamp.xM + (x - lamp.xM) * times, lamp.yM + (y - lamp.yM) * times];
    const quad = [ends[0], ends[1], cast(ends[1]), cast(ends[0])].map(place) as [number, number][];
    // All the same way round, so that shadows that lie over one another stay shadows.
    const area = quad.reduce((sum, [x, y], i) => {
      const [nx, ny] = quad[(i + 1) % 4] as [number, number];
      return sum + x * ny - nx * y;
    }, 0);
    if (area < 0) quad.reverse();
    quad.forEach(([x, y], i) => {
      if (i === 0) context.moveTo(x, y);
      else context.lineTo(x, y);
    });
    context.closePath();
  }
  context.fill("nonzero");
  context.globalAlpha = 1;
  const [lx, ly] = place([lamp.xM, lamp.yM]);
  context.strokeStyle = colours.amber ?? "";
  context.lineWidth = 1.5;
  context.beginPath();
  context.arc(lx, ly, 5, 0, 2 * Math.PI);
  for (let i = 0; i < 8; i += 1) {
    const angle = (i * Math.PI) / 4;
    context.moveTo(lx + 8 * Math.cos(angle), ly + 8 * Math.sin(angle));
    context.lineTo(lx + 12 * Math.cos(angle), ly + 12 * Math.sin(angle));
  }
  context.stroke();
  context.restore();
}
