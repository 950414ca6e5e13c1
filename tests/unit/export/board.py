# A board for tests: pins, pulses, voltages and a bus, and time that passes when somebody sleeps.
# `world` is called for every millisecond; what it does with pins is heard by who listens to them.
us = 0
world = None
pins = {}
pulses = {}
volts = {}
bus = {}


def pass_us(more):
    global us
    end = us + more
    while us < end:
        step = min(1000 - us % 1000, end - us)
        us += step
        if us % 1000 == 0 and world is not None:
            world()


def set_pin(number, value):
    pin = pins.get(number)
    if pin is None:
        pins[number] = pin = {"value": value, "hears": None}
    if pin["value"] != value:
        pin["value"] = value
        if pin["hears"] is not None:
            pin["hears"]()


class Pin:
    IN, OUT, PULL_UP, IRQ_RISING, IRQ_FALLING = 0, 1, 2, 1, 2
    heard = []

    def __init__(self, number, mode=0, pull=None, value=None):
        self.number = number
        if number not in pins:
            pins[number] = {"value": 1 if pull == 2 else 0, "hears": None}
        if value is not None:
            self.value(value)

    def value(self, to=None):
        if to is None:
            return pins[self.number]["value"]
        set_pin(self.number, to)

    def irq(self, handler, trigger):
        pins[self.number]["hears"] = lambda: handler(self)


class PWM:
    def __init__(self, pin, freq=0, duty_u16=0):
        self.own = pulses[pin.number] = {"freq": freq, "duty": duty_u16, "ns": 0}

    def freq(self, to):
        self.own["freq"] = to

    def duty_u16(self, to):
        self.own["duty"] = to

    def duty_ns(self, to):
        self.own["ns"] = to


class ADC:
    def __init__(self, pin):
        self.number = pin.number

    def read_u16(self):
        return int(volts[self.number] / 3.3 * 65535 + 0.5)


class I2C:
    def __init__(self, number, sda=None, scl=None, freq=0):
        pass

    def writeto_mem(self, address, register, data):
        bus[address].write(register, data)

    def readfrom_mem(self, address, register, count):
        return bus[address].read(register, count)

    def writeto(self, address, data):
        bus[address].take(data)
