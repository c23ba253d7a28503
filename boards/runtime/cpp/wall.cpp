// Following a wall by a distance sensor to the side: keeps a distance, knows where the wall ends, and goes round its
// corners if it is asked to. How the distance changes is fed back as damping. A distance that leaps is not this wall any
// more: the robot keeps the heading it had along it until the wall is there again, or has ended.
#include "motions.h"

namespace pebble {

constexpr real WALL_PER_SEC = 2.4, WALL_DAMPING = 1.1, WALL_SMOOTH = 0.12, WALL_MOST = 0.6;
constexpr real LEAP_LEAST = 0.05, LEAP_SHARE = 0.3, ENDED_WAY = 0.03;
constexpr real ROUND_RAD = 200 * HALF_TURN / 180, INNER_RAD = HALF_TURN / 2;

enum Phase : uint8_t { ALONG, GONE, ROUND, INNER, BACKING };

static WallRoom &m = roomOf<WallRoom>(room.wall);

static real distance() { return readings[m.wall->slot]; }
static bool seen() { return readings[m.wall->slot + 1] != 0; }

static bool blocked() {
  const Wall &wall = *m.wall;
  if (wall.aheadSlot == 255) return false;
  if (wall.aheadNear == 0) return readings[wall.aheadSlot] != 0;
  return readings[wall.aheadSlot + 1] != 0 && readings[wall.aheadSlot] < wall.aheadNear;
}

/** Whether what the sensor hears is the wall it follows: at first any will do, later only one where it was. */
static bool hears() {
  if (!seen()) return false;
  const real expected = m.hasBefore ? m.before : distance();
  return distance() - expected < most(LEAP_LEAST, LEAP_SHARE * expected);
}

static void again() {
  m.phase = ALONG;
  m.hasBefore = false;
  m.slope = 0;
  m.heardAt = m.way;
  m.kept = m.turned;
  moving.wallEnded = false;
}

/** Left wall: too far means turn left, which is positive. */
static void steer() {
  const real d = distance(), speed = most(0.05, size(m.speed));
  const real moved = m.hasBefore ? (d - m.before) / TICK : real(0);
  m.before = d;
  m.hasBefore = true;
  m.slope += TICK / (WALL_SMOOTH + TICK) * (moved - m.slope);
  const real off = clamp(d - m.away, WALL_MOST * 2 * WALL_DAMPING * speed / WALL_PER_SEC);
  const real rate = (WALL_PER_SEC * WALL_PER_SEC * off + 2 * WALL_DAMPING * WALL_PER_SEC * m.slope) / speed;
  m.rate = clamp(m.wall->side * rate, 1.5);
}

/** Something stands ahead: an inner corner. */
static void meets() {
  if (m.wall->corners == Wall::stop) {
    moving.how = End::ended;
    moving.wallEnded = true;
    return;
  }
  m.from = m.kept;
  m.fromWay = m.way;
  m.phase = PEBBLE_STEERS ? BACKING : INNER;
}

static void along(bool wall) {
  m.speed = approach(m.speed, m.options.cruise, m.options.ramp * TICK);
  if (m.wall->corners != Wall::go_on && blocked()) return meets();
  if (wall) {
    m.phase = ALONG;
    moving.wallEnded = false;
    m.heardAt = m.way;
    steer();
    // The heading along the wall: what is left once it does not come nearer or go farther.
    const real heading = m.turned - m.wall->side * m.slope / most(0.05, size(m.speed));
    m.kept += TICK / (real(0.3) + TICK) * (heading - m.kept);
    return;
  }
  if (!m.hasBefore) m.kept = m.turned;
  m.phase = GONE;
  m.slope = 0;
  m.rate = clamp(4 * (m.kept - m.turned), 1);
  if (!m.hasBefore || m.way - m.heardAt < ENDED_WAY) return;
  moving.wallEnded = true;
  if (m.wall->corners == Wall::stop) moving.how = End::ended;
  if (m.wall->corners != Wall::turn) return;
  // The axle comes abreast of the end, then round it at the same distance.
  if (m.way - m.heardAt < m.wall->ahead) return;
  m.phase = ROUND;
  m.from = m.turned;
}

static void corner(bool wall) {
  const int8_t sign = m.wall->side;
  const real turned = (m.turned - m.from) * sign;
  const real slow = least(m.options.cruise, 0.15), ramp = m.options.ramp * TICK, beside = size(m.wall->beside);
  if (m.phase == ROUND) {
    const real radius = most(PEBBLE_STEERS ? robot::LEAST_RADIUS : real(0.02), m.away + beside);
    m.speed = approach(m.speed, slow, ramp);
    m.rate = sign * size(m.speed) / radius;
    if (turned > real(0.5) && seen() && distance() < m.away * real(1.35) + LEAP_LEAST) return again();
    if (turned > ROUND_RAD) moving.how = End::ended;
    return;
  }
#if PEBBLE_STEERS
  const real radius = robot::LEAST_RADIUS * real(1.05);
  if (m.phase == BACKING) {
    // A steered axle needs room for its circle: straight back until the wall ahead will lie as far away as the other.
    m.speed = approach(m.speed, -0.12, ramp);
    m.rate = clamp(3 * (m.kept - m.turned), 0.4);
    if (m.fromWay - m.way >= most(0.03, m.away + beside + radius - m.wall->nose)) m.phase = INNER;
    return;
  }
  m.speed = approach(m.speed, slow, ramp);
  m.rate = m.speed > 0 ? -sign * m.speed / radius : real(0);
#else
  m.speed = approach(m.speed, 0, ramp * real(1.5));
  m.rate = -sign * least(robot::TURN_RATE, 1.5);
#endif
  if (-turned >= INNER_RAD && (wall || -turned >= INNER_RAD * real(1.2))) again();
}

static bool tickWall() {
  const real was = m.speed;
  m.way += robot::ENCODERS ? driveTravel() - m.travelBefore : m.speed * TICK;
  m.turned += robot::ENCODERS || robot::GYRO ? drive.heading - m.headingBefore : m.rate * TICK;
  m.travelBefore = driveTravel();
  m.headingBefore = drive.heading;
  const bool wall = hears();
  if (m.phase == ALONG || m.phase == GONE) along(wall);
  else corner(wall);
  if (moving.how != End::none) {
    release(Mode::brake);
    return true;
  }
  follow(m.speed, (m.speed - was) / TICK, m.rate, 0, 0, 0, m.options.duty);
  return false;
}

static void beginWall(Order &order, real) {
  beginMotion(tickWall, ENDLESS);
  m = WallRoom{};
  m.wall = order.wall;
  m.options = order.options;
  m.away = order.a;
  m.speed = drive.wanted;
  m.travelBefore = driveTravel();
  m.headingBefore = drive.heading;
}

Order followWall(const Wall &wall, real away, const Options &options) {
  Order order = Order();
  order.begin = beginWall;
  order.options = options;
  order.wall = &wall;
  order.a = away;
  return order;
}

}  // namespace pebble
