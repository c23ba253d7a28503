// Where a robot believes to be on its field: its own odometry, laid onto the place it was put down at.
import {
  type BeginPlace,
  type CheckContext,
  type CheckResult,
  compileMission,
  composePoses,
  type Field,
  type Mission,
  outsideByM,
  type Pose,
  type Program,
  type RehearsalMachine,
  type Robot,
  scoreField,
  shapeHolds,
  touchHooks,
} from "@giddy-pebble/core";

export function reckonedPose(begin: BeginPlace, machine: RehearsalMachine): Pose {
  const { xM, yM, headingRad } = machine.drive;
  return composePoses(begin, { xM, yM, headingRad });
}

/** The program for a robot on its own: zones and scores are judged by where it believes to be, loads are not seen. */
export function compileForRobot(
  mission: Mission,
  check: CheckResult,
  context: CheckContext,
  field: Field,
  robot: Robot,
  begin: BeginPlace,
): Program {
  return compileMission(mission, check, context, {
    ...touchHooks(),
    insideZone: (zone) => (task) => {
      const shape = field.zones.find(({ name }) => name === zone)?.shape;
      const pose = reckonedPose(begin, task.machine as RehearsalMachine);
      return shape && shapeHolds(shape, robot.chassis.outlineM, pose) ? 1 : 0;
    },
    outsideBy: (zone) => (task) => {
      const shape = field.zones.find(({ name }) => name === zone)?.shape;
      const pose = reckonedPose(begin, task.machine as RehearsalMachine);
      return shape ? outsideByM(shape, robot.chassis.outlineM, pose) : 0;
    },
    score: (task) => {
      const machine = task.machine as RehearsalMachine;
      return (
        scoreField(field, {
          robotOutlineM: robot.chassis.outlineM,
          robotPose: reckonedPose(begin, machine),
          clockSec: machine.snapshot[0] as number,
          counted: machine.zonesCounted,
          loads: [],
        }) ?? 0
      );
    },
  });
}
