# What a program means, tick by tick: lanes, modes, rules, and which of them is in control.
# Distances are metres, angles radians, times seconds; a share of 100 % is 1; what is farther than anything is INF.

INF = float("inf")


class Names:
    pass


# What the program calls by name: its dials, memories and named values.
my = Names()
# What its timers and steps remember, by number: mostly a tick, -1 for none.
t = []


class Now:
    tick = -1
    seconds = 0.02  # that a tick takes
    still = True  # whether the robot stands
    lane = None  # the lane at work
    finished = None  # why the program asked to end
    heard = ()  # signals of the tick before
    sent = ()
    devices = ()  # in the order of the robot
    lanes = ()
    screens = ()
    every_tick = None
    steps = 0  # that the lane at work has run in this tick
    tell = None  # is told what happens: a kind, whom it is about, a text


now = Now()


class Failure(Exception):
    # Stops a lane, and says at which line of the program.
    def __init__(self, says, line):
        super().__init__(says)
        self.says = says
        self.line = line


class Went(Exception):
    pass


class Over(Exception):
    pass


WENT = Went()
OVER = Over()


class Device:
    # A part of the robot. What it reads are attributes; what it is told is in `told`.
    def __init__(self, name, readings, initial=(), stays=(), shared=False):
        self.name = name
        self._names = readings
        self._raw = [0.0] * len(readings)  # as it came in
        self._zero = [0.0] * len(readings)  # what `reset` took off
        self._looks = 0.0  # how many looks it has taken
        self._began = 0.0  # the tick in which its latest look began
        self.told = [float(x) for x in initial]
        self._stays = stays
        self.shared = shared
        self._said = (-1, None)  # when a lane spoke to it, and which
        self._stalled = readings.index("stalled") if initial and "stalled" in readings else -1
        self.stalled_ticks = 0
        for name in readings:
            setattr(self, name, 0.0)

    def take(self, raw):
        self._raw = raw
        zero = self._zero
        for i, name in enumerate(self._names):
            setattr(self, name, raw[i] - zero[i])
        if self._stalled != -1:
            self.stalled_ticks = self.stalled_ticks + 1 if raw[self._stalled] > 0 else 0

    def raw(self, reading):
        return self._raw[self._names.index(reading)]

    def rest(self):
        # What is told for a tick alone is taken back: it brakes.
        for i, stays in enumerate(self._stays):
            if not stays:
                self.told[i] = 0.0


class Rule:
    # `live`: it takes no time, and is gone through anew in every tick. `moments`: its condition is true for a tick at most.
    def __init__(self, number, line, when, does, until=None, once=False, live=False, moments=False, timers=()):
        self.number = number
        self.line = line
        self.when = when
        self.does = does
        self.until = until
        self.once = once
        self.live = live
        self.moments = moments
        self.timers = timers
        self.beside = live and once
        self.latched = False
        self.done = False
        self.wanting = False

    def begin_anew(self):
        self.latched = self.done = False
        for k in self.timers:
            t[k] = -1

    def wants(self):
        wanting = self.when is None or self.when()
        if self.until is not None:
            ended = self.until()
            wanting = not ended and (wanting or self.latched)
            self.latched = wanting
        if self.once and not (self.moments and self.until is None):
            if not wanting:
                self.done = False
            elif self.done:
                wanting = False
        return bool(wanting)


class Mode:
    def __init__(self, name, rules=(), start=None, totals=()):
        self.name = name
        self.rules = rules
        self.start = start
        self.totals = totals


START, MODE_START, RULES, ENDED, FAILED = 0, 1, 2, 3, 4
WAITS, THROUGH, GONE, ENDS = 0, 1, 2, 3


class Lane:
    def __init__(self, name, modes, above=(), start=None, sequence=False):
        self.name = name
        self.modes = modes
        self.above = above
        self.begins = start
        self.sequence = sequence
        self.phase = MODE_START if start is None else START
        self.mode = None
        self.rules = ()  # those that are asked: above all modes, then the mode's
        self.control = None
        self.steps = start  # a function whose steps have not begun, or steps in the middle
        self.limits = []  # of the `at most` around the steps in the middle
        self.entered = 0
        self.went = -1
        self.pending = None
        self.moves = {}  # what moves each device
        self.stream = None

    def fail(self, failure):
        self.moves = {}
        self.phase = FAILED
        self.steps = None
        tell("error", self.name, "line %d: %s" % (failure.line, failure.says))

    def execute(self):
        # Goes on with the steps at hand. Says what came of it.
        try:
            steps = self.steps
            if callable(steps):
                self.limits = []
                steps = steps()
                if steps is None:  # no step of them takes time
                    self.steps = None
                    return THROUGH
                self.steps = steps
            next(steps)
            return WAITS
        except StopIteration:
            self.steps = None
            return THROUGH
        except Went:
            if self.pending is not None:
                self.steps = None
                self.phase = RULES
            return GONE
        except Over:
            self.steps = None
            self.phase = ENDED
            self.moves = {}
            return ENDS

    def take(self, rule):
        self.moves = {}
        self.control = rule
        self.steps = None

    def enter(self, mode):
        self.take(None)
        self.mode = mode
        self.rules = self.above + mode.rules
        self.entered = now.tick
        for total in mode.totals:
            total.value = 0.0
        for rule in mode.rules:
            rule.begin_anew()
        self.steps = mode.start
        self.phase = RULES if mode.start is None else MODE_START

    def ask(self, rules):
        for rule in rules:
            rule.wanting = rule.wants()

    def play(self):
        if self.phase >= ENDED:
            return
        if self.phase == START:
            came = self.execute()
            if came == WAITS or came == ENDS:
                return
            if came == THROUGH:
                if self.sequence:
                    self.moves = {}
                    self.phase = ENDED
                    return
                self.enter(self.modes[0])
        elif self.mode is None:
            self.enter(self.modes[0])
        if self.pending is not None:
            mode = self.pending
            self.pending = None
            self.went = now.tick
            self.enter(mode)
        self.ask(self.above)
        while True:
            if self.phase == MODE_START:
                came = self.execute()
                if came == ENDS:
                    return
                if came == GONE:
                    if self.pending is not None:
                        return
                    continue
                if came == THROUGH:
                    self.moves = {}
                    self.phase = RULES
                self.ask(self.mode.rules)
                if came == WAITS:
                    return
            else:
                self.ask(self.mode.rules)
            if not self.decide():
                return

    def decide(self):
        # Who has control, and its steps. True where another mode was entered.
        rules = self.rules
        control = self.control
        middle = control is not None and not control.live and self.steps is not None
        held = rules.index(control) if control is not None else len(rules)
        top = None
        urgent = len(rules)
        for i, rule in enumerate(rules):
            if not rule.wanting:
                continue
            if not rule.beside:
                top = rule
                urgent = i
                break
            if middle and i > held:
                break
            # It acts, and what is in control goes on.
            rule.wanting = False
            came = self.act(rule)
            if came == GONE:
                return self.pending is None
            if came == ENDS:
                return False
        if urgent < held or (not middle and control is not top):
            self.take(top)
        begun = []
        while self.control is not None:
            rule = self.control
            if rule.live:
                self.moves = {}
                self.steps = rule.does
                came = self.execute()
                if came == GONE:
                    return self.pending is None
                self.steps = None
                return False
            if self.steps is None:
                if rule in begun:
                    return False
                begun.append(rule)
                self.moves = {}
                self.steps = rule.does
            came = self.execute()
            if came == WAITS or came == ENDS:
                return False
            if rule.once:
                rule.done = True
                rule.wanting = False
            if came == GONE:
                return self.pending is None
            wanted = None
            for other in rules:
                if other.wanting and not other.beside:
                    wanted = other
                    break
            if wanted is not rule:
                self.take(None if wanted in begun else wanted)
        return False

    def act(self, rule):
        steps, limits, moves = self.steps, self.limits, self.moves
        self.moves = dict(moves)
        self.steps = rule.does
        came = self.execute()
        rule.done = True
        if came != GONE:
            self.steps, self.limits, self.moves = steps, limits, moves
        return came

    def command(self):
        # Motions write what they tell, each once, in the order of the robot's devices.
        moves = self.moves
        for device in now.devices:
            motion = moves.get(device.name)
            if motion is None or motion.moves[0] is not device or not may_speak(motion):
                continue
            try:
                motion.apply()
            except Failure as failure:
                self.fail(Failure(failure.says, motion.line))
                for other in now.devices:
                    if other.name in moves:
                        other.rest()
                return


def tell(kind, about, text):
    if now.tell is not None:
        now.tell(kind, about, text)


def run_tick():
    # One tick. What the devices read came in before (`Device.take`); what they are told stands in `told` after.
    now.tick += 1
    now.heard = now.sent
    now.sent = []
    for device in now.devices:
        device.rest()
    try:
        if now.every_tick is not None:
            now.every_tick()
    except Failure as failure:
        for lane in now.lanes:
            if lane.phase < ENDED:
                lane.fail(failure)
    for lane in now.lanes:
        now.lane = lane
        now.steps = 0
        try:
            lane.play()
        except Failure as failure:
            lane.fail(failure)
        lane.command()
    for screen in now.screens:
        screen.say()


def is_over():
    return all([lane.phase >= ENDED for lane in now.lanes])


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
    raise WENT


def finish(why=""):
    if now.finished is None:
        now.finished = why
    tell("finish", now.lane.name, why)
    raise OVER


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
