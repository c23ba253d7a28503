// What each device needs from a board: its terminals, and what the terminal at the other end must be able to do.
import { sensorKind } from "../sensors/kinds/all.js";
import { type Ability, GROUND, type Need, power, signal } from "../sensors/kinds/kind.js";
import { type BoardProfile, boardProfile } from "./boards.js";
import type { Robot } from "./schema.js";

export interface DeviceTerminal extends Need {
  readonly part: string;
}

/** The motor driver that pin boards carry, wired like a device of its own. */
const BRIDGE = "bridge";

function withPart(part: string, needs: readonly Need[]): DeviceTerminal[] {
  return needs.map((need) => ({ part, ...need }));
}

function plugs(robot: Robot): DeviceTerminal[] {
  const plug = (part: string, ability: Ability, supply: Need["supply"], drawsA: number): DeviceTerminal => ({
    part,
    terminal: "plug",
    label: "plug",
    needs: [ability],
    supply,
    drawsA,
  });
  return [
    ...robot.motors.map((motor) => plug(motor.name, "motor", null, motor.stallCurrentA)),
    ...robot.servos.map((servo) => plug(servo.name, "servo", [4.5, 6.5], servo.stallCurrentA)),
    ...robot.sensors.map((sensor) => plug(sensor.name, "sensor", sensorKind(sensor).socketVolts, 0.03)),
  ];
}

function pins(robot: Robot): DeviceTerminal[] {
  const bridge: Need[] = [
    signal("in_1", "direction 1", ["digital"]),
    signal("in_2", "direction 2", ["digital"]),
    signal("enable_a", "enable A", [robot.board.driver === "pwm" ? "pwm" : "digital"]),
    signal("in_3", "direction 3", ["digital"]),
    signal("in_4", "direction 4", ["digital"]),
    signal("enable_b", "enable B", [robot.board.driver === "pwm" ? "pwm" : "digital"]),
    { terminal: "supply", label: "motor supply", needs: [], supply: null, pack: true },
    GROUND,
  ];
  return [
    ...(robot.motors.length > 0 ? withPart(BRIDGE, bridge) : []),
    ...robot.motors.flatMap((motor) =>
      withPart(motor.name, [
        signal("leads", "leads", ["motor"], { drawsA: motor.stallCurrentA }),
        ...(motor.encoder
          ? [
              signal("encoder_a", "encoder A", ["interrupt"]),
              signal("encoder_b", "encoder B", ["digital"]),
              power(3, 5.5, 0.01),
              GROUND,
            ]
          : []),
      ]),
    ),
    ...robot.servos.flatMap((servo) =>
      withPart(servo.name, [signal("signal", "signal", ["pwm"]), power(4.5, 6.5, servo.stallCurrentA), GROUND]),
    ),
    ...robot.sensors.flatMap((sensor) => withPart(sensor.name, sensorKind(sensor).terminals(sensor))),
  ];
}

/** Every terminal of every device, as the robot's board wants it wired; empty for an unknown board. */
export function deviceTerminals(robot: Robot): DeviceTerminal[] {
  const board: BoardProfile | null = boardProfile(robot.board.profile);
  if (!board) return [];
  return board.style === "plugs" ? plugs(robot) : pins(robot);
}
