# From what the board reads to what a mission reads: the gyro is corrected and added up, the way is counted, thresholds and
# taught colours decide, taps are counted.
from math import cos, sin, sqrt

import robot
from drive import drive
from parts import parts, parts_follow
from state import (
    ASIDE, CLOCK, CURRENT, GYRO_HEADING, GYRO_RATE, HEADING, HOLD_GAIN, MOTORS, NONE, SPEED, STALLED, STOP_DISTANCE, TICK,
    TRAVEL, VOLTAGE, WHOLE_TURN, X, Y, orders, readings, run, senses,
)


class Zero:
    """What `reset` made zero."""

    def __init__(self):
        self.x = 0.0
        self.y = 0.0
        self.travel = 0.0
        self.aside = 0.0
        self.heading = 0.0
        self.gyro = 0.0


class Gyro:
    """Sum of what the gyro told, less what it tells at rest, with what rounding lost of it (Kahan 1965)."""

    def __init__(self):
        self.sum = 0.0
        self.lost = 0.0

    def add(self):
        more = senses.gyro_rate * senses.gyro_time if senses.gyro_time > 0 else 0.0
        if run.tick > 0:
            more -= robot.GYRO_REST * TICK
        more -= self.lost
        total = self.sum + more
        self.lost = (total - self.sum) - more
        self.sum = total
        return self.sum * robot.GYRO_SCALE, (senses.gyro_rate - robot.GYRO_REST) * robot.GYRO_SCALE


zero = Zero()
gyro = Gyro()
# Drivers that are only on or off: what is still owed of each duty.
owed = [0.0] * robot.SHAFTS


def place_readings():
    c = cos(zero.heading)
    s = sin(zero.heading)
    dx = drive.x - zero.x
    dy = drive.y - zero.y
    readings[TRAVEL] = drive.travel - zero.travel
    readings[ASIDE] = drive.aside - zero.aside
    readings[HEADING] = drive.heading - zero.heading
    readings[X] = c * dx + s * dy
    readings[Y] = c * dy - s * dx
    readings[GYRO_HEADING] = drive.heading - zero.gyro


def resetRobot():
    zero.x = drive.x
    zero.y = drive.y
    zero.travel = drive.travel
    zero.aside = drive.aside
    zero.heading = drive.heading
    place_readings()


def resetGyro():
    zero.gyro = drive.heading
    place_readings()


def partZero(part):
    parts[part].zero()
    place_readings()


def sense_all():
    """Fills the readings of this tick."""
    heading, rate = gyro.add()
    drive.sense(heading, rate)
    readings[CLOCK] = run.tick / 100
    place_readings()
    speed = drive.speed
    readings[SPEED] = speed
    readings[CURRENT] = senses.amps
    readings[STALLED] = 1 if drive.stalled else 0
    readings[VOLTAGE] = drive.volts
    readings[GYRO_RATE] = drive.turn_rate
    readings[HOLD_GAIN] = robot.HOLD_GAIN_PER_RAD
    readings[STOP_DISTANCE] = abs(speed) * robot.STOPS_AFTER + speed * speed / (2 * robot.STOPS_WITH)
    for i, shaft in enumerate(drive.shafts):
        base = MOTORS + 4 * robot.SHAFT_MOTOR[i]
        per_turn = robot.SHAFT_COUNTS[i]
        readings[base] = shaft.counts * WHOLE_TURN / per_turn if per_turn else 0.0
        readings[base + 1] = shaft.speed / robot.ROLL_PER_TURN[i] * WHOLE_TURN * robot.SHAFT_RATIO[i]
        readings[base + 2] = 1 if abs(shaft.duty) > 0.3 and abs(shaft.speed) < 0.01 else 0
    for i in range(robot.MOTORS):
        readings[MOTORS + 4 * i + 3] = senses.heat[i]
    for read in readers:
        read()
    parts_follow()
    for i in range(robot.SERVOS):
        readings[robot.SERVO_SLOTS + i] = senses.servo_angle[i]
    for i in range(robot.ATTACHMENTS):
        base = robot.ATTACHMENT_SLOTS + 2 * i
        if robot.ATTACHMENT_PART[i] != NONE:
            readings[base] = parts[robot.ATTACHMENT_PART[i]].angle()
        readings[base + 1] = senses.holds[i]


def give_orders():
    """Gives the drive's orders out: as the board turns its motors, on or off where it can do no more."""
    orders.mode = drive.mode
    for i, shaft in enumerate(drive.shafts):
        duty = shaft.duty
        if robot.ON_OFF:
            # A share of the voltage by whole ticks on and off, so that the mean is right.
            if duty == 0:
                owed[i] = 0.0
            owed[i] += duty
            duty = 1 if owed[i] >= 0.5 else -1 if owed[i] <= -0.5 else 0
            owed[i] -= duty
        orders.duties[i] = shaft.direction * duty
    orders.steer = drive.steer


# Sensors: each a function that makes its readings.


def delivered(sensor, start, slot, count):
    """Numbers that are read as they are."""

    def read():
        if senses.told[sensor]:
            for i in range(count):
                readings[slot + i] = senses.values[start + i]

    return read


def taps(sensor, start, slot):
    """Pressed, and how often it was."""

    def read():
        if senses.told[sensor]:
            now = senses.values[start]
            # The reading of the tick before is what it was.
            if now == 1 and readings[slot] == 0:
                readings[slot + 1] += 1
            readings[slot] = now

    return read


def distance(sensor, start, slot, offset, far):
    """One that sees nothing reads its far limit."""

    def read():
        if senses.told[sensor]:
            seen = senses.values[start + 1] == 1
            readings[slot] = max(0, senses.values[start] - offset) if seen else far
            readings[slot + 1] = 1 if seen else 0

    return read


def floor(sensor, start, slot, spots, dark, fully, crossing):
    """Light, colour and darkness of each spot; and whether a line crosses all of them."""

    def read():
        if not senses.told[sensor]:
            return
        dim = 0
        at = slot + 1
        for i in range(spots):
            light = senses.values[start + i]
            if light < dark * fully:
                dim += 1
            readings[at] = light
            readings[at + 1] = senses.values[start + spots + i]
            readings[at + 2] = 1 if light < dark else 0
            at += 3
        readings[slot] = 1 if spots >= 2 and dim >= max(2, spots * crossing) else 0

    return read


def curve(t):
    return t ** (1 / 3) if t > 216 / 24389 else 24389 / 27 * t / 116 + 16 / 116


def plate(sensor, start, slot, colours):
    """Colour of a plate: nearest of what it was taught by distance in CIE Lab (1976); sure when much nearer than the next."""

    def read():
        if not senses.told[sensor]:
            return
        red, green, blue, lit = senses.values[start : start + 4]
        x = curve((0.4124564 * red + 0.3575761 * green + 0.1804375 * blue) / 0.95047)
        y = curve(0.2126729 * red + 0.7151522 * green + 0.072175 * blue)
        z = curve((0.0193339 * red + 0.119192 * green + 0.9503041 * blue) / 1.08883)
        best = 1e9
        second = 1e9
        index = 0
        for colour, l, a, b in colours:
            dl = 116 * y - 16 - l
            da = 500 * (x - y) - a
            db = 200 * (y - z) - b
            d = sqrt(dl * dl + da * da + db * db)
            if d < best:
                second = best
                best = d
                index = colour
            elif d < second:
                second = d
        sure = second == 1e9 or (second > 0 and best / second < 0.7)
        readings[slot] = index
        readings[slot + 1] = 1 if sure and lit == 1 else 0
        for i in range(3):
            readings[slot + 2 + i] = senses.values[start + i]

    return read


KINDS = {"delivered": delivered, "taps": taps, "distance": distance, "floor": floor, "plate": plate}
readers = [KINDS[sheet[0]](*sheet[1:]) for sheet in robot.SENSOR_SHEETS]
