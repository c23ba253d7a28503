// Motors and servos beside the drive: to an angle along a trapezoid of speed, then hold; on and on at a speed; or gently
// against an end stop.
#include "motions.h"

namespace pebble {

constexpr real RATE_SMOOTHING = 0.35;
constexpr real GAIN_PART = 5, GAIN_PART_INTEGRAL = 8, MOST_INTEGRAL = 0.5;
constexpr real PART_NEAR = HALF_TURN / 120, PART_SLOW = 0.35, PART_SETTLE = 0.6, PART_LEAD = 0.25;
constexpr real PART_STALL_DUTY = 0.25, PART_STALL_RATE = 0.06, PART_STALL_SEC = 0.15;
constexpr real SERVO_NEAR = 0.009, SERVO_SLOW = 0.05;

/** A motor beside the drive as its encoder tells it. */
struct FeltMotor {
  real zero, before, rate;
  bool begun;
};
static FeltMotor felt[uses::TURNED ? robot::MOTORS + 1 : 1];

/** What a motor or servo is doing: one of them at a time. */
struct PartMotion {
  enum Kind : uint8_t { none, turn, home } kind;
  uint8_t part;
  uint16_t serial;
  bool arrived, stalled, endless, holds;
  int8_t sign;
  real start, duty, integral, settling, held, stuck;
  Profile profile;
};
static PartMotion motions[uses::MOVES ? robot::MOVERS + 1 : 1];
static uint16_t serials;

/** Angles of parts that only a potentiometer tells: how fast they change. */
struct Turning {
  real last, rate;
};
static Turning turnings[uses::TURNED ? robot::PARTS + 1 : 1];

PartSheet sheet(uint8_t part) { return flash(PARTS[part]); }

uint8_t moverOf(uint8_t part) { return sheet(part).mover; }

static real motorTurned(uint8_t motor) {
  const real perTurn = robot::MOTOR_COUNTS[motor];
  return perTurn == 0 ? real(0) : senses.motorCounts[motor] * WHOLE_TURN / perTurn;
}

real partAngle(uint8_t part) {
  const PartSheet p = sheet(part);
  if (p.servo != 255) return senses.servos[p.servo].angle;
  if (p.potentiometer != 255) return senses.values[p.potentiometer] * p.potentiometerRatio;
  return p.motor == 255 ? real(0) : (motorTurned(p.motor) - felt[p.motor].zero) / p.ratio;
}

static real partRate(uint8_t part) {
  const PartSheet p = sheet(part);
  if (p.servo != 255) return senses.servos[p.servo].rate;
  if (p.potentiometer != 255) return turnings[part].rate;
  return p.motor == 255 ? real(0) : felt[p.motor].rate / p.ratio;
}

void partZero(uint8_t part) {
  if (!uses::TURNED) return;
  const uint8_t motor = sheet(part).motor;
  if (motor != 255) felt[motor].zero = motorTurned(motor);
  placeReadings();
}

/** An order of a share of the voltage, or of a servo's own speed. */
void partPower(uint8_t part, Mode mode, real duty) {
  const PartSheet p = sheet(part);
  const real share = mode == Mode::drive ? clamp(duty, 1) : real(0);
  if (p.motor != 255) {
    orders.motors[p.motor].mode = mode;
    orders.motors[p.motor].duty = share;
  } else if (p.servo != 255 && p.continuous) {
    orders.servos[p.servo].share = share;
  }
}

void partAim(uint8_t part, real rad) {
  const PartSheet p = sheet(part);
  if (p.servo != 255) orders.servos[p.servo].target = between(rad, p.low, p.high);
}

bool partSettled(uint8_t part) {
  const PartSheet p = sheet(part);
  if (p.servo == 255) return true;
  const auto &raw = senses.servos[p.servo];
  const auto &order = orders.servos[p.servo];
  if (p.continuous) return order.share == 0 && raw.rate == 0;
  // Told to close further than what it grips lets it.
  const bool presses = !isnan(raw.held) && order.target < raw.held && raw.angle <= raw.held + real(1e-6);
  return (size(order.target - raw.angle) < SERVO_NEAR || presses) && size(raw.rate) < SERVO_SLOW;
}

real partEyeAge(uint8_t part) {
  const PartSheet p = sheet(part);
  if (p.ageCount == 0) return -1;
  real oldest = 0;
  for (uint8_t i = 0; i < p.ageCount; i += 1) oldest = most(oldest, senses.values[p.ages[i]]);
  return oldest;
}

void partFound(uint8_t part, real nearest, real clearest) {
  const PartSheet p = sheet(part);
  readings[p.scanSlot] = nearest + p.aim;
  readings[p.scanSlot + 1] = clearest + p.aim;
}

// ---- Motions

static PartMotion &newMotion(uint8_t part, PartMotion::Kind kind) {
  PartMotion &motion = motions[moverOf(part)];
  motion = PartMotion();
  motion.kind = kind;
  motion.part = part;
  motion.serial = ++serials;
  motion.held = NAN;
  return motion;
}

void beginTurnPart(uint8_t part, real way, bool endless, int8_t sign, real rate, real duty) {
  const real start = partAngle(part);
  PartMotion &motion = newMotion(part, PartMotion::turn);
  motion.start = start;
  motion.endless = endless;
  motion.sign = endless ? sign : way < 0 ? -1 : 1;
  motion.duty = duty;
  rate = most(0.02, rate);
  motion.profile.set(endless ? ENDLESS : size(way), rate, most(4, rate * 5), 0, 0);
}

void beginHomePart(uint8_t part, int8_t sign, real duty) {
  PartMotion &motion = newMotion(part, PartMotion::home);
  motion.sign = sign;
  motion.duty = duty;
}

uint16_t partSerial(uint8_t part) { return motions[moverOf(part)].serial; }
bool partArrived(uint8_t part) { return motions[moverOf(part)].arrived; }
bool partStalled(uint8_t part) { return motions[moverOf(part)].stalled; }
real partExpected(uint8_t part) {
  const PartMotion &motion = motions[moverOf(part)];
  return motion.endless ? ENDLESS : motion.profile.expected() + real(0.2);
}

/** Pushed and not moving for a while. */
static bool stuck(PartMotion &motion, real duty, real rate) {
  motion.stuck = size(duty) > PART_STALL_DUTY && size(rate) < PART_STALL_RATE ? motion.stuck + TICK : real(0);
  return motion.stuck >= PART_STALL_SEC - ALMOST;
}

static void tickTurnPart(PartMotion &motion) {
  const uint8_t part = motion.part;
  const PartSheet p = sheet(part);
  Profile &plan = motion.profile;
  const bool holds = !isnan(motion.held);
  if (!holds && motion.sign * (motion.start + motion.sign * plan.distance - partAngle(part)) < PART_LEAD) plan.advance();
  const real wanted = holds ? motion.held : motion.start + motion.sign * plan.distance;
  const real off = wanted - partAngle(part), rate = partRate(part);
  if (p.servo != 255) {
    partAim(part, wanted);
  } else {
    const real planned = !holds && !plan.done() ? motion.sign * plan.speed : real(0);
    motion.integral = clamp(motion.integral + GAIN_PART_INTEGRAL * off * TICK, MOST_INTEGRAL);
    const real duty = clamp(planned / p.topRate + GAIN_PART * off + motion.integral, motion.duty);
    partPower(part, Mode::drive, duty);
    if (!holds && stuck(motion, duty, rate)) {
      motion.stalled = true;
      motion.integral = 0;
      motion.held = partAngle(part);
    }
  }
  if (motion.endless || !plan.done() || motion.arrived) return;
  motion.settling += TICK;
  const bool there = p.servo != 255 ? partSettled(part) : size(off) < PART_NEAR && size(rate) < PART_SLOW;
  motion.arrived = there || motion.settling >= PART_SETTLE - ALMOST;
}

static void tickHomePart(PartMotion &motion) {
  if (motion.arrived) return partPower(motion.part, Mode::brake, 0);
  partPower(motion.part, Mode::drive, motion.sign * motion.duty);
  if (!stuck(motion, motion.duty, partRate(motion.part))) return;
  partZero(motion.part);
  motion.arrived = true;
}

/** Once a tick: how fast motors and parts turn. */
void partsFollow() {
  for (uint8_t i = 0; i < robot::MOTORS; i += 1) {
    if (robot::DRIVES[i] || tick == 0) continue;
    FeltMotor &motor = felt[i];
    const real now = motorTurned(i);
    if (motor.begun) motor.rate += RATE_SMOOTHING * ((now - motor.before) / TICK - motor.rate);
    motor.begun = true;
    motor.before = now;
    if (robot::MOTOR_COUNTS[i] == 0) continue;
    const uint8_t base = MOTORS + 4 * i;
    readings[base] = now - motor.zero;
    readings[base + 1] = motor.rate;
    readings[base + 2] = size(orders.motors[i].duty) > PART_STALL_DUTY && size(motor.rate) < real(0.05) ? 1 : 0;
  }
  for (uint8_t i = 0; i < robot::PARTS; i += 1) {
    if (sheet(i).potentiometer == 255) continue;
    const real now = partAngle(i);
    turnings[i].rate += RATE_SMOOTHING * ((now - turnings[i].last) / TICK - turnings[i].rate);
    turnings[i].last = now;
  }
}

void partsTick() {
  for (PartMotion &motion : motions) {
    if (motion.kind == PartMotion::turn) tickTurnPart(motion);
    else if (motion.kind == PartMotion::home) tickHomePart(motion);
  }
}

/** The mission is over: what turned stops. */
void partsStop() {
  if (uses::MOVES)
    for (PartMotion &motion : motions) motion.kind = PartMotion::none;
  for (uint8_t i = 0; i < robot::SERVOS; i += 1) orders.servos[i].share = 0;
  for (uint8_t i = 0; i < robot::MOTORS; i += 1) {
    if (robot::DRIVES[i]) continue;
    orders.motors[i].mode = Mode::brake;
    orders.motors[i].duty = 0;
  }
}

/** Power of a part by a step: what moved it before lets go. */
void motorPower(uint8_t part, Mode mode, real duty) {
  if (uses::MOVES) motions[moverOf(part)].kind = PartMotion::none;
  if (robot::ON_OFF) duty = duty >= real(0.5) ? 1 : duty <= real(-0.5) ? -1 : 0;
  partPower(part, mode, duty);
}

}  // namespace pebble
