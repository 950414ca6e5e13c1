// Numbers, as docs/language.md means them.

// A time in whole ticks, rounded up; numbers with 32 bits miss a whole one by more than those with 64.
Number ticks(Number seconds) { return ceil(seconds / TICK * (sizeof(Number) > 4 ? 1 : 1 - 5e-7) - 1e-9); }

// The tick in which a time from now is over.
Number after(Number seconds) { return now.tick + ticks(seconds); }

Number stepped(Number x, Number scale) { return rounded(x / scale) * scale; }

void say_by_zero() { text << F("division by zero"); }

Number divided(Number x, Number y, int line) {
  if (y == 0) {
    fail(say_by_zero, line);
    return 0;
  }
  return x / y;
}

void say_root() { text << F("the square root of a negative number"); }

Number root(Number x, int line) {
  if (x < 0) {
    fail(say_root, line);
    return 0;
  }
  return sqrt(x);
}

// What no echo counts as.
Number within(Number x, Number farthest) { return x == INFINITY ? farthest : x; }

Number as_number(bool is) { return is ? 1 : 0; }

Number sign(Number x) { return x > 0 ? 1 : x < 0 ? -1 : 0; }

Number least(Number x, Number y) { return x != x || x < y ? x : y; }

template <typename... More>
Number least(Number x, Number y, More... more) { return least(least(x, y), more...); }

Number greatest(Number x, Number y) { return x != x || x > y ? x : y; }

template <typename... More>
Number greatest(Number x, Number y, More... more) { return greatest(greatest(x, y), more...); }

Number clamp(Number x, Number low, Number high) { return x < low ? low : x > high ? high : x; }

bool is_between(Number x, Number low, Number high) { return x >= low && x <= high; }

bool among(Number x, Number one) { return x == one; }

template <typename... More>
bool among(Number x, Number one, More... more) { return x == one || among(x, more...); }

// The value for what is asked: pairs of what it may be, and the value then.
Number asked(Number, Number otherwise) { return otherwise; }

template <typename... More>
Number asked(Number wanted, Number otherwise, Number one, Number value, More... more) { return wanted == one ? value : asked(wanted, otherwise, more...); }

void say_no_such_value() {
  text << failure.name << F(" holds values ") << Whole(failure.first) << F(" to ") << Whole(failure.first + failure.count - 1) << F(", and ") << plain(failure.asked) << F(" was asked for");
}

// Where one of a memory's values stands.
int place(Letters name, Number at, int first, int count, int line) {
  const Number k = rounded(at);
  if (k >= first && k < first + count) return int(k) - first;
  if (!failed()) {
    failure.name = name;
    failure.first = first;
    failure.count = count;
    failure.asked = k;
  }
  fail(say_no_such_value, line);
  return 0;
}

template <int count>
Number how_many(const Number (&values)[count]) {
  Number found = 0;
  for (Number x : values) found += x != 0;
  return found;
}

Number run_time() { return now.tick * TICK; }

Number mode_time() { return (now.tick - now.lane->entered) * TICK; }

// True for a tick, each time that a period is over.
bool every(byte k, Number seconds) {
  Number period = ticks(seconds);
  if (period < 1) period = 1;
  if (t[k] < 0) {
    t[k] = now.tick + period;
    return false;
  }
  if (now.tick < t[k]) return false;
  t[k] += period;
  return true;
}

void note_looks(byte) {}

template <typename... More>
void note_looks(byte k, const Device& device, const More&... more) {
  t[k] = device.looks;
  note_looks(k + 1, more...);
}

bool looked_again(byte) { return true; }

template <typename... More>
bool looked_again(byte k, const Device& device, const More&... more) { return device.looks > t[k] && looked_again(k + 1, more...); }

// Whether something was true that long without a break, and each device has looked again.
template <typename... Devices>
bool held_for(byte k, bool test, Value seconds, const Devices&... those) {
  if (!test) {
    t[k] = -1;
    return false;
  }
  if (t[k] < 0) {
    t[k] = now.tick;
    note_looks(k + 1, those...);
  }
  return !(now.tick - t[k] < ticks(seconds())) && looked_again(k + 1, those...);
}

// What is followed over time: each is worked out at the beginning of every tick.

enum Over { MEAN, LOWEST, HIGHEST };

// Over the latest values: as many as `seconds` have ticks, `room` at most.
struct OverTime {
  Over does;
  Number* kept;  // round and round
  int room;
  int next = 0;
  int count = 0;
  Number value = 0;

  constexpr OverTime(Over does, Number* kept, int room) : does(does), kept(kept), room(room) {}

  void follow(Number x, Number seconds) {
    kept[next] = x;
    next = next + 1 < room ? next + 1 : 0;
    if (count < room) count++;
    const Number asked = ticks(seconds);
    int wanted = count;
    if (asked < wanted) wanted = asked < 1 ? 1 : int(asked);
    int at = next - wanted;
    if (at < 0) at += room;
    Number found = does == MEAN ? 0 : kept[at];
    for (int left = wanted; left > 0; left--) {
      const Number one = kept[at];
      if (does == MEAN) found += one;
      else if (does == LOWEST ? one < found : one > found) found = one;
      at = at + 1 < room ? at + 1 : 0;
    }
    value = does == MEAN ? found / wanted : found;
  }
};

// Change a second, from look to look of some devices.
template <int count>
struct Rate {
  const Device* devices[count + 1];
  long looks[count + 1];
  Number before = 0;
  long tick = -1;
  Number value = 0;

  template <typename... Devices>
  Rate(const Devices&... those) : devices{&those..., nullptr} {
    for (long& one : looks) one = -1;
  }

  bool anew() {
    bool looked = count == 0;
    for (byte i = 0; i < count; i++) {
      looked = looked || devices[i]->looks != looks[i];
      looks[i] = devices[i]->looks;
    }
    return looked;
  }

  void follow(Number x) {
    if (tick >= 0) value = (x - before) / ((now.tick - tick) * TICK);
    before = x;
    tick = now.tick;
  }
};

// Sum over time.
struct Total {
  Number value = 0;

  void follow(Number x) { value += x * TICK; }
};

// When something was true last.
struct Since {
  long tick = -1;

  void follow(bool test) {
    if (test) tick = now.tick;
  }

  Number seconds() const { return tick >= 0 ? (now.tick - tick) * TICK : INFINITY; }
  Number of_run() const { return (now.tick - (tick >= 0 ? tick : 0)) * TICK; }
};

// Random numbers: xoshiro128** (Blackman and Vigna, 2021), a stream for each lane.
struct Draws {
  uint32_t a, b, c, d;

  uint32_t bits() {
    uint32_t x = b * 5;
    x = ((x << 7) | (x >> 25)) * 9;
    const uint32_t shifted = b << 9;
    c ^= a;
    d ^= b;
    b ^= c;
    a ^= d;
    c ^= shifted;
    d = (d << 11) | (d >> 21);
    return x;
  }
};

extern Draws draws[LANES];

Number drawn(Number low, Number high) {
  Draws& draw = draws[now.lane->number];
  const Number one = draw.bits() >> 5;
  const Number other = draw.bits() >> 6;
  return low + (high - low) * ((one * 67108864 + other) / 9007199254740992.0);
}

// Angles.

// The same angle, more than half a turn to the left and up to half a turn to the right.
Number wrapped(Number angle) {
  const Number turn = 2 * M_PI;
  const Number x = angle - rounded(angle / turn) * 2 * M_PI;
  return x <= -M_PI ? x + turn : x;
}

Number sine(Number x) { return fabs(x) < 1e15 ? sin(x) : NAN; }

Number cosine(Number x) { return fabs(x) < 1e15 ? cos(x) : NAN; }

// The angle of the point (x, y), radians; 0 for the origin.
Number arctangent(Number y, Number x) {
  if (x == 0 && y == 0) return 0;
  if (fabs(x) == INFINITY && fabs(y) == INFINITY) return sign(y) * (x < 0 ? 3 * M_PI / 4 : M_PI / 4);
  return atan2(y, x);
}

Number arcsine(Number x) { return asin(clamp(x, -1, 1)); }

Number arccosine(Number x) { return acos(clamp(x, -1, 1)); }

// Which way a place lies, right positive, from where a beacon's receiver is.
template <typename Beacon>
Number bearing_of(const Beacon& device, Number x, Number y) { return wrapped(-arctangent(y - device.y, x - device.x) - device.heading); }

template <typename Beacon>
Number distance_of(const Beacon& device, Number x, Number y) {
  const Number dx = x - device.x;
  const Number dy = y - device.y;
  return sqrt(dx * dx + dy * dy);
}
