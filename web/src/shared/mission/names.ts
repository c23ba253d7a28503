// Names a step can use in the open mission: readings of the robot, values, routines, parts. For completion and menus.
import { type CompletionNames, readingsOf } from "@giddy-pebble/core";
import { type MissionState, useMission } from "./state.js";

export function namesOf({ robot, prepared }: MissionState): CompletionNames {
  const symbols = prepared?.check.symbols;
  const document = robot?.document;
  const driving = new Set(document?.wheels.map((wheel) => wheel.drivenBy));
  return {
    readings: document ? readingsOf(document) : new Map(),
    values: new Map([...(symbols?.globals ?? [])].map(([name, value]) => [name, value.kind])),
    routines: [...(symbols?.routines.keys() ?? [])],
    parts: document
      ? [...document.motors.filter((motor) => !driving.has(motor.name)), ...document.servos].map((part) => part.name)
      : [],
  };
}

export function currentNames(): CompletionNames {
  return namesOf(useMission.getState());
}
