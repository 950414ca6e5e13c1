// Displays.

// Its lines from the top, each as many letters as it has columns; or a picture, by its name.
struct Screen {
  Device& device;
  char* letters;  // of all lines, each with a 0 behind
  byte rows;
  byte columns;
  unsigned large = 0;  // which lines are, a bit each
  Letters picture = nullptr;
  uint32_t said = 2166136261UL;  // a sum of what was told last: the text itself would take its room twice

  constexpr Screen(Device& device, char* letters, byte rows, byte columns) : device(device), letters(letters), rows(rows), columns(columns) {}

  char* line(byte i) const { return letters + i * (columns + 1); }
  bool is_large(byte i) const { return large >> i & 1; }

  void set_large(byte i, bool is) {
    if (is) large |= 1U << i;
    else large &= ~(1U << i);
  }

  byte used() const {
    byte used = rows;
    while (used > 0 && line(used - 1)[0] == 0) used--;
    return used;
  }

  void changed() { device.told[0] = picture == nullptr && used() == 0 ? 0 : 1; }

  void clear() {
    picture = nullptr;
    for (byte i = 0; i < rows; i++) line(i)[0] = 0;
  }

  // At the end of a tick, where something else stands there than at its beginning.
  void say() {
    TEXT;
    uint32_t sum = 2166136261UL;
    if (picture != nullptr) {
      put_letter(sum, '\2');
      const char* at = reinterpret_cast<const char*>(picture);
      for (char letter = pgm_read_byte(at); letter != 0; letter = pgm_read_byte(++at)) put_letter(sum, letter);
    }
    const byte count = used();
    for (byte i = 0; i < count; i++) {
      if (i > 0 || picture != nullptr) put_letter(sum, '\n');
      if (line(i)[0] == 0) continue;
      if (is_large(i)) put_letter(sum, '\1');
      for (const char* at = line(i); *at != 0; at++) put_letter(sum, *at);
    }
    if (sum == said) return;
    said = sum;
    tell(F("show"), device.name(), text.letters);
  }

  static void put_letter(uint32_t& sum, char letter) {
    sum = (sum ^ byte(letter)) * 16777619UL;
    text.put(letter);
  }

  // The text at hand, over as many lines as it takes.
  void fill(bool large) {
    clear();
    const byte wide = large ? columns / 2 : columns;
    const byte step = large ? 2 : 1;
    int row = -step;
    byte size = 0;
    const char* at = text.letters;
    for (;;) {
      byte length = 0;
      while (at[length] != 0 && at[length] != ' ') length++;
      if (row >= 0 && size + 1 + length <= wide) {
        put_into(row, size, ' ', large);
        for (byte i = 0; i < length; i++) put_into(row, size, at[i], large);
      } else {
        byte from = 0;
        do {
          row += step;
          size = 0;
          for (byte i = from; i < length && i < from + wide; i++) put_into(row, size, at[i], large);
          from += wide;
        } while (from < length);
      }
      if (at[length] == 0) break;
      at += length + 1;
    }
    changed();
  }

  void put_into(int row, byte& size, char letter, bool large) {
    if (row < rows) {
      line(row)[size] = letter;
      line(row)[size + 1] = 0;
      set_large(row, large);
    }
    size++;
  }

  // The text at hand, on one line.
  void put(byte at, bool large) {
    const byte i = at - 1;
    if (i > 0 && is_large(i - 1)) line(i - 1)[0] = 0;
    if (large && i + 1 < rows) line(i + 1)[0] = 0;
    set_large(i, large);
    const byte wide = large ? columns / 2 : columns;
    strncpy(line(i), text.letters, wide);
    line(i)[wide] = 0;
    changed();
  }
};

struct Showing : Motion {
  Screen& screen;

  constexpr Showing(int line, Screen& screen) : Motion(line, &screen.device), screen(screen) {}
};

const byte SMALL = 0, LARGE = 1;

// `words` writes the text.
struct Show : Showing {
  void (*words)();
  byte size;
  Value at;

  constexpr Show(int line, Screen& screen, void (*words)(), byte size = SMALL, Value at = nullptr) : Showing(line, screen), words(words), size(size), at(at) {}

  void apply() override {
    if (at == nullptr) {
      words();
      if (!failed()) screen.fill(size);
      return;
    }
    const Number wanted = at();
    const Number line = wanted == wanted ? fmin(screen.rows, fmax(1, rounded(wanted))) : 1;
    if (!failed() && !(fabs(line - wanted) < 0.5)) clip(screen.device);
    words();
    if (!failed()) screen.put(byte(line), size);
  }
};

struct ShowPicture : Showing {
  Letters (*picture)();

  constexpr ShowPicture(int line, Screen& screen, Letters (*picture)()) : Showing(line, screen), picture(picture) {}

  void apply() override {
    screen.clear();
    screen.picture = picture();
    screen.changed();
  }
};

struct Clear : Showing {
  constexpr Clear(int line, Screen& screen) : Showing(line, screen) {}

  void apply() override {
    screen.clear();
    screen.changed();
  }
};
