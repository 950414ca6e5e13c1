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
