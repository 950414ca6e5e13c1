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
        print("late ticks: %d" % report.late)


class Report:
    # What is told over the serial line: notes as they come, and with `wanted` a line for each tick.
    def __init__(self):
        self.wanted = False
        self.late = 0  # ticks that took longer than they may

    def line(self):
        control = ["-" if lane.control is None else str(lane.control.line) for lane in now.lanes]
        read = ["%s%s %s" % (d.name, "*" if d._began == now.tick else "", " ".join([exact(x) for x in d._raw])) for d in now.devices if d._raw]
        told = ["%s %s" % (d.name, " ".join([exact(x) for x in d.told])) for d in now.devices if d.told]
        print("tick %d | %s | %s | %s" % (now.tick, " ".join(control), "; ".join(read), "; ".join(told)))


report = Report()


def say(kind, about, text):
    print("%s %s: %s" % (kind, about, text))


class Nothing(Part):
    # A part that the board does not have, or that this does not drive: it sees nothing and takes no part.
    def __init__(self, device, raw):
        super().__init__(device)
        self.raw = raw

    def look(self):
        return self.raw
