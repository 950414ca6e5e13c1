// What the steps of a program do to the devices that they move.

// The two wheels: metres, metres a second, radians a second. What is known of their drive: DRIVE_TRACK, DRIVE_CRUISE, DRIVE_TURNING, DRIVE_ACCELERATION.

// How far the robot has turned: by its gyro, else by its wheels.
Number drive_turned();

const byte SPEED_NOW = 0, TRAVEL = 1, RATE_NOW = 4;  // what the wheels read

const byte BRAKE = 0, COAST = 1, SPEED = 2, POWER = 3;

void tell_wheels(Device* wheels, byte how, Number left, Number right) {
  if (failed()) return;
  wheels->told[0] = how;
  wheels->told[1] = left;
  wheels->told[2] = right;
}

void steer(Device* wheels, Number speed, Number right) {
  const Number bend = right * DRIVE_TRACK / 2;
  tell_wheels(wheels, SPEED, speed + bend, speed - bend);
}

// How fast what is left is closed: fast, then braking, then gently, but never so slowly that motors stick.
Number closing(Number left, Number fastest, Number braking, Number slowest) {
  const Number size = fabs(left);
  const Number speed = fmin(fabs(fastest), fmax(slowest, fmin(sqrt(2 * braking * size), size * 7)));
  return left < 0 ? -speed : speed;
}

// How it drives.
const byte FORWARDS = 0, BACK = 1, HOLDING = 2;

// `bend`: its turn beside, right positive. `heading`: the one that it holds, else that in which it begins.
struct Rolling : Motion {
  byte how;
  Value amount;
  Value bend;
  Value heading;
  Number holds = 0;

  constexpr Rolling(int line, Device& wheels, byte how, Value amount, Value bend, Value heading) : Motion(line, &wheels), how(how), amount(amount), bend(bend), heading(heading) {}

  Number way(Number x) const { return how & BACK ? -x : x; }

  void begin_bend() {
    if (!(how & HOLDING)) return;
    const Number turned = drive_turned();
    holds = heading == nullptr ? turned : turned + wrapped(heading() - wrapped(turned));
  }

  Number rate() const {
    const Number rate = bend == nullptr ? 0 : bend();
    return how & HOLDING ? rate + clamp((holds - drive_turned()) * 4, -2, 2) : rate;
  }
};

struct DriveAt : Rolling {
  constexpr DriveAt(int line, Device& wheels, byte how, Value amount, Value bend = nullptr, Value heading = nullptr) : Rolling(line, wheels, how, amount, bend, heading) {}

  bool begin() override {
    begin_bend();
    return true;
  }

  void apply() override {
    const Number speed = way(amount());
    steer(device, speed, rate());
  }
};

struct DriveBy : Rolling {
  Value speed;
  Number end = 0;
  bool there = false;

  constexpr DriveBy(int line, Device& wheels, byte how, Value amount, Value speed = nullptr, Value bend = nullptr, Value heading = nullptr) : Rolling(line, wheels, how, amount, bend, heading), speed(speed) {}

  bool begin() override {
    const Number length = way(amount());
    begin_bend();
    end = device->raw(TRAVEL) + length;
    there = false;
    return fabs(length) > 0;
  }

  void apply() override {
    const Number left = end - device->raw(TRAVEL);
    const Number fastest = speed == nullptr ? DRIVE_CRUISE : speed();
    if (fabs(left) <= 0.0015) there = true;
    if (there) steer(device, 0, 0);
    else steer(device, closing(left, fastest, DRIVE_ACCELERATION, 0.02), rate());
  }

  bool done() override { return there && fabs(device->raw(SPEED_NOW)) < 0.01; }
};

struct TurnAt : Motion {
  Value amount;

  constexpr TurnAt(int line, Device& wheels, Value amount) : Motion(line, &wheels), amount(amount) {}

  void apply() override { steer(device, 0, amount()); }
};

struct TurnBy : Motion {
  Value amount;
  Value speed;
  Number end = 0;
  bool there = false;

  constexpr TurnBy(int line, Device& wheels, Value amount, Value speed = nullptr) : Motion(line, &wheels), amount(amount), speed(speed) {}

  virtual Number angle() { return amount(); }

  bool begin() override {
    const Number by = angle();
    end = drive_turned() + by;
    there = false;
    return fabs(by) > 0;
  }

  void apply() override {
    const Number left = end - drive_turned();
    if (fabs(left) <= 0.6 * M_PI / 180) there = true;
    if (there) steer(device, 0, 0);
    else steer(device, 0, closing(left, speed == nullptr ? DRIVE_TURNING : speed(), 2 * DRIVE_ACCELERATION / DRIVE_TRACK, 0.04 / DRIVE_TRACK));
  }

  bool done() override { return there && fabs(device->raw(RATE_NOW)) * DRIVE_TRACK < 0.02; }
};

struct TurnTo : TurnBy {
  constexpr TurnTo(int line, Device& wheels, Value amount, Value speed = nullptr) : TurnBy(line, wheels, amount, speed) {}

  Number angle() override { return wrapped(amount() - wrapped(drive_turned())); }
};

struct Wheels : Motion {
  byte how;
  Value left;
  Value right;

  constexpr Wheels(int line, Device& wheels, byte how, Value left, Value right) : Motion(line, &wheels), how(how), left(left), right(right) {}

  void apply() override {
    const Number first = left();
    tell_wheels(device, how, first, right());
  }
};

struct Rest : Motion {
  byte how;

  constexpr Rest(int line, Device& wheels, byte how) : Motion(line, &wheels), how(how) {}

  void apply() override { tell_wheels(device, how, 0, 0); }
};

// Motors by themselves.

const byte MOTOR_BRAKE = 0, MOTOR_POWER = 1, MOTOR_SPEED = 2;

const Number MOTOR_CLOSING = 3;  // how hard the last stretch is closed, per second

const Number MOTOR_CREEP = 0.01;  // the slowest approach, as a share of full speed

struct Run : Motion {
  byte how;
  Value amount;

  constexpr Run(int line, Device& device, byte how, Value amount) : Motion(line, &device), how(how), amount(amount) {}

  void apply() override {
    const Number x = amount();
    if (failed()) return;
    device->told[0] = how;
    device->told[1] = x;
  }
};

// `full`: its full speed. `near`: when it is there. A motor reads its angle, its speed, and whether it moves.
struct RunBy : Motion {
  Value amount;
  Value speed;
  Number full;
  Number near;
  Number end = 0;
  bool there = false;

  constexpr RunBy(int line, Device& device, Value amount, Number full, Number near, Value speed = nullptr)
    : Motion(line, &device), amount(amount), speed(speed), full(full), near(near) {}

  bool begin() override {
    const Number by = amount();
    end = device->raw(0) + by;
    there = false;
    return by != 0;
  }

  void apply() override {
    const Number left = end - device->raw(0);
    if (fabs(left) <= near) there = true;
    if (there) {
      device->told[0] = MOTOR_BRAKE;
      return;
    }
    const Number fastest = speed == nullptr ? full : speed();
    if (failed()) return;
    device->told[0] = MOTOR_SPEED;
    device->told[1] = sign(left) * fmin(fabs(fastest), fmax(full * MOTOR_CREEP, fabs(left) * MOTOR_CLOSING));
  }

  bool done() override { return there && device->raw(2) == 0; }
};

struct StopMotor : Motion {
  constexpr StopMotor(int line, Device& device) : Motion(line, &device) {}

  void apply() override { device->told[0] = MOTOR_BRAKE; }
};

// Joints: what to do (0 hold, 1 go home), where to, how fast. Their first reading is where they are.

// Where a joint can go, and how fast.
struct Ends {
  Number low;
  Number high;
  Number speed;
};

void aim(Device& device, Number target, Number speed, const Ends& ends) {
  if (failed()) return;
  device.told[0] = 0;
  device.told[1] = clamp(target, ends.low, ends.high);
  device.told[2] = speed;
  device.readings[device.says_moving] = 1;
}

// How it goes: on without waiting; by so much from where it was sent last, so that several add up.
const byte TO = 0, WITHOUT_WAITING = 1, BY = 2;

struct MoveTo : Motion {
  byte how;
  Value target;
  Value speed;
  Value near;
  const Ends& ends;
  Number end = 0;
  long began = 0;

  constexpr MoveTo(int line, Device& device, const Ends& ends, byte how, Value target, Value speed = nullptr, Value near = nullptr)
    : Motion(line, &device), how(how), target(target), speed(speed), near(near), ends(ends) {}

  Number where() const { return how & BY ? device->told[1] + target() : target(); }

  bool begin() override {
    end = where();
    began = now.tick;
    return true;
  }

  void apply() override {
    const Number to = how & WITHOUT_WAITING ? where() : end;
    if (failed()) return;
    if ((to < ends.low - 1e-6 || to > ends.high + 1e-6) && now.tick == began) clip(*device);
    aim(*device, to, speed == nullptr ? ends.speed : speed(), ends);
  }

  bool done() override {
    if ((how & WITHOUT_WAITING) || now.tick <= began) return false;
    return !device->moves || (near != nullptr && fabs(device->raw(0) - clamp(end, ends.low, ends.high)) <= fabs(near()));
  }
};

struct StopJoint : Motion {
  const Ends& ends;

  constexpr StopJoint(int line, Device& device, const Ends& ends) : Motion(line, &device), ends(ends) {}

  void apply() override { aim(*device, device->raw(0), ends.speed, ends); }
};

struct Home : Motion {
  Number home;
  Number speed;
  long began = 0;

  constexpr Home(int line, Device& device, Number home, Number speed) : Motion(line, &device), home(home), speed(speed) {}

  bool begin() override {
    began = now.tick;
    device->told[0] = 0;
    return true;
  }

  void apply() override {
    if (now.tick > began) device->told[0] = 1;
    device->told[1] = home;
    device->told[2] = speed;
    device->readings[device->says_moving] = 1;
  }

  bool done() override { return now.tick > began + 2 && !device->moves; }
};

// Where a joint goes in a pose.
struct JointTo {
  Device* device;
  Number target;
  const Ends* ends;
};

// After how long, and its joints.
struct Pose {
  Number after;
  const JointTo* joints;
  byte count;
};

struct Perform : Motion {
  Device* const* parts;
  byte parts_count;
  const Pose* poses;
  byte count;
  Value speed;
  long began = 0;
  byte next = 0;
  Number times = 1;

  constexpr Perform(int line, Device* const* parts, byte parts_count, const Pose* poses, byte count, Value speed = nullptr)
    : Motion(line, nullptr), parts(parts), parts_count(parts_count), poses(poses), count(count), speed(speed) {}

  byte many() const override { return parts_count; }
  Device& part(byte i) const override { return *parts[i]; }

  bool begin() override {
    began = now.tick;
    next = 0;
    times = fmax(0.05, speed == nullptr ? 1 : speed());
    return count > 0;
  }

  void apply() override {
    for (; next < count; next++) {
      const Number after = poses[next].after;
      if ((now.tick - began) * TICK * times < after - (sizeof(Number) > 4 ? 1e-9 : 1e-6)) return;
      const Number following = next + 1 < count ? poses[next + 1].after : after;
      const Number seconds = (following - after) / times;
      for (byte i = 0; i < poses[next].count; i++) {
        const JointTo& joint = poses[next].joints[i];
        const Number full = joint.ends->speed;
        const Number way = fabs(joint.target - joint.device->raw(0));
        aim(*joint.device, joint.target, seconds > 0 ? fmin(full, fmax(way / seconds, 0.02 * full)) : full, *joint.ends);
      }
    }
  }

  bool done() override {
    if (next < count || now.tick <= began + 1) return false;
    for (byte i = 0; i < parts_count; i++) {
      if (parts[i]->moves) return false;
    }
    return true;
  }
};

// Claws, magnets, lamps, the horn.

const byte OPEN = 1, CLOSE = 2;

struct Jaws : Motion {
  byte how;
  long began = 0;

  constexpr Jaws(int line, Device& device, byte how) : Motion(line, &device), how(how) {}

  bool begin() override {
    began = now.tick;
    return true;
  }

  void apply() override {
    device->told[0] = how;
    device->readings[device->says_moving] = 1;
  }

  bool done() override { return now.tick > began + 1 && !device->moves; }
};

// One that is told a number.
struct Set : Motion {
  Value amount;

  constexpr Set(int line, Device& device, Value amount) : Motion(line, &device), amount(amount) {}

  void apply() override {
    const Number x = amount();
    if (!failed()) device->told[0] = x;
  }
};

// A clip, by its number from 1, and how long it lasts.
struct Play : Motion {
  byte which;
  Number seconds;
  long end = 0;

  constexpr Play(int line, Device& device, byte which, Number seconds) : Motion(line, &device), which(which), seconds(seconds) {}

  bool begin() override {
    end = now.tick + long(ceil(seconds / TICK));
    return true;
  }

  void apply() override { device->told[1] = which; }
  bool done() override { return now.tick >= end; }
};

struct PlayBeside : Motion {
  byte which;
  Number seconds;

  constexpr PlayBeside(int line, Device& device, byte which, Number seconds) : Motion(line, &device), which(which), seconds(seconds) {}

  void apply() override {
    device->told[2] = which;
    device->told[3] = now.tick + ceil(seconds / TICK);
  }
};

// Waits until a device has looked anew.
struct Look : Motion {
  const Device* seen;
  long began = 0;

  constexpr Look(int line, Device& device) : Motion(line, nullptr), seen(&device) {}

  bool begin() override {
    began = now.tick;
    return true;
  }

  bool done() override { return seen->began > began; }
};
