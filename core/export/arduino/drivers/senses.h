// Switches and other parts that pull a pin down.
struct Switch : Part {
  byte pin;

  constexpr Switch(Device& device, byte pin, Number period) : Part(device, period), pin(pin) {}

  void begin() override { pinMode(pin, INPUT_PULLUP); }

  bool look(Number* raw) override {
    raw[0] = digitalRead(pin) == LOW;
    return true;
  }
};

// A sonar with a trigger and an echo: sound goes 343 m a second, there and back. Its edges are timed beside the program.
struct Echo : Part {
  byte trigger;
  byte echo;
  Number nearest;
  Number farthest;
  Echo* next = nullptr;
  volatile bool high = false;
  volatile unsigned long rose = 0;
  volatile long took = -1;  // microseconds that the latest echo was away, -1 for none
  bool sent = false;
  static Echo* first;

  constexpr Echo(Device& device, byte trigger, byte echo, Number nearest, Number farthest, Number period)
    : Part(device, period), trigger(trigger), echo(echo), nearest(nearest), farthest(farthest) {}

  void begin() override {
    pinMode(trigger, OUTPUT);
    pinMode(echo, INPUT);
    next = first;
    first = this;
    *digitalPinToPCMSK(echo) |= _BV(digitalPinToPCMSKbit(echo));
    *digitalPinToPCICR(echo) |= _BV(digitalPinToPCICRbit(echo));
  }

  void edge() {
    const unsigned long at = micros();
    const bool is = digitalRead(echo) == HIGH;
    if (is == high) return;
    high = is;
    if (is) rose = at;
    else took = long(at - rose);
  }

  // The echo of the ping before is back, or none came; then the next is sent.
  bool look(Number* raw) override {
    noInterrupts();
    const long was = took;
    took = -1;
    interrupts();
    digitalWrite(trigger, HIGH);
    delayMicroseconds(10);
    digitalWrite(trigger, LOW);
    const bool seen = sent;
    sent = true;
    const Number distance = was * 343e-6 / 2;
    raw[1] = was >= 0 && distance <= farthest;
    raw[0] = raw[1] > 0 ? fmax(distance, nearest) : INFINITY;
    return seen;
  }
};
Echo* Echo::first = nullptr;
ISR(PCINT0_vect) {
  for (Echo* echo = Echo::first; echo != nullptr; echo = echo->next) echo->edge();
}
ISR(PCINT1_vect, ISR_ALIASOF(PCINT0_vect));
ISR(PCINT2_vect, ISR_ALIASOF(PCINT0_vect));

// A voltage, by its curve: volts rising, straight in between.
struct OnCurve {
  Number volts;
  Number value;
};

Number on_curve(Number volts, const OnCurve* curve, byte count) {
  byte i = 1;
  while (i < count - 1 && volts > curve[i].volts) i++;
  const OnCurve& low = curve[i - 1];
  const OnCurve& high = curve[i];
  return low.value + (high.value - low.value) * clamp((volts - low.volts) / (high.volts - low.volts), 0, 1);
}

struct Voltage : Part {
  byte pin;
  Number supply;
  const OnCurve* curve;
  byte count;

  constexpr Voltage(Device& device, byte pin, Number supply, const OnCurve* curve, byte count, Number period) : Part(device, period), pin(pin), supply(supply), curve(curve), count(count) {}

  Number value() const { return on_curve(analogRead(pin) / 1023.0 * supply, curve, count); }

  bool look(Number* raw) override {
    raw[0] = value();
    return true;
  }
};

// A distance: beyond the curve's farthest it sees nothing.
struct FarVoltage : Voltage {
  constexpr FarVoltage(Device& device, byte pin, Number supply, const OnCurve* curve, byte count, Number period) : Voltage(device, pin, supply, curve, count, period) {}

  bool look(Number* raw) override {
    Number farthest = 0;
    for (byte i = 0; i < count; i++) farthest = fmax(farthest, curve[i].value);
    raw[0] = value();
    raw[1] = raw[0] < farthest;
    if (raw[1] == 0) raw[0] = INFINITY;
    return true;
  }
};

// On the bus.

void write_register(byte address, byte number, byte value) {
  Wire.beginTransmission(address);
  Wire.write(number);
  Wire.write(value);
  Wire.endTransmission();
}

// False where the part does not answer.
bool read_registers(byte address, byte number, byte* into, byte count) {
  Wire.beginTransmission(address);
  Wire.write(number);
  if (Wire.endTransmission(false) != 0) return false;
  if (Wire.requestFrom(address, count) != count) return false;
  for (byte i = 0; i < count; i++) into[i] = Wire.read();
  return true;
}

void begin_bus() {
  static bool begun = false;
  if (begun) return;
  begun = true;
  Wire.begin();
  Wire.setClock(400000);
}

// Turning and leaning, by a chip with the registers of an MPU-6050 (by its register map): z up, so that a turn to the left counts up.
struct RateChip : Part {
  byte address;
  Number limit;
  Number scale = 0;
  Number error = 0;
  Number turned = 0;
  Number rate = 0;
  Number tilt = 0;
  unsigned long at = 0;

  constexpr RateChip(Device& device, byte address, Number limit, Number period) : Part(device, period), address(address), limit(limit) {}

  void begin() override {
    begin_bus();
    byte choice = 0;
    while (choice < 3 && limit * 180 / M_PI > 250 << choice) choice++;
    scale = (250 << choice) / 32768.0 * M_PI / 180;
    write_register(address, 0x6B, 0);
    write_register(address, 0x1B, choice << 3);
    delay(50);
    // What it says while it stands is its own error.
    Number sum = 0;
    for (byte i = 0; i < 100; i++) {
      measure();
      sum += rate;
    }
    error = sum / 100;
    at = micros();
  }

  // What it said before stays where it does not answer.
  void measure() {
    byte data[14];
    if (!read_registers(address, 0x3B, data, 14)) return;
    Number pull[3];
    for (byte i = 0; i < 3; i++) pull[i] = int16_t(data[2 * i] << 8 | data[2 * i + 1]);
    rate = -int16_t(data[12] << 8 | data[13]) * scale;
    const Number size = sqrt(pull[0] * pull[0] + pull[1] * pull[1] + pull[2] * pull[2]);
    tilt = size > 0 ? arccosine(pull[2] / size) : 0;
  }

  bool look(Number* raw) override {
    measure();
    const unsigned long is = micros();
    const Number turning = clamp(rate - error, -limit, limit);
    turned += turning * (is - at) / 1000000;
    at = is;
    raw[0] = turned;
    raw[1] = wrapped(turned);
    raw[2] = turning;
    raw[3] = tilt;
    return true;
  }
};

// A named colour: its number, and where it is.
struct ColorPlace {
  byte index;
  Number a;
  Number b;
  Number light;
};

// Red, green, blue and all light, by a chip with the registers of a TCS34725 (by its datasheet). `WHITE`: what it counts in each over white paper, as it is mounted.
struct ColorChip : Part {
  byte address;
  const ColorPlace* places;  // in the program's memory
  byte count;
  Number farthest;
  Number margin;

  constexpr ColorChip(Device& device, byte address, const ColorPlace* places, byte count, Number farthest, Number margin, Number period)
    : Part(device, period), address(address), places(places), count(count), farthest(farthest), margin(margin) {}

  void begin() override {
    begin_bus();
    write_register(address, 0x81, 0xF6);
    write_register(address, 0x8F, 0x01);
    write_register(address, 0x80, 0x03);
  }

  bool look(Number* raw) override {
    byte data[6];
    if (!read_registers(address, 0xB6, data, 6)) return false;
    Number rgb[3];
    for (byte i = 0; i < 3; i++) rgb[i] = clamp(Number(unsigned(data[2 * i]) | unsigned(data[2 * i + 1]) << 8) / WHITE[i] * 0.9, 0, 1);
    const Number high = fmax(rgb[0], fmax(rgb[1], rgb[2]));
    const Number spread = high - fmin(rgb[0], fmin(rgb[1], rgb[2]));
    Number hue = 0;
    if (spread > 0) hue = high == rgb[0] ? fmod((rgb[1] - rgb[2]) / spread + 6, 6) : high == rgb[1] ? (rgb[2] - rgb[0]) / spread + 2 : (rgb[0] - rgb[1]) / spread + 4;
    raw[1] = hue * M_PI / 3;
    raw[2] = (rgb[0] + rgb[1] + rgb[2]) / 3;
    raw[0] = raw[2] < 0.028 ? 0 : name_of(raw[1], high > 0 ? spread / high * fmin(1, high / 0.2) : 0, high);
    return true;
  }

  // The number of the nearest named colour; 0 where two are almost as near, or none is.
  Number name_of(Number hue, Number strong, Number bright) const {
    const Number a = strong * cos(hue);
    const Number b = strong * sin(hue);
    const Number light = sqrt(bright) * 0.8;
    Number nearest = INFINITY;
    Number second = INFINITY;
    byte found = 0;
    for (byte i = 0; i < count; i++) {
      ColorPlace place;
      memcpy_P(&place, &places[i], sizeof place);
      const Number away = sqrt((a - place.a) * (a - place.a) + (b - place.b) * (b - place.b) + (light - place.light) * (light - place.light));
      if (away < nearest) {
        second = nearest;
        nearest = away;
        found = place.index;
      } else if (away < second) {
        second = away;
      }
    }
    return nearest > farthest || nearest > margin * second ? 0 : found;
  }
};

// A sonar that measures by itself, with the registers of an SRF02 (by its data sheet): centimetres, 65 ms after it was asked.
struct RangingChip : Part {
  byte address;
  Number nearest;
  Number farthest;
  bool asked = false;

  constexpr RangingChip(Device& device, byte address, Number nearest, Number farthest, Number period) : Part(device, fmax(period, 0.07)), address(address), nearest(nearest), farthest(farthest) {}

  void begin() override { begin_bus(); }

  bool look(Number* raw) override {
    byte data[2];
    const bool read = asked && read_registers(address, 2, data, 2);
    const Number distance = read ? (unsigned(data[0]) << 8 | data[1]) * 0.01 : 0;
    raw[1] = distance > 0 && distance <= farthest;
    raw[0] = raw[1] > 0 ? fmax(distance, nearest) : INFINITY;
    write_register(address, 0, 0x51);
    asked = true;
    return read;
  }
};

// Light there and back, timed by a chip with the registers of a VL53L0X (those that its maker's own driver goes by), one measurement after another: millimetres.
// `shut`: the pin that keeps it still until those before it have left the address at which all of them wake; NO_PIN where it stays there.
#define NO_PIN 255
#define WAKES_AT 0x29
struct FlashChip : Part {
  byte address;
  Number nearest;
  Number farthest;
  byte shut;
  bool asked = false;

  constexpr FlashChip(Device& device, byte address, Number nearest, Number farthest, Number period, byte shut) : Part(device, period), address(address), nearest(nearest), farthest(farthest), shut(shut) {}

  void begin() override {
    begin_bus();
    if (shut == NO_PIN) return;
    pinMode(shut, OUTPUT);
    digitalWrite(shut, LOW);
  }

  void wake() const {
    digitalWrite(shut, HIGH);
    delay(2);
    write_register(WAKES_AT, 0x8A, address);
  }

  // How it went, and behind it how far.
  bool look(Number* raw) override {
    if (!asked) {
      if (shut != NO_PIN) wake();
      ask();
      return false;
    }
    byte data[12];
    if (!read_registers(address, 0x14, data, 12) || !(data[0] & 1)) return false;
    ask();
    const Number distance = (unsigned(data[10]) << 8 | data[11]) * 0.001;
    raw[1] = (data[0] >> 3 & 15) == 11 && distance <= farthest;
    raw[0] = raw[1] > 0 ? fmax(distance, nearest) : INFINITY;
    return true;
  }

  void ask() {
    write_register(address, 0x0B, 1);
    write_register(address, 0x00, 1);
    asked = true;
  }
};
