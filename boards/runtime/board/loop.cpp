// The board's loop: every 10 ms it reads, thinks and gives orders. A tick that comes 100 ms late stops all motors.
#include "contract.h"

using namespace pebble;

constexpr uint32_t TICK_US = 10000, LATEST_US = 100000;

namespace pebble {
void senseAll();
void giveOrders();
}

uint16_t lateTicks;

/** Braked; after a crash free, as in reset. */
static void allOff() {
  const Mode off = halCrashed() ? Mode::coast : Mode::brake;
  for (uint8_t i = 0; i + 1 <= robot::MOTORS; i += 1) halMotor(i, off, 0);
}

/** A hobby servo tells nothing: this is what its make promises. */
static void followServos() {
  for (uint8_t i = 0; i + 1 <= robot::SERVOS; i += 1) {
    auto &servo = senses.servos[i];
    const real before = servo.angle;
    if (robot::SERVO_CONTINUOUS[i]) servo.rate = orders.servos[i].share * robot::SERVO_SPEED[i];
    else {
      servo.angle = approach(before, orders.servos[i].target, robot::SERVO_SPEED[i] * TICK);
      servo.rate = (servo.angle - before) / TICK;
    }
    servo.held = NAN;
  }
}

static void readAll() {
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) senses.counts[i] = halCounts(robot::SHAFT_MOTOR[i]);
  for (uint8_t i = 0; i + 1 <= robot::MOTORS; i += 1) senses.motorCounts[i] = halCounts(i);
  if (robot::GYRO) {
    senses.gyroRate = halGyro();
    senses.gyroTime = TICK;
  }
  senses.volts = halVolts();
  if (uses::TURNED || robot::STEERING_SERVO != 255) followServos();
  readSensors();
  senses.driven = senses.driven || senses.heard;
}

static void orderAll() {
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) halMotor(robot::SHAFT_MOTOR[i], orders.mode, orders.duties[i]);
  for (uint8_t i = 0; i + 1 <= robot::MOTORS; i += 1)
    if (!robot::DRIVES[i]) halMotor(i, orders.motors[i].mode, orders.motors[i].duty);
  for (uint8_t i = 0; i + 1 <= robot::SERVOS; i += 1) {
    if (robot::SERVO_CONTINUOUS[i]) halServoSpeed(i, orders.servos[i].share);
    else halServo(i, i == robot::STEERING_SERVO ? orders.steer + robot::STEERING_CENTRE : orders.servos[i].target);
  }
}

int main() {
  halBegin();
  allOff();
  begin();
  for (uint8_t i = 0; i + 1 <= robot::SERVOS; i += 1) senses.servos[i].angle = robot::SERVO_REST[i];
  linkBegin();
  uint32_t due = halMicros();
  for (;;) {
    const uint32_t late = halMicros() - due;
    if (late >= 0x80000000u) {
      linkListen();
      linkPump();
      halIdle(0 - late);
      continue;
    }
    if (late > TICK_US) lateTicks += 1;
    if (late > LATEST_US) {
      allOff();
      due = halMicros();
    }
    due += TICK_US;
    halAlive();
    linkTick();
    readAll();
    if (uses::LIVE && link.doing == Link::DRIVEN) {
      senseAll();
      linkDrives();
      giveOrders();
      tick += 1;
    } else if (link.doing == Link::RUNS || missionEnded) {
      step();
    }
    if (link.doing == Link::WAITS && !missionEnded) allOff();
    else orderAll();
  }
}
