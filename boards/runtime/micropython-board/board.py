# The board by the module `machine`: motors behind H-bridges, encoders by interrupt, a gyro and a colour sensor on I2C,
# ultrasonic pings, analogue and digital lines, servos. pins.py says which pin is which.
import os
import select
import sys
import time

import machine
import pins
import robot
from machine import ADC, I2C, PWM, Pin, time_pulse_us

MOTOR_HZ = 20000
SERVO_HZ = 50
# A servo's pulse, microseconds: in its middle, and for each radian.
SERVO_MIDDLE_US = 1500
SERVO_US_PER_RAD = 636.6
# Sound in air of 20 deg C, and the longest echo that is waited for.
SOUND_M_US = 343.2e-6
ECHO_US = 12000
DEBOUNCE_TICKS = 2


class Motor:
    """Behind an H-bridge: two pins that are pulsed, or two for the direction and one that is pulsed."""

    def __init__(self, lines, encoder):
        self.lines = [Pin(n, Pin.OUT, value=0) for n in lines]
        self.pulsed = [PWM(pin, freq=MOTOR_HZ, duty_u16=0) for pin in (self.lines if len(lines) == 2 else self.lines[2:])]
        self.counts = 0
        if encoder:
            self.a = Pin(encoder[0], Pin.IN, Pin.PULL_UP)
            self.b = Pin(encoder[1], Pin.IN, Pin.PULL_UP) if len(encoder) > 1 else None
            self.a.irq(self.edge, Pin.IRQ_RISING | Pin.IRQ_FALLING)
            if self.b:
                self.b.irq(self.edge_b, Pin.IRQ_RISING | Pin.IRQ_FALLING)
        self.forward = True

    def edge(self, pin):
        if self.b:
            self.counts += 1 if self.a.value() != self.b.value() else -1
        else:
            # One channel alone tells no direction: the one it was last driven in.
            self.counts += 1 if self.forward else -1

    def edge_b(self, pin):
        self.counts += 1 if self.a.value() == self.b.value() else -1

    def order(self, mode, duty):
        if mode == "drive" and duty != 0:
            self.forward = duty > 0
        elif mode == "drive":
            # No voltage is a brake: a drive that is only switched on and off counts on it.
            mode = "brake"
        share = int(min(1, abs(duty)) * 65535) if mode == "drive" else 0
        if len(self.pulsed) == 2:
            # Both high brakes, both low coasts.
            rest = 65535 if mode == "brake" else 0
            self.pulsed[0].duty_u16(share if mode == "drive" and duty > 0 else rest)
            self.pulsed[1].duty_u16(share if mode == "drive" and duty < 0 else rest)
            return
        self.lines[0].value(1 if mode == "drive" and duty > 0 else 0)
        self.lines[1].value(1 if mode == "drive" and duty < 0 else 0)
        self.pulsed[0].duty_u16(65535 if mode == "brake" else share)


class Input:
    """A switch or a near sensor: its line has to stay for two ticks to count."""

    def __init__(self, line, pull_up):
        self.pin = Pin(line, Pin.IN, Pin.PULL_UP) if pull_up else Pin(line, Pin.IN)
        self.active = 0 if pull_up else 1
        self.state = 0
        self.changed = 0

    def read(self):
        now = 1 if self.pin.value() == self.active else 0
        self.changed = self.changed + 1 if now != self.state else 0
        if self.changed >= DEBOUNCE_TICKS:
            self.state = now
            self.changed = 0
        return self.state


class Echo:
    """An ultrasonic distance sensor: a pulse out, and the time until its echo."""

    def __init__(self, trigger, echo):
        self.trigger = Pin(trigger, Pin.OUT, value=0)
        self.echo = Pin(echo, Pin.IN)
        self.metres = None

    def ping(self):
        self.trigger.value(1)
        time.sleep_us(10)
        self.trigger.value(0)
        us = time_pulse_us(self.echo, 1, ECHO_US)
        self.metres = us * SOUND_M_US / 2 if us > 0 else None
        return self.metres or 0


class Gyro:
    """A common I2C gyro: awake, range of 500 deg/s, its z axis in registers 0x47 and 0x48 (public data sheet)."""

    ADDRESS = 0x68

    def __init__(self, bus):
        self.bus = bus
        bus.writeto_mem(self.ADDRESS, 0x6B, b"\x00")
        bus.writeto_mem(self.ADDRESS, 0x1B, b"\x08")

    def rate(self):
        high, low = self.bus.readfrom_mem(self.ADDRESS, 0x47, 2)
        raw = (high << 8) | low
        return (raw - 65536 if raw > 32767 else raw) * 2.66462e-4


class Colour:
    """A common I2C colour sensor: clear, red, green and blue from register 0x14 on (public data sheet)."""

    ADDRESS = 0x29
    COMMAND = 0xA0

    def __init__(self, bus):
        self.bus = bus
        bus.writeto_mem(self.ADDRESS, self.COMMAND, b"\x03")
        self.light = (0, 0, 0)

    def read(self):
        data = self.bus.readfrom_mem(self.ADDRESS, self.COMMAND | 0x14, 8)
        clear, red, green, blue = [data[i] | data[i + 1] << 8 for i in (0, 2, 4, 6)]
        self.light = (red / 65535, green / 65535, blue / 65535)


motors = [Motor(pins.MOTORS[i], pins.ENCODERS[i]) for i in range(robot.MOTORS)]
servos = [PWM(Pin(n, Pin.OUT), freq=SERVO_HZ, duty_u16=0) for n in pins.SERVOS]
bus = I2C(0, sda=Pin(pins.BUS[0]), scl=Pin(pins.BUS[1])) if pins.BUS else None
gyroscope = Gyro(bus) if robot.GYRO else None
battery = ADC(Pin(pins.BATTERY)) if pins.BATTERY is not None else None
devices = {}


def device(sensor, how):
    """The device of a sensor, made when it is first read."""
    known = devices.get(sensor)
    if known is not None:
        return known
    lines = pins.SENSORS[sensor]
    if how == "input":
        made = Input(lines[0], pins.PULL_UP[sensor])
    elif how == "echo":
        made = Echo(lines[0], lines[1])
    elif how == "light":
        made = Colour(bus)
    else:
        made = [ADC(Pin(n)) for n in lines]
    devices[sensor] = made
    return made


def read(sensor, how, line):
    """One number of a sensor: see LINES in robot.py."""
    if how == "fixed":
        return 1
    if how == "heard":
        return 0 if devices[sensor].metres is None else 1
    found = device(sensor, how)
    if how == "input":
        return found.read()
    if how == "echo":
        return found.ping()
    if how == "light":
        if line == 0:
            found.read()
        return found.light[line]
    return found[line].read_u16() / 65535


def motor(i, mode, duty):
    motors[i].order(mode, duty)


def all_off():
    for one in motors:
        one.order("brake", 0)


def counts(i):
    return motors[i].counts


def gyro():
    return gyroscope.rate()


def volts():
    if battery is None:
        return robot.NOMINAL_VOLTS
    return battery.read_u16() / 65535 * pins.BATTERY_FULL_VOLTS


def pulse(i, us):
    servos[i].duty_u16(int(us * SERVO_HZ * 65535 / 1000000))


def servo(i, rad):
    pulse(i, SERVO_MIDDLE_US + rad * SERVO_US_PER_RAD)


def servo_speed(i, share):
    pulse(i, SERVO_MIDDLE_US + share * 500)


# The serial line: the board's USB port, which is its REPL while no mission is loaded.
waiting = select.poll()
waiting.register(sys.stdin, select.POLLIN)
try:
    import micropython

    # A three in a frame is no Ctrl-C.
    micropython.kbd_intr(-1)
except (ImportError, AttributeError):
    pass
late_ticks = 0
# Kept in a file: that the program was asked to begin anew, and with which limit.
ASKED = "asked.txt"


def read_line():
    """Bytes that came in."""
    found = bytearray()
    while waiting.poll(0):
        found.extend(sys.stdin.buffer.read(1))
    return found


def write(data):
    sys.stdout.buffer.write(data)


def asked():
    try:
        with open(ASKED) as file:
            limit = int(file.read())
        os.remove(ASKED)
        return limit
    except (OSError, ValueError):
        return None


def begin_anew(limit):
    with open(ASKED, "w") as file:
        file.write(str(limit))
    machine.soft_reset()


def alive():
    """Feeds a watchdog, where one was switched on."""
