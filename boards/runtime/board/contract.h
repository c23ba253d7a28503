// What a board has to offer: fill these functions in for yours. docs/boards.md tells each with an example.
//
// Motors, servos and sensors are numbered as in the robot's document; wiring.cpp names them and tells their terminals.
#pragma once
#include "pebble.h"

/** Makes pins and devices ready, with all motors off. Called once. */
void halBegin();
/** Time since the start, microseconds; may run over. */
uint32_t halMicros();
/** A motor's driver: drive with a share of the pack's voltage, -1 to 1; brake; or let it coast. */
void halMotor(uint8_t motor, pebble::Mode mode, real duty);
/** Counts of a motor's encoder since the start: up while its positive voltage turns it. 0 without one. */
int32_t halCounts(uint8_t motor);
/** Turn rate of the gyro to the left, rad/s. */
real halGyro();
/** An analogue line as a share of full, 0 to 1: a floor light's spot, a potentiometer. */
real halLevel(uint8_t sensor, uint8_t line);
/** A digital line: true while pressed, or while something is near. */
bool halInput(uint8_t sensor);
/** Distance of a distance sensor's newest echo, m; NAN when it hears nothing. */
real halEcho(uint8_t sensor);
/** Ticks since that echo was asked for; 0 where each reading is a new one. */
real halEchoAge(uint8_t sensor);
/** Red, green and blue of a colour sensor, each 0 to 1. */
void halColour(uint8_t sensor, real *light);
/** Angle a hobby servo runs to, rad; of one that turns on and on, its speed as a share of its own. */
void halServo(uint8_t servo, real rad);
void halServoSpeed(uint8_t servo, real share);
/** The pack, V. */
real halVolts();
/** The serial line: the next byte that came in, or -1. */
int16_t halHear();
/** Bytes wait to go out: take them by `linkNext` while the line is free, from an interrupt if there is one. Never waits. */
void halTell();
/** Lets a hundredth of a millisecond go by. */
void halPause();
/** Nothing is to be done for so many microseconds, unless a byte comes in: a board may sleep. */
void halIdle(uint32_t us);
/** Begins the program anew, with the motors off, and keeps that it was asked to, and the limit. */
void halRestart(uint8_t limit);
/** Whether it was asked to begin anew, and the limit that was kept. */
bool halRestarted(uint8_t &limit);
/** Whether the watchdog ended a mission whose ticks had stopped: it does not begin again by itself. */
bool halCrashed();
/** A chance, 0 to below 1. */
real halChance();
/** Fed once a tick: where a watchdog is, it switches the board off when this stops. */
void halAlive();
/** Made for the robot: reads all of its sensors into senses. */
void readSensors();

// The link over the serial line.

struct Link {
  enum Doing : uint8_t { WAITS, RUNS, DRIVEN } doing;
  /** Somebody was heard. */
  bool on;
  /** Why the last run ended, plus one; the newest number of what a driver holds. */
  uint8_t why;
  uint16_t seq;
};
extern Link link;
/** Ticks that began late since the start. */
extern uint16_t lateTicks;
/** The next byte to go out, or -1. */
int16_t linkNext();
void linkBegin();
/** Once a tick, before the senses are read. */
void linkTick();
/** While the next tick is waited for. */
void linkListen();
void linkPump();
/** Gives the drive what a driver's hands ask for. */
void linkDrives();
