# The modules of a board on this computer: pins, pulses, voltages, the two-wire bus, time and the serial line, all by the
# lines that the page's robot hangs on. `_lines` is given from outside.
import sys as real_sys

import _lines


class Module:
    pass


handlers = {}


class Pin:
    IN = 0
    OUT = 1
    PULL_UP = 1
    IRQ_RISING = 1
    IRQ_FALLING = 2

    def __init__(self, n, mode=0, pull=None, value=None):
        self.n = n
        if mode == Pin.OUT:
            _lines.level(n, value or 0)
        else:
            _lines.input(n, 1 if pull else 0)

    def value(self, v=None):
        if v is None:
            return _lines.read(self.n)
        _lines.level(self.n, v)

    def irq(self, handler, trigger):
        handlers[self.n] = (handler, self)


class PWM:
    def __init__(self, pin, freq=1000, duty_u16=0):
        self.n = pin.n
        self.freq = freq
        self.duty_u16(duty_u16)

    def duty_u16(self, v):
        _lines.pulse(self.n, v / 65535, self.freq)


class ADC:
    def __init__(self, pin):
        self.n = pin.n

    def read_u16(self):
        return _lines.voltage(self.n)


class I2C:
    def __init__(self, n, sda=None, scl=None):
        pass

    def writeto_mem(self, address, register, data):
        pass

    def readfrom_mem(self, address, register, count):
        return bytes(_lines.bus(address, register + i) for i in range(count))


def ticks_us():
    now = _lines.ticks()
    # Lines that changed meanwhile interrupt.
    edge = _lines.edge()
    while edge >= 0:
        found = handlers.get(edge)
        if found:
            found[0](found[1])
        edge = _lines.edge()
    return now


def sleep_us(us):
    _lines.sleep(us)


machine = Module()
machine.Pin = Pin
machine.PWM = PWM
machine.ADC = ADC
machine.I2C = I2C
machine.time_pulse_us = lambda pin, level, most: _lines.echo(pin.n)
machine.soft_reset = _lines.soft_reset

time = Module()
time.ticks_us = ticks_us
time.sleep_us = sleep_us
time.ticks_diff = lambda a, b: a - b
time.ticks_add = lambda a, b: a + b


class Input:
    def read(self, count):
        return bytes(_lines.take() for _ in range(count))


class Output:
    def write(self, data):
        for byte in data:
            _lines.say(byte)


class Poll:
    def register(self, what, how):
        pass

    def poll(self, ms):
        return [1] if _lines.waiting() > 0 else []


select = Module()
select.POLLIN = 1
select.poll = Poll

sys = Module()
sys.modules = real_sys.modules
sys.path = real_sys.path
sys.stdin = Module()
sys.stdin.buffer = Input()
sys.stdout = Module()
sys.stdout.buffer = Output()
for name, module in (("machine", machine), ("time", time), ("select", select), ("sys", sys)):
    real_sys.modules[name] = module
