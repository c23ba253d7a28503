// Draws a field, robots and paths on a canvas. Sizes in metres go through the view; colours come from the page.
import { type Field, type FieldShape, floorOffsets, type Pose, type Robot, sensorKind } from "@giddy-pebble/core";
import { type FieldView, scaleBarM } from "./fieldView.js";

export type Colours = Readonly<Record<string, string>>;

const NAMES = [
  "paper",
  "sheet",
  "ink",
  "quiet",
  "hair",
  "water",
  "water-soft",
  "amber",
  "amber-soft",
  "amber-ink",
  "rust",
  "moss",
  "moss-soft",
  "heather",
  "stone",
  "stone-ink",
  "floor",
  "mark",
  "boulder",
  "boulder-light",
  "wall",
];

/** The page's colours, light or dark, as they are now. */
export function readColours(): Colours {
  const style = getComputedStyle(document.documentElement);
  return Object.fromEntries(NAMES.map((name) => [name, style.getPropertyValue(`--${name}`).trim()]));
}

export interface Pen {
  readonly context: CanvasRenderingContext2D;
  readonly view: FieldView;
  readonly colours: Colours;
  readonly dark: boolean;
  /** Where the page's own words lie over the canvas, px. */
  readonly blocked?: readonly Box[];
}

interface Box {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

export function tracePoints({ context, view }: Pen, points: Iterable<readonly [number, number]>, close: boolean): void {
  context.beginPath();
  for (const [x, y] of points) context.lineTo(view.originX + x * view.scale, view.originY - y * view.scale);
  if (close) context.closePath();
}

export function traceShape(pen: Pen, shape: FieldShape): void {
  if (shape.kind === "polygon") return tracePoints(pen, shape.cornersM, true);
  const { context, view } = pen;
  context.beginPath();
  context.ellipse(
    view.originX + shape.centreM[0] * view.scale,
    view.originY - shape.centreM[1] * view.scale,
    shape.radiusXM * view.scale,
    shape.radiusYM * view.scale,
    0,
    0,
    2 * Math.PI,
  );
}

function shapeWidthM(shape: FieldShape): number {
  if (shape.kind === "ellipse") return 2 * shape.radiusXM;
  const xs = shape.cornersM.map(([x]) => x);
  return Math.max(...xs) - Math.min(...xs);
}

function shapeHeightM(shape: FieldShape): number {
  if (shape.kind === "ellipse") return 2 * shape.radiusYM;
  const ys = shape.cornersM.map(([, y]) => y);
  return Math.max(...ys) - Math.min(...ys);
}

/** Highest point and middle of a shape, for its label. */
function labelPlace(shape: FieldShape): readonly [number, number] {
  if (shape.kind === "ellipse") return [shape.centreM[0], shape.centreM[1] + shape.radiusYM];
  const xs = shape.cornersM.map(([x]) => x);
  return [(Math.min(...xs) + Math.max(...xs)) / 2, Math.max(...shape.cornersM.map(([, y]) => y))];
}

/** Labels of one drawing: each takes the first of its wordings and places that touches no earlier label, or stays away. */
export class Labels {
  private readonly taken: Box[];

  constructor(blocked: readonly Box[] = []) {
    this.taken = [...blocked];
  }

  /** Keeps labels away from something that is drawn. */
  keepClear(box: Box): void {
    this.taken.push(box);
  }

  /**
   * @param roomM - wordings much wider than the thing they name are passed over, but for the last
   * @param below - m under the place where the label may stand instead
   */
  put(
    { context, view, colours }: Pen,
    wordings: readonly string[],
    x: number,
    y: number,
    colour: string,
    roomM = Number.POSITIVE_INFINITY,
    below = 0,
  ): void {
    context.font = '500 11px "Lexend Variable", sans-serif';
    context.textAlign = "center";
    const px = view.originX + x * view.scale;
    const top = view.originY - y * view.scale - 7;
    const places = [top, ...(below > 0 ? [top + below * view.scale + 22] : [])];
    for (const text of wordings) {
      const half = context.measureText(text).width / 2 + 3;
      if (half > roomM * view.scale && text !== wordings.at(-1)) continue;
      const place = places.find((py) => this.free({ left: px - half, top: py - 11, right: px + half, bottom: py + 4 }));
      if (place === undefined) continue;
      this.taken.push({ left: px - half, top: place - 11, right: px + half, bottom: place + 4 });
      context.lineWidth = 3;
      context.strokeStyle = colours.floor ?? "";
      context.strokeText(text, px, place);
      context.fillStyle = colour;
      context.fillText(text, px, place);
      return;
    }
  }

  private free(box: Box): boolean {
    return !this.taken.some(
      (other) => box.left < other.right && box.right > other.left && box.top < other.bottom && box.bottom > other.top,
    );
  }
}

export function drawZones(pen: Pen, field: Field, labels: Labels): void {
  const { context, colours } = pen;
  for (const zone of field.zones) {
    const colour = (zone.counts === "robot" ? colours.moss : colours["amber-ink"]) ?? "";
    traceShape(pen, zone.shape);
    context.globalAlpha = 0.13;
    context.fillStyle = colour;
    if (zone.counts === "robot") context.fill();
    context.globalAlpha = 1;
    context.strokeStyle = colour;
    context.lineWidth = 1.5;
    context.stroke();
    const [x, y] = labelPlace(zone.shape);
    const short = zone.name.split(" ")[0] ?? zone.name;
    labels.put(
      pen,
      zone.points === 0 ? [zone.name, short] : [`${zone.name}, ${zone.points} points`, zone.name, short],
      x,
      y,
      colour,
      shapeWidthM(zone.shape) * 0.85,
      shapeHeightM(zone.shape),
    );
  }
}

/** Gates for practice: two posts, the line between them, and which it is. */
export function drawGates({ context, colours, view }: Pen, field: Field): void {
  for (const { name, fromM, toM } of field.gates) {
    const [a, b] = [fromM, toM].map(
      ([x, y]) => [view.originX + x * view.scale, view.originY - y * view.scale] as const,
    );
    if (!a || !b) continue;
    context.strokeStyle = colours.moss ?? "";
    context.fillStyle = colours.moss ?? "";
    context.lineWidth = 1.5;
    context.setLineDash([3, 4]);
    context.beginPath();
    context.moveTo(a[0], a[1]);
    context.lineTo(b[0], b[1]);
    context.stroke();
    context.setLineDash([]);
    for (const [x, y] of [a, b]) {
      context.beginPath();
      context.arc(x, y, 4.5, 0, 2 * Math.PI);
      context.fill();
    }
    context.font = "500 11px 'Lexend Variable', system-ui, sans-serif";
    context.textAlign = "left";
    context.textBaseline = "middle";
    context.fillText(name, b[0] + 8, b[1]);
  }
}

export function drawThings(pen: Pen, field: Field, labels: Labels): void {
  const { context, colours, view } = pen;
  for (const { xM, yM, radiusM } of field.boulders) {
    const x = view.originX + xM * view.scale;
    const y = view.originY - yM * view.scale;
    const r = radiusM * view.scale;
    context.beginPath();
    context.arc(x, y, r, 0, 2 * Math.PI);
    context.fillStyle = colours.boulder ?? "";
    context.fill();
    context.strokeStyle = colours.wall ?? "";
    context.lineWidth = 1.5;
    context.stroke();
    context.beginPath();
    context.arc(x - r * 0.25, y - r * 0.25, r * 0.5, 0, 2 * Math.PI);
    context.fillStyle = colours["boulder-light"] ?? "";
    context.fill();
  }
  for (const tag of field.tags) {
    const size = tag.sizeM * view.scale;
    context.beginPath();
    context.roundRect(
      view.originX + tag.xM * view.scale - size / 2,
      view.originY - tag.yM * view.scale - size / 2,
      size,
      size,
      2,
    );
    context.fillStyle = tag.colour;
    context.fill();
  }
  for (const obstacle of field.obstacles) {
    tracePoints(pen, obstacle.cornersM, true);
    context.fillStyle = colours.boulder ?? "";
    context.fill();
    context.lineWidth = 1.5;
    context.strokeStyle = colours.wall ?? "";
    context.stroke();
  }
  for (const wall of field.walls) {
    const { thicknessM = 0 } = wall;
    tracePoints(pen, [wall.fromM, wall.toM], false);
    context.lineWidth = thicknessM > 0 ? Math.max(1.5, thicknessM * view.scale) : Math.max(4, 0.012 * view.scale);
    context.lineCap = thicknessM > 0 ? "butt" : "round";
    context.strokeStyle = (wall.name === undefined ? colours.wall : colours.heather) ?? "";
    context.stroke();
    if (wall.name)
      labels.put(
        pen,
        [wall.name, wall.name.split(/[ ,]/)[0] ?? wall.name],
        (wall.fromM[0] + wall.toM[0]) / 2,
        Math.max(wall.fromM[1], wall.toM[1]),
        colours.heather ?? "",
      );
  }
}

/** Loads where the run has them at the moment, or where the field puts them. */
export function drawLoads({ context, view, colours }: Pen, field: Field, poses: readonly Pose[] | null): void {
  for (const [i, load] of field.loads.entries()) {
    const [w, h] = load.sizeM;
    const pose = poses?.[i] ?? load;
    context.save();
    context.translate(view.originX + pose.xM * view.scale, view.originY - pose.yM * view.scale);
    context.rotate(-pose.headingRad);
    context.beginPath();
    if (load.shape === "disc") context.arc(0, 0, (w / 2) * view.scale, 0, 2 * Math.PI);
    else context.rect((-w / 2) * view.scale, (-h / 2) * view.scale, w * view.scale, h * view.scale);
    context.fillStyle = load.colour;
    context.fill();
    context.strokeStyle = colours["amber-ink"] ?? "";
    context.lineWidth = 1.5;
    context.stroke();
    context.restore();
  }
}

/** Begin places the mission does not use are small flags; the used one is a dashed ring. */
export function drawBegin(pen: Pen, begin: { xM: number; yM: number; name: string }, labels: Labels | null): void {
  const { context, view, colours } = pen;
  context.beginPath();
  context.arc(
    view.originX + begin.xM * view.scale,
    view.originY - begin.yM * view.scale,
    0.125 * view.scale,
    0,
    2 * Math.PI,
  );
  context.setLineDash([5, 4]);
  context.lineWidth = 1.5;
  context.strokeStyle = colours.water ?? "";
  context.stroke();
  context.setLineDash([]);
  labels?.put(pen, [begin.name], begin.xM, begin.yM + 0.125, colours.water ?? "");
}

export interface PathStyle {
  readonly colour: string;
  readonly widthPx: number;
  readonly dash: readonly number[];
  readonly halo: string | null;
  readonly alpha: number;
}

/** Points of a path that lie nearer to one another are drawn as one, px. */
const NEAR_PX = 0.6;

/** A stretch of a path, ticks from..to. */
export function drawPath(
  { context, view }: Pen,
  xs: Float32Array,
  ys: Float32Array,
  from: number,
  to: number,
  style: PathStyle,
): void {
  if (to - from < 1) return;
  context.beginPath();
  const last = Math.min(to, xs.length) - 1;
  let [px, py] = [Number.NEGATIVE_INFINITY, 0];
  for (let i = from; i <= last; i += 1) {
    const [x, y] = [view.originX + (xs[i] ?? 0) * view.scale, view.originY - (ys[i] ?? 0) * view.scale];
    // Where it hardly moves, a step of it is left out.
    if (i < last && (x - px) ** 2 + (y - py) ** 2 < NEAR_PX ** 2) continue;
    context.lineTo(x, y);
    px = x;
    py = y;
  }
  context.lineCap = "round";
  context.lineJoin = "round";
  context.globalAlpha = style.alpha;
  if (style.halo) {
    context.strokeStyle = style.halo;
    context.lineWidth = style.widthPx + 3;
    context.stroke();
  }
  context.setLineDash([...style.dash]);
  context.strokeStyle = style.colour;
  context.lineWidth = style.widthPx;
  context.stroke();
  context.setLineDash([]);
  context.globalAlpha = 1;
}

/** The robot from above, to scale: outline, wheels, caster, sensors, and an arrow forward. */
export function drawRobot(pen: Pen, robot: Robot, pose: Pose, ghost: boolean): void {
  const { context, view, colours } = pen;
  const m = view.scale;
  context.save();
  context.translate(view.originX + pose.xM * m, view.originY - pose.yM * m);
  context.rotate(-pose.headingRad);
  context.globalAlpha = ghost ? 0.4 : 1;
  context.lineWidth = 1.5;
  for (const wheel of robot.wheels) {
    context.save();
    context.translate(wheel.xM * m, -wheel.yM * m);
    context.rotate(-wheel.aimRad);
    context.beginPath();
    context.roundRect((-wheel.diameterM / 2) * m, (-wheel.widthM / 2) * m, wheel.diameterM * m, wheel.widthM * m, 3);
    context.fillStyle = colours.ink ?? "";
    context.fill();
    context.restore();
  }
  context.beginPath();
  for (const [x, y] of robot.chassis.outlineM) context.lineTo(x * m, -y * m);
  context.closePath();
  context.fillStyle = colours.sheet ?? "";
  context.fill();
  context.strokeStyle = colours.ink ?? "";
  context.stroke();
  drawFittings(context, robot, m, colours);
  context.restore();
  context.globalAlpha = 1;
}

function drawFittings(context: CanvasRenderingContext2D, robot: Robot, m: number, colours: Colours): void {
  const spot = (x: number, y: number, r: number, colour: string) => {
    context.beginPath();
    context.arc(x * m, -y * m, Math.max(1.5, r * m), 0, 2 * Math.PI);
    context.fillStyle = colour;
    context.fill();
  };
  if (robot.support) spot(robot.support.xM, robot.support.yM, 0.008, colours.boulder ?? "");
  for (const sensor of robot.sensors) {
    const bar = sensorKind(sensor).bar?.(sensor);
    if (bar) {
      const across = [(-Math.sin(bar.aimRad) * bar.widthM) / 2, (Math.cos(bar.aimRad) * bar.widthM) / 2] as const;
      context.beginPath();
      context.moveTo((bar.xM - across[0]) * m, -(bar.yM - across[1]) * m);
      context.lineTo((bar.xM + across[0]) * m, -(bar.yM + across[1]) * m);
      context.strokeStyle = colours.heather ?? "";
      context.lineWidth = Math.max(2, 0.006 * m);
      context.stroke();
    } else if (sensor.kind === "floor") {
      for (const y of floorOffsets(sensor.layout, sensor.count, sensor.spacingM))
        spot(sensor.xM, sensor.yM + y, 0.004, colours.moss ?? "");
    } else if (sensor.kind === "eye" || sensor.kind === "near") spot(sensor.xM, sensor.yM, 0.009, colours.amber ?? "");
  }
  context.beginPath();
  context.moveTo(0.03 * m, 0);
  context.lineTo(-0.005 * m, 0.016 * m);
  context.lineTo(-0.005 * m, -0.016 * m);
  context.closePath();
  context.fillStyle = colours.water ?? "";
  context.fill();
}

/** A numbered pebble beside the path. */
/** Middle and half sizes of a pebble at a place, px. */
function pebblePlace(view: Pen["view"], text: string, x: number, y: number) {
  return {
    px: view.originX + x * view.scale + 9,
    py: view.originY - y * view.scale - 13,
    wide: text.length > 2 ? 12 : 10,
    high: 7.5,
  };
}

/** What a pebble at a place covers. */
export function pebbleBox({ view }: Pen, text: string, x: number, y: number): Box {
  const { px, py, wide, high } = pebblePlace(view, text, x, y);
  return { left: px - wide, top: py - high, right: px + wide, bottom: py + high };
}

export function drawPebble(
  { context, view, colours }: Pen,
  text: string,
  x: number,
  y: number,
  state: "planned" | "running" | "trouble",
): void {
  const { px, py, wide, high } = pebblePlace(view, text, x, y);
  context.beginPath();
  context.ellipse(px, py, wide, high, -0.06, 0, 2 * Math.PI);
  context.fillStyle = (state === "trouble" ? colours.rust : state === "running" ? colours.ink : colours.water) ?? "";
  context.fill();
  context.lineWidth = 2;
  context.strokeStyle = colours.sheet ?? "";
  context.stroke();
  context.fillStyle = colours.sheet ?? "";
  context.font = '650 9px "Lexend Variable", sans-serif';
  context.textAlign = "center";
  context.fillText(text, px, py + 3.2);
}

export function drawScaleBar({ context, view, colours }: Pen, widthPx: number, heightPx: number): void {
  const metres = scaleBarM(view);
  const length = metres * view.scale;
  const x = widthPx - 18 - length;
  const y = heightPx - 16;
  context.strokeStyle = colours.ink ?? "";
  context.lineWidth = 1.5;
  context.beginPath();
  context.moveTo(x, y - 4);
  context.lineTo(x, y);
  context.lineTo(x + length, y);
  context.lineTo(x + length, y - 4);
  context.stroke();
  context.fillStyle = colours.ink ?? "";
  context.font = '500 11px "JetBrains Mono Variable", monospace';
  context.textAlign = "center";
  context.fillText(
    metres >= 1 ? `${metres} m` : metres >= 0.01 ? `${Math.round(metres * 100)} cm` : `${Math.round(metres * 1000)} mm`,
    x + length / 2,
    y - 7,
  );
}
