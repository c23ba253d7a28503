// A robot's body on the lines of a board: what its sensors put onto them, and what its motors make of how they are driven.
import {
  type BoardRobot,
  boardLines,
  boardRobot,
  type Commands,
  type DealtPins,
  type RawSenses,
  type Robot,
  restingCommands,
  steeringServo,
} from "@giddy-pebble/core";
import type { LineOut, LinesIn } from "./processor.js";

/** Sound in air of 20 deg C, m/us; as the board's drivers take it. */
const SOUND_M_US = 343.2e-6;
const GYRO_RAD_S = 2.66462e-4;
/** A servo's pulse in its middle, us, for each radian, and of one that turns on and on for its whole speed. */
const SERVO = { middleUs: 1500, usPerRad: 636.6, speedUs: 500 } as const;
const SUPPLY_VOLTS = 5;
const DIVIDER = 4;

export class WiredBody {
  readonly commands: Commands;
  private readonly board: BoardRobot;
  private readonly counted: number[];
  private gyroRaw = 0;

  constructor(
    private readonly robot: Robot,
    private readonly pins: DealtPins,
  ) {
    this.board = boardRobot(robot);
    this.commands = restingCommands(robot);
    this.counted = robot.motors.map(() => 0);
  }

  /** Lines that its motors and servos hang on. */
  get looked(): string[] {
    const { motors, servos } = this.pins;
    return [...motors.flatMap(({ pulse, way }) => [pulse, way]), ...servos].flatMap((pin) => pin ?? []);
  }

  private countsOf(raw: RawSenses, motor: number): number {
    const shaft = this.board.shafts.findIndex((one) => one.motor === motor);
    return Math.trunc((shaft >= 0 ? raw.counts[shaft] : raw.motorCounts[motor]) ?? 0);
  }

  lines(raw: RawSenses): LinesIn {
    const { robot, pins } = this;
    const levels = new Map<string, boolean>();
    const volts = new Map<string, number>();
    const echoes: LinesIn["echoes"][number][] = [];
    const light: [number, number, number] = [0, 0, 0];
    const turns = pins.motors.flatMap(({ encoder }, i) => {
      if (!encoder) return [];
      const counts = this.countsOf(raw, i);
      const steps = counts - (this.counted[i] as number);
      this.counted[i] = counts;
      return [{ pins: encoder, steps }];
    });
    robot.sensors.forEach((sensor, i) => {
      const at = pins.sensors[i];
      const values = raw.sensors[i]?.values;
      if (!at || !values) return;
      boardLines(robot, i).forEach((line, k) => {
        const value = values[k] as number;
        if (line.is === "input" && at.digital[0]) {
          const pullUp = "pullUp" in sensor && sensor.pullUp === true;
          levels.set(at.digital[0], value >= 0.5 !== pullUp);
        }
        const level = line.is === "level" ? at.levels[line.line] : undefined;
        if (line.is === "level" && level) volts.set(level, Math.min(1, Math.max(0, value / line.range)) * SUPPLY_VOLTS);
        if (line.is === "echo" && at.digital[0] && at.digital[1])
          echoes.push({
            pins: [at.digital[0], at.digital[1]],
            us: (values[k + 1] as number) >= 0.5 ? (2 * value) / SOUND_M_US : 0,
          });
        if (line.is === "light" && at.bus) light[line.part] = Math.round(Math.min(1, Math.max(0, value)) * 65_535);
      });
    });
    if (pins.battery) volts.set(pins.battery, raw.packVolts / DIVIDER);
    if (raw.gyroSec > 0) this.gyroRaw = Math.max(-32_768, Math.min(32_767, Math.round(raw.gyroRateRadS / GYRO_RAD_S)));
    return { levels, volts, turns, echoes, gyroRaw: this.gyroRaw, light };
  }

  /** What a bridge makes of its two lines: both high brakes, both low lets the motor coast, one more than the other drives. */
  private motor(i: number, outs: ReadonlyMap<string, LineOut>): { mode: Commands["mode"]; duty: number } {
    const { pulse, way } = this.pins.motors[i] ?? {};
    const [ahead, back] = [pulse, way].map((pin) => (pin ? (outs.get(pin)?.share ?? 0) : 0)) as [number, number];
    if (ahead >= 1 && back >= 1) return { mode: "brake", duty: 0 };
    return ahead === 0 && back === 0 ? { mode: "coast", duty: 0 } : { mode: "drive", duty: ahead - back };
  }

  /** Takes what the board's lines say as orders. */
  obey(outs: ReadonlyMap<string, LineOut>): Commands {
    const { commands, board, robot } = this;
    commands.mode = "drive";
    const shafts = board.shafts.map(({ motor }) => this.motor(motor, outs));
    shafts.forEach(({ duty }, i) => {
      commands.duties[i] = duty;
    });
    // Motors of a drive are braked together, as they are let go.
    const still = shafts[0]?.mode;
    if (still && still !== "drive" && shafts.every(({ mode }) => mode === still)) commands.mode = still;
    commands.motors.forEach((order, i) => {
      if (!board.drives[i]) Object.assign(order, this.motor(i, outs));
    });
    const steered = steeringServo(robot);
    commands.servos.forEach((order, i) => {
      const pin = this.pins.servos[i];
      const us = pin ? (outs.get(pin)?.pulseUs ?? 0) : 0;
      // Before its first pulse a servo stays where it is.
      if (us < 100) return;
      const rad = (us - SERVO.middleUs) / SERVO.usPerRad;
      order.targetRad = rad;
      order.share = (us - SERVO.middleUs) / SERVO.speedUs;
      if (i === steered.index) commands.steerRad = rad - steered.centreRad;
    });
    return commands;
  }
}
