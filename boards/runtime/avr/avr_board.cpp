// An ATmega328P at 16 MHz: motors behind bridges, encoders and echoes by interrupt, a gyro and a colour sensor on the
// two-wire bus, analogue and digital lines, servos. pins.h says which line is which. Registers are those of its data sheet.
#include "contract.h"

#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>
#include <avr/wdt.h>
#include <stdlib.h>
#include <string.h>
#include <util/atomic.h>
#include <util/delay.h>

#include "pins.h"

using namespace pebble;
using pins::NO_PIN;

constexpr uint32_t BAUD = 115200;
/** Timer 1 counts half microseconds. */
constexpr uint8_t PER_US = 2;
// A servo's pulse, microseconds: in its middle, for each radian, and of one that turns on and on for its whole speed.
constexpr real SERVO_MIDDLE_US = 1500, SERVO_US_PER_RAD = 636.6, SERVO_SPEED_US = 500;
constexpr uint16_t SERVO_LEAST_US = 500, SERVO_MOST_US = 2500;
/** Sound in air of 20 deg C; later echoes are none. */
constexpr real SOUND_M_US = 343.2e-6;
constexpr uint16_t ECHO_MOST_US = 24000;
constexpr uint8_t PING_TICKS = 4, DEBOUNCE_TICKS = 2;

// ---- Lines: eight to a port; the registers of a port stand side by side

static volatile uint8_t &inputs(uint8_t pin) { return *reinterpret_cast<volatile uint8_t *>(0x23 + 3 * (pin >> 3)); }
static volatile uint8_t &ways(uint8_t pin) { return *reinterpret_cast<volatile uint8_t *>(0x24 + 3 * (pin >> 3)); }
static volatile uint8_t &levels(uint8_t pin) { return *reinterpret_cast<volatile uint8_t *>(0x25 + 3 * (pin >> 3)); }
static uint8_t bitOf(uint8_t pin) { return 1 << (pin & 7); }
static bool isHigh(uint8_t pin) { return inputs(pin) & bitOf(pin); }

static void setLevel(uint8_t pin, bool high) {
  ATOMIC_BLOCK(ATOMIC_RESTORESTATE) {
    if (high) levels(pin) |= bitOf(pin);
    else levels(pin) &= ~bitOf(pin);
  }
}

static void asOutput(uint8_t pin) {
  if (pin == NO_PIN) return;
  setLevel(pin, false);
  ways(pin) |= bitOf(pin);
}

static void asInput(uint8_t pin, bool pullUp) {
  if (pin == NO_PIN) return;
  ways(pin) &= ~bitOf(pin);
  setLevel(pin, pullUp);
}

/** A change of this line interrupts. */
static void listenTo(uint8_t pin) {
  const uint8_t port = pin >> 3;
  PCICR |= 1 << port;
  *reinterpret_cast<volatile uint8_t *>(0x6b + port) |= bitOf(pin);
}

// ---- Time

static volatile uint16_t overflows;
ISR(TIMER1_OVF_vect) { overflows += 1; }

/** Half microseconds. */
static uint32_t halves() {
  uint16_t high = 0, low = 0;
  ATOMIC_BLOCK(ATOMIC_RESTORESTATE) {
    low = TCNT1;
    high = overflows;
    if ((TIFR1 & _BV(TOV1)) && low < 0x8000) high += 1;
  }
  return uint32_t(high) << 16 | low;
}

uint32_t halMicros() {
  // It has to run over where 32 bits do.
  static uint32_t before, micros, rest;
  const uint32_t now = halves(), passed = now - before + rest;
  before = now;
  rest = passed % PER_US;
  return micros += passed / PER_US;
}

// ---- The serial line: what comes in waits in a ring until the next look, what goes out in the link's

constexpr uint8_t IN_RING = uses::LINK ? 32 : 1;
static volatile uint8_t inRing[IN_RING], inFrom, inTo;

ISR(USART_RX_vect) {
  const uint8_t byte = UDR0, next = (inTo + 1) % IN_RING;
  if (next == inFrom) return;
  inRing[inTo] = byte;
  inTo = next;
}

int16_t halHear() {
  if (inFrom == inTo) return -1;
  const uint8_t byte = inRing[inFrom];
  inFrom = (inFrom + 1) % IN_RING;
  return byte;
}

ISR(USART_UDRE_vect) {
  const int16_t byte = linkNext();
  if (byte < 0) UCSR0B &= ~_BV(UDRIE0);
  else UDR0 = byte;
}

void halTell() { UCSR0B |= _BV(UDRIE0); }
void halPause() { _delay_us(10); }

EMPTY_INTERRUPT(TIMER1_COMPB_vect)

/** Sleeps until then; each interrupt wakes it. */
void halIdle(uint32_t us) {
  constexpr uint16_t MOST_US = 10000, TOO_SHORT_US = 60;
  if (us < TOO_SHORT_US) return;
  cli();
  OCR1B = TCNT1 + uint16_t(us > MOST_US ? MOST_US : us) * PER_US;
  TIFR1 = _BV(OCF1B);
  TIMSK1 |= _BV(OCIE1B);
  const bool quiet = inFrom == inTo;
  sleep_enable();
  // Interrupts are on again only after the next instruction: none can come between.
  sei();
  if (quiet) sleep_cpu();
  TIMSK1 &= ~_BV(OCIE1B);
}

// ---- Motors: one line is pulsed at 7.8 kHz by a timer, the other says which way

/** The timer's share register of a line, and whether its output is switched on. */
static volatile uint8_t &shareOf(uint8_t pin) {
  return pin == pins::D6 ? OCR0A : pin == pins::D5 ? OCR0B : pin == pins::B3 ? OCR2A : OCR2B;
}
static void pulse(uint8_t pin, uint8_t share) {
  const bool first = pin == pins::D6 || pin == pins::B3, timer0 = pin == pins::D6 || pin == pins::D5;
  volatile uint8_t &control = timer0 ? TCCR0A : TCCR2A;
  const uint8_t output = first ? _BV(COM0A1) : _BV(COM0B1);
  if (share == 0 || share == 255 || robot::ON_OFF) {
    control &= ~output;
    setLevel(pin, share >= 128);
    return;
  }
  shareOf(pin) = share;
  control |= output;
}

void halMotor(uint8_t motor, Mode mode, real duty) {
  const uint8_t line = flash(pins::MOTOR_PULSE[motor]), way = flash(pins::MOTOR_WAY[motor]);
  if (line == NO_PIN || way == NO_PIN) return;
  // Both high brakes, both low lets it coast; backwards the pulses are of the low half. No voltage is a brake, not a motor
  // that is let go: a drive that is only switched on and off counts on it.
  const bool drives = mode == Mode::drive;
  const uint8_t share = drives ? uint8_t(rounded(size(clamp(duty, 1)) * 255)) : 0;
  const bool brakes = mode == Mode::brake || (drives && share == 0), back = share > 0 && duty < 0;
  setLevel(way, back || brakes);
  pulse(line, brakes ? 255 : back ? 255 - share : share);
}

// ---- Encoders and echoes: a change of a line interrupts

constexpr uint8_t MOTOR_COUNT = robot::MOTORS;
static volatile int32_t counted[MOTOR_COUNT + 1];

/** Of each sensor: when its echo began, how long it was; 0 is none. */
static volatile uint16_t echoBegan;
static volatile uint16_t echoLasted;
static volatile uint8_t pinged = 255;

#if PINS_LISTEN
static uint8_t channels[MOTOR_COUNT + 1];

static void linesChanged() {
  for (uint8_t i = 0; i < MOTOR_COUNT; i += 1) {
    if (flash(pins::ENCODER_A[i]) == NO_PIN || flash(pins::ENCODER_B[i]) == NO_PIN) continue;
    // In the order 0, 1, 3, 2 it turns forward.
    const uint8_t a = isHigh(flash(pins::ENCODER_A[i])), b = isHigh(flash(pins::ENCODER_B[i]));
    const uint8_t now = a << 1 | (a ^ b), moved = (now - channels[i]) & 3;
    channels[i] = now;
    if (moved == 1) counted[i] += 1;
    else if (moved == 3) counted[i] -= 1;
  }
  if (pinged == 255) return;
  const uint16_t time = TCNT1;
  const bool high = isHigh(flash(pins::SENSOR_ECHO[pinged]));
  if (high && echoBegan == 0) echoBegan = time | 1;
  else if (!high && echoBegan != 0 && echoLasted == 0) echoLasted = (time - echoBegan) | 1;
}
ISR(PCINT0_vect) { linesChanged(); }
// The others go on there: an alias would be written out whole.
ISR(PCINT1_vect, ISR_NAKED) { asm("rjmp __vector_3"); }
ISR(PCINT2_vect, ISR_NAKED) { asm("rjmp __vector_3"); }
#endif

int32_t halCounts(uint8_t motor) {
  int32_t counts = 0;
  ATOMIC_BLOCK(ATOMIC_RESTORESTATE) { counts = counted[motor]; }
  return counts;
}

/** The newest of each distance sensor: m, and ticks since it was asked for. */
static real heardAt[robot::SENSORS + 1];
static uint8_t heardAge[robot::SENSORS + 1];
static uint8_t pingTicks, pingTurn;

static bool isEye(uint8_t sensor) { return flash(pins::SENSOR_ECHO[sensor]) != NO_PIN; }

/** One eye asks at a time, so that none hears another's ping. */
static void pings() {
  for (uint8_t i = 0; i < robot::SENSORS; i += 1)
    if (heardAge[i] < 255) heardAge[i] += 1;
  pingTicks += 1;
  if (pingTicks < PING_TICKS && pinged != 255 && echoLasted == 0) return;
  if (pinged != 255) {
    const uint16_t us = echoLasted / PER_US;
    heardAt[pinged] = us > 0 && us < ECHO_MOST_US ? us * SOUND_M_US / 2 : real(NAN);
    heardAge[pinged] = pingTicks;
  }
  for (uint8_t i = 0; i < robot::SENSORS; i += 1) {
    pingTurn = pingTurn + 1 < robot::SENSORS ? pingTurn + 1 : 0;
    if (!isEye(pingTurn)) continue;
    pinged = 255;
    echoBegan = echoLasted = 0;
    setLevel(flash(pins::SENSOR[pingTurn]), true);
    const uint32_t from = halves();
    while (halves() - from < 12 * PER_US) {
    }
    setLevel(flash(pins::SENSOR[pingTurn]), false);
    pinged = pingTurn;
    pingTicks = 0;
    return;
  }
}

real halEcho(uint8_t sensor) { return heardAt[sensor]; }
real halEchoAge(uint8_t sensor) { return heardAge[sensor]; }

// ---- Voltages and switches

static uint16_t measure(uint8_t pin) {
  ADMUX = _BV(REFS0) | (pin & 7);
  ADCSRA |= _BV(ADSC);
  while (ADCSRA & _BV(ADSC)) {
  }
  return ADC;
}

real halLevel(uint8_t sensor, uint8_t line) {
  const uint8_t pin = flash(pins::SENSOR_LEVEL[sensor][line]);
  return pin == NO_PIN ? real(0) : measure(pin) / real(1023);
}

real halVolts() {
  return pins::BATTERY == NO_PIN ? robot::NOMINAL_VOLTS : measure(pins::BATTERY) * (pins::BATTERY_FULL_VOLTS / 1023);
}

static bool pressed[robot::SENSORS + 1];
static uint8_t changed[robot::SENSORS + 1];

/** A line has to stay for two ticks to count. */
bool halInput(uint8_t sensor) {
  const uint8_t pin = flash(pins::SENSOR[sensor]);
  if (pin == NO_PIN) return false;
  const bool now = isHigh(pin) != flash(pins::SENSOR_PULL_UP[sensor]);
  changed[sensor] = now != pressed[sensor] ? changed[sensor] + 1 : 0;
  if (changed[sensor] >= DEBOUNCE_TICKS) {
    pressed[sensor] = now;
    changed[sensor] = 0;
  }
  return pressed[sensor];
}

// ---- The two-wire bus at 400 kHz; a device that does not answer within a while is left alone

static bool busWaits() {
  // Nine bits take 22.5 us: nothing is asked before.
  _delay_us(24);
  for (uint16_t i = 0; i < 1000; i += 1)
    if (TWCR & _BV(TWINT)) return true;
  return false;
}
static bool busDoes(uint8_t how) {
  TWCR = _BV(TWINT) | _BV(TWEN) | how;
  return busWaits();
}
static bool busSends(uint8_t byte) {
  TWDR = byte;
  // Taken, by a device that was addressed or that gets a byte.
  return busDoes(0) && ((TWSR & 0xf8) == 0x18 || (TWSR & 0xf8) == 0x28 || (TWSR & 0xf8) == 0x40);
}
static void busStops() { TWCR = _BV(TWINT) | _BV(TWEN) | _BV(TWSTO); }

static bool busWrite(uint8_t device, uint8_t place, uint8_t value) {
  const bool done = busDoes(_BV(TWSTA)) && busSends(device << 1) && busSends(place) && busSends(value);
  busStops();
  return done;
}
static bool busRead(uint8_t device, uint8_t place, uint8_t *into, uint8_t count) {
  bool done = busDoes(_BV(TWSTA)) && busSends(device << 1) && busSends(place) && busDoes(_BV(TWSTA)) &&
              busSends(device << 1 | 1);
  for (uint8_t i = 0; done && i < count; i += 1) {
    done = busDoes(i + 1 < count ? _BV(TWEA) : 0);
    into[i] = TWDR;
  }
  busStops();
  return done;
}

// A common gyro: awake, range of 500 deg/s, its z axis in registers 0x47 and 0x48. A common colour sensor: red, green and
// blue from register 0x16 on. Both by their public data sheets.
constexpr uint8_t GYRO_DEVICE = 0x68, COLOUR_DEVICE = 0x29, COLOUR_COMMAND = 0xa0;

real halGyro() {
  uint8_t bytes[2];
  if (!busRead(GYRO_DEVICE, 0x47, bytes, 2)) return 0;
  return int16_t(uint16_t(bytes[0]) << 8 | bytes[1]) * real(2.66462e-4);
}

void halColour(uint8_t, real *light) {
  uint8_t bytes[6];
  if (!busRead(COLOUR_DEVICE, COLOUR_COMMAND | 0x16, bytes, 6)) return;
  for (uint8_t i = 0; i < 3; i += 1) light[i] = (bytes[2 * i] | uint16_t(bytes[2 * i + 1]) << 8) / real(65535);
}

// ---- Servos: one pulse after another, every 20 ms

constexpr uint8_t SERVO_COUNT = robot::SERVOS;
static volatile uint16_t pulses[SERVO_COUNT + 1];
static volatile uint8_t pulsing;

#if PINS_SERVOS
static uint8_t nextServo(uint8_t i) {
  while (i < SERVO_COUNT && (flash(pins::SERVO[i]) == NO_PIN || pulses[i] == 0)) i += 1;
  return i;
}
ISR(TIMER1_COMPA_vect) {
  levels(flash(pins::SERVO[pulsing])) &= ~bitOf(flash(pins::SERVO[pulsing]));
  pulsing = nextServo(pulsing + 1);
  if (pulsing >= SERVO_COUNT) {
    TIMSK1 &= ~_BV(OCIE1A);
    return;
  }
  levels(flash(pins::SERVO[pulsing])) |= bitOf(flash(pins::SERVO[pulsing]));
  OCR1A += pulses[pulsing];
}
static void beginPulses() {
  const uint8_t first = nextServo(0);
  if (first >= SERVO_COUNT) return;
  ATOMIC_BLOCK(ATOMIC_RESTORESTATE) {
    pulsing = first;
    levels(flash(pins::SERVO[first])) |= bitOf(flash(pins::SERVO[first]));
    OCR1A = TCNT1 + pulses[first];
    TIFR1 = _BV(OCF1A);
    TIMSK1 |= _BV(OCIE1A);
  }
}
#endif
static void servoPulse(uint8_t servo, real us) {
  if (!PINS_SERVOS) return;
  const uint16_t width = uint16_t(between(us, SERVO_LEAST_US, SERVO_MOST_US)) * PER_US;
  ATOMIC_BLOCK(ATOMIC_RESTORESTATE) { pulses[servo] = width; }
}
void halServo(uint8_t servo, real rad) { servoPulse(servo, SERVO_MIDDLE_US + rad * SERVO_US_PER_RAD); }
void halServoSpeed(uint8_t servo, real share) { servoPulse(servo, SERVO_MIDDLE_US + share * SERVO_SPEED_US); }

// ---- The board

real halChance() {
  static uint32_t state;
  // The last bits of a voltage are chance enough to begin with.
  if (state == 0) state = halves() ^ uint32_t(measure(0)) << 12 ^ 2463534242u;
  state ^= state << 13;
  state ^= state >> 17;
  state ^= state << 5;
  return (state >> 8) / real(16777216);
}

/** Kept where no start clears it: that the program was asked to begin anew, with its limit. */
static uint16_t asked __attribute__((section(".noinit")));
constexpr uint16_t ASKED = 0xa500;

void halRestart(uint8_t limit) {
  asked = ASKED | limit;
  cli();
  wdt_enable(WDTO_15MS);
  for (;;) {
  }
}

bool halCrashed() { return (GPIOR0 & _BV(WDRF)) && (asked & 0xff00) != ASKED; }

bool halRestarted(uint8_t &limit) {
  const bool is = (asked & 0xff00) == ASKED;
  limit = uint8_t(asked);
  asked = 0;
  return is;
}

/** Before anything else: what reset the chip is kept in a register that nothing else uses; the watchdog is switched off. */
void noteReset() __attribute__((naked, used, section(".init3")));
void noteReset() {
  GPIOR0 = MCUSR;
  MCUSR = 0;
  wdt_disable();
}

void halBegin() {
  for (uint8_t i = 0; i < MOTOR_COUNT; i += 1) {
    asOutput(flash(pins::MOTOR_PULSE[i]));
    asOutput(flash(pins::MOTOR_WAY[i]));
  }
  for (uint8_t i = 0; i < MOTOR_COUNT; i += 1) {
    if (flash(pins::ENCODER_A[i]) == NO_PIN || flash(pins::ENCODER_B[i]) == NO_PIN) continue;
    asInput(flash(pins::ENCODER_A[i]), true);
    asInput(flash(pins::ENCODER_B[i]), true);
    listenTo(flash(pins::ENCODER_A[i]));
    listenTo(flash(pins::ENCODER_B[i]));
  }
  for (uint8_t i = 0; i < robot::SENSORS; i += 1) {
    heardAt[i] = NAN;
    heardAge[i] = 255;
    if (isEye(i)) {
      asOutput(flash(pins::SENSOR[i]));
      asInput(flash(pins::SENSOR_ECHO[i]), false);
      listenTo(flash(pins::SENSOR_ECHO[i]));
    } else {
      asInput(flash(pins::SENSOR[i]), flash(pins::SENSOR_PULL_UP[i]));
    }
  }
  for (uint8_t i = 0; i < SERVO_COUNT; i += 1) asOutput(flash(pins::SERVO[i]));
  // Fast pulses on timers 0 and 2, half microseconds on timer 1.
  TCCR0A = TCCR2A = _BV(WGM01) | _BV(WGM00);
  TCCR0B = _BV(CS01);
  TCCR2B = _BV(CS21);
  TCCR1A = 0;
  TCCR1B = _BV(CS11);
  TIMSK1 = _BV(TOIE1);
  // By edges, though nobody listens to these two: levels would have an emulator look at them in every cycle.
  EICRA = _BV(ISC00) | _BV(ISC10);
  ADCSRA = _BV(ADEN) | _BV(ADPS2) | _BV(ADPS1) | _BV(ADPS0);
  UCSR0A = _BV(U2X0);
  UBRR0 = F_CPU / 8 / BAUD - 1 + (F_CPU / 8 % BAUD >= BAUD / 2);
  UCSR0B = _BV(RXEN0) | _BV(TXEN0) | _BV(RXCIE0);
  sei();
  if (pins::BUS) {
    TWBR = (F_CPU / 400000 - 16) / 2;
    bool answers = true;
    if (robot::GYRO) answers = busWrite(GYRO_DEVICE, 0x6b, 0) && busWrite(GYRO_DEVICE, 0x1b, 8);
    else busWrite(COLOUR_DEVICE, COLOUR_COMMAND, 3);
    if (robot::GYRO) busWrite(COLOUR_DEVICE, COLOUR_COMMAND, 3);
    if (!answers) boardSay(0, "The gyro does not answer.");
  }
  wdt_enable(WDTO_120MS);
}

/** Once a tick. */
void halAlive() {
  static bool second;
  wdt_reset();
  if (PINS_EYES) pings();
  second = !second;
#if PINS_SERVOS
  if (second) beginPulses();
#endif
}
