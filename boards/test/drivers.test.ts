// The MicroPython board file on pins that are made up: what reaches motors and servos, what comes from encoders, pings and
// the two-wire bus, and that motors are off before a mission starts and after it ends.
import { beforeAll, describe, expect, test } from "vitest";
import { exportMission } from "../src/index.js";
import { Interpreter } from "../src/python.js";
import { missionOf } from "./support.js";

/** Pins, PWM, ADC and I2C that remember what they were told. */
const MACHINE = `
levels = {}
duties = {}
log = []
class Pin:
    IN = 0
    OUT = 1
    PULL_UP = 2
    IRQ_RISING = 1
    IRQ_FALLING = 2
    def __init__(self, n, mode=0, pull=None, value=None):
        self.n = n
        self.mode = mode
        self.pull = pull
        if value is not None:
            levels[n] = value
    def value(self, v=None):
        if v is None:
            return levels.get(self.n, 1 if self.pull == 2 else 0)
        levels[self.n] = v
    def irq(self, handler, trigger):
        handlers[self.n] = (handler, self)
handlers = {}
def edge(n, v):
    levels[n] = v
    handler, pin = handlers[n]
    handler(pin)
class PWM:
    def __init__(self, pin, freq=0, duty_u16=0):
        self.n = pin.n
        duties[self.n] = duty_u16
    def duty_u16(self, v):
        duties[self.n] = v
        log.append((self.n, v))
class ADC:
    def __init__(self, pin):
        self.n = pin.n
    def read_u16(self):
        return levels.get(self.n, 0)
class I2C:
    def __init__(self, n, sda=None, scl=None):
        pass
    def writeto_mem(self, address, register, data):
        log.append((address, register, data))
    def readfrom_mem(self, address, register, count):
        return memory[(address, register)]
memory = {(0x68, 0x47): b"\\x00\\x00", (0x29, 0xB4): b"\\x00\\x00\\xff\\x7f\\x00\\x40\\x00\\x20"}
echoes = {}
def time_pulse_us(pin, level, most):
    return echoes.get(pin.n, -2)
`;

/** A serial line on which nobody says anything; what the board says is kept. */
const SERIAL = `
import sys
class Box:
    pass
line = []
select = Box()
select.POLLIN = 1
poll = Box()
poll.register = lambda what, how: None
poll.poll = lambda ms: []
select.poll = lambda: poll
serial = Box()
serial.modules = sys.modules
serial.stdin = None
serial.stdout = Box()
serial.stdout.buffer = Box()
serial.stdout.buffer.write = line.append
sys.modules["select"] = select
sys.modules["sys"] = serial
`;

async function started(steps: string, robot = "drizzle"): Promise<Interpreter> {
  const prepared = missionOf(steps, "", robot);
  if (!prepared.program) throw new Error("the mission has errors");
  const { files } = await exportMission("micropython", prepared.program, prepared.context.robot, "A test");
  const all = new Map([...files].filter(([name]) => name.endsWith(".py")));
  all.set("machine.py", MACHINE);
  const made = await Interpreter.start(all);
  made.run(SERIAL);
  for (const name of "machine pins robot state drive motions line wall path parts sense values tasks hand mission board version link main".split(
    " ",
  ))
    made.run(`import ${name}`);
  // As a board does that was told to run.
  made.run("link.begun(0)");
  // A clock that stands still but for the loop's own looks at it.
  made.run(
    "import time\nnow = [0]\ndef ticks_us():\n    now[0] += 2500\n    return now[0]\nclass Clock:\n    pass\nclock = Clock()\nclock.ticks_us = ticks_us\nclock.ticks_diff = lambda a, b: a - b\nclock.ticks_add = lambda a, b: a + b\nmain.time = clock",
  );
  return made;
}

let board: Interpreter;
const value = (expression: string) => JSON.parse(board.text(expression)) as unknown;

describe("motors", () => {
  beforeAll(async () => {
    board = await started("go 30 cm");
  });

  test("are braked before the mission starts", () => {
    expect(value("[machine.duties[n] for n in pins.MOTORS[0] + pins.MOTORS[1]]")).toEqual([65535, 65535, 65535, 65535]);
  });

  test("drive forward with one pin pulsed and the other low, and brake again when the mission is over", () => {
    board.run("main.loop(20)");
    const [ahead, back] = value("[machine.duties[n] for n in pins.MOTORS[0]]") as [number, number];
    expect([ahead, back].sort((a, b) => a - b)[0]).toBe(0);
    expect(Math.max(ahead, back)).toBeGreaterThan(1000);
    board.run("import state\nstate.stop('finished')\nmain.loop(5)");
    expect(value("[machine.duties[n] for n in pins.MOTORS[0]]")).toEqual([65535, 65535]);
  });

  test("coast with both pins low", () => {
    board.run("board.motor(2, 'coast', 0)");
    expect(value("[machine.duties[n] for n in pins.MOTORS[2]]")).toEqual([0, 0]);
  });

  test("give a share of the voltage as that share of the pulse, in either direction", () => {
    board.run("board.motor(2, 'drive', 0.25)");
    expect(value("[machine.duties[n] for n in pins.MOTORS[2]]")).toEqual([Math.floor(0.25 * 65535), 0]);
    board.run("board.motor(2, 'drive', -1.0)");
    expect(value("[machine.duties[n] for n in pins.MOTORS[2]]")).toEqual([0, 65535]);
  });

  test("are off when a tick comes 100 ms late", () => {
    board.run("board.motor(0, 'drive', 1.0)\nmachine.log.clear()\nnow[0] += 150000\nmain.loop(1)");
    const log = value("machine.log[:2]") as [number, number][];
    expect(log.map(([, duty]) => duty)).toEqual([65535, 65535]);
  });
});

describe("encoders", () => {
  test("count four edges a cycle, up one way and down the other", () => {
    const [a, b] = value("pins.ENCODERS[0]") as [number, number];
    const turn = (order: readonly [number, number][]) => {
      for (const [pin, level] of order) board.run(`machine.edge(${pin}, ${level})`);
    };
    board.run(`machine.levels[${a}] = 0\nmachine.levels[${b}] = 0\nboard.motors[0].counts = 0`);
    turn([
      [a, 1],
      [b, 1],
      [a, 0],
      [b, 0],
    ]);
    const one = value("board.counts(0)") as number;
    expect(Math.abs(one)).toBe(4);
    turn([
      [b, 1],
      [a, 1],
      [b, 0],
      [a, 0],
    ]);
    expect(value("board.counts(0)")).toBe(0);
  });
});

describe("sensors", () => {
  test("an echo is half of its time at the speed of sound; none is none", () => {
    const index = value("[i for i in range(len(pins.SENSORS)) if len(pins.SENSORS[i]) == 2][0]") as number;
    const places = value(`[line[0] for line in robot.LINES if line[1] == ${index}]`) as number[];
    board.run(`machine.echoes[pins.SENSORS[${index}][1]] = 2914\nmain.read_all()`);
    const [distance, heard] = value(`[state.senses.values[i] for i in ${JSON.stringify(places)}]`) as [number, number];
    expect(distance).toBeCloseTo((2914e-6 * 343.2) / 2, 6);
    expect(heard).toBe(1);
    board.run("machine.echoes.clear()\nmain.read_all()");
    expect(value(`state.senses.values[${places[1]}]`)).toBe(0);
  });

  test("a switch with a pull-up counts when its line is low for two ticks", () => {
    const index = value("[i for i in range(len(pins.SENSORS)) if len(pins.SENSORS[i]) == 1][0]") as number;
    const line = value(`pins.SENSORS[${index}][0]`) as number;
    const read = () => value(`board.read(${index}, 'input', 0)`);
    board.run(`machine.levels[${line}] = 1`);
    expect([read(), read(), read()]).toEqual([0, 0, 0]);
    board.run(`machine.levels[${line}] = 0`);
    expect([read(), read(), read()]).toEqual([0, 1, 1]);
  });

  test("the gyro's register is 1/65.5 of a degree a second, of either sign", () => {
    board.run('machine.memory[(0x68, 0x47)] = b"\\x20\\x00"');
    expect(value("board.gyro()") as number).toBeCloseTo(((0x2000 / 65.5) * Math.PI) / 180, 3);
    board.run('machine.memory[(0x68, 0x47)] = b"\\xe0\\x00"');
    expect(value("board.gyro()") as number).toBeCloseTo(((-0x2000 / 65.5) * Math.PI) / 180, 3);
  });

  test("a servo's pulse is 1.5 ms in its middle and 2.5 ms at a quarter turn", () => {
    board.run("board.servo(0, 0)");
    const pulse = () => ((value("machine.duties[pins.SERVOS[0]]") as number) / 65535) * 20;
    expect(pulse()).toBeCloseTo(1.5, 2);
    board.run("import math\nboard.servo(0, math.pi / 2)");
    expect(pulse()).toBeCloseTo(2.5, 2);
  });
});
