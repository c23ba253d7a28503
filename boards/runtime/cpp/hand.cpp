// Driving by hand: the driver's sticks have the wheels, buttons start and end what a mission binds to them.
#include "motions.h"

namespace pebble {

constexpr real USUAL_CEILING = 0.7, USUAL_DEAD = 0.12, USUAL_CURVE = 1.8, USUAL_TURNING = 0.6;
/** A slider has to be moved this far before it moves anything. */
constexpr real DIAL_STEP = 0.004;
constexpr real PIVOT_BELOW = 0.2, REST = 0.1;
constexpr uint16_t NOWHERE = 65535;

static uint16_t buttonsBefore;
static bool holding, silent;

static HandRoom &handRoom = roomOf<HandRoom>(room.hand);

/** A stick's push after dead zone and curve: 0 inside the dead zone, 1 at the end of the way. */
static real shaped(real push, real dead, real curve) {
  const real way = least(1, size(push)), zone = between(dead, 0, 0.9);
  if (!(way > zone)) return 0;
  const real share = (way - zone) / (1 - zone);
  const real bent = curve == 1 || share >= 1 ? least(1, share) : real(pow(share, most(0.1, curve)));
  return push < 0 ? -bent : bent;
}

/** On or off, with a step back so that a trembling thumb does not chatter. */
static int8_t switched(real share, int8_t before, real on) {
  const int8_t sign = share < 0 ? -1 : 1;
  return size(share) >= on || (before == sign && size(share) >= on * real(0.8)) ? sign : 0;
}

/** Slowing down may be twice as quick as gaining speed: stopping must never wait. */
static real slewed(real speed, real wish, real step) {
  if (step <= 0) return wish;
  const bool slowing = speed * wish < 0 || size(wish) < size(speed);
  const real target = slowing && speed * wish < 0 ? real(0) : wish, change = slowing ? 2 * step : step;
  // What is left after whole steps is rounding: it must not cost a tick.
  return size(target - speed) <= change + real(1e-5) ? target : approach(speed, target, change);
}

static bool tickHand() {
  if (handRoom.switching > 0) {
    handRoom.onLeft = switched(handRoom.wishLeft / handRoom.ceiling, handRoom.onLeft, handRoom.switching);
    handRoom.onRight = switched(handRoom.wishRight / handRoom.ceiling, handRoom.onRight, handRoom.switching);
    if (handRoom.onLeft == 0 && handRoom.onRight == 0) release(Mode::brake);
    else power(handRoom.onLeft, handRoom.onRight);
    return false;
  }
  handRoom.left = slewed(handRoom.left, handRoom.wishLeft, handRoom.ramp * TICK);
  handRoom.right = slewed(handRoom.right, handRoom.wishRight, handRoom.ramp * TICK);
  handRoom.aside = PEBBLE_MIXES ? slewed(handRoom.aside, handRoom.wishAside, handRoom.ramp * TICK) : real(0);
  if (handRoom.left == 0 && handRoom.right == 0 && handRoom.aside == 0) {
    release(Mode::brake);
  } else if (PEBBLE_MIXES) {
    roam((handRoom.left + handRoom.right) / 2, handRoom.aside, (handRoom.right - handRoom.left) / robot::TRACK_WIDTH);
  } else {
    sides(handRoom.left, handRoom.right, 0, 0, 1);
    drive.wanted = (handRoom.left + handRoom.right) / 2;
    drive.wantedRate = (handRoom.right - handRoom.left) / robot::TRACK_WIDTH;
  }
  return false;
}

/** Begins at the speeds it has. */
static void takeHold(Task &t) {
  takeDrive(t, t.step.number);
  beginMotion(tickHand, ENDLESS);
  handRoom = HandRoom();
  handRoom.ceiling = 1;
#if PEBBLE_MIXES
  const real across = drive.turnRate * robot::TRACK_WIDTH / 2;
  handRoom.left = driveSpeed() - across;
  handRoom.right = driveSpeed() + across;
  handRoom.aside = driveAsideSpeed();
#else
  handRoom.left = drive.shafts[0].speed;
  handRoom.right = drive.shafts[1].speed;
#endif
  holding = true;
}

static void letGo(Task &t) {
  if (holding) {
    noMotion();
    release(Mode::brake);
    freeDrive(t);
  }
  holding = false;
}

/** What the sticks ask for, as shares of the ceiling. */
static void steerByHand(Task &t, const Sticks &s) {
  const auto given = [](real value, real usual) { return isnan(value) ? usual : value; };
  real ceiling = given(s.at, robot::TOP_SPEED * USUAL_CEILING);
  bool any = false;
  for (uint8_t i = 0; i < REMOTE.bindingCount; i += 1) {
    const Binding &binding = REMOTE.bindings[i];
    if (!binding.ceiling || !REMOTE.on[i]) continue;
    const real value = binding.ceiling(t);
    ceiling = any ? least(ceiling, value) : value;
    any = true;
  }
  ceiling = between(ceiling, 0.01, robot::TOP_SPEED);
  real push[4];
  for (uint8_t i = 0; i < 4; i += 1) push[i] = shaped(senses.sticks[uses::HAND ? i : 0], given(s.dead, USUAL_DEAD), given(s.curve, USUAL_CURVE));
  const real turning = given(s.turning, USUAL_TURNING);
  real left, right, turn = 0, aside = 0;
  if (s.mode == Sticks::tank) {
    left = push[0];
    right = push[2];
  } else {
    turn = (s.mode == Sticks::one ? push[1] : push[3]) * turning;
    if (s.mode == Sticks::two) aside = push[1];
    real mix = turn;
    if (s.mode == Sticks::curvature) {
      // The curve of the way is set, not the rate. Nearly standing it turns on the spot.
      const real speed = size(push[0]);
      mix = turn * (speed + (speed < PIVOT_BELOW ? 1 - speed / PIVOT_BELOW : real(0)));
    }
    const real a = push[0] - mix, b = push[0] + mix, top = most(1, most(size(a), size(b)));
    left = a / top;
    right = b / top;
  }
  handRoom.ceiling = ceiling;
  handRoom.ramp = isnan(s.ramp) ? real(0) : most(0.01, s.ramp);
  handRoom.switching = isnan(s.switching) ? real(0) : most(0.05, s.switching);
  if (isnan(REMOTE.steer)) {
    handRoom.wishLeft = left * ceiling;
    handRoom.wishRight = right * ceiling;
    handRoom.wishAside = PEBBLE_MIXES ? aside * least(ceiling, robot::TOP_ASIDE) : real(0);
    return;
  }
  handRoom.wishLeft = handRoom.wishRight = (left + right) / 2 * ceiling;
  drive.steer = turn * REMOTE.steer;
}

// ---- Buttons

static bool alive(uint8_t i) { return REMOTE.live[i] && !REMOTE.live[i]->ended; }

static void endBinding(uint8_t i) {
  if (!REMOTE.live[i]) return;
  endFromOutside(*REMOTE.live[i]);
  freeTask(*REMOTE.live[i]);
  REMOTE.live[i] = nullptr;
}

static void beginBinding(Task &t, uint8_t i, uint16_t entry) {
  // What another button began with the same part gives way: the press that came last has it.
  for (uint8_t k = 0; k < REMOTE.bindingCount; k += 1) {
    if (k == i || !(REMOTE.bindings[k].moves & REMOTE.bindings[i].moves)) continue;
    endBinding(k);
    REMOTE.on[k] = false;
  }
  endBinding(i);
  REMOTE.live[i] = branchOff(t, entry, NO_ROUTINE);
}

static void turnBinding(Task &t, uint8_t i, bool on) {
  const Binding &binding = REMOTE.bindings[i];
  REMOTE.on[i] = on;
  if (binding.ceiling || binding.entry == NOWHERE) return;
  if (on) return beginBinding(t, i, binding.entry);
  if (binding.ends == Binding::keeps && (binding.routine || binding.how == Binding::hold)) return;
  if (binding.ends == Binding::goesOn) return beginBinding(t, i, binding.ending);
  endBinding(i);
}

static void pressButtons(Task &t) {
  // What ended by itself gives its place back.
  for (uint8_t i = 0; i < REMOTE.bindingCount; i += 1)
    if (REMOTE.live[i] && REMOTE.live[i]->ended) endBinding(i);
  for (uint8_t i = 0; i < REMOTE.bindingCount; i += 1) {
    const Binding &binding = REMOTE.bindings[i];
    const uint16_t bit = uint16_t(1) << binding.button;
    const bool down = senses.buttons & bit;
    if (down == bool(buttonsBefore & bit)) continue;
    // A second press ends what the first began.
    const bool on = binding.routine ? alive(i) : binding.ends == Binding::keeps ? false : REMOTE.on[i];
    if (binding.how == Binding::hold) turnBinding(t, i, down);
    else if (down) turnBinding(t, i, !on);
  }
  buttonsBefore = senses.buttons;
}

static void turnDials(Task &t) {
  for (uint8_t i = 0; i < REMOTE.dialCount; i += 1) {
    const Dial &dial = REMOTE.dials[i];
    const real share = senses.levels[dial.level];
    // Where it stands at first moves nothing; NAN is "not seen yet".
    if (isnan(REMOTE.stood[i])) REMOTE.stood[i] = share;
    if (!(size(share - REMOTE.stood[i]) > DIAL_STEP)) continue;
    REMOTE.stood[i] = share;
    const real low = dial.from(t), target = low + (dial.to(t) - low) * share;
    takePart(t, dial.part, t.step.number, true);
    beginTurnPart(dial.part, target - partAngle(dial.part), false, 1, sheet(dial.part).topRate, 1);
  }
}

void handBegin(Task &) {
  holding = silent = false;
  buttonsBefore = 0;
  for (uint8_t i = 0; i < REMOTE.bindingCount; i += 1) {
    REMOTE.live[i] = nullptr;
    REMOTE.on[i] = false;
  }
  for (uint8_t i = 0; i < REMOTE.dialCount; i += 1) REMOTE.stood[i] = NAN;
}

void handDrop(Task &t) {
  for (uint8_t i = 0; i < REMOTE.bindingCount; i += 1) {
    endBinding(i);
    REMOTE.on[i] = false;
  }
  buttonsBefore = 0;
  letGo(t);
}

static bool atRest() {
  if (senses.buttons != 0) return false;
  for (real push : senses.sticks)
    if (size(push) >= REST) return false;
  return true;
}

End handTick(Task &t) {
  Step &s = t.step;
  const real elapsed = (clockOf(t) - s.startClock) * TICK;
  // Where nobody can drive at all, as in a rehearsal, it is skipped.
  const End ended = !senses.driven                              ? End::skipped
                    : s.until && s.until(t, Ask::now)           ? End::until
                    : elapsed >= s.forTime - ALMOST         ? End::time
                    : elapsed >= s.limit - ALMOST           ? End::limit
                                                                : End::none;
  if (ended != End::none || !senses.heard) {
    handedOver = ended == End::none;
    handDrop(t);
    silent = handSilent = ended == End::none;
    return ended;
  }
  handedOver = true;
  // After a silence nothing moves before the sticks were let go once.
  silent = handSilent = silent && !atRest();
  if (silent) return End::none;
  pressButtons(t);
  turnDials(t);
  // A routine that drives finds the wheels at rest, even if it waits first.
  bool drivesItself = false;
  for (uint8_t i = 0; i < REMOTE.bindingCount; i += 1) drivesItself = drivesItself || ((REMOTE.bindings[i].moves & 1) && alive(i));
  Sticks sticks = {Sticks::one, NAN, NAN, NAN, NAN, NAN, NAN};
  if (drivesItself) {
    letGo(t);
  } else if (REMOTE.sticks(t, sticks)) {
    if (!holding) takeHold(t);
    steerByHand(t, sticks);
  }
  return End::none;
}

}  // namespace pebble
