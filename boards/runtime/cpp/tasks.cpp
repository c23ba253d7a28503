// Runs the tasks of a mission: one after another in the order they started, each until it has to wait. Keeps who has the
// wheels and the parts, carries signals, and notices tasks that can only wait for each other.
#include "motions.h"

namespace pebble {

void senseAll();
void giveOrders();

uint32_t tick;
bool missionEnded;
bool handedOver, handSilent;

/** A tick runs at most this many instructions: more would be a loop that never gives up the tick. */
constexpr uint16_t MOST_OPS = 20000;
/** A body that ran this long between two firings got on; more firings than these without that stop the mission. */
constexpr int32_t PROGRESS_TICKS = 10;
constexpr uint8_t MOST_FIRINGS = 20;
constexpr real BOUND_EXTRA = 2, BOUND_FACTOR = 3, BOUND_OPEN = 60;
constexpr uint16_t NOBODY = 65535;

static uint16_t opsLeft;
static uint8_t taskCount, nextId;
static uint16_t claims;

/** Who has the wheels, or a part. */
struct Claim {
  Task *task;
  uint16_t number, serial;
  bool passing;
};
static Claim wheelClaim;
/** Steps move parts beside the drive. */
constexpr bool PARTS_MOVE = uses::MOTORS || uses::MOVES;
static Claim partClaims[PARTS_MOVE ? robot::PARTS + 1 : 1];

static Task &mission() { return *taskOrder[0]; }

uint16_t stepInHand() {
  const Task *t = taskOrder[0];
  return t && t->used && t->step.kind != Step::none ? t->step.number : NOBODY;
}

void stop(Why why, uint16_t a, uint16_t b) {
  if (missionEnded) return;
  missionEnded = true;
  boardEnd(why, a, b);
}

void finish(Task &t) {
  t.ended = true;
  stop(Why::finished);
}

static void told(const Step &step, const Task &t, End how) {
  boardStep(step.number, t.id, step.from, tick, how);
}

// ---- Tasks

static Task *addTask(Task *parent, uint16_t at) {
  for (uint8_t i = 0; i < PROGRAM.tasks; i += 1) {
    Task &t = taskPool[i];
    if (t.used) continue;
    Frame *frames = t.frames;
    Guard **guards = t.guards;
    Every *everies = t.everies;
    real *values = t.values, *counters = t.counters;
    Task **valuesOf = t.valuesOf;
    t = Task();
    t.frames = frames;
    t.guards = guards;
    t.everies = everies;
    t.values = values;
    t.counters = counters;
    t.valuesOf = valuesOf;
    t.used = true;
    t.id = nextId++;
    t.parent = parent;
    t.at = at;
    t.signals = parent ? parent->signals : 0;
    for (uint8_t k = 0; k < PROGRAM.counters; k += 1) counters[k] = -1;
    for (uint8_t k = 0; k < PROGRAM.routines; k += 1) valuesOf[k] = &t;
    if (taskCount >= PROGRAM.orders) break;
    taskOrder[taskCount] = &t;
    taskCount += 1;
    return &t;
  }
  stop(Why::tasks, PROGRAM.tasks);
  return nullptr;
}

/** Gives the place of a task back that is over and that nobody looks at any more. */
void freeTask(Task &t) {
  t.used = false;
  for (uint8_t i = 1; i < taskCount; i += 1)
    if (taskOrder[i] == &t) taskOrder[i] = nullptr;
}

/** A branch of `together`: shares the values of the routine it stands in. */
Task *branchOff(Task &parent, uint16_t entry, uint8_t routine) {
  Task *t = addTask(&parent, entry);
  if (t && routine != NO_ROUTINE) t->valuesOf[routine] = parent.valuesOf[routine];
  return t;
}

static void setValues(Task &t, uint8_t routine, uint8_t count, const real *args, uint8_t given) {
  real *values = t.values + PROGRAM.valuesAt[routine];
  for (uint8_t i = 0; i < count; i += 1) values[i] = i < given ? args[i] : 0;
  t.valuesOf[routine] = &t;
}

void startRoutine(Task &, uint16_t entry, uint8_t routine, uint8_t count, const real *args, uint8_t given) {
  Task *t = addTask(nullptr, entry);
  if (!t) return;
  setValues(*t, routine, count, args, given);
  t->frames[0] = Frame{PROGRAM.endOfTask, routine, 0, 0};
  t->frameCount = 1;
}

void stopRoutine(uint8_t routine) {
  for (uint8_t i = 1; i < taskCount; i += 1) {
    Task *t = taskOrder[i];
    if (!t || t->ended || t->parent || t->frameCount == 0 || t->frames[0].routine != routine) continue;
    endFromOutside(*t);
    freeTask(*t);
  }
}

void send(uint8_t signal) {
  for (uint8_t i = 0; i < taskCount; i += 1)
    if (taskOrder[i]) taskOrder[i]->signals |= uint32_t(1) << signal;
}

static void dropStep(Task &t, Step &step);
static void unwindGuards(Task &t, uint8_t depth);
static void cutEveries(Task &t, uint8_t depth);

/** Brakes what a task set and passed on since a claim. */
static void letGo(Task &t, uint16_t since) {
  if (wheelClaim.task == &t && wheelClaim.serial > since) {
    haltDrive(t);
    wheelClaim.task = nullptr;
    t.passes = false;
  }
  for (uint8_t i = 0; i < (PARTS_MOVE ? robot::PARTS : 0); i += 1) {
    Claim &claim = partClaims[i];
    if (claim.task != &t || claim.serial <= since) continue;
    if (claim.passing) motorPower(i, Mode::brake, 0);
    claim.task = nullptr;
  }
}

static void closeTask(Task &t) {
  unwindGuards(t, 0);
  cutEveries(t, 0);
  if (uses::BRANCHES)
    for (Task *child = t.children; child; child = child->nextChild) endFromOutside(*child);
  t.step.kind = Step::none;
  letGo(t, 0);
}

void endFromOutside(Task &t) {
  if (t.ended) return;
  if (t.step.kind != Step::none) {
    dropStep(t, t.step);
    if (t.step.kind != Step::join) told(t.step, t, End::interrupted);
  }
  t.ended = true;
  closeTask(t);
}

static bool isBelow(const Task &t, const Task &above) {
  for (const Task *at = t.parent; at; at = at->parent)
    if (at == &above) return true;
  return false;
}

static bool mayTake(const Claim &claim, const Task &t) {
  if (!uses::BRANCHES || !claim.task || claim.task == &t || claim.task->ended || claim.task->pauses > 0) return true;
  return isBelow(t, *claim.task) || isBelow(*claim.task, t);
}

/** Claims the wheels; a clash stops the mission. */
bool takeDrive(Task &t, uint16_t number) {
  const bool may = mayTake(wheelClaim, t);
  if (!may) stop(Why::clash, wheelClaim.number, number);
  claims += 1;
  wheelClaim = Claim{&t, number == NOBODY ? wheelClaim.number : number, claims, false};
  return may;
}

void freeDrive(Task &t) {
  if (wheelClaim.task == &t) wheelClaim.task = nullptr;
}

bool drivesWith(const Task &t) { return wheelClaim.task == &t; }

void takePart(Task &t, uint8_t part, uint16_t number, bool passing) {
  Claim &claim = partClaims[part];
  if (!mayTake(claim, t)) stop(Why::clash, claim.number, number);
  claims += 1;
  claim = Claim{&t, number, claims, passing};
}

void freePart(Task &t, uint8_t part) {
  if (partClaims[part].task == &t) partClaims[part].task = nullptr;
}

/** Slows down and stands. @returns false when it stands already */
bool haltDrive(Task &) {
  if (drive.mode != Mode::drive) {
    noMotion();
    return false;
  }
  beginHalt();
  return true;
}

void passOn(Task &t, const Order &order, uint16_t number) {
  takeDrive(t, number);
  t.passing = order;
  t.passes = true;
  t.passing.begin(t.passing, NAN);
}

// ---- Loops of `every`

static void cutEveries(Task &t, uint8_t depth) {
  while (uses::EVERIES && t.everyCount > depth) {
    t.everyCount -= 1;
    Every &every = t.everies[t.everyCount];
    boardStep(every.number, t.id, every.from, tick, every.how);
    letGo(t, every.claims);
  }
}

// ---- Handlers

static Guard *newGuard() {
  for (uint8_t i = 0; i < PROGRAM.guardPool; i += 1)
    if (!guardPool[i].handlers) return &guardPool[i];
  return nullptr;
}

static void beginHandlers(Task &t, const Guard &guard) {
  for (uint8_t i = 0; i < guard.count; i += 1) guard.handlers[i].when(t, Ask::begin);
}

bool guard(Task &t, uint16_t number, const Handler *handlers, uint8_t count) {
  Guard *made = newGuard();
  if (!made) {
    stop(Why::tasks, PROGRAM.guardPool);
    return false;
  }
  Frame *savedFrames = made->savedFrames;
  real *savedValues = made->savedValues;
  *made = Guard();
  made->savedFrames = savedFrames;
  made->savedValues = savedValues;
  made->handlers = handlers;
  made->count = count;
  made->number = number;
  made->frames = t.frameCount;
  made->everies = t.everyCount;
  made->seenClock = clockOf(t);
  made->seenSteps = t.stepsEnded;
  beginHandlers(t, *made);
  t.guards[t.guardCount] = made;
  t.guardCount += 1;
  t.at += 1;
  return true;
}

static void pauseStep(Task &t) {
  Step &s = t.step;
  switch (s.kind) {
    case Step::drive:
      s.done = s.order.measure == Order::time ? least(1, room.timed.elapsed / moving.expected) : progress(s.order);
      s.origin = moving.origin;
      s.kept = moving.kept;
      s.pausedTravel = driveWay();
      s.pausedHeading = drive.heading;
      if (s.halting == End::none) haltDrive(t);
      break;
    case Step::home: dropStep(t, s); break;
    case Step::aim:
    case Step::scan:
      if (uses::LOOKS) freePart(t, s.part);
      break;
    case Step::hand:
      if (uses::HAND) handDrop(t);
      break;
    default: break;
  }
  // What was set and passed on stands still too.
  if (uses::KEEPS && t.passes && s.kind != Step::drive && drivesWith(t)) haltDrive(t);
}

static void beginLook(Step &s, real rad);
static real lookAngle(const Step &s, uint8_t i);

static void resumeStep(Task &t, bool drove) {
  Step &s = t.step;
  if (!t.skip) {
    switch (s.kind) {
      case Step::wait: if (s.until) s.until(t, Ask::begin); break;
      case Step::drive: {
        s.startTravel += driveWay() - s.pausedTravel;
        s.startHeading += drive.heading - s.pausedHeading;
        takeDrive(t, s.number);
        if (s.halting != End::none) {
          s.heldUp = true;
          break;
        }
        // Braking went on along the way, unless the handler drove somewhere else.
        real done = s.done;
        if (!drove && s.order.measure != Order::time) {
          moving.origin = s.origin;
          done = progress(s.order);
        }
        if (s.order.measure == Order::time) s.order.before *= 1 - done;
        else s.order.before += done;
        s.order.begin(s.order, drove ? NAN : s.kept);
        if (s.until) s.until(t, Ask::begin);
        break;
      }
      case Step::home:
        if (!uses::HOMES) break;
        takePart(t, s.part, s.number, false);
        beginHomePart(s.part, s.to < 0 ? -1 : 1, size(s.to));
        break;
      case Step::aim:
        if (!uses::LOOKS) break;
        takePart(t, s.part, s.number, false);
        beginLook(s, s.to);
        break;
      case Step::scan:
        if (!uses::LOOKS) break;
        takePart(t, s.part, s.number, false);
        s.look = 0;
        beginLook(s, lookAngle(s, 0));
        break;
      default: break;
    }
  }
  if (!uses::KEEPS || !t.passes || s.kind == Step::drive) return;
  takeDrive(t, NOBODY);
  t.passing.begin(t.passing, NAN);
}

static void pauseTree(Task &t) {
  if (t.ended) return;
  t.pauses += 1;
  if (t.pauses == 1) {
    t.pausedClock = clockOf(t);
    pauseStep(t);
  }
  for (Task *child = t.children; child; child = child->nextChild) pauseTree(*child);
}

static void resumeTree(Task &t, bool drove) {
  if (t.ended) return;
  t.pauses -= 1;
  if (t.pauses == 0) {
    t.lostTicks += clockOf(t) - t.pausedClock;
    resumeStep(t, drove);
  }
  for (Task *child = t.children; child; child = child->nextChild) resumeTree(*child, drove);
}

/** Values and counters of calls in progress, kept while a handler may call the same routines. */
static void keepValues(Task &t, Guard &g, bool back) {
  real *kept = g.savedValues;
  for (uint8_t i = 0; i < PROGRAM.values; i += 1, kept += 1) {
    if (back) t.values[i] = *kept;
    else *kept = t.values[i];
  }
  for (uint8_t i = 0; i < PROGRAM.counters; i += 1, kept += 1) {
    if (back) t.counters[i] = *kept;
    else *kept = t.counters[i];
  }
}

/** A guard that was put aside when `g` fired. */
static Guard *&asideGuard(Task &t, const Guard &g, uint8_t i) { return t.guards[PROGRAM.guards - 1 - g.aside - i]; }

static void fire(Task &t, uint8_t depth, uint16_t entry) {
  Guard &g = *t.guards[depth];
  const bool gotOn = clockOf(t) - g.seenClock >= PROGRESS_TICKS || t.stepsEnded != g.seenSteps;
  g.firings = gotOn ? 1 : g.firings + 1;
  if (g.firings > MOST_FIRINGS) return stop(Why::guard_loops, g.number);
  pauseStep(t);
  for (Task *child = t.children; child; child = child->nextChild) pauseTree(*child);
  Saved &saved = g.saved;
  saved.at = t.at;
  saved.step = t.step;
  saved.frames = t.frameCount - g.frames;
  for (uint8_t i = 0; i < saved.frames; i += 1) g.savedFrames[i] = t.frames[g.frames + i];
  if (saved.frames > 0) keepValues(t, g, false);
  t.frameCount = g.frames;
  // Guards above it are put aside, at the far end of the task's room for guards.
  saved.guards = t.guardCount - depth - 1;
  g.aside = t.aside;
  t.aside += saved.guards;
  for (uint8_t i = 0; i < saved.guards; i += 1) asideGuard(t, g, i) = t.guards[depth + 1 + i];
  t.guardCount = depth + 1;
  for (uint8_t i = 0; i < 3; i += 1) saved.opened[i] = t.opened[i];
  saved.clock = clockOf(t);
  saved.claims = claims;
  saved.children = t.children;
  g.saves = true;
  t.step.kind = Step::none;
  t.children = nullptr;
  t.at = entry;
}

static void watchGuards(Task &t) {
  for (uint8_t depth = 0; depth < t.guardCount; depth += 1) {
    Guard &g = *t.guards[depth];
    if (g.saves) continue;
    for (uint8_t i = 0; i < g.count; i += 1) {
      if (!g.handlers[i].when(t, Ask::now)) continue;
      return fire(t, depth, g.handlers[i].entry);
    }
  }
}

static uint8_t guardBase(const Task &t) { return uses::GUARDS && t.frameCount > 0 ? t.frames[t.frameCount - 1].guards : 0; }

/** Puts back the guards that lay above one that fired. */
static void guardsBack(Task &t, uint8_t depth, Guard &g) {
  for (uint8_t i = 0; i < g.saved.guards; i += 1) t.guards[depth + 1 + i] = asideGuard(t, g, i);
  t.aside -= g.saved.guards;
  t.guardCount = depth + 1 + g.saved.guards;
}

static uint8_t countMarks(Task &t, bool driving, bool mark) {
  uint8_t n = 0;
  if (!t.ended && t.step.kind != Step::join) {
    const bool is = driving ? t.step.kind == Step::drive : t.step.kind != Step::none || t.everyCount > 0;
    if (is) {
      n += 1;
      if (mark) t.skip = true;
    }
  }
  for (Task *child = t.children; child; child = child->nextChild) n += countMarks(*child, driving, mark);
  return n;
}

bool resume(Task &t, uint8_t depth, bool skip) {
  depth += guardBase(t);
  unwindGuards(t, depth + 1);
  if (depth >= t.guardCount || !t.guards[depth]->saves) {
    stop(Why::damaged);
    return false;
  }
  Guard &g = *t.guards[depth];
  Saved &saved = g.saved;
  g.saves = false;
  t.at = saved.at;
  t.step = saved.step;
  for (uint8_t i = 0; i < saved.frames; i += 1) t.frames[t.frameCount + i] = g.savedFrames[i];
  t.frameCount += saved.frames;
  guardsBack(t, depth, g);
  t.children = saved.children;
  if (saved.frames > 0) keepValues(t, g, true);
  for (uint8_t i = 0; i < 3; i += 1) t.opened[i] = saved.opened[i];
  t.lostTicks += clockOf(t) - saved.clock;
  beginHandlers(t, g);
  g.seenClock = clockOf(t);
  g.seenSteps = t.stepsEnded;
  if (skip) countMarks(t, countMarks(t, true, false) > 0, true);
  const bool drove = claims != saved.claims;
  resumeStep(t, drove);
  for (Task *child = t.children; child; child = child->nextChild) resumeTree(*child, drove);
  return true;
}

static void dropSaved(Task &t, Guard &g) {
  Saved &saved = g.saved;
  if (saved.step.kind != Step::none) {
    dropStep(t, saved.step);
    if (saved.step.kind != Step::join) told(saved.step, t, End::interrupted);
  }
  for (Task *child = saved.children; child; child = child->nextChild) endFromOutside(*child);
  g.saves = false;
  for (uint8_t i = 0; i < saved.guards; i += 1) {
    Guard &above = *asideGuard(t, g, i);
    if (above.saves) dropSaved(t, above);
    above.handlers = nullptr;
  }
  t.aside -= saved.guards;
}

static void unwindGuards(Task &t, uint8_t depth) {
  while (uses::GUARDS && t.guardCount > depth) {
    t.guardCount -= 1;
    Guard &g = *t.guards[t.guardCount];
    if (g.saves) dropSaved(t, g);
    else if (t.frameCount > g.frames) t.frameCount = g.frames;
    g.handlers = nullptr;
    cutEveries(t, g.everies);
  }
}

bool guardEnds(Task &t, uint8_t depth, uint16_t to) {
  unwindGuards(t, guardBase(t) + depth);
  t.at = to;
  return true;
}

// ---- Where it goes on

bool go_on(Task &t, uint16_t to) {
  t.at = to;
  return true;
}

bool again(Task &t, uint16_t to) {
  t.at = to;
  return false;
}

bool endTask(Task &t) {
  t.ended = true;
  return false;
}

bool branchOn(Task &t, bool yes, uint16_t otherwise) {
  t.at = yes ? t.at + 1 : otherwise;
  return true;
}

bool call(Task &t, uint16_t entry, uint8_t routine, uint8_t count, const real *args, uint8_t given) {
  setValues(t, routine, count, args, given);
  t.frames[t.frameCount] = Frame{uint16_t(t.at + 1), routine, t.guardCount, t.everyCount};
  t.frameCount += 1;
  t.given = 0;
  t.at = entry;
  return true;
}

bool give(Task &t, real value) {
  if (t.frameCount == 0) return false;
  const Frame frame = t.frames[t.frameCount - 1];
  unwindGuards(t, frame.guards);
  cutEveries(t, frame.everies);
  t.frameCount -= 1;
  t.given = value;
  t.at = frame.returnTo;
  return true;
}

/** Runs a routine that takes no time to its end. @returns what it gave */
real callNow(Task &t, uint16_t entry, uint8_t routine, uint8_t count, const real *args, uint8_t given) {
  const uint16_t at = t.at;
  const uint8_t depth = t.frameCount;
  setValues(t, routine, count, args, given);
  t.frames[t.frameCount] = Frame{at, routine, t.guardCount, t.everyCount};
  t.frameCount += 1;
  t.at = entry;
  t.given = 0;
  t.quiet += 1;
  while (t.frameCount > depth && !missionEnded) {
    if (opsLeft == 0) {
      stop(Why::too_long);
      break;
    }
    opsLeft -= 1;
    if (!PROGRAM.run(t) && t.ended) break;
  }
  t.quiet -= 1;
  t.at = at;
  return t.given;
}

bool beginRepeat(Task &t, real times, uint8_t left, uint8_t passed, Test test) {
  t.counters[left] = times == ENDLESS ? ENDLESS : most(0, rounded(times));
  t.counters[passed] = 0;
  if (test) test(t, Ask::begin);
  t.at += 1;
  return true;
}

/** Counts a pass. @returns whether its number allows one more */
bool passes(Task &t, uint8_t left, uint8_t passed) {
  const real remaining = t.counters[left];
  t.counters[left] = remaining - 1;
  t.counters[passed] += 1;
  return remaining >= 1;
}

static bool over(int32_t ticks, real seconds) { return ticks * TICK >= seconds - ALMOST; }

bool beginEvery(Task &t, uint16_t number, real limit, uint8_t counter, Test until) {
  const int32_t clock = clockOf(t);
  t.everies[t.everyCount] = Every{clock, clock, tick, claims, number, End::interrupted};
  t.everyCount += 1;
  t.counters[counter] = limit;
  if (until) until(t, Ask::begin);
  t.at += 1;
  return true;
}

static bool damaged() {
  stop(Why::damaged);
  return false;
}

bool beat(Task &t, real period, uint8_t counter, Test until, uint16_t exit) {
  if (t.everyCount == 0) return damaged();
  Every &every = t.everies[t.everyCount - 1];
  const int32_t clock = clockOf(t);
  const End ended = t.skip                                             ? End::skipped
                    : until && until(t, Ask::now)                      ? End::until
                    : over(clock - every.start, t.counters[counter])   ? End::limit
                                                                       : End::none;
  if (ended != End::none) {
    t.skip = false;
    every.how = ended;
    t.at = exit;
    return true;
  }
  if (clock < every.due) return false;
  every.due += int32_t(most(1, rounded(period / TICK)));
  t.at += 1;
  return true;
}

constexpr uint8_t LIMITED = 0, LAST_STALLED = 1, LAST_TRAVEL = 2, LAST_TURNED = 3, LAST_TIME = 4, LAST_LOST = 5, LAST_ENDED = 6;

bool beatsEnd(Task &t) {
  if (t.everyCount == 0) return damaged();
  const Every &every = t.everies[t.everyCount - 1];
  t.last[LIMITED] = every.how == End::limit ? 1 : 0;
  t.last[LAST_TIME] = (clockOf(t) - every.start) * TICK;
  cutEveries(t, t.everyCount - 1);
  t.stepsEnded += 1;
  t.at += 1;
  return true;
}

bool leave(Task &t, uint8_t guards, Leaves kind, bool pass, uint16_t to) {
  const uint8_t depth = guardBase(t) + guards;
  // Loops of `every` that were open when the first guard above this depth was opened.
  const int16_t everies = depth < t.guardCount ? t.guards[depth]->everies : -1;
  unwindGuards(t, depth);
  if (everies >= 0 && kind != Leaves::every) cutEveries(t, everies);
  if (kind == Leaves::every && t.everyCount > 0 && !pass) t.everies[t.everyCount - 1].how = End::done;
  t.at = to;
  return !pass;
}

bool together(Task &t, const uint16_t *entries, uint8_t count, uint8_t routine, bool untilOne, uint16_t after) {
  if (t.step.kind == Step::none) {
    t.step = Step();
    t.step.kind = Step::join;
    Task **next = &t.children;
    *next = nullptr;
    for (uint8_t i = 0; i < count; i += 1) {
      Task *child = branchOff(t, entries[i], routine);
      if (!child) return false;
      child->nextChild = nullptr;
      *next = child;
      next = &child->nextChild;
    }
    return false;
  }
  bool all = true, one = false;
  for (Task *child = t.children; child; child = child->nextChild) {
    all = all && child->ended;
    one = one || child->ended;
  }
  if (!(untilOne ? one : all)) return false;
  for (Task *child = t.children; child; child = child->nextChild) {
    endFromOutside(*child);
    freeTask(*child);
  }
  t.children = nullptr;
  t.step.kind = Step::none;
  t.stepsEnded += 1;
  t.at = after;
  return true;
}

// ---- Steps that act at once

bool acted(Task &t, uint16_t number) {
  if (t.quiet == 0) {
    uint8_t &bits = seenSteps[number >> 3];
    const uint8_t bit = 1 << (number & 7);
    // In a loop of `every` only the first of them is told.
    if (t.everyCount == 0 || !(bits & bit)) boardStep(number, t.id, tick, tick, End::done);
    bits |= bit;
  }
  t.at += 1;
  return !t.ended;
}

void rollOn(Task &t, uint16_t number, Order order) { passOn(t, order, number); }

void motorOn(Task &t, uint16_t number, uint8_t part, real duty) {
  takePart(t, part, number, true);
  motorPower(part, Mode::drive, duty);
}

static void startMove(uint8_t part, bool by, real angle, real at, real duty) {
  const real rate = isnan(at) ? sheet(part).topRate / 2 : at;
  const real limit = isnan(duty) ? real(1) : between(size(duty), 0.02, 1);
  const bool endless = isnan(angle);
  beginTurnPart(part, endless ? real(0) : by ? angle : angle - partAngle(part), endless, rate < 0 ? -1 : 1, size(rate), limit);
}

void moveOn(Task &t, uint16_t number, uint8_t part, bool by, real angle, real at, real duty) {
  takePart(t, part, number, true);
  startMove(part, by, angle, at, duty);
}

void stopDrive(Task &t, uint16_t number, Mode mode) {
  takeDrive(t, number);
  if (mode == Mode::brake) {
    haltDrive(t);
  } else {
    noMotion();
    release(mode);
  }
  t.passes = false;
  freeDrive(t);
}

void stopMotor(Task &t, uint16_t number, uint8_t part, Mode mode) {
  takePart(t, part, number, false);
  motorPower(part, mode, 0);
  freePart(t, part);
}

void steerTo(Task &t, uint16_t number, real angle) {
  takeDrive(t, number);
  drive.steer = angle;
}

// ---- Steps that take time

Tails tails = {nullptr, false, NAN, NAN, NAN, Step::time, Ending::stop};

bool begins(Task &t, uint16_t number) {
  if (t.step.kind != Step::none) return false;
  t.step = Step();
  t.step.number = number;
  tails = Tails{nullptr, false, NAN, NAN, NAN, Step::time, Ending::stop};
  return true;
}

/** What all steps that take time begin with. */
static Step &opened(Task &t, Step::Kind kind) {
  Step &s = t.step;
  s.kind = kind;
  s.from = tick;
  s.startClock = clockOf(t);
  s.until = tails.until;
  s.signalOnly = tails.signalOnly;
  s.forTime = tails.forTime;
  s.limit = tails.limit;
  s.atMost = tails.atMost;
  s.by = tails.by;
  s.ending = tails.ending;
  s.bound = NAN;
  if (s.until) s.until(t, Ask::begin);
  t.opened[0] = driveWay();
  t.opened[1] = drive.heading;
  t.opened[2] = clockOf(t);
  return s;
}

/** How long a step may take that nothing limits. */
static real boundOf(real expected, real forTime) {
  if (expected == ENDLESS) expected = forTime;
  return isnan(expected) ? BOUND_OPEN : BOUND_FACTOR * expected + BOUND_EXTRA;
}

void wait(Task &t, real seconds) {
  Step &s = opened(t, Step::wait);
  s.to = seconds;
  s.signalOnly = s.signalOnly && isnan(s.limit) && isnan(s.atMost) && isnan(seconds);
}

void drives(Task &t, const Order &order) {
  const uint16_t number = t.step.number;
  t.step.order = order;
  t.step.order.begin(t.step.order, NAN);
  takeDrive(t, number);
  t.passes = false;
  Step &s = opened(t, Step::drive);
  s.startTravel = driveWay();
  s.startHeading = drive.heading;
  s.limit = size(s.limit);
  s.bound = boundOf(moving.expected, s.forTime);
}

static Step &withPart(Task &t, Step::Kind kind, uint8_t part, real expected) {
  takePart(t, part, t.step.number, false);
  Step &s = opened(t, kind);
  s.part = part;
  s.bound = boundOf(expected, s.forTime);
  return s;
}

void motorRuns(Task &t, uint8_t part, real duty) {
  withPart(t, Step::motor, part, ENDLESS);
  motorPower(part, Mode::drive, duty);
}

void moves(Task &t, uint8_t part, bool by, real angle, real at, real duty) {
  startMove(part, by, angle, at, duty);
  withPart(t, Step::move, part, partExpected(part)).serial = partSerial(part);
}

void homes(Task &t, uint8_t part, bool high, real duty) {
  const real push = isnan(duty) ? real(0.35) : between(size(duty), 0.02, 1);
  withPart(t, Step::home, part, 6).to = high ? push : -push;
  beginHomePart(part, high ? 1 : -1, push);
  t.step.serial = partSerial(part);
}

/** Turns a head, to wait until it stands and every eye on it has looked anew. */
static void beginLook(Step &s, real rad) {
  beginTurnPart(s.part, rad - partAngle(s.part), false, 1, sheet(s.part).topRate, 1);
  partAim(s.part, rad);
  s.settledAt = -1;
  s.to = rad;
}

static bool looked(Step &s) {
  if (!partSettled(s.part) || size(partAngle(s.part) - s.to) > real(0.02)) {
    s.settledAt = -1;
    return false;
  }
  if (s.settledAt < 0) s.settledAt = tick;
  const real age = partEyeAge(s.part);
  return age < 0 || age < int32_t(tick) - s.settledAt;
}

void aims(Task &t, uint8_t part, real angle) { beginLook(withPart(t, Step::aim, part, 1), angle); }

static real lookAngle(const Step &s, uint8_t i) { return s.fromRad + (s.toRad - s.fromRad) * i / (s.looks - 1); }

void scans(Task &t, uint8_t part, real from, real to, real looks, real *seen) {
  const uint8_t count = between(rounded(looks), 2, 60);
  Step &s = withPart(t, Step::scan, part, count);
  s.fromRad = from;
  s.toRad = to;
  s.looks = count;
  s.seen = seen;
  beginLook(s, from);
}

/** Of equally clear looks side by side the middle one: the way there is widest. */
static uint8_t middleOfLargest(const real *values, uint8_t count) {
  real top = values[0];
  for (uint8_t i = 1; i < count; i += 1) top = most(top, values[i]);
  uint8_t best = 0, length = 0;
  for (uint8_t i = 0; i < count; i += 1) {
    uint8_t end = i;
    while (end < count && values[end] >= top - real(1e-3)) end += 1;
    if (end - i <= length) continue;
    length = end - i;
    best = (i + end - 1) / 2;
  }
  return best;
}

static bool scanned(Step &s) {
  if (!looked(s)) return false;
  s.seen[s.look] = readings[sheet(s.part).distanceSlot];
  s.look += 1;
  if (s.look < s.looks) {
    beginLook(s, lookAngle(s, s.look));
    return false;
  }
  uint8_t nearest = 0;
  for (uint8_t i = 1; i < s.looks; i += 1)
    if (s.seen[i] < s.seen[nearest]) nearest = i;
  partFound(s.part, lookAngle(s, nearest), lookAngle(s, middleOfLargest(s.seen, s.looks)));
  return true;
}

void handsOver(Task &t) {
  opened(t, Step::hand);
  handBegin(t);
}

/** What ends a step: its question, having arrived, its time, its limit; in this order. */
static End endedBy(Task &t, End arrived, real measured) {
  Step &s = t.step;
  const int32_t elapsed = clockOf(t) - s.startClock;
  if (s.until && s.until(t, Ask::now)) return s.kind == Step::drive && moving.wallEnded ? End::ended : End::until;
  if (arrived != End::none) return arrived;
  if (over(elapsed, s.forTime)) return End::time;
  if (s.by == Step::time ? over(elapsed, s.limit) : measured >= s.limit - real(1e-6)) return End::limit;
  if (!isnan(s.limit) || !over(elapsed, s.bound)) return End::none;
  stop(Why::never_ended, s.number, uint16_t(rounded(elapsed * TICK)));
  return End::bound;
}

static End tickWait(Task &t) {
  Step &s = t.step;
  const int32_t elapsed = clockOf(t) - s.startClock;
  if (s.until && s.until(t, Ask::now)) return End::until;
  if (over(elapsed, s.atMost)) return End::time;
  if (over(elapsed, s.to)) return End::done;
  return over(elapsed, s.limit) ? End::limit : End::none;
}

/** `then`: roll on, coast, or slow down and stand (the step lasts until it stands). */
static End leaveDrive(Task &t, End ended) {
  Step &s = t.step;
  if (uses::KEEPS && s.ending == Ending::keep) {
    Order order = roll(drive.wanted, drive.wantedRate, USUAL);
    order.c = drive.wantedAside;
    passOn(t, order, s.number);
    return ended;
  }
  if (s.ending == Ending::coast || moving.arrived) {
    noMotion();
    release(s.ending == Ending::coast ? Mode::coast : Mode::brake);
    freeDrive(t);
    return ended;
  }
  if (!haltDrive(t)) {
    freeDrive(t);
    return ended;
  }
  s.halting = ended;
  return End::none;
}

static End tickDrive(Task &t) {
  Step &s = t.step;
  // A handler that came while it slowed down left it standing, or drove on: either way this step is over.
  if (s.halting != End::none) {
    if (!moving.arrived && !s.heldUp) return End::none;
    freeDrive(t);
    return s.halting;
  }
  const End arrived = !moving.arrived || clockOf(t) == s.startClock ? End::none : moving.how == End::none ? End::done : moving.how;
  const real measured = s.by == Step::travel ? size(driveWay() - s.startTravel) : size(drive.heading - s.startHeading);
  const End ended = endedBy(t, arrived, measured);
  return ended == End::none || ended == End::bound ? ended : leaveDrive(t, ended);
}

static End tickPart(Task &t) {
  Step &s = t.step;
  End arrived = End::none;
  const bool own = s.serial == partSerial(s.part);
  if (uses::MOVES) switch (s.kind) {
    case Step::move: arrived = own && partStalled(s.part) ? End::stalled : own && partArrived(s.part) ? End::done : End::none; break;
    case Step::home: arrived = uses::HOMES && partArrived(s.part) ? End::done : End::none; break;
    case Step::aim: arrived = uses::LOOKS && looked(s) ? End::done : End::none; break;
    case Step::scan: arrived = uses::LOOKS && scanned(s) ? End::done : End::none; break;
    default: break;
  }
  const End ended = endedBy(t, arrived, 0);
  if (ended == End::none) return ended;
  const bool drops = s.kind == Step::motor || s.kind == Step::home ||
                     (s.kind == Step::move && (ended == End::until || ended == End::time || ended == End::limit));
  if (drops) dropStep(t, s);
  else freePart(t, s.part);
  return ended;
}

/** Ended from outside, or over: lets go of what it holds. */
static void dropStep(Task &t, Step &s) {
  switch (s.kind) {
    case Step::drive:
      if (!drivesWith(t)) return;
      haltDrive(t);
      freeDrive(t);
      return;
    case Step::motor:
      if (uses::MOTORS && s.ending != Ending::keep) motorPower(s.part, s.ending == Ending::coast ? Mode::coast : Mode::brake, 0);
      break;
    case Step::move:
      if (uses::MOVES) beginTurnPart(s.part, 0, false, 1, 1, 1);
      break;
    case Step::home:
      if (uses::HOMES) motorPower(s.part, Mode::brake, 0);
      break;
    case Step::hand:
      if (uses::HAND) handDrop(t);
      return;
    case Step::aim:
    case Step::scan: break;
    default: return;
  }
  if (PARTS_MOVE) freePart(t, s.part);
}

bool runs(Task &t) {
  Step &s = t.step;
  End ended = End::skipped;
  if (!t.skip) {
    switch (s.kind) {
      case Step::wait: ended = tickWait(t); break;
      case Step::drive: ended = tickDrive(t); break;
      case Step::hand: ended = uses::HAND ? handTick(t) : End::skipped; break;
      default: ended = PARTS_MOVE ? tickPart(t) : End::skipped; break;
    }
  }
  if (ended == End::none) return false;
  if (ended == End::skipped) dropStep(t, s);
  t.last[LIMITED] = ended == End::limit ? 1 : 0;
  t.last[LAST_STALLED] = ended == End::stalled || drive.stalled ? 1 : 0;
  t.last[LAST_LOST] = ended == End::lost ? 1 : 0;
  t.last[LAST_ENDED] = ended == End::ended ? 1 : 0;
  t.last[LAST_TRAVEL] = driveWay() - t.opened[0];
  t.last[LAST_TURNED] = drive.heading - t.opened[1];
  t.last[LAST_TIME] = (clockOf(t) - t.opened[2]) * TICK;
  told(s, t, ended);
  s.kind = Step::none;
  t.skip = false;
  t.stepsEnded += 1;
  t.at += 1;
  return true;
}

// ---- A tick

/** All that are left wait for signals only: nobody can send them any more. */
static void watchWaiting() {
  const Task *waits = nullptr;
  for (uint8_t i = 0; i < taskCount; i += 1) {
    if (!taskOrder[i]) continue;
    const Task &t = *taskOrder[i];
    if (t.ended || t.pauses > 0) continue;
    const bool forSignal = t.step.kind == Step::wait && t.step.signalOnly;
    if (!forSignal && t.step.kind != Step::join) return;
    for (uint8_t g = 0; uses::GUARDS && g < t.guardCount; g += 1)
      for (uint8_t h = 0; h < t.guards[g]->count; h += 1)
        if (!t.guards[g]->handlers[h].signalOnly) return;
    if (forSignal && !waits) waits = &t;
  }
  if (waits) stop(Why::no_sender, waits->step.number);
}

/** Runs a task until it waits. @returns whether anything but waiting happened */
static bool runTask(Task &t) {
  const uint16_t before = t.at;
  while (!missionEnded) {
    if (opsLeft == 0) return true;
    opsLeft -= 1;
    if (!PROGRAM.run(t)) break;
  }
  return t.at != before || t.ended;
}

static bool isChild(const Task &t) { return t.parent && !t.parent->ended; }

static void runTasks() {
  opsLeft = MOST_OPS;
  bool moved = false;
  for (uint8_t i = 0; i < taskCount && !missionEnded; i += 1) {
    if (!taskOrder[i]) continue;
    Task &t = *taskOrder[i];
    if (t.ended || t.pauses > 0) continue;
    if (uses::GUARDS && t.guardCount > 0) watchGuards(t);
    moved = runTask(t) || moved;
    if (t.ended) closeTask(t);
  }
  if (mission().ended) stop(Why::finished);
  uint8_t kept = 0;
  for (uint8_t i = 0; i < taskCount; i += 1) {
    Task *t = taskOrder[i];
    if (!t || (i > 0 && t->ended)) continue;
    taskOrder[kept] = t;
    kept += 1;
  }
  taskCount = kept;
  // A branch keeps its place until its parent has seen that it is over.
  for (uint8_t i = 0; i < PROGRAM.tasks; i += 1)
    if (taskPool[i].ended && &taskPool[i] != taskOrder[0] && !isChild(taskPool[i])) taskPool[i].used = false;
  if (uses::SIGNALS && !moved && !missionEnded) watchWaiting();
}

void begin() {
  for (uint8_t i = 0; i < PROGRAM.tasks; i += 1) {
    Task &t = taskPool[i];
    t.frames = framePool + i * PROGRAM.frames;
    if (uses::GUARDS) t.guards = guardLists + i * PROGRAM.guards;
    if (uses::EVERIES) t.everies = everyPool + i * PROGRAM.everies;
    t.values = valuePool + i * PROGRAM.values;
    t.counters = counterPool + i * PROGRAM.counters;
    t.valuesOf = valuesOfPool + i * PROGRAM.routines;
  }
  for (uint8_t i = 0; uses::GUARDS && i < PROGRAM.guardPool; i += 1) {
    guardPool[i].savedFrames = savedFramePool + i * PROGRAM.frames;
    guardPool[i].savedValues = savedValuePool + i * (PROGRAM.values + PROGRAM.counters);
  }
  drive.volts = robot::NOMINAL_VOLTS;
  drive.mode = Mode::brake;
  orders.mode = Mode::brake;
  for (uint8_t i = 0; i < robot::SERVOS; i += 1) orders.servos[i].target = robot::SERVO_REST[i];
  for (uint8_t i = 0; i < robot::MOTORS; i += 1) orders.motors[i].mode = Mode::brake;
  noMotion();
  Task *t = addTask(nullptr, PROGRAM.start);
  if (t) PROGRAM.initialise(*t);
}

void step() {
  senseAll();
  handedOver = handSilent = false;
  if (!missionEnded) runTasks();
  if (missionEnded && moving.tick) noMotion();
  if (moving.tick) moving.arrived = moving.tick();
  else if (missionEnded && drive.mode == Mode::drive) release(Mode::brake);
  if (uses::MOVES) partsTick();
  giveOrders();
  if (missionEnded && PARTS_MOVE) partsStop();
  tick += 1;
}

}  // namespace pebble
