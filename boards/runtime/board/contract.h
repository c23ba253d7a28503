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
/** A line of text for a display or the link: 0 note, 1 show, 2 light, 3 beep. */
void halSay(uint8_t kind, const char *text);
/** A step is over, and the mission: for the link. */
void halStep(uint16_t step, uint8_t task, uint32_t from, uint32_t to, pebble::End how);
void halEnd(pebble::Why why, uint16_t a, uint16_t b);
/** A chance, 0 to below 1. */
real halChance();
/** Fed once a tick: where a watchdog is, it switches the board off when this stops. */
void halAlive();
/** What a driver holds, if one was heard in the last 300 ms: fills senses.sticks, levels and buttons. */
bool halHands();

/** Made for the robot: reads all of its sensors into senses. */
void readSensors();
