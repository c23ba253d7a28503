// The drive: measures itself by encoders and gyro, and turns wanted speeds into duties.
//
// Errors of way and heading correct the wanted speed and turn rate. Each shaft's speed is then made by what the robot
// knows of its motors (feed-forward), and by what its encoder tells (proportional and integral).
#include "pebble.h"

namespace pebble {

Drive drive;

constexpr real GAIN_WAY = 9, GAIN_HEADING = 14, GAIN_SPEED = 0.9, GAIN_INTEGRAL = 8;
/** Errors larger than these are corrected as these. */
constexpr real MOST_BEHIND = 0.02, MOST_OFF = 0.35;
constexpr real SPEED_FILTER = 0.35;
/** Friction is made up for fully from this speed on. */
constexpr real FRICTION_FULL = 0.0015;
/** Difference of the sides from which tied wheels scrub fully. */
constexpr real SCRUB_FULL = 0.02;
/** Below this speed a steered axle stays where it is. */
constexpr real STEERS_FROM = 0.005;
constexpr real STALL_DUTY = 0.3, STALL_SPEED = 0.01;
constexpr uint8_t STALL_TICKS = 40;

/** One speed of the whole from the speeds of all rims. */
#if PEBBLE_MIXES
static real rims(const real (&share)[robot::SHAFTS]) {
  real sum = 0;
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) sum += share[i] * drive.shafts[i].speed;
  return sum;
}
real driveTravel() { return drive.forward; }
real driveSpeed() { return rims(robot::BACK_FORWARD); }
real driveAsideSpeed() { return rims(robot::BACK_LEFT); }
real driveWay() { return drive.forward + drive.aside; }
#else
real driveTravel() { return (drive.shafts[0].travel + drive.shafts[1].travel) / 2; }
real driveSpeed() { return (drive.shafts[0].speed + drive.shafts[1].speed) / 2; }
real driveAsideSpeed() { return 0; }
real driveWay() { return driveTravel(); }
#endif

bool driveStands() {
  return size(driveSpeed()) < real(0.005) && size(driveAsideSpeed()) < real(0.005) && size(drive.turnRate) < real(0.05);
}

/** How far a shaft's rim came in this tick. */
static real senseShaft(uint8_t i) {
  const real perCount = robot::METRES_PER_COUNT[i];
  if (perCount == 0) return 0;
  Shaft &shaft = drive.shafts[i];
  const int32_t counts = robot::DIRECTION[i] * senses.counts[i];
  const real moved = (counts - shaft.counts) * perCount;
  shaft.counts = counts;
  shaft.travel = counts * perCount;
  shaft.speed += SPEED_FILTER * (moved / TICK - shaft.speed);
  return moved;
}

static void watchStall() {
  bool pushing = drive.mode == Mode::drive, still = true;
#if PEBBLE_MIXES
  bool hard = false;
  for (const Shaft &shaft : drive.shafts) hard = hard || size(shaft.duty) > STALL_DUTY;
  pushing = pushing && hard;
#else
  for (const Shaft &shaft : drive.shafts) pushing = pushing && size(shaft.duty) > STALL_DUTY;
#endif
  for (const Shaft &shaft : drive.shafts) still = still && size(shaft.speed) < STALL_SPEED;
  const bool stuck = robot::ENCODERS && pushing && still;
  drive.stalledTicks = !stuck ? 0 : drive.stalledTicks < 255 ? drive.stalledTicks + 1 : 255;
  drive.stalled = drive.stalledTicks >= STALL_TICKS;
}

/** Takes in this tick's readings: its way by arcs of circles, its heading by the gyro where there is one. */
void driveSense(real gyroHeading, real gyroRate) {
  const real before = drive.heading;
#if PEBBLE_MIXES
  real forward = 0, left = 0, turned = 0;
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) {
    const real moved = senseShaft(i);
    forward += robot::BACK_FORWARD[i] * moved;
    left += robot::BACK_LEFT[i] * moved;
    turned += robot::BACK_TURN[i] * moved;
  }
  real rate = rims(robot::BACK_TURN);
#else
  const real movedLeft = senseShaft(0), movedRight = senseShaft(1);
  const real forward = (movedLeft + movedRight) / 2, left = 0;
#if PEBBLE_STEERS
  real turned = forward * real(tan(drive.steer)) / robot::WHEELBASE, rate = turned / TICK;
#else
  real turned = (movedRight - movedLeft) / robot::TRACK_WIDTH;
  real rate = (drive.shafts[1].speed - drive.shafts[0].speed) / robot::TRACK_WIDTH;
#endif
#endif
  if (robot::GYRO) {
    drive.heading = gyroHeading;
    rate = gyroRate;
  } else {
    drive.heading += turned;
  }
  drive.turnRate = rate;
  const real middle = (before + drive.heading) / 2;
  const real c = cos(middle), s = sin(middle);
#if PEBBLE_MIXES
  drive.forward = drive.aside = 0;
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) {
    drive.forward += robot::BACK_FORWARD[i] * drive.shafts[i].travel;
    drive.aside += robot::BACK_LEFT[i] * drive.shafts[i].travel;
  }
#endif
  drive.x += forward * c - left * s;
  drive.y += forward * s + left * c;
  drive.volts = most(0.5, senses.volts);
  watchStall();
}

static real shaftDuty(uint8_t i, real speed, real push, real limit) {
  Shaft &shaft = drive.shafts[i];
  const real friction = robot::FRICTION[i] * clamp(speed / FRICTION_FULL, 1);
  real volts = robot::VOLTS_PER_SPEED[i] * speed + robot::VOLTS_PER_NEWTON[i] * (push + friction);
  if (robot::METRES_PER_COUNT[i] != 0) {
    const real off = speed - shaft.speed;
    volts += robot::VOLTS_PER_SPEED[i] * GAIN_SPEED * off + shaft.integral;
    // Adds up only while the motor can do what is asked.
    if (size(volts) < drive.volts * limit)
      shaft.integral = clamp(shaft.integral + robot::VOLTS_PER_SPEED[i] * GAIN_INTEGRAL * off * TICK, drive.volts * real(0.3));
  }
  return clamp(volts / (drive.volts * robot::DRIVER_SHARE), limit);
}

#if PEBBLE_MIXES
static real along(uint8_t i, real x, real y, real w) {
  return robot::ROW_FORWARD[i] * x + robot::ROW_LEFT[i] * y + robot::ROW_TURN[i] * w;
}
/** Every rim at its part of the whole; where one would have to run faster than it can, all slow down alike. */
static void mixed(real x, real y, real w, real ax, real ay, real aw, real limit) {
  drive.mode = Mode::drive;
  real over = 1;
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) over = most(over, size(along(i, x, y, w)) / robot::RIM_SPEED[i]);
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) {
    const real push = robot::BACK_FORWARD[i] * robot::MASS * ax + robot::BACK_LEFT[i] * robot::MASS * ay +
                      robot::BACK_TURN[i] * robot::INERTIA * aw + robot::SPINNING[i] * along(i, ax, ay, aw);
    drive.shafts[i].duty = shaftDuty(i, along(i, x, y, w) / over, push, limit);
  }
}
#endif

/** Drives each side at a speed. */
void sides(real left, real right, real accel, real accelAcross, real limit) {
#if PEBBLE_MIXES
  mixed((left + right) / 2, 0, (right - left) / robot::TRACK_WIDTH, accel, 0, 2 * accelAcross / robot::TRACK_WIDTH, limit);
#else
  // Tied wheels scrub sideways when they turn, with the whole grip.
  const real scrub = robot::SCRUB == 0 ? real(0) : clamp((right - left) / SCRUB_FULL, 1) * robot::SCRUB;
  const real ahead = robot::SIDE_MASS * accel, across = robot::SIDE_TURN_MASS * accelAcross + scrub;
  drive.mode = Mode::drive;
  drive.shafts[0].duty = shaftDuty(0, left, ahead - across, limit);
  drive.shafts[1].duty = shaftDuty(1, right, ahead + across, limit);
#endif
}

void follow(real speed, real accel, real rate, real rateAccel, real behind, real off, real limit, real aside) {
  drive.wanted = speed;
  drive.wantedRate = rate;
  speed += GAIN_WAY * clamp(behind, MOST_BEHIND);
  rate += GAIN_HEADING * clamp(off, MOST_OFF);
#if PEBBLE_STEERS
  (void)rateAccel;
  (void)aside;
  // One motor for the speed, the axle for the turning: tan(angle) = wheelbase * rate / speed.
  drive.mode = Mode::drive;
  drive.shafts[0].duty = drive.shafts[1].duty = shaftDuty(0, speed, robot::SIDE_MASS * accel, limit);
  if (size(speed) >= STEERS_FROM) drive.steer = clamp(atan(robot::WHEELBASE * rate / speed), robot::MOST_STEER);
#elif PEBBLE_MIXES
  const real before = drive.wantedAside;
  drive.wantedAside = before + clamp(aside - before, robot::RAMP * TICK);
  mixed(speed, drive.wantedAside, rate, accel, (drive.wantedAside - before) / TICK, rateAccel, limit);
#else
  (void)aside;
  const real half = robot::TRACK_WIDTH / 2;
  sides(speed - rate * half, speed + rate * half, accel, rateAccel * half, limit);
#endif
}

void slideAlong(real speed, real accel, real behind, real ahead, real off, real limit) {
#if PEBBLE_MIXES
  drive.wanted = drive.wantedRate = 0;
  drive.wantedAside = speed;
  mixed(-GAIN_WAY * clamp(ahead, MOST_BEHIND), speed + GAIN_WAY * clamp(behind, MOST_BEHIND),
        GAIN_HEADING * clamp(off, MOST_OFF), 0, accel, 0, limit);
#else
  (void)speed, (void)accel, (void)behind, (void)ahead, (void)off, (void)limit;
#endif
}

/** Forward, left and left round at once, as a driver's sticks ask for it. */
void roam(real forward, real left, real rate) {
#if PEBBLE_MIXES
  drive.wanted = forward;
  drive.wantedAside = left;
  drive.wantedRate = rate;
  mixed(forward, left, rate, 0, 0, 0, 1);
#else
  (void)forward, (void)left, (void)rate;
#endif
}

/** A share of the pack's voltage on each side. */
void power(real left, real right) {
  drive.mode = Mode::drive;
  drive.shafts[0].duty = clamp(left, 1);
  drive.shafts[1].duty = clamp(right, 1);
#if PEBBLE_MIXES
  const real turning = (right - left) / robot::TRACK_WIDTH;
  for (uint8_t i = 2; i < robot::SHAFTS; i += 1)
    drive.shafts[i].duty =
        clamp((robot::ROW_FORWARD[i] * (left + right) / 2 + robot::ROW_TURN[i] * turning) / robot::ROW_FORWARD[0], 1);
#endif
  drive.wanted = driveSpeed();
  drive.wantedRate = drive.turnRate;
}

void release(Mode mode) {
  drive.mode = mode;
  for (Shaft &shaft : drive.shafts) shaft.duty = shaft.integral = 0;
  drive.wanted = drive.wantedAside = drive.wantedRate = 0;
}

}  // namespace pebble
