// The robot's brain on a board: what a mission calls, and what a board has to offer.
//
// All numbers are SI: metres, seconds, radians, volts. Angles grow to the left. A tick is 10 ms: senses are read once at
// its begin, orders are given once at its end. Nothing is taken from a heap.
#pragma once
#include <math.h>
#include <stdint.h>

#ifdef PEBBLE_DOUBLE
typedef double real;
#else
typedef float real;
#endif

#ifdef __AVR__
#include <avr/pgmspace.h>
#define FLASH PROGMEM
#define WORDS(words) PSTR(words)
inline real flash(const real &x) { return pgm_read_float(&x); }
inline uint8_t flash(const uint8_t &x) { return pgm_read_byte(&x); }
template <typename T> inline T flash(const T &x) {
  T copy;
  memcpy_P(&copy, &x, sizeof copy);
  return copy;
}
#else
#define FLASH
#define WORDS(words) words
template <typename T> inline T flash(const T &x) { return x; }
#endif

#ifdef __AVR__
/** Reached by a pointer: half the code of an address that is written out for each byte. */
template <typename T> inline __attribute__((always_inline)) T &near(T &x) {
  T *at = &x;
  asm("" : "+r"(at));
  return *at;
}
#else
template <typename T> inline T &near(T &x) { return x; }
#endif

#include "robot.h"
#include "uses.h"

namespace pebble {

constexpr real TICK = 0.01;
/** Sums of ticks are compared with times to within this, s: a float has only so many digits. */
constexpr real ALMOST = 1e-4;
constexpr real HALF_TURN = 3.14159265358979;
constexpr real WHOLE_TURN = 6.28318530717959;

inline real least(real a, real b) { return a < b ? a : b; }
inline real most(real a, real b) { return a > b ? a : b; }
inline real size(real x) { return x < 0 ? -x : x; }
inline real signOf(real x) { return x > 0 ? 1 : x < 0 ? -1 : 0; }
/** A value held between -most and most. */
inline real clamp(real x, real limit) { return x > limit ? limit : x < -limit ? -limit : x; }
inline real between(real x, real low, real high) { return x < low ? low : x > high ? high : x; }
inline real approach(real x, real target, real step) {
  return x < target ? least(target, x + step) : most(target, x - step);
}
/** The same direction in (-half a turn, half a turn]. */
real wrap(real rad);
/** To the nearest whole number; halves go up. */
inline real rounded(real x) { return floor(x + real(0.5)); }
constexpr real ENDLESS = INFINITY;

// ---------------------------------------------------------------------------------------------------------------
// The board. A board file has these functions; docs/boards.md tells what each is asked for.

enum class Mode : uint8_t { drive, brake, coast };

/** What is read of the robot in this tick. */
struct Senses {
  /** Counts of each drive shaft since the start, as mounted. */
  int32_t counts[robot::SHAFTS];
  /** Newest turn rate of the gyro, rad/s, and the time it stands for; 0 s in ticks without a new one. */
  real gyroRate, gyroTime;
  real volts, amps;
  /** Of each motor that drives no wheel: counts of its encoder. Of every motor: how near it is to cutting out. */
  int32_t motorCounts[robot::MOTORS + 1];
  real heat[robot::MOTORS + 1];
  /** Of each servo: angle, rate, and the angle at which something it grips holds it (none: NAN). */
  struct { real angle, rate, held; } servos[robot::SERVOS + 1];
  /** Numbers of all sensors, one after another; robot.h says where each begins. */
  real values[robot::VALUES + 1];
  bool told[robot::SENSORS + 1];
  /** Of each attachment: it holds something. */
  bool holds[robot::ATTACHMENTS + 1];
  /** What a driver holds. */
  bool driven, heard;
  real sticks[uses::HAND ? 4 : 1], levels[uses::HAND ? 4 : 1];
  uint16_t buttons;
};

/** What the robot is told in this tick. */
struct Orders {
  Mode mode;
  real duties[robot::SHAFTS];
  real steer;
  struct { Mode mode; real duty; } motors[robot::MOTORS + 1];
  struct { real target, share; } servos[robot::SERVOS + 1];
};

extern Senses senses;
extern Orders orders;

/** How a step ended. */
enum class End : uint8_t { none, done, until, time, limit, stalled, lost, ended, skipped, bound, interrupted };

/** Why a mission stopped. */
enum class Why : uint8_t {
  finished, never_ended, clash, no_sender, guard_loops, too_long, damaged, beyond, list_full, outside_list, tasks, text,
  halted, silent, crashed
};

/** Told of every step that is over: number among the mission's steps, task, first and last tick. */
void boardStep(uint16_t step, uint8_t task, uint32_t from, uint32_t to, End how);
void boardEnd(Why why, uint16_t a, uint16_t b);
/** A line of text: a note, a show, a light or a beep; kinds in that order. */
void boardSay(uint8_t kind, const char *text);
/** A chance, 0 to below 1. */
real boardChance();

// ---------------------------------------------------------------------------------------------------------------
// The drive.

struct Shaft {
  real travel, integral;
  // What the link tells, as it lies here.
  real speed, duty;
  int32_t counts;
};

/** What the drive knows of itself and what it wants. */
struct Drive {
  Shaft shafts[robot::SHAFTS];
  Mode mode;
  // What the link tells, as it lies here.
  real heading, turnRate, x, y;
  real aside, forward, volts;
  real wanted, wantedAside, wantedRate;
  real steer;
  bool stalled;
  uint8_t stalledTicks;
};
extern Drive drive;

real driveTravel();
real driveSpeed();
real driveAsideSpeed();
/** Ways forward and to the left added up: a step drives one of them. */
real driveWay();
bool driveStands();
void driveSense(real gyroHeading, real gyroRate);
/** Drives at a body speed and turn rate with their rates of change, corrected by way and heading. */
void follow(real speed, real accel, real rate, real rateAccel, real behind, real off, real duty, real aside = 0);
void slideAlong(real speed, real accel, real behind, real ahead, real off, real duty);
void roam(real forward, real left, real rate);
void sides(real left, real right, real accel, real accelAcross, real duty);
void power(real left, real right);
void release(Mode mode);

// ---------------------------------------------------------------------------------------------------------------
// Motions of the drive: one at a time.

/** Speed and ramp of a motion, and the largest share of the pack's voltage. */
struct Options {
  real cruise, ramp, duty;
  bool keep;
};

/** A line as the floor lights see it. */
struct Line {
  /** Readings of the lights, left first, and their places across the robot. */
  const uint8_t *slots;
  const real *offsets;
  uint8_t count;
  real ahead, spot, dark;
  /** 1: dark lies to the right of the edge, -1: to the left, 0: the centre is followed. */
  int8_t edge;
};
enum class Crossing : uint8_t { straight, left, right, stop };

/** A wall as a distance sensor to the side sees it. */
struct Wall {
  uint8_t slot;
  /** 1 left, -1 right. */
  int8_t side;
  real ahead, beside, nose;
  enum Corners : uint8_t { go_on, turn, stop } corners;
  /** A reading that tells of something ahead (255: none), and the distance at which it counts; of a bumper, 0. */
  uint8_t aheadSlot;
  real aheadNear;
};

struct Place { real x, y; };

/** What a driving step was asked for: enough to begin it anew after an interruption. */
struct Order {
  void (*begin)(Order &order, real kept);
  /** How far it came before its interruptions; of a timed motion what is left of it, 1 at first. */
  real before;
  int8_t sign;
  /** How it is measured how far it is: not at all, by way, aside, heading, or time. */
  enum Measure : uint8_t { none, way, sideways, turned, time } measure;
  bool endless, back, gyro;
  Options options;
  real a, b, c, d;
  union {
    const Line *line;
    const Wall *wall;
    Place *places;
  };
  uint8_t count;
  Crossing crossing;
};

/** What the motion in progress says of itself. */
struct Moving {
  bool (*tick)();
  bool arrived, wallEnded, timed;
  End how;
  /** Seconds it should take; endless when nothing in it ends by itself. */
  real expected;
  /** Where its measure began, and the heading it keeps (none: NAN). */
  real origin, kept;
};
extern Moving moving;

void noMotion();
void beginHalt();
void beginRoll(Order &order, real kept);
/** How far the motion is, by what its order measures. */
real progress(const Order &order);

Order straight(real length, bool back, const Options &options);
Order straightOn(bool back, const Options &options);
Order slide(real length, int8_t side, const Options &options);
Order slideOn(int8_t side, const Options &options);
enum class About : int8_t { middle, left, right };
Order turn(real angle, About about, bool gyro, const Options &options);
Order turnOn(int8_t side, About about, const Options &options);
Order face(real heading, bool gyro, const Options &options);
Order arc(real angle, real radius, bool back, const Options &options);
Order arcOn(int8_t side, real radius, bool back, const Options &options);
Order roll(real speed, real rate, real ramp);
Order wheels(real left, real right, real ramp);
Order powers(real left, real right);
Order press(bool back, real duty);
Order followLine(const Line &line, real gain, real damp, real bridge, Crossing crossing, const Options &options);
Order followWall(const Wall &wall, real away, const Options &options);
/** To places from where the robot began; facing NAN leaves the heading open, look 0 leaves the distance to the robot. */
Order goPlaces(Place *places, uint8_t count, real facing, bool back, real look, const Options &options);

constexpr real USUAL = NAN;
Options straightly(real at, real ramp = USUAL, real duty = 1, bool keep = false);
Options turning(real at, real ramp = USUAL, real duty = 1, bool keep = false);
Options sliding(real at, real ramp = USUAL, real duty = 1, bool keep = false);

// A stretch along a profile: what straight ways, slides, turns and arcs share.
struct Profile {
  real length, cruise, ramp, speed, endSpeed, distance, acceleration;
  /** What rounding lost of the distance (Kahan 1965). */
  real lost;
  void set(real length, real cruise, real ramp, real speed, real endSpeed);
  bool done() const { return distance >= length; }
  void advance();
  real expected() const;
};

// ---------------------------------------------------------------------------------------------------------------
// Motors and servos beside the drive, and what they turn.

enum class Ending : uint8_t { stop, coast, keep };

/** A part as missions name it. */
struct PartSheet {
  /** The motor that turns it, or 255; the servo, or 255; its place among all that move parts. */
  uint8_t motor, servo, mover;
  bool continuous;
  /** Turns of the mover for one turn of the part. */
  real ratio;
  real topRate, low, high;
  /** Number of the sensor's value that tells its angle, or 255, and its turns for one of the part's. */
  uint8_t potentiometer;
  real potentiometerRatio;
  /** Numbers of the values that tell how old a look of its eyes is; where their first distance is read. */
  const uint8_t *ages;
  uint8_t ageCount;
  uint8_t distanceSlot, scanSlot;
  real aim;
};
/** Of each named part, where a chip keeps its program. */
extern const PartSheet PARTS[];
PartSheet sheet(uint8_t part);

real partAngle(uint8_t part);
void partZero(uint8_t part);
void partPower(uint8_t part, Mode mode, real duty);
void partsFollow();
void partsTick();
void motorPower(uint8_t part, Mode mode, real duty);
void partsStop();
void resetRobot();
void resetGyro();

// ---------------------------------------------------------------------------------------------------------------
// Tasks and steps.

enum class Ask : uint8_t { begin, now };
struct Task;
/** A question of a step: told to begin, it sets its timers; asked, it says whether it is true. */
typedef bool (*Test)(Task &t, Ask ask);

struct Step {
  enum Kind : uint8_t { none, wait, drive, motor, move, home, aim, scan, hand, join } kind;
  uint8_t part;
  uint16_t number;
  uint32_t from;
  int32_t startClock;
  Test until;
  bool signalOnly;
  real forTime, limit, atMost, bound;
  enum By : uint8_t { time, travel, turn } by;
  Ending ending;
  End halting;
  bool heldUp;
  union {
    struct {
      Order order;
      real startTravel, startHeading, done, pausedTravel, pausedHeading, origin, kept;
    };
    // With a part, or waiting
    struct {
      real to, fromRad, toRad;
      uint16_t serial;
      int32_t settledAt;
      uint8_t looks, look;
      real *seen;
    };
  };
};

/** Something that only some missions have: elsewhere it takes what is put there, and keeps nothing. */
struct Nothing {
  template <typename T> Nothing &operator=(const T &) { return *this; }
  void begin(Nothing &, real) {}
};
template <bool is, typename T> struct Kept { typedef T Type; };
template <typename T> struct Kept<false, T> { typedef Nothing Type; };

struct Frame {
  uint16_t returnTo;
  uint8_t routine, guards, everies;
};
struct Every {
  int32_t start, due;
  uint32_t from;
  uint16_t claims, number;
  End how;
};
/** A handler of `during`: when it fires, and where it begins. */
struct Handler {
  Test when;
  uint16_t entry;
  bool signalOnly;
};

/** What a handler put aside. */
struct Saved {
  uint16_t at;
  Step step;
  uint8_t frames, guards;
  real opened[3];
  int32_t clock;
  uint16_t claims;
  Task *children;
};
struct Guard {
  const Handler *handlers;
  uint8_t count;
  uint16_t number;
  /** Calls and loops that were open when it began. */
  uint8_t frames, everies;
  bool saves;
  uint8_t firings;
  int32_t seenClock;
  uint16_t seenSteps;
  Saved saved;
  // What it put aside of calls and guards above it, values and counters.
  Frame *savedFrames;
  /** How many guards of its task had been put aside when it fired. */
  uint8_t aside;
  real *savedValues;
};

constexpr uint8_t NO_ROUTINE = 255;

struct Task {
  bool used, ended, skip;
  uint8_t id, pauses, quiet;
  uint16_t at;
  Task *parent, *nextChild, *children;
  Step step;
  Frame *frames;
  Guard **guards;
  Every *everies;
  uint8_t frameCount, guardCount, everyCount, aside;
  /** Values of routines that run in it, and whose they are where it is a branch. */
  real *values;
  Task **valuesOf;
  real *counters;
  real given;
  real last[7];
  real opened[3];
  uint32_t signals;
  /** What turns the wheels on after a step. */
  Kept<uses::KEEPS, Order>::Type passing;
  bool passes;
  int32_t lostTicks, pausedClock;
  uint16_t stepsEnded;
};

/** What a mission brings. */
struct Program {
  bool (*run)(Task &t);
  void (*initialise)(Task &t);
  uint16_t start, endOfTask;
  uint8_t tasks, frames, guards, everies, routines, values, counters;
  /** Guards of all tasks together. */
  uint8_t guardPool;
  /** Room in the order in which tasks run: those that are over keep their place there until the tick ends. */
  uint8_t orders;
  /** Where each routine's values begin among a task's. */
  const uint8_t *valuesAt;
  uint8_t readings;
};
extern const Program PROGRAM;
// Room that the mission file makes for it.
extern Task taskPool[];
extern Task *taskOrder[];
extern Frame framePool[], savedFramePool[];
extern Guard guardPool[];
extern Guard *guardLists[];
extern Every everyPool[];
extern real valuePool[], counterPool[], savedValuePool[];
extern Task *valuesOfPool[];
extern real readings[];
extern uint8_t seenSteps[];

extern uint32_t tick;
extern bool missionEnded;
extern bool handedOver;
/** It stands: the driver fell silent, and has not let go of the sticks since. */
extern bool handSilent;

void begin();
/** One tick: senses have been read, orders are given afterwards. */
void step();
void stop(Why why, uint16_t a = 0, uint16_t b = 0);
void finish(Task &t);

/** Number of the step that the mission is at; 65535 between two. */
uint16_t stepInHand();
/** Readings that the link tells of. */
extern const uint8_t WATCHED[];
extern const uint8_t WATCHED_COUNT;

inline real reading(uint8_t slot) { return readings[slot]; }
/** A value of a routine that runs in this task. */
inline real &local(Task &t, uint8_t routine, uint8_t slot) {
  return t.valuesOf[routine]->values[PROGRAM.valuesAt[routine] + slot];
}
inline int32_t clockOf(const Task &t) { return int32_t(tick) - t.lostTicks; }

// Questions
bool grew(Task &t, uint8_t counter, uint8_t slot);
bool grewAnew(Task &t, uint8_t counter, uint8_t slot);
bool held(Task &t, uint8_t counter, bool now, real seconds);
/** A signal was sent and is not heard yet; and that it is heard now. */
bool heard(Task &t, uint8_t signal);
void hears(Task &t, uint8_t signal);
inline bool within(real x, real a, real b) { return a <= b ? x >= a && x <= b : x >= b && x <= a; }
real divided(real a, real b);
real raised(real base, int16_t times);
real modulo(real x, real by);
real floored(real x, real step);
real ceiled(real x, real step);
real roundedTo(real x, real step);
real chance(real low, real high);
real bound(real x, real limit, uint16_t number);

// Where it goes on
bool again(Task &t, uint16_t to);
bool go_on(Task &t, uint16_t to);
bool endTask(Task &t);
bool branchOn(Task &t, bool yes, uint16_t otherwise);
bool call(Task &t, uint16_t entry, uint8_t routine, uint8_t size, const real *args, uint8_t count);
real callNow(Task &t, uint16_t entry, uint8_t routine, uint8_t size, const real *args, uint8_t count);
bool give(Task &t, real value);
bool beginRepeat(Task &t, real times, uint8_t left, uint8_t passes, Test test);
bool passes(Task &t, uint8_t left, uint8_t passes);
bool beginEvery(Task &t, uint16_t number, real limit, uint8_t counter, Test until);
bool beat(Task &t, real period, uint8_t counter, Test until, uint16_t exit);
bool beatsEnd(Task &t);
enum class Leaves : uint8_t { repeat, every, during };
bool leave(Task &t, uint8_t guards, Leaves kind, bool pass, uint16_t to);
bool together(Task &t, const uint16_t *entries, uint8_t count, uint8_t routine, bool untilOne, uint16_t after);
bool guard(Task &t, uint16_t number, const Handler *handlers, uint8_t count);
bool guardEnds(Task &t, uint8_t depth, uint16_t to);
bool resume(Task &t, uint8_t depth, bool skip);

// Steps that act at once
bool acted(Task &t, uint16_t number);
void startRoutine(Task &t, uint16_t entry, uint8_t routine, uint8_t size, const real *args, uint8_t count);
void stopRoutine(uint8_t routine);
void send(uint8_t signal);
void rollOn(Task &t, uint16_t number, Order order);
void motorOn(Task &t, uint16_t number, uint8_t part, real duty);
void moveOn(Task &t, uint16_t number, uint8_t part, bool by, real angle, real at, real duty);
void stopDrive(Task &t, uint16_t number, Mode mode);
void stopMotor(Task &t, uint16_t number, uint8_t part, Mode mode);
void steerTo(Task &t, uint16_t number, real angle);

// Steps that take time. `begins` is true when the step has to be begun; `runs` ticks it and goes on once it is over.
bool begins(Task &t, uint16_t number);
bool runs(Task &t);
void wait(Task &t, real seconds);
void drives(Task &t, const Order &order);
void motorRuns(Task &t, uint8_t part, real duty);
void moves(Task &t, uint8_t part, bool by, real angle, real at, real duty);
void homes(Task &t, uint8_t part, bool high, real duty);
void aims(Task &t, uint8_t part, real angle);
void scans(Task &t, uint8_t part, real from, real to, real looks, real *seen);
void handsOver(Task &t);
// Tails of the step that is being begun, said before it.
struct Tails {
  Test until;
  bool signalOnly;
  real forTime, limit, atMost;
  Step::By by;
  Ending ending;
};
extern Tails tails;

// ---------------------------------------------------------------------------------------------------------------
// Lists and tables.

struct List {
  real *values, *keys;
  uint16_t most, count;
  bool rolling;
};
void listAdd(List &list, real value, uint8_t number);
void listPut(List &list, real at, real value, uint8_t number);
real listItem(const List &list, real at, uint8_t number);
bool listHas(const List &list, real value);
enum class Of : uint8_t { count, last, sum, mean, min, max };
real listTell(const List &list, Of what, uint8_t number);
/** The pass's value of a list, or key of a table. */
bool listEach(const List &list, real pass, real &value);

// ---------------------------------------------------------------------------------------------------------------
// Texts: a line is put together and said.

void lineBegin();
void lineText(const char *words);
void lineNumber(real value, uint8_t places);
/** A truth, a colour, or a text that was kept in a value. */
void lineTruth(real value);
void lineColour(real value);
void lineKept(real value);
extern const char *const TEXTS[];
void lineSay(uint8_t kind);

// ---------------------------------------------------------------------------------------------------------------
// Driving by hand.

struct Sticks {
  enum How : uint8_t { one, two, tank, curvature } mode;
  real at, turning, dead, curve, ramp, switching;
};
struct Binding {
  enum How : uint8_t { hold, toggle, tap } how;
  uint8_t button;
  real (*ceiling)(Task &t);
  /** Where its step begins, or 65535. */
  uint16_t entry;
  bool routine;
  enum Ends : uint8_t { stops, keeps, goesOn } ends;
  uint16_t ending;
  /** What it can move: bit 0 the wheels, the others parts. */
  uint32_t moves;
};
struct Dial {
  uint8_t level, part;
  real (*from)(Task &t);
  real (*to)(Task &t);
};
struct Remote {
  bool (*sticks)(Task &t, Sticks &sticks);
  const Binding *bindings;
  uint8_t bindingCount;
  const Dial *dials;
  uint8_t dialCount;
  /** Greatest steering angle, or NAN. */
  real steer;
  Task **live;
  bool *on;
  real *stood;
};
extern const Remote REMOTE;
void handBegin(Task &t);
End handTick(Task &t);
void handDrop(Task &t);

// What the runtime's files know of each other.
bool takeDrive(Task &t, uint16_t number);
void freeDrive(Task &t);
bool drivesWith(const Task &t);
bool haltDrive(Task &t);
void passOn(Task &t, const Order &order, uint16_t number);
void takePart(Task &t, uint8_t part, uint16_t number, bool passing);
void freePart(Task &t, uint8_t part);
Task *branchOff(Task &t, uint16_t entry, uint8_t routine);
void endFromOutside(Task &t);
void freeTask(Task &t);
void beginTurnPart(uint8_t part, real way, bool endless, int8_t sign, real rate, real duty);
void beginHomePart(uint8_t part, int8_t sign, real duty);
uint16_t partSerial(uint8_t part);
bool partArrived(uint8_t part);
bool partStalled(uint8_t part);
real partExpected(uint8_t part);
void partAim(uint8_t part, real rad);
bool partSettled(uint8_t part);
/** Ticks since the oldest newest look of its eyes; below 0 without eyes. */
real partEyeAge(uint8_t part);
void partFound(uint8_t part, real nearest, real clearest);
uint8_t moverOf(uint8_t part);
/** Names a plate by its light; made for a robot by its board file. */
typedef real (*Naming)(real red, real green, real blue, bool &sure);
struct Colour {
  uint8_t index;
  real l, a, b;
};
real nameColour(const Colour *known, uint8_t count, real red, real green, real blue, bool &sure);
void asDelivered(uint8_t sensor, uint8_t from, uint8_t slot, uint8_t count);
void buttonReads(uint8_t sensor, uint8_t from, uint8_t slot);
void eyeReads(uint8_t sensor, uint8_t from, uint8_t slot, real offset, real far);
void floorReads(uint8_t sensor, uint8_t from, uint8_t slot, uint8_t spots, real dark, real fully, real crossing);
void tagReads(uint8_t sensor, uint8_t from, uint8_t slot, Naming name);
/** Made for a robot: what each of its sensors reads. */
void perceive();
void placeReadings();
void headingNow(real &gyroHeading, real &gyroRate);

}  // namespace pebble
