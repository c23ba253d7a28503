# What all parts of the brain share: what is read and ordered in this tick, and small arithmetic.
#
# All numbers are SI: metres, seconds, radians, volts. Angles grow to the left. A tick is 10 ms: senses are read once at its
# begin, orders are given once at its end.
from math import floor, pi

import robot

TICK = 0.01
# Sums of ticks are compared with times to within this, s: a float has only so many digits.
ALMOST = 1e-4
WHOLE_TURN = 2 * pi
ENDLESS = float("inf")
NAN = float("nan")
USUAL = None
NONE = 255
NO_ROUTINE = 255
NOBODY = 65535

# Places of the readings that all robots have.
CLOCK = 0
TRAVEL = 1
HEADING = 2
X = 3
Y = 4
STALLED = 5
VOLTAGE = 6
GYRO_HEADING = 7
GYRO_RATE = 8
HOLD_GAIN = 9
STOP_DISTANCE = 10
SPEED = 11
CURRENT = 12
ASIDE = 13
MOTORS = 14


def clamp(x, limit):
    return limit if x > limit else -limit if x < -limit else x


def between(x, low, high):
    return low if x < low else high if x > high else x


def approach(x, target, step):
    return min(target, x + step) if x < target else max(target, x - step)


def rounded(x):
    """To the nearest whole number; halves go up."""
    return floor(x + 0.5)


def wrap(rad):
    """The same direction in (-half a turn, half a turn]."""
    return rad + floor((pi - rad) / WHOLE_TURN) * WHOLE_TURN


class Senses:
    """What is read of the robot in this tick."""

    def __init__(self):
        self.counts = [0] * robot.SHAFTS
        self.gyro_rate = 0.0
        # Time the newest turn rate stands for; 0 in ticks without a new one.
        self.gyro_time = 0.0
        self.volts = 0.0
        self.amps = 0.0
        self.motor_counts = [0] * robot.MOTORS
        self.heat = [0.0] * robot.MOTORS
        self.servo_angle = [0.0] * robot.SERVOS
        self.servo_rate = [0.0] * robot.SERVOS
        # Angle at which something it grips holds a servo, or None.
        self.servo_held = [None] * robot.SERVOS
        # Numbers of all sensors, one after another; robot.py says where each begins.
        self.values = [0.0] * robot.VALUES
        self.told = [False] * robot.SENSORS
        self.holds = [0] * robot.ATTACHMENTS
        self.driven = False
        self.heard = False
        self.sticks = [0.0] * 4
        self.levels = [0.0] * 4
        self.buttons = 0


class Orders:
    """What the robot is told in this tick."""

    def __init__(self):
        self.mode = "brake"
        self.duties = [0.0] * robot.SHAFTS
        self.steer = 0.0
        self.motor_mode = ["brake"] * robot.MOTORS
        self.motor_duty = [0.0] * robot.MOTORS
        self.servo_target = list(robot.SERVO_REST)
        self.servo_share = [0.0] * robot.SERVOS


class Run:
    """Where the mission stands."""

    def __init__(self):
        self.tick = 0
        self.ended = False
        self.handed_over = False
        # It stands: the driver fell silent, and has not let go of the sticks since.
        self.hand_silent = False
        # The board: told of steps, texts and the end. Set by main.py.
        self.board = None


senses = Senses()
orders = Orders()
run = Run()
readings = [0.0] * robot.READINGS


def stop(why, a=0, b=0):
    if run.ended:
        return
    run.ended = True
    run.board.end(why, a, b)
