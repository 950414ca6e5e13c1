# Steps, as the rules of a program call them.


def ticks(seconds):
    # A time in whole ticks, rounded up.
    return ceiling(seconds / now.seconds - 1e-9)


def ceiling(x):
    if not -1e15 < x < 1e15:
        return x
    whole = int(x)
    return whole + 1 if whole < x else whole


def go(mode):
    lane = now.lane
    if lane.went == now.tick:
        lane.pending = mode  # a second one in a tick waits for the next
    else:
        lane.went = now.tick
        lane.enter(mode)
    raise Went()  # a new one: an exception keeps where it was raised, each time


def finish(why=""):
    if now.finished is None:
        now.finished = why
    tell("finish", now.lane.name, why)
    raise Over()


def note(text):
    tell("note", now.lane.name, text)


def send(signal):
    now.sent.append(signal)
    tell("signal", now.lane.name, signal)


def heard(signal):
    return signal in now.heard


def reset(device, reading):
    i = device._names.index(reading)
    device._zero[i] = device._raw[i]
    setattr(device, reading, 0.0)


def anew(k):
    # In a live rule: whether a step is reached anew, so that it acts. Rounds of a loop do as its first.
    before = t[k]
    reached = int(before // 1)
    acts = before != reached if reached == now.tick else reached != now.tick - 1
    t[k] = now.tick + (0.5 if acts else 0)
    return acts


def again(line, steps):
    # A round of a loop more, of so many steps.
    now.steps += steps
    if now.steps > 10000:
        raise Failure("no time passes in this loop: it ran more than 10,000 steps within one tick. Put a wait, or a step that takes time, inside", line)


def rounds(times):
    left = rounded(times)
    while left >= 1:
        left -= 1
        yield


def wait(seconds):
    over = now.tick + ticks(seconds)
    while now.tick < over:
        yield


def wait_until(test, at_most=None, timers=()):
    # True where the limit was over first.
    for k in timers:
        t[k] = -1
    over = None if at_most is None else now.tick + ticks(at_most)
    while not test():
        if over is not None and now.tick >= over:
            return True
        yield
    return False


def do_at_most(seconds, steps, motions):
    # Steps within a limit of time. True where that was over first; `motions` are those that they may have begun.
    lane = now.lane
    over = now.tick + ticks(seconds)
    limits = lane.limits
    depth = len(limits)
    limits.append(over)
    for _ in steps:
        # The outermost limit that is over counts.
        late = -1
        for i, limit in enumerate(limits):
            if now.tick >= limit:
                late = i
                break
        if late == depth:
            del limits[depth:]
            for name in list(lane.moves):
                if lane.moves[name] in motions:
                    del lane.moves[name]
            return True
        yield
    del limits[depth:]
    return False


# Motions.


class Motion:
    timed = False  # whether it ends by itself

    def __init__(self, line, *moves):
        self.line = line
        self.moves = moves  # the devices that it moves
        self.draws = ()  # what is drawn once, when it begins: number in `t`, value

    def begin(self):
        # False where there is nothing to do.
        return True

    def apply(self):
        pass

    def done(self):
        return False


def drawing(motion, *draws):
    motion.draws = draws
    return motion


def begin(motion):
    for k, value in motion.draws:
        t[k] = value()
    return motion.begin()


def set_off(motion):
    moves = now.lane.moves
    for device in motion.moves:
        moves[device.name] = motion
        device.stalled_ticks = 0


def may_speak(motion):
    # What several lanes may speak to hears the first of them in a tick.
    for device in motion.moves:
        if not device.shared:
            return True
    for device in motion.moves:
        if device._said[0] == now.tick and device._said[1] is not now.lane:
            return False
    for device in motion.moves:
        device._said = (now.tick, now.lane)
    return True


def blocked(motion):
    for device in motion.moves:
        if device._stalled != -1 and device.stalled_ticks * now.seconds >= 1:
            device.stalled_ticks = 0
            tell("blocked", device.name, "line %d" % motion.line)
            return True
    return False


def clip(device):
    tell("clipped", device.name, "beyond its range: it goes to the end")


def setting(motion):
    if begin(motion) and may_speak(motion):
        motion.apply()


def hold(motion, edge=None):
    # It moves until another does, or its rule ends. In a live rule it begins where it is reached anew.
    if edge is None:
        if not begin(motion):
            return
    elif anew(edge):
        begin(motion)
    set_off(motion)


def move(motion, until=None, lasting=None, at_most=None, timers=()):
    # A motion that ends. True where its limit was over first.
    for k in timers:
        t[k] = -1
    if until is not None and until():
        return False
    ends = None
    if lasting is not None:
        length = ticks(lasting())
        if length <= 0:
            return False
        ends = now.tick + length
    over = None if at_most is None else now.tick + ticks(at_most())
    if not begin(motion):
        return False
    set_off(motion)
    while True:
        ended = blocked(motion) or (ends is not None and now.tick >= ends) or (until is not None and until()) or (motion.timed and motion.done())
        if ended or (over is not None and now.tick >= over):
            moves = now.lane.moves
            for device in motion.moves:
                if device.name in moves:
                    del moves[device.name]
            return not ended
        yield
