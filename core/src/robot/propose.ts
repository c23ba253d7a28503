// A proposal for what is not wired yet.

import { backwardsMotors } from "../drives/shafts.js";
import { type BoardTerminal, boardProfile } from "./boards.js";
import { type DeviceTerminal, deviceTerminals } from "./needs.js";
import type { Robot, Wire } from "./schema.js";
import { findTerminal, fits } from "./wiring.js";

const BUS_LINES: ReadonlySet<string> = new Set(["data", "clock"]);

/** Places that are taken, with the line of the first device there. */
type Taken = Map<string, string>;

/** Whether one more wire may come there: on a supply, on a free place, or on a line of the two-wire bus with its like. */
function isOpen(terminal: BoardTerminal, device: DeviceTerminal, taken: Taken): boolean {
  const line = taken.get(terminal.id);
  return terminal.shared === true || line === undefined || (line === device.terminal && BUS_LINES.has(line));
}

/**
 * Wires for everything that has none: wires that fit stay, the pickiest devices choose first, and each takes the
 * place with the fewest other talents.
 */
export function proposeWiring(robot: Robot): Wire[] {
  const board = boardProfile(robot.board.profile);
  if (!board) return [...robot.wiring];
  const devices = deviceTerminals(robot);
  const kept: Wire[] = [];
  const taken: Taken = new Map();
  for (const device of devices) {
    const wire = robot.wiring.find((w) => w.part === device.part && w.terminal === device.terminal);
    const terminal = wire ? findTerminal(board, wire.to) : null;
    if (!wire || !terminal || !fits(board, device, terminal)) continue;
    if (!isOpen(terminal, device, taken)) continue;
    kept.push(wire);
    if (!taken.has(wire.to)) taken.set(wire.to, device.terminal);
  }
  const choices = (device: DeviceTerminal) => board.terminals.filter((terminal) => fits(board, device, terminal));
  const open = devices
    .filter((device) => !kept.some((wire) => wire.part === device.part && wire.terminal === device.terminal))
    .map((device, order) => ({ device, order, count: choices(device).length }))
    .sort((a, b) => a.count - b.count || a.order - b.order);
  for (const { device } of open) {
    const free = choices(device).filter((terminal) => isOpen(terminal, device, taken));
    const [best] = free.sort((a, b) => a.can.length - b.can.length);
    if (!best) continue;
    kept.push({ part: device.part, terminal: device.terminal, to: best.id });
    if (!taken.has(best.id)) taken.set(best.id, device.terminal);
  }
  return devices.flatMap((device) => kept.filter((w) => w.part === device.part && w.terminal === device.terminal));
}

/** The robot with all of it wired, and every motor set to turn its wheel forward as it is mounted. */
export function withProposedWiring(robot: Robot): Robot {
  const backwards = backwardsMotors(robot);
  return {
    ...robot,
    motors: robot.motors.map((motor) => (backwards.includes(motor) ? { ...motor, reversed: !motor.reversed } : motor)),
    wiring: proposeWiring(robot),
  };
}
