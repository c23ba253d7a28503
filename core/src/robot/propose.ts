// A proposal for what is not wired yet.
import { type BoardTerminal, boardProfile } from "./boards.js";
import { type DeviceTerminal, deviceTerminals } from "./needs.js";
import type { Robot, Wire } from "./schema.js";
import { findTerminal, fits } from "./wiring.js";

/** Whether wires of two devices may meet there: supplies, and the two-wire bus. */
function mayShare(terminal: BoardTerminal, device: DeviceTerminal): boolean {
  return terminal.shared === true || device.terminal === "data" || device.terminal === "clock";
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
  const taken = new Set<string>();
  for (const device of devices) {
    const wire = robot.wiring.find((w) => w.part === device.part && w.terminal === device.terminal);
    const terminal = wire ? findTerminal(board, wire.to) : null;
    if (!wire || !terminal || !fits(board, device, terminal)) continue;
    if (taken.has(wire.to) && !mayShare(terminal, device)) continue;
    kept.push(wire);
    taken.add(wire.to);
  }
  const choices = (device: DeviceTerminal) => board.terminals.filter((terminal) => fits(board, device, terminal));
  const open = devices
    .filter((device) => !kept.some((wire) => wire.part === device.part && wire.terminal === device.terminal))
    .map((device, order) => ({ device, order, count: choices(device).length }))
    .sort((a, b) => a.count - b.count || a.order - b.order);
  for (const { device } of open) {
    const free = choices(device).filter((terminal) => !taken.has(terminal.id) || mayShare(terminal, device));
    const [best] = free.sort((a, b) => a.can.length - b.can.length);
    if (!best) continue;
    kept.push({ part: device.part, terminal: device.terminal, to: best.id });
    taken.add(best.id);
  }
  return devices.flatMap((device) => kept.filter((w) => w.part === device.part && w.terminal === device.terminal));
}
