# Driving by hand: the driver's sticks have the wheels, buttons start and end what a mission binds to them.
import robot
from drive import drive
from motions import Motion, moving
from parts import TurnPart, move_part, parts
from state import NO_ROUTINE, TICK, approach, between, run, senses
from tasks import Step, branch, end_from_outside, free_drive, opened, over, take_drive, take_part

USUAL_CEILING = 0.7
USUAL_DEAD = 0.12
USUAL_CURVE = 1.8
USUAL_TURNING = 0.6
# A slider has to be moved this far before it moves anything.
DIAL_STEP = 0.004
PIVOT_BELOW = 0.2
REST = 0.1
ROUNDING = 1e-5
NOWHERE = 65535


class Remote:
    """What a driver's sticks, buttons and sliders do. Set by the mission."""

    sticks = None
    bindings = ()
    dials = ()
    # Greatest steering angle, or None for robots that steer by their sides.
    steer = None


class Sticks:
    def __init__(self):
        self.mode = "one"
        self.at = None
        self.turning = None
        self.dead = None
        self.curve = None
        self.ramp = None
        self.switching = None


def given(value, usual):
    return usual if value is None else value


def shaped(push, dead, curve):
    """A stick's push after dead zone and curve: 0 inside the dead zone, 1 at the end of the way."""
    size = min(1, abs(push))
    zone = between(dead, 0, 0.9)
    if not size > zone:
        return 0.0
    share = (size - zone) / (1 - zone)
    bent = min(1, share) if curve == 1 or share >= 1 else share ** max(0.1, curve)
    return -bent if push < 0 else bent


def switched(share, before, on):
    """On or off, with a step back so that a trembling thumb does not chatter."""
    sign = -1 if share < 0 else 1
    return sign if abs(share) >= on or (before == sign and abs(share) >= on * 0.8) else 0


def slewed(speed, wish, most):
    """Slowing down may be twice as quick as gaining speed: stopping must never wait."""
    if most <= 0:
        return wish
    slowing = speed * wish < 0 or abs(wish) < abs(speed)
    target = 0.0 if slowing and speed * wish < 0 else wish
    change = 2 * most if slowing else most
    # What is left after whole steps is rounding: it must not cost a tick.
    return target if abs(target - speed) <= change + ROUNDING else approach(speed, target, change)


class HandMotion(Motion):
    """Begins at the speeds the robot has."""

    def __init__(self):
        self.on_left = 0
        self.on_right = 0
        self.aside = 0.0
        self.wish_left = 0.0
        self.wish_right = 0.0
        self.wish_aside = 0.0
        self.ramp = 0.0
        self.switching = 0.0
        self.ceiling = 1.0
        if robot.MIXES:
            across = drive.turn_rate * robot.TRACK_WIDTH / 2
            self.left = drive.speed - across
            self.right = drive.speed + across
            self.aside = drive.aside_speed
        else:
            self.left = drive.left.speed
            self.right = drive.right.speed

    def tick(self):
        if self.switching > 0:
            self.on_left = switched(self.wish_left / self.ceiling, self.on_left, self.switching)
            self.on_right = switched(self.wish_right / self.ceiling, self.on_right, self.switching)
            if self.on_left == 0 and self.on_right == 0:
                drive.release("brake")
            else:
                drive.power(self.on_left, self.on_right)
            return False
        change = self.ramp * TICK
        self.left = slewed(self.left, self.wish_left, change)
        self.right = slewed(self.right, self.wish_right, change)
        if robot.MIXES:
            self.aside = slewed(self.aside, self.wish_aside, change)
        turn = (self.right - self.left) / robot.TRACK_WIDTH
        if self.left == 0 and self.right == 0 and self.aside == 0:
            drive.release("brake")
        elif robot.MIXES:
            drive.roam((self.left + self.right) / 2, self.aside, turn)
        else:
            drive.sides(self.left, self.right, 0, 0, 1)
            drive.wanted = (self.left + self.right) / 2
            drive.wanted_rate = turn
        return False


class Hand(Step):
    """Lasts until one of its endings; where nobody can drive at all, as in a rehearsal, it is skipped."""

    def __init__(self, t):
        Step.__init__(self, t)
        count = len(Remote.bindings)
        self.live = [None] * count
        self.on = [False] * count
        self.before = 0
        self.stood = [None] * len(Remote.dials)
        self.motion = None
        self.silent = False

    def tick(self, t):
        elapsed = t.clock() - self.start
        ended = None
        if not senses.driven:
            ended = "skipped"
        elif self.until and self.until(t, False):
            ended = "until"
        elif over(elapsed, self.for_time):
            ended = "for"
        elif over(elapsed, self.limit):
            ended = "limit"
        if ended:
            self.drop(t)
            return ended
        run.handed_over = True
        if not senses.heard:
            self.drop(t)
        # After a silence nothing moves before the sticks were let go once.
        self.silent = not senses.heard or (self.silent and not at_rest())
        run.hand_silent = self.silent
        if self.silent:
            return None
        self.press(t)
        self.turn_dials(t)
        # A routine that drives finds the wheels at rest, even if it waits first.
        if any([binding[7] & 1 and self.runs(i) for i, binding in enumerate(Remote.bindings)]):
            self.let_go(t)
        elif Remote.sticks:
            sticks = Sticks()
            Remote.sticks(t, sticks)
            self.steer(t, sticks)
        return None

    def steer(self, t, s):
        """What the sticks ask for, as shares of the ceiling."""
        if self.motion is None:
            take_drive(t, self.number)
            self.motion = HandMotion()
            moving.set(self.motion)
        ceiling = given(s.at, robot.TOP_SPEED * USUAL_CEILING)
        held = [b[2](t) for i, b in enumerate(Remote.bindings) if b[2] and self.on[i]]
        if held:
            ceiling = min(held)
        ceiling = between(ceiling, 0.01, robot.TOP_SPEED)
        push = [shaped(x, given(s.dead, USUAL_DEAD), given(s.curve, USUAL_CURVE)) for x in senses.sticks]
        turning = given(s.turning, USUAL_TURNING)
        turn = 0.0
        aside = 0.0
        if s.mode == "tank":
            left = push[0]
            right = push[2]
        else:
            turn = (push[1] if s.mode == "one" else push[3]) * turning
            if s.mode == "two":
                aside = push[1]
            mix = turn
            if s.mode == "curvature":
                # The curve of the way is set, not the rate. Nearly standing it turns on the spot.
                speed = abs(push[0])
                mix = turn * (speed + (1 - speed / PIVOT_BELOW if speed < PIVOT_BELOW else 0))
            left = push[0] - mix
            right = push[0] + mix
            top = max(1, abs(left), abs(right))
            left /= top
            right /= top
        motion = self.motion
        motion.ceiling = ceiling
        motion.ramp = 0.0 if s.ramp is None else max(0.01, s.ramp)
        motion.switching = 0.0 if s.switching is None else max(0.05, s.switching)
        if Remote.steer is None:
            motion.wish_left = left * ceiling
            motion.wish_right = right * ceiling
            motion.wish_aside = aside * min(ceiling, robot.TOP_ASIDE) if robot.MIXES else 0.0
            return
        speed = (left + right) / 2 * ceiling
        motion.wish_left = speed
        motion.wish_right = speed
        drive.steer = turn * Remote.steer

    def runs(self, i):
        return self.live[i] is not None and not self.live[i].ended

    def press(self, t):
        for i, (how, button, _, _, routine, ends, _, _) in enumerate(Remote.bindings):
            bit = 1 << button
            down = bool(senses.buttons & bit)
            if down == bool(self.before & bit):
                continue
            # A second press ends what the first began.
            on = self.runs(i) if routine else False if ends == "keeps" else self.on[i]
            if how == "hold":
                self.turn(t, i, down)
            elif down:
                self.turn(t, i, not on)
        self.before = senses.buttons

    def turn(self, t, i, on):
        how, _, ceiling, entry, routine, ends, ending, _ = Remote.bindings[i]
        self.on[i] = on
        if ceiling or entry == NOWHERE:
            return
        if on:
            self.begin(t, i, entry)
        elif ends == "keeps" and (routine or how == "hold"):
            return
        elif ends == "goesOn":
            self.begin(t, i, ending)
        else:
            self.end(i)

    def end(self, i):
        if self.live[i]:
            end_from_outside(self.live[i])
        self.live[i] = None

    def begin(self, t, i, entry):
        # What another button began with the same part gives way: the press that came last has it.
        for k, binding in enumerate(Remote.bindings):
            if k != i and binding[7] & Remote.bindings[i][7]:
                self.end(k)
                self.on[k] = False
        self.end(i)
        self.live[i] = branch(t, entry, NO_ROUTINE)

    def turn_dials(self, t):
        for i, (level, index, low, high) in enumerate(Remote.dials):
            share = senses.levels[level]
            # Where it stands at first moves nothing.
            if self.stood[i] is None:
                self.stood[i] = share
            if not abs(share - self.stood[i]) > DIAL_STEP:
                continue
            self.stood[i] = share
            start = low(t)
            target = start + (high(t) - start) * share
            part = parts[index]
            take_part(t, index, self.number, True)
            move_part(part, TurnPart(part, target - part.angle(), 1, part.top_rate, 1))

    def let_go(self, t):
        if self.motion:
            moving.set(None)
            drive.release("brake")
            free_drive(t)
        self.motion = None

    def pause(self, t):
        self.drop(t)

    def drop(self, t):
        for i in range(len(self.live)):
            self.end(i)
            self.on[i] = False
        self.before = 0
        self.let_go(t)


def at_rest():
    return senses.buttons == 0 and all([abs(push) < REST for push in senses.sticks])


def handsOver(t):
    opened(t, Hand(t))
