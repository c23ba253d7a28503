# The drive: measures itself by encoders and gyro, and turns wanted speeds into duties.
#
# Errors of way and heading correct the wanted speed and turn rate. Each shaft's speed is then made by what the robot knows
# of its motors (feed-forward), and by what its encoder tells (proportional and integral).
from math import atan, cos, sin, tan

import robot
from state import TICK, clamp, senses

GAIN_WAY = 9
GAIN_HEADING = 14
GAIN_SPEED = 0.9
GAIN_INTEGRAL = 8
# Errors larger than these are corrected as these.
MOST_BEHIND = 0.02
MOST_OFF = 0.35
SPEED_FILTER = 0.35
# Friction is made up for fully from this speed on.
FRICTION_FULL = 0.0015
# Difference of the sides from which tied wheels scrub fully.
SCRUB_FULL = 0.02
# Below this speed a steered axle stays where it is.
STEERS_FROM = 0.005
STALL_DUTY = 0.3
STALL_SPEED = 0.01
STALL_TICKS = 40


class Shaft:
    def __init__(self, i):
        self.travel = 0.0
        self.speed = 0.0
        self.integral = 0.0
        self.duty = 0.0
        self.counts = 0
        self.direction = robot.DIRECTION[i]
        self.per_count = robot.METRES_PER_COUNT[i]
        self.volts_per_speed = robot.VOLTS_PER_SPEED[i]
        self.volts_per_newton = robot.VOLTS_PER_NEWTON[i]
        self.friction = robot.FRICTION[i]


class Drive:
    def __init__(self):
        self.shafts = [Shaft(i) for i in range(robot.SHAFTS)]
        self.left = self.shafts[0]
        self.right = self.shafts[1]
        self.mode = "brake"
        self.heading = 0.0
        self.turn_rate = 0.0
        self.x = 0.0
        self.y = 0.0
        self.aside = 0.0
        self.travel = 0.0
        self.speed = 0.0
        self.aside_speed = 0.0
        self.volts = robot.NOMINAL_VOLTS
        self.wanted = 0.0
        self.wanted_aside = 0.0
        self.wanted_rate = 0.0
        self.steer = 0.0
        self.stalled = False
        self.stalled_ticks = 0

    def way(self):
        """Ways forward and to the left added up: a step drives one of them."""
        return self.travel + self.aside

    def stands(self):
        return abs(self.speed) < 0.005 and abs(self.aside_speed) < 0.005 and abs(self.turn_rate) < 0.05

    def sense(self, gyro_heading, gyro_rate):
        """Takes in this tick's readings: its way by arcs of circles, its heading by the gyro where there is one."""
        moved = []
        for i, shaft in enumerate(self.shafts):
            way = 0.0
            if shaft.per_count:
                counts = shaft.direction * senses.counts[i]
                way = (counts - shaft.counts) * shaft.per_count
                shaft.counts = counts
                shaft.travel = counts * shaft.per_count
                shaft.speed += SPEED_FILTER * (way / TICK - shaft.speed)
            moved.append(way)
        before = self.heading
        left = 0.0
        if robot.MIXES:
            forward = rims(robot.BACK_FORWARD, moved)
            left = rims(robot.BACK_LEFT, moved)
            turned = rims(robot.BACK_TURN, moved)
            speeds = [shaft.speed for shaft in self.shafts]
            travels = [shaft.travel for shaft in self.shafts]
            rate = rims(robot.BACK_TURN, speeds)
            self.speed = rims(robot.BACK_FORWARD, speeds)
            self.aside_speed = rims(robot.BACK_LEFT, speeds)
            self.travel = rims(robot.BACK_FORWARD, travels)
            self.aside = rims(robot.BACK_LEFT, travels)
        else:
            forward = (moved[0] + moved[1]) / 2
            self.speed = (self.left.speed + self.right.speed) / 2
            self.travel = (self.left.travel + self.right.travel) / 2
            if robot.STEERS:
                turned = forward * tan(self.steer) / robot.WHEELBASE
                rate = turned / TICK
            else:
                turned = (moved[1] - moved[0]) / robot.TRACK_WIDTH
                rate = (self.right.speed - self.left.speed) / robot.TRACK_WIDTH
        if robot.GYRO:
            self.heading = gyro_heading
            rate = gyro_rate
        else:
            self.heading += turned
        self.turn_rate = rate
        middle = (before + self.heading) / 2
        c = cos(middle)
        s = sin(middle)
        self.x += forward * c - left * s
        self.y += forward * s + left * c
        self.volts = max(0.5, senses.volts)
        self.watch_stall()

    def watch_stall(self):
        stuck = False
        if robot.ENCODERS and self.mode == "drive":
            hard = [abs(shaft.duty) > STALL_DUTY for shaft in self.shafts]
            stuck = any(hard) if robot.MIXES else all(hard)
            stuck = stuck and all([abs(shaft.speed) < STALL_SPEED for shaft in self.shafts])
        self.stalled_ticks = self.stalled_ticks + 1 if stuck else 0
        self.stalled = self.stalled_ticks >= STALL_TICKS

    def shaft_duty(self, shaft, speed, push, limit):
        volts = shaft.volts_per_speed * speed + shaft.volts_per_newton * (
            push + shaft.friction * clamp(speed / FRICTION_FULL, 1)
        )
        if shaft.per_count:
            off = speed - shaft.speed
            volts += shaft.volts_per_speed * GAIN_SPEED * off + shaft.integral
            # Adds up only while the motor can do what is asked.
            if abs(volts) < self.volts * limit:
                more = shaft.volts_per_speed * GAIN_INTEGRAL * off * TICK
                shaft.integral = clamp(shaft.integral + more, self.volts * 0.3)
        return clamp(volts / (self.volts * robot.DRIVER_SHARE), limit)

    def mixed(self, x, y, w, ax, ay, aw, limit):
        """Every rim at its part of the whole; where one would have to run faster than it can, all slow down alike."""
        self.mode = "drive"
        over = 1
        for i in range(robot.SHAFTS):
            over = max(over, abs(along(i, x, y, w)) / robot.RIM_SPEED[i])
        for i, shaft in enumerate(self.shafts):
            push = (
                robot.BACK_FORWARD[i] * robot.MASS * ax
                + robot.BACK_LEFT[i] * robot.MASS * ay
                + robot.BACK_TURN[i] * robot.INERTIA * aw
                + robot.SPINNING[i] * along(i, ax, ay, aw)
            )
            shaft.duty = self.shaft_duty(shaft, along(i, x, y, w) / over, push, limit)

    def sides(self, left, right, accel, accel_across, limit):
        """Drives each side at a speed."""
        if robot.MIXES:
            turn = (right - left) / robot.TRACK_WIDTH
            self.mixed((left + right) / 2, 0, turn, accel, 0, 2 * accel_across / robot.TRACK_WIDTH, limit)
            return
        # Tied wheels scrub sideways when they turn, with the whole grip.
        scrub = clamp((right - left) / SCRUB_FULL, 1) * robot.SCRUB if robot.SCRUB else 0
        ahead = robot.SIDE_MASS * accel
        across = robot.SIDE_TURN_MASS * accel_across + scrub
        self.mode = "drive"
        self.left.duty = self.shaft_duty(self.left, left, ahead - across, limit)
        self.right.duty = self.shaft_duty(self.right, right, ahead + across, limit)

    def follow(self, speed, accel, rate, rate_accel, behind, off, limit, aside=0):
        """Drives at a body speed and turn rate with their rates of change, corrected by way and heading."""
        self.wanted = speed
        self.wanted_rate = rate
        speed += GAIN_WAY * clamp(behind, MOST_BEHIND)
        rate += GAIN_HEADING * clamp(off, MOST_OFF)
        if robot.STEERS:
            # One motor for the speed, the axle for the turning: tan(angle) = wheelbase * rate / speed.
            self.mode = "drive"
            duty = self.shaft_duty(self.left, speed, robot.SIDE_MASS * accel, limit)
            self.left.duty = duty
            self.right.duty = duty
            if abs(speed) >= STEERS_FROM:
                self.steer = clamp(atan(robot.WHEELBASE * rate / speed), robot.MOST_STEER)
        elif robot.MIXES:
            before = self.wanted_aside
            self.wanted_aside = before + clamp(aside - before, robot.RAMP * TICK)
            change = (self.wanted_aside - before) / TICK
            self.mixed(speed, self.wanted_aside, rate, accel, change, rate_accel, limit)
        else:
            half = robot.TRACK_WIDTH / 2
            self.sides(speed - rate * half, speed + rate * half, accel, rate_accel * half, limit)

    def slide(self, speed, accel, behind, ahead, off, limit):
        """Slides to the left at a speed, heading held."""
        if not robot.MIXES:
            return
        self.wanted = 0.0
        self.wanted_rate = 0.0
        self.wanted_aside = speed
        forward = -GAIN_WAY * clamp(ahead, MOST_BEHIND)
        aside = speed + GAIN_WAY * clamp(behind, MOST_BEHIND)
        self.mixed(forward, aside, GAIN_HEADING * clamp(off, MOST_OFF), 0, accel, 0, limit)

    def roam(self, forward, left, rate):
        """Forward, left and left round at once, as a driver's sticks ask for it."""
        self.wanted = forward
        self.wanted_aside = left
        self.wanted_rate = rate
        self.mixed(forward, left, rate, 0, 0, 0, 1)

    def power(self, left, right):
        """A share of the pack's voltage on each side."""
        self.mode = "drive"
        self.left.duty = clamp(left, 1)
        self.right.duty = clamp(right, 1)
        if robot.MIXES:
            turning = (right - left) / robot.TRACK_WIDTH
            for i in range(2, robot.SHAFTS):
                asked = robot.ROW_FORWARD[i] * (left + right) / 2 + robot.ROW_TURN[i] * turning
                self.shafts[i].duty = clamp(asked / robot.ROW_FORWARD[0], 1)
        self.wanted = self.speed
        self.wanted_rate = self.turn_rate

    def release(self, mode):
        self.mode = mode
        for shaft in self.shafts:
            shaft.duty = 0.0
            shaft.integral = 0.0
        self.wanted = 0.0
        self.wanted_aside = 0.0
        self.wanted_rate = 0.0


def rims(share, values):
    """One speed or way of the whole from those of all rims."""
    total = 0.0
    for i in range(robot.SHAFTS):
        total += share[i] * values[i]
    return total


def along(i, x, y, w):
    return robot.ROW_FORWARD[i] * x + robot.ROW_LEFT[i] * y + robot.ROW_TURN[i] * w


drive = Drive()
