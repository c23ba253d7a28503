# The robot link over a serial line: frames between zeros, each with a kind and a checksum. docs/formats.md tells them all.
import random
import struct

import board
import version
from drive import drive
from state import readings, run, senses, stop

HELLO, RUN, HALT, HANDS, DRIVE, BEAT, TELL, LEAVE = range(1, 9)
GREETING, STATE, POSE, VALUES, STEP, SAID, ENDED, DONE, REFUSED, HEARD = range(129, 139)
BUSY, UNKNOWN = 1, 2
SPEAKS = 1
# A driver that was not heard for so many ticks: the robot stops.
HANDS_SILENT = 30
START_WAITS = 100
STATE_EVERY = 50
HEARD_MOST = 64
TOLD_AT_ONCE = 8
NO_STEP = 65535

ENDS = ("", "done", "until", "for", "limit", "stalled", "lost", "ended", "skipped", "bound", "interrupted")
WHYS = (
    "finished",
    "never ended",
    "clash",
    "no sender",
    "guard loops",
    "too long",
    "damaged",
    "beyond",
    "list full",
    "outside list",
    "tasks",
    "text",
    "halted",
    "silent",
    "crashed",
)
KINDS = ("note", "show", "light", "beep")

WAITS, RUNS, DRIVEN = 0, 1, 2


class Link:
    def __init__(self):
        self.doing = WAITS
        # Somebody was heard; the program is asked to end.
        self.on = False
        self.leaving = False
        # The limit with which it is asked to begin anew; None while it is not.
        self.again = None
        self.why = 0
        self.seq = 0
        self.left = 0.0
        self.right = 0.0
        self.greeted = False
        # Something has run: a start has to begin anew.
        self.worn = False
        self.silent_ticks = 0
        self.limit_ticks = 0
        self.hands_ticks = 255
        self.tell_ticks = 0
        self.waited = 0
        self.until_state = 0
        self.until_pose = 0
        self.heard = bytearray()


link = Link()


def checked(data):
    """CRC-16 with the polynomial 0x1021, begun with ones."""
    total = 0xFFFF
    for byte in data:
        total ^= byte << 8
        for _ in range(8):
            total = (total << 1 ^ 0x1021) & 0xFFFF if total & 0x8000 else total << 1
    return total


def tell(kind, payload=b""):
    """A frame without zeros: a count stands for each."""
    plain = bytes((kind,)) + payload
    plain += struct.pack("<H", checked(plain))
    out = bytearray()
    for piece in plain.split(b"\x00"):
        out.append(len(piece) + 1)
        out.extend(piece)
    out.append(0)
    board.write(out)


def tell_greeting():
    # Whatever was cut off by the start is none of the first frame.
    board.write(b"\x00")
    tell(GREETING, struct.pack("<BI", SPEAKS, version.VERSION) + version.NAME.encode())


def tell_state():
    hand = (1 if run.hand_silent else 2) if run.handed_over else 0
    volts = min(65535, max(0, int(board.volts() * 1000)))
    tell(STATE, struct.pack("<BBBHH", link.doing, link.why, hand, volts, board.late_ticks & 0xFFFF))


def step_in_hand():
    from tasks import tasks

    mission = tasks.order[0] if tasks.order else None
    number = mission.step.number if mission and mission.step else None
    return NO_STEP if number is None else number


def tell_pose():
    left, right = drive.left, drive.right
    tell(
        POSE,
        struct.pack("<Iffff", run.tick, drive.heading, drive.turn_rate, drive.x, drive.y)
        + struct.pack("<ffi", left.speed, left.duty, left.counts)
        + struct.pack("<ffi", right.speed, right.duty, right.counts)
        + struct.pack("<fHH", drive.volts, link.seq, step_in_hand()),
    )
    for first in range(0, len(version.WATCHED), TOLD_AT_ONCE):
        slots = version.WATCHED[first : first + TOLD_AT_ONCE]
        values = b"".join(struct.pack("<f", readings[slot]) for slot in slots)
        tell(VALUES, struct.pack("<IB", run.tick, first) + values)


def begun(limit):
    link.limit_ticks = limit
    link.doing = RUNS
    link.worn = True
    tell_state()


def halts(why):
    """Off, and said why."""
    if link.doing == RUNS:
        stop(why)
    elif link.doing == DRIVEN:
        teller.end(why, 0, 0)


def share(byte):
    return max(-1.0, (byte - 256 if byte > 127 else byte) / 127)


def hold(payload):
    link.seq = payload[0] | payload[1] << 8
    for i in range(4):
        senses.sticks[i] = share(payload[2 + i])
        senses.levels[i] = payload[6 + i] / 255
    # Pressed and let go between two ticks is pressed for one.
    kept = senses.buttons if link.hands_ticks == 0 else 0
    senses.buttons = payload[10] | payload[11] << 8 | kept
    link.hands_ticks = 0
    driven = run.handed_over and not run.hand_silent and link.doing == RUNS
    tell(HEARD, struct.pack("<HB", link.seq, 1 if driven else 0))


def drives(payload):
    if link.doing == RUNS:
        return tell(REFUSED, bytes((0, BUSY)))
    link.seq = payload[0] | payload[1] << 8
    link.hands_ticks = 0
    link.left = share(payload[2])
    link.right = share(payload[3])
    if link.doing == DRIVEN:
        return
    link.doing = DRIVEN
    link.worn = True
    tell_state()


def obey(kind, payload):
    link.silent_ticks = 0
    link.on = True
    ask = payload[0] if payload else 0
    if kind == HELLO:
        link.greeted = True
        tell_greeting()
        tell_state()
    elif kind == RUN and len(payload) == 2:
        if link.doing != WAITS:
            return tell(REFUSED, bytes((ask, BUSY)))
        tell(DONE, bytes((ask, 0)))
        # What has run is not fresh: the program begins anew, and runs from its first tick.
        if link.worn:
            link.again = payload[1]
        else:
            begun(payload[1])
    elif kind == HALT:
        halts("halted")
        tell(DONE, bytes((ask, 0)))
    elif kind == HANDS and len(payload) == 12:
        hold(payload)
    elif kind == DRIVE and len(payload) == 4:
        drives(payload)
    elif kind == TELL and len(payload) == 2:
        link.tell_ticks = payload[1]
        tell(DONE, bytes((ask, 0)))
    elif kind == LEAVE:
        halts("halted")
        link.leaving = True
    elif kind != BEAT:
        tell(REFUSED, bytes((ask, UNKNOWN)))


def opened(coded):
    """Bytes of a frame as they were; None for what is none."""
    plain = bytearray()
    at = 0
    while at < len(coded):
        count = coded[at]
        if at + count > len(coded):
            return None
        plain.extend(coded[at + 1 : at + count])
        at += count
        if at < len(coded) and count < 255:
            plain.append(0)
    return plain


def frame_ends(coded):
    plain = opened(coded)
    if plain is None or len(plain) < 3:
        return
    if checked(plain[:-2]) == plain[-2] | plain[-1] << 8:
        obey(plain[0], plain[1:-2])


def listen():
    for byte in board.read_line():
        if byte == 0:
            if 0 < len(link.heard) <= HEARD_MOST:
                frame_ends(bytes(link.heard))
            link.heard = bytearray()
        elif len(link.heard) <= HEARD_MOST:
            link.heard.append(byte)


def begin(limit):
    """@param limit: it was asked to begin anew, with this limit; None at any other start."""
    if limit is None:
        return
    link.on = link.greeted = True
    link.tell_ticks = 2
    tell_greeting()
    begun(limit)


def tick():
    """Once a tick, before the senses are read."""
    listen()
    link.silent_ticks = min(255, link.silent_ticks + 1)
    link.hands_ticks = min(255, link.hands_ticks + 1)
    let = link.doing == DRIVEN and link.hands_ticks > HANDS_SILENT
    if let or (link.limit_ticks > 0 and link.silent_ticks > link.limit_ticks):
        halts("silent")
    # Nobody is there: a mission that was put on a board begins by itself.
    if link.doing == WAITS and not link.worn and not link.greeted:
        link.waited += 1
        if link.waited >= START_WAITS:
            begun(0)
    senses.heard = link.hands_ticks <= HANDS_SILENT
    if not link.on:
        return
    link.until_state += 1
    if link.until_state >= STATE_EVERY:
        link.until_state = 0
        tell_state()
    link.until_pose += 1
    if link.tell_ticks > 0 and link.doing != WAITS and link.until_pose >= link.tell_ticks:
        link.until_pose = 0
        tell_pose()


class Teller:
    """Told of steps, texts and the end."""

    def step(self, number, task, start, end, how):
        tell(STEP, struct.pack("<HBBII", number, task, ENDS.index(how), start, end))

    def end(self, why, a, b):
        link.doing = WAITS
        link.why = WHYS.index(why) + 1
        link.limit_ticks = 0
        tell(ENDED, struct.pack("<BHHI", WHYS.index(why), int(a) & 0xFFFF, int(b) & 0xFFFF, run.tick))
        tell_state()

    def say(self, kind, text):
        tell(SAID, bytes((KINDS.index(kind),)) + text.encode()[:40])

    def chance(self):
        return random.random()


teller = Teller()
