// Room for the motion in progress. Only the runtime's own files need it.
#pragma once
#include "pebble.h"

namespace pebble {

struct Along {
  Profile profile;
  bool keep;
  int8_t sign;
  real duty, settling, start, arm, perMetre;
};
struct RollRoom {
  real speed, rate, toSpeed, toRate, toAside, ramp, turnRamp, planned;
};
struct TimedRoom {
  real left, right, steer, elapsed;
};
struct HandRoom {
  real left, right, aside, wishLeft, wishRight, wishAside, ramp, switching, ceiling;
  int8_t onLeft, onRight;
};
constexpr uint8_t COURSE_SAMPLES = 14;
struct LineRoom {
  const Line *line;
  Options options;
  real gain, damp, bridge;
  Crossing crossing;
  uint8_t phase, sees;
  bool ended, lost, hasDarkFrom, sawDark, bridgesFirst, searched;
  int8_t side, turning;
  real speed, rate, curve, sampled, bend, offBefore, slope, off, way, heading, travelBefore, headingBefore, seen, seenRad;
  real weight, weighed, nearOff, darkFrom, darkFromRad, darkEnded, sweepAt, aheadRad, crossedAt, foundAt;
  real calm, slow, ahead, mostRate, mostOff, wide, blind, light, darkest;
  real headings[COURSE_SAMPLES];
  uint16_t headingCount;
};
struct WallRoom {
  const Wall *wall;
  Options options;
  uint8_t phase;
  bool hasBefore;
  real away, speed, before, slope, rate, way, turned, travelBefore, headingBefore, heardAt, kept, from, fromWay;
};
/** A stretch of a path: a line, or an arc where its curve is not 0. */
struct Piece {
  real x, y, c, s, length, curve;
};
struct PathRoom {
  /** In the place of all motions along a profile: a path turns before it drives. */
  Along turning;
  bool (*turnTick)();
  Profile profile;
  Piece *pieces;
  uint8_t count, stage;
  bool begun, back, keep, turnsFirst, pivoting;
  real facing, look, done, settling, firstX, firstY, length;
  Options options;
};
/** What the mission gives paths: room for so many pieces. */
extern Piece pathPieces[];

struct MotionRoom {
  MotionRoom() {}
  /** One motion at a time: as large as the largest that the mission uses. */
  union {
    Along along;
    RollRoom roll;
    TimedRoom timed;
    Kept<uses::HAND, HandRoom>::Type hand;
    Kept<uses::LINE, LineRoom>::Type line;
    Kept<uses::WALL, WallRoom>::Type wall;
    Kept<uses::PATH, PathRoom>::Type path;
  };
};
extern MotionRoom room;

/** Stands for the room of a motion that the mission does not use. */
template <typename T> struct Absent { static T room; };
template <typename T> T Absent<T>::room;
template <typename T> constexpr T &roomOf(T &kept) { return kept; }
template <typename T> constexpr T &roomOf(Nothing &) { return Absent<T>::room; }

void beginMotion(bool (*tick)(), real expected);
void turnBy(const Order &order, real angle, real arm);
/** Place of a reading that all robots have. */
constexpr uint8_t CLOCK = 0, TRAVEL = 1, HEADING = 2, X = 3, Y = 4, STALLED = 5, VOLTAGE = 6, GYRO_HEADING = 7, GYRO_RATE = 8,
                  HOLD_GAIN = 9, STOP_DISTANCE = 10, SPEED = 11, CURRENT = 12, ASIDE = 13, MOTORS = 14;

}  // namespace pebble
