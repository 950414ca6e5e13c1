# How the parts of the robot are reached with MicroPython: pins, pulses, a bus.
# `look` gives what a part reads in this tick, or None where it has nothing new; `tell` passes on what it is told.


class Part:
    # `device` as the program knows it. `period`: seconds from look to look, 0 for every tick.
    def __init__(self, device, period=0.0):
        self.device = device
        self.period = period
        self.due = 0.0

    def look(self):
        return None

    def tell(self, told):
        pass

    def rest(self):
        pass


def look_first(parts):
    # Before the first tick every part has looked once: a sonar's first ping has to come back.
    waiting = list(parts)
    for _ in range(4):
        later = []
        for part in waiting:
            raw = part.look()
            if raw is None:
                later.append(part)
            else:
                part.device._looks += 1
                part.device.take(raw)
        waiting = later
        if not waiting:
            break
        time.sleep_ms(80)


def run(parts, seconds=None):
    # The program on its parts, tick by tick, until it ends; `seconds` at most, where that is given.
    look_first(parts)
    wait_us = int(now.seconds * 1000000)
    begun = time.ticks_us()
    if now.tell is None:
        now.tell = say
    try:
        while not (now.finished is not None or is_over() or (seconds is not None and (now.tick + 1) * now.seconds >= seconds)):
            tick = now.tick + 1
            for part in parts:
                if part.period > 0 and tick * now.seconds < part.due - 1e-9:
                    part.device.take(part.device._raw)
                    continue
                part.due = tick * now.seconds + part.period
                raw = part.look()
                device = part.device
                if raw is not None:
                    device._looks += 1
                    device._began = tick
                    device.take(raw)
                else:
                    device.take(device._raw)
            now.still = all([part.still for part in parts if isinstance(part, Moved)])
            run_tick()
            for part in parts:
                part.tell(part.device.told)
            if report.wanted:
                report.line()
            left = time.ticks_diff(time.ticks_add(begun, wait_us), time.ticks_us())
            if left > 0:
                time.sleep_us(left)
            else:
                report.late += 1
            begun = time.ticks_add(begun, wait_us) if left > -wait_us else time.ticks_us()
    finally:
        for part in parts:
            part.rest()


class Report:
    # What is told over the serial line: notes as they come, and with `wanted` a line for each tick.
    def __init__(self):
        self.wanted = False
        self.late = 0  # ticks that took longer than they may

    def line(self):
        control = ["-" if lane.control is None else str(lane.control.line) for lane in now.lanes]
        read = ["%s %s" % (d.name, " ".join([plain(x) for x in d._raw])) for d in now.devices]
        told = ["%s %s" % (d.name, " ".join([plain(x) for x in d.told])) for d in now.devices if d.told]
        print("tick %d | %s | %s | %s" % (now.tick, " ".join(control), "; ".join(read), "; ".join(told)))


report = Report()


def say(kind, about, text):
    print("%s %s: %s" % (kind, about, text))


# Switches and other parts that pull a pin down.


class Switch(Part):
    def __init__(self, device, pin, period):
        super().__init__(device, period)
        self.pin = machine.Pin(pin, machine.Pin.IN, machine.Pin.PULL_UP)

    def look(self):
        return [0.0 if self.pin.value() else 1.0]


# A sonar with a trigger and an echo: sound goes 343 m a second, there and back.


class Echo(Part):
    def __init__(self, device, trigger, echo, nearest, farthest, period):
        super().__init__(device, period)
        self.trigger = machine.Pin(trigger, machine.Pin.OUT, value=0)
        self.echo = machine.Pin(echo, machine.Pin.IN)
        self.nearest = nearest
        self.farthest = farthest
        self.rose = 0
        self.took = -1  # microseconds that the latest echo was away, -1 for none
        self.sent = False
        self.echo.irq(self.edge, machine.Pin.IRQ_RISING | machine.Pin.IRQ_FALLING)

    def edge(self, pin):
        at = time.ticks_us()
        if pin.value():
            self.rose = at
        else:
            self.took = time.ticks_diff(at, self.rose)

    def look(self):
        # The echo of the ping before is back, or none came; then the next is sent.
        took = self.took
        seen = self.sent
        self.took = -1
        self.trigger.value(1)
        time.sleep_us(10)
        self.trigger.value(0)
        self.sent = True
        if not seen:
            return None
        distance = took * 343e-6 / 2
        if took < 0 or distance > self.farthest:
            return [INF, 0.0]
        return [max(distance, self.nearest), 1.0]


# A voltage, by its curve: pairs of volts and what they mean, volts rising, straight in between.


def on_curve(volts, curve):
    low = curve[0]
    for high in curve[1:]:
        if volts <= high[0] or high is curve[-1]:
            break
        low = high
    share = clamp((volts - low[0]) / (high[0] - low[0]), 0.0, 1.0)
    return low[1] + (high[1] - low[1]) * share


class Voltage(Part):
    def __init__(self, device, pin, supply, curve, period):
        super().__init__(device, period)
        self.adc = machine.ADC(machine.Pin(pin))
        self.supply = supply
        self.curve = curve

    def volts(self):
        return self.adc.read_u16() / 65535 * self.supply

    def look(self):
        return [on_curve(self.volts(), self.curve)]


class FarVoltage(Voltage):
    # A distance: beyond the curve's farthest it sees nothing.
    def look(self):
        distance = on_curve(self.volts(), self.curve)
        farthest = max([point[1] for point in self.curve])
        return [INF, 0.0] if distance >= farthest else [distance, 1.0]


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


# What is switched, lit or sounds.


class Transistor(Part):
    # A magnet: whether something hangs on it is not known.
    def __init__(self, device, pin):
        super().__init__(device)
        self.pin = machine.Pin(pin, machine.Pin.OUT, value=0)

    def look(self):
        return [0.0, float(self.pin.value())]

    def tell(self, told):
        self.pin.value(1 if told[0] else 0)

    def rest(self):
        self.pin.value(0)


# Red, green and blue of the colours by their number, each from 0 to 1; those that were taught shine white.
SHINES = ((0, 0, 0), (0, 0, 0), (0.4, 0.4, 0.4), (1, 1, 1), (1, 0, 0), (1, 0.35, 0), (1, 0.7, 0), (0, 1, 0), (0, 0, 1), (0.6, 0, 1))


def shines(color):
    i = int(color)
    return SHINES[i] if i < len(SHINES) else (1, 1, 1)


class Lamp(Part):
    def look(self):
        return [self.device.told[0]]

    def tell(self, told):
        self.shine(shines(told[0]))

    def rest(self):
        self.shine((0, 0, 0))


class ThreePinLamp(Lamp):
    def __init__(self, device, red, green, blue):
        super().__init__(device)
        self.pins = [machine.Pin(pin, machine.Pin.OUT, value=0) for pin in (red, green, blue)]

    def shine(self, color):
        for pin, share in zip(self.pins, color):
            pin.value(1 if share > 0.3 else 0)


class OnePinLamp(Lamp):
    def __init__(self, device, pin):
        super().__init__(device)
        self.pin = machine.Pin(pin, machine.Pin.OUT, value=0)

    def shine(self, color):
        self.pin.value(1 if max(color) > 0 else 0)


class DataLineLamp(Lamp):
    def __init__(self, device, pin):
        super().__init__(device)
        self.shown = neopixel.NeoPixel(machine.Pin(pin), 1)

    def shine(self, color):
        self.shown[0] = tuple([int(share * 80) for share in color])
        self.shown.write()


class Sounder(Part):
    # Told a pitch in Hz; clips do not sound.
    def __init__(self, device, pin):
        super().__init__(device)
        self.pwm = machine.PWM(machine.Pin(pin), freq=440, duty_u16=0)
        self.pitch = 0.0

    def look(self):
        return [1.0 if self.pitch > 0 else 0.0]

    def tell(self, told):
        pitch = told[0]
        if pitch == self.pitch:
            return
        self.pitch = pitch
        if pitch > 0:
            self.pwm.freq(int(pitch + 0.5))
            self.pwm.duty_u16(32768)
        else:
            self.pwm.duty_u16(0)

    def rest(self):
        self.pwm.duty_u16(0)


# On the bus.


class RateChip(Part):
    # Turning and leaning, by a chip with the registers of an MPU-6050 (by its register map): z up, so that a turn to the left counts up.
    def __init__(self, device, bus, address, limit, period):
        super().__init__(device, period)
        self.bus = bus
        self.address = address
        self.limit = limit
        degrees = limit * 180 / math.pi
        choice = 0 if degrees <= 250 else 1 if degrees <= 500 else 2 if degrees <= 1000 else 3
        self.scale = (250 << choice) / 32768 * math.pi / 180
        bus.writeto_mem(address, 0x6B, b"\x00")
        bus.writeto_mem(address, 0x1B, bytes([choice << 3]))
        time.sleep_ms(50)
        # What it says while it stands is its own error.
        self.error = sum([self.measure()[1] for _ in range(100)]) / 100
        self.turned = 0.0
        self.at = time.ticks_us()

    def measure(self):
        data = self.bus.readfrom_mem(self.address, 0x3B, 14)
        values = [(data[i] << 8 | data[i + 1]) - (65536 if data[i] & 128 else 0) for i in range(0, 14, 2)]
        return values[:3], -values[6] * self.scale

    def look(self):
        pull, rate = self.measure()
        at = time.ticks_us()
        rate = clamp(rate - self.error, -self.limit, self.limit)
        self.turned += rate * time.ticks_diff(at, self.at) / 1000000
        self.at = at
        size = math.sqrt(pull[0] * pull[0] + pull[1] * pull[1] + pull[2] * pull[2])
        return [self.turned, wrapped(self.turned), rate, arccosine(pull[2] / size) if size > 0 else 0.0]


class ColorChip(Part):
    # Red, green, blue and all light, by a chip with the registers of a TCS34725 (by its datasheet).
    # `white`: what it counts in each over white paper, as it is mounted; `names`: where the named colours are.
    def __init__(self, device, bus, address, white, names, farthest, margin, period):
        super().__init__(device, period)
        self.bus = bus
        self.address = address
        self.white = white
        self.names = names
        self.farthest = farthest
        self.margin = margin
        for register, value in ((0x81, 0xF6), (0x8F, 0x01), (0x80, 0x03)):
            bus.writeto_mem(address, register, bytes([value]))

    def look(self):
        data = self.bus.readfrom_mem(self.address, 0xB6, 6)
        rgb = [clamp((data[2 * i] | data[2 * i + 1] << 8) / self.white[i] * 0.9, 0.0, 1.0) for i in range(3)]
        hue, strong = hue_of(rgb)
        reflect = (rgb[0] + rgb[1] + rgb[2]) / 3
        return [0.0 if reflect < 0.028 else name_of(hue, strong, max(rgb), self), hue, reflect]


def hue_of(rgb):
    # Hue in radians, and how strong a tint is.
    r, g, b = rgb
    high = max(rgb)
    spread = high - min(rgb)
    hue = 0.0
    if spread > 0:
        if high == r:
            hue = ((g - b) / spread) % 6
        elif high == g:
            hue = (b - r) / spread + 2
        else:
            hue = (r - g) / spread + 4
    return hue * math.pi / 3, spread / high * min(1.0, high / 0.2) if high > 0 else 0.0


def name_of(hue, strong, bright, of):
    # The number of the nearest named colour; 0 where two are almost as near, or none is.
    a = strong * math.cos(hue)
    b = strong * math.sin(hue)
    light = math.sqrt(bright) * 0.8
    found = [(math.sqrt((a - x) * (a - x) + (b - y) * (b - y) + (light - z) * (light - z)), index) for index, x, y, z in of.names]
    found.sort()
    return 0.0 if found[0][0] > of.farthest or found[0][0] > of.margin * found[1][0] else float(found[0][1])


class RangingChip(Part):
    # A sonar that measures by itself, with the registers of an SRF02 (by its data sheet): centimetres, 65 ms after it was asked.
    def __init__(self, device, bus, address, nearest, farthest, period):
        super().__init__(device, max(period, 0.07))
        self.bus = bus
        self.address = address
        self.nearest = nearest
        self.farthest = farthest
        self.asked = False

    def look(self):
        raw = None
        if self.asked:
            data = self.bus.readfrom_mem(self.address, 2, 2)
            distance = (data[0] << 8 | data[1]) * 0.01
            raw = [INF, 0.0] if distance == 0 or distance > self.farthest else [max(distance, self.nearest), 1.0]
        self.bus.writeto_mem(self.address, 0, b"\x51")
        self.asked = True
        return raw


class Nothing(Part):
    # A part that the board does not have, or that this does not drive: it sees nothing and takes no part.
    def __init__(self, device, raw):
        super().__init__(device)
        self.raw = raw

    def look(self):
        return self.raw
