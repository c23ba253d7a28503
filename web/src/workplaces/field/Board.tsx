// The drawing board: the field on the stage with rulers, what is chosen with its handles, what is being drawn with its
// numbers, and the robot of the probe.
import {
  boundsOf,
  type Field,
  type Handle,
  handlesOf,
  type Magnets,
  magnetsOf,
  middleOf,
  moveHandle,
  moveThings,
  outlineOf,
  type Point,
  type Pose,
  shiftBy,
  snapOnField,
  type Thing,
  type ThingRef,
  thingOf,
  thingsAt,
  thingsWithin,
} from "@giddy-pebble/core";
import { useCallback, useRef } from "react";
import {
  drawBegin,
  drawFloor,
  drawGates,
  drawLoads,
  drawRobot,
  drawScaleBar,
  drawThings,
  drawZones,
  Labels,
  type Pen,
} from "../../shared/field/drawField.js";
import { drawRulers } from "../../shared/field/drawRulers.js";
import { drawSenses } from "../../shared/field/drawSenses.js";
import {
  FieldStage,
  StageButton,
  type StageHandle,
  type StagePoint,
  type StageTool,
} from "../../shared/field/FieldStage.js";
import { BOARD_MARGIN } from "../../shared/field/fieldView.js";
import { onPictures } from "../../shared/field/pictures.js";
import { measureWords } from "../../shared/field/words.js";
import { finished, takesOf } from "./drawing.js";
import { moveProbe } from "./probing.js";
import { type FieldState, useField } from "./state.js";
import {
  addPoint,
  change,
  changeOne,
  choose,
  chooseAlso,
  finishDrawing,
  isLocked,
  lastPoint,
  moveDrawing,
} from "./store.js";
import { TypedNumbers } from "./TypedNumbers.js";

/** Within this of a thing, handle or magnet counts as on it, px. */
const REACH_PX = 8;

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

function draw(pen: Pen, state: FieldState, width: number, height: number): void {
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

function watch(ask: () => void): () => void {
  const [unsubscribe, forget] = [useField.subscribe(ask), onPictures(ask)];
  return () => {
    unsubscribe();
    forget();
  };
}

type Drag =
  | { readonly is: "handle"; readonly ref: ThingRef; readonly id: string }
  | { readonly is: "things"; readonly from: Point; readonly before: Field; readonly refs: readonly ThingRef[] }
  | { readonly is: "probe"; readonly dx: number; readonly dy: number }
  | { readonly is: "turn" }
  | { readonly is: "box"; readonly from: Point }
  | { readonly is: "draw"; readonly from: Point };

const get = useField.getState;
const set = useField.setState;

/** Chooses, moves, and draws, by the tool in hand. */
class BoardTool implements StageTool {
  private held: Drag | null = null;
  private magnets: Magnets | null = null;

  private snap({ place, perPixelM, event }: StagePoint, from: Point | null, except: readonly ThingRef[] = []): Point {
    if (event.altKey) {
      set({ snapped: null });
      return place;
    }
    const { field, gridM } = get();
    this.magnets ??= magnetsOf(field, new Set(except));
    const found = snapOnField(place, { magnets: this.magnets, gridM, reachM: REACH_PX * perPixelM, from });
    set({ snapped: found });
    return found.at;
  }

  private onProbe({ place }: StagePoint): "body" | "nose" | null {
    const { robot, pose } = get().probe;
    if (!robot) return null;
    const [dx, dy] = [place[0] - pose.xM, place[1] - pose.yM];
    const c = Math.cos(pose.headingRad);
    const s = Math.sin(pose.headingRad);
    const [x, y] = [c * dx + s * dy, c * dy - s * dx];
    const xs = robot.chassis.outlineM.map(([px]) => px);
    const ys = robot.chassis.outlineM.map(([, py]) => py);
    const [front, back, side] = [Math.max(...xs), Math.min(...xs), Math.max(...ys.map(Math.abs))];
    if (x > back && x < front - 0.02 && Math.abs(y) < side) return "body";
    return x >= front - 0.02 && x < front + 0.03 && Math.abs(y) < side ? "nose" : null;
  }

  down(point: StagePoint): boolean {
    const { tool, chosen, field } = get();
    const { place, perPixelM, event } = point;
    this.magnets = null;
    this.held = null;
    if (tool === "measure") return true;
    if (tool !== "choose") {
      const from = this.snap(point, lastPoint());
      this.held = { is: "draw", from };
      return true;
    }
    const [only] = chosen;
    const thing = only && chosen.length === 1 ? thingOf(field, only) : null;
    const handle = thing ? handleAt(thing, place, REACH_PX * perPixelM) : null;
    if (only && handle && !isLocked(only)) {
      this.held = { is: "handle", ref: only, id: handle.id };
      return true;
    }
    const probe = this.onProbe(point);
    if (probe) {
      const { pose } = get().probe;
      this.held = probe === "nose" ? { is: "turn" } : { is: "probe", dx: pose.xM - place[0], dy: pose.yM - place[1] };
      return true;
    }
    const [ref] = thingsAt(field, place, (REACH_PX / 2) * perPixelM);
    if (!ref) {
      if (!event.shiftKey) return false;
      this.held = { is: "box", from: place };
      return true;
    }
    if (event.shiftKey) return true;
    const refs = chosen.includes(ref) ? chosen : [ref];
    if (!chosen.includes(ref)) choose([ref]);
    this.held = { is: "things", from: place, before: field, refs: refs.filter((one) => !isLocked(one)) };
    return true;
  }

  drag(point: StagePoint): void {
    const { held } = this;
    const { place } = point;
    if (!held) return;
    const { probe } = get();
    if (held.is === "handle") {
      const to = this.snap(point, null, [held.ref]);
      changeOne(held.ref, "reshaping it", (thing) => moveHandle(thing, held.id, to), `handle ${held.ref} ${held.id}`);
    } else if (held.is === "things") {
      const { refs, before, from } = held;
      if (refs.length === 0) return;
      const { gridM } = get();
      const onGrid = (value: number) => (gridM > 0 && !point.event.altKey ? Math.round(value / gridM) * gridM : value);
      const by = shiftBy(onGrid(place[0] - from[0]), onGrid(place[1] - from[1]));
      change(moveThings(before, refs, by), refs.length === 1 ? "moving it" : `moving ${refs.length} things`, "drag");
    } else if (held.is === "probe") moveProbe({ ...probe.pose, xM: place[0] + held.dx, yM: place[1] + held.dy });
    else if (held.is === "turn")
      moveProbe({ ...probe.pose, headingRad: Math.atan2(place[1] - probe.pose.yM, place[0] - probe.pose.xM) });
    else if (held.is === "box") set({ box: [held.from, place] });
    else if (held.is === "draw") {
      const { tool, drawing } = get();
      if (tool === "choose" || tool === "measure") return;
      // Lines of many points are made by presses; all else can be drawn by one drag.
      if (takesOf(tool) === "chain") return moveDrawing(this.snap(point, lastPoint()));
      const to = this.snap(point, held.from);
      const points = drawing && !drawing.dragged ? drawing.points : [];
      if (points.length > 0) return moveDrawing(to);
      set({ drawing: { tool, points: [held.from, to], now: to, dragged: true } });
    }
  }

  up(point: StagePoint, moved: boolean): void {
    const { held } = this;
    this.held = null;
    this.magnets = null;
    const { tool, field, measure } = get();
    if (tool === "measure") {
      const to = this.snap(point, null);
      return set({ measure: measure.length === 1 ? [...measure, to] : [to] });
    }
    if (held?.is === "draw") {
      const { drawing } = get();
      if (drawing?.dragged) return finishDrawing();
      addPoint(moved ? this.snap(point, lastPoint()) : held.from);
      return;
    }
    if (held?.is === "box") {
      set({ box: null });
      return choose(thingsWithin(field, held.from, point.place));
    }
    set({ snapped: null });
    if (moved) return;
    const refs = thingsAt(field, point.place, (REACH_PX / 2) * point.perPixelM);
    const [ref] = refs;
    if (point.event.shiftKey && ref) return chooseAlso(ref);
    if (held?.is === "probe" || held?.is === "turn" || held?.is === "handle") return;
    // Pressed again on what is chosen: the thing below it.
    const { chosen } = get();
    const place = chosen.length === 1 && chosen[0] ? refs.indexOf(chosen[0]) : -1;
    const before = held?.is === "things" ? held.before : null;
    if (before && this.pressedBefore === ref && place >= 0) choose([refs[(place + 1) % refs.length] as ThingRef]);
    else choose(ref ? [ref] : []);
    this.pressedBefore = ref ?? null;
  }
  private pressedBefore: ThingRef | null = null;

  hover(point: StagePoint): string {
    const { tool, drawing, chosen, field } = get();
    if (tool !== "choose") {
      this.magnets = null;
      if (drawing) moveDrawing(this.snap(point, lastPoint()));
      else this.snap(point, null);
      return "crosshair";
    }
    const [only] = chosen;
    const thing = only && chosen.length === 1 ? thingOf(field, only) : null;
    if (thing && handleAt(thing, point.place, REACH_PX * point.perPixelM)) return "move";
    const probe = this.onProbe(point);
    if (probe) return probe === "nose" ? "crosshair" : "move";
    return thingsAt(field, point.place, (REACH_PX / 2) * point.perPixelM).length > 0 ? "pointer" : "";
  }

  leave(): void {
    if (get().snapped) set({ snapped: null });
  }

  twice(): void {
    if (get().drawing) finishDrawing();
  }
}

/** The handle at a place. Of a thing that is small on the screen its middle can be taken as well. */
function handleAt(thing: Thing, place: Point, reachM: number): Handle | null {
  const middle = middleOf(boundsOf(outlineOf(thing)));
  const free = ({ at, kind }: Handle) =>
    near(at, place) < reachM && (kind === "point" || kind === "arm" || near(at, place) < near(middle, place));
  return [...handlesOf(thing)].reverse().find(free) ?? null;
}

function near(a: Point, b: Point): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1]);
}

export function Board() {
  const stage = useRef<StageHandle | null>(null);
  const tool = useRef<BoardTool | null>(null);
  tool.current ??= new BoardTool();
  const size = useField((state) => state.field.size);
  const open = useField((state) => state.open?.id ?? "");
  const name = useField((state) => state.field.name);
  const take = useCallback((handle: StageHandle | null) => {
    stage.current = handle;
  }, []);
  return (
    <FieldStage
      className="board"
      size={size}
      fitKey={`${open}/${size.widthM}×${size.heightM}`}
      label={`The field ${name} from above, to draw on`}
      draw={(pen, width, height) => draw(pen, get(), width, height)}
      watch={watch}
      tool={tool.current}
      handle={take}
      margin={BOARD_MARGIN}
    >
      <div className="fieldtools">
        <StageButton label="Zoom in" sign="+" onPress={() => stage.current?.zoom(1.3)} />
        <StageButton label="Zoom out" sign="−" onPress={() => stage.current?.zoom(1 / 1.3)} />
        <GridButton />
        <StageButton label="Show the whole field" sign="⤢" onPress={() => stage.current?.fit()} />
      </div>
      <TypedNumbers />
      <ChosenWords />
    </FieldStage>
  );
}

function GridButton() {
  const gridM = useField((state) => state.gridM);
  return (
    <StageButton
      label={gridM > 0 ? "Snapping to 1 cm" : "No snapping to the grid"}
      shortcut="Alt while dragging: no snapping"
      sign="#"
      pressed={gridM > 0}
      onPress={() => set({ gridM: gridM > 0 ? 0 : 0.01 })}
    />
  );
}

/** What is chosen or measured, for those who cannot see the board. */
function ChosenWords() {
  const measure = useField((state) => state.measure);
  const tool = useField((state) => state.tool);
  const [from, to] = measure;
  const words =
    tool === "measure"
      ? from && to
        ? measureWords(from, to)
        : "Press two points on the field."
      : tool === "choose"
        ? ""
        : "Press on the field, or type numbers and press Enter. Escape goes back.";
  return (
    <span className="sr" role="status">
      {words}
    </span>
  );
}
