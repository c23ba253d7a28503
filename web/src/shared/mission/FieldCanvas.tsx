// The field of the open mission on the stage: its layers, and a tool that lights, chooses and drags steps on the path,
// measures, and places points.
import {
  beginOf,
  placesOfPath,
  plainDigits,
  type StepScatter,
  type StepSummary,
  traceColumn,
} from "@giddy-pebble/core";
import { useCallback, useRef } from "react";
import { calmTeller, LIVE_EVERY_MS } from "../calm.js";
import {
  drawBegin,
  drawGates,
  drawLoads,
  drawPath,
  drawPebble,
  drawRobot,
  drawScaleBar,
  drawThings,
  drawZones,
  Labels,
  type PathStyle,
  type Pen,
  pebbleBox,
} from "../field/drawField.js";
import { drawFloor } from "../field/drawFloor.js";
import { drawPlaces, drawTouches } from "../field/drawMarks.js";
import { drawSenses } from "../field/drawSenses.js";
import { FieldStage, StageButton, type StageHandle, type StagePoint, type StageTool } from "../field/FieldStage.js";
import { type FieldView, nearestOnPath } from "../field/fieldView.js";
import { onPictures, pictureImage } from "../field/pictures.js";
import { Still } from "../field/still.js";
import { measureWords } from "../field/words.js";
import { chooseOne } from "./choosing.js";
import { beginPathDrag, dragPathTo, type PathDrag } from "./pathDrag.js";
import { PlaceButton, placeOnField } from "./places.js";
import { loadsAt, type MissionState, type Path, playhead, selectedLine, shownPath, useMission } from "./state.js";

const TICK_MS = 10;
/** Of its path so many points together become part of what lies still. Where two pieces meet, their soft edges add up. */
const PIECE_POINTS = 200;
const NO_PATH = { x: new Float32Array(0), y: new Float32Array(0) };

/** Steps of the main line whose end gets a pebble: the last pass of each top-level step that took time. */
function pebbles(steps: readonly StepSummary[]): StepSummary[] {
  const last = new Map<string, StepSummary>();
  for (const step of steps) {
    const top = /^\d+/.exec(step.step)?.[0];
    if (top && step.endMs > step.startMs) last.set(top, step);
  }
  return [...last.values()];
}

function stepAtTick(steps: readonly StepSummary[], tick: number): StepSummary | null {
  const ms = tick * TICK_MS;
  return steps.find((step) => step.endMs > step.startMs && ms >= step.startMs && ms < step.endMs) ?? null;
}

function highlight(pen: Pen, path: Path, line: number, colour: string): void {
  for (const step of path.summary?.steps ?? []) {
    if (step.line - 1 !== line || step.endMs <= step.startMs) continue;
    const style: PathStyle = { colour, widthPx: 11, dash: [], halo: null, alpha: 0.5 };
    drawPath(pen, path.x, path.y, step.startMs / TICK_MS, step.endMs / TICK_MS + 1, style);
  }
}

/** Where the pebbles of a plan lie, m. */
interface Stone {
  readonly step: StepSummary;
  readonly top: string;
  readonly x: number;
  readonly y: number;
}

const stonesKnown = new WeakMap<Path, readonly Stone[]>();

function stonesOf(planned: Path | null): readonly Stone[] {
  if (!planned) return [];
  const known = stonesKnown.get(planned);
  if (known) return known;
  const stones = pebbles(planned.summary?.steps ?? []).map((step) => {
    const i = Math.min(planned.x.length - 1, Math.round(step.endMs / TICK_MS));
    return { step, top: /^\d+/.exec(step.step)?.[0] ?? "", x: planned.x[i] ?? 0, y: planned.y[i] ?? 0 };
  });
  stonesKnown.set(planned, stones);
  return stones;
}

/** Line of the step that is lit: of a run that goes on, else under the pointer, else chosen. */
function litLine(state: MissionState): number | null {
  return state.live?.line ?? state.hoverLine ?? selectedLine(state);
}

/** The study whose runs are of the text on the screen. */
function studyShown({ study, history }: MissionState): MissionState["study"] {
  return study && study.text === history.present.text ? study : null;
}

const still = new Still();

/** What lies still under the robot. */
function drawStill(pen: Pen, state: MissionState): void {
  const { colours } = pen;
  const { field, robot, planned, run, mission } = state;
  if (!field) return;
  drawFloor(pen, field.document);
  const labels = new Labels(pen.blocked);
  // The pebbles lie on top: names stand beside them.
  for (const { top, x, y } of stonesOf(planned)) labels.keepClear(pebbleBox(pen, top, x, y));
  drawZones(pen, field.document, labels);
  drawThings(pen, field.document, labels);
  drawGates(pen, field.document);
  const begin = beginOf(mission, field.document);
  drawBegin(pen, begin, field.document.zones.some((zone) => zone.name === begin.name) ? null : labels);
  if (robot) drawRobot(pen, robot.document, begin, true);
  const lit = litLine(state);
  const main = planned ?? run?.path;
  if (main && lit !== null) highlight(pen, main, lit, colours.amber ?? "");
  const { ghost } = state;
  if (ghost?.path) {
    const style: PathStyle = {
      colour: colours.quiet ?? "",
      widthPx: 2.5,
      dash: [1, 6],
      halo: colours.sheet ?? "",
      alpha: 1,
    };
    drawPath(pen, ghost.path.x, ghost.path.y, 0, ghost.path.x.length, style);
  }
  const study = studyShown(state);
  if (study) drawScatter(pen, study.summary.steps, lit);
  if (planned) {
    const style: PathStyle = {
      colour: colours.water ?? "",
      widthPx: 2.5,
      dash: [],
      halo: colours.sheet ?? "",
      alpha: state.plannedStale ? 0.35 : 1,
    };
    drawPath(pen, planned.x, planned.y, 0, planned.x.length, style);
  }
  if (run) {
    const style: PathStyle = { colour: colours.heather ?? "", widthPx: 2, dash: [2, 5], halo: null, alpha: 1 };
    drawPath(pen, run.path.x, run.path.y, 0, run.path.x.length, style);
  }
  for (const way of state.ways) {
    const colour = (way.look === "steps" ? colours.water : colours.amber) ?? "";
    const style: PathStyle = { colour, widthPx: way.look === "steps" ? 2 : 1.2, dash: [], halo: null, alpha: 0.65 };
    drawPath(pen, Float32Array.from(way.x), Float32Array.from(way.y), 0, way.x.length, style);
  }
}

function draw(pen: Pen, state: MissionState, widthPx: number, heightPx: number): void {
  const { colours } = pen;
  const { field, robot, planned, run, mission, live } = state;
  if (!field) return;
  const paths = [planned, state.plannedStale, run, state.ghost, state.ways, studyShown(state), litLine(state)];
  const under = [field.document, pictureImage(field.document), robot?.document, mission, ...paths];
  const driven = live?.path ?? NO_PATH;
  const style: PathStyle = { colour: colours.heather ?? "", widthPx: 3, dash: [], halo: null, alpha: 1 };
  const kept = driven.x.length - (driven.x.length % PIECE_POINTS);
  still.put(pen, under, (own) => drawStill(own, state), {
    count: kept,
    draw: (own, from) => drawPath(own, driven.x, driven.y, from, kept, style),
  });
  drawPath(pen, driven.x, driven.y, Math.max(0, kept - 1), driven.x.length, style);
  const begin = beginOf(mission, field.document);
  const shown = shownPath(state);
  const loads = live ? (live.readings?.seen?.loads ?? null) : loadsAt(shown, field.document, playhead.tick);
  drawLoads(pen, field.document, loads?.length === field.document.loads.length ? [...loads] : null);
  const now = stepAtTick(shown?.summary?.steps ?? [], playhead.tick);
  for (const { step, top, x, y } of stonesOf(planned)) {
    const trouble = step.endedBy === "bound" || step.endedBy === "limit";
    const running = now?.step.startsWith(top) && /^\D|^$/.test(now.step.slice(top.length));
    drawPebble(pen, top, x, y, trouble ? "trouble" : running ? "running" : "planned");
  }
  if (robot && live && live.path.x.length > 0) {
    const { x, y, heading } = live.path;
    const i = x.length - 1;
    const pose = { xM: x[i] ?? 0, yM: y[i] ?? 0, headingRad: heading[i] ?? 0 };
    drawRobot(pen, robot.document, pose, false);
    drawSenses(pen, robot.document, pose, (id) => live.readings?.values[id] ?? null);
  } else if (robot && shown && shown.x.length > 0) {
    const i = Math.max(0, Math.min(shown.x.length - 1, Math.floor(playhead.tick)));
    const pose = { xM: shown.x[i] ?? 0, yM: shown.y[i] ?? 0, headingRad: shown.heading[i] ?? 0 };
    drawRobot(pen, robot.document, pose, false);
    const { trace } = shown;
    if (trace) drawSenses(pen, robot.document, pose, (id) => traceColumn(trace, id)?.[i] ?? null);
  }
  if (state.tape && robot) drawTape(pen, state.tape);
  for (const path of mission.paths) drawPlaces(pen, begin, placesOfPath(path));
  drawTouches(pen, shown?.summary?.contacts ?? []);
  if (state.measure) drawMeasure(pen, state.measure);
  drawScaleBar(pen, widthPx, heightPx);
}

/** Nothing but the place of the robot that is watched, and what it reads. */
function onlyReadings({ live }: MissionState, before: MissionState): boolean {
  return live !== null && before.live !== null && live.readings !== before.live.readings;
}

function watch(ask: () => void): () => void {
  playhead.listeners.add(ask);
  const readings = calmTeller(LIVE_EVERY_MS, ask);
  const unsubscribe = useMission.subscribe((state, before) =>
    onlyReadings(state, before) ? readings.happened() : ask(),
  );
  const forget = onPictures(ask);
  return () => {
    playhead.listeners.delete(ask);
    unsubscribe();
    readings.end();
    forget();
  };
}

/** The line of the step whose path is near a place of the canvas. */
function lineAt(view: FieldView, [x, y]: readonly [number, number]): number | null {
  const { planned: path } = useMission.getState();
  if (!path) return null;
  const tick = nearestOnPath(view, path.x, path.y, x, y, 9);
  const step = tick === null ? null : stepAtTick(path.summary?.steps ?? [], tick);
  return step ? step.line - 1 : null;
}

/** The pebble under the pointer whose step can be dragged; the latest step wins where they lie together. */
function pebbleAt(view: FieldView, [x, y]: readonly [number, number]): PathDrag | null {
  const { planned, plannedStale, measure, placing } = useMission.getState();
  if (!planned?.summary || plannedStale || measure || placing) return null;
  for (const step of pebbles(planned.summary.steps).reverse()) {
    const i = Math.min(planned.x.length - 1, Math.round(step.endMs / TICK_MS));
    const px = view.originX + (planned.x[i] ?? 0) * view.scale;
    const py = view.originY - (planned.y[i] ?? 0) * view.scale;
    if (Math.hypot(px - x, py - y) > 13) continue;
    const started = beginPathDrag(step);
    if (started) return started;
  }
  return null;
}

/** Lights and chooses steps on the path, drags their pebbles, measures, and places points. */
function missionTool(view: () => FieldView | null): StageTool {
  let path: PathDrag | null = null;
  return {
    down(at) {
      const now = view();
      path = now ? pebbleAt(now, at.px) : null;
      return path !== null;
    },
    drag({ place }) {
      if (path) dragPathTo(path, place[0], place[1]);
    },
    up(at, moved) {
      const dragged = path;
      path = null;
      if (moved) return;
      press(at, dragged, view());
    },
    hover(at) {
      const now = view();
      const line = now ? lineAt(now, at.px) : null;
      const { hoverLine, measure, placing } = useMission.getState();
      if (line !== hoverLine) useMission.setState({ hoverLine: line });
      return measure || placing ? "crosshair" : now && pebbleAt(now, at.px) ? "move" : "";
    },
    leave: () => useMission.setState({ hoverLine: null }),
  };
}

function press({ place, px }: StagePoint, dragged: PathDrag | null, view: FieldView | null): void {
  const { measure, placing } = useMission.getState();
  const [x, y] = place;
  if (placing) placeOnField(x, y);
  else if (measure) useMission.setState({ measure: measure.length === 1 ? [...measure, [x, y]] : [[x, y]] });
  else chooseOne(dragged?.line ?? (view ? lineAt(view, px) : null));
}

export function FieldCanvas() {
  const stage = useRef<StageHandle | null>(null);
  const tool = useRef<StageTool>(missionTool(() => stage.current?.view() ?? null));
  const field = useMission((state) => state.field);
  // Its pebbles can be taken only while the path on screen is that of the text.
  const whole = useMission((state) => !state.plannedStale && Boolean(state.planned?.summary));
  const take = useCallback((handle: StageHandle | null) => {
    stage.current = handle;
  }, []);
  const size = field?.document.size ?? null;
  return (
    <FieldStage
      size={size}
      fitKey={field && size ? `${field.document.name}/${size.widthM}×${size.heightM}` : ""}
      label={
        field
          ? `The field ${field.document.name} from above, with the robot, the planned path and the path of the run`
          : "No field"
      }
      draw={(pen, width, height) => draw(pen, useMission.getState(), width, height)}
      watch={watch}
      tool={tool.current}
      handle={take}
      canvasProps={{ "data-plan": whole ? "whole" : "growing" }}
    >
      <div className="fieldtools">
        <StageButton label="Zoom in" sign="+" onPress={() => stage.current?.zoom(1.3)} />
        <StageButton label="Zoom out" sign="−" onPress={() => stage.current?.zoom(1 / 1.3)} />
        <MeasureButton />
        <PlaceButton />
        <StageButton label="Show the whole field" sign="⤢" onPress={() => stage.current?.fit()} />
      </div>
      <FieldLegend />
    </FieldStage>
  );
}

/** A cross where the tape found the robot, with its heading. */
function drawTape({ context, view, colours }: Pen, pose: { xM: number; yM: number; headingRad: number }): void {
  const x = view.originX + pose.xM * view.scale;
  const y = view.originY - pose.yM * view.scale;
  context.save();
  context.translate(x, y);
  context.rotate(-pose.headingRad);
  for (const [colour, width] of [
    [colours.sheet ?? "", 5],
    [colours.amber ?? "", 2.5],
  ] as const) {
    context.strokeStyle = colour;
    context.lineWidth = width;
    context.beginPath();
    context.moveTo(-9, 0);
    context.lineTo(18, 0);
    context.moveTo(0, -9);
    context.lineTo(0, 9);
    context.stroke();
  }
  context.restore();
}

/** Two points and the way between them. */
function drawMeasure({ context, view, colours }: Pen, points: readonly (readonly [number, number])[]): void {
  const at = (point: readonly [number, number]): [number, number] => [
    view.originX + point[0] * view.scale,
    view.originY - point[1] * view.scale,
  ];
  context.strokeStyle = colours.ink ?? "";
  context.fillStyle = colours.ink ?? "";
  context.lineWidth = 1.5;
  for (const point of points) {
    context.beginPath();
    context.arc(...at(point), 4, 0, 2 * Math.PI);
    context.stroke();
  }
  const [from, to] = points;
  if (!from || !to) return;
  context.beginPath();
  context.moveTo(...at(from));
  context.lineTo(...at(to));
  context.stroke();
  const words = measureWords(from, to);
  const [x, y] = at([(from[0] + to[0]) / 2, (from[1] + to[1]) / 2]);
  context.font = '500 12px "JetBrains Mono Variable", monospace';
  context.textAlign = "center";
  context.lineWidth = 4;
  context.strokeStyle = colours.sheet ?? "";
  context.strokeText(words, x, y - 8);
  context.fillText(words, x, y - 8);
}

/** Ellipses that hold 19 of 20 ends of each step. */
function drawScatter({ context, view, colours }: Pen, steps: readonly StepScatter[], lit: number | null): void {
  for (const step of steps) {
    context.save();
    context.translate(view.originX + step.xM * view.scale, view.originY - step.yM * view.scale);
    context.rotate(-step.angleRad);
    context.beginPath();
    context.ellipse(
      0,
      0,
      Math.max(2, step.longM * view.scale),
      Math.max(2, step.shortM * view.scale),
      0,
      0,
      2 * Math.PI,
    );
    context.fillStyle = colours.water ?? "";
    context.globalAlpha = step.line - 1 === lit ? 0.45 : 0.2;
    context.fill();
    context.globalAlpha = 0.8;
    context.lineWidth = 1;
    context.strokeStyle = colours.water ?? "";
    context.stroke();
    context.restore();
  }
}

function MeasureButton() {
  const measure = useMission((state) => state.measure);
  const [from, to] = measure ?? [];
  return (
    <>
      <StageButton
        label="Measure between two points"
        shortcut="M"
        sign="↔"
        pressed={measure !== null}
        onPress={() => useMission.setState({ measure: measure ? null : [], placing: false })}
      />
      <span className="sr" role="status">
        {measure && (from && to ? measureWords(from, to) : "Press two points on the field.")}
      </span>
    </>
  );
}

function FieldLegend() {
  const ghost = useMission((state) => state.ghost);
  const scattered = useMission((state) => state.study !== null && state.study.text === state.history.present.text);
  const field = useMission((state) => state.field);
  const run = useMission((state) => state.run);
  const tape = useMission((state) => state.tape);
  const ways = useMission((state) => state.ways);
  if (!field) return null;
  const { widthM, heightM } = field.document.size;
  return (
    <div className="legend">
      <span className="mono extra">
        {plainDigits(widthM * 100, 1)} × {plainDigits(heightM * 100, 1)} cm
      </span>
      <span>
        <i className="line-planned" /> planned
      </span>
      {run && (
        <span>
          <i className="line-run" />{" "}
          {run.of !== undefined
            ? `run ${run.of} of the many`
            : run.by !== undefined
              ? `${run.by}'s run, by its own count`
              : run.number === null
                ? "run, not kept"
                : `run of version ${run.number}`}
        </span>
      )}
      {(run?.summary.contacts ?? []).length > 0 && (
        <span>
          <b className="spot-touch" aria-hidden="true">
            ×
          </b>{" "}
          touched
        </span>
      )}
      {tape && (
        <span>
          <b className="spot-tape" aria-hidden="true">
            +
          </b>{" "}
          where the tape found it
        </span>
      )}
      {ways.some(({ look }) => look === "steps") && (
        <span>
          <i className="line-steps" /> as steps
        </span>
      )}
      {ways.some(({ look }) => look === "hands") && (
        <span>
          <i className="line-hands" /> the same hands again
        </span>
      )}
      {ghost?.path && (
        <span>
          <i className="line-ghost" /> version {ghost.number}
        </span>
      )}
      {scattered && (
        <span>
          <i className="spot-scatter" /> where 19 of 20 runs end a step
        </span>
      )}
      {field.document.marks.length > 0 && (
        <span className="extra">
          <i className="line-mark" /> mark on the floor
        </span>
      )}
    </div>
  );
}
