// Your board: fill in what each function says. It compiles as it is, and moves nothing.
#include "contract.h"

using namespace pebble;

void halBegin() {}
uint32_t halMicros() {
  static uint32_t us;
  us += 100;
  return us;
}
void halMotor(uint8_t, Mode, real) {}
int32_t halCounts(uint8_t) { return 0; }
real halGyro() { return 0; }
real halLevel(uint8_t, uint8_t) { return 0; }
bool halInput(uint8_t) { return false; }
real halEcho(uint8_t) { return NAN; }
real halEchoAge(uint8_t) { return 0; }
void halColour(uint8_t, real *light) { light[0] = light[1] = light[2] = 0; }
void halServo(uint8_t, real) {}
void halServoSpeed(uint8_t, real) {}
real halVolts() { return robot::NOMINAL_VOLTS; }
int16_t halHear() { return -1; }
void halTell() {
  while (linkNext() >= 0) {
  }
}
void halPause() {}
void halIdle(uint32_t) {}
bool halCrashed() { return false; }
void halRestart(uint8_t) {}
bool halRestarted(uint8_t &) { return false; }
real halChance() {
  static uint32_t state = 2463534242u;
  state ^= state << 13;
  state ^= state >> 17;
  state ^= state << 5;
  return state / 4294967296.0f;
}
void halAlive() {}
