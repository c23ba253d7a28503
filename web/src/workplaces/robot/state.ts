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
import { type DocumentSlice, emptySlice } from "../../shared/shell/documentStore.js";
import { whenLeft } from "../../shared/visit.js";

export type SidePanel = "none" | "catalogue" | "versions" | "first-roll" | "new";

interface RobotState extends DocumentSlice<Robot> {
  robot: Robot;
  selected: string;
  mirror: boolean;
  view: "plan" | "side";
  bottom: "wiring" | "gears";
  panel: SidePanel;
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
    ...emptySlice<Robot>(),
    robot,
    selected: "chassis",
    mirror: true,
    view: "plan",
    bottom: "wiring",
    panel: "none",
    ...derived(robot),
  };
}

export const useRobot = create<RobotState>(initialState);
whenLeft(() => useRobot.setState(initialState(), true));
