// What the pointer does on the drawing board: chooses, moves, reshapes and draws, by the tool in hand.
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
  shiftBy,
  snapOnField,
  type Thing,
  type ThingRef,
  thingOf,
  thingsAt,
  thingsWithin,
} from "@giddy-pebble/core";
import type { StagePoint, StageTool } from "../../shared/field/FieldStage.js";
import { takesOf } from "./drawing.js";
import { moveProbe } from "./probing.js";
import { useField } from "./state.js";
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

/** Within this of a thing, handle or magnet counts as on it, px. */
const REACH_PX = 8;

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
export class BoardTool implements StageTool {
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
