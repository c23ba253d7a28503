# Following a wall by a distance sensor to the side: keeps a distance, knows where the wall ends, and goes round its corners
# if it is asked to. How the distance changes is fed back as damping. A distance that leaps is not this wall any more: the
# robot keeps the heading it had along it until the wall is there again, or has ended.
from math import pi

import robot
from drive import drive
from motions import Anew, Motion
from state import NONE, TICK, approach, clamp, readings

PER_SEC = 2.4
DAMPING = 1.1
SMOOTH = 0.12
MOST_RAD = 0.6
LEAP_LEAST = 0.05
LEAP_SHARE = 0.3
ENDED_WAY = 0.03
ROUND_RAD = 200 * pi / 180
INNER_RAD = pi / 2


class Wall:
    """A wall as a distance sensor to the side sees it."""

    def __init__(self, slot, side, ahead, beside, nose, corners, ahead_slot, ahead_near):
        self.slot = slot
        # 1 left, -1 right.
        self.side = side
        self.ahead = ahead
        self.beside = beside
        self.nose = nose
        self.corners = corners
        # A reading that tells of something ahead, and the distance at which it counts; of a bumper, 0.
        self.ahead_slot = ahead_slot
        self.ahead_near = ahead_near


class FollowWall(Motion):
    def __init__(self, wall, away, options):
        self.wall = wall
        self.away = away
        self.options = options
        self.phase = "along"
        self.speed = drive.wanted
        self.before = None
        self.slope = 0.0
        self.rate = 0.0
        self.way = 0.0
        self.turned = 0.0
        self.travel_before = drive.travel
        self.heading_before = drive.heading
        self.heard_at = 0.0
        self.kept_rad = 0.0
        self.from_rad = 0.0
        self.from_way = 0.0

    def tick(self):
        was = self.speed
        counts = robot.ENCODERS
        self.way += drive.travel - self.travel_before if counts else self.speed * TICK
        self.turned += drive.heading - self.heading_before if counts or robot.GYRO else self.rate * TICK
        self.travel_before = drive.travel
        self.heading_before = drive.heading
        wall = self.hears()
        if self.phase in ("along", "gone"):
            self.along(wall)
        else:
            self.corner(wall)
        if self.how:
            drive.release("brake")
            return True
        drive.follow(self.speed, (self.speed - was) / TICK, self.rate, 0, 0, 0, self.options.duty)
        return False

    def distance(self):
        return readings[self.wall.slot]

    def seen(self):
        return readings[self.wall.slot + 1] != 0

    def blocked(self):
        wall = self.wall
        if wall.ahead_slot == NONE:
            return False
        if wall.ahead_near == 0:
            return readings[wall.ahead_slot] != 0
        return readings[wall.ahead_slot + 1] != 0 and readings[wall.ahead_slot] < wall.ahead_near

    def hears(self):
        """Whether what the sensor hears is the wall it follows: at first any will do, later only one where it was."""
        if not self.seen():
            return False
        expected = self.distance() if self.before is None else self.before
        return self.distance() - expected < max(LEAP_LEAST, LEAP_SHARE * expected)

    def along(self, wall):
        options = self.options
        self.speed = approach(self.speed, options.cruise, options.ramp * TICK)
        corners = self.wall.corners
        if corners != "go_on" and self.blocked():
            return self.meets()
        if wall:
            self.phase = "along"
            self.wall_ended = False
            self.heard_at = self.way
            self.steer(self.distance())
            # The heading along the wall: what is left once it does not come nearer or go farther.
            heading = self.turned - self.wall.side * self.slope / max(0.05, abs(self.speed))
            self.kept_rad += TICK / (0.3 + TICK) * (heading - self.kept_rad)
            return
        if self.before is None:
            self.kept_rad = self.turned
        self.phase = "gone"
        self.slope = 0.0
        self.rate = clamp(4 * (self.kept_rad - self.turned), 1)
        if self.before is None or self.way - self.heard_at < ENDED_WAY:
            return
        self.wall_ended = True
        if corners == "stop":
            self.how = "ended"
        if corners != "turn":
            return
        # The axle comes abreast of the end, then round it at the same distance.
        if self.way - self.heard_at < self.wall.ahead:
            return
        self.phase = "round"
        self.from_rad = self.turned

    def meets(self):
        """Something stands ahead: an inner corner."""
        if self.wall.corners == "stop":
            self.how = "ended"
            self.wall_ended = True
            return
        self.from_rad = self.kept_rad
        self.from_way = self.way
        self.phase = "backing" if robot.STEERS else "inner"

    def corner(self, wall):
        sign = self.wall.side
        turned = (self.turned - self.from_rad) * sign
        slow = min(self.options.cruise, 0.15)
        ramp = self.options.ramp * TICK
        beside = abs(self.wall.beside)
        if self.phase == "round":
            radius = max(robot.LEAST_RADIUS if robot.STEERS else 0.02, self.away + beside)
            self.speed = approach(self.speed, slow, ramp)
            self.rate = sign * abs(self.speed) / radius
            if turned > 0.5 and self.seen() and self.distance() < self.away * 1.35 + LEAP_LEAST:
                return self.again()
            if turned > ROUND_RAD:
                self.how = "ended"
            return
        if robot.STEERS:
            radius = robot.LEAST_RADIUS * 1.05
            if self.phase == "backing":
                # A steered axle needs room for its circle: straight back until the wall ahead lies far enough away.
                self.speed = approach(self.speed, -0.12, ramp)
                self.rate = clamp(3 * (self.kept_rad - self.turned), 0.4)
                if self.from_way - self.way >= max(0.03, self.away + beside + radius - self.wall.nose):
                    self.phase = "inner"
                return
            self.speed = approach(self.speed, slow, ramp)
            self.rate = -sign * self.speed / radius if self.speed > 0 else 0.0
        else:
            self.speed = approach(self.speed, 0, ramp * 1.5)
            self.rate = -sign * min(robot.TURN_RATE, 1.5)
        if -turned >= INNER_RAD and (wall or -turned >= INNER_RAD * 1.2):
            self.again()

    def again(self):
        self.phase = "along"
        self.before = None
        self.slope = 0.0
        self.heard_at = self.way
        self.kept_rad = self.turned
        self.wall_ended = False

    def steer(self, distance):
        """Left wall: too far means turn left, which is positive."""
        speed = max(0.05, abs(self.speed))
        moved = 0.0 if self.before is None else (distance - self.before) / TICK
        self.before = distance
        self.slope += TICK / (SMOOTH + TICK) * (moved - self.slope)
        off = clamp(distance - self.away, MOST_RAD * 2 * DAMPING * speed / PER_SEC)
        rate = (PER_SEC * PER_SEC * off + 2 * DAMPING * PER_SEC * self.slope) / speed
        self.rate = clamp(self.wall.side * rate, 1.5)


def followWall(wall, away, options):
    return Anew(lambda: FollowWall(wall, away, options))
