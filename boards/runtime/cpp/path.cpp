// Driving to a place and along a path by odometry: pure pursuit (Coulter 1992). The robot aims at a point of the path a
// little ahead; the circle through it that touches its heading has the curvature 2 y / d^2, where y is how far the point
// lies to the side and d how far away it is.
#include "motions.h"

namespace pebble {

constexpr real PATH_NEAR = 0.0015, PATH_SLOW = 0.012, PATH_SETTLE = 0.5, PATH_LEAD = 0.03, LOOK_LEAST = 0.06, LOOK_SEC = 0.35;
constexpr real PIVOT = 1.1, TURNS_FROM = 0.05;

enum Stage : uint8_t { FACE_FIRST, PURSUE, FACE_END, OVER };

static PathRoom &pathRoom = roomOf<PathRoom>(room.path);

static Place pointOf(const Piece &p, real s) {
  if (p.curve == 0) return Place{p.x + s * p.c, p.y + s * p.s};
  const real turned = s * p.curve;
  const real ahead = real(sin(turned)) / p.curve, aside = (1 - real(cos(turned))) / p.curve;
  return Place{p.x + ahead * p.c - aside * p.s, p.y + ahead * p.s + aside * p.c};
}

/** A point at a length; beyond the end on as the last piece went. */
static Place pointAt(real s) {
  uint8_t i = 0;
  for (; i + 1 < pathRoom.count && s > pathRoom.pieces[i].length; i += 1) s -= pathRoom.pieces[i].length;
  return pointOf(pathRoom.pieces[i], s);
}

/** Length of a piece's point nearest to a place, before it is held within the piece. */
static real nearestOf(const Piece &p, real x, real y) {
  const real dx = x - p.x, dy = y - p.y, ahead = p.c * dx + p.s * dy, aside = p.c * dy - p.s * dx;
  if (p.curve == 0) return ahead;
  const real sign = p.curve > 0 ? 1 : -1;
  const real round = atan2(ahead, sign * (1 / p.curve - aside));
  const real middle = p.length * size(p.curve) / 2;
  return (round + WHOLE_TURN * rounded((middle - round) / WHOLE_TURN)) / size(p.curve);
}

/** Length of the point nearest to a place, not before `from` nor further on than `reach`. */
static real nearest(real x, real y, real from, real reach) {
  real low = 0, best = ENDLESS, found = from;
  for (uint8_t i = 0; i < pathRoom.count; i += 1) {
    const Piece &p = pathRoom.pieces[i];
    const real high = low + p.length;
    if (high >= from && low <= from + reach) {
      real s = most(from, low + between(nearestOf(p, x, y), 0, p.length));
      if (p.curve != 0) s = least(s, from + reach);
      const Place at = pointAt(s);
      const real d = (at.x - x) * (at.x - x) + (at.y - y) * (at.y - y);
      if (d < best) {
        best = d;
        found = s;
      }
    }
    low = high;
  }
  return found;
}

static void addPiece(real x, real y, real c, real s, real length, real curve) {
  if (length <= 0) return;
  pathRoom.pieces[pathRoom.count] = Piece{x, y, c, s, length, curve};
  pathRoom.count += 1;
  pathRoom.length += length;
}

static void addLine(const Place &from, const Place &to) {
  const real dx = to.x - from.x, dy = to.y - from.y, length = sqrt(dx * dx + dy * dy);
  if (length > 0) addPiece(from.x, from.y, dx / length, dy / length, length, 0);
}

#if PEBBLE_STEERS
/** The shortest way of a steered axle to a place: the tightest circle to its side, then straight. @returns the heading then */
static real addSteered(const Place &from, real heading, const Place &to) {
  const real radius = robot::LEAST_RADIUS * real(1.05);
  const real c = cos(heading), s = sin(heading), dx = to.x - from.x, dy = to.y - from.y;
  const real ahead = c * dx + s * dy, aside = c * dy - s * dx;
  real side = aside >= 0 ? 1 : -1;
  const real across = aside - side * radius;
  // A place inside that circle is reached round the other one.
  if (ahead * ahead + across * across < radius * radius) side = -side;
  const real my = aside - side * radius, far = sqrt(ahead * ahead + my * my);
  const real straightWay = sqrt(most(0, far * far - radius * radius));
  real round = side * (real(atan2(my, ahead)) + side * HALF_TURN / 2 - side * real(atan2(straightWay, radius)));
  while (round < real(-1e-5)) round += WHOLE_TURN;
  while (round >= WHOLE_TURN - real(1e-5)) round -= WHOLE_TURN;
  addPiece(from.x, from.y, c, s, round * radius, side / radius);
  const Place leaves = pathRoom.count > 0 && round > 0 ? pointOf(pathRoom.pieces[pathRoom.count - 1], round * radius) : from;
  addLine(leaves, to);
  return heading + side * round;
}
#endif

static void beginPursuit() {
  const Options &o = pathRoom.options;
  const bool keep = o.keep && isnan(pathRoom.facing);
  pathRoom.profile.set(pathRoom.length, o.cruise, o.ramp, most(0, drive.wanted * (pathRoom.back ? -1 : 1)), keep ? o.cruise : real(0));
  pathRoom.keep = keep;
  pathRoom.done = pathRoom.settling = 0;
}

static bool tickPursuit() {
  const real sign = pathRoom.back ? -1 : 1;
  pathRoom.done = nearest(drive.x, drive.y, pathRoom.done, 0.25);
  if (pathRoom.profile.distance - pathRoom.done < PATH_LEAD) pathRoom.profile.advance();
  const real look = pathRoom.look > 0 ? pathRoom.look : most(LOOK_LEAST, LOOK_SEC * pathRoom.profile.speed);
  const Place aim = pointAt(pathRoom.done + look);
  const real heading = drive.heading + (pathRoom.back ? HALF_TURN : real(0));
  const real c = cos(heading), s = sin(heading), dx = aim.x - drive.x, dy = aim.y - drive.y;
  const real ahead = c * dx + s * dy, aside = c * dy - s * dx;
  const real square = most(1e-6, dx * dx + dy * dy), behind = pathRoom.profile.distance - pathRoom.done;
  const real bearing = atan2(aside, ahead);
  if (!PEBBLE_STEERS && size(bearing) > PIVOT) {
    follow(0, 0, clamp(4 * bearing, robot::TURN_RATE), 0, 0, 0, pathRoom.options.duty);
    return false;
  }
  const real curvature = 2 * aside / square;
  // The outer wheel has to follow, and a sharp bend is taken slowly.
  const real fastest = least(real(0.92) * robot::TOP_SPEED / (1 + size(curvature) * robot::TRACK_WIDTH / 2),
                             real(0.9) / most(1, size(curvature)));
  const real speed = least(pathRoom.profile.speed, most(0.04, fastest));
  // Catching up with the plan would leave the circle: only near the end, where it has to stop in place.
  const bool close = pathRoom.length - pathRoom.done < look;
  follow(sign * speed, sign * pathRoom.profile.acceleration, curvature * speed, 0, close ? sign * behind : real(0), 0, pathRoom.options.duty);
  if (!pathRoom.profile.done()) return false;
  if (pathRoom.keep) return true;
  pathRoom.settling += TICK;
  return (size(behind) < PATH_NEAR && size(driveSpeed()) < PATH_SLOW) || pathRoom.settling >= PATH_SETTLE - ALMOST;
}

static bool tickPath();

/** Begins the turn to a heading. @returns false when it stands so already */
static bool turnTo(real wanted) {
  const real angle = wrap(wanted - drive.heading);
  if (size(angle) < TURNS_FROM / 5) return false;
  Order order = turn(angle, About::middle, true, Options{robot::TURN_RATE, robot::TURN_RAMP, pathRoom.options.duty, false});
  turnBy(order, size(angle), 0);
  pathRoom.turnTick = moving.tick;
  moving.tick = tickPath;
  return true;
}

static bool beginStage() {
  const real behind = pathRoom.back ? HALF_TURN : real(0);
  switch (pathRoom.stage) {
    case FACE_FIRST:
      return pathRoom.turnsFirst && turnTo(real(atan2(pathRoom.firstY - drive.y, pathRoom.firstX - drive.x)) - behind);
    case PURSUE:
      if (pathRoom.length <= real(1e-3)) return false;
      beginPursuit();
      return true;
    case FACE_END: return !PEBBLE_STEERS && !isnan(pathRoom.facing) && turnTo(pathRoom.facing);
    default: return false;
  }
}

static bool tickPath() {
  while (pathRoom.stage != OVER) {
    if (!pathRoom.begun) {
      pathRoom.begun = beginStage();
      if (!pathRoom.begun) {
        pathRoom.stage += 1;
        continue;
      }
    }
    if (!(pathRoom.stage == PURSUE ? tickPursuit() : pathRoom.turnTick())) return false;
    pathRoom.stage += 1;
    pathRoom.begun = false;
    if (pathRoom.stage == OVER || (pathRoom.stage == FACE_END && isnan(pathRoom.facing))) {
      pathRoom.stage = OVER;
      return true;
    }
  }
  return true;
}

/** How many places of a path lie behind: the robot goes on toward the end of the leg it is nearest to. */
static uint8_t legsBehind(const Place *places, uint8_t count) {
  const real x = readings[X], y = readings[Y];
  real best = ENDLESS;
  uint8_t passed = 0;
  for (uint8_t i = 1; i < count; i += 1) {
    const Place &a = places[i - 1], &b = places[i];
    const real dx = b.x - a.x, dy = b.y - a.y, square = dx * dx + dy * dy;
    const real t = square > 0 ? between(((x - a.x) * dx + (y - a.y) * dy) / square, 0, 1) : real(0);
    const real px = a.x + t * dx - x, py = a.y + t * dy - y, d = px * px + py * py;
    if (d < best) {
      best = d;
      passed = i;
    }
  }
  return passed;
}

/** a: heading at the end or NAN, b: look ahead or 0; `gyro` is set once it was begun. */
static void beginPlaces(Order &order, real) {
  const uint8_t passed = order.gyro ? legsBehind(order.places, order.count) : 0;
  order.gyro = true;
  beginMotion(tickPath, 0);
  pathRoom = PathRoom{};
  pathRoom.pieces = pathPieces;
  pathRoom.options = order.options;
  pathRoom.back = order.back;
  pathRoom.look = order.b;
  // From the frame of the begin place, which `reset robot` moves, to the drive's own.
  const real turned = drive.heading - readings[HEADING], c = cos(turned), s = sin(turned);
  pathRoom.facing = isnan(order.a) ? NAN : order.a + turned;
  const Place here = Place{drive.x, drive.y};
  Place at = here;
  const real travel = drive.heading + (order.back ? HALF_TURN : real(0));
#if PEBBLE_STEERS
  real heading = travel;
#endif
  for (uint8_t i = passed; i < order.count; i += 1) {
    const real dx = order.places[i].x - readings[X], dy = order.places[i].y - readings[Y];
    const Place to = Place{drive.x + c * dx - s * dy, drive.y + s * dx + c * dy};
    if (i == passed) {
      pathRoom.firstX = to.x;
      pathRoom.firstY = to.y;
    }
#if PEBBLE_STEERS
    heading = addSteered(at, heading, to);
#else
    addLine(at, to);
#endif
    at = to;
  }
  real toTurn = 0;
#if !PEBBLE_STEERS
  const real dx = pathRoom.firstX - here.x, dy = pathRoom.firstY - here.y, aside = wrap(real(atan2(dy, dx)) - travel);
  pathRoom.turnsFirst = size(aside) > TURNS_FROM && dx * dx + dy * dy > real(1e-4);
  if (pathRoom.turnsFirst) toTurn += size(aside);
  if (!isnan(pathRoom.facing)) toTurn += HALF_TURN;
#endif
  moving.expected = 1 + pathRoom.length / pathRoom.options.cruise + pathRoom.options.cruise / pathRoom.options.ramp + toTurn / robot::TURN_RATE;
}

Order goPlaces(Place *places, uint8_t count, real facing, bool back, real look, const Options &options) {
  Order order = Order();
  order.begin = beginPlaces;
  order.options = options;
  order.places = places;
  order.count = count;
  order.a = facing;
  order.b = look > 0 ? most(0.01, look) : real(0);
  order.back = back;
  return order;
}

}  // namespace pebble
