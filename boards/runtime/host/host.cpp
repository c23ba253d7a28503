// The host board: senses come in by one pipe, orders go out by another, tick by tick. For holding the runtime against the
// rehearsal; docs/formats.md tells the bytes.
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "pebble.h"

using namespace pebble;

static void out(const void *bytes, size_t count) {
  if (fwrite(bytes, 1, count, stdout) != count) exit(3);
}

static void in(void *bytes, size_t count) {
  if (fread(bytes, 1, count, stdin) != count) exit(0);
}

static double number() {
  double value;
  in(&value, sizeof value);
  return value;
}

static void say(double value) { out(&value, sizeof value); }

namespace pebble {

void boardStep(uint16_t step, uint8_t task, uint32_t from, uint32_t to, End how) {
  out("S", 1);
  const double row[] = {double(step), double(task), double(from), double(to), double(how)};
  out(row, sizeof row);
}

void boardEnd(Why why, uint16_t a, uint16_t b) {
  out("E", 1);
  const double row[] = {double(why), double(a), double(b)};
  out(row, sizeof row);
}

void boardSay(uint8_t kind, const char *text) {
  out("T", 1);
  const double row[] = {double(kind), double(strlen(text))};
  out(row, sizeof row);
  out(text, strlen(text));
}

real boardChance() {
  out("R", 1);
  fflush(stdout);
  return number();
}

}  // namespace pebble

static void readSenses() {
  for (int32_t &counts : senses.counts) counts = number();
  senses.gyroRate = number();
  senses.gyroTime = number();
  senses.volts = number();
  senses.amps = number();
  for (uint8_t i = 0; i + 1 <= robot::MOTORS; i += 1) senses.motorCounts[i] = number();
  for (uint8_t i = 0; i + 1 <= robot::MOTORS; i += 1) senses.heat[i] = number();
  for (uint8_t i = 0; i + 1 <= robot::SERVOS; i += 1) {
    senses.servos[i].angle = number();
    senses.servos[i].rate = number();
    senses.servos[i].held = number();
  }
  for (uint8_t i = 0; i + 1 <= robot::VALUES; i += 1) senses.values[i] = number();
  for (uint8_t i = 0; i + 1 <= robot::SENSORS; i += 1) senses.told[i] = number() != 0;
  for (uint8_t i = 0; i + 1 <= robot::ATTACHMENTS; i += 1) senses.holds[i] = number() != 0;
  senses.driven = number() != 0;
  senses.heard = number() != 0;
  for (real &stick : senses.sticks) stick = number();
  for (real &level : senses.levels) level = number();
  senses.buttons = number();
}

static void writeOrders() {
  out("C", 1);
  say(double(orders.mode));
  for (real duty : orders.duties) say(duty);
  say(orders.steer);
  for (uint8_t i = 0; i + 1 <= robot::MOTORS; i += 1) {
    say(double(orders.motors[i].mode));
    say(orders.motors[i].duty);
  }
  for (uint8_t i = 0; i + 1 <= robot::SERVOS; i += 1) {
    say(orders.servos[i].target);
    say(orders.servos[i].share);
  }
}

int main() {
  begin();
  for (;;) {
    // The first number is 1 for one more tick.
    if (number() != 1) return 0;
    readSenses();
    step();
    writeOrders();
    fflush(stdout);
  }
}
