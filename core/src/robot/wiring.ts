// Wiring checks with reasons and mends.
import type { Motor, Wheel } from "../drives/parts.js";
import { backwardsMotors, shaftsOf } from "../drives/shafts.js";
import { gearTrain, isOnRight } from "../drives/train.js";
import { type BoardProfile, type BoardTerminal, boardProfile } from "./boards.js";
import { currentBudget, packVolts } from "./budget.js";
import { type DeviceTerminal, deviceTerminals } from "./needs.js";
import type { Robot, Wire } from "./schema.js";

export interface WiringNote {
  readonly code: string;
  readonly severity: "error" | "warning" | "fine";
  /** Terminal of the board, or empty. */
  readonly at: string;
  readonly part: string;
  readonly message: string;
  readonly mend: string;
}

/** Signals above a pin's level by more than this harm it, V. */
const LEVEL_SLACK = 0.3;
/** A pack worse than this many ohms for two cells gives way when all motors start. */
const SERVO_CAPACITOR_UF = 100;

/** Names are written with _ in missions; in a sentence they are words. */
function spokenName(name: string): string {
  return name.replaceAll("_", " ");
}

function note(
  code: string,
  severity: WiringNote["severity"],
  at: string,
  part: string,
  message: string,
  mend = "",
): WiringNote {
  const spoken = spokenName(part);
  const words = (text: string) =>
    part === "" ? text : text.replaceAll(part, spoken).replaceAll(capital(part), capital(spoken));
  return {
    code,
    severity,
    at,
    part,
    message: capital(words(message)),
    mend: words(mend),
  };
}

export function findTerminal(board: BoardProfile, id: string): BoardTerminal | null {
  return board.terminals.find((terminal) => terminal.id === id) ?? null;
}

function word(board: BoardProfile): string {
  return board.style === "plugs" ? "socket" : "pin";
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** What a board terminal is called in a sentence. */
function at(board: BoardProfile, id: string): string {
  return `${word(board)} ${id}`;
}

const ABILITY_WORDS: Readonly<Record<string, string>> = {
  pwm: "PWM",
  interrupt: "an interrupt",
  analog: "an analogue input",
  "bus-data": "the data line of the two-wire bus",
  "bus-clock": "the clock line of the two-wire bus",
  digital: "a digital pin",
  motor: "a motor output",
  sensor: "a sensor socket",
  servo: "a servo output",
};

/** Everything there is to say about a robot's wiring, errors first. */
export function checkWiring(robot: Robot): WiringNote[] {
  const board = boardProfile(robot.board.profile);
  if (!board)
    return [
      note(
        "unknown-board",
        "error",
        "",
        "board",
        `Board "${robot.board.profile}" is not known.`,
        "Choose one of the boards in the list.",
      ),
    ];
  const devices = deviceTerminals(robot);
  const notes = [
    ...checkEnds(robot, board, devices),
    ...checkShared(robot, board),
    ...checkFloating(robot),
    ...checkDriver(robot, board),
    ...checkSupply(robot),
    ...checkRails(robot, board, devices),
    ...checkServoNoise(robot),
    ...checkDirections(robot),
  ];
  const order = { error: 0, warning: 1, fine: 2 };
  const fine = notes.some((n) => n.severity === "error") ? [] : fineWords(robot, board);
  return [...notes, ...fine].sort((a, b) => order[a.severity] - order[b.severity]);
}

/** Each device's terminal, and what it is wired to. */
function checkEnds(robot: Robot, board: BoardProfile, devices: readonly DeviceTerminal[]): WiringNote[] {
  const notes: WiringNote[] = [];
  const known = new Set(devices.map((device) => `${device.part}.${device.terminal}`));
  for (const wire of robot.wiring)
    if (!known.has(`${wire.part}.${wire.terminal}`))
      notes.push(
        note(
          "loose-wire",
          "warning",
          wire.to,
          wire.part,
          `A wire at ${at(board, wire.to)} belongs to "${wire.part}", which has no ${wire.terminal}.`,
          "Take the wire off.",
        ),
      );
  for (const device of devices) {
    const wire = robot.wiring.find((w) => w.part === device.part && w.terminal === device.terminal);
    const terminal = wire ? findTerminal(board, wire.to) : null;
    if (!wire || !terminal) {
      notes.push(unwired(board, device, wire));
      continue;
    }
    notes.push(...checkOne(board, device, terminal));
  }
  return notes;
}

function unwired(board: BoardProfile, device: DeviceTerminal, wire: Wire | undefined): WiringNote {
  const { part, terminal, label } = device;
  if (wire)
    return note(
      "no-such-pin",
      "error",
      wire.to,
      part,
      `${capital(part)} is wired to ${wire.to}, which this board does not have.`,
      "Let the wiring be proposed, or drag the wire elsewhere.",
    );
  if (device.ground)
    return note(
      "missing-ground",
      "error",
      "",
      part,
      `${capital(part)} has no ground: its signal has nothing to be measured against.`,
      "Run a wire from its ground to GND.",
    );
  return note(
    "unwired",
    "error",
    "",
    part,
    board.style === "plugs" ? `${capital(part)} is not plugged in.` : `${capital(part)}: ${label} is not wired.`,
    `Drag a wire from ${terminal} to a free ${word(board)}, or let it be proposed.`,
  );
}

function checkOne(board: BoardProfile, device: DeviceTerminal, terminal: BoardTerminal): WiringNote[] {
  const { part, label } = device;
  const here = at(board, terminal.id);
  const notes: WiringNote[] = [];
  if (device.ground) {
    if (terminal.volts !== 0)
      notes.push(
        note(
          "missing-ground",
          "error",
          terminal.id,
          part,
          `The ground of ${part} goes to ${here}, which is not ground.`,
          "Run it to GND.",
        ),
      );
    return notes;
  }
  if (device.pack) {
    if (terminal.volts !== null || !terminal.shared)
      notes.push(
        note(
          "wrong-rail",
          "error",
          terminal.id,
          part,
          `The motors' supply comes from ${here}; it cannot give motor current.`,
          "Run it to PACK.",
        ),
      );
    return notes;
  }
  const missing = device.needs.find((need) => !terminal.can.includes(need));
  if (missing !== undefined)
    notes.push(
      note(
        `no-${missing}`,
        "error",
        terminal.id,
        part,
        `${capital(here)} has no ${missing === "pwm" ? "PWM" : missing}: the ${label} of ${part} needs ${ABILITY_WORDS[missing] ?? missing}.`,
        mendAbility(board, missing),
      ),
    );
  const { supply } = device;
  if (
    supply &&
    terminal.volts !== 0 &&
    terminal.volts !== null &&
    (terminal.volts < supply[0] || terminal.volts > supply[1])
  )
    notes.push(
      note(
        "wrong-rail",
        "error",
        terminal.id,
        part,
        `${capital(here)} gives ${terminal.volts} V, the ${part} needs ${needWords(supply)}.`,
        mendRail(board, supply),
      ),
    );
  if (supply && device.terminal === "power" && (terminal.volts === 0 || terminal.volts === null || !terminal.shared))
    notes.push(
      note(
        "wrong-rail",
        "error",
        terminal.id,
        part,
        `The supply of ${part} goes to ${here}, which is not a supply of ${needWords(supply)}.`,
        mendRail(board, supply),
      ),
    );
  if (device.sendsVolts !== undefined && terminal.volts !== null && device.sendsVolts > terminal.volts + LEVEL_SLACK)
    notes.push(
      note(
        "level",
        "warning",
        terminal.id,
        part,
        `The ${label} of ${part} sends ${device.sendsVolts} V into ${here}, which takes ${terminal.volts} V.`,
        "Put a divider of 1 kohm and 2 kohm between them.",
      ),
    );
  return notes;
}

function needWords([lowest, highest]: readonly [number, number]): string {
  return lowest <= 3.3 ? `${lowest} to ${highest} V` : "5 V";
}

function mendAbility(board: BoardProfile, ability: string): string {
  const some = board.terminals.filter((t) => (t.can as readonly string[]).includes(ability)).map((t) => t.id);
  return some.length === 0
    ? "This board has none; choose another board."
    : `Use ${word(board)} ${some.slice(0, 6).join(", ")}.`;
}

function mendRail(board: BoardProfile, [lowest, highest]: readonly [number, number]): string {
  const some = board.terminals
    .filter((t) => t.volts !== null && t.volts >= lowest && t.volts <= highest && (board.style === "plugs" || t.shared))
    .map((t) => t.id);
  return some.length === 0
    ? "This board has no such supply; choose another board."
    : `Use ${word(board)} ${some.join(" or ")}.`;
}

function checkShared(robot: Robot, board: BoardProfile): WiringNote[] {
  const notes: WiringNote[] = [];
  const users = new Map<string, Wire[]>();
  for (const wire of robot.wiring) users.set(wire.to, [...(users.get(wire.to) ?? []), wire]);
  for (const [id, wires] of users) {
    const terminal = findTerminal(board, id);
    const line = wires[0]?.terminal ?? "";
    const bus = (line === "data" || line === "clock") && wires.every((wire) => wire.terminal === line);
    if (!terminal || terminal.shared || wires.length < 2 || bus) continue;
    const names = wires.map(({ part, terminal: own }) => spokenName(board.style === "plugs" ? part : `${part} ${own}`));
    notes.push(
      note(
        "shared-pin",
        "error",
        id,
        wires[1]?.part ?? "",
        `${capital(at(board, id))} has ${wires.length} wires: ${names.join(" and ")}.`,
        "Move one of them to a free place.",
      ),
    );
  }
  return notes;
}

function checkFloating(robot: Robot): WiringNote[] {
  return robot.sensors.flatMap((sensor) =>
    (sensor.kind === "bumper" || sensor.kind === "button") && !sensor.pullUp
      ? [
          note(
            "floating",
            "error",
            wireOf(robot, sensor.name),
            sensor.name,
            `The ${sensor.name} has no pull-up: while it is open its line floats and reads anything.`,
            "Switch its pull-up on.",
          ),
        ]
      : [],
  );
}

function wireOf(robot: Robot, part: string): string {
  return robot.wiring.find((wire) => wire.part === part)?.to ?? "";
}

function checkDriver(robot: Robot, board: BoardProfile): WiringNote[] {
  const notes: WiringNote[] = [];
  for (const motor of robot.motors) {
    const stall = (motor.stallCurrentA * packVolts(robot, 1)) / motor.nominalVolts;
    if (stall > board.driver.mostA)
      notes.push(
        note(
          "driver-current",
          "warning",
          wireOf(robot, motor.name),
          motor.name,
          `${capital(motor.name)} draws ${stall.toFixed(1)} A when held; its driver gives ${board.driver.mostA} A.`,
          "Use a gentler motor, or a board with a stronger driver.",
        ),
      );
  }
  return notes;
}

function checkSupply(robot: Robot): WiringNote[] {
  const budget = currentBudget(robot);
  const notes: WiringNote[] = [];
  if (budget.peakA > budget.mostA)
    notes.push(
      note(
        "peak-current",
        "error",
        "",
        "pack",
        `Starting draws ${budget.peakA.toFixed(1)} A, the pack gives ${budget.mostA} A.`,
        "Start more gently, or use a pack that gives more.",
      ),
    );
  else if (budget.stallA > budget.mostA)
    notes.push(
      note(
        "stall-current",
        "warning",
        "",
        "pack",
        `With everything held still it draws ${budget.stallA.toFixed(1)} A, the pack gives ${budget.mostA} A.`,
        "Give driving steps a limit, so that nothing stays held for long.",
      ),
    );
  if (budget.lowestVolts < robot.board.brownOutVolts)
    notes.push(
      note(
        "brown-out",
        "warning",
        "",
        "pack",
        `A tired pack falls to ${budget.lowestVolts.toFixed(1)} V when everything is held; the board restarts below ${robot.board.brownOutVolts} V.`,
        "Use a pack with less internal resistance or one more cell, and swap packs earlier.",
      ),
    );
  return notes;
}

function checkRails(robot: Robot, board: BoardProfile, devices: readonly DeviceTerminal[]): WiringNote[] {
  const sums = new Map<string, number>();
  for (const device of devices) {
    const wire = robot.wiring.find((w) => w.part === device.part && w.terminal === device.terminal);
    if (wire && device.drawsA && device.supply) sums.set(wire.to, (sums.get(wire.to) ?? 0) + device.drawsA);
  }
  return [...sums].flatMap(([id, draws]) => {
    const most = findTerminal(board, id)?.mostA;
    return most !== undefined && draws > most
      ? [
          note(
            "rail-current",
            "warning",
            id,
            "board",
            `${capital(at(board, id))} gives ${most} A; what hangs on it can draw ${draws.toFixed(1)} A.`,
            "Feed the servos from a supply of their own.",
          ),
        ]
      : [];
  });
}

function checkServoNoise(robot: Robot): WiringNote[] {
  if (robot.servos.length === 0 || robot.board.capacitorUf >= SERVO_CAPACITOR_UF) return [];
  const first = robot.servos[0]?.name ?? "";
  return [
    note(
      "servo-noise",
      "warning",
      wireOf(robot, first),
      first,
      `Servos start with a jerk on their supply; without a capacitor the sensors beside them read wrongly.`,
      `Put ${SERVO_CAPACITOR_UF} uF or more across the servo rail.`,
    ),
  ];
}

/** Motors that would turn their wheel backwards. */
function checkDirections(robot: Robot): WiringNote[] {
  const backwards = backwardsMotors(robot);
  return shaftsOf(robot).flatMap((lead) => {
    const { motor, wheel } = lead;
    if (!backwards.includes(motor)) return [];
    const name = capital(spokenName(motor.name));
    return [
      note(
        "backwards",
        "error",
        wireOf(robot, motor.name),
        motor.name,
        `${name} turns ${spokenName(wheel.name)} backwards: ${mountingWords(robot, lead)}`,
        motor.reversed ? `Set ${motor.name} to not reversed.` : `Set ${motor.name} to reversed.`,
      ),
    ];
  });
}

function mountingWords(robot: Robot, { motor, wheel }: { motor: Motor; wheel: Wheel }): string {
  const source = gearTrain(robot, wheel);
  const gears = source.flips ? "its gears turn the direction about" : "nothing between them turns the direction about";
  // A wheel that stands aslant has its own right and left.
  const sits =
    wheel.aimRad === 0
      ? `it sits on the ${wheel.side}`
      : `looking where it rolls, the robot lies on its ${isOnRight(wheel) ? "left" : "right"}`;
  return `${sits} with its shaft pointing ${motor.shaft === "inward" ? "in" : "out"}, and ${gears}.`;
}

function fineWords(robot: Robot, board: BoardProfile): WiringNote[] {
  const budget = currentBudget(robot);
  const notes: WiringNote[] = [];
  if (robot.motors.length > 0)
    notes.push(
      note("motors-own", "fine", "", "", `Every motor has its own ${board.style === "plugs" ? "socket" : "channel"}.`),
    );
  if (budget.peakA <= budget.mostA)
    notes.push(note("peak-fine", "fine", "", "pack", `Peak draw ${budget.peakA.toFixed(1)} A of ${budget.mostA} A.`));
  for (const motor of robot.motors)
    if (motor.reversed)
      notes.push(
        note(
          "reversed",
          "fine",
          "",
          motor.name,
          `${capital(spokenName(motor.name))} is reversed, as its mounting needs.`,
        ),
      );
  return notes;
}

/** Whether a device's terminal may go to a board terminal. */
export function fits(board: BoardProfile, device: DeviceTerminal, terminal: BoardTerminal): boolean {
  return (
    checkOne(board, device, terminal).every((n) => n.severity !== "error") &&
    (device.needs.length > 0 || terminal.shared === true)
  );
}
