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


class FlashChip(Part):
    # Light there and back, timed by a chip with the registers of a VL53L0X (those that its maker's own driver goes by), one measurement after another: millimetres.
    # `shut`: the pin that keeps it still until those before it have left the address at which all of them wake; None where it stays there.
    WAKES = 0x29

    def __init__(self, device, bus, address, nearest, farthest, period, shut=None):
        super().__init__(device, period)
        self.bus = bus
        self.address = address
        self.nearest = nearest
        self.farthest = farthest
        self.asked = False
        self.shut = None if shut is None else machine.Pin(shut, machine.Pin.OUT, value=0)

    def wake(self):
        self.shut.value(1)
        time.sleep_ms(2)
        self.bus.writeto_mem(self.WAKES, 0x8A, bytes([self.address]))

    def look(self):
        if not self.asked:
            if self.shut is not None:
                self.wake()
            self.ask()
            return None
        # How it went, and behind it how far.
        data = self.bus.readfrom_mem(self.address, 0x14, 12)
        if not data[0] & 1:
            return None
        self.ask()
        distance = (data[10] << 8 | data[11]) * 0.001
        if data[0] >> 3 & 15 != 11 or distance > self.farthest:
            return [INF, 0.0]
        return [max(distance, self.nearest), 1.0]

    def ask(self):
        self.bus.writeto_mem(self.address, 0x0B, b"\x01")
        self.bus.writeto_mem(self.address, 0x00, b"\x01")
        self.asked = True
