# A board on which everything answers and nothing happens: what programs take of memory is looked at on it.
class Anything:
    def __init__(self, *given, **named):
        pass

    def __getattr__(self, name):
        return lambda *given, **named: 0

    def __call__(self, *given):
        return 0


class Pin(Anything):
    IN, OUT, PULL_UP, IRQ_RISING, IRQ_FALLING = 0, 1, 2, 1, 2


class PWM(Anything):
    pass


class ADC(Anything):
    ATTN_11DB = 3


class I2C(Anything):
    def readfrom_mem(self, address, register, count):
        return bytes(count)

    def readfrom(self, address, count):
        return bytes(count)
