// The host board: senses come in by one pipe, orders go out by another, tick by tick. For holding the runtime against the
// rehearsal; docs/formats.md tells the bytes. On an emulated chip the same goes through registers nobody else uses.
#include <stdlib.h>
#include <string.h>

#include "pebble.h"

using namespace pebble;

#ifdef __AVR__
#include <avr/io.h>

/** Letters go through one register, numbers byte by byte through another; a third says when the brain works. */
static void letter(char c) { GPIOR0 = c; }

static void say(real value) {
  const uint8_t *bytes = reinterpret_cast<const uint8_t *>(&value);
  for (uint8_t i = 0; i < sizeof value; i += 1) GPIOR1 = bytes[i];
}

static real number() {
  real value;
  uint8_t *bytes = reinterpret_cast<uint8_t *>(&value);
  for (uint8_t i = 0; i < sizeof value; i += 1) bytes[i] = GPIOR1;
  return value;
}

static void flush() {}
static void works(bool now) { GPIOR2 = now; }
static int over() {
  GPIOR2 = 2;
  return 0;
}
#else
#include <stdio.h>

static void letter(char c) {
  if (fputc(c, stdout) == EOF) exit(3);
}

static void say(double value) {
  if (fwrite(&value, sizeof value, 1, stdout) != 1) exit(3);
}

static double number() {
  double value;
  if (fread(&value, sizeof value, 1, stdin) != 1) exit(0);
  return value;
}

static void flush() { fflush(stdout); }
static void works(bool) {}
static int over() { return 0; }
#endif

namespace pebble {

void boardStep(uint16_t step, uint8_t task, uint32_t from, uint32_t to, End how) {
  letter('S');
  say(step);
  say(task);
  say(from);
  say(to);
  say(uint8_t(how));
}

void boardEnd(Why why, uint16_t a, uint16_t b) {
  letter('E');
  say(uint8_t(why));
  say(a);
  say(b);
}

void boardSay(uint8_t kind, const char *text) {
  letter('T');
  say(kind);
  say(strlen(text));
  while (*text) letter(*text++);
}

real boardChance() {
  letter('R');
  flush();
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
  // Where nobody drives there is no room for them.
  for (uint8_t i = 0; i < 4; i += 1) senses.sticks[uses::HAND ? i : 0] = number();
  for (uint8_t i = 0; i < 4; i += 1) senses.levels[uses::HAND ? i : 0] = number();
  senses.buttons = number();
}

static void writeOrders() {
  letter('C');
  say(uint8_t(orders.mode));
  for (real duty : orders.duties) say(duty);
  say(orders.steer);
  for (uint8_t i = 0; i + 1 <= robot::MOTORS; i += 1) {
    say(uint8_t(orders.motors[i].mode));
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
    if (number() != 1) return over();
    readSenses();
    works(true);
    step();
    works(false);
    writeOrders();
    flush();
  }
}
