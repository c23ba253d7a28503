# Runs the tasks of a mission: one after another in the order they started, each until it has to wait. Keeps who has the
# wheels and the parts, carries signals, and notices tasks that can only wait for each other.
from drive import drive
from motions import Halt, moving, roll
from parts import HomePart, TurnPart, motor_power, move_part, parts, parts_stop, parts_tick
from sense import give_orders, sense_all
from state import ALMOST, ENDLESS, NO_ROUTINE, NOBODY, TICK, between, orders, readings, rounded, run, stop

# A tick runs at most this many instructions: more would be a loop that never gives up the tick.
MOST_OPS = 20000
# A body that ran this long between two firings got on; more firings than these without that stop the mission.
PROGRESS_TICKS = 10
MOST_FIRINGS = 20
BOUND_EXTRA = 2
BOUND_FACTOR = 3
BOUND_OPEN = 60

LIMITED = 0
LAST_STALLED = 1
LAST_TRAVEL = 2
LAST_TURNED = 3
LAST_TIME = 4
LAST_LOST = 5
LAST_ENDED = 6


class Task:
    def __init__(self, number, parent, at):
        self.id = number
        self.parent = parent
        self.at = at
        self.frames = []
        # Values of each routine while it runs in this task.
        self.values = {}
        self.given = 0.0
        self.counters = [-1] * tasks.program.counters
        self.last = [0.0] * 7
        self.signals = parent.signals if parent else 0
        self.step = None
        self.children = []
        self.guards = []
        self.everies = []
        # A motion it set and passed on.
        self.passing = None
        self.lost_ticks = 0
        self.pauses = 0
        self.paused_clock = 0
        self.skip = False
        self.quiet = 0
        self.steps_ended = 0
        self.ended = False
        self.opened = (0.0, 0.0, 0)

    def clock(self):
        """Its own clock, in ticks: stands still while it is interrupted."""
        return run.tick - self.lost_ticks


class Claim:
    """Who has the wheels, or a part."""

    def __init__(self, task, number, serial, passing):
        self.task = task
        self.number = number
        self.serial = serial
        self.passing = passing


class Tasks:
    def __init__(self):
        self.program = None
        self.order = []
        self.next_id = 0
        self.ops_left = 0
        self.claims = 0
        self.wheels = None
        self.parts = {}
        self.seen = set()


tasks = Tasks()


def is_below(t, above):
    at = t.parent
    while at:
        if at is above:
            return True
        at = at.parent
    return False


def may_take(claim, t):
    if not claim or claim.task is t or claim.task.ended or claim.task.pauses > 0:
        return True
    return is_below(t, claim.task) or is_below(claim.task, t)


def take_drive(t, number):
    """Claims the wheels; a clash stops the mission."""
    if not may_take(tasks.wheels, t):
        stop("clash", tasks.wheels.number, number)
    tasks.claims += 1
    if number == NOBODY and tasks.wheels:
        number = tasks.wheels.number
    tasks.wheels = Claim(t, number, tasks.claims, False)


def free_drive(t):
    if drives_with(t):
        tasks.wheels = None


def drives_with(t):
    return tasks.wheels is not None and tasks.wheels.task is t


def take_part(t, part, number, passing):
    claim = tasks.parts.get(part)
    if not may_take(claim, t):
        stop("clash", claim.number, number)
    tasks.claims += 1
    tasks.parts[part] = Claim(t, number, tasks.claims, passing)


def free_part(t, part):
    claim = tasks.parts.get(part)
    if claim and claim.task is t:
        del tasks.parts[part]


def halt():
    """Slows down and stands. Returns False when it stands already."""
    if drive.mode != "drive":
        moving.set(None)
        return False
    moving.set(Halt())
    return True


def pass_on(t, order, number):
    take_drive(t, number)
    t.passing = order
    moving.set(order.begin())


def add_task(parent, at):
    t = Task(tasks.next_id, parent, at)
    tasks.next_id += 1
    tasks.order.append(t)
    return t


def branch(parent, entry, routine):
    """A branch of `together`: shares the values of the routine it stands in."""
    t = add_task(parent, entry)
    if routine != NO_ROUTINE:
        t.values[routine] = parent.values[routine]
    return t


def values_of(size, given):
    return list(given) + [0.0] * (size - len(given))


def startRoutine(t, entry, routine, size, given):
    made = add_task(None, entry)
    made.values[routine] = values_of(size, given)
    made.frames.append((tasks.program.end_of_task, routine, 0, 0))


def stopRoutine(routine):
    for t in tasks.order[1:]:
        if t.parent is None and t.frames and t.frames[0][1] == routine:
            end_from_outside(t)


def send(signal):
    for t in tasks.order:
        t.signals |= 1 << signal


def end_from_outside(t):
    if t.ended:
        return
    if t.step:
        t.step.drop(t)
        t.step.tell(t, "interrupted")
    t.ended = True
    close_task(t)


def close_task(t):
    unwind_guards(t, 0)
    cut_everies(t, 0)
    for child in t.children:
        end_from_outside(child)
    t.step = None
    let_go(t, 0)


def let_go(t, since):
    """Brakes what a task set and passed on since a claim."""
    if drives_with(t) and tasks.wheels.serial > since:
        halt()
        tasks.wheels = None
        t.passing = None
    for part, claim in list(tasks.parts.items()):
        if claim.task is not t or claim.serial <= since:
            continue
        if claim.passing:
            motor_power(parts[part], "brake", 0)
        del tasks.parts[part]


# Loops of `every`.


class Every:
    def __init__(self, t, number):
        self.start = t.clock()
        self.due = self.start
        self.since = run.tick
        self.claims = tasks.claims
        self.number = number
        self.how = "interrupted"


def cut_everies(t, depth):
    while len(t.everies) > depth:
        every = t.everies.pop()
        run.board.step(every.number, t.id, every.since, run.tick, every.how)
        let_go(t, every.claims)


# Handlers of `during`.


class Guard:
    def __init__(self, t, number, handlers):
        self.number = number
        self.handlers = handlers
        self.frames = len(t.frames)
        self.everies = len(t.everies)
        self.saved = None
        self.firings = 0
        self.seen_clock = t.clock()
        self.seen_steps = t.steps_ended

    def begin(self, t):
        for handler in self.handlers:
            handler[0](t, True)


class Saved:
    """What a handler put aside."""


def guard(t, number, handlers, count):
    made = Guard(t, number, handlers)
    made.begin(t)
    t.guards.append(made)
    t.at += 1
    return True


def watch_guards(t):
    for depth, g in enumerate(t.guards):
        if g.saved:
            continue
        for when, entry, _ in g.handlers:
            if when(t, False):
                return fire(t, depth, entry)


def fire(t, depth, entry):
    g = t.guards[depth]
    got_on = t.clock() - g.seen_clock >= PROGRESS_TICKS or t.steps_ended != g.seen_steps
    g.firings = 1 if got_on else g.firings + 1
    if g.firings > MOST_FIRINGS:
        return stop("guard loops", g.number)
    frames = t.frames[g.frames :]
    t.frames = t.frames[: g.frames]
    pause_step(t)
    for child in t.children:
        pause_tree(child)
    saved = Saved()
    saved.at = t.at
    saved.step = t.step
    saved.guards = t.guards[depth + 1 :]
    t.guards = t.guards[: depth + 1]
    saved.frames = frames
    saved.values = [(frame[1], list(t.values[frame[1]])) for frame in frames]
    saved.counters = list(t.counters) if frames else None
    saved.children = t.children
    saved.opened = t.opened
    saved.clock = t.clock()
    saved.claims = tasks.claims
    g.saved = saved
    t.step = None
    t.children = []
    t.at = entry


def guard_base(t):
    return t.frames[-1][2] if t.frames else 0


def resume(t, depth, skip):
    """Puts the body back that a handler interrupted; `skip` ends the step it was in."""
    depth += guard_base(t)
    unwind_guards(t, depth + 1)
    if depth >= len(t.guards) or not t.guards[depth].saved:
        stop("damaged")
        return False
    g = t.guards[depth]
    saved = g.saved
    g.saved = None
    t.at = saved.at
    t.step = saved.step
    t.frames += saved.frames
    t.guards += saved.guards
    t.children = saved.children
    for routine, values in saved.values:
        t.values[routine] = list(values)
    if saved.counters:
        t.counters = list(saved.counters)
    t.opened = saved.opened
    t.lost_ticks += t.clock() - saved.clock
    g.begin(t)
    g.seen_clock = t.clock()
    g.seen_steps = t.steps_ended
    if skip:
        mark_skipped([t] + branches(saved.children))
    drove = tasks.claims != saved.claims
    resume_step(t, drove)
    for child in saved.children:
        resume_tree(child, drove)
    return True


def branches(children):
    found = []
    for child in children:
        found.append(child)
        found += branches(child.children)
    return found


def mark_skipped(all_of_them):
    live = [t for t in all_of_them if not t.ended and not (t.step and t.step.joins)]
    driving = [t for t in live if t.step and t.step.drives]
    waiting = [t for t in live if t.step or t.everies]
    for t in driving or waiting:
        t.skip = True


def unwind_guards(t, depth):
    while len(t.guards) > depth:
        g = t.guards.pop()
        if g.saved:
            drop_saved(t, g.saved)
        elif len(t.frames) > g.frames:
            t.frames = t.frames[: g.frames]
        cut_everies(t, g.everies)


def drop_saved(t, saved):
    if saved.step:
        saved.step.drop(t)
        saved.step.tell(t, "interrupted")
    for child in saved.children:
        end_from_outside(child)
    for g in saved.guards:
        if g.saved:
            drop_saved(t, g.saved)


def guardEnds(t, depth, to):
    unwind_guards(t, guard_base(t) + depth)
    t.at = to
    return True


def pause_step(t):
    if t.step:
        t.step.pause(t)
    # What was set and passed on stands still too.
    if t.passing and not (t.step and t.step.drives) and drives_with(t):
        halt()


def resume_step(t, drove):
    if t.step and not t.skip:
        t.step.resume(t, drove)
    if not t.passing or (t.step and t.step.drives):
        return
    take_drive(t, NOBODY)
    moving.set(t.passing.again(0, None))


def pause_tree(t):
    if t.ended:
        return
    t.pauses += 1
    if t.pauses == 1:
        t.paused_clock = t.clock()
        pause_step(t)
    for child in t.children:
        pause_tree(child)


def resume_tree(t, drove):
    if t.ended:
        return
    t.pauses -= 1
    if t.pauses == 0:
        t.lost_ticks += t.clock() - t.paused_clock
        resume_step(t, drove)
    for child in t.children:
        resume_tree(child, drove)


# Where it goes on.


def go_on(t, to):
    t.at = to
    return True


def again(t, to):
    t.at = to
    return False


def endTask(t):
    t.ended = True
    return False


def branchOn(t, yes, otherwise):
    t.at = t.at + 1 if yes else otherwise
    return True


def call(t, entry, routine, size, given):
    t.values[routine] = values_of(size, given)
    t.frames.append((t.at + 1, routine, len(t.guards), len(t.everies)))
    t.given = 0.0
    t.at = entry
    return True


def give(t, value):
    if not t.frames:
        return False
    return_to, _, guards, everies = t.frames[-1]
    unwind_guards(t, guards)
    cut_everies(t, everies)
    t.frames.pop()
    t.given = value
    t.at = return_to
    return True


def callNow(t, entry, routine, size, given):
    """Runs a routine that takes no time to its end. Returns what it gave."""
    at = t.at
    depth = len(t.frames)
    t.values[routine] = values_of(size, given)
    t.frames.append((at, routine, len(t.guards), len(t.everies)))
    t.at = entry
    t.given = 0.0
    t.quiet += 1
    ops = tasks.program.ops
    while len(t.frames) > depth and not run.ended:
        tasks.ops_left -= 1
        if tasks.ops_left < 0:
            stop("too long")
            break
        if not ops[t.at](t) and t.ended:
            break
    t.quiet -= 1
    t.at = at
    return t.given


def beginRepeat(t, times, left, passed, test):
    t.counters[left] = ENDLESS if times == ENDLESS else max(0, rounded(times))
    t.counters[passed] = 0
    if test:
        test(t, True)
    t.at += 1
    return True


def passes(t, left, passed):
    """Counts a pass. Returns whether its number allows one more."""
    remaining = t.counters[left]
    t.counters[left] = remaining - 1
    t.counters[passed] += 1
    return remaining >= 1


def over(ticks, seconds):
    return seconds is not None and ticks * TICK >= seconds - ALMOST


def beginEvery(t, number, limit, counter, until):
    t.everies.append(Every(t, number))
    t.counters[counter] = limit
    if until:
        until(t, True)
    t.at += 1
    return True


def damaged():
    stop("damaged")
    return False


def beat(t, period, counter, until, exit):
    if not t.everies:
        return damaged()
    every = t.everies[-1]
    clock = t.clock()
    ended = None
    if t.skip:
        ended = "skipped"
    elif until and until(t, False):
        ended = "until"
    elif over(clock - every.start, t.counters[counter]):
        ended = "limit"
    if ended:
        t.skip = False
        every.how = ended
        t.at = exit
        return True
    if clock < every.due:
        return False
    every.due += max(1, rounded(period / TICK))
    t.at += 1
    return True


def beatsEnd(t):
    if not t.everies:
        return damaged()
    every = t.everies[-1]
    t.last[LIMITED] = 1 if every.how == "limit" else 0
    t.last[LAST_TIME] = (t.clock() - every.start) * TICK
    cut_everies(t, len(t.everies) - 1)
    t.steps_ended += 1
    t.at += 1
    return True


def leave(t, guards, kind, passing, to):
    depth = guard_base(t) + guards
    # Loops of `every` that were open when the first guard above this depth was opened.
    everies = t.guards[depth].everies if depth < len(t.guards) else -1
    unwind_guards(t, depth)
    if everies >= 0 and kind != "every":
        cut_everies(t, everies)
    if kind == "every" and t.everies and not passing:
        t.everies[-1].how = "done"
    t.at = to
    return not passing


def together(t, entries, count, routine, until_one, after):
    if t.step is None:
        t.step = JOIN
        t.children = [branch(t, entry, routine) for entry in entries]
        return False
    over_already = [child.ended for child in t.children]
    if not (any(over_already) if until_one else all(over_already)):
        return False
    for child in t.children:
        end_from_outside(child)
    t.children = []
    t.step = None
    t.steps_ended += 1
    t.at = after
    return True


# Steps that act at once.


def acted(t, number):
    if t.quiet == 0:
        # In a loop of `every` only the first of them is told.
        if not t.everies or number not in tasks.seen:
            run.board.step(number, t.id, run.tick, run.tick, "done")
        tasks.seen.add(number)
    t.at += 1
    return not t.ended


def finish(t):
    t.ended = True
    stop("finished")


def rollOn(t, number, order):
    pass_on(t, order, number)


def motorOn(t, number, part, duty):
    take_part(t, part, number, True)
    motor_power(parts[part], "drive", duty)


def start_move(index, by, angle, at, duty):
    part = parts[index]
    rate = part.top_rate / 2 if at is None else at
    limit = 1 if duty is None else between(abs(duty), 0.02, 1)
    way = None if angle is None else angle if by else angle - part.angle()
    motion = TurnPart(part, way, -1 if rate < 0 else 1, abs(rate), limit)
    move_part(part, motion)
    return motion


def moveOn(t, number, part, by, angle, at, duty):
    take_part(t, part, number, True)
    start_move(part, by, angle, at, duty)


def stopDrive(t, number, mode):
    take_drive(t, number)
    if mode == "brake":
        halt()
    else:
        moving.set(None)
        drive.release(mode)
    t.passing = None
    free_drive(t)


def stopMotor(t, number, part, mode):
    take_part(t, part, number, False)
    motor_power(parts[part], mode, 0)
    free_part(t, part)


def steerTo(t, number, angle):
    take_drive(t, number)
    drive.steer = angle


# Steps that take time.


class Tails:
    """Tails of the step that is being begun, said before it."""

    def __init__(self):
        self.clear()

    def clear(self):
        self.until = None
        self.signalOnly = False
        self.forTime = None
        self.limit = None
        self.atMost = None
        self.by = "time"
        self.ending = "stop"


tails = Tails()
number_of_step = [0]


class Step:
    drives = False
    joins = False
    signal_only = False

    def __init__(self, t):
        self.number = number_of_step[0]
        self.since = run.tick
        self.start = t.clock()
        self.until = tails.until
        self.for_time = tails.forTime
        self.limit = tails.limit
        self.by = tails.by
        self.ending = tails.ending
        self.bound = None
        if self.until:
            self.until(t, True)

    def bound_by(self, expected):
        """How long it may take when nothing limits it."""
        if expected is None or expected == ENDLESS:
            expected = self.for_time
        self.bound = BOUND_OPEN if expected is None else BOUND_FACTOR * expected + BOUND_EXTRA

    def ended_by(self, t, arrived, measured=0):
        """What ends it: its question, having arrived, its time, its limit; in this order."""
        elapsed = t.clock() - self.start
        if self.until and self.until(t, False):
            return "ended" if self.drives and self.motion.wall_ended else "until"
        if arrived:
            return arrived
        if over(elapsed, self.for_time):
            return "for"
        if self.limit is not None:
            reached = over(elapsed, self.limit) if self.by == "time" else measured >= self.limit - 1e-6
            return "limit" if reached else None
        if not over(elapsed, self.bound):
            return None
        stop("never ended", self.number, rounded(elapsed * TICK))
        return "bound"

    def tell(self, t, how):
        run.board.step(self.number, t.id, self.since, run.tick, how)

    def pause(self, t):
        pass

    def resume(self, t, drove):
        pass

    def drop(self, t):
        pass


class Join(Step):
    """Waits for branches of `together`."""

    joins = True

    def __init__(self):
        pass

    def tell(self, t, how):
        pass


JOIN = Join()


class Wait(Step):
    def __init__(self, t, seconds):
        Step.__init__(self, t)
        self.seconds = seconds
        self.at_most = tails.atMost
        unlimited = self.limit is None and self.at_most is None and seconds is None
        self.signal_only = tails.signalOnly and unlimited

    def tick(self, t):
        elapsed = t.clock() - self.start
        if self.until and self.until(t, False):
            return "until"
        if over(elapsed, self.at_most):
            return "for"
        if over(elapsed, self.seconds):
            return "done"
        return "limit" if over(elapsed, self.limit) else None

    def resume(self, t, drove):
        if self.until:
            self.until(t, True)


class DriveStep(Step):
    drives = True

    def __init__(self, t, order):
        self.order = order
        self.motion = order.begin()
        take_drive(t, number_of_step[0])
        t.passing = None
        moving.set(self.motion)
        Step.__init__(self, t)
        if self.limit is not None:
            self.limit = abs(self.limit)
        self.start_travel = drive.way()
        self.start_heading = drive.heading
        self.bound_by(self.motion.expected)
        self.halting = None
        self.held_up = False
        self.done = 0

    def tick(self, t):
        # A handler that came while it slowed down left it standing, or drove on: either way this step is over.
        if self.halting:
            if not moving.arrived and not self.held_up:
                return None
            free_drive(t)
            return self.halting
        arrived = None
        if moving.arrived and t.clock() > self.start:
            arrived = self.motion.how or "done"
        measured = 0
        if self.by == "travel":
            measured = abs(drive.way() - self.start_travel)
        elif self.by == "turn":
            measured = abs(drive.heading - self.start_heading)
        ended = self.ended_by(t, arrived, measured)
        return ended if ended is None or ended == "bound" else self.leave(t, ended)

    def leave(self, t, ended):
        """`then`: roll on, coast, or slow down and stand (the step lasts until it stands)."""
        if self.ending == "keep":
            pass_on(t, roll(drive.wanted, drive.wanted_rate, None, drive.wanted_aside), self.number)
            return ended
        if self.ending == "coast" or moving.arrived:
            moving.set(None)
            drive.release("coast" if self.ending == "coast" else "brake")
            free_drive(t)
            return ended
        if not halt():
            free_drive(t)
            return ended
        self.halting = ended
        return None

    def pause(self, t):
        self.done = self.motion.progress() or 0
        self.paused_travel = drive.way()
        self.paused_heading = drive.heading
        if not self.halting:
            halt()

    def resume(self, t, drove):
        self.start_travel += drive.way() - self.paused_travel
        self.start_heading += drive.heading - self.paused_heading
        take_drive(t, self.number)
        if self.halting:
            self.held_up = True
            return
        # Braking went on along the way, unless the handler drove somewhere else.
        done = self.done if drove else self.motion.progress()
        self.motion = self.order.again(self.done if done is None else done, None if drove else self.motion.kept)
        moving.set(self.motion)
        if self.until:
            self.until(t, True)

    def drop(self, t):
        if drives_with(t):
            halt()
            free_drive(t)


class PartStep(Step):
    def __init__(self, t, part):
        self.part = part
        take_part(t, part, number_of_step[0], False)
        Step.__init__(self, t)

    def drop(self, t):
        free_part(t, self.part)


class MotorStep(PartStep):
    def __init__(self, t, part, duty):
        PartStep.__init__(self, t, part)
        motor_power(parts[part], "drive", duty)
        self.bound_by(None)

    def tick(self, t):
        ended = self.ended_by(t, None)
        if ended:
            self.drop(t)
        return ended

    def drop(self, t):
        if self.ending != "keep":
            motor_power(parts[self.part], "coast" if self.ending == "coast" else "brake", 0)
        free_part(t, self.part)


class MoveStep(PartStep):
    def __init__(self, t, part, by, angle, at, duty):
        self.motion = start_move(part, by, angle, at, duty)
        PartStep.__init__(self, t, part)
        self.bound_by(self.motion.expected)

    def tick(self, t):
        motion = self.motion
        ended = self.ended_by(t, "stalled" if motion.stalled else "done" if motion.arrived else None)
        if ended in ("until", "for", "limit"):
            self.drop(t)
        elif ended:
            free_part(t, self.part)
        return ended

    def drop(self, t):
        """Holds where it is."""
        part = parts[self.part]
        move_part(part, TurnPart(part, 0, 1, 1, 1))
        free_part(t, self.part)


class HomeStep(PartStep):
    def __init__(self, t, part, high, duty):
        PartStep.__init__(self, t, part)
        self.sign = 1 if high else -1
        self.duty = 0.35 if duty is None else between(abs(duty), 0.02, 1)
        self.begin()
        self.bound_by(6)

    def begin(self):
        self.motion = HomePart(parts[self.part], self.sign, self.duty)
        move_part(parts[self.part], self.motion)

    def tick(self, t):
        ended = self.ended_by(t, "done" if self.motion.arrived else None)
        if ended:
            self.drop(t)
        return ended

    def pause(self, t):
        self.drop(t)

    def resume(self, t, drove):
        take_part(t, self.part, self.number, False)
        self.begin()

    def drop(self, t):
        motor_power(parts[self.part], "brake", 0)
        free_part(t, self.part)


class HeadStep(PartStep):
    """A step with a head: turns it, waits until it stands, and until every eye on it has looked anew."""

    def look(self, rad):
        part = parts[self.part]
        move_part(part, TurnPart(part, rad - part.angle(), 1, part.top_rate, 1))
        part.aim(rad)
        self.settled_at = None
        self.rad = rad

    def looked(self):
        part = parts[self.part]
        if not part.settled() or abs(part.angle() - self.rad) > 0.02:
            self.settled_at = None
            return False
        if self.settled_at is None:
            self.settled_at = run.tick
        age = part.eye_age()
        return age is None or age < run.tick - self.settled_at

    def tick(self, t):
        ended = self.ended_by(t, "done" if self.got() else None)
        if ended:
            free_part(t, self.part)
        return ended

    def pause(self, t):
        free_part(t, self.part)

    def resume(self, t, drove):
        take_part(t, self.part, self.number, False)
        self.begin()


class AimStep(HeadStep):
    def __init__(self, t, part, angle):
        PartStep.__init__(self, t, part)
        self.angle = angle
        self.begin()
        self.bound_by(1)

    def begin(self):
        self.look(self.angle)

    def got(self):
        return self.looked()


class ScanStep(HeadStep):
    """Several looks from one side to the other: keeps the angles of the nearest and of the clearest."""

    def __init__(self, t, part, first, last, looks):
        PartStep.__init__(self, t, part)
        self.first = first
        self.last = last
        self.looks = int(between(rounded(looks), 2, 60))
        self.begin()
        self.bound_by(self.looks)

    def begin(self):
        self.seen = []
        self.look(self.first)

    def angle(self, i):
        return self.first + (self.last - self.first) * i / (self.looks - 1)

    def got(self):
        if not self.looked():
            return False
        part = parts[self.part]
        self.seen.append(readings[part.distance])
        if len(self.seen) < self.looks:
            self.look(self.angle(len(self.seen)))
            return False
        nearest = self.seen.index(min(self.seen))
        part.found(self.angle(nearest), self.angle(middle_of_largest(self.seen)))
        return True


def middle_of_largest(values):
    """Of equally clear looks side by side the middle one: the way there is widest."""
    top = max(values) - 1e-3
    best = 0
    length = 0
    for i in range(len(values)):
        end = i
        while end < len(values) and values[end] >= top:
            end += 1
        if end - i > length:
            length = end - i
            best = (i + end - 1) // 2
    return best


def begins(t, number):
    """Whether a step has to be begun."""
    if t.step:
        return False
    number_of_step[0] = number
    tails.clear()
    return True


def opened(t, step):
    t.step = step
    t.opened = (drive.way(), drive.heading, t.clock())


def wait(t, seconds):
    opened(t, Wait(t, seconds))


def drives(t, order):
    opened(t, DriveStep(t, order))


def motorRuns(t, part, duty):
    opened(t, MotorStep(t, part, duty))


def moves(t, part, by, angle, at, duty):
    opened(t, MoveStep(t, part, by, angle, at, duty))


def homes(t, part, high, duty):
    opened(t, HomeStep(t, part, high, duty))


def aims(t, part, angle):
    opened(t, AimStep(t, part, angle))


def scans(t, part, first, last, looks):
    opened(t, ScanStep(t, part, first, last, looks))


def runs(t):
    """Ticks the step in hand and goes on once it is over."""
    s = t.step
    ended = "skipped" if t.skip else s.tick(t)
    if ended is None:
        return False
    if ended == "skipped":
        s.drop(t)
    last = t.last
    last[LIMITED] = 1 if ended == "limit" else 0
    last[LAST_STALLED] = 1 if ended == "stalled" or drive.stalled else 0
    last[LAST_LOST] = 1 if ended == "lost" else 0
    last[LAST_ENDED] = 1 if ended == "ended" else 0
    travel, heading, clock = t.opened
    last[LAST_TRAVEL] = drive.way() - travel
    last[LAST_TURNED] = drive.heading - heading
    last[LAST_TIME] = (t.clock() - clock) * TICK
    s.tell(t, ended)
    t.step = None
    t.skip = False
    t.steps_ended += 1
    t.at += 1
    return True


# A tick.


def watch_waiting():
    """All that are left wait for signals only: nobody can send them any more."""
    waits = None
    for t in tasks.order:
        if t.ended or t.pauses > 0:
            continue
        signal = t.step and t.step.signal_only
        if not signal and not (t.step and t.step.joins):
            return
        for g in t.guards:
            for handler in g.handlers:
                if not handler[2]:
                    return
        if signal and not waits:
            waits = t
    if waits:
        stop("no sender", waits.step.number)


def run_task(t):
    """Runs a task until it waits. Returns whether anything but waiting happened."""
    before = t.at
    ops = tasks.program.ops
    while not run.ended:
        tasks.ops_left -= 1
        if tasks.ops_left < 0:
            return True
        if not ops[t.at](t):
            break
    return t.at != before or t.ended


def run_tasks():
    tasks.ops_left = MOST_OPS
    moved = False
    i = 0
    while i < len(tasks.order) and not run.ended:
        t = tasks.order[i]
        i += 1
        if t.ended or t.pauses > 0:
            continue
        if t.guards:
            watch_guards(t)
        moved = run_task(t) or moved
        if t.ended:
            close_task(t)
    mission = tasks.order[0]
    if mission.ended:
        stop("finished")
    tasks.order = [t for t in tasks.order if t is mission or not t.ended]
    if not moved and not run.ended:
        watch_waiting()


def begin(program, board):
    """Makes a mission ready. `board` is told of steps, texts and the end."""
    run.board = board
    tasks.program = program
    program.initialise(add_task(None, program.start))


def tick():
    """One tick of 10 ms: senses have been read, orders are given afterwards."""
    sense_all()
    run.handed_over = False
    run.hand_silent = False
    if not run.ended:
        run_tasks()
    if run.ended and moving.motion:
        moving.set(None)
    if moving.motion:
        moving.arrived = moving.motion.tick()
    elif run.ended and drive.mode == "drive":
        drive.release("brake")
    parts_tick()
    give_orders()
    if run.ended:
        parts_stop()
    run.tick += 1
    return orders
