# Numbers, as docs/language.md means them; functions whose last bit differs between machines are computed here.


def rounded(x):
    # To the nearest whole number, halves up.
    if not -1e15 < x < 1e15:
        return x
    whole = float(int(x))
    if whole > x:
        whole -= 1
    return whole + 1 if x - whole >= 0.5 else whole


def stepped(x, scale):
    return rounded(x / scale) * scale


def divided(x, y, line):
    if y == 0:
        raise Failure("division by zero", line)
    return x / y


def root(x, line):
    if x < 0:
        raise Failure("the square root of a negative number", line)
    return x if x == INF else math.sqrt(x)


def within(x, farthest):
    # What no echo counts as.
    return farthest if x == INF else x


def as_number(true):
    return 1.0 if true else 0.0


def sign(x):
    return 1.0 if x > 0 else -1.0 if x < 0 else 0.0


def least(x, y):
    return x if x != x or x < y else y


def greatest(x, y):
    return x if x != x or x > y else y


def clamp(x, low, high):
    return low if x < low else high if x > high else x


def all_of(*parts):
    # All parts are worked out: timers run in each.
    return False not in parts


def any_of(*parts):
    return True in parts


def is_between(x, low, high):
    return x >= low and x <= high


def asked(wanted, among, otherwise):
    for value, x in among:
        if value == wanted:
            return x
    return otherwise


def place(name, at, first, count, line):
    # Where one of a memory's values stands.
    k = rounded(at)
    if not (k >= first and k < first + count):
        raise Failure("%s holds values %d to %d, and %s was asked for" % (name, first, first + count - 1, plain(k)), line)
    return int(k) - first


def how_many(values):
    return float(len([x for x in values if x != 0]))


def run_time():
    return now.tick * now.seconds


def mode_time():
    return (now.tick - now.lane.entered) * now.seconds


def every(k, seconds):
    # True for a tick, each time that a period is over.
    period = ticks(seconds)
    if period < 1:
        period = 1
    if t[k] < 0:
        t[k] = now.tick + period
        return False
    if now.tick < t[k]:
        return False
    t[k] += period
    return True


def held_for(k, test, seconds, *devices):
    # Whether something was true that long without a break, and each device has looked again.
    if not test:
        t[k] = -1
        return False
    if t[k] < 0:
        t[k] = now.tick
        for i, device in enumerate(devices):
            t[k + 1 + i] = device._looks
    if now.tick - t[k] < ticks(seconds() if callable(seconds) else seconds):
        return False
    for i, device in enumerate(devices):
        if device._looks <= t[k + 1 + i]:
            return False
    return True


# What is followed over time: each is worked out at the beginning of every tick.


class OverTime:
    # Over the latest values: `seconds` of them, `room` at most.
    def __init__(self, does, room):
        self.does = does
        self.kept = [0.0] * room
        self.count = 0
        self.value = 0.0

    def follow(self, x, seconds):
        kept = self.kept
        room = len(kept)
        kept[self.count % room] = x
        self.count += 1
        wanted = ticks(seconds)
        if wanted < 1:
            wanted = 1
        wanted = int(min(room, self.count, wanted))
        latest = [kept[i % room] for i in range(self.count - wanted, self.count)]
        if self.does == "mean":
            total = 0.0
            for x in latest:
                total += x
            self.value = total / wanted
        else:
            found = latest[0]
            for x in latest:
                if (x < found) if self.does == "lowest" else (x > found):
                    found = x
            self.value = found


class Rate:
    # Change a second, from look to look of some devices.
    def __init__(self, *devices):
        self.devices = devices
        self.looks = [-1.0] * len(devices)
        self.before = 0.0
        self.tick = -1
        self.value = 0.0

    def anew(self):
        looked = not self.devices
        for i, device in enumerate(self.devices):
            if device._looks != self.looks[i]:
                looked = True
            self.looks[i] = device._looks
        return looked

    def follow(self, x):
        if self.tick >= 0:
            self.value = (x - self.before) / ((now.tick - self.tick) * now.seconds)
        self.before = x
        self.tick = now.tick


class Total:
    # Sum over time.
    value = 0.0

    def follow(self, x):
        self.value += x * now.seconds


class Since:
    # When something was true last.
    tick = -1

    def follow(self, test):
        if test:
            self.tick = now.tick

    def seconds(self):
        return (now.tick - self.tick) * now.seconds if self.tick >= 0 else INF

    def of_run(self):
        return (now.tick - self.tick) * now.seconds if self.tick >= 0 else now.tick * now.seconds


# Random numbers: xoshiro128** (Blackman and Vigna, 2021), a stream for each lane.

MASK = 0xFFFFFFFF


class Stream:
    def __init__(self, seed, name):
        h = 0x811C9DC5 ^ (seed & MASK)
        for c in name:
            h = ((h ^ ord(c)) * 0x01000193) & MASK
        state = []
        for _ in range(4):
            h = (h + 0x9E3779B9) & MASK
            x = ((h ^ (h >> 16)) * 0x85EBCA6B) & MASK
            x = ((x ^ (x >> 13)) * 0xC2B2AE35) & MASK
            state.append(x ^ (x >> 16))
        if state == [0, 0, 0, 0]:
            state[0] = 1
        self.state = state

    def bits(self):
        a, b, c, d = self.state
        x = (b * 5) & MASK
        x = ((x << 7) | (x >> 25)) & MASK
        c ^= a
        d ^= b
        b ^= c
        a ^= d
        c ^= (self.state[1] << 9) & MASK
        d = ((d << 11) | (d >> 21)) & MASK
        self.state = [a, b, c, d]
        return (x * 9) & MASK


def random(low, high):
    stream = now.lane.stream
    one = stream.bits() >> 5
    other = stream.bits() >> 6
    return low + (high - low) * ((one * 67108864 + other) / 9007199254740992)


# Angles.


def wrapped(angle):
    # The same angle, more than half a turn to the left and up to half a turn to the right.
    turn = 2 * math.pi
    x = angle - rounded(angle / turn) * 2 * math.pi
    return x + turn if x <= -math.pi else x


# pi/2 in two parts (Cody and Waite).
HALF_PI_HIGH = 6746518852 / 4294967296
HALF_PI_LOW = 6.07710050650619224932e-11


def sine_series(x):
    z = x * x
    total = 0.0
    for n in range(19, 2, -2):
        total = (1 + total) * (-z / (n * (n - 1)))
    return x + x * total


def cosine_series(x):
    z = x * x
    total = 0.0
    for n in range(18, 3, -2):
        total = (1 + total) * (-z / (n * (n - 1)))
    return 1 - z / 2 - (z / 2) * total


def sine(x, quarters=0):
    if not -1e15 < x < 1e15:
        return math.nan
    n = rounded(x / (HALF_PI_HIGH + HALF_PI_LOW))
    rest = (x - n * HALF_PI_HIGH) - n * HALF_PI_LOW
    quadrant = (int(n) + quarters) % 4
    value = sine_series(rest) if quadrant % 2 == 0 else cosine_series(rest)
    return value if quadrant < 2 else -value


def cosine(x):
    return sine(x, 1)


def arctangent(y, x):
    # The angle of the point (x, y), radians; 0 for the origin.
    ax = abs(x)
    ay = abs(y)
    if not (ax > 0 or ay > 0):
        return math.nan if x != x or y != y else 0.0
    if ax == INF and ay == INF:
        angle = math.pi / 4
    elif ay <= ax:
        angle = arctangent_of_share(ay / ax)
    else:
        angle = math.pi / 2 - arctangent_of_share(ax / ay)
    if x < 0:
        angle = math.pi - angle
    return -angle if y < 0 else angle


# Arctangents of eighths.
ATAN_EIGHTHS = (0.0, 0.12435499454676143503, 0.24497866312686415417, 0.35877067027057222040, 0.46364760900080611621, 0.55859931534356243597, 0.64350110879328438680, 0.71882999962162450542, 0.78539816339744830962)


def arctangent_of_share(x):
    k = int(rounded(x * 8))
    near = k / 8
    u = (x - near) / (1 + x * near)
    z = u * u
    total = 0.0
    for n in range(15, 2, -2):
        total = z * (1 / n - total)
    return ATAN_EIGHTHS[k] + (u - u * total)


def arcsine(x):
    s = clamp(x, -1.0, 1.0)
    return arctangent(s, math.sqrt((1 - s) * (1 + s)))


def arccosine(x):
    s = clamp(x, -1.0, 1.0)
    return arctangent(math.sqrt((1 - s) * (1 + s)), s)


def bearing_of(device, x, y):
    # Which way a place lies, right positive, from where a beacon's receiver is.
    return wrapped(-arctangent(y - device.y, x - device.x) - device.heading)


def distance_of(device, x, y):
    dx = x - device.x
    dy = y - device.y
    return math.sqrt(dx * dx + dy * dy)
