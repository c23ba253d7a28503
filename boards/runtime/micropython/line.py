# Following a line by floor light.
#
# A spot ahead of the axle by x that is off by y across the line is brought back by turning at rate w, which moves it by
# x w: with w = k y / x the error dies with time constant 1 / k, whatever the speed. What a curve needs beyond that is
# taken up over the way. A line that is gone is looked for: straight on until the axle stands where it ended, then turning
# to the side where it went, then to the other, then straight on for as long as a gap may be.
from math import atan, pi, sqrt

import robot
from drive import drive
from motions import Anew, Motion
from state import ENDLESS, TICK, approach, between, clamp, readings

GAIN_PER_SEC = 11
GAIN_CURVE = 4
GAIN_DAMP = 0.025
LEAST_RADIUS = 0.1
SLOW_MOST = 0.07
SLOW_SHARE = 0.45
GATHER = 0.8
REACTS = 0.2
SEARCH_RAD = 138 * pi / 180
SWEEP_RAD = 50 * pi / 180
OFF_CROSSING = 40 * pi / 180
EDGE_SWEEP = 0.075
NEAR_WAY = 0.008
CALM_SPEED = 0.12
CALM_WAY = 0.1
COURSE_SAMPLES = 14
SAMPLE_WAY = 0.01
WOBBLE = 0.7
CROSS = 0.045
# Less of the line than this share of a spot is none of it; more than the other is nothing but line.
SEEN_LEAST = 0.25
SEEN_MOST = 0.85
SPINS = ("turning", "first", "second", "sweep", "back", "straighten")


class Line:
    """A line as the floor lights see it."""

    def __init__(self, slots, offsets, ahead, spot, dark, edge):
        self.slots = slots
        self.offsets = offsets
        self.ahead = ahead
        self.spot = spot
        self.dark = dark
        # 1: dark lies to the right of the edge, -1: to the left, 0: the centre is followed.
        self.edge = edge


class FollowLine(Motion):
    def __init__(self, line, gain, damp, bridge, crossing, options):
        self.line = line
        self.options = options
        self.gain = gain
        self.damp = damp
        self.bridge = bridge
        self.crossing = crossing
        edge = line.edge
        widest = max([abs(y) for y in line.offsets])
        two = len(line.offsets) == 2
        self.most_off = line.spot / 2 if edge else widest / 2 if two else widest
        self.wide = 0 if edge else atan(widest / max(0.02, abs(line.ahead)))
        self.blind = line.spot if edge else 0.02 if two else 0.004
        # White is about twice the middle value, a line half of it.
        self.light = min(1, 2 * line.dark)
        self.darkest = 0.3 * line.dark
        self.ahead = max(0.02, abs(line.ahead))
        self.calm = CALM_SPEED if edge else options.cruise
        self.slow = min(SLOW_MOST, options.cruise * SLOW_SHARE)
        # A search must not swing the spot over a line between two looks.
        self.most_rate = min(robot.TOP_TURN * 0.7, 0.25 / self.ahead)
        self.off = 0.0
        self.sees = "on"
        self.phase = "track"
        self.ended = False
        self.speed = drive.wanted
        self.rate = 0.0
        self.curve = 0.0
        self.headings = [0.0] * COURSE_SAMPLES
        self.heading_count = 0
        self.sampled = -ENDLESS
        self.bend = 0.0
        self.off_before = 0.0
        self.slope = 0.0
        self.way = 0.0
        self.heading = 0.0
        self.travel_before = drive.travel
        self.heading_before = drive.heading
        self.seen = 0.0
        self.seen_rad = 0.0
        self.side = -1 if edge == 1 else 1
        self.weight = 0.0
        self.weighed = 0.0
        self.near_off = 0.0
        self.dark_from = None
        self.dark_from_rad = 0.0
        self.dark_ended = -ENDLESS
        self.saw_dark = False
        self.turning = 1
        self.bridges_first = False
        self.searched = False
        self.sweep_at = 0.0
        self.ahead_rad = 0.0
        self.crossed_at = -ENDLESS
        self.found_at = -ENDLESS

    def tick(self):
        counts = robot.ENCODERS
        self.way += drive.travel - self.travel_before if counts else self.speed * TICK
        self.heading += drive.heading - self.heading_before if counts or robot.GYRO else self.rate * TICK
        self.travel_before = drive.travel
        self.heading_before = drive.heading
        self.look()
        before = self.speed
        if self.phase == "track":
            self.track()
        else:
            self.search()
        if self.how or self.ended:
            drive.release("brake")
            return True
        drive.follow(self.speed, (self.speed - before) / TICK, self.rate, 0, 0, 0, self.options.duty)
        return False

    def darkness(self, i):
        """Share of a spot that is line. Learns how light and how dark the floor is."""
        value = readings[self.line.slots[i]]
        self.light = max(self.light, value)
        self.darkest = min(self.darkest, value)
        return between((self.light - value) / max(0.05, self.light - self.darkest), 0, 1)

    def look(self):
        line = self.line
        if line.edge:
            share = self.darkness(0)
            self.off = line.edge * (share - 0.5) * line.spot
            self.sees = "light" if share < 0.2 else "dark" if share > 0.85 else "on"
            return
        weight = 0.0
        total = 0.0
        top = 0.0
        dark = 0
        count = len(line.slots)
        for i in range(count):
            share = self.darkness(i)
            weight += share
            total += share * line.offsets[i]
            top = max(top, share)
            if share > SEEN_MOST:
                dark += 1
        self.sees = "light" if top < SEEN_LEAST else "dark" if dark >= max(2, count * 0.7) else "on"
        self.off = total / 2 if count == 2 else total / weight if weight > 0.15 else 0.0

    def course(self):
        """Where the line was going: a straight line through the headings of the last centimetres, by least squares."""
        n = min(COURSE_SAMPLES, self.heading_count)
        if n < 2:
            self.seen_rad = self.heading
            self.bend = 0.0
            return
        total = 0.0
        moment = 0.0
        square = 0.0
        for i in range(n):
            heading = self.headings[(self.heading_count - 1 - i) % COURSE_SAMPLES]
            at = (n - 1) / 2 - i
            total += heading
            moment += at * heading
            square += at * at
        slope = 0.0 if n < COURSE_SAMPLES else moment / square
        # What is less than this is wobble.
        bend = max(0, abs(slope / SAMPLE_WAY) - WOBBLE)
        self.bend = clamp(bend if slope > 0 else -bend, 8)
        self.seen_rad = total / n + slope * (n - 1) / 2

    def remember(self):
        """Keeps where the line was seen, and on which side it went."""
        if self.sees != "light":
            self.seen = self.way
        if self.sees == "dark" and self.dark_from is None:
            self.dark_from = self.way
            self.dark_from_rad = self.heading
        elif self.sees != "dark" and self.dark_from is not None:
            self.dark_from = None
            self.dark_ended = self.way
        edge = self.line.edge
        if not edge:
            # The side on which more of it was seen over the last few centimetres.
            moved = max(0, self.way - self.weighed)
            self.weighed = self.way
            if self.sees == "light":
                return
            self.weight += moved * self.off - min(1, moved / 0.05) * self.weight
            self.side = 1 if self.weight > 0 else -1
            self.near_off += min(1, moved / NEAR_WAY) * (self.off - self.near_off)
            return
        # Beside an edge the line lies on its side, unless it was crossed just now.
        away = -1 if edge == 1 else 1
        straight = (self.heading - self.dark_from_rad) * edge < 0.1
        crossed = straight and self.way - self.dark_ended < self.ahead * 0.7
        self.side = -away if crossed else away

    def crossed(self):
        """At a line across, where one is asked for: ends, or drives on until the axle stands on it and turns."""
        if self.crossing == "straight" or self.sees != "dark":
            return False
        if self.way - self.crossed_at < CROSS * 1.5:
            return False
        if self.crossing == "stop":
            self.ended = True
            return True
        self.course()
        self.seen = self.way
        self.turning = 1 if self.crossing == "left" else -1
        self.phase = "crossing"
        return True

    def lose(self):
        self.searched = False
        # One spot sees so little to its sides that it looks about half-way too.
        self.sweep_at = min(EDGE_SWEEP, self.bridge) if self.line.edge else self.bridge
        self.course()
        self.turning = self.side
        self.saw_dark = False
        self.phase = "bridge" if self.bridges_first else "pass"

    def track(self):
        self.remember()
        if self.sees != "light" and self.way - self.sampled >= SAMPLE_WAY:
            self.sampled = self.way
            self.headings[self.heading_count % COURSE_SAMPLES] = self.heading
            self.heading_count += 1
        if self.crossed():
            return
        light = self.sees == "light"
        edge = self.line.edge
        if (self.way - self.seen if light else 0) > self.blind + self.line.spot:
            return self.lose()
        off = self.off
        blindly = light and not edge
        # Gone between two looks: to the side where it was, if it was going there.
        if blindly:
            off = 0.0
            if abs(self.near_off) > 0.45 * self.most_off:
                off = self.most_off if self.near_off > 0 else -self.most_off
        if self.sees == "dark":
            if not edge or (self.dark_from is not None and self.way - self.dark_from < CROSS * 0.6):
                off = 0.0
        share = min(1, abs(off) / self.most_off)
        gain = GAIN_PER_SEC * self.gain / self.ahead
        self.slope += TICK / (0.03 + TICK) * ((off - self.off_before) / TICK - self.slope)
        self.off_before = off
        v = self.speed
        if not blindly:
            more = GAIN_CURVE * gain * off * v * TICK / (v * v + 0.0025)
            self.curve = clamp(self.curve + more, 1 / LEAST_RADIUS)
        self.rate = clamp(gain * (off + self.damp * GAIN_DAMP * self.slope) + self.curve * v, self.most_rate)
        # In a curve no faster than it can turn, and slower while the line runs away.
        bent = sqrt(2 * (self.most_off + 0.004) / max(0.1, abs(self.curve))) / REACTS
        options = self.options
        calm = self.calm if self.way - self.found_at < CALM_WAY else options.cruise
        target = max(self.slow, min(options.cruise * (1 - 0.9 * share * share), bent, calm))
        ramp = min(options.ramp, GATHER) if target > v else options.ramp * 1.5
        self.speed = approach(v, target, ramp * TICK)

    def found(self):
        # Swinging back it first comes out of where it looked too far.
        turned = (self.heading - self.seen_rad) * self.turning
        if self.phase == "second" and turned < self.wide - SEARCH_RAD:
            return False
        if self.phase == "turning" and turned < OFF_CROSSING:
            return False
        edge = self.line.edge
        if not edge:
            return self.sees != "light"
        # Beside an edge: coming from the light it is the near one; from the other side the dark has to be crossed.
        toward = -1 if edge == 1 else 1
        if self.phase not in SPINS or self.turning == toward:
            return self.sees != "light"
        if self.sees == "dark":
            self.saw_dark = True
        return self.saw_dark and self.sees == "on"

    def search(self):
        phase = self.phase
        if phase != "crossing" and self.found():
            if phase == "turning":
                self.crossed_at = self.way
            self.bridges_first = phase not in ("first", "second", "return")
            if phase in SPINS or phase == "return":
                self.heading_count = 0
            self.phase = "track"
            self.seen = self.way
            self.found_at = self.way
            self.curve = self.bend if self.bridges_first else 0.0
            self.off_before = self.off
            self.slope = 0.0
            return self.track()
        far = SEARCH_RAD - self.wide
        gone = self.way - self.seen
        turned = self.heading - self.seen_rad
        swept = turned - self.ahead_rad
        if phase == "pass" or phase == "crossing":
            self.onward(self.slow * 1.3, gone, turned)
            if gone >= self.ahead:
                self.phase = "first" if phase == "pass" else "turning"
        elif phase == "turning" or phase == "first":
            self.spin(self.turning, turned)
            if turned * self.turning >= far:
                self.other("second")
        elif phase == "bridge":
            self.onward(self.options.cruise * 0.7, gone, turned)
            if gone >= self.sweep_at:
                self.sweeps()
        elif phase == "sweep" or phase == "back":
            self.spin(self.turning, swept)
            if swept * self.turning >= SWEEP_RAD:
                self.other("back" if phase == "sweep" else "straighten")
        elif phase == "straighten":
            self.spin(self.turning, swept)
            if swept * self.turning < -0.15:
                return
            if self.sweep_at < self.bridge:
                self.sweep_at = self.bridge
                self.phase = "bridge"
            elif self.searched:
                self.how = "lost"
            else:
                self.phase = "retreat"
        elif phase == "retreat":
            self.onward(-self.slow * 1.5, gone, turned)
            if gone <= self.ahead:
                self.phase = "first"
        elif phase == "second":
            self.spin(self.turning, turned)
            if turned * self.turning >= far:
                self.other("return")
        elif phase == "return":
            self.spin(-1 if turned > 0 else 1, turned)
            if abs(turned) < 0.15:
                self.searched = True
                if self.bridges_first:
                    self.how = "lost"
                else:
                    self.sweep_at = self.bridge
                    self.phase = "hook"
        elif phase == "hook":
            self.onward(self.slow * 1.5, gone, turned)
            if gone >= self.bridge:
                self.sweeps()

    def sweeps(self):
        """At the far end of a gap the line may have gone on a little to the side."""
        self.ahead_rad = self.heading - self.seen_rad
        self.turning = self.side
        self.saw_dark = False
        self.phase = "sweep"

    def other(self, phase):
        self.turning = -self.turning
        self.saw_dark = False
        self.phase = phase

    def onward(self, speed, gone, turned):
        """Along the way the line had, curve included."""
        # Beside an edge a gap is crossed leaning to the line, so that it is met and not passed.
        lean = 0.04 + 1.1 * max(0, gone - 0.03)
        off = -self.line.edge * lean + self.bend * gone - turned
        self.rate = clamp(6 * off, self.most_rate)
        slow = 0.3 if abs(off) > 0.15 else 1
        self.speed = approach(self.speed, speed * slow, self.options.ramp * TICK)

    def spin(self, side, turned):
        """Turns to a side: on the spot, or with a steered axle on its tightest circle, back when it swings back."""
        ramp = self.options.ramp * TICK
        if robot.STEERS:
            way = -1 if turned * side < -0.05 else 1
            self.speed = approach(self.speed, way * self.slow * 1.5, ramp)
            self.rate = side * abs(self.speed) / robot.LEAST_RADIUS
            return
        self.speed = approach(self.speed, 0, ramp * 1.5)
        self.rate = approach(self.rate, side * self.most_rate, 30 * TICK)


def followLine(line, gain, damp, bridge, crossing, options):
    gain = 1 if gain is None else between(gain, 0.05, 10)
    damp = 1 if damp is None else between(damp, 0, 20)
    bridge = 0.18 if bridge is None else between(bridge, 0, 2)
    return Anew(lambda: FollowLine(line, gain, damp, bridge, crossing, options))
