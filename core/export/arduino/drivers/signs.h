// What is switched, lit or sounds.

// A magnet: whether something hangs on it is not known.
struct Transistor : Part {
  byte pin;

  constexpr Transistor(Device& device, byte pin) : Part(device), pin(pin) {}

  void begin() override { pinMode(pin, OUTPUT); }

  bool look(Number* raw) override {
    raw[0] = 0;
    raw[1] = device.told[0] != 0;
    return true;
  }

  void tell() override { digitalWrite(pin, device.told[0] != 0 ? HIGH : LOW); }
  void rest() override { digitalWrite(pin, LOW); }
};

// Red (1), green (2) and blue (4) of the colours by their number, as far as pins that are on or off go; those that were taught shine white.
const byte SHINES[] PROGMEM = {0, 0, 7, 7, 1, 3, 3, 2, 4, 5};

byte shines(Number color) { return color >= 0 && color < Number(sizeof SHINES) ? pgm_read_byte(&SHINES[byte(color)]) : 7; }

struct ThreePinLamp : Part {
  byte red;
  byte green;
  byte blue;

  constexpr ThreePinLamp(Device& device, byte red, byte green, byte blue) : Part(device), red(red), green(green), blue(blue) {}

  void begin() override {
    pinMode(red, OUTPUT);
    pinMode(green, OUTPUT);
    pinMode(blue, OUTPUT);
  }

  bool look(Number* raw) override {
    raw[0] = device.told[0];
    return true;
  }

  void shine(byte which) {
    digitalWrite(red, which & 1);
    digitalWrite(green, which >> 1 & 1);
    digitalWrite(blue, which >> 2 & 1);
  }

  void tell() override { shine(shines(device.told[0])); }
  void rest() override { shine(0); }
};

struct OnePinLamp : Part {
  byte pin;

  constexpr OnePinLamp(Device& device, byte pin) : Part(device), pin(pin) {}

  void begin() override { pinMode(pin, OUTPUT); }

  bool look(Number* raw) override {
    raw[0] = device.told[0];
    return true;
  }

  void tell() override { digitalWrite(pin, shines(device.told[0]) != 0 ? HIGH : LOW); }
  void rest() override { digitalWrite(pin, LOW); }
};

// Eight bits on a line, at 16 MHz: 1.25 us each, high for 0.4 us of a 0 and 0.9 us of a 1.
void send_bits(volatile uint8_t* port, byte mask, byte value) {
  const byte high = *port | mask;
  const byte low = *port & ~mask;
  byte left = 8;
  asm volatile(
    "1: st %a[port], %[high]\n"
    "rjmp .+0\n"
    "nop\n"
    "sbrs %[value], 7\n"
    "st %a[port], %[low]\n"
    "lsl %[value]\n"
    "rjmp .+0\n"
    "rjmp .+0\n"
    "rjmp .+0\n"
    "st %a[port], %[low]\n"
    "nop\n"
    "dec %[left]\n"
    "brne 1b\n"
    : [value] "+r"(value), [left] "+r"(left)
    : [port] "e"(port), [high] "r"(high), [low] "r"(low));
}

// A diode that is told its colour over one wire: green, red, blue.
struct DataLineLamp : Part {
  byte pin;
  byte shown = 255;

  constexpr DataLineLamp(Device& device, byte pin) : Part(device), pin(pin) {}

  void begin() override {
    pinMode(pin, OUTPUT);
    digitalWrite(pin, LOW);
    delayMicroseconds(300);
    shine(0);
  }

  bool look(Number* raw) override {
    raw[0] = device.told[0];
    return true;
  }

  void shine(byte which) {
    if (which == shown) return;
    shown = which;
    volatile uint8_t* const port = portOutputRegister(digitalPinToPort(pin));
    const byte mask = digitalPinToBitMask(pin);
    // Nothing may come between; the clock of the robot loses 30 us at most.
    noInterrupts();
    send_bits(port, mask, which & 2 ? 80 : 0);
    send_bits(port, mask, which & 1 ? 80 : 0);
    send_bits(port, mask, which & 4 ? 80 : 0);
    interrupts();
  }

  void tell() override { shine(shines(device.told[0])); }
  void rest() override { shine(0); }
};

// Told a pitch in Hz; clips do not sound.
struct Sounder : Part {
  byte pin;
  Number pitch = 0;

  constexpr Sounder(Device& device, byte pin) : Part(device), pin(pin) {}

  bool look(Number* raw) override {
    raw[0] = pitch > 0;
    return true;
  }

  void tell() override {
    if (device.told[0] == pitch) return;
    pitch = device.told[0];
    if (pitch > 0) tone(pin, unsigned(pitch + 0.5));
    else noTone(pin);
  }

  void rest() override { noTone(pin); }
};

// Letters for a display, five columns each, the top dot first, from ! to ~; drawn for this.
const byte LETTERS[] PROGMEM = {
  0x00, 0x00, 0x5f, 0x00, 0x00,  // !
  0x00, 0x03, 0x00, 0x03, 0x00,  // "
  0x22, 0x7f, 0x22, 0x7f, 0x22,  // #
  0x24, 0x2a, 0x7f, 0x2a, 0x12,  // $
  0x63, 0x13, 0x08, 0x64, 0x63,  // %
  0x36, 0x49, 0x55, 0x22, 0x50,  // &
  0x00, 0x00, 0x03, 0x00, 0x00,  // '
  0x00, 0x1c, 0x22, 0x41, 0x00,  // (
  0x00, 0x41, 0x22, 0x1c, 0x00,  // )
  0x2a, 0x1c, 0x3e, 0x1c, 0x2a,  // *
  0x08, 0x08, 0x3e, 0x08, 0x08,  // +
  0x00, 0x50, 0x30, 0x00, 0x00,  // ,
  0x08, 0x08, 0x08, 0x08, 0x08,  // -
  0x00, 0x60, 0x60, 0x00, 0x00,  // .
  0x40, 0x30, 0x08, 0x06, 0x01,  // /
  0x3e, 0x51, 0x49, 0x45, 0x3e,  // 0
  0x44, 0x42, 0x7f, 0x40, 0x40,  // 1
  0x62, 0x51, 0x49, 0x49, 0x46,  // 2
  0x21, 0x41, 0x45, 0x4b, 0x31,  // 3
  0x18, 0x14, 0x12, 0x7f, 0x10,  // 4
  0x27, 0x45, 0x45, 0x45, 0x39,  // 5
  0x3c, 0x4a, 0x49, 0x49, 0x30,  // 6
  0x01, 0x01, 0x71, 0x0d, 0x03,  // 7
  0x36, 0x49, 0x49, 0x49, 0x36,  // 8
  0x06, 0x49, 0x49, 0x29, 0x1e,  // 9
  0x00, 0x36, 0x36, 0x00, 0x00,  // :
  0x00, 0x56, 0x36, 0x00, 0x00,  // ;
  0x00, 0x08, 0x14, 0x22, 0x41,  // <
  0x14, 0x14, 0x14, 0x14, 0x14,  // =
  0x41, 0x22, 0x14, 0x08, 0x00,  // >
  0x02, 0x01, 0x51, 0x09, 0x06,  // ?
  0x3e, 0x41, 0x5d, 0x55, 0x1e,  // @
  0x7c, 0x12, 0x11, 0x12, 0x7c,  // A
  0x7f, 0x49, 0x49, 0x49, 0x36,  // B
  0x3e, 0x41, 0x41, 0x41, 0x22,  // C
  0x7f, 0x41, 0x41, 0x22, 0x1c,  // D
  0x7f, 0x49, 0x49, 0x41, 0x41,  // E
  0x7f, 0x09, 0x09, 0x01, 0x01,  // F
  0x3e, 0x41, 0x41, 0x49, 0x3a,  // G
  0x7f, 0x08, 0x08, 0x08, 0x7f,  // H
  0x00, 0x41, 0x7f, 0x41, 0x00,  // I
  0x20, 0x40, 0x41, 0x3f, 0x01,  // J
  0x7f, 0x08, 0x14, 0x22, 0x41,  // K
  0x7f, 0x40, 0x40, 0x40, 0x40,  // L
  0x7f, 0x02, 0x0c, 0x02, 0x7f,  // M
  0x7f, 0x06, 0x08, 0x30, 0x7f,  // N
  0x3e, 0x41, 0x41, 0x41, 0x3e,  // O
  0x7f, 0x09, 0x09, 0x09, 0x06,  // P
  0x3e, 0x41, 0x51, 0x21, 0x5e,  // Q
  0x7f, 0x09, 0x19, 0x29, 0x46,  // R
  0x46, 0x49, 0x49, 0x49, 0x31,  // S
  0x01, 0x01, 0x7f, 0x01, 0x01,  // T
  0x3f, 0x40, 0x40, 0x40, 0x3f,  // U
  0x0f, 0x30, 0x40, 0x30, 0x0f,  // V
  0x7f, 0x20, 0x18, 0x20, 0x7f,  // W
  0x41, 0x36, 0x08, 0x36, 0x41,  // X
  0x03, 0x04, 0x78, 0x04, 0x03,  // Y
  0x61, 0x51, 0x49, 0x45, 0x43,  // Z
  0x00, 0x7f, 0x41, 0x41, 0x00,  // [
  0x01, 0x06, 0x08, 0x30, 0x40,  // backslash
  0x00, 0x41, 0x41, 0x7f, 0x00,  // ]
  0x04, 0x02, 0x01, 0x02, 0x04,  // ^
  0x40, 0x40, 0x40, 0x40, 0x40,  // _
  0x00, 0x01, 0x02, 0x00, 0x00,  // `
  0x20, 0x54, 0x54, 0x54, 0x78,  // a
  0x7f, 0x44, 0x44, 0x44, 0x38,  // b
  0x38, 0x44, 0x44, 0x44, 0x44,  // c
  0x38, 0x44, 0x44, 0x44, 0x7f,  // d
  0x38, 0x54, 0x54, 0x54, 0x58,  // e
  0x04, 0x7e, 0x05, 0x05, 0x00,  // f
  0x0c, 0x52, 0x52, 0x52, 0x3e,  // g
  0x7f, 0x04, 0x04, 0x04, 0x78,  // h
  0x00, 0x44, 0x7d, 0x40, 0x00,  // i
  0x40, 0x40, 0x44, 0x3d, 0x00,  // j
  0x7f, 0x10, 0x28, 0x44, 0x00,  // k
  0x00, 0x41, 0x7f, 0x40, 0x00,  // l
  0x7c, 0x04, 0x78, 0x04, 0x78,  // m
  0x7c, 0x04, 0x04, 0x04, 0x78,  // n
  0x38, 0x44, 0x44, 0x44, 0x38,  // o
  0x7e, 0x12, 0x12, 0x12, 0x0c,  // p
  0x0c, 0x12, 0x12, 0x12, 0x7e,  // q
  0x7c, 0x08, 0x04, 0x04, 0x08,  // r
  0x48, 0x54, 0x54, 0x54, 0x24,  // s
  0x04, 0x3f, 0x44, 0x44, 0x00,  // t
  0x3c, 0x40, 0x40, 0x40, 0x7c,  // u
  0x0c, 0x30, 0x40, 0x30, 0x0c,  // v
  0x3c, 0x40, 0x38, 0x40, 0x3c,  // w
  0x44, 0x28, 0x10, 0x28, 0x44,  // x
  0x0e, 0x50, 0x50, 0x50, 0x3e,  // y
  0x44, 0x64, 0x54, 0x4c, 0x44,  // z
  0x00, 0x08, 0x36, 0x41, 0x41,  // {
  0x00, 0x00, 0x7f, 0x00, 0x00,  // |
  0x41, 0x41, 0x36, 0x08, 0x00,  // }
  0x18, 0x04, 0x08, 0x10, 0x0c,  // ~
};

// A display of 128 by 64 dots, by a chip of the kind of an SSD1306 (by its datasheet): letters of 6 by 8 dots, a strip of eight dots a tick where something else is to stand. Of a picture its name.
struct TextDisplay : Part {
  Screen& screen;
  byte address;
  byte next = 0;
  unsigned shown[8] = {};  // a sum of what each strip shows

  constexpr TextDisplay(Device& device, Screen& screen, byte address) : Part(device), screen(screen), address(address) {}

  // What stands in a strip: letters, their size, and which half of large ones.
  struct Row {
    const char* letters;
    bool stored;  // in the program's memory
    bool large;
    bool lower;

    char at(byte i) const { return stored ? char(pgm_read_byte(letters + i)) : letters[i]; }
  };

  Row row(byte strip) const {
    if (screen.picture != nullptr) {
      if (strip == 0) return {reinterpret_cast<const char*>(screen.picture), true, false, false};
      strip--;
    }
    if (strip >= screen.rows) return {"", false, false, false};
    const bool lower = strip > 0 && screen.line(strip)[0] == 0 && screen.is_large(strip - 1);
    const byte line = lower ? strip - 1 : strip;
    return {screen.line(line), false, screen.is_large(line), lower};
  }

  static unsigned sum_of(const Row& row) {
    unsigned sum = 1 + row.large * 2 + row.lower;
    for (byte i = 0; row.at(i) != 0; i++) sum = sum * 31 + byte(row.at(i));
    return sum;
  }

  void command(byte what) { write_register(address, 0x80, what); }

  void begin() override {
    begin_bus();
    static const byte commands[] PROGMEM = {0xae, 0x20, 0x00, 0x40, 0xa1, 0xa8, 0x3f, 0xc8, 0xd3, 0x00, 0xda, 0x12, 0xd5, 0x80, 0xd9, 0xf1, 0xdb, 0x30, 0x81, 0xff, 0xa4, 0xa6, 0x8d, 0x14, 0xaf};
    for (byte i = 0; i < sizeof commands; i++) command(pgm_read_byte(&commands[i]));
    for (byte strip = 0; strip < 8; strip++) send_strip(strip, row(strip));
  }

  bool look(Number* raw) override {
    raw[0] = device.told[0];
    return true;
  }

  void send_strip(byte strip, const Row& row) {
    shown[strip] = sum_of(row);
    command(0x21);
    command(0);
    command(127);
    command(0x22);
    command(strip);
    command(strip);
    byte letter = 0;
    byte column = 0;  // of the letter, the sixth lies between two
    bool twice = false;
    for (byte x = 0; x < 128; x++) {
      if (x % 16 == 0) {
        if (x > 0) Wire.endTransmission();
        Wire.beginTransmission(address);
        Wire.write(0x40);
      }
      const char is = row.at(letter);
      byte dots = column < 5 && is > ' ' && is <= '~' ? pgm_read_byte(&LETTERS[(is - '!') * 5 + column]) : 0;
      if (row.large) dots = doubled(row.lower ? dots >> 4 : dots & 15);
      Wire.write(dots);
      twice = row.large && !twice;
      if (twice) continue;
      if (++column < 6) continue;
      column = 0;
      if (is != 0) letter++;
    }
    Wire.endTransmission();
  }

  // Four dots as eight.
  static byte doubled(byte four) {
    byte eight = 0;
    for (byte i = 0; i < 4; i++) {
      if (four >> i & 1) eight |= 3 << 2 * i;
    }
    return eight;
  }

  void tell() override {
    const Row is = row(next);
    if (sum_of(is) != shown[next]) send_strip(next, is);
    next = (next + 1) % 8;
  }

  void rest() override {
    for (byte i = 0; i < 8; i++) tell();
  }
};
