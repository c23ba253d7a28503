# The board's loop: every 10 ms it reads, thinks and gives orders. A tick that comes 100 ms late stops all motors.
import time

import board

board.all_off()

import link
import mission
import robot
import tasks
from drive import drive
from sense import give_orders, sense_all
from state import approach, orders, run, senses

TICK_US = 10000
LATEST_US = 100000


def follow_servos():
    """A hobby servo tells nothing: this is what its make promises."""
    for i in range(robot.SERVOS):
        before = senses.servo_angle[i]
        if robot.SERVO_CONTINUOUS[i]:
            senses.servo_rate[i] = orders.servo_share[i] * robot.SERVO_SPEED[i]
        else:
            senses.servo_angle[i] = approach(before, orders.servo_target[i], robot.SERVO_SPEED[i] * 0.01)
            senses.servo_rate[i] = (senses.servo_angle[i] - before) / 0.01


def read_all():
    for i in range(robot.SHAFTS):
        senses.counts[i] = board.counts(robot.SHAFT_MOTOR[i])
    for i in range(robot.MOTORS):
        senses.motor_counts[i] = board.counts(i)
    if robot.GYRO:
        senses.gyro_rate = board.gyro()
        senses.gyro_time = 0.01
    senses.volts = board.volts()
    follow_servos()
    for place, sensor, how, line, scale in robot.LINES:
        senses.values[place] = board.read(sensor, how, line) * scale
        senses.told[sensor] = True
    senses.driven = senses.driven or senses.heard


def order_all():
    for i in range(robot.SHAFTS):
        board.motor(robot.SHAFT_MOTOR[i], orders.mode, orders.duties[i])
    for i in range(robot.MOTORS):
        if not robot.DRIVES[i]:
            board.motor(i, orders.motor_mode[i], orders.motor_duty[i])
    for i in range(robot.SERVOS):
        if robot.SERVO_CONTINUOUS[i]:
            board.servo_speed(i, orders.servo_share[i])
        elif i == robot.STEERING_SERVO:
            board.servo(i, orders.steer + robot.STEERING_CENTRE)
        else:
            board.servo(i, orders.servo_target[i])


def think():
    """What the link lets it do: its mission, a driver's hands, or nothing."""
    doing = link.link.doing
    if doing == link.DRIVEN:
        sense_all()
        drive.power(link.link.left, link.link.right)
        give_orders()
        run.tick += 1
    elif doing == link.RUNS or run.ended:
        tasks.tick()
    else:
        return board.all_off()
    order_all()


def loop(ticks=None):
    """Runs until it is asked to leave, or to begin anew. `ticks` ends it after so many."""
    due = time.ticks_us()
    while ticks is None or ticks > 0:
        late = time.ticks_diff(time.ticks_us(), due)
        if late < 0:
            continue
        if late > TICK_US:
            board.late_ticks += 1
        if late > LATEST_US:
            board.all_off()
            due = time.ticks_us()
        due = time.ticks_add(due, TICK_US)
        board.alive()
        link.tick()
        if link.link.leaving or link.link.again is not None:
            return
        read_all()
        think()
        if ticks is not None:
            ticks -= 1


tasks.begin(mission.program, link.teller)
senses.servo_angle = list(robot.SERVO_REST)
if __name__ == "__main__":
    try:
        link.begin(board.asked())
        loop()
    finally:
        board.all_off()
    if link.link.again is not None:
        board.begin_anew(link.link.again)
