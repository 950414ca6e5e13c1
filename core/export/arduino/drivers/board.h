// How the parts of the robot are reached: pins, pulses, a bus.

// `look` writes what a part reads in this tick, or says that it has nothing new; `tell` passes on what its device is told.
struct Part {
  Device& device;
  Number period;  // seconds from look to look, 0 for every tick
  long due = 0;  // the tick of its next look
  bool still = true;  // whether it stands, where it moves

  constexpr Part(Device& device, Number period = 0) : device(device), period(period) {}

  virtual void begin() {}
  virtual bool look(Number*) { return false; }
  virtual void tell() {}
  virtual void rest() {}
};

extern Part* const parts[PARTS];

// The most that a part reads.
const byte MOST_READINGS = 16;

bool look_at(Part& part) {
  Number raw[MOST_READINGS];
  if (!part.look(raw)) return false;
  part.device.looks++;
  part.device.take(raw);
  return true;
}

// What is told over the serial line: notes as they come, and with `report` a line for each tick.
bool report = false;

unsigned long late_ticks = 0;  // that took longer than they may

void say(Letters kind, Letters about, const char* text) {
  Serial.print(kind);
  Serial.print(' ');
  Serial.print(about);
  Serial.print(F(": "));
  Serial.println(text);
}

void print_number(Number x) {
  Serial.print(' ');
  TEXT << exact(x);
  Serial.print(text.letters);
}

void print_tick() {
  Serial.print(F("tick "));
  Serial.print(now.tick);
  Serial.print(F(" |"));
  for (Lane* lane : lanes) {
    Serial.print(' ');
    if (lane->control == nullptr) Serial.print('-');
    else Serial.print(lane->control->line);
  }
  for (byte told = 0; told < 2; told++) {
    Serial.print(F(" |"));
    bool first = true;
    for (Device* device : devices) {
      const byte count = told ? device->tells : device->reads;
      if (count == 0) continue;
      Serial.print(first ? F(" ") : F("; "));
      first = false;
      Serial.print(device->name());
      if (!told && device->began == now.tick) Serial.print('*');
      for (byte i = 0; i < count; i++) print_number(told ? device->told[i] : device->raw(i));
    }
  }
  Serial.println();
}

bool running = true;

void stop_robot() {
  for (Part* part : parts) part->rest();
  running = false;
  Serial.print(F("late ticks: "));
  Serial.println(late_ticks);
}

// Before the first tick every part has looked once: a sonar's first ping has to come back.
void begin_robot() {
  Serial.begin(115200);
  begin_program();
  now.tell = say;
  for (Part* part : parts) part->begin();
  unsigned long waiting = ~0UL;
  for (byte round = 0; round < 4 && waiting != 0; round++) {
    if (round > 0) delay(80);
    for (byte i = 0; i < PARTS; i++) {
      if ((waiting >> i & 1) && look_at(*parts[i])) waiting &= ~(1UL << i);
    }
    waiting &= (1UL << PARTS) - 1;
  }
}

// Nothing to do up to an instant: the chip sleeps, and clocks and edges wake it.
void wait_for(unsigned long until) {
  while (long(until - micros()) > 0) {
#ifdef __AVR__
    set_sleep_mode(SLEEP_MODE_IDLE);
    sleep_mode();
#endif
  }
}

// One tick, and what is left of its time. Over the serial line: `s` stops the robot, `r` begins and ends a line for each tick.
void run_robot() {
  static unsigned long begun = micros();
  if (!running) return;
  const int key = Serial.read();
  if (key == 'r') report = !report;
  const long tick = now.tick + 1;
  now.still = true;
  for (Part* part : parts) {
    if (part->period == 0 || tick >= part->due) {
      part->due = tick + long(ticks(part->period));
      if (look_at(*part)) part->device.began = tick;
    }
    now.still = now.still && part->still;
  }
  run_tick();
  for (Part* part : parts) part->tell();
  if (report) print_tick();
  if (key == 's' || now.finished || is_over()) {
    stop_robot();
    return;
  }
  begun += long(TICK * 1000000);
  if (long(begun - micros()) > 0) {
    wait_for(begun);
  } else {
    late_ticks++;
    if (long(micros() - begun) > long(TICK * 1000000)) begun = micros();
  }
}

// A part that the board does not have, or that this does not drive: it sees nothing and takes no part.
struct Nothing : Part {
  unsigned far;  // which readings have no echo, a bit each

  constexpr Nothing(Device& device, unsigned far) : Part(device), far(far) {}

  bool look(Number* raw) override {
    for (byte i = 0; i < device.reads; i++) raw[i] = far >> i & 1 ? INFINITY : 0;
    return true;
  }
};
