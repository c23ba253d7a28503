// What missions count with: questions that take time, arithmetic that has no surprises, lists, and texts.
#include "motions.h"

namespace pebble {

real wrap(real rad) {
  const real turns = floor((HALF_TURN - rad) / WHOLE_TURN);
  return rad + turns * WHOLE_TURN;
}

/** A reading that counts, since the step began. */
bool grew(Task &t, uint8_t counter, uint8_t slot) {
  const real count = readings[slot];
  if (t.counters[counter] < 0) t.counters[counter] = count;
  return count > t.counters[counter];
}

/** The same, since it was asked last. */
bool grewAnew(Task &t, uint8_t counter, uint8_t slot) {
  const real count = readings[slot], before = most(0, t.counters[counter]);
  t.counters[counter] = count;
  return count > before;
}

/** True once it was true for so long. */
bool held(Task &t, uint8_t counter, bool now, real seconds) {
  if (!now) {
    t.counters[counter] = -1;
    return false;
  }
  if (t.counters[counter] < 0) t.counters[counter] = tick;
  return (int32_t(tick) - int32_t(t.counters[counter])) * TICK >= seconds - ALMOST;
}

bool heard(Task &t, uint8_t signal) { return (t.signals >> signal) & 1; }
void hears(Task &t, uint8_t signal) { t.signals &= ~(uint32_t(1) << signal); }

/** A division by zero reads 0: a robot must not be sent to infinity. */
real divided(real a, real b) { return b == 0 ? real(0) : a / b; }

real raised(real base, int16_t times) {
  real product = 1;
  for (int16_t i = 0; i < (times < 0 ? -times : times); i += 1) product *= base;
  return times >= 0 ? product : divided(1, product);
}

/** What is left over: has the sign of the divisor, so that angles and passes go round. */
real modulo(real x, real by) { return by == 0 ? real(0) : x - by * real(floor(x / by)); }
real floored(real x, real step) { return step == 0 ? x : real(floor(x / step + real(1e-6))) * step; }
real ceiled(real x, real step) { return step == 0 ? x : -real(floor(-x / step + real(1e-6))) * step; }
real roundedTo(real x, real step) { return step == 0 ? x : rounded(x / step) * step; }
real chance(real low, real high) { return low + (high - low) * boardChance(); }

/** A number beyond this ends the mission. */
real bound(real x, real limit, uint16_t number) {
  if (x >= -limit && x <= limit) return x;
  stop(Why::beyond, number);
  return 0;
}

// ---- Lists and tables

static int16_t placeOf(const List &list, real at) {
  if (list.keys) {
    for (uint16_t i = 0; i < list.count; i += 1)
      if (list.keys[i] == at) return i;
    return -1;
  }
  const real place = rounded(at) - 1;
  return place >= 0 && place < list.count ? int16_t(place) : -1;
}

void listAdd(List &list, real value, uint8_t number) {
  if (list.count >= list.most) {
    if (!list.rolling) return stop(Why::list_full, number);
    for (uint16_t i = 1; i < list.count; i += 1) list.values[i - 1] = list.values[i];
    list.count -= 1;
  }
  list.values[list.count] = value;
  list.count += 1;
}

/** Puts a value in a place: of a list one that is there, of a table under any key. */
void listPut(List &list, real at, real value, uint8_t number) {
  const int16_t place = placeOf(list, at);
  if (place >= 0) {
    list.values[place] = value;
    return;
  }
  if (!list.keys) return stop(Why::outside_list, number);
  if (list.count >= list.most) return stop(Why::list_full, number);
  list.keys[list.count] = at;
  list.values[list.count] = value;
  list.count += 1;
}

real listItem(const List &list, real at, uint8_t number) {
  const int16_t place = placeOf(list, at);
  if (place >= 0) return list.values[place];
  stop(Why::outside_list, number);
  return 0;
}

bool listHas(const List &list, real value) {
  const real *values = list.keys ? list.keys : list.values;
  for (uint16_t i = 0; i < list.count; i += 1)
    if (values[i] == value) return true;
  return false;
}

real listTell(const List &list, Of what, uint8_t number) {
  if (what == Of::count) return list.count;
  real sum = 0, low = ENDLESS, high = -ENDLESS;
  for (uint16_t i = 0; i < list.count; i += 1) {
    sum += list.values[i];
    low = least(low, list.values[i]);
    high = most(high, list.values[i]);
  }
  if (what == Of::sum) return sum;
  if (list.count == 0) {
    stop(Why::outside_list, number);
    return 0;
  }
  switch (what) {
    case Of::last: return list.values[list.count - 1];
    case Of::mean: return sum / list.count;
    case Of::min: return low;
    default: return high;
  }
}

bool listEach(const List &list, real pass, real &value) {
  const uint16_t place = uint16_t(pass) - 1;
  if (place >= list.count) return false;
  value = (list.keys ? list.keys : list.values)[place];
  return true;
}

// ---- Colours

static real curve(real t) { return t > real(0.008856) ? real(cbrt(t)) : real(7.787037) * t + real(16) / 116; }

/** Nearest of some colours by distance in CIE Lab (1976); sure when it is much nearer than the next. */
real nameColour(const Colour *known, uint8_t count, real red, real green, real blue, bool &sure) {
  const real x = curve((real(0.4124564) * red + real(0.3575761) * green + real(0.1804375) * blue) / real(0.95047));
  const real y = curve(real(0.2126729) * red + real(0.7151522) * green + real(0.072175) * blue);
  const real z = curve((real(0.0193339) * red + real(0.119192) * green + real(0.9503041) * blue) / real(1.08883));
  const real l = 116 * y - 16, a = 500 * (x - y), b = 200 * (y - z);
  real best = ENDLESS, next = ENDLESS;
  uint8_t index = 0;
  for (uint8_t i = 0; i < count; i += 1) {
    const real dl = l - flash(known[i].l), da = a - flash(known[i].a), db = b - flash(known[i].b);
    const real d = sqrt(dl * dl + da * da + db * db);
    if (d < best) {
      next = best;
      best = d;
      index = flash(known[i].index);
    } else if (d < next) {
      next = d;
    }
  }
  sure = next == ENDLESS || (next > 0 && best / next < real(0.7));
  return index;
}

// ---- Texts

static const char TEXT_YES[] FLASH = "yes", TEXT_NO[] FLASH = "no";
static char line[48];
static uint8_t lineLength;

void lineBegin() { lineLength = 0; }

static void put(char letter) {
  if (lineLength < sizeof line - 1) {
    line[lineLength] = letter;
    lineLength += 1;
  }
}

void lineText(const char *words) {
  for (; flash(*reinterpret_cast<const uint8_t *>(words)); words += 1) put(flash(*reinterpret_cast<const uint8_t *>(words)));
}

/** A number with so many digits behind the point, without zeros at its end. */
void lineNumber(real value, uint8_t places) {
  uint32_t scale = 1;
  for (uint8_t i = 0; i < places; i += 1) scale *= 10;
  const bool below = value < 0;
  uint32_t whole = least(size(value) * scale + real(0.5), 4.2e9);
  uint8_t behind = places;
  while (behind > 0 && whole % 10 == 0) {
    whole /= 10;
    behind -= 1;
  }
  if (below && whole != 0) put('-');
  char digits[12];
  uint8_t n = 0;
  do {
    digits[n] = '0' + whole % 10;
    whole /= 10;
    n += 1;
  } while (whole != 0 || n <= behind);
  while (n > 0) {
    n -= 1;
    put(digits[n]);
    if (n == behind && n > 0) put('.');
  }
}

void lineTruth(real value) { lineText(value != 0 ? TEXT_YES : TEXT_NO); }
void lineKept(real value) { lineText(TEXTS[uint8_t(value)]); }

void lineSay(uint8_t kind) {
  line[lineLength] = 0;
  boardSay(kind, line);
}

static const char BLACK[] FLASH = "black", WHITE[] FLASH = "white", GREY[] FLASH = "grey", RED[] FLASH = "red";
static const char ORANGE[] FLASH = "orange", YELLOW[] FLASH = "yellow", GREEN[] FLASH = "green", BLUE[] FLASH = "blue";
static const char VIOLET[] FLASH = "violet", BROWN[] FLASH = "brown", UNKNOWN[] FLASH = "?";

void lineColour(real value) {
  switch (uint8_t(value)) {
    case 0: return lineText(BLACK);
    case 1: return lineText(WHITE);
    case 2: return lineText(GREY);
    case 3: return lineText(RED);
    case 4: return lineText(ORANGE);
    case 5: return lineText(YELLOW);
    case 6: return lineText(GREEN);
    case 7: return lineText(BLUE);
    case 8: return lineText(VIOLET);
    case 9: return lineText(BROWN);
    default: return lineText(UNKNOWN);
  }
}

}  // namespace pebble
