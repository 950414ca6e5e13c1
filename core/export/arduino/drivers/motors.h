// Motors. A share of full power from -1 to 1 goes to pins.

struct Motor {
  virtual void begin() = 0;
  virtual void give(Number share) = 0;
  virtual void brake() { give(0); }
  virtual void coast() { give(0); }
};

struct PinAndDirection : Motor {
  byte power;
  byte direction;

  constexpr PinAndDirection(byte power, byte direction) : power(power), direction(direction) {}

  void begin() override {
    pinMode(power, OUTPUT);
    pinMode(direction, OUTPUT);
    give(0);
  }

  void give(Number share) override {
    digitalWrite(direction, share < 0 ? HIGH : LOW);
    analogWrite(power, int(fmin(fabs(share), 1) * 255 + 0.5));
  }
};

struct TwoPins : Motor {
  byte forwards;
  byte backwards;

  constexpr TwoPins(byte forwards, byte backwards) : forwards(forwards), backwards(backwards) {}

  void begin() override {
    pinMode(forwards, OUTPUT);
    pinMode(backwards, OUTPUT);
    coast();
  }

  void both(int first, int second) {
    analogWrite(forwards, first);
    analogWrite(backwards, second);
  }

  void give(Number share) override {
    const int duty = int(fmin(fabs(share), 1) * 255 + 0.5);
    both(share < 0 ? 0 : duty, share < 0 ? duty : 0);
  }

  void brake() override { both(255, 255); }
  void coast() override { both(0, 0); }
};

// Both edges of `a` count; forwards, `a` goes before `b`.
struct Encoder {
  byte a;
  byte b;
  Number angle_of_one;
  void (*edge)();
  volatile long count = 0;

  constexpr Encoder(byte a, byte b, Number counts, void (*edge)()) : a(a), b(b), angle_of_one(2 * M_PI / counts), edge(edge) {}

  void begin() {
    pinMode(a, INPUT_PULLUP);
    pinMode(b, INPUT_PULLUP);
    attachInterrupt(digitalPinToInterrupt(a), edge, CHANGE);
  }

  void count_edge() { count += digitalRead(a) != digitalRead(b) ? 1 : -1; }

  Number angle() const {
    noInterrupts();
    const long counted = count;
    interrupts();
    return counted * angle_of_one;
  }
};

// A motor that is told a power, or a speed that a regulator keeps. Radians a second. Without an encoder it is taken to turn as it is told.
struct Shaft {
  Motor& motor;
  Encoder* encoder;
  Number top;
  Number acceleration;
  Number dead;  // share of power below which it does not turn
  Number angle = 0;
  Number speed = 0;
  Number before[3] = {};  // angles of the latest ticks: one alone says too little of the speed
  Number target = 0;
  Number sum = 0;
  Number power = 0;
  byte stands = 0;  // ticks

  constexpr Shaft(Motor& motor, Encoder* encoder, Number top, Number acceleration, Number dead = 0.05) : motor(motor), encoder(encoder), top(top), acceleration(acceleration), dead(dead) {}

  void begin() {
    motor.begin();
    if (encoder != nullptr) encoder->begin();
  }

  void look() {
    angle = encoder == nullptr ? angle + power * top * TICK : encoder->angle();
    speed = (angle - before[0]) / (3 * TICK);
    before[0] = before[1];
    before[1] = before[2];
    before[2] = angle;
    if (fabs(power) <= 0.25 || fabs(speed) >= 0.02 * top) stands = 0;
    else if (stands < 255) stands++;
  }

  bool stalled() const { return stands * TICK > 0.2; }

  void give(Number share) {
    power = share;
    motor.give(share);
  }

  void keep(Number wanted) {
    const Number step = acceleration * TICK;
    target = clamp(clamp(wanted, -top, top), target - step, target + step);
    if (target == 0 && wanted == 0) {
      brake();
      return;
    }
    const Number error = (target - speed) / top;
    sum = clamp(sum + error * 4 * TICK, -1, 1);
    give(clamp(target / top + sign(target) * dead + error + sum, -1, 1));
  }

  void brake() {
    power = sum = 0;
    target = fabs(speed) > 0.05 * top ? speed : 0;
    motor.brake();
  }

  void coast() {
    power = sum = 0;
    target = speed;
    motor.coast();
  }
};

// Two wheels: metres and metres a second on the floor.
struct WheelPair : Part {
  Shaft& left;
  Shaft& right;
  Number radius;
  Number track;

  constexpr WheelPair(Device& device, Shaft& left, Shaft& right, Number radius, Number track) : Part(device), left(left), right(right), radius(radius), track(track) {}

  void begin() override {
    left.begin();
    right.begin();
  }

  bool look(Number* raw) override {
    left.look();
    right.look();
    const Number speed = (left.speed + right.speed) / 2 * radius;
    const Number rate = (left.speed - right.speed) * radius / track;
    still = fabs(speed) < 0.003 && fabs(rate) * track < 0.006;
    raw[0] = speed;
    raw[1] = (left.angle + right.angle) / 2 * radius;
    raw[2] = left.stalled() || right.stalled();
    raw[3] = (left.angle - right.angle) * radius / track;
    raw[4] = rate;
    return true;
  }

  void tell_one(Shaft& shaft, Number amount) {
    const byte how = device.told[0];
    if (how == 2) {
      shaft.keep(amount / radius);
    } else if (how == 3) {
      shaft.target = shaft.speed;
      shaft.give(clamp(amount, -1, 1));
    } else if (how == 1) {
      shaft.coast();
    } else {
      shaft.brake();
    }
  }

  void tell() override {
    tell_one(left, device.told[1]);
    tell_one(right, device.told[2]);
  }

  void rest() override {
    left.brake();
    right.brake();
  }
};

// A motor by itself.
struct Turning : Part {
  Shaft& shaft;

  constexpr Turning(Device& device, Shaft& shaft) : Part(device), shaft(shaft) {}

  void begin() override { shaft.begin(); }

  bool look(Number* raw) override {
    shaft.look();
    still = fabs(shaft.speed) <= 0.02 * shaft.top;
    raw[0] = shaft.angle;
    raw[1] = shaft.speed;
    raw[2] = !still;
    return true;
  }

  void tell() override {
    const byte how = device.told[0];
    if (how == 2) shaft.keep(device.told[1]);
    else if (how == 1) shaft.give(clamp(device.told[1], -1, 1));
    else shaft.brake();
  }

  void rest() override { shaft.brake(); }
};

// Servos: a pulse of 1 ms is one end, of 2 ms the other, fifty a second, one servo after another. Timer 1 counts half microseconds.
struct Servo {
  byte pin;
  Number low;
  Number high;
  volatile unsigned width = 3000;
  static byte count;
  static byte at;  // which has its pulse; as many as there are: none
  static unsigned spent;
  static Servo* all[8];

  constexpr Servo(byte pin, Number low, Number high) : pin(pin), low(low), high(high) {}

  void begin() {
    pinMode(pin, OUTPUT);
    all[count++] = this;
    if (count > 1) return;
    noInterrupts();
    TCCR1A = 0;
    TCCR1B = _BV(CS11);
    TCNT1 = 0;
    OCR1A = 100;
    TIMSK1 = _BV(OCIE1A);
    interrupts();
  }

  void go(Number to) {
    const unsigned wanted = 2000 + unsigned(clamp((to - low) / (high - low), 0, 1) * 2000 + 0.5);
    noInterrupts();
    width = wanted;
    interrupts();
  }

  static void next_pulse() {
    if (at < count) digitalWrite(all[at]->pin, LOW);
    at = at < count ? at + 1 : 0;
    if (at == 0) spent = 0;
    unsigned time = 40000 - spent;
    if (at < count) {
      digitalWrite(all[at]->pin, HIGH);
      time = all[at]->width;
      spent += time;
    }
    OCR1A += time;
  }
};
byte Servo::count = 0;
byte Servo::at = 255;
unsigned Servo::spent = 0;
Servo* Servo::all[8];
ISR(TIMER1_COMPA_vect) { Servo::next_pulse(); }

// What goes to a place at a speed, and tells where it was told to be.
struct Sliding : Part {
  Servo& servo;
  Number at;
  Number target;
  Number speed;

  constexpr Sliding(Device& device, Servo& servo, Number at, Number speed) : Part(device), servo(servo), at(at), target(at), speed(speed) {}

  void begin() override {
    servo.go(at);
    servo.begin();
  }

  void step() {
    const Number way = speed * TICK;
    at = clamp(target, at - way, at + way);
    servo.go(at);
    still = at == target;
  }
};

// Told to hold (0) or to go home (1), where to, and how fast.
struct ServoJoint : Sliding {
  Number home;
  Number full;

  constexpr ServoJoint(Device& device, Servo& servo, Number at, Number speed, Number home) : Sliding(device, servo, at, speed), home(home), full(speed) {}

  bool look(Number* raw) override {
    step();
    raw[0] = at;
    raw[1] = !still;
    raw[2] = 0;
    return true;
  }

  void tell() override {
    target = device.told[0] == 1 ? home : device.told[1];
    speed = clamp(fabs(device.told[2]), 0.02 * full, full);
  }
};

// Told to rest (0), to open (1) or to close (2). Whether it holds something is not known.
struct ServoClaw : Sliding {
  Number opening;

  constexpr ServoClaw(Device& device, Servo& servo, Number opening, Number speed) : Sliding(device, servo, 0, speed), opening(opening) {}

  bool look(Number* raw) override {
    step();
    raw[0] = at;
    raw[1] = 0;
    raw[2] = !still;
    raw[3] = 0;
    return true;
  }

  void tell() override {
    if (device.told[0] == 1) target = opening;
    else if (device.told[0] == 2) target = 0;
  }
};

// What a motor moves between two ends. Its shaft turns in their unit; at the start it is taken to be where the simulator has it.
struct Geared : Part {
  Shaft& shaft;
  Number low;
  Number high;
  Number zero;  // where it is when nothing is counted
  Number at;
  Number target;
  Number speed;

  constexpr Geared(Device& device, Shaft& shaft, Number low, Number high, Number start) : Part(device), shaft(shaft), low(low), high(high), zero(start), at(start), target(start), speed(shaft.top) {}

  void begin() override { shaft.begin(); }

  void step() {
    shaft.look();
    at = zero + shaft.angle;
  }

  Number near() const { return (high - low) / 200; }
  bool away() const { return fabs(target - at) > 2 * near() || fabs(shaft.speed) > 0.02 * shaft.top; }

  // Where it is there it is let go, and taken up again when it gives way.
  void go() {
    const Number left = target - at;
    if (fabs(left) < near()) shaft.brake();
    else shaft.keep(clamp(5 * left, -speed, speed));
  }

  void rest() override { shaft.brake(); }
};

// Told to hold (0) or to go home (1), where to, and how fast. To go home it looks for its nearer end first: there it is blocked.
struct MotorJoint : Geared {
  Number home;
  byte homing = 0;  // 1 on its way to the end, 2 found

  constexpr MotorJoint(Device& device, Shaft& shaft, Number low, Number high, Number start, Number home) : Geared(device, shaft, low, high, start), home(home) {}

  bool homes_low() const { return fabs(home - low) <= fabs(high - home); }

  bool look(Number* raw) override {
    step();
    bool blocked = shaft.stalled();
    if (homing == 1 && blocked) {
      const Number end = homes_low() ? low : high;
      zero += end - at;
      at = end;
      homing = 2;
      target = home;
      blocked = false;
    }
    still = homing != 1 && !away();
    raw[0] = at;
    raw[1] = !still;
    raw[2] = blocked && homing != 1;
    return true;
  }

  void tell() override {
    speed = clamp(fabs(device.told[2]), 0.02 * shaft.top, shaft.top);
    if (device.told[0] != 1) {
      homing = 0;
      target = clamp(device.told[1], low, high);
    } else if (homing == 0) {
      homing = 1;
    }
    if (homing == 1) shaft.keep((homes_low() ? -0.3 : 0.3) * shaft.top);
    else go();
  }
};

// Told to rest (0), to open (1) or to close (2). Where it is blocked as it closes, something is between its jaws, and it keeps pressing.
struct MotorClaw : Geared {
  bool grips = false;

  constexpr MotorClaw(Device& device, Shaft& shaft, Number opening) : Geared(device, shaft, 0, opening, opening) {}

  bool look(Number* raw) override {
    step();
    if (target == low && shaft.stalled()) grips = true;
    still = grips || !away();
    raw[0] = at;
    raw[1] = grips && at > 4 * near();
    raw[2] = !still;
    raw[3] = 0;
    return true;
  }

  void tell() override {
    const byte how = device.told[0];
    if (how == 0) {
      shaft.brake();
      return;
    }
    target = how == 1 ? high : low;
    grips = grips && how == 2;
    if (grips) shaft.give(-0.25);
    else go();
  }
};
