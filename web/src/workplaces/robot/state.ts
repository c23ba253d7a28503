// The Robot workplace's state: the open robot with its history, what is selected, what follows from it.
import {
  checkRobot,
  checkWiring,
  emptyRobot,
  type Figure,
  type Robot,
  type RobotProblem,
  robotFigures,
  type SupportLoad,
  supportLoads,
  type WiringNote,
} from "@giddy-pebble/core";
import { create } from "zustand";
import type { DocumentView } from "../../shared/api.js";
import type { SaveState } from "../../shared/saving.js";

export interface Entry {
  readonly robot: Robot;
  /** What the edit after this did, for "Undid: …". */
  readonly label: string;
}

export type Phase =
  | { readonly is: "loading" }
  | { readonly is: "failed"; readonly message: string }
  | { readonly is: "empty" }
  | { readonly is: "ready" };

export type SidePanel = "none" | "catalogue" | "revisions" | "first-roll" | "new" | "help";

export interface RobotState {
  phase: Phase;
  robots: readonly DocumentView[];
  open: { readonly id: string; readonly name: string; readonly headRevision: number } | null;
  robot: Robot;
  past: readonly Entry[];
  future: readonly Entry[];
  /** Small edits of one place within a moment are one for undo. */
  typing: { readonly key: string; readonly at: number } | null;
  selected: string;
  mirror: boolean;
  view: "plan" | "side";
  bottom: "wiring" | "gears";
  panel: SidePanel;
  save: SaveState;
  message: string | null;
  problems: readonly RobotProblem[];
  wiring: readonly WiringNote[];
  figures: readonly Figure[];
  loads: readonly SupportLoad[];
}

/** Everything that follows from a robot. */
export function derived(robot: Robot): Pick<RobotState, "problems" | "wiring" | "figures" | "loads"> {
  const problems = checkRobot(robot);
  const sound = problems.every((problem) => problem.severity !== "error");
  return {
    problems,
    wiring: checkWiring(robot),
    figures: sound ? robotFigures(robot) : [],
    loads: sound ? supportLoads(robot) : [],
  };
}

export function initialState(): RobotState {
  const robot = emptyRobot("Robot");
  return {
    phase: { is: "loading" },
    robots: [],
    open: null,
    robot,
    past: [],
    future: [],
    typing: null,
    selected: "chassis",
    mirror: true,
    view: "plan",
    bottom: "wiring",
    panel: "none",
    save: { is: "saved" },
    message: null,
    ...derived(robot),
  };
}

export const useRobot = create<RobotState>(initialState);
