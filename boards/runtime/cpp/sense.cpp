// From what the board reads to what a mission reads: the gyro is corrected and added up, the way is counted, thresholds
// and taught colours decide, taps are counted.
#include "motions.h"

namespace pebble {

Senses senses;
Orders orders;

/** What `reset` made zero. */
static struct {
  real x, y, travel, aside, heading, gyro;
} zero;
/** Sum of what the gyro told, less what it tells at rest, with what rounding lost of it (Kahan 1965). */
static real gyroSum, gyroLost;
/** Drivers that are only on or off: what is still owed of each duty. */
static real owed[robot::SHAFTS];

void placeReadings() {
  const real c = cos(zero.heading), s = sin(zero.heading), dx = drive.x - zero.x, dy = drive.y - zero.y;
  readings[TRAVEL] = driveTravel() - zero.travel;
  readings[ASIDE] = drive.aside - zero.aside;
  readings[HEADING] = drive.heading - zero.heading;
  readings[X] = c * dx + s * dy;
  readings[Y] = c * dy - s * dx;
  readings[GYRO_HEADING] = drive.heading - zero.gyro;
}

void resetRobot() {
  zero = {drive.x, drive.y, driveTravel(), drive.aside, drive.heading, zero.gyro};
  placeReadings();
}

void resetGyro() {
  zero.gyro = drive.heading;
  placeReadings();
}

void headingNow(real &gyroHeading, real &gyroRate) {
  real more = senses.gyroTime > 0 ? senses.gyroRate * senses.gyroTime : real(0);
  if (tick > 0) more -= robot::GYRO_REST * TICK;
  more -= gyroLost;
  const real sum = gyroSum + more;
  gyroLost = (sum - gyroSum) - more;
  gyroSum = sum;
  gyroHeading = gyroSum * robot::GYRO_SCALE;
  gyroRate = (senses.gyroRate - robot::GYRO_REST) * robot::GYRO_SCALE;
}

/** Fills the readings of this tick. */
void senseAll() {
  real heading, rate;
  headingNow(heading, rate);
  driveSense(heading, rate);
  readings[CLOCK] = real(tick) / 100;
  placeReadings();
  const real speed = driveSpeed();
  readings[SPEED] = speed;
  readings[CURRENT] = senses.amps;
  readings[STALLED] = drive.stalled ? 1 : 0;
  readings[VOLTAGE] = drive.volts;
  readings[GYRO_RATE] = drive.turnRate;
  readings[HOLD_GAIN] = robot::HOLD_GAIN_PER_RAD;
  readings[STOP_DISTANCE] = size(speed) * robot::STOPS_AFTER + speed * speed / (2 * robot::STOPS_WITH);
  for (uint8_t i = 0; uses::TURNED && i < robot::SHAFTS; i += 1) {
    const Shaft &shaft = drive.shafts[i];
    const uint8_t base = MOTORS + 4 * robot::SHAFT_MOTOR[i];
    readings[base] = robot::SHAFT_COUNTS[i] == 0 ? real(0) : shaft.counts * WHOLE_TURN / robot::SHAFT_COUNTS[i];
    readings[base + 1] = shaft.speed / robot::ROLL_PER_TURN[i] * WHOLE_TURN * robot::SHAFT_RATIO[i];
    readings[base + 2] = size(shaft.duty) > real(0.3) && size(shaft.speed) < real(0.01) ? 1 : 0;
  }
  for (uint8_t i = 0; i < robot::MOTORS; i += 1) readings[MOTORS + 4 * i + 3] = senses.heat[i];
  perceive();
  if (uses::TURNED) partsFollow();
  for (uint8_t i = 0; i < robot::SERVOS; i += 1) readings[robot::SERVO_SLOTS + i] = senses.servos[i].angle;
  for (uint8_t i = 0; i < robot::ATTACHMENTS; i += 1) {
    if (uses::TURNED && robot::ATTACHMENT_PART[i] != 255) readings[robot::ATTACHMENT_SLOTS + 2 * i] = partAngle(robot::ATTACHMENT_PART[i]);
    readings[robot::ATTACHMENT_SLOTS + 2 * i + 1] = senses.holds[i];
  }
}

/** Gives the drive's orders out: as the board turns its motors, on or off where it can do no more. */
void giveOrders() {
  orders.mode = drive.mode;
  for (uint8_t i = 0; i < robot::SHAFTS; i += 1) {
    real duty = drive.shafts[i].duty;
    if (robot::ON_OFF) {
      // A share of the voltage by whole ticks on and off, so that the mean is right.
      if (duty == 0) owed[i] = 0;
      owed[i] += duty;
      duty = owed[i] >= real(0.5) ? 1 : owed[i] <= real(-0.5) ? -1 : 0;
      owed[i] -= duty;
    }
    orders.duties[i] = robot::DIRECTION[i] * duty;
  }
  orders.steer = drive.steer;
}

// ---- Sensors

/** Numbers of a sensor that are read as they are. */
void asDelivered(uint8_t sensor, uint8_t from, uint8_t slot, uint8_t count) {
  if (!senses.told[sensor]) return;
  for (uint8_t i = 0; i < count; i += 1) readings[slot + i] = senses.values[from + i];
}

/** Pressed, and how often it was. */
void buttonReads(uint8_t sensor, uint8_t from, uint8_t slot) {
  if (!senses.told[sensor]) return;
  const real now = senses.values[from];
  // The reading of the tick before is what it was.
  if (now == 1 && readings[slot] == 0) readings[slot + 1] += 1;
  readings[slot] = now;
}

/** One that sees nothing reads its far limit. */
void eyeReads(uint8_t sensor, uint8_t from, uint8_t slot, real offset, real far) {
  if (!senses.told[sensor]) return;
  const bool seen = senses.values[from + 1] == 1;
  readings[slot] = seen ? most(0, senses.values[from] - offset) : far;
  readings[slot + 1] = seen ? 1 : 0;
}

/** Light, colour and darkness of each spot; and whether a line crosses all of them. */
void floorReads(uint8_t sensor, uint8_t from, uint8_t slot, uint8_t spots, real dark, real fully, real crossing) {
  if (!senses.told[sensor]) return;
  uint8_t dim = 0;
  for (uint8_t i = 0; i < spots; i += 1) {
    const real light = senses.values[from + i];
    if (light < dark * fully) dim += 1;
    readings[slot + 1 + 3 * i] = light;
    readings[slot + 2 + 3 * i] = senses.values[from + spots + i];
    readings[slot + 3 + 3 * i] = light < dark ? 1 : 0;
  }
  readings[slot] = spots >= 2 && dim >= most(2, spots * crossing) ? 1 : 0;
}

/** Colour of a plate: what it is most alike of what it was taught. */
void tagReads(uint8_t sensor, uint8_t from, uint8_t slot, Naming name) {
  if (!senses.told[sensor]) return;
  bool sure = false;
  const real *light = &senses.values[from];
  readings[slot] = name(light[0], light[1], light[2], sure);
  readings[slot + 1] = sure && light[3] == 1 ? 1 : 0;
  for (uint8_t i = 0; i < 3; i += 1) readings[slot + 2 + i] = light[i];
}

}  // namespace pebble
