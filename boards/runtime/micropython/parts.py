# Motors and servos beside the drive: to an angle along a trapezoid of speed, then hold; on and on at a speed; or gently
# against an end stop.
from math import pi

import robot
from motions import Profile
from state import ALMOST, ENDLESS, MOTORS, NONE, TICK, WHOLE_TURN, between, clamp, orders, readings, run, senses

RATE_SMOOTHING = 0.35
GAIN = 5
GAIN_INTEGRAL = 8
MOST_INTEGRAL = 0.5
NEAR = pi / 120
SLOW = 0.35
SETTLE = 0.6
LEAD = 0.25
STALL_DUTY = 0.25
STALL_RATE = 0.06
STALL_SEC = 0.15
SERVO_NEAR = 0.009
SERVO_SLOW = 0.05


class FeltMotor:
    """A motor beside the drive as its encoder tells it."""

    def __init__(self, i):
        self.i = i
        self.per_turn = robot.MOTOR_COUNTS[i]
        self.zero = 0.0
        self.before = None
        self.rate = 0.0

    def turned(self):
        return senses.motor_counts[self.i] * WHOLE_TURN / self.per_turn if self.per_turn else 0.0

    def follow(self):
        now = self.turned()
        if self.before is not None:
            self.rate += RATE_SMOOTHING * ((now - self.before) / TICK - self.rate)
        self.before = now
        if not self.per_turn:
            return
        base = MOTORS + 4 * self.i
        readings[base] = now - self.zero
        readings[base + 1] = self.rate
        pushed = abs(orders.motor_duty[self.i]) > STALL_DUTY
        readings[base + 2] = 1 if pushed and abs(self.rate) < 0.05 else 0


class Part:
    """A part as missions name it: a motor, a servo, or what one of them turns."""

    def __init__(self, motor, servo, continuous, ratio, top_rate, low, high, knob, knob_ratio, ages, distance, scan, aim):
        self.motor = None if motor == NONE else motors[motor]
        self.servo = None if servo == NONE else servo
        # What moves it: parts with the same mover take turns.
        self.mover = robot.MOTORS + servo if motor == NONE else motor
        self.continuous = continuous
        # Turns of the mover for one turn of the part.
        self.ratio = ratio
        self.top_rate = top_rate
        self.low = low
        self.high = high
        # The sensor's value that tells its angle, and its turns for one of the part's.
        self.knob = None if knob == NONE else knob
        self.knob_ratio = knob_ratio
        # Values that tell how old the looks of its eyes are; where their first distance and what a scan found are read.
        self.ages = ages
        self.distance = distance
        self.scan = scan
        self.aim_offset = aim
        self.last = 0.0
        self.knob_rate = 0.0

    def angle(self):
        if self.servo is not None:
            return senses.servo_angle[self.servo]
        if self.knob is not None:
            return senses.values[self.knob] * self.knob_ratio
        if self.motor is None:
            return 0.0
        return (self.motor.turned() - self.motor.zero) / self.ratio

    def rate(self):
        if self.servo is not None:
            return senses.servo_rate[self.servo]
        if self.knob is not None:
            return self.knob_rate
        return self.motor.rate / self.ratio if self.motor else 0.0

    def follow(self):
        if self.knob is None:
            return
        now = self.angle()
        self.knob_rate += RATE_SMOOTHING * ((now - self.last) / TICK - self.knob_rate)
        self.last = now

    def zero(self):
        if self.motor:
            self.motor.zero = self.motor.turned()

    def power(self, mode, duty):
        """A share of the voltage, or of a servo's own speed."""
        share = clamp(duty, 1) if mode == "drive" else 0.0
        if self.motor:
            orders.motor_mode[self.motor.i] = mode
            orders.motor_duty[self.motor.i] = share
        elif self.servo is not None and self.continuous:
            orders.servo_share[self.servo] = share

    def aim(self, rad):
        if self.servo is not None:
            orders.servo_target[self.servo] = between(rad, self.low, self.high)

    def settled(self):
        """A servo stands where it was told to, and hardly moves."""
        i = self.servo
        if i is None:
            return True
        rate = senses.servo_rate[i]
        if self.continuous:
            return orders.servo_share[i] == 0 and rate == 0
        target = orders.servo_target[i]
        angle = senses.servo_angle[i]
        held = senses.servo_held[i]
        # Told to close further than what it grips lets it.
        presses = held is not None and target < held and angle <= held + 1e-6
        return (abs(target - angle) < SERVO_NEAR or presses) and abs(rate) < SERVO_SLOW

    def eye_age(self):
        """Ticks since the oldest newest look of its eyes; None without eyes."""
        if not self.ages:
            return None
        return max([senses.values[i] for i in self.ages])

    def found(self, nearest, clearest):
        readings[self.scan] = nearest + self.aim_offset
        readings[self.scan + 1] = clearest + self.aim_offset


class StallWatch:
    """Notices a part that is pushed and does not move."""

    def __init__(self):
        self.sec = 0.0

    def tick(self, duty, rate):
        stuck = abs(duty) > STALL_DUTY and abs(rate) < STALL_RATE
        self.sec = self.sec + TICK if stuck else 0.0
        return self.sec >= STALL_SEC - ALMOST


class TurnPart:
    """Along a way, rad, or on and on for None; then it holds."""

    def __init__(self, part, way, sign, rate, duty):
        self.part = part
        self.way = way
        self.start = part.angle()
        self.sign = sign if way is None else -1 if way < 0 else 1
        self.duty = duty
        rate = max(0.02, rate)
        self.profile = Profile(ENDLESS if way is None else abs(way), rate, max(4, rate * 5), 0, 0)
        self.expected = None if way is None else self.profile.expected() + 0.2
        self.arrived = False
        self.stalled = False
        self.stall = StallWatch()
        self.integral = 0.0
        self.settling = 0.0
        self.held = None

    def tick(self):
        part = self.part
        plan = self.profile
        sign = self.sign
        if self.held is None and sign * (self.start + sign * plan.distance - part.angle()) < LEAD:
            plan.advance()
        wanted = self.start + sign * plan.distance if self.held is None else self.held
        off = wanted - part.angle()
        rate = part.rate()
        if part.servo is not None:
            part.aim(wanted)
        else:
            planned = sign * plan.speed if self.held is None and not plan.done() else 0
            self.integral = clamp(self.integral + GAIN_INTEGRAL * off * TICK, MOST_INTEGRAL)
            duty = clamp(planned / part.top_rate + GAIN * off + self.integral, self.duty)
            part.power("drive", duty)
            if self.held is None and self.stall.tick(duty, rate):
                self.stalled = True
                self.integral = 0.0
                self.held = part.angle()
        if self.way is None or self.arrived or not plan.done():
            return
        self.settling += TICK
        there = part.settled() if part.servo is not None else abs(off) < NEAR and abs(rate) < SLOW
        self.arrived = there or self.settling >= SETTLE - ALMOST


class HomePart:
    """Turns gently until the end stop is felt, and makes that angle zero."""

    expected = 6
    stalled = False

    def __init__(self, part, sign, duty):
        self.part = part
        self.sign = sign
        self.duty = duty
        self.arrived = False
        self.stall = StallWatch()

    def tick(self):
        if self.arrived:
            return self.part.power("brake", 0)
        self.part.power("drive", self.sign * self.duty)
        if self.stall.tick(self.duty, self.part.rate()):
            self.part.zero()
            self.arrived = True


motors = [None if robot.DRIVES[i] else FeltMotor(i) for i in range(robot.MOTORS)]
parts = [Part(*sheet) for sheet in robot.PARTS]
# What each mover is doing.
moving = {}


def move_part(part, motion):
    moving[part.mover] = motion


def motor_power(part, mode, duty):
    """Power of a part by a step: what moved it before lets go."""
    moving.pop(part.mover, None)
    if robot.ON_OFF:
        duty = 1 if duty >= 0.5 else -1 if duty <= -0.5 else 0
    part.power(mode, duty)


def parts_follow():
    for motor in motors:
        if motor and run.tick > 0:
            motor.follow()
    for part in parts:
        part.follow()


def parts_tick():
    for motion in list(moving.values()):
        motion.tick()


def parts_stop():
    """The mission is over: what turned stops."""
    moving.clear()
    for i in range(robot.SERVOS):
        orders.servo_share[i] = 0.0
    for motor in motors:
        if motor:
            orders.motor_mode[motor.i] = "brake"
            orders.motor_duty[motor.i] = 0.0
