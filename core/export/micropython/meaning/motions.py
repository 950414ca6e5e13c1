# What the steps of a program do to the devices that they move.

# The two wheels: metres, metres a second, radians a second.


class Drive:
    # What is known of the wheels' drive.
    wheels = None
    turned = None  # how far the robot has turned: by its gyro, else by its wheels
    track = 0.0
    cruise = 0.0
    turning = 0.0
    acceleration = 0.0


drive = Drive()
BRAKE, COAST, SPEED, POWER = 0, 1, 2, 3


def tell_wheels(how, left, right):
    told = drive.wheels.told
    told[0] = how
    told[1] = left
    told[2] = right


def steer(speed, right):
    bend = right * drive.track / 2
    tell_wheels(SPEED, speed + bend, speed - bend)


def closing(left, fastest, braking, slowest):
    # How fast what is left is closed: fast, then braking, then gently, but never so slowly that motors stick.
    size = abs(left)
    speed = min(abs(fastest), max(slowest, min(math.sqrt(2 * braking * size), size * 7)))
    return -speed if left < 0 else speed


class Rolling(Motion):
    # `drive`, with its turn beside: `bend` right positive, and back to a heading that is held.
    def __init__(self, line, amount, speed=None, back=False, bend=None, held=False, heading=None):
        super().__init__(line, drive.wheels)
        self.amount = amount
        self.speed = speed
        self.way = -1 if back else 1
        self.bend = bend
        self.held = held
        self.heading = heading
        self.holds = 0.0

    def begin_bend(self):
        if self.held:
            turned = drive.turned()
            self.holds = turned if self.heading is None else turned + wrapped(self.heading() - wrapped(turned))

    def rate(self):
        rate = 0.0 if self.bend is None else self.bend()
        if self.held:
            rate += clamp((self.holds - drive.turned()) * 4, -2.0, 2.0)
        return rate


class DriveAt(Rolling):
    def begin(self):
        self.begin_bend()
        return True

    def apply(self):
        steer(self.way * self.amount(), self.rate())


class DriveBy(Rolling):
    timed = True

    def begin(self):
        length = self.way * self.amount()
        self.begin_bend()
        self.end = drive.wheels.raw("travel") + length
        self.there = False
        return abs(length) > 0

    def apply(self):
        left = self.end - drive.wheels.raw("travel")
        fastest = drive.cruise if self.speed is None else self.speed()
        if abs(left) <= 0.0015:
            self.there = True
        if self.there:
            steer(0.0, 0.0)
        else:
            steer(closing(left, fastest, drive.acceleration, 0.02), self.rate())

    def done(self):
        return self.there and abs(drive.wheels.raw("speed")) < 0.01


class TurnAt(Motion):
    def __init__(self, line, amount):
        super().__init__(line, drive.wheels)
        self.amount = amount

    def apply(self):
        steer(0.0, self.amount())


class TurnBy(Motion):
    timed = True

    def __init__(self, line, amount, speed=None):
        super().__init__(line, drive.wheels)
        self.amount = amount
        self.speed = speed

    def angle(self):
        return self.amount()

    def begin(self):
        angle = self.angle()
        self.end = drive.turned() + angle
        self.there = False
        return abs(angle) > 0

    def apply(self):
        left = self.end - drive.turned()
        if abs(left) <= 0.6 * math.pi / 180:
            self.there = True
        if self.there:
            steer(0.0, 0.0)
        else:
            fastest = drive.turning if self.speed is None else self.speed()
            steer(0.0, closing(left, fastest, 2 * drive.acceleration / drive.track, 0.04 / drive.track))

    def done(self):
        return self.there and abs(drive.wheels.raw("_rate")) * drive.track < 0.02


class TurnTo(TurnBy):
    def angle(self):
        return wrapped(self.amount() - wrapped(drive.turned()))


class Wheels(Motion):
    def __init__(self, line, how, left, right):
        super().__init__(line, drive.wheels)
        self.how = how
        self.left = left
        self.right = right

    def apply(self):
        left = self.left()
        tell_wheels(self.how, left, self.right())


class Rest(Motion):
    def __init__(self, line, how):
        super().__init__(line, drive.wheels)
        self.how = how

    def apply(self):
        tell_wheels(self.how, 0.0, 0.0)


# Motors by themselves.

MOTOR_BRAKE, MOTOR_POWER, MOTOR_SPEED = 0, 1, 2
MOTOR_CLOSING = 3  # how hard the last stretch is closed, per second
MOTOR_CREEP = 0.01  # the slowest approach, as a share of full speed


class Run(Motion):
    def __init__(self, line, device, how, amount):
        super().__init__(line, device)
        self.how = how
        self.amount = amount

    def apply(self):
        told = self.moves[0].told
        told[0] = self.how
        told[1] = self.amount()


class RunBy(Motion):
    timed = True

    def __init__(self, line, device, amount, full, near, speed=None):
        super().__init__(line, device)
        self.amount = amount
        self.speed = speed
        self.full = full
        self.near = near

    def begin(self):
        by = self.amount()
        self.end = self.moves[0].raw("angle") + by
        self.there = False
        return by != 0

    def apply(self):
        told = self.moves[0].told
        left = self.end - self.moves[0].raw("angle")
        if abs(left) <= self.near:
            self.there = True
        if self.there:
            told[0] = MOTOR_BRAKE
            return
        fastest = self.full if self.speed is None else self.speed()
        told[0] = MOTOR_SPEED
        told[1] = sign(left) * min(abs(fastest), max(self.full * MOTOR_CREEP, abs(left) * MOTOR_CLOSING))

    def done(self):
        return self.there and self.moves[0].raw("moving") == 0


class StopMotor(Motion):
    def apply(self):
        self.moves[0].told[0] = MOTOR_BRAKE


# Joints: what to do (0 hold, 1 go home), where to, how fast.


def aim(device, target, speed, low, high):
    device.told[0] = 0.0
    device.told[1] = clamp(target, low, high)
    device.told[2] = speed
    device.moving = 1.0


class MoveTo(Motion):
    # `waits`: until it has settled, or is as near as it says.
    def __init__(self, line, device, reading, target, low, high, speed, waits=True, near=None, by=False):
        super().__init__(line, device)
        self.reading = reading
        self.target = target
        self.low = low
        self.high = high
        self.speed = speed
        self.timed = waits
        self.near = near
        self.by = by

    def where(self):
        # By so much: from where it was sent last, so that several add up.
        return self.moves[0].told[1] + self.target() if self.by else self.target()

    def begin(self):
        self.end = self.where()
        self.began = now.tick
        return True

    def apply(self):
        target = self.end if self.timed else self.where()
        if (target < self.low - 1e-6 or target > self.high + 1e-6) and now.tick == self.began:
            clip(self.moves[0])
        aim(self.moves[0], target, self.speed(), self.low, self.high)

    def done(self):
        device = self.moves[0]
        if now.tick <= self.began:
            return False
        return device.raw("moving") == 0 or (self.near is not None and abs(device.raw(self.reading) - clamp(self.end, self.low, self.high)) <= abs(self.near()))


class StopJoint(Motion):
    def __init__(self, line, device, reading, low, high, speed):
        super().__init__(line, device)
        self.reading = reading
        self.low = low
        self.high = high
        self.speed = speed

    def apply(self):
        device = self.moves[0]
        aim(device, device.raw(self.reading), self.speed, self.low, self.high)


class Home(Motion):
    timed = True

    def __init__(self, line, device, home, speed):
        super().__init__(line, device)
        self.home = home
        self.speed = speed

    def begin(self):
        self.began = now.tick
        self.moves[0].told[0] = 0.0
        return True

    def apply(self):
        device = self.moves[0]
        if now.tick > self.began:
            device.told[0] = 1.0
        device.told[1] = self.home
        device.told[2] = self.speed
        device.moving = 1.0

    def done(self):
        return now.tick > self.began + 2 and self.moves[0].raw("moving") == 0


class Perform(Motion):
    # Poses: after how long, and for each joint: the device, its reading, where to, its ends, its speed.
    timed = True

    def __init__(self, line, moves, poses, speed=None):
        super().__init__(line, *moves)
        self.poses = poses
        self.speed = speed

    def begin(self):
        self.began = now.tick
        self.next = 0
        self.times = max(0.05, 1.0 if self.speed is None else self.speed())
        return len(self.poses) > 0

    def apply(self):
        poses = self.poses
        while self.next < len(poses):
            after, joints = poses[self.next]
            if (now.tick - self.began) * now.seconds * self.times < after - 1e-9:
                return
            following = poses[self.next + 1][0] if self.next + 1 < len(poses) else after
            seconds = (following - after) / self.times
            for device, reading, target, low, high, speed in joints:
                way = abs(target - device.raw(reading))
                aim(device, target, min(speed, max(way / seconds, 0.02 * speed)) if seconds > 0 else speed, low, high)
            self.next += 1

    def done(self):
        return self.next == len(self.poses) and now.tick > self.began + 1 and all([device.raw("moving") == 0 for device in self.moves])


# Claws (1 opens, 2 closes), magnets, lamps, the horn.


class Jaws(Motion):
    timed = True

    def __init__(self, line, device, how):
        super().__init__(line, device)
        self.how = how

    def begin(self):
        self.began = now.tick
        return True

    def apply(self):
        self.moves[0].told[0] = self.how
        self.moves[0].moving = 1.0

    def done(self):
        return now.tick > self.began + 1 and self.moves[0].raw("moving") == 0


class Set(Motion):
    # One that is told a number, which stays.
    def __init__(self, line, device, amount):
        super().__init__(line, device)
        self.amount = amount

    def apply(self):
        self.moves[0].told[0] = self.amount()


class Tone(Motion):
    def __init__(self, line, device, pitch):
        super().__init__(line, device)
        self.pitch = pitch

    def apply(self):
        self.moves[0].told[0] = self.pitch()


class Play(Motion):
    # A clip, by its number from 1, and how long it lasts.
    timed = True

    def __init__(self, line, device, which, seconds):
        super().__init__(line, device)
        self.which = which
        self.seconds = seconds

    def length(self):
        return ceiling(self.seconds / now.seconds)

    def begin(self):
        self.end = now.tick + self.length()
        return True

    def apply(self):
        self.moves[0].told[1] = self.which

    def done(self):
        return now.tick >= self.end


class PlayBeside(Play):
    timed = False

    def begin(self):
        return True

    def apply(self):
        self.moves[0].told[2] = self.which
        self.moves[0].told[3] = now.tick + self.length()


class Look(Motion):
    # Waits until a device has looked anew.
    timed = True

    def __init__(self, line, device):
        super().__init__(line)
        self.device = device

    def begin(self):
        self.began = now.tick
        return True

    def done(self):
        return self.device._began > self.began
