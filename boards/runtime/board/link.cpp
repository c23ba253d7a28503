// The robot link over a serial line: frames between zeros, each with a kind and a checksum. docs/formats.md tells them all.
#include "contract.h"
#include "version.h"

#include <string.h>

using namespace pebble;

/** What is sent to a robot, and what it sends. */
enum Order : uint8_t { HELLO = 1, RUN, HALT, HANDS, DRIVE, BEAT, TELL };
enum Word : uint8_t { GREETING = 129, STATE, POSE, VALUES, STEP, SAID, ENDED, DONE, REFUSED, HEARD };
enum No : uint8_t { BUSY = 1, NOT_KNOWN };

constexpr uint8_t SPEAKS = 1;
/** A driver, or whoever started a mission, that was not heard for so long: the robot stops. Ticks. */
constexpr uint8_t HANDS_SILENT = 30, START_WAITS = 100, STATE_EVERY = 50;
constexpr uint8_t HEARD_MOST = 20, OUT_RING = uses::LINK ? 64 : 1, TOLD_AT_ONCE = 8;

Link link;

// ---- Checksum: CRC-16 with the polynomial 0x1021, begun with ones

static uint16_t checked(uint16_t sum, uint8_t byte) {
  sum ^= uint16_t(byte) << 8;
  for (uint8_t i = 0; i < 8; i += 1) sum = sum & 0x8000 ? sum << 1 ^ 0x1021 : sum << 1;
  return sum;
}

// ---- Out: a frame is put into the ring without zeros, and given free when it is whole

static volatile uint8_t outRing[OUT_RING];
static volatile uint8_t outFrom, outTo;
static uint8_t frameTo, countAt;
static uint16_t frameSum;

static uint8_t after(uint8_t at) { return (at + 1) % OUT_RING; }

int16_t linkNext() {
  if (outFrom == outTo) return -1;
  const uint8_t byte = outRing[outFrom];
  outFrom = after(outFrom);
  return byte;
}

static uint8_t outRoom() { return uint8_t(outFrom - outTo - 1) % OUT_RING; }

static void putByte(uint8_t byte) {
  outRing[frameTo] = byte;
  if (byte == 0) {
    outRing[countAt] = uint8_t(frameTo - countAt) % OUT_RING;
    countAt = frameTo;
  }
  frameTo = after(frameTo);
}

static void tell(uint8_t byte) {
  frameSum = checked(frameSum, byte);
  putByte(byte);
}
static void tellBytes(const void *from, uint8_t count) {
  for (const uint8_t *at = static_cast<const uint8_t *>(from); count > 0; count -= 1) tell(*at++);
}
static void tellWord(uint16_t word) {
  tell(uint8_t(word));
  tell(uint8_t(word >> 8));
}

/** Begins a frame of so many bytes at most. What waits for a step's end may wait for the line: two milliseconds at most. */
static bool begins(Word kind, uint8_t bytes, bool waits = true) {
  if (!uses::LINK) return false;
  bytes += 6;
  for (uint8_t i = 0; waits && link.on && outRoom() < bytes && i < 200; i += 1) halPause();
  if (outRoom() < bytes) return false;
  countAt = outTo;
  frameTo = after(countAt);
  frameSum = 0xffff;
  tell(kind);
  return true;
}
static void ends() {
  const uint16_t sum = frameSum;
  putByte(uint8_t(sum));
  putByte(uint8_t(sum >> 8));
  putByte(0);
  outRing[countAt] = 0;
  outTo = frameTo;
  halTell();
}

static void tellOf(Word kind, uint8_t ask, uint8_t why) {
  if (!begins(kind, 2)) return;
  tell(ask);
  tell(why);
  ends();
}

static void tellGreeting() {
  if (!begins(GREETING, 30)) return;
  tell(SPEAKS);
  const uint32_t version = robot::VERSION;
  tellBytes(&version, sizeof version);
  for (uint8_t i = 0; i < sizeof robot::NAME - 1; i += 1) tell(flash(reinterpret_cast<const uint8_t *>(robot::NAME)[i]));
  ends();
}

static void tellState() {
  if (!begins(STATE, 9)) return;
  tell(link.doing);
  tell(link.why);
  tell(handedOver ? handSilent ? 1 : 2 : 0);
  tellWord(uint16_t(halVolts() * 1000));
  tellWord(lateTicks);
  ends();
}

/** Which of the watched readings goes out next; what is left of them. */
static uint8_t toTell = 255;
static bool poseDue;

/** As they lie in memory, low byte first: heading, turn rate, x and y; speed, share and counts of each side. */
static void tellPose() {
  if (!begins(POSE, 52, false)) return;
  poseDue = false;
  tellBytes(&tick, 4);
  tellBytes(&drive.heading, 16);
  for (uint8_t i = 0; i < 2; i += 1) tellBytes(&drive.shafts[i].speed, 12);
  tellBytes(&drive.volts, 4);
  tellWord(link.seq);
  tellWord(stepInHand());
  ends();
  toTell = 0;
}

static void tellValues() {
  const uint8_t count = WATCHED_COUNT - toTell < TOLD_AT_ONCE ? WATCHED_COUNT - toTell : TOLD_AT_ONCE;
  if (!begins(VALUES, 5 + 4 * TOLD_AT_ONCE, false)) return;
  tellBytes(&tick, 4);
  tell(toTell);
  for (uint8_t i = 0; i < count; i += 1) tellBytes(&readings[flash(WATCHED[toTell + i])], 4);
  ends();
  toTell += count;
}

void linkPump() {
  if (!uses::LIVE) return;
  if (toTell < WATCHED_COUNT) tellValues();
  else if (poseDue) tellPose();
}

// ---- In: frames that are whole and right are obeyed, all else is passed over

static uint8_t heardBytes[HEARD_MOST];
static uint8_t heardCount, heardLeft;
static bool heardFull, heardBad;
static uint8_t silentTicks, limitTicks, handsTicks, tellTicks;
static real left, right;
static bool greeted, worn;

static uint16_t wordAt(uint8_t at) { return heardBytes[at] | uint16_t(heardBytes[at + 1]) << 8; }
static real shareAt(uint8_t at) { return most(-1, int8_t(heardBytes[at]) / real(127)); }

static void begun(uint8_t limit) {
  limitTicks = limit;
  link.doing = link.RUNS;
  worn = true;
  tellState();
}

/** Off, and said why. */
static void halts(Why why) {
  if (link.doing == link.RUNS) stop(why);
  if (link.doing == link.DRIVEN) boardEnd(why, 0, 0);
}

static void hands() {
  if (!uses::HAND) return;
  link.seq = wordAt(1);
  for (uint8_t i = 0; i < 4; i += 1) {
    senses.sticks[i] = shareAt(3 + i);
    senses.levels[i] = heardBytes[7 + i] / real(255);
  }
  // Pressed and let go between two ticks is pressed for one.
  senses.buttons = wordAt(11) | (handsTicks == 0 ? senses.buttons : 0);
  handsTicks = 0;
  if (!begins(HEARD, 3, false)) return;
  tellWord(link.seq);
  tell(handedOver && !handSilent && link.doing == link.RUNS);
  ends();
}

static void drives() {
  if (link.doing == link.RUNS) return tellOf(REFUSED, 0, BUSY);
  link.seq = wordAt(1);
  handsTicks = 0;
  left = shareAt(3);
  right = shareAt(4);
  if (link.doing == link.DRIVEN) return;
  link.doing = link.DRIVEN;
  worn = true;
  tellState();
}

static void obey(uint8_t kind, uint8_t count) {
  silentTicks = 0;
  const uint8_t ask = count > 1 ? heardBytes[1] : 0;
  link.on = true;
  if (kind == HELLO) {
    greeted = true;
    tellGreeting();
    tellState();
  } else if (kind == RUN && count == 3) {
    if (link.doing != link.WAITS) return tellOf(REFUSED, ask, BUSY);
    tellOf(DONE, ask, 0);
    // What has run is not fresh: the board begins anew, and runs from its first tick.
    if (!worn) return begun(heardBytes[2]);
    // What was told last gets out: a ring takes six milliseconds, its last bytes a fifth of one.
    for (uint16_t i = 0; i < 800 && outFrom != outTo; i += 1) halPause();
    for (uint8_t i = 0; i < 30; i += 1) halPause();
    halRestart(heardBytes[2]);
  } else if (kind == HALT) {
    halts(Why::halted);
    tellOf(DONE, ask, 0);
  } else if (kind == HANDS && count == 13) {
    hands();
  } else if (uses::LIVE && kind == DRIVE && count == 5) {
    drives();
  } else if (uses::LIVE && kind == TELL && count == 3) {
    tellTicks = heardBytes[2];
    tellOf(DONE, ask, 0);
  } else if (kind != BEAT) {
    tellOf(REFUSED, ask, NOT_KNOWN);
  }
}

static void frameEnds() {
  const uint8_t count = heardCount;
  if (heardBad || heardLeft != 0 || count < 3) return;
  uint16_t sum = 0xffff;
  for (uint8_t i = 0; i < count - 2; i += 1) sum = checked(sum, heardBytes[i]);
  if (wordAt(count - 2) == sum) obey(heardBytes[0], count - 2);
}

static void keep(uint8_t byte) {
  if (heardCount >= HEARD_MOST) heardBad = true;
  else heardBytes[heardCount++] = byte;
}

static void hear(uint8_t byte) {
  if (byte == 0) {
    frameEnds();
    heardCount = heardLeft = 0;
    heardBad = heardFull = false;
    return;
  }
  if (heardLeft > 0) {
    keep(byte);
    heardLeft -= 1;
    return;
  }
  if (heardFull) keep(0);
  heardLeft = byte - 1;
  // 255 stands for 254 bytes without a zero behind them; no frame here is so long.
  heardFull = byte != 255;
}

void linkListen() {
  if (!uses::LINK) return;
  for (int16_t byte; (byte = halHear()) >= 0;) hear(uint8_t(byte));
}

// ---- Once a tick

void linkBegin() {
  uint8_t limit = 0;
  // Whatever was cut off by the start is none of the first frame.
  if (uses::LINK) {
    outRing[0] = 0;
    outTo = after(0);
  }
  if (halCrashed()) {
    greeted = link.on = true;
    link.why = uint8_t(Why::crashed) + 1;
    tellGreeting();
    tellState();
  }
  if (uses::LINK && halRestarted(limit)) {
    link.on = greeted = true;
    tellTicks = 2;
    tellGreeting();
    begun(limit);
  }
}

void linkTick() {
  static uint8_t waited, untilState, untilPose;
  linkListen();
  if (silentTicks < 255) silentTicks += 1;
  if (handsTicks < 255) handsTicks += 1;
  const bool let = uses::LIVE && link.doing == link.DRIVEN && handsTicks > HANDS_SILENT;
  if (let || (limitTicks > 0 && silentTicks > limitTicks)) halts(Why::silent);
  // Nobody is there: a mission that was put on a board begins by itself.
  if (link.doing == link.WAITS && !worn && !greeted && ++waited >= START_WAITS) begun(0);
  if (uses::HAND) senses.heard = handsTicks <= HANDS_SILENT;
  if (!uses::LINK || !link.on) return;
  if (++untilState >= STATE_EVERY) {
    untilState = 0;
    tellState();
  }
  if (uses::LIVE && tellTicks > 0 && link.doing != link.WAITS && ++untilPose >= tellTicks) {
    untilPose = 0;
    poseDue = true;
  }
}

void linkDrives() { power(left, right); }

// ---- What a mission says

namespace pebble {
void boardStep(uint16_t step, uint8_t task, uint32_t from, uint32_t to, End how) {
  if (!uses::LIVE || !begins(STEP, 12)) return;
  tellWord(step);
  tell(task);
  tell(uint8_t(how));
  tellBytes(&from, 4);
  tellBytes(&to, 4);
  ends();
}

void boardEnd(Why why, uint16_t a, uint16_t b) {
  link.doing = link.WAITS;
  link.why = uint8_t(why) + 1;
  limitTicks = 0;
  if (begins(ENDED, 9)) {
    tell(uint8_t(why));
    tellWord(a);
    tellWord(b);
    tellBytes(&tick, 4);
    ends();
  }
  tellState();
}

void boardSay(uint8_t kind, const char *text) {
  const uint8_t count = strlen(text) > 40 ? 40 : strlen(text);
  if (!uses::LIVE || !begins(SAID, 1 + count)) return;
  tell(kind);
  tellBytes(text, count);
  ends();
}

real boardChance() { return halChance(); }
}  // namespace pebble
