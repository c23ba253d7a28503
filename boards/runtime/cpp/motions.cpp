// Motions of the drive: each is ticked until it has arrived. One is in progress at a time.
#include "motions.h"

namespace pebble {

Moving moving;
MotionRoom room;

constexpr real NEAR = 0.0007, SLOW = 0.012, NEAR_RAD = 0.0012, SLOW_RAD = 0.04, SETTLE = 0.5;
/** A plan waits for a robot further behind than this. */
constexpr real LEAD = 0.025, LEAD_RAD = 0.3;

void noMotion() { moving = Moving{}; }

/** Makes a motion the one in progress. */
void beginMotion(bool (*tick)(), real expected) {
  moving = Moving{};
  moving.tick = tick;
  moving.expected = expected;
  moving.kept = NAN;
}

real progress(const Order &order) {
  switch (order.measure) {
    case Order::way: return most(0, (driveTravel() - moving.origin) * order.sign);
    case Order::sideways: return most(0, (drive.aside - moving.origin) * order.sign);
    case Order::turned: return most(0, (drive.heading - moving.origin) * order.sign);
    default: return 0;
  }
}

// ---- Profile

void Profile::set(real wholeLength, real cruiseSpeed, real rampUp, real now, real atEnd) {
  length = wholeLength;
  cruise = cruiseSpeed;
  ramp = rampUp;
  speed = now;
  endSpeed = atEnd;
  distance = acceleration = lost = 0;
}

void Profile::advance() {
  const real left = length - distance, before = speed;
  if (left <= 0) {
    speed = endSpeed;
    acceleration = 0;
    return;
  }
  // Highest speed for this tick from which the ramp can still reach the end speed within `left`.
  const real step = ramp * TICK;
  const real braking = left == ENDLESS ? ENDLESS : -step / 2 + real(sqrt(step * step / 4 + 2 * ramp * left + endSpeed * endSpeed));
  const real wanted = least(cruise, most(endSpeed, braking));
  speed = most(before - 2 * step, least(before + step, wanted));
  const real move = speed * TICK;
  // The last creep of an exponential approach is taken in one step.
  if (move >= left || left < real(1e-5)) {
    distance = length;
  } else {
    const real more = move - lost, sum = distance + more;
    lost = (sum - distance) - more;
    distance = sum;
  }
  acceleration = (speed - before) / TICK;
}

real Profile::expected() const {
  const real reach = cruise * cruise / ramp;
  if (length >= reach) return length / cruise + cruise / ramp;
  return 2 * sqrt(length / ramp);
}

// ---- Along a profile

static bool slow() { return size(driveSpeed()) < SLOW && size(driveAsideSpeed()) < SLOW; }

/** Steps a plan that waits for a robot too far behind. @returns how far the robot is behind it */
static real planned(Along &along, real measured, real lead) {
  if (along.profile.distance - measured < lead) along.profile.advance();
  return along.profile.distance - measured;
}

static bool settled(Along &along, bool there) {
  if (!along.profile.done()) return false;
  if (along.keep) return true;
  along.settling += TICK;
  return there || along.settling >= SETTLE - ALMOST;
}

static void beginAlong(const Order &order, bool (*tick)(), real length, real rolling) {
  Along &along = near(room.along);
  along = Along{};
  const Options &o = order.options;
  along.profile.set(length, o.cruise, o.ramp, most(0, rolling), o.keep ? o.cruise : real(0));
  along.keep = o.keep;
  along.duty = o.duty;
  along.sign = order.sign;
  beginMotion(tick, length == ENDLESS ? ENDLESS : along.profile.expected());
}

static real rest(const Order &order) { return order.endless ? ENDLESS : most(0, order.a - order.before); }

static bool tickStraight() {
  Along &w = near(room.along);
  const real behind = planned(w, (driveTravel() - moving.origin) * w.sign, LEAD);
  // Without encoders nothing tells how far behind it is.
  follow(w.sign * w.profile.speed, w.sign * w.profile.acceleration, 0, 0, robot::ENCODERS ? w.sign * behind : real(0),
         moving.kept - drive.heading, w.duty);
  return settled(w, size(behind) < NEAR && slow());
}

static void beginStraight(Order &order, real kept) {
  beginAlong(order, tickStraight, rest(order), drive.wanted * order.sign);
  moving.origin = driveTravel();
  moving.kept = isnan(kept) ? drive.heading : kept;
}

static Order ordered(void (*begin)(Order &, real), Order::Measure measure, const Options &options) {
  Order order = Order();
  order.begin = begin;
  order.measure = measure;
  order.options = options;
  order.sign = 1;
  return order;
}

static Order byTime(real left, real right, real speed, real curvature);

Order straight(real length, bool back, const Options &options) {
  const real signedLength = back ? -length : length;
  if (!robot::ENCODERS) return byTime(signedLength, signedLength, options.cruise, 0);
  Order order = ordered(beginStraight, Order::way, options);
  order.a = size(signedLength);
  order.sign = signedLength < 0 ? -1 : 1;
  return order;
}

Order straightOn(bool back, const Options &options) {
  Order order = ordered(beginStraight, Order::way, options);
  order.endless = true;
  order.sign = back ? -1 : 1;
  return order;
}

static bool tickSlide() {
  Along &w = near(room.along);
  const real behind = planned(w, (drive.aside - moving.origin) * w.sign, LEAD);
  const real off = moving.kept - drive.heading;
  slideAlong(w.sign * w.profile.speed, w.sign * w.profile.acceleration, w.sign * behind, driveTravel() - w.start, off, w.duty);
  return settled(w, size(behind) < NEAR && size(off) < NEAR_RAD && slow());
}

static void beginSlide(Order &order, real kept) {
  beginAlong(order, tickSlide, rest(order), drive.wantedAside * order.sign);
  moving.origin = drive.aside;
  moving.kept = isnan(kept) ? drive.heading : kept;
  room.along.start = driveTravel();
}

Order slide(real length, int8_t side, const Options &options) {
  Order order = ordered(beginSlide, Order::sideways, options);
  order.sign = side * length < 0 ? -1 : 1;
  order.a = size(length);
  return order;
}

Order slideOn(int8_t side, const Options &options) {
  Order order = ordered(beginSlide, Order::sideways, options);
  order.endless = true;
  order.sign = side;
  return order;
}

static bool tickTurn() {
  Along &w = near(room.along);
  const real off = planned(w, (drive.heading - moving.origin) * w.sign, LEAD_RAD);
  const real behind = robot::ENCODERS ? w.arm * w.sign * w.profile.distance - (driveTravel() - w.start) : real(0);
  const real rate = w.sign * w.profile.speed, change = w.sign * w.profile.acceleration;
  follow(w.arm * rate, w.arm * change, rate, change, behind, w.sign * off, w.duty);
  return settled(w, size(off) < NEAR_RAD && size(drive.turnRate) < SLOW_RAD);
}

/** On the spot, or swinging about one wheel: `arm` is how far the middle moves per radian. */
void turnBy(const Order &order, real angle, real arm) {
  // A turn that stops aims short of its angle by what was found to come on top.
  const real length = angle == ENDLESS || order.options.keep ? angle : angle - least(angle / 2, robot::TURN_PAST);
  beginAlong(order, tickTurn, length, drive.wantedRate * order.sign);
  moving.origin = drive.heading;
  room.along.start = driveTravel();
  room.along.arm = arm;
}

static void beginTurn(Order &order, real) { turnBy(order, rest(order), order.b); }

static real armOf(About about) {
  return about == About::middle ? real(0) : (about == About::left ? 1 : -1) * robot::TRACK_WIDTH / 2;
}

Order turn(real angle, About about, bool gyro, const Options &options) {
  const real half = robot::TRACK_WIDTH / 2, arm = armOf(about);
  if (!gyro && !robot::ENCODERS)
    return byTime(angle * (arm - half), angle * (arm + half), options.cruise * (half + size(arm)), 0);
  Order order = ordered(beginTurn, Order::turned, options);
  order.sign = angle < 0 ? -1 : 1;
  order.a = size(angle);
  order.b = arm;
  return order;
}

Order turnOn(int8_t side, About about, const Options &options) {
  Order order = ordered(beginTurn, Order::turned, options);
  order.endless = true;
  order.sign = side;
  order.b = armOf(about);
  return order;
}

static void beginFace(Order &order, real) {
  // `reset robot` moves what headings are counted from; the reading tells it.
  Order made = turn(wrap(order.d - readings[HEADING]), About::middle, order.gyro, order.options);
  order.sign = made.sign;
  order.measure = made.measure;
  made.begin(made, NAN);
}

Order face(real heading, bool gyro, const Options &options) {
  Order order = ordered(beginFace, Order::turned, options);
  order.d = heading;
  order.gyro = gyro;
  return order;
}

static bool tickArc() {
  Along &w = near(room.along);
  const Profile &plan = w.profile;
  const real behind = planned(w, (driveTravel() - moving.origin) * w.sign, LEAD);
  const real off = w.start + w.perMetre * plan.distance - drive.heading;
  follow(w.sign * plan.speed, w.sign * plan.acceleration, w.perMetre * plan.speed, w.perMetre * plan.acceleration,
         w.sign * behind, off, w.duty);
  const real last = plan.length == ENDLESS ? w.start - drive.heading : w.start + w.perMetre * plan.length - drive.heading;
  return settled(w, size(behind) < NEAR && size(last) < NEAR_RAD && slow());
}

/** a: angle, b: radius, c: side of the centre; its way is measured along the curve. */
static void beginArc(Order &order, real) {
  const real left = order.endless ? ENDLESS : most(0, order.a - order.before / order.b) * order.b;
  beginAlong(order, tickArc, left, drive.wanted * order.sign);
  moving.origin = driveTravel();
  room.along.start = drive.heading;
  room.along.perMetre = order.sign * order.c / order.b;
}

static Order arcOrder(real radius, real centre, bool back, Options options) {
  radius = most(0.001, radius);
  // The outer wheel must be able to follow.
  options.cruise = least(options.cruise, real(0.92) * robot::TOP_SPEED / (1 + robot::TRACK_WIDTH / (2 * radius)));
  Order order = ordered(beginArc, Order::way, options);
  order.sign = back ? -1 : 1;
  order.b = radius;
  order.c = centre;
  return order;
}

Order arc(real angle, real radius, bool back, const Options &options) {
  const real centre = angle < 0 ? -1 : 1;
  Order order = arcOrder(radius, centre, back, options);
  if (!robot::ENCODERS) {
    const real far = size(angle) * order.sign, half = centre * robot::TRACK_WIDTH / 2;
    return byTime(far * (order.b - half), far * (order.b + half),
                  order.options.cruise * (1 + robot::TRACK_WIDTH / (2 * order.b)), centre / order.b);
  }
  order.a = size(angle);
  return order;
}

Order arcOn(int8_t side, real radius, bool back, const Options &options) {
  Order order = arcOrder(radius, side, back, options);
  order.endless = true;
  return order;
}

// ---- Keeping a speed

static bool tickRoll() {
  RollRoom &m = near(room.roll);
  const real speed = m.speed, rate = m.rate;
  m.speed = approach(speed, m.toSpeed, m.ramp * TICK);
  m.rate = approach(rate, m.toRate, m.turnRamp * TICK);
  const real planned = m.planned + m.rate * TICK;
  // The planned heading waits for a robot that cannot follow.
  if (size(planned - drive.heading) < LEAD_RAD) m.planned = planned;
  follow(m.speed, (m.speed - speed) / TICK, m.rate, (m.rate - rate) / TICK, 0, m.planned - drive.heading, 1, m.toAside);
  return false;
}

/** a: speed, b: rate, c: speed aside. */
void beginRoll(Order &order, real) {
  beginMotion(tickRoll, ENDLESS);
  RollRoom &m = near(room.roll);
  m.toSpeed = order.a;
  m.toRate = order.b;
  m.toAside = order.c;
  m.ramp = order.options.ramp;
  m.turnRamp = robot::TURN_RAMP;
  m.speed = drive.wanted;
  m.rate = drive.wantedRate;
  m.planned = drive.heading;
}

Order roll(real speed, real rate, real ramp) {
  Order order = ordered(beginRoll, Order::none, Options{0, isnan(ramp) ? robot::RAMP : ramp, 1, false});
  order.a = speed;
  order.b = rate;
  return order;
}

static bool tickWheels() {
  RollRoom &m = near(room.roll);
  m.speed = approach(m.speed, m.toSpeed, m.ramp * TICK);
  m.rate = approach(m.rate, m.toRate, m.ramp * TICK);
  sides(m.speed, m.rate, 0, 0, 1);
  drive.wanted = (m.speed + m.rate) / 2;
  drive.wantedRate = (m.rate - m.speed) / robot::TRACK_WIDTH;
  return false;
}

/** Speeds of the sides: `speed` is the left one, `rate` the right one. */
static void beginWheels(Order &order, real) {
  beginMotion(tickWheels, ENDLESS);
  RollRoom &m = near(room.roll);
  const real half = drive.wantedRate * robot::TRACK_WIDTH / 2;
  m.speed = drive.wanted - half;
  m.rate = drive.wanted + half;
  m.toSpeed = order.a;
  m.toRate = order.b;
  m.ramp = order.options.ramp;
}

Order wheels(real left, real right, real ramp) {
  Order order = ordered(beginWheels, Order::none, Options{0, isnan(ramp) ? robot::RAMP * 2 : ramp, 1, false});
  order.a = left;
  order.b = right;
  return order;
}

static bool tickPower() {
  const RollRoom &m = room.roll;
  power(m.speed, m.rate);
  return false;
}

static void beginPower(Order &order, real) {
  beginMotion(tickPower, ENDLESS);
  RollRoom &m = near(room.roll);
  m.speed = order.a;
  m.rate = order.b;
}

Order powers(real left, real right) {
  Order order = ordered(beginPower, Order::none, Options{0, 0, 1, false});
  order.a = left;
  order.b = right;
  return order;
}

/** Slows down along the way it was going, then brakes until it stands. */
static bool tickHalt() {
  RollRoom &m = near(room.roll);
  if (m.speed != 0 || m.rate != 0 || drive.wantedAside != 0) {
    const real speed = m.speed, rate = m.rate;
    m.speed = approach(speed, 0, m.ramp * TICK);
    m.rate = approach(rate, 0, m.turnRamp * TICK);
    follow(m.speed, (m.speed - speed) / TICK, m.rate, (m.rate - rate) / TICK, 0, 0, 1);
    return false;
  }
  release(Mode::brake);
  m.planned += TICK;
  return driveStands() || m.planned >= real(0.4) - ALMOST;
}

void beginHalt() {
  const real speed = drive.wanted, rate = drive.wantedRate;
  beginMotion(tickHalt, 0.5);
  RollRoom &m = near(room.roll);
  m.speed = speed;
  m.rate = rate;
  m.planned = 0;
  // Speed and rate reach zero together, so that a curve stays a curve.
  const real ramp = robot::RAMP * real(1.5), turnRamp = robot::TURN_RAMP * real(1.5);
  const real seconds = most(most(size(speed) / ramp, size(rate) / turnRamp), 0.01);
  m.ramp = size(speed) / seconds;
  m.turnRamp = size(rate) / seconds;
}

/** Drives gently until both sides stand still against something. */
static bool tickPress() {
  RollRoom &m = near(room.roll);
  m.speed = approach(m.speed, 0.08, real(0.3) * TICK);
  sides(m.toSpeed * m.speed, m.toSpeed * m.speed, 0, 0, m.ramp);
  drive.wanted = m.toSpeed * m.speed;
  drive.wantedRate = 0;
  const bool still = size(drive.shafts[0].speed) < real(0.006) && size(drive.shafts[1].speed) < real(0.006);
  m.planned = still && m.speed >= real(0.08) ? m.planned + TICK : 0;
  if (m.planned < real(0.2) - ALMOST) return false;
  release(Mode::brake);
  return true;
}

static void beginPress(Order &order, real) {
  beginMotion(tickPress, ENDLESS);
  RollRoom &m = near(room.roll);
  m = RollRoom{};
  m.toSpeed = order.back ? -1 : 1;
  m.ramp = order.options.duty;
}

Order press(bool back, real duty) {
  const real limit = isnan(duty) ? robot::PRESS_DUTY : between(size(duty), 0.02, 1);
  Order order = ordered(beginPress, Order::none, Options{0, 0, limit, false});
  order.back = back;
  return order;
}

// ---- By time: for robots without encoders

static bool tickTimed() {
  TimedRoom &m = room.timed;
  m.elapsed += TICK;
  if (m.elapsed < moving.expected - ALMOST) {
    drive.steer = m.steer;
    power(m.left, m.right);
    return false;
  }
  release(Mode::brake);
  return true;
}

static real timedSide(real travel, real far, real speed, real scrub) {
  const real dead = travel > 0 ? robot::DEAD_VOLTS : travel < 0 ? -robot::DEAD_VOLTS : real(0);
  return far > 0 ? (speed * travel / far / robot::SPEED_PER_VOLT + dead + scrub) / drive.volts : real(0);
}

/** a, b: ways of the sides; c: speed; d: curve of the way. */
static void beginTimed(Order &order, real) {
  const real left = order.a * order.before, right = order.b * order.before;
  beginMotion(tickTimed, 0);
  moving.timed = true;
  TimedRoom &m = room.timed;
  m = TimedRoom{};
  const bool spin = left == -right && left != 0 && !PEBBLE_STEERS;
  // A turn that names no rate of its own is driven as turns were tried: the same volts, however full the pack.
  if (robot::TIMED_TURN_VOLTS > 0 && spin && size(order.c - robot::TURN_RATE * robot::TRACK_WIDTH / 2) < real(1e-6)) {
    const real duty = least(1, robot::TIMED_TURN_VOLTS / most(0.5, drive.volts - robot::DROP_VOLTS));
    m.left = left > 0 ? duty : -duty;
    m.right = -m.left;
    moving.expected = robot::TIMED_TURN_DEAD + 2 * size(left) / robot::TRACK_WIDTH / robot::TIMED_TURN_RATE;
    return;
  }
#if PEBBLE_STEERS
  m.steer = atan(robot::WHEELBASE * order.d);
#endif
  const real far = most(size(left), size(right));
  // Slip across is met by the whole grip, on any curve.
  const real scrub = robot::SCRUB == 0 || size(right - left) < real(1e-6)
                         ? real(0)
                         : robot::SCRUB * robot::VOLTS_PER_NEWTON[0] / robot::DRIVER_SHARE;
  const real volts = most(0.2, drive.volts - scrub - robot::DEAD_VOLTS);
  const real speed = least(order.c, robot::SPEED_PER_VOLT * volts);
  const real turns = right > left ? 1 : right < left ? -1 : 0;
  m.left = clamp(timedSide(left, far, speed, -turns * scrub), 1);
  m.right = clamp(timedSide(right, far, speed, turns * scrub), 1);
  moving.expected = most(0, robot::DEAD_TIME + far / speed);
}

static Order byTime(real left, real right, real speed, real curvature) {
  Order order = ordered(beginTimed, Order::time, Options{0, 0, 1, false});
  order.before = 1;
  order.a = left;
  order.b = right;
  order.c = speed;
  order.d = curvature;
  return order;
}

// ---- Options

static real given(real value, real usual) { return isnan(value) ? usual : value; }
static real share(real duty) { return duty == 1 ? real(1) : between(size(duty), 0.02, 1); }

Options straightly(real at, real ramp, real duty, bool keep) {
  return Options{most(0.005, given(at, robot::CRUISE)), most(0.01, given(ramp, robot::RAMP)), share(duty), keep};
}
Options turning(real at, real ramp, real duty, bool keep) {
  return Options{most(HALF_TURN / 180, given(at, robot::TURN_RATE)), most(0.01, given(ramp, robot::TURN_RAMP)), share(duty), keep};
}
Options sliding(real at, real ramp, real duty, bool keep) {
  return Options{most(0.005, given(at, robot::CRUISE_ASIDE)), most(0.01, given(ramp, robot::RAMP)), share(duty), keep};
}

}  // namespace pebble
