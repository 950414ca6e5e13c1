// Texts: values as people read them, and what stands on a display. One text at a time is made, and cut where there is no more room.

#ifndef TEXT_ROOM
#define TEXT_ROOM 80
#endif

struct Text {
  char letters[TEXT_ROOM + 1];
  unsigned size;

  void put(char letter) {
    if (size >= TEXT_ROOM) return;
    letters[size++] = letter;
    letters[size] = 0;
  }

  Text& anew() {
    size = 0;
    letters[0] = 0;
    return *this;
  }
};

Text text;

// A new text, to write what it says behind.
#define TEXT text.anew()

Text& operator<<(Text& into, Letters letters) {
  const char* at = reinterpret_cast<const char*>(letters);
  for (char letter = pgm_read_byte(at); letter != 0; letter = pgm_read_byte(++at)) into.put(letter);
  return into;
}

struct Whole {
  long x;

  explicit Whole(long x) : x(x) {}
};

Text& operator<<(Text& into, Whole whole) {
  char digits[21];
  for (const char* at = ltoa(whole.x, digits, 10); *at != 0; at++) into.put(*at);
  return into;
}

// To the nearest whole number, halves up.
Number rounded(Number x) {
  const Number whole = floor(x);
  return x - whole >= 0.5 ? whole + 1 : whole;
}

// With so many decimals, halves away from zero; `trims`: without zeros at the end.
void put_fixed(Text& into, Number x, byte decimals, bool trims) {
  if (x != x) {
    into << F("NaN");
    return;
  }
  if (x == -INFINITY) {
    into << F("-Infinity");
    return;
  }
  Number scale = 1;
  for (byte i = 0; i < decimals; i++) scale *= 10;
  uint64_t whole = uint64_t(rounded(fabs(x) * scale));
  if (x < 0 && whole > 0) into.put('-');
  char digits[21];
  byte count = 0;
  while (whole > 0 || count <= decimals) {
    digits[count++] = '0' + byte(whole % 10);
    whole /= 10;
  }
  byte last = 0;
  while (trims && last < decimals && digits[last] == '0') last++;
  while (count > last) {
    if (count == decimals) into.put('.');
    into.put(digits[--count]);
  }
}

struct Plain {
  Number x;
};

Plain plain(Number x) { return {x}; }

Text& operator<<(Text& into, Plain plain) {
  if (plain.x == INFINITY) return into << F("no echo");
  put_fixed(into, plain.x, 3, true);
  return into;
}

// To a millionth: as much as these numbers hold.
struct Exact {
  Number x;
};

Exact exact(Number x) { return {x}; }

Text& operator<<(Text& into, Exact exact) {
  if (exact.x == INFINITY) return into << F("Infinity");
  put_fixed(into, exact.x, 6, true);
  return into;
}

// With as many digits as are useful.
struct Quantity {
  Number x;
  Number scale;
  Letters unit;
  Letters endless;
};

Quantity quantity(Number x, Number scale, Letters unit, Letters endless = nullptr) { return {x, scale, unit, endless}; }

Text& operator<<(Text& into, Quantity q) {
  if (q.x == INFINITY) return into << (q.endless != nullptr ? q.endless : F("no echo"));
  const Number x = q.x / q.scale;
  const Number size = fabs(x);
  put_fixed(into, x, size >= 100 ? 0 : size >= 10 ? 1 : 2, true);
  into.put(' ');
  return into << q.unit;
}

struct InSteps {
  Number x;
  Number step;
  byte decimals;
  Number scale;
  Letters unit;
  Letters endless;
};

InSteps in_steps(Number x, Number step, byte decimals, Number scale, Letters unit, Letters endless = nullptr) { return {x, step, decimals, scale, unit, endless}; }

Text& operator<<(Text& into, InSteps s) {
  if (s.x == INFINITY) return into << (s.endless != nullptr ? s.endless : F("no echo"));
  put_fixed(into, rounded(s.x / s.step) * s.step / s.scale, s.decimals, false);
  return into << s.unit;
}

Letters yes_or_no(Number x) { return x != 0 ? F("true") : F("false"); }

// A colour by its number.
Letters color_name(Number x) {
  const int i = x > -1 && x < COLOR_COUNT ? int(x) : -1;
  return i >= 0 && i == x ? name_at(COLOR_NAMES, i) : F("none");
}
