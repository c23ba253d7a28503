# Driving to a place and along a path by odometry: pure pursuit (Coulter 1992). The robot aims at a point of the path a
# little ahead; the circle through it that touches its heading has the curvature 2 y / d^2, where y is how far the point
# lies to the side and d how far away it is.
from math import atan2, cos, pi, sin, sqrt

import robot
from drive import drive
from motions import Motion, Options, Profile, Turn
from state import ALMOST, ENDLESS, HEADING, TICK, WHOLE_TURN, X, Y, between, clamp, readings, rounded, wrap

NEAR = 0.0015
SLOW = 0.012
SETTLE = 0.5
LEAD = 0.03
LOOK_LEAST = 0.06
LOOK_SEC = 0.35
PIVOT = 1.1
TURNS_FROM = 0.05


class Piece:
    """A stretch of a path: a line, or an arc where its curve is not 0."""

    def __init__(self, x, y, c, s, length, curve):
        self.x = x
        self.y = y
        self.c = c
        self.s = s
        self.length = length
        self.curve = curve

    def point(self, s):
        if self.curve == 0:
            return self.x + s * self.c, self.y + s * self.s
        turned = s * self.curve
        ahead = sin(turned) / self.curve
        aside = (1 - cos(turned)) / self.curve
        return self.x + ahead * self.c - aside * self.s, self.y + ahead * self.s + aside * self.c

    def nearest(self, x, y):
        """Length of its point nearest to a place, before it is held within the piece."""
        dx = x - self.x
        dy = y - self.y
        ahead = self.c * dx + self.s * dy
        if self.curve == 0:
            return ahead
        aside = self.c * dy - self.s * dx
        sign = 1 if self.curve > 0 else -1
        turned = atan2(ahead, sign * (1 / self.curve - aside))
        middle = self.length * abs(self.curve) / 2
        return (turned + WHOLE_TURN * rounded((middle - turned) / WHOLE_TURN)) / abs(self.curve)


class Way:
    def __init__(self):
        self.pieces = []
        self.length = 0.0

    def add(self, piece):
        if piece.length > 0:
            self.pieces.append(piece)
            self.length += piece.length

    def line(self, x, y, to_x, to_y):
        dx = to_x - x
        dy = to_y - y
        length = sqrt(dx * dx + dy * dy)
        if length > 0:
            self.add(Piece(x, y, dx / length, dy / length, length, 0))

    def steered(self, x, y, heading, to_x, to_y):
        """The shortest way of a steered axle: the tightest circle to the place's side, then straight. Returns its heading then."""
        radius = robot.LEAST_RADIUS * 1.05
        c = cos(heading)
        s = sin(heading)
        dx = to_x - x
        dy = to_y - y
        ahead = c * dx + s * dy
        aside = c * dy - s * dx
        side = 1 if aside >= 0 else -1
        across = aside - side * radius
        # A place inside that circle is reached round the other one.
        if ahead * ahead + across * across < radius * radius:
            side = -side
        my = aside - side * radius
        far = sqrt(ahead * ahead + my * my)
        straight = sqrt(max(0, far * far - radius * radius))
        turned = side * (atan2(my, ahead) + side * pi / 2 - side * atan2(straight, radius))
        while turned < -1e-5:
            turned += WHOLE_TURN
        while turned >= WHOLE_TURN - 1e-5:
            turned -= WHOLE_TURN
        self.add(Piece(x, y, c, s, turned * radius, side / radius))
        if self.pieces and turned > 0:
            x, y = self.pieces[-1].point(turned * radius)
        self.line(x, y, to_x, to_y)
        return heading + side * turned

    def point(self, s):
        """A point at a length; beyond the end on as the last piece went."""
        last = self.pieces[-1]
        for piece in self.pieces:
            if s <= piece.length or piece is last:
                return piece.point(s)
            s -= piece.length

    def nearest(self, x, y, start, reach):
        """Length of the point nearest to a place, not before `start` nor further on than `reach`."""
        low = 0.0
        best = ENDLESS
        found = start
        for piece in self.pieces:
            high = low + piece.length
            if high >= start and low <= start + reach:
                s = max(start, low + between(piece.nearest(x, y), 0, piece.length))
                if piece.curve != 0:
                    s = min(s, start + reach)
                px, py = self.point(s)
                d = (px - x) * (px - x) + (py - y) * (py - y)
                if d < best:
                    best = d
                    found = s
            low = high
        return found


class Pursuit(Motion):
    """Along a way by pure pursuit, to its end."""

    def __init__(self, way, back, look, options, keep):
        self.way = way
        self.sign = -1 if back else 1
        self.back = back
        self.look = look
        self.options = options
        self.keep = keep
        end = options.cruise if keep else 0
        rolling = max(0, drive.wanted * self.sign)
        self.profile = Profile(way.length, options.cruise, options.ramp, rolling, end)
        self.done = 0.0
        self.settling = 0.0

    def tick(self):
        way = self.way
        profile = self.profile
        sign = self.sign
        duty = self.options.duty
        self.done = way.nearest(drive.x, drive.y, self.done, 0.25)
        if profile.distance - self.done < LEAD:
            profile.advance()
        look = self.look if self.look > 0 else max(LOOK_LEAST, LOOK_SEC * profile.speed)
        tx, ty = way.point(self.done + look)
        heading = drive.heading + (pi if self.back else 0)
        c = cos(heading)
        s = sin(heading)
        dx = tx - drive.x
        dy = ty - drive.y
        ahead = c * dx + s * dy
        aside = c * dy - s * dx
        square = max(1e-6, dx * dx + dy * dy)
        behind = profile.distance - self.done
        bearing = atan2(aside, ahead)
        if not robot.STEERS and abs(bearing) > PIVOT:
            drive.follow(0, 0, clamp(4 * bearing, robot.TURN_RATE), 0, 0, 0, duty)
            return False
        curvature = 2 * aside / square
        # The outer wheel has to follow, and a sharp bend is taken slowly.
        bend = abs(curvature)
        fastest = min(0.92 * robot.TOP_SPEED / (1 + bend * robot.TRACK_WIDTH / 2), 0.9 / max(1, bend))
        speed = min(profile.speed, max(0.04, fastest))
        # Catching up with the plan would leave the circle: only near the end, where it has to stop in place.
        late = sign * behind if way.length - self.done < look else 0
        drive.follow(sign * speed, sign * profile.acceleration, curvature * speed, 0, late, 0, duty)
        if not profile.done():
            return False
        if self.keep:
            return True
        self.settling += TICK
        return (abs(behind) < NEAR and abs(drive.speed) < SLOW) or self.settling >= SETTLE - ALMOST


class Path(Motion):
    """Turns to the first place, drives along the way, turns to the heading at its end."""

    def __init__(self, order, passed):
        options = order.options
        self.options = options
        self.back = order.back
        self.look = order.look
        # From the frame of the begin place, which `reset robot` moves, to the drive's own.
        turned = drive.heading - readings[HEADING]
        c = cos(turned)
        s = sin(turned)
        self.facing = None if order.facing is None else order.facing + turned
        x = drive.x
        y = drive.y
        heading = travel = drive.heading + (pi if self.back else 0)
        self.way = Way()
        self.first = None
        for px, py in order.places[passed:]:
            dx = px - readings[X]
            dy = py - readings[Y]
            to_x = drive.x + c * dx - s * dy
            to_y = drive.y + s * dx + c * dy
            if self.first is None:
                self.first = (to_x, to_y)
            if robot.STEERS:
                heading = self.way.steered(x, y, heading, to_x, to_y)
            else:
                self.way.line(x, y, to_x, to_y)
            x = to_x
            y = to_y
        self.makers = []
        to_turn = 0.0
        if not robot.STEERS:
            dx = self.first[0] - drive.x
            dy = self.first[1] - drive.y
            aside = wrap(atan2(dy, dx) - travel)
            if abs(aside) > TURNS_FROM and dx * dx + dy * dy > 1e-4:
                to_turn += abs(aside)
                self.makers.append(self.face_first)
        if self.way.length > 1e-3:
            self.makers.append(self.pursue)
        if self.facing is not None and not robot.STEERS:
            to_turn += pi
            self.makers.append(self.face_end)
        self.motion = None
        whole = self.way.length / options.cruise + options.cruise / options.ramp
        self.expected = 1 + whole + to_turn / robot.TURN_RATE

    def face_first(self):
        x, y = self.first
        return self.turn_to(atan2(y - drive.y, x - drive.x) - (pi if self.back else 0))

    def pursue(self):
        keep = self.options.keep and self.facing is None
        return Pursuit(self.way, self.back, self.look, self.options, keep)

    def face_end(self):
        return self.turn_to(self.facing)

    def turn_to(self, wanted):
        angle = wrap(wanted - drive.heading)
        if abs(angle) < TURNS_FROM / 5:
            return None
        options = Options(robot.TURN_RATE, robot.TURN_RAMP, self.options.duty, False)
        return Turn(abs(angle), -1 if angle < 0 else 1, 0, options)

    def tick(self):
        while self.makers:
            if self.motion is None:
                self.motion = self.makers[0]()
            if self.motion is not None and not self.motion.tick():
                return False
            self.motion = None
            self.makers.pop(0)
        return True


class Places:
    """An order to go to places; after a pause on from where the robot is."""

    def __init__(self, places, facing, back, look, options):
        self.places = [place for place in places]
        self.facing = facing
        self.back = back
        self.look = max(0.01, look) if look > 0 else 0
        self.options = options

    def begin(self):
        return Path(self, 0)

    def again(self, done, kept):
        return Path(self, self.legs_behind())

    def legs_behind(self):
        """How many places lie behind: the robot goes on toward the end of the leg it is nearest to."""
        x = readings[X]
        y = readings[Y]
        best = ENDLESS
        passed = 0
        for i in range(1, len(self.places)):
            ax, ay = self.places[i - 1]
            bx, by = self.places[i]
            dx = bx - ax
            dy = by - ay
            square = dx * dx + dy * dy
            t = between(((x - ax) * dx + (y - ay) * dy) / square, 0, 1) if square > 0 else 0
            px = ax + t * dx - x
            py = ay + t * dy - y
            d = px * px + py * py
            if d < best:
                best = d
                passed = i
        return passed


def goPlaces(places, count, facing, back, look, options):
    return Places(places, facing, back, look, options)
