# Motions of the drive: each is ticked until it has arrived. One is in progress at a time.
from math import atan, pi, sqrt

import robot
from drive import drive
from state import ALMOST, ENDLESS, HEADING, TICK, approach, between, clamp, readings, wrap

NEAR = 0.0007
SLOW = 0.012
NEAR_RAD = 0.0012
SLOW_RAD = 0.04
SETTLE = 0.5
# A plan waits for a robot further behind than this.
LEAD = 0.025
LEAD_RAD = 0.3


class Options:
    """Speed and ramp of a motion, and the largest share of the pack's voltage."""

    def __init__(self, cruise, ramp, duty, keep):
        self.cruise = cruise
        self.ramp = ramp
        self.duty = duty
        self.keep = keep


def share(duty):
    return 1 if duty == 1 else between(abs(duty), 0.02, 1)


def straightly(at, ramp=None, duty=1, keep=False):
    cruise = robot.CRUISE if at is None else at
    return Options(max(0.005, cruise), max(0.01, robot.RAMP if ramp is None else ramp), share(duty), keep)


def turning(at, ramp=None, duty=1, keep=False):
    rate = robot.TURN_RATE if at is None else at
    return Options(max(pi / 180, rate), max(0.01, robot.TURN_RAMP if ramp is None else ramp), share(duty), keep)


def sliding(at, ramp=None, duty=1, keep=False):
    cruise = robot.CRUISE_ASIDE if at is None else at
    return Options(max(0.005, cruise), max(0.01, robot.RAMP if ramp is None else ramp), share(duty), keep)


class Profile:
    """A distance profile: speeds up at a ramp, cruises, slows at the same ramp to its end speed."""

    def __init__(self, length, cruise, ramp, speed, end_speed):
        self.length = length
        self.cruise = cruise
        self.ramp = ramp
        self.speed = speed
        self.end_speed = end_speed
        self.distance = 0.0
        self.acceleration = 0.0
        # What rounding lost of the distance (Kahan 1965).
        self.lost = 0.0

    def done(self):
        return self.distance >= self.length

    def advance(self):
        left = self.length - self.distance
        before = self.speed
        if left <= 0:
            self.speed = self.end_speed
            self.acceleration = 0.0
            return
        # Highest speed for this tick from which the ramp can still reach the end speed within `left`.
        step = self.ramp * TICK
        if left == ENDLESS:
            braking = ENDLESS
        else:
            braking = -step / 2 + sqrt(step * step / 4 + 2 * self.ramp * left + self.end_speed * self.end_speed)
        wanted = min(self.cruise, max(self.end_speed, braking))
        self.speed = max(before - 2 * step, min(before + step, wanted))
        move = self.speed * TICK
        # The last creep of an exponential approach is taken in one step.
        if move >= left or left < 1e-5:
            self.distance = self.length
        else:
            more = move - self.lost
            total = self.distance + more
            self.lost = (total - self.distance) - more
            self.distance = total
        self.acceleration = (self.speed - before) / TICK

    def expected(self):
        reach = self.cruise * self.cruise / self.ramp
        if self.length >= reach:
            return self.length / self.cruise + self.cruise / self.ramp
        return 2 * sqrt(self.length / self.ramp)


class Motion:
    """What all motions have."""

    expected = ENDLESS
    timed = False
    how = None
    wall_ended = False
    kept = None

    def progress(self):
        """How far it is along its way: m, rad, or the share of a timed one; None for those without an end of their own."""
        return None

    def tick(self):
        return False


class Moving:
    """The motion in progress."""

    def __init__(self):
        self.motion = None
        self.arrived = False

    def set(self, motion):
        self.motion = motion
        self.arrived = False


moving = Moving()


class Along(Motion):
    """A motion that follows a profile to its end and settles there."""

    def __init__(self, length, rolling, options, sign):
        self.sign = sign
        self.options = options
        end = options.cruise if options.keep else 0
        self.profile = Profile(length, options.cruise, options.ramp, max(0, rolling), end)
        self.expected = ENDLESS if length == ENDLESS else self.profile.expected()
        self.settling = 0.0

    def progress(self):
        return max(0, self.measure())

    def planned(self, lead):
        """Steps a plan that waits for a robot too far behind. Returns how far the robot is behind it."""
        measured = self.measure()
        if self.profile.distance - measured < lead:
            self.profile.advance()
        return self.profile.distance - measured

    def settled(self, there):
        if not self.profile.done():
            return False
        if self.options.keep:
            return True
        self.settling += TICK
        return there or self.settling >= SETTLE - ALMOST


def slow():
    return abs(drive.speed) < SLOW and abs(drive.aside_speed) < SLOW


class Straight(Along):
    def __init__(self, length, sign, options, kept):
        Along.__init__(self, length, drive.wanted * sign, options, sign)
        self.start = drive.travel
        self.kept = drive.heading if kept is None else kept

    def measure(self):
        return (drive.travel - self.start) * self.sign

    def tick(self):
        behind = self.planned(LEAD)
        plan = self.profile
        sign = self.sign
        # Without encoders nothing tells how far behind it is.
        back = sign * behind if robot.ENCODERS else 0
        off = self.kept - drive.heading
        drive.follow(sign * plan.speed, sign * plan.acceleration, 0, 0, back, off, self.options.duty)
        return self.settled(abs(behind) < NEAR and slow())


class Slide(Along):
    def __init__(self, length, sign, options, kept):
        Along.__init__(self, length, drive.wanted_aside * sign, options, sign)
        self.start = drive.aside
        self.ahead = drive.travel
        self.kept = drive.heading if kept is None else kept

    def measure(self):
        return (drive.aside - self.start) * self.sign

    def tick(self):
        behind = self.planned(LEAD)
        plan = self.profile
        sign = self.sign
        off = self.kept - drive.heading
        ahead = drive.travel - self.ahead
        drive.slide(sign * plan.speed, sign * plan.acceleration, sign * behind, ahead, off, self.options.duty)
        return self.settled(abs(behind) < NEAR and abs(off) < NEAR_RAD and slow())


class Turn(Along):
    """On the spot, or swinging about one wheel: `arm` is how far the middle moves per radian."""

    def __init__(self, angle, sign, arm, options):
        # A turn that stops aims short of its angle by what was found to come on top.
        short = 0 if angle == ENDLESS or options.keep else min(angle / 2, robot.TURN_PAST)
        Along.__init__(self, angle - short, drive.wanted_rate * sign, options, sign)
        self.arm = arm
        self.start = drive.travel
        self.from_heading = drive.heading

    def measure(self):
        return (drive.heading - self.from_heading) * self.sign

    def tick(self):
        off = self.planned(LEAD_RAD)
        plan = self.profile
        sign = self.sign
        arm = self.arm
        behind = arm * sign * plan.distance - (drive.travel - self.start) if robot.ENCODERS else 0
        rate = sign * plan.speed
        change = sign * plan.acceleration
        drive.follow(arm * rate, arm * change, rate, change, behind, sign * off, self.options.duty)
        return self.settled(abs(off) < NEAR_RAD and abs(drive.turn_rate) < SLOW_RAD)


class Arc(Along):
    """A circle of the robot's middle."""

    def __init__(self, length, sign, per_metre, options):
        Along.__init__(self, length, drive.wanted * sign, options, sign)
        self.start = drive.travel
        self.from_heading = drive.heading
        self.per_metre = per_metre

    def measure(self):
        return (drive.travel - self.start) * self.sign

    def tick(self):
        behind = self.planned(LEAD)
        plan = self.profile
        sign = self.sign
        per = self.per_metre
        off = self.from_heading + per * plan.distance - drive.heading
        drive.follow(
            sign * plan.speed, sign * plan.acceleration, per * plan.speed, per * plan.acceleration,
            sign * behind, off, self.options.duty,
        )
        length = 0 if plan.length == ENDLESS else plan.length
        last = self.from_heading + per * length - drive.heading
        return self.settled(abs(behind) < NEAR and abs(last) < NEAR_RAD and slow())


class Roll(Motion):
    """Keeps a body speed and turn rate, ramping to them."""

    def __init__(self, speed, rate, aside, ramp):
        self.to_speed = speed
        self.to_rate = rate
        self.to_aside = aside
        self.ramp = ramp
        self.speed = drive.wanted
        self.rate = drive.wanted_rate
        self.planned = drive.heading

    def tick(self):
        speed = self.speed
        rate = self.rate
        self.speed = approach(speed, self.to_speed, self.ramp * TICK)
        self.rate = approach(rate, self.to_rate, robot.TURN_RAMP * TICK)
        planned = self.planned + self.rate * TICK
        # The planned heading waits for a robot that cannot follow.
        if abs(planned - drive.heading) < LEAD_RAD:
            self.planned = planned
        off = self.planned - drive.heading
        change = (self.speed - speed) / TICK
        drive.follow(self.speed, change, self.rate, (self.rate - rate) / TICK, 0, off, 1, self.to_aside)
        return False


class Wheels(Motion):
    """Each side at its own speed, without heading hold."""

    def __init__(self, left, right, ramp):
        half = drive.wanted_rate * robot.TRACK_WIDTH / 2
        self.left = drive.wanted - half
        self.right = drive.wanted + half
        self.to_left = left
        self.to_right = right
        self.ramp = ramp

    def tick(self):
        self.left = approach(self.left, self.to_left, self.ramp * TICK)
        self.right = approach(self.right, self.to_right, self.ramp * TICK)
        drive.sides(self.left, self.right, 0, 0, 1)
        drive.wanted = (self.left + self.right) / 2
        drive.wanted_rate = (self.right - self.left) / robot.TRACK_WIDTH
        return False


class Power(Motion):
    def __init__(self, left, right):
        self.left = left
        self.right = right

    def tick(self):
        drive.power(self.left, self.right)
        return False


class Halt(Motion):
    """Slows down along the way it was going, then brakes until it stands."""

    expected = 0.5

    def __init__(self):
        self.speed = drive.wanted
        self.rate = drive.wanted_rate
        # Speed and rate reach zero together, so that a curve stays a curve.
        seconds = max(abs(self.speed) / (robot.RAMP * 1.5), abs(self.rate) / (robot.TURN_RAMP * 1.5), 0.01)
        self.falling = abs(self.speed) / seconds
        self.falling_rate = abs(self.rate) / seconds
        self.braking = 0.0

    def tick(self):
        if self.speed != 0 or self.rate != 0 or drive.wanted_aside != 0:
            speed = self.speed
            rate = self.rate
            self.speed = approach(speed, 0, self.falling * TICK)
            self.rate = approach(rate, 0, self.falling_rate * TICK)
            drive.follow(self.speed, (self.speed - speed) / TICK, self.rate, (self.rate - rate) / TICK, 0, 0, 1)
            return False
        drive.release("brake")
        self.braking += TICK
        return drive.stands() or self.braking >= 0.4 - ALMOST


class Press(Motion):
    """Drives gently until both sides stand still against something."""

    def __init__(self, sign, duty):
        self.sign = sign
        self.duty = duty
        self.speed = 0.0
        self.still = 0.0

    def tick(self):
        self.speed = approach(self.speed, 0.08, 0.3 * TICK)
        speed = self.sign * self.speed
        drive.sides(speed, speed, 0, 0, self.duty)
        drive.wanted = speed
        drive.wanted_rate = 0.0
        still = abs(drive.left.speed) < 0.006 and abs(drive.right.speed) < 0.006
        self.still = self.still + TICK if still and self.speed >= 0.08 else 0.0
        if self.still < 0.2 - ALMOST:
            return False
        drive.release("brake")
        return True


class Timed(Motion):
    """For robots without encoders: a duty for a time worked out from what was found."""

    timed = True

    def __init__(self, left, right, speed, curvature):
        self.elapsed = 0.0
        self.steer = 0.0
        spin = left == -right and left != 0 and not robot.STEERS
        # A turn that names no rate of its own is driven as turns were tried: the same volts, however full the pack.
        if robot.TIMED_TURN_VOLTS and spin and abs(speed - robot.TURN_RATE * robot.TRACK_WIDTH / 2) < 1e-6:
            duty = min(1, robot.TIMED_TURN_VOLTS / max(0.5, drive.volts - robot.DROP_VOLTS))
            self.left = duty if left > 0 else -duty
            self.right = -self.left
            rate = robot.TIMED_TURN_RATE
            self.expected = robot.TIMED_TURN_DEAD + 2 * abs(left) / robot.TRACK_WIDTH / rate
            return
        if robot.STEERS:
            self.steer = atan(robot.WHEELBASE * curvature)
        far = max(abs(left), abs(right))
        # Slip across is met by the whole grip, on any curve.
        scrub = 0
        if robot.SCRUB and abs(right - left) >= 1e-6:
            scrub = robot.SCRUB * robot.VOLTS_PER_NEWTON[0] / robot.DRIVER_SHARE
        volts = max(0.2, drive.volts - scrub - robot.DEAD_VOLTS)
        speed = min(speed, robot.SPEED_PER_VOLT * volts)
        turns = 1 if right > left else -1 if right < left else 0
        self.left = clamp(timed_side(left, far, speed, -turns * scrub), 1)
        self.right = clamp(timed_side(right, far, speed, turns * scrub), 1)
        self.expected = max(0, robot.DEAD_TIME + far / speed)

    def progress(self):
        return min(1, self.elapsed / self.expected)

    def tick(self):
        self.elapsed += TICK
        if self.elapsed < self.expected - ALMOST:
            drive.steer = self.steer
            drive.power(self.left, self.right)
            return False
        drive.release("brake")
        return True


def timed_side(travel, far, speed, scrub):
    dead = robot.DEAD_VOLTS if travel > 0 else -robot.DEAD_VOLTS if travel < 0 else 0
    return (speed * travel / far / robot.SPEED_PER_VOLT + dead + scrub) / drive.volts if far > 0 else 0


# What a driving step was asked for: `begin(done, kept)` makes its motion anew, with what is done and the heading to keep.


class Anew:
    """An order that begins from the start each time."""

    def __init__(self, make):
        self.make = make

    def begin(self):
        return self.make()

    def again(self, done, kept):
        return self.make()


class Resumed:
    """An order whose way adds up over its interruptions."""

    def __init__(self, make):
        self.make = make
        self.before = 0.0

    def begin(self):
        return self.make(0, None)

    def again(self, done, kept):
        self.before += done
        return self.make(self.before, kept)


class ByTime:
    """By time: what is left is a share of the plan."""

    def __init__(self, left, right, speed, curvature=0):
        self.plan = (left, right, speed, curvature)
        self.left = 1.0

    def begin(self):
        left, right, speed, curvature = self.plan
        return Timed(left * self.left, right * self.left, speed, curvature)

    def again(self, done, kept):
        self.left *= 1 - done
        return self.begin()


def straight(length, back, options):
    length = -length if back else length
    if not robot.ENCODERS:
        return ByTime(length, length, options.cruise)
    sign = -1 if length < 0 else 1
    return Resumed(lambda done, kept: Straight(max(0, abs(length) - done), sign, options, kept))


def straightOn(back, options):
    return Resumed(lambda done, kept: Straight(ENDLESS, -1 if back else 1, options, kept))


def slide(length, side, options):
    sign = -1 if side * length < 0 else 1
    return Resumed(lambda done, kept: Slide(max(0, abs(length) - done), sign, options, kept))


def slideOn(side, options):
    return Resumed(lambda done, kept: Slide(ENDLESS, side, options, kept))


def arm_of(about):
    return 0 if about == "middle" else (1 if about == "left" else -1) * robot.TRACK_WIDTH / 2


def turn(angle, about, gyro, options):
    half = robot.TRACK_WIDTH / 2
    arm = arm_of(about)
    if not gyro and not robot.ENCODERS:
        return ByTime(angle * (arm - half), angle * (arm + half), options.cruise * (half + abs(arm)))
    sign = -1 if angle < 0 else 1
    return Resumed(lambda done, kept: Turn(max(0, abs(angle) - done), sign, arm, options))


def turnOn(side, about, options):
    return Resumed(lambda done, kept: Turn(ENDLESS, side, arm_of(about), options))


def face(heading, gyro, options):
    # `reset robot` moves what headings are counted from; the reading tells it.
    return Anew(lambda: turn(wrap(heading - readings[HEADING]), "middle", gyro, options).begin())


def arc_cruise(options, radius):
    # The outer wheel must be able to follow.
    cruise = min(options.cruise, 0.92 * robot.TOP_SPEED / (1 + robot.TRACK_WIDTH / (2 * radius)))
    return Options(cruise, options.ramp, options.duty, options.keep)


def arc(angle, radius, back, options):
    radius = max(0.001, radius)
    options = arc_cruise(options, radius)
    centre = -1 if angle < 0 else 1
    sign = -1 if back else 1
    if not robot.ENCODERS:
        far = abs(angle) * sign
        half = centre * robot.TRACK_WIDTH / 2
        speed = options.cruise * (1 + robot.TRACK_WIDTH / (2 * radius))
        return ByTime(far * (radius - half), far * (radius + half), speed, centre / radius)
    # An arc's way is measured along the curve.
    return Resumed(
        lambda done, kept: Arc(max(0, abs(angle) - done / radius) * radius, sign, sign * centre / radius, options)
    )


def arcOn(side, radius, back, options):
    radius = max(0.001, radius)
    options = arc_cruise(options, radius)
    sign = -1 if back else 1
    return Resumed(lambda done, kept: Arc(ENDLESS, sign, sign * side / radius, options))


def roll(speed, rate, ramp, aside=0):
    return Anew(lambda: Roll(speed, rate, aside, robot.RAMP if ramp is None else ramp))


def wheels(left, right, ramp):
    return Anew(lambda: Wheels(left, right, robot.RAMP * 2 if ramp is None else ramp))


def powers(left, right):
    return Anew(lambda: Power(left, right))


def press(back, duty):
    limit = robot.PRESS_DUTY if duty is None else between(abs(duty), 0.02, 1)
    return Anew(lambda: Press(-1 if back else 1, limit))
