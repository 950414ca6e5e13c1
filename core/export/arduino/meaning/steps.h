// Steps, as the rules of a program call them. A function of steps goes on where it waited: PAUSE is where it does.

#define BEGIN switch (at) { case 0:

#define END } return THROUGH

#define PAUSE do { at = __LINE__; return WAITS; case __LINE__:; } while (0)

// Behind what may fail, so that nothing more is done.
#define CHECK if (failed()) return FAILS

void go(Mode& mode) {
  Lane& lane = *now.lane;
  if (lane.went == now.tick) {
    lane.pending = &mode;  // a second one in a tick waits for the next
  } else {
    lane.went = now.tick;
    lane.enter(&mode);
  }
}

#define GO(mode) do { go(mode); return GONE; } while (0)

void finish(const Text& why) {
  if (failed()) return;
  now.finished = true;
  tell(F("finish"), now.lane->name(), why.letters);
}

#define FINISH(why) do { finish(why); return ENDS; } while (0)

void note(const Text& text) {
  if (!failed()) tell(F("note"), now.lane->name(), text.letters);
}

void send(byte signal) {
  now.sent |= 1UL << signal;
  TEXT << name_at(SIGNAL_NAMES, signal);
  tell(F("signal"), now.lane->name(), text.letters);
}

bool heard(byte signal) { return now.heard >> signal & 1; }

void reset(Device& device, byte reading) {
  device.was[device.reads + reading] = device.was[reading];
  device.readings[reading] = 0;
}

#define SET(into, value) do { const Number set_value = value; CHECK; into = set_value; } while (0)

// The value is worked out first, then its place: either may fail.
#define PUT(values, at_place, value) do { const Number put_value = value; const int put_at = at_place; CHECK; (values)[put_at] = put_value; } while (0)

// In a live rule: whether a step is reached anew, so that it acts. Rounds of a loop do as its first.
bool anew(byte k) {
  const Number before = t[k];
  const Number reached = floor(before);
  const bool acts = reached == now.tick ? before != reached : reached != now.tick - 1;
  t[k] = now.tick + (acts ? 0.5 : 0);
  return acts;
}

void say_no_time_passes() { text << F("no time passes in this loop: it ran more than 10,000 steps within one tick. Put a wait, or a step that takes time, inside"); }

// A round of a loop more, of so many steps.
bool again(int line, int steps) {
  now.steps += steps;
  if (now.steps > 10000) fail(say_no_time_passes, line);
  return !failed();
}

#define AGAIN(line, steps) do { if (!again(line, steps)) return FAILS; } while (0)

// What waits within a limit of time says where it goes on when that is over: OVER(its number, where).
#define OVER(k, where) if (now.tick >= t[k]) goto where;

#define WAIT(seconds, ...) now.lane->ends = after(seconds); while (now.tick < now.lane->ends) { __VA_ARGS__ PAUSE; }

#define WAIT_UNTIL(test, ...) while (!(test)) { __VA_ARGS__ PAUSE; }

bool in_time() {
  now.lane->late = now.tick >= now.lane->over;
  return !now.lane->late;
}

#define WAIT_UNTIL_AT_MOST(test, seconds, ...) now.lane->over = after(seconds); now.lane->late = false; while (!(test) && in_time()) { __VA_ARGS__ PAUSE; }

// Whether the limit of the step before was over first.
bool late() { return now.lane->late; }

// Motions.

struct Motion {
  Device* device;
  int line;

  constexpr Motion(int line, Device* device) : device(device), line(line) {}

  virtual byte many() const { return device == nullptr ? 0 : 1; }
  virtual Device& part(byte) const { return *device; }

  // False where there is nothing to do.
  virtual bool begin() { return true; }

  virtual void apply() {}

  // Whether it ends by itself, and has.
  virtual bool done() { return false; }
};

Device* Lane::first_of(Motion* motion) { return &motion->part(0); }

// What several lanes may speak to hears the first of them in a tick.
bool Lane::may_speak(Motion* motion) {
  const byte many = motion->many();
  for (byte i = 0; i < many; i++) {
    if (!motion->part(i).shared) return true;
  }
  const byte lane = now.lane->number;
  for (byte i = 0; i < many; i++) {
    const byte by = motion->part(i).said_by;
    if (by != NONE && by != lane) return false;
  }
  for (byte i = 0; i < many; i++) motion->part(i).said_by = lane;
  return true;
}

// The line of a failure is that of the step that moves.
void Lane::apply(Motion* motion) {
  motion->apply();
  if (failed()) failure.line = motion->line;
}

void Lane::tell(Letters kind, Letters about) { ::tell(kind, about, text.letters); }

void Lane::say_failure() {
  TEXT << F("line ") << Whole(failure.line) << F(": ");
  failure.says();
}

void set_off(Motion& motion) {
  for (byte i = 0; i < motion.many(); i++) {
    now.lane->moves[motion.part(i).acts] = &motion;
    motion.part(i).stalled_ticks = 0;
  }
}

void let_go(Motion& motion) {
  for (byte i = 0; i < motion.many(); i++) now.lane->moves[motion.part(i).acts] = nullptr;
}

// Where nothing else has taken its place.
void let_go_of(Motion& motion) {
  for (byte i = 0; i < motion.many(); i++) {
    Motion*& moves = now.lane->moves[motion.part(i).acts];
    if (moves == &motion) moves = nullptr;
  }
}

bool blocked(Motion& motion) {
  for (byte i = 0; i < motion.many(); i++) {
    Device& device = motion.part(i);
    if (device.says_stalled == NONE || device.stalled_ticks * TICK < 1) continue;
    device.stalled_ticks = 0;
    TEXT << F("line ") << Whole(motion.line);
    tell(F("blocked"), device.name(), text.letters);
    return true;
  }
  return false;
}

void clip(Device& device) {
  TEXT << F("beyond its range: it goes to the end");
  tell(F("clipped"), device.name(), text.letters);
}

bool begins(Motion& motion) { return motion.begin() && !failed(); }

void setting(Motion& motion) {
  if (begins(motion) && Lane::may_speak(&motion)) motion.apply();
}

// It moves until another does, or its rule ends.
void hold(Motion& motion) {
  if (begins(motion)) set_off(motion);
}

// In a live rule it begins where it is reached anew.
void hold(Motion& motion, byte edge) {
  if (anew(edge)) motion.begin();
  if (!failed()) set_off(motion);
}

bool lasts(Number seconds) {
  const Number length = ticks(seconds);
  now.lane->ends = now.tick + length;
  return !(length <= 0) && !failed();
}

bool limited(Number seconds) {
  now.lane->over = after(seconds);
  return !failed();
}

bool sets_off(Motion& motion) {
  now.lane->late = false;
  if (!begins(motion)) return false;
  set_off(motion);
  return true;
}

bool is_through() { return now.tick >= now.lane->ends; }

// Whether a motion goes on, of which is known whether it has ended.
bool goes_on(Motion& motion, bool ended, bool over) {
  if (failed()) return false;
  if (!ended && !over) return true;
  let_go(motion);
  now.lane->late = !ended;
  return false;
}

// A motion that ends: by itself, when something is true, after a time; its limit may be over first.
#define MOVE(motion, ...) if (sets_off(motion)) while (goes_on(motion, blocked(motion) || motion.done(), false)) { __VA_ARGS__ PAUSE; }

#define MOVE_UNTIL(motion, test, ...) if (!(test) && sets_off(motion)) while (goes_on(motion, blocked(motion) || (test) || motion.done(), false)) { __VA_ARGS__ PAUSE; }

#define MOVE_FOR(motion, seconds, ...) if (lasts(seconds) && sets_off(motion)) while (goes_on(motion, blocked(motion) || is_through() || motion.done(), false)) { __VA_ARGS__ PAUSE; }

#define MOVE_AT_MOST(motion, seconds, ...) now.lane->late = false; if (limited(seconds) && sets_off(motion)) while (goes_on(motion, blocked(motion) || motion.done(), now.tick >= now.lane->over)) { __VA_ARGS__ PAUSE; }

#define MOVE_UNTIL_AT_MOST(motion, test, seconds, ...) now.lane->late = false; if (!(test) && limited(seconds) && sets_off(motion)) while (goes_on(motion, blocked(motion) || (test) || motion.done(), now.tick >= now.lane->over)) { __VA_ARGS__ PAUSE; }

#define MOVE_FOR_AT_MOST(motion, time, seconds, ...) now.lane->late = false; if (lasts(time) && limited(seconds) && sets_off(motion)) while (goes_on(motion, blocked(motion) || is_through() || motion.done(), now.tick >= now.lane->over)) { __VA_ARGS__ PAUSE; }
