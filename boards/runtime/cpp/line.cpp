// Following a line by floor light.
//
// A spot ahead of the axle by x that is off by y across the line is brought back by turning at rate w, which moves it by
// x w: with w = k y / x the error dies with time constant 1 / k, whatever the speed. What a curve needs beyond that is
// taken up over the way. A line that is gone is looked for: straight on until the axle stands where it ended, then turning
// to the side where it went, then to the other, then straight on for as long as a gap may be.
#include "motions.h"

namespace pebble {

constexpr real GAIN_PER_SEC = 11, GAIN_CURVE = 4, GAIN_DAMP = 0.025;
constexpr real LEAST_RADIUS = 0.1, SLOW_MOST = 0.07, SLOW_SHARE = 0.45, GATHER = 0.8, REACTS = 0.2;
constexpr real SEARCH_RAD = 138 * HALF_TURN / 180, SWEEP_RAD = 50 * HALF_TURN / 180, OFF_CROSSING = 40 * HALF_TURN / 180;
constexpr real EDGE_SWEEP = 0.075, NEAR_WAY = 0.008, CALM_SPEED = 0.12, CALM_WAY = 0.1, SAMPLE_WAY = 0.01;
constexpr real WOBBLE = 0.7, CROSS = 0.045;
/** Less of the line than this share of a spot is none of it; more than the other is nothing but line. */
constexpr real SEEN_LEAST = 0.25, SEEN_MOST = 0.85;

enum LinePhase : uint8_t { TRACK, PASS, HOOK, FIRST, SECOND, RETURN, BRIDGE, SWEEP, BACK, STRAIGHTEN, RETREAT, CROSSING, TURNING };
enum Sees : uint8_t { ON, LIGHT, DARK };


static bool spins() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  return m.phase == TURNING || m.phase == FIRST || m.phase == SECOND || m.phase == SWEEP || m.phase == BACK || m.phase == STRAIGHTEN;
}

/** Share of a spot that is line. Learns how light and how dark the floor is. */
static real darkness(uint8_t i) {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  const real value = readings[flash(m.line->slots[i])];
  m.light = most(m.light, value);
  m.darkest = least(m.darkest, value);
  return between((m.light - value) / most(0.05, m.light - m.darkest), 0, 1);
}

static void look() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  const Line &line = *m.line;
  if (line.edge != 0) {
    const real share = darkness(0);
    m.off = line.edge * (share - real(0.5)) * line.spot;
    m.sees = share < real(0.2) ? LIGHT : share > real(0.85) ? DARK : ON;
    return;
  }
  real weight = 0, sum = 0, top = 0;
  uint8_t dark = 0;
  for (uint8_t i = 0; i < line.count; i += 1) {
    const real share = darkness(i);
    weight += share;
    sum += share * flash(line.offsets[i]);
    top = most(top, share);
    if (share > SEEN_MOST) dark += 1;
  }
  m.sees = top < SEEN_LEAST ? LIGHT : dark >= most(2, line.count * real(0.7)) ? DARK : ON;
  m.off = line.count == 2 ? sum / 2 : weight > real(0.15) ? sum / weight : real(0);
}

static void measure() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  m.way += robot::ENCODERS ? driveTravel() - m.travelBefore : m.speed * TICK;
  m.heading += robot::ENCODERS || robot::GYRO ? drive.heading - m.headingBefore : m.rate * TICK;
  m.travelBefore = driveTravel();
  m.headingBefore = drive.heading;
}

/** Where the line was going: a straight line through the headings of the last centimetres, by least squares. */
static void course() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  const uint8_t n = m.headingCount < COURSE_SAMPLES ? m.headingCount : COURSE_SAMPLES;
  if (n < 2) {
    m.seenRad = m.heading;
    m.bend = 0;
    return;
  }
  real sum = 0, moment = 0, square = 0;
  for (uint8_t i = 0; i < n; i += 1) {
    const real heading = m.headings[(m.headingCount - 1 - i) % COURSE_SAMPLES];
    const real at = real(n - 1) / 2 - i;
    sum += heading;
    moment += at * heading;
    square += at * at;
  }
  const real slope = n < COURSE_SAMPLES ? real(0) : moment / square;
  // What is less than this is wobble.
  m.bend = clamp((slope > 0 ? 1 : -1) * most(0, size(slope / SAMPLE_WAY) - WOBBLE), 8);
  m.seenRad = sum / n + slope * (n - 1) / 2;
}

/** Keeps where the line was seen, and on which side it went. */
static void remember() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  if (m.sees != LIGHT) m.seen = m.way;
  if (m.sees == DARK && !m.hasDarkFrom) {
    m.hasDarkFrom = true;
    m.darkFrom = m.way;
    m.darkFromRad = m.heading;
  } else if (m.sees != DARK && m.hasDarkFrom) {
    m.hasDarkFrom = false;
    m.darkEnded = m.way;
  }
  if (m.line->edge == 0) {
    // The side on which more of it was seen over the last few centimetres.
    const real moved = most(0, m.way - m.weighed);
    m.weighed = m.way;
    if (m.sees == LIGHT) return;
    m.weight += moved * m.off - least(1, moved / real(0.05)) * m.weight;
    m.side = m.weight > 0 ? 1 : -1;
    m.nearOff += least(1, moved / NEAR_WAY) * (m.off - m.nearOff);
    return;
  }
  // Beside an edge the line lies on its side, unless it was crossed just now.
  const int8_t away = m.line->edge == 1 ? -1 : 1;
  const bool straightOver = (m.heading - m.darkFromRad) * m.line->edge < real(0.1);
  const bool over = straightOver && m.way - m.darkEnded < m.ahead * real(0.7);
  m.side = over ? -away : away;
}

/** At a line across, where one is asked for: ends, or drives on until the axle stands on it and turns. */
static bool crossed() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  if (m.crossing == Crossing::straight || m.sees != DARK) return false;
  if (m.way - m.crossedAt < CROSS * real(1.5)) return false;
  if (m.crossing == Crossing::stop) {
    m.ended = true;
    return true;
  }
  course();
  m.seen = m.way;
  m.turning = m.crossing == Crossing::left ? 1 : -1;
  m.phase = CROSSING;
  return true;
}

static void lose() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  m.searched = false;
  // One spot sees so little to its sides that it looks about half-way too.
  m.sweepAt = m.line->edge == 0 ? m.bridge : least(EDGE_SWEEP, m.bridge);
  course();
  m.turning = m.side;
  m.sawDark = false;
  m.phase = m.bridgesFirst ? BRIDGE : PASS;
}

static void track() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  remember();
  if (m.sees != LIGHT && m.way - m.sampled >= SAMPLE_WAY) {
    m.sampled = m.way;
    m.headings[m.headingCount % COURSE_SAMPLES] = m.heading;
    m.headingCount += 1;
  }
  if (crossed()) return;
  const real unseen = m.sees == LIGHT ? m.way - m.seen : real(0);
  if (unseen > m.blind + m.line->spot) return lose();
  real off = m.off;
  const bool blindly = m.sees == LIGHT && m.line->edge == 0;
  // Gone between two looks: to the side where it was, if it was going there.
  if (blindly) off = size(m.nearOff) > real(0.45) * m.mostOff ? (m.nearOff > 0 ? 1 : -1) * m.mostOff : real(0);
  if (m.sees == DARK && (m.line->edge == 0 || (m.hasDarkFrom && m.way - m.darkFrom < CROSS * real(0.6)))) off = 0;
  const real share = least(1, size(off) / m.mostOff);
  const real gain = GAIN_PER_SEC * m.gain / m.ahead;
  m.slope += TICK / (real(0.03) + TICK) * ((off - m.offBefore) / TICK - m.slope);
  m.offBefore = off;
  const real v = m.speed;
  if (!blindly) m.curve = clamp(m.curve + GAIN_CURVE * gain * off * v * TICK / (v * v + real(0.0025)), 1 / LEAST_RADIUS);
  m.rate = clamp(gain * (off + m.damp * GAIN_DAMP * m.slope) + m.curve * v, m.mostRate);
  // In a curve no faster than it can turn, and slower while the line runs away.
  const real bent = real(sqrt(2 * (m.mostOff + real(0.004)) / most(0.1, size(m.curve)))) / REACTS;
  const real calm = m.way - m.foundAt < CALM_WAY ? m.calm : m.options.cruise;
  const real target = most(m.slow, least(least(m.options.cruise * (1 - real(0.9) * share * share), bent), calm));
  const real ramp = target > v ? least(m.options.ramp, GATHER) : m.options.ramp * real(1.5);
  m.speed = approach(v, target, ramp * TICK);
}

static bool found() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  // Swinging back it first comes out of where it looked too far.
  const real turned = (m.heading - m.seenRad) * m.turning;
  if (m.phase == SECOND && turned < m.wide - SEARCH_RAD) return false;
  if (m.phase == TURNING && turned < OFF_CROSSING) return false;
  if (m.line->edge == 0) return m.sees != LIGHT;
  // Beside an edge: coming from the light it is the near one; from the other side the dark has to be crossed.
  const int8_t toward = m.line->edge == 1 ? -1 : 1;
  if (!spins() || m.turning == toward) return m.sees != LIGHT;
  if (m.sees == DARK) m.sawDark = true;
  return m.sawDark && m.sees == ON;
}

/** At the far end of a gap the line may have gone on a little to the side. */
static void sweeps() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  m.aheadRad = m.heading - m.seenRad;
  m.turning = m.side;
  m.sawDark = false;
  m.phase = SWEEP;
}

static void other(LinePhase next) {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  m.turning = m.turning == 1 ? -1 : 1;
  m.sawDark = false;
  m.phase = next;
}

/** Along the way the line had, curve included. */
static void onward(real speed, real gone, real turned) {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  // Beside an edge a gap is crossed leaning to the line, so that it is met and not passed.
  const real lean = real(0.04) + real(1.1) * most(0, gone - real(0.03));
  const real off = -m.line->edge * lean + m.bend * gone - turned;
  m.rate = clamp(6 * off, m.mostRate);
  const real slow = size(off) > real(0.15) ? 0.3 : 1;
  m.speed = approach(m.speed, speed * slow, m.options.ramp * TICK);
}

/** Turns to a side: on the spot, or with a steered axle on its tightest circle, back along it when it swings back. */
static void spin(int8_t side, real turned) {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
#if PEBBLE_STEERS
  const real way = turned * side < real(-0.05) ? -1 : 1;
  m.speed = approach(m.speed, way * m.slow * real(1.5), m.options.ramp * TICK);
  m.rate = side * size(m.speed) / robot::LEAST_RADIUS;
#else
  (void)turned;
  m.speed = approach(m.speed, 0, m.options.ramp * real(1.5) * TICK);
  m.rate = approach(m.rate, side * m.mostRate, 30 * TICK);
#endif
}

static void search() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  if (m.phase != CROSSING && found()) {
    if (m.phase == TURNING) m.crossedAt = m.way;
    m.bridgesFirst = m.phase != FIRST && m.phase != SECOND && m.phase != RETURN;
    if (spins() || m.phase == RETURN) m.headingCount = 0;
    m.phase = TRACK;
    m.seen = m.foundAt = m.way;
    m.curve = m.bridgesFirst ? m.bend : real(0);
    m.offBefore = m.off;
    m.slope = 0;
    return track();
  }
  const real far = SEARCH_RAD - m.wide, gone = m.way - m.seen, turned = m.heading - m.seenRad;
  const real swept = turned - m.aheadRad;
  switch (m.phase) {
    case PASS:
      onward(m.slow * real(1.3), gone, turned);
      if (gone >= m.ahead) m.phase = FIRST;
      return;
    case CROSSING:
      onward(m.slow * real(1.3), gone, turned);
      if (gone >= m.ahead) m.phase = TURNING;
      return;
    case TURNING:
    case FIRST:
      spin(m.turning, turned);
      if (turned * m.turning >= far) other(SECOND);
      return;
    case BRIDGE:
      onward(m.options.cruise * real(0.7), gone, turned);
      if (gone >= m.sweepAt) sweeps();
      return;
    case SWEEP:
      spin(m.turning, swept);
      if (swept * m.turning >= SWEEP_RAD) other(BACK);
      return;
    case BACK:
      spin(m.turning, swept);
      if (swept * m.turning >= SWEEP_RAD) other(STRAIGHTEN);
      return;
    case STRAIGHTEN:
      spin(m.turning, swept);
      if (swept * m.turning < real(-0.15)) return;
      if (m.sweepAt < m.bridge) {
        m.sweepAt = m.bridge;
        m.phase = BRIDGE;
      } else if (m.searched) {
        m.lost = true;
      } else {
        m.phase = RETREAT;
      }
      return;
    case RETREAT:
      onward(-m.slow * real(1.5), gone, turned);
      if (gone <= m.ahead) m.phase = FIRST;
      return;
    case SECOND:
      spin(m.turning, turned);
      if (turned * m.turning >= far) other(RETURN);
      return;
    case RETURN:
      spin(turned > 0 ? -1 : 1, turned);
      if (size(turned) >= real(0.15)) return;
      m.searched = true;
      if (m.bridgesFirst) {
        m.lost = true;
      } else {
        m.sweepAt = m.bridge;
        m.phase = HOOK;
      }
      return;
    case HOOK:
      onward(m.slow * real(1.5), gone, turned);
      if (gone >= m.bridge) sweeps();
      return;
    default: return;
  }
}

static bool tickLine() {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  measure();
  look();
  const real before = m.speed;
  if (m.phase == TRACK) track();
  else search();
  if (m.lost || m.ended) {
    if (m.lost) moving.how = End::lost;
    release(Mode::brake);
    return true;
  }
  follow(m.speed, (m.speed - before) / TICK, m.rate, 0, 0, 0, m.options.duty);
  return false;
}

/** a: gain, b: damping, c: bridge. */
static void beginLine(Order &order, real) {
  LineRoom &m = near(roomOf<LineRoom>(room.line));
  beginMotion(tickLine, ENDLESS);
  m = LineRoom{};
  const Line &line = *order.line;
  m.line = order.line;
  m.options = order.options;
  m.gain = order.a;
  m.damp = order.b;
  m.bridge = order.c;
  m.crossing = order.crossing;
  real widest = 0;
  for (uint8_t i = 0; i < line.count; i += 1) widest = most(widest, size(flash(line.offsets[i])));
  m.mostOff = line.edge != 0 ? line.spot / 2 : line.count == 2 ? widest / 2 : widest;
  m.wide = line.edge != 0 ? real(0) : real(atan(widest / most(0.02, size(line.ahead))));
  m.blind = line.edge != 0 ? line.spot : line.count == 2 ? real(0.02) : real(0.004);
  // White is about twice the middle value, a line half of it.
  m.light = least(1, 2 * line.dark);
  m.darkest = real(0.3) * line.dark;
  m.sampled = m.darkEnded = m.crossedAt = m.foundAt = -ENDLESS;
  m.side = line.edge == 1 ? -1 : 1;
  m.turning = 1;
  m.speed = drive.wanted;
  m.travelBefore = driveTravel();
  m.headingBefore = drive.heading;
  m.ahead = most(0.02, size(line.ahead));
  m.calm = line.edge == 0 ? m.options.cruise : CALM_SPEED;
  m.slow = least(SLOW_MOST, m.options.cruise * SLOW_SHARE);
  // A search must not swing the spot over a line between two looks.
  m.mostRate = least(robot::TOP_TURN * real(0.7), real(0.25) / m.ahead);
}

Order followLine(const Line &line, real gain, real damp, real bridge, Crossing crossing, const Options &options) {
  Order order = Order();
  order.begin = beginLine;
  order.options = options;
  order.line = &line;
  order.a = isnan(gain) ? real(1) : between(gain, 0.05, 10);
  order.b = isnan(damp) ? real(1) : between(damp, 0, 20);
  order.c = isnan(bridge) ? real(0.18) : between(bridge, 0, 2);
  order.crossing = crossing;
  return order;
}

}  // namespace pebble
