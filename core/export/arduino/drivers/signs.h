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
