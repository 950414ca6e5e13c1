# Motors. A share of full power from -1 to 1 goes to pins.


class PinAndDirection:
    def __init__(self, power, direction):
        self.power = machine.PWM(machine.Pin(power), freq=1000, duty_u16=0)
        self.direction = machine.Pin(direction, machine.Pin.OUT, value=0)

    def give(self, share):
        self.direction.value(1 if share < 0 else 0)
        self.power.duty_u16(int(min(abs(share), 1.0) * 65535))

    def brake(self):
        self.give(0.0)

    def coast(self):
        self.give(0.0)


class TwoPins:
    def __init__(self, forwards, backwards):
        self.forwards = machine.PWM(machine.Pin(forwards), freq=1000, duty_u16=0)
        self.backwards = machine.PWM(machine.Pin(backwards), freq=1000, duty_u16=0)

    def both(self, forwards, backwards):
        self.forwards.duty_u16(forwards)
        self.backwards.duty_u16(backwards)

    def give(self, share):
        duty = int(min(abs(share), 1.0) * 65535)
        self.both(0 if share < 0 else duty, duty if share < 0 else 0)

    def brake(self):
        self.both(65535, 65535)

    def coast(self):
        self.both(0, 0)


class Encoder:
    # Both edges of `a` count; forwards, `a` goes before `b`.
    def __init__(self, a, b, counts):
        self.count = 0
        self.angle_of_one = 2 * math.pi / counts
        self.a = machine.Pin(a, machine.Pin.IN, machine.Pin.PULL_UP)
        self.b = machine.Pin(b, machine.Pin.IN, machine.Pin.PULL_UP)
        self.a.irq(self.edge, machine.Pin.IRQ_RISING | machine.Pin.IRQ_FALLING)

    def edge(self, pin):
        self.count += 1 if self.a.value() != self.b.value() else -1

    def angle(self):
        return self.count * self.angle_of_one


class NoEncoder:
    # Nothing counts: it is taken to turn as it is told.
    def __init__(self):
        self.turned = 0.0

    def angle(self):
        return self.turned


class Shaft:
    # A motor that is told a power, or a speed that a regulator keeps. Radians a second.
    def __init__(self, motor, encoder, top, acceleration, dead=0.05):
        self.motor = motor
        self.encoder = encoder
        self.top = top
        self.acceleration = acceleration
        self.dead = dead  # share of power below which it does not turn
        self.angle = 0.0
        self.speed = 0.0
        self.before = [0.0] * 3  # angles of the latest ticks: one alone says too little of the speed
        self.target = 0.0
        self.sum = 0.0
        self.power = 0.0
        self.stands = 0.0  # seconds

    def look(self):
        if isinstance(self.encoder, NoEncoder):
            self.encoder.turned += self.power * self.top * now.seconds
        self.angle = self.encoder.angle()
        self.speed = (self.angle - self.before[0]) / (len(self.before) * now.seconds)
        self.before = self.before[1:] + [self.angle]
        self.stands = self.stands + now.seconds if abs(self.power) > 0.25 and abs(self.speed) < 0.02 * self.top else 0.0

    def give(self, power):
        self.power = power
        self.motor.give(power)

    def keep(self, speed):
        wanted = clamp(speed, -self.top, self.top)
        step = self.acceleration * now.seconds
        self.target = clamp(wanted, self.target - step, self.target + step)
        if self.target == 0 and wanted == 0:
            return self.brake()
        error = (self.target - self.speed) / self.top
        self.sum = clamp(self.sum + error * 4 * now.seconds, -1.0, 1.0)
        self.give(clamp(self.target / self.top + sign(self.target) * self.dead + error + self.sum, -1.0, 1.0))

    def brake(self):
        self.power = self.sum = 0.0
        self.target = self.speed if abs(self.speed) > 0.05 * self.top else 0.0
        self.motor.brake()

    def coast(self):
        self.power = self.sum = 0.0
        self.target = self.speed
        self.motor.coast()


class Moved(Part):
    still = True


class WheelPair(Moved):
    # Two wheels: metres and metres a second on the floor.
    def __init__(self, device, left, right, radius, track):
        super().__init__(device)
        self.left = left
        self.right = right
        self.radius = radius
        self.track = track

    def look(self):
        left, right, radius = self.left, self.right, self.radius
        left.look()
        right.look()
        speed = (left.speed + right.speed) / 2 * radius
        rate = (left.speed - right.speed) * radius / self.track
        self.still = abs(speed) < 0.003 and abs(rate) * self.track < 0.006
        stalled = left.stands > 0.2 or right.stands > 0.2
        return [speed, (left.angle + right.angle) / 2 * radius, 1.0 if stalled else 0.0, (left.angle - right.angle) * radius / self.track, rate]

    def tell(self, told):
        for shaft, amount in ((self.left, told[1]), (self.right, told[2])):
            if told[0] == 2:
                shaft.keep(amount / self.radius)
            elif told[0] == 3:
                shaft.target = shaft.speed
                shaft.give(clamp(amount, -1.0, 1.0))
            elif told[0] == 1:
                shaft.coast()
            else:
                shaft.brake()

    def rest(self):
        self.left.brake()
        self.right.brake()


class Turning(Moved):
    # A motor by itself.
    def __init__(self, device, shaft):
        super().__init__(device)
        self.shaft = shaft

    def look(self):
        shaft = self.shaft
        shaft.look()
        moving = abs(shaft.speed) > 0.02 * shaft.top
        self.still = not moving
        return [shaft.angle, shaft.speed, 1.0 if moving else 0.0]

    def tell(self, told):
        if told[0] == 2:
            self.shaft.keep(told[1])
        elif told[0] == 1:
            self.shaft.give(clamp(told[1], -1.0, 1.0))
        else:
            self.shaft.brake()

    def rest(self):
        self.shaft.brake()


# Servos: a pulse of 1 ms is one end, of 2 ms the other, fifty a second.


class Servo:
    def __init__(self, pin, low, high):
        self.pwm = machine.PWM(machine.Pin(pin), freq=50)
        self.low = low
        self.high = high

    def go(self, at):
        share = clamp((at - self.low) / (self.high - self.low), 0.0, 1.0)
        self.pwm.duty_ns(1000000 + int(share * 1000000))


class Sliding(Moved):
    # What goes to a place at a speed, and tells where it was told to be.
    def __init__(self, device, servo, at, speed):
        super().__init__(device)
        self.servo = servo
        self.at = at
        self.target = at
        self.speed = speed

    def step(self):
        way = self.speed * now.seconds
        self.at = clamp(self.target, self.at - way, self.at + way)
        self.servo.go(self.at)
        self.still = self.at == self.target


class ServoJoint(Sliding):
    # Told to hold (0) or to go home (1), where to, and how fast.
    def __init__(self, device, servo, at, speed, home):
        super().__init__(device, servo, at, speed)
        self.home = home
        self.full = speed

    def look(self):
        self.step()
        return [self.at, 0.0 if self.still else 1.0, 0.0]

    def tell(self, told):
        self.target = self.home if told[0] == 1 else told[1]
        self.speed = clamp(abs(told[2]), 0.02 * self.full, self.full)


class ServoClaw(Sliding):
    # Told to rest (0), to open (1) or to close (2). Whether it holds something is not known.
    def __init__(self, device, servo, opening, speed):
        super().__init__(device, servo, 0.0, speed)
        self.opening = opening

    def look(self):
        self.step()
        return [self.at, 0.0, 0.0 if self.still else 1.0, 0.0]

    def tell(self, told):
        if told[0] == 1:
            self.target = self.opening
        elif told[0] == 2:
            self.target = 0.0


# Joints and claws behind a motor. At the start they are taken to be where the simulator has them.


class Geared(Moved):
    # What a motor moves between two ends. Its shaft turns in their unit.
    def __init__(self, device, shaft, low, high, start):
        super().__init__(device)
        self.shaft = shaft
        self.low = low
        self.high = high
        self.zero = start  # where it is when nothing is counted
        self.at = start
        self.target = start
        self.speed = shaft.top
        self.near = (high - low) / 200

    def step(self):
        self.shaft.look()
        self.at = self.zero + self.shaft.angle

    def away(self):
        return abs(self.target - self.at) > 2 * self.near or abs(self.shaft.speed) > 0.02 * self.shaft.top

    def go(self):
        # Where it is there it is let go, and taken up again when it gives way.
        left = self.target - self.at
        if abs(left) < self.near:
            self.shaft.brake()
        else:
            self.shaft.keep(clamp(5 * left, -self.speed, self.speed))

    def rest(self):
        self.shaft.brake()


class MotorJoint(Geared):
    # Told to hold (0) or to go home (1), where to, and how fast. To go home it looks for its nearer end first: there it is blocked.
    def __init__(self, device, shaft, low, high, start, home):
        super().__init__(device, shaft, low, high, start)
        self.home = home
        self.end = low if abs(home - low) <= abs(high - home) else high
        self.homing = 0  # 1 on its way to the end, 2 found

    def look(self):
        self.step()
        blocked = self.shaft.stands > 0.2
        if self.homing == 1 and blocked:
            self.zero += self.end - self.at
            self.at = self.end
            self.homing = 2
            self.target = self.home
            blocked = False
        self.still = self.homing != 1 and not self.away()
        return [self.at, 0.0 if self.still else 1.0, 1.0 if blocked and self.homing != 1 else 0.0]

    def tell(self, told):
        self.speed = clamp(abs(told[2]), 0.02 * self.shaft.top, self.shaft.top)
        if told[0] != 1:
            self.homing = 0
            self.target = clamp(told[1], self.low, self.high)
        elif self.homing == 0:
            self.homing = 1
        if self.homing == 1:
            self.shaft.keep((-0.3 if self.end == self.low else 0.3) * self.shaft.top)
        else:
            self.go()


class MotorClaw(Geared):
    # Told to rest (0), to open (1) or to close (2). Where it is blocked as it closes, something is between its jaws, and it keeps pressing.
    def __init__(self, device, shaft, opening):
        super().__init__(device, shaft, 0.0, opening, opening)
        self.grips = False

    def look(self):
        self.step()
        if self.target == self.low and self.shaft.stands > 0.2:
            self.grips = True
        self.still = self.grips or not self.away()
        return [self.at, 1.0 if self.grips and self.at > 4 * self.near else 0.0, 0.0 if self.still else 1.0, 0.0]

    def tell(self, told):
        if told[0] == 0:
            self.shaft.brake()
            return
        self.target = self.high if told[0] == 1 else self.low
        self.grips = self.grips and told[0] == 2
        if self.grips:
            self.shaft.give(-0.25)
        else:
            self.go()
