// The Field workplace's state: the open field with its history, what is chosen, what is being drawn, and the probe.
import {
  checkField,
  type Field,
  type FieldProblem,
  findStart,
  makeField,
  type Point,
  type Pose,
  type ProbeResult,
  type Robot,
  type ThingRef,
} from "@giddy-pebble/core";
import { create } from "zustand";
import { type DocumentSlice, emptySlice } from "../../shared/shell/documentStore.js";
import { whenLeft } from "../../shared/visit.js";
import type { Drawing, ToolId } from "./drawing.js";

export type FieldPanel = "none" | "fields" | "versions" | "drawing" | "mat";

/** The lightest and darkest a floor sensor read while it was moved about. */
export interface Span {
  readonly least: number;
  readonly most: number;
}

interface ProbeState {
  readonly robotId: string | null;
  readonly robot: Robot | null;
  /** Why there is nothing to see. */
  readonly trouble: string | null;
  readonly pose: Pose;
  readonly result: ProbeResult | null;
  /** By the floor sensor's name. */
  readonly spans: Readonly<Record<string, Span>>;
}

export interface FieldState extends DocumentSlice<Field> {
  field: Field;
  problems: readonly FieldProblem[];
  chosen: readonly ThingRef[];
  /** A part of the floor itself that the inspector shows while nothing is chosen. */
  floorPart: "size" | "surface" | "picture";
  tool: ToolId;
  drawing: Drawing | null;
  /** Numbers typed for the next point, while they are typed. */
  typed: { readonly first: string; readonly second: string } | null;
  /** Spacing things snap to, m; 0 for none. */
  gridM: number;
  measure: readonly Point[];
  /** A box that is being drawn to choose what lies in it. */
  box: readonly [Point, Point] | null;
  /** What the pointer snapped to, for a word beside it. */
  snapped: { readonly at: Point; readonly to: string } | null;
  panel: FieldPanel;
  probe: ProbeState;
  /** A file that waits for an answer: what it shall become. */
  file: { readonly name: string; readonly text?: string; readonly image?: ImageBitmap } | null;
}

export function derived(field: Field): Pick<FieldState, "problems"> {
  return { problems: checkField(field) };
}

function emptyField(name: string): Field {
  const table = findStart("table");
  if (!table) throw new Error("there is no ready start called table");
  return makeField(table, name);
}

export function initialState(): FieldState {
  const field = emptyField("Field");
  return {
    ...emptySlice<Field>(),
    field,
    ...derived(field),
    chosen: [],
    floorPart: "size",
    tool: "choose",
    drawing: null,
    typed: null,
    gridM: 0.01,
    measure: [],
    box: null,
    snapped: null,
    panel: "none",
    probe: {
      robotId: null,
      robot: null,
      trouble: null,
      pose: { xM: 0.3, yM: 0.3, headingRad: 0 },
      result: null,
      spans: {},
    },
    file: null,
  };
}

export const useField = create<FieldState>(initialState);
whenLeft(() => useField.setState(initialState(), true));
