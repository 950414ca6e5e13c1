// What a program means, tick by tick: lanes, modes, rules, and which of them is in control.
// Distances are metres, angles radians, times seconds; a share of 100 % is 1; what is farther than anything is INFINITY.

typedef double Number;  // of 32 bits on a board with 8

typedef Number (*Value)();

typedef bool (*Test)();

typedef const __FlashStringHelper* Letters;

struct Device;

struct Lane;

struct Mode;

struct Motion;

struct Rule;

// What came of steps in a tick.
enum Came { WAITS, THROUGH, GONE, ENDS, FAILS };

// Goes on with some steps from where they wait.
typedef Came (*Steps)(unsigned& at);

enum Phase { START, MODE_START, RULES, ENDED, FAILED };

const byte NONE = 255;

// What timers and steps remember, by number: mostly a tick, -1 for none.
extern Number t[];

// The robot's parts that the program has to do with, in the order of the robot.
extern Device* const devices[DEVICES];

extern Lane* const lanes[LANES];

struct Now {
  long tick = -1;
  bool still = true;  // whether the robot stands
  bool finished = false;  // whether the program asked to end
  Lane* lane = nullptr;  // the lane at work
  unsigned long heard = 0;  // signals of the tick before, a bit each
  unsigned long sent = 0;
  long steps = 0;  // that the lane at work has run in this tick
  void (*every_tick)() = nullptr;
  void (*say_screens)() = nullptr;
  void (*tell)(Letters kind, Letters about, const char* text) = nullptr;  // is told what happens
};

Now now;

// What stops a lane, and at which line of the program.
struct Failure {
  void (*says)() = nullptr;  // writes what it is
  int line = 0;
  Letters name = nullptr;
  int first = 0;
  int count = 0;
  Number asked = 0;
};

Failure failure;

bool failed() { return failure.says != nullptr; }

void fail(void (*says)(), int line) {
  if (failed()) return;
  failure.says = says;
  failure.line = line;
}

// The name at some place of several that stand one behind another, with a 0 between.
Letters name_at(const char* names, int place) {
  while (place > 0) {
    if (pgm_read_byte(names++) == 0) place--;
  }
  return reinterpret_cast<Letters>(names);
}

// A part of the robot. What it reads stands in `readings`, what it is told in `told`.
struct Device {
  Number* readings;
  Number* told;
  Number* was;  // what came in, then what `reset` took off; none where the program resets nothing of it
  byte number;  // its place in `devices`
  byte reads;
  byte tells;
  byte acts;  // its place among those that are told something, or NONE
  byte stays;  // what it keeps being told, a bit each; the rest is told for a tick alone
  byte says_moving;  // which reading does
  byte says_stalled;
  bool shared;  // whether several lanes may speak to it
  bool moves = false;  // whether it did when it was read; one that was told to since is taken to
  int stalled_ticks = 0;
  long looks = 0;  // how many it has taken
  long began = 0;  // the tick in which its latest look began
  byte said_by = NONE;  // the lane that spoke to it in this tick

  constexpr Device(byte number, Number* readings, byte reads, Number* told = nullptr, byte tells = 0, byte acts = NONE, byte stays = 0, byte says_moving = NONE, byte says_stalled = NONE, bool shared = false,
    Number* was = nullptr)
    : readings(readings), told(told), was(was), number(number), reads(reads), tells(tells), acts(acts), stays(stays), says_moving(says_moving), says_stalled(says_stalled), shared(shared) {}

  Letters name() const { return name_at(DEVICE_NAMES, number); }

  Number raw(byte i) const { return was == nullptr ? readings[i] : was[i]; }

  void take(const Number* raw) {
    for (byte i = 0; i < reads; i++) {
      if (was != nullptr) was[i] = raw[i];
      readings[i] = was == nullptr ? raw[i] : raw[i] - was[reads + i];
    }
    if (says_moving != NONE) moves = raw[says_moving] != 0;
    if (says_stalled != NONE) stalled_ticks = raw[says_stalled] > 0 ? stalled_ticks + 1 : 0;
  }

  // What is told for a tick alone is taken back: it brakes.
  void rest() {
    for (byte i = 0; i < tells; i++) {
      if (!(stays >> i & 1)) told[i] = 0;
    }
  }
};

// How a rule goes: its condition acts once each time; none of its steps takes time; its condition is true for a tick at most.
const byte ONCE = 1, LIVE = 2, MOMENTS = 4;

struct Rule {
  int number;
  int line;
  Test when;  // none for `otherwise`
  Steps does;
  Test until;
  void (*timers_anew)();
  byte how;
  bool latched = false;
  bool done = false;
  bool wanting = false;
  bool begun = false;

  constexpr Rule(int number, int line, Test when, Steps does, byte how = 0, Test until = nullptr, void (*timers_anew)() = nullptr)
    : number(number), line(line), when(when), does(does), until(until), timers_anew(timers_anew), how(how) {}

  bool live() const { return how & LIVE; }
  bool beside() const { return (how & (LIVE | ONCE)) == (LIVE | ONCE); }

  void begin_anew() {
    latched = done = false;
    if (timers_anew != nullptr) timers_anew();
  }

  bool wants() {
    bool wants = when == nullptr || when();
    if (until != nullptr) {
      const bool ended = until();
      latched = wants = !ended && (wants || latched);
    }
    if ((how & ONCE) && !((how & MOMENTS) && until == nullptr)) {
      if (!wants) done = false;
      else if (done) wants = false;
    }
    return wants;
  }
};

// Some rules, the most urgent first.
struct Rules {
  Rule* const* all;
  byte count;
};

struct Mode {
  Rules rules;
  Steps start;
  void (*totals_anew)();

  constexpr Mode(Rules rules, Steps start = nullptr, void (*totals_anew)() = nullptr) : rules(rules), start(start), totals_anew(totals_anew) {}
};

struct Lane {
  byte number;
  Mode* const* modes;
  Rules above;
  bool sequence;
  byte phase;
  Mode* mode = nullptr;
  Rule* control = nullptr;
  Steps steps;
  unsigned at = 0;  // where they wait
  long entered = 0;
  long went = -1;
  Mode* pending = nullptr;
  bool late = false;  // whether a limit of time was over first
  Number ends = 0;  // when the step at hand is over
  Number over = 0;  // when its limit is
  Motion* moves[ACTING + 1] = {};  // what moves each device

  constexpr Lane(byte number, Mode* const* modes, Rules above, Steps start = nullptr, bool sequence = false)
    : number(number), modes(modes), above(above), sequence(sequence), phase(start == nullptr ? MODE_START : START), steps(start) {}

  Letters name() const { return name_at(LANE_NAMES, number); }

  byte rules() const { return above.count + (mode == nullptr ? 0 : mode->rules.count); }
  Rule& rule(byte i) const { return i < above.count ? *above.all[i] : *mode->rules.all[i - above.count]; }

  void still() {
    for (Motion*& motion : moves) motion = nullptr;
  }

  void fail() {
    still();
    phase = FAILED;
    steps = nullptr;
    say_failure();
    tell(F("error"), name());
  }

  // Goes on with the steps at hand.
  Came execute() {
    const Came came = steps(at);
    if (failed()) return FAILS;
    if (came == THROUGH) begin(nullptr);
    if (came == GONE && pending != nullptr) {
      begin(nullptr);
      phase = RULES;
    }
    if (came == ENDS) {
      begin(nullptr);
      phase = ENDED;
      still();
    }
    return came;
  }

  void begin(Steps those) {
    steps = those;
    at = 0;
  }

  void take(Rule* rule) {
    still();
    control = rule;
    begin(nullptr);
  }

  void enter(Mode* into) {
    take(nullptr);
    mode = into;
    entered = now.tick;
    if (mode->totals_anew != nullptr) mode->totals_anew();
    for (byte i = 0; i < mode->rules.count; i++) mode->rules.all[i]->begin_anew();
    begin(mode->start);
    phase = mode->start == nullptr ? RULES : MODE_START;
  }

  void ask(const Rules& rules) {
    for (byte i = 0; i < rules.count && !failed(); i++) rules.all[i]->wanting = rules.all[i]->wants();
  }

  void play() {
    if (phase >= ENDED) return;
    if (phase == START) {
      const Came came = execute();
      if (came == WAITS || came >= ENDS) return;
      if (came == THROUGH) {
        if (sequence) {
          still();
          phase = ENDED;
          return;
        }
        enter(modes[0]);
      }
    } else if (mode == nullptr) {
      enter(modes[0]);
    }
    if (pending != nullptr) {
      Mode* const into = pending;
      pending = nullptr;
      went = now.tick;
      enter(into);
    }
    ask(above);
    while (!failed()) {
      if (phase == MODE_START) {
        const Came came = execute();
        if (came >= ENDS) return;
        if (came == GONE) {
          if (pending != nullptr) return;
          continue;
        }
        if (came == THROUGH) {
          still();
          phase = RULES;
        }
        ask(mode->rules);
        if (came == WAITS) return;
      } else {
        ask(mode->rules);
      }
      if (failed() || !decide()) return;
    }
  }

  // Who has control, and its steps. True where another mode was entered.
  bool decide() {
    const byte count = rules();
    const bool middle = control != nullptr && !control->live() && steps != nullptr;
    byte held = count;
    for (byte i = 0; i < count; i++) {
      if (&rule(i) == control) held = i;
    }
    Rule* top = nullptr;
    byte urgent = count;
    for (byte i = 0; i < count; i++) {
      Rule& one = rule(i);
      one.begun = false;
      if (!one.wanting || top != nullptr) continue;
      if (!one.beside()) {
        top = &one;
        urgent = i;
        continue;
      }
      if (middle && i > held) continue;
      // It acts, and what is in control goes on.
      one.wanting = false;
      const Came came = act(one);
      if (came == GONE) return pending == nullptr;
      if (came >= ENDS) return false;
    }
    if (urgent < held || (!middle && control != top)) take(top);
    while (control != nullptr) {
      Rule& one = *control;
      if (one.live()) {
        still();
        begin(one.does);
        const Came came = execute();
        if (came == GONE) return pending == nullptr;
        if (came != FAILS) begin(nullptr);
        return false;
      }
      if (steps == nullptr) {
        if (one.begun) return false;
        one.begun = true;
        still();
        begin(one.does);
      }
      const Came came = execute();
      if (came == WAITS || came >= ENDS) return false;
      if (one.how & ONCE) {
        one.done = true;
        one.wanting = false;
      }
      if (came == GONE) return pending == nullptr;
      Rule* wanted = nullptr;
      for (byte i = 0; i < count && wanted == nullptr; i++) {
        if (rule(i).wanting && !rule(i).beside()) wanted = &rule(i);
      }
      if (wanted != &one) take(wanted != nullptr && wanted->begun ? nullptr : wanted);
    }
    return false;
  }

  Came act(Rule& rule) {
    const Steps kept = steps;
    const unsigned kept_at = at;
    Motion* kept_moves[ACTING + 1];
    for (byte i = 0; i < ACTING; i++) kept_moves[i] = moves[i];
    begin(rule.does);
    const Came came = execute();
    rule.done = true;
    if (came != GONE && came != FAILS) {
      steps = kept;
      at = kept_at;
      for (byte i = 0; i < ACTING; i++) moves[i] = kept_moves[i];
    }
    return came;
  }

  // Motions write what they tell, each once, in the order of the robot's devices.
  void command() {
    for (Device* device : devices) {
      if (device->acts == NONE) continue;
      Motion* const motion = moves[device->acts];
      if (motion == nullptr || first_of(motion) != device || !may_speak(motion)) continue;
      apply(motion);
      if (!failed()) continue;
      for (Device* other : devices) {
        if (other->acts != NONE && moves[other->acts] != nullptr) other->rest();
      }
      fail();
      failure = Failure();
      return;
    }
  }

  // The rest is told farther down.
  static Device* first_of(Motion* motion);
  static bool may_speak(Motion* motion);
  static void apply(Motion* motion);
  static void tell(Letters kind, Letters about);
  static void say_failure();
};

// One tick. What the devices read came in before (`Device::take`); what they are told stands in `told` after.
void run_tick() {
  now.tick++;
  now.heard = now.sent;
  now.sent = 0;
  for (Device* device : devices) {
    device->rest();
    device->said_by = NONE;
  }
  if (now.every_tick != nullptr) now.every_tick();
  if (failed()) {
    for (Lane* lane : lanes) {
      if (lane->phase < ENDED) lane->fail();
    }
    failure = Failure();
  }
  for (Lane* lane : lanes) {
    now.lane = lane;
    now.steps = 0;
    lane->play();
    if (failed()) lane->fail();
    failure = Failure();
    lane->command();
  }
  if (now.say_screens != nullptr) now.say_screens();
}

bool is_over() {
  for (Lane* lane : lanes) {
    if (lane->phase < ENDED) return false;
  }
  return true;
}

void tell(Letters kind, Letters about, const char* text) {
  if (now.tell != nullptr) now.tell(kind, about, text);
}
