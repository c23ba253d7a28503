// Following a wall by a distance sensor to the side: keeps a distance, knows where the wall ends, and goes round its
// corners if it is asked to. How the distance changes is fed back as damping. A distance that leaps is not this wall any
// more: the robot keeps the heading it had along it until the wall is there again, or has ended.
#include "motions.h"

namespace pebble {

constexpr real WALL_PER_SEC = 2.4, WALL_DAMPING = 1.1, WALL_SMOOTH = 0.12, WALL_MOST = 0.6;
constexpr real LEAP_LEAST = 0.05, LEAP_SHARE = 0.3, ENDED_WAY = 0.03;
constexpr real ROUND_RAD = 200 * HALF_TURN / 180, INNER_RAD = HALF_TURN / 2;

enum WallPhase : uint8_t { ALONG, GONE, ROUND, INNER, BACKING };

static WallRoom &wallRoom = roomOf<WallRoom>(room.wall);

static real distance() { return readings[wallRoom.wall->slot]; }
static bool seen() { return readings[wallRoom.wall->slot + 1] != 0; }

static bool blocked() {
  const Wall &wall = *wallRoom.wall;
  if (wall.aheadSlot == 255) return false;
  if (wall.aheadNear == 0) return readings[wall.aheadSlot] != 0;
  return readings[wall.aheadSlot + 1] != 0 && readings[wall.aheadSlot] < wall.aheadNear;
}

/** Whether what the sensor hears is the wall it follows: at first any will do, later only one where it was. */
static bool hears() {
  if (!seen()) return false;
  const real expected = wallRoom.hasBefore ? wallRoom.before : distance();
  return distance() - expected < most(LEAP_LEAST, LEAP_SHARE * expected);
}

static void again() {
  wallRoom.phase = ALONG;
  wallRoom.hasBefore = false;
  wallRoom.slope = 0;
  wallRoom.heardAt = wallRoom.way;
  wallRoom.kept = wallRoom.turned;
  moving.wallEnded = false;
}

/** Left wall: too far means turn left, which is positive. */
static void steer() {
  const real d = distance(), speed = most(0.05, size(wallRoom.speed));
  const real moved = wallRoom.hasBefore ? (d - wallRoom.before) / TICK : real(0);
  wallRoom.before = d;
  wallRoom.hasBefore = true;
  wallRoom.slope += TICK / (WALL_SMOOTH + TICK) * (moved - wallRoom.slope);
  const real off = clamp(d - wallRoom.away, WALL_MOST * 2 * WALL_DAMPING * speed / WALL_PER_SEC);
  const real rate = (WALL_PER_SEC * WALL_PER_SEC * off + 2 * WALL_DAMPING * WALL_PER_SEC * wallRoom.slope) / speed;
  wallRoom.rate = clamp(wallRoom.wall->side * rate, 1.5);
}

/** Something stands ahead: an inner corner. */
static void meets() {
  if (wallRoom.wall->corners == Wall::stop) {
    moving.how = End::ended;
    moving.wallEnded = true;
    return;
  }
  wallRoom.from = wallRoom.kept;
  wallRoom.fromWay = wallRoom.way;
  wallRoom.phase = PEBBLE_STEERS ? BACKING : INNER;
}

static void along(bool wall) {
  wallRoom.speed = approach(wallRoom.speed, wallRoom.options.cruise, wallRoom.options.ramp * TICK);
  if (wallRoom.wall->corners != Wall::go_on && blocked()) return meets();
  if (wall) {
    wallRoom.phase = ALONG;
    moving.wallEnded = false;
    wallRoom.heardAt = wallRoom.way;
    steer();
    // The heading along the wall: what is left once it does not come nearer or go farther.
    const real heading = wallRoom.turned - wallRoom.wall->side * wallRoom.slope / most(0.05, size(wallRoom.speed));
    wallRoom.kept += TICK / (real(0.3) + TICK) * (heading - wallRoom.kept);
    return;
  }
  if (!wallRoom.hasBefore) wallRoom.kept = wallRoom.turned;
  wallRoom.phase = GONE;
  wallRoom.slope = 0;
  wallRoom.rate = clamp(4 * (wallRoom.kept - wallRoom.turned), 1);
  if (!wallRoom.hasBefore || wallRoom.way - wallRoom.heardAt < ENDED_WAY) return;
  moving.wallEnded = true;
  if (wallRoom.wall->corners == Wall::stop) moving.how = End::ended;
  if (wallRoom.wall->corners != Wall::turn) return;
  // The axle comes abreast of the end, then round it at the same distance.
  if (wallRoom.way - wallRoom.heardAt < wallRoom.wall->ahead) return;
  wallRoom.phase = ROUND;
  wallRoom.from = wallRoom.turned;
}

static void corner(bool wall) {
  const int8_t sign = wallRoom.wall->side;
  const real turned = (wallRoom.turned - wallRoom.from) * sign;
  const real slow = least(wallRoom.options.cruise, 0.15), ramp = wallRoom.options.ramp * TICK, beside = size(wallRoom.wall->beside);
  if (wallRoom.phase == ROUND) {
    const real radius = most(PEBBLE_STEERS ? robot::LEAST_RADIUS : real(0.02), wallRoom.away + beside);
    wallRoom.speed = approach(wallRoom.speed, slow, ramp);
    wallRoom.rate = sign * size(wallRoom.speed) / radius;
    if (turned > real(0.5) && seen() && distance() < wallRoom.away * real(1.35) + LEAP_LEAST) return again();
    if (turned > ROUND_RAD) moving.how = End::ended;
    return;
  }
#if PEBBLE_STEERS
  const real radius = robot::LEAST_RADIUS * real(1.05);
  if (wallRoom.phase == BACKING) {
    // A steered axle needs room for its circle: straight back until the wall ahead will lie as far away as the other.
    wallRoom.speed = approach(wallRoom.speed, -0.12, ramp);
    wallRoom.rate = clamp(3 * (wallRoom.kept - wallRoom.turned), 0.4);
    if (wallRoom.fromWay - wallRoom.way >= most(0.03, wallRoom.away + beside + radius - wallRoom.wall->nose)) wallRoom.phase = INNER;
    return;
  }
  wallRoom.speed = approach(wallRoom.speed, slow, ramp);
  wallRoom.rate = wallRoom.speed > 0 ? -sign * wallRoom.speed / radius : real(0);
#else
  wallRoom.speed = approach(wallRoom.speed, 0, ramp * real(1.5));
  wallRoom.rate = -sign * least(robot::TURN_RATE, 1.5);
#endif
  if (-turned >= INNER_RAD && (wall || -turned >= INNER_RAD * real(1.2))) again();
}

static bool tickWall() {
  const real was = wallRoom.speed;
  wallRoom.way += robot::ENCODERS ? driveTravel() - wallRoom.travelBefore : wallRoom.speed * TICK;
  wallRoom.turned += robot::ENCODERS || robot::GYRO ? drive.heading - wallRoom.headingBefore : wallRoom.rate * TICK;
  wallRoom.travelBefore = driveTravel();
  wallRoom.headingBefore = drive.heading;
  const bool wall = hears();
  if (wallRoom.phase == ALONG || wallRoom.phase == GONE) along(wall);
  else corner(wall);
  if (moving.how != End::none) {
    release(Mode::brake);
    return true;
  }
  follow(wallRoom.speed, (wallRoom.speed - was) / TICK, wallRoom.rate, 0, 0, 0, wallRoom.options.duty);
  return false;
}

static void beginWall(Order &order, real) {
  beginMotion(tickWall, ENDLESS);
  wallRoom = WallRoom{};
  wallRoom.wall = order.wall;
  wallRoom.options = order.options;
  wallRoom.away = order.a;
  wallRoom.speed = drive.wanted;
  wallRoom.travelBefore = driveTravel();
  wallRoom.headingBefore = drive.heading;
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
