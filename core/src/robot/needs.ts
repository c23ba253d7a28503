// What each device needs from a board: its terminals, and what the terminal at the other end must be able to do.
import { type Ability, type BoardProfile, boardProfile } from "./boards.js";
import type { Robot, Sensor } from "./schema.js";

export interface DeviceTerminal {
  readonly part: string;
  readonly terminal: string;
  /** Words for people: "signal of the bumper". */
  readonly label: string;
  readonly needs: readonly Ability[];
  /** A supply between these voltages; null is not a supply. */
  readonly supply: readonly [lowest: number, highest: number] | null;
  readonly ground?: true;
  /** It takes the pack itself. */
  readonly pack?: true;
  /** Level it sends at, V, when it is an output. */
  readonly sendsVolts?: number;
  /** Most it draws from its supply, A. */
  readonly drawsA?: number;
}

type Need = Omit<DeviceTerminal, "part">;

function signal(terminal: string, label: string, needs: readonly Ability[], more: Partial<Need> = {}): Need {
  return { terminal, label, needs, supply: null, ...more };
}

function power(lowest: number, highest: number, drawsA: number): Need {
  return { terminal: "power", label: "supply", needs: [], supply: [lowest, highest], drawsA };
}

const GROUND: Need = { terminal: "ground", label: "ground", needs: [], supply: null, ground: true };

/** The motor driver that pin boards carry, wired like a device of its own. */
const BRIDGE = "bridge";

function sensorPins(sensor: Sensor): Need[] {
  switch (sensor.kind) {
    case "bumper":
    case "button":
      return [signal("signal", "signal", ["digital"]), GROUND];
    case "eye":
      return [
        signal("trigger", "trigger", ["digital"]),
        signal("echo", "echo", ["interrupt"], { sendsVolts: 5 }),
        power(4.5, 5.5, 0.02),
        GROUND,
      ];
    case "near":
      return [signal("signal", "signal", ["digital"]), power(3, 5.5, 0.03), GROUND];
    case "floor": {
      const count =
        sensor.layout === "single" ? 1 : sensor.layout === "pair" ? 2 : Math.max(1, Math.floor(sensor.count));
      const names =
        count === 1
          ? ["signal"]
          : count === 2
            ? ["left", "right"]
            : Array.from({ length: count }, (_, i) => `signal_${i + 1}`);
      return [...names.map((name) => signal(name, name, ["analog"])), power(3, 5.5, 0.02 * count), GROUND];
    }
    case "tag":
    case "tilt":
    case "gyro":
      return [
        signal("data", "data", ["bus-data"]),
        signal("clock", "clock", ["bus-clock"]),
        power(3, 5.5, 0.02),
        GROUND,
      ];
    case "potentiometer":
      return [signal("signal", "signal", ["analog"]), power(3, 5.5, 0.001), GROUND];
  }
}

/** Volts a sensor's own supply must have on a board with sockets. */
function socketSupply(sensor: Sensor): readonly [number, number] {
  return sensor.kind === "eye" ? [4.5, 5.5] : [3, 5.5];
}

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
    ...robot.sensors.map((sensor) => plug(sensor.name, "sensor", socketSupply(sensor), 0.03)),
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
    ...robot.sensors.flatMap((sensor) => withPart(sensor.name, sensorPins(sensor))),
  ];
}

/** Every terminal of every device, as the robot's board wants it wired; empty for an unknown board. */
export function deviceTerminals(robot: Robot): DeviceTerminal[] {
  const board: BoardProfile | null = boardProfile(robot.board.profile);
  if (!board) return [];
  return board.style === "plugs" ? plugs(robot) : pins(robot);
}
