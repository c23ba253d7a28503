# The host board in MicroPython: senses come in as numbers in a text, orders go out as text, tick by tick. For holding the
# runtime against the rehearsal.
import json

import host_chance
import mission
import robot
import tasks
from state import orders, senses

MODES = ("drive", "brake", "coast")


class Board:
    def __init__(self):
        self.clear()

    def clear(self):
        self.steps = []
        self.said = []
        self.ended = None

    def step(self, number, task, start, end, how):
        self.steps.append([number, task, start, end, how])

    def end(self, why, a, b):
        self.ended = [why, a, b]

    def say(self, kind, text):
        self.said.append([kind, text])

    def chance(self):
        return host_chance.next()


board = Board()
tasks.begin(mission.program, board)


def take(numbers):
    """The same order of numbers as the host board in C++."""
    at = 0

    def some(count):
        nonlocal at
        at += count
        return numbers[at - count : at]

    senses.counts = [int(x) for x in some(robot.SHAFTS)]
    senses.gyro_rate, senses.gyro_time, senses.volts, senses.amps = some(4)
    senses.motor_counts = [int(x) for x in some(robot.MOTORS)]
    senses.heat = some(robot.MOTORS)
    for i in range(robot.SERVOS):
        angle, rate, held = some(3)
        senses.servo_angle[i] = angle
        senses.servo_rate[i] = rate
        senses.servo_held[i] = held if held == held else None
    senses.values = some(robot.VALUES)
    senses.told = some(robot.SENSORS)
    senses.holds = some(robot.ATTACHMENTS)
    senses.driven, senses.heard = some(2)
    senses.sticks = some(4)
    senses.levels = some(4)
    senses.buttons = int(some(1)[0])


def tick(text):
    board.clear()
    take([float(x) for x in text.split()])
    tasks.tick()
    out = [MODES.index(orders.mode)] + orders.duties + [orders.steer]
    for i in range(robot.MOTORS):
        out += [MODES.index(orders.motor_mode[i]), orders.motor_duty[i]]
    for i in range(robot.SERVOS):
        out += [orders.servo_target[i], orders.servo_share[i]]
    return json.dumps([out, board.steps, board.said, board.ended])
