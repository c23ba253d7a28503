# What missions count with: questions that take time, arithmetic that has no surprises, lists, and texts.
from math import floor

from state import ALMOST, TICK, readings, run, stop


def grew(t, counter, slot):
    """A reading that counts, since the step began."""
    count = readings[slot]
    if t.counters[counter] < 0:
        t.counters[counter] = count
    return count > t.counters[counter]


def grewAnew(t, counter, slot):
    """The same, since it was asked last."""
    count = readings[slot]
    before = max(0, t.counters[counter])
    t.counters[counter] = count
    return count > before


def held(t, counter, now, seconds):
    """True once it was true for so long."""
    if not now:
        t.counters[counter] = -1
        return False
    if t.counters[counter] < 0:
        t.counters[counter] = run.tick
    return (run.tick - t.counters[counter]) * TICK >= seconds - ALMOST


def heard(t, signal):
    """A signal was sent and is not heard yet."""
    return t.signals >> signal & 1


def hears(t, signal):
    t.signals &= ~(1 << signal)


def within(x, a, b):
    return a <= x <= b if a <= b else b <= x <= a


def divided(a, b):
    """A division by zero reads 0: a robot must not be sent to infinity."""
    return 0.0 if b == 0 else a / b


def raised(base, times):
    product = 1.0
    for _ in range(abs(times)):
        product *= base
    return product if times >= 0 else divided(1, product)


def signOf(x):
    return 1 if x > 0 else -1 if x < 0 else 0


def modulo(x, by):
    """What is left over: has the sign of the divisor, so that angles and passes go round."""
    return 0.0 if by == 0 else x - by * floor(x / by)


def floored(x, step=1.0):
    return x if step == 0 else floor(x / step + 1e-6) * step


def ceiled(x, step=1.0):
    return x if step == 0 else -floor(-x / step + 1e-6) * step


def roundedTo(x, step=1.0):
    return x if step == 0 else floor(x / step + 0.5) * step


def chance(low, high):
    return low + (high - low) * run.board.chance()


def bound(x, limit, number):
    """A number beyond this ends the mission."""
    if -limit <= x <= limit:
        return x
    stop("beyond", number)
    return 0.0


class List:
    """A list or a table: as long as it was declared, never longer."""

    def __init__(self, most, rolling, table):
        self.values = []
        self.keys = [] if table else None
        self.most = most
        self.rolling = rolling

    def place(self, at):
        if self.keys is not None:
            return self.keys.index(at) if at in self.keys else -1
        place = floor(at + 0.5) - 1
        return place if 0 <= place < len(self.values) else -1


def listAdd(a, value, number):
    if len(a.values) >= a.most:
        if not a.rolling:
            return stop("list full", number)
        a.values.pop(0)
    a.values.append(value)


def listPut(a, at, value, number):
    """Puts a value in a place: of a list one that is there, of a table under any key."""
    place = a.place(at)
    if place >= 0:
        a.values[place] = value
    elif a.keys is None:
        stop("outside list", number)
    elif len(a.values) >= a.most:
        stop("list full", number)
    else:
        a.keys.append(at)
        a.values.append(value)


def listItem(a, at, number):
    place = a.place(at)
    if place >= 0:
        return a.values[place]
    stop("outside list", number)
    return 0.0


def listHas(a, value):
    return value in (a.values if a.keys is None else a.keys)


def listTell(a, what, number):
    values = a.values
    if what == "count":
        return len(values)
    if what == "sum":
        return sum(values)
    if not values:
        stop("outside list", number)
        return 0.0
    if what == "last":
        return values[-1]
    if what == "mean":
        return sum(values) / len(values)
    return min(values) if what == "min" else max(values)


def listEach(a, at):
    """The pass's value of a list, or key of a table; None once there is none."""
    values = a.values if a.keys is None else a.keys
    return values[int(at) - 1] if at <= len(values) else None


def listClear(a):
    a.values.clear()
    if a.keys is not None:
        a.keys.clear()


# Texts: a line is put together and said.

COLOURS = ("black", "white", "grey", "red", "orange", "yellow", "green", "blue", "violet", "brown")
KINDS = ("note", "show", "light", "beep")
line = []


def lineBegin():
    line.clear()


def lineText(words):
    line.append(words)


def lineNumber(value, places):
    """A number with so many digits behind the point, without zeros at its end."""
    words = "%.*f" % (places, value)
    if "." in words:
        words = words.rstrip("0").rstrip(".")
    line.append("0" if words == "-0" else words)


def lineTruth(value):
    line.append("yes" if value else "no")


def lineColour(value):
    line.append(COLOURS[int(value)] if 0 <= value < len(COLOURS) else "?")


def lineKept(value):
    line.append(str(value))


def lineSay(kind):
    run.board.say(KINDS[kind], "".join(line))
