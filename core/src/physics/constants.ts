// Constants of the planar world. Each was chosen by measurement; the note says what it trades.

/** Standard gravity, m/s². */
export const GRAVITY = 9.81;
/** Physics step, s: two per control tick. Longer steps bias braking by v·dt/2. */
export const STEP_SEC = 0.005;
/** Control tick, s, and in ms. */
export const TICK_SEC = 0.01;
export const TICK_MS = 10;
/** Most solver rounds a step; the blocks solve a sticking wheel exactly, so most steps leave after two or three. */
export const SOLVER_ROUNDS = 8;
/**
 * Most rounds while loads are touched. Most steps leave after a few; a box crushed between robot and wall that comes
 * free starts from last step's large push and takes long to forget it: with 40, 215 of 60,000 random scenes of 80
 * steps gained more than a microjoule, up to 4 % of what they had left; with 120, 4; with 400, none.
 */
export const LOAD_ROUNDS = 400;
/** Most rounds after the move that take the speed of pushing apart out again: with 12, 3 of 20,000 random scenes gained energy. */
export const RELAX_ROUNDS = 80;
/** Leave early when no impulse changed by more than this share of m·g·dt. */
export const SOLVER_TOLERANCE = 1e-5;
/** Contacts are made this far ahead, m, so that a fast robot meets a wall instead of passing it. */
export const CONTACT_MARGIN_M = 0.005;
/** Overlap left alone, m, and share of the rest pushed out each step. */
export const CONTACT_SLOP_M = 0.0002;
export const CONTACT_PUSH = 0.2;
/** Overlaps are pushed apart no faster than this, m/s. */
export const CONTACT_MOST_MS = 0.3;
/** Time constant of the acceleration that shifts wheel loads, s: chassis and tyres give a little. */
export const LOAD_SHIFT_SEC = 0.0075;
