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


class TextDisplay(Part):
    # 128 by 64 dots, by a chip of the kind of an SSD1306 (by its datasheet). Sixteen letters a line; a picture is told by its name.
    def __init__(self, device, bus, address):
        super().__init__(device)
        self.bus = bus
        self.address = address
        self.screen = [screen for screen in now.screens if screen.device is device][0]
        self.dots = bytearray(1024)
        self.shows = framebuf.FrameBuffer(self.dots, 128, 64, framebuf.MONO_VLSB)
        self.said = None
        self.stale = set()  # strips of eight dots that are to be sent
        for command in b"\xae\x20\x00\x40\xa1\xa8\x3f\xc8\xd3\x00\xda\x12\xd5\x80\xd9\xf1\xdb\x30\x81\xff\xa4\xa6\x8d\x14\xaf":
            self.command(command)

    def command(self, byte):
        self.bus.writeto(self.address, bytes([0x80, byte]))

    def look(self):
        return [self.device.told[0]]

    def tell(self, told):
        if self.screen.said != self.said:
            self.said = self.screen.said
            self.draw()
        # One strip a tick: all of them would take longer than a tick has.
        if self.stale:
            self.send(self.stale.pop())

    def draw(self):
        before = bytes(self.dots)
        self.shows.fill(0)
        screen = self.screen
        lines = [] if screen.picture is None else [(screen.picture, False)]
        for row, line in enumerate(lines + screen.lines):
            if line is not None:
                self.write(line[0], row * 8, line[1])
        for strip in range(8):
            if self.dots[strip * 128 : strip * 128 + 128] != before[strip * 128 : strip * 128 + 128]:
                self.stale.add(strip)

    def write(self, text, top, large):
        self.shows.text(text, 0, top)
        if not large:
            return
        # Twice as wide and high: from the far end, so that nothing is drawn over before it was read.
        for x in range(63, -1, -1):
            for y in range(7, -1, -1):
                dot = self.shows.pixel(x, top + y)
                self.shows.fill_rect(2 * x, top + 2 * y, 2, 2, dot)

    def send(self, strip):
        for command in (0x21, 0, 127, 0x22, strip, strip):
            self.command(command)
        self.bus.writeto(self.address, b"\x40" + self.dots[strip * 128 : strip * 128 + 128])

    def rest(self):
        for strip in self.stale:
            self.send(strip)
        self.stale = set()
