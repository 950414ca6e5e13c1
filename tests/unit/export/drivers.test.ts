import { readFileSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { exportTo } from '../../../core/export'
import { driverLibrary, meaningLibrary } from '../../../core/export/micropython/runtime'
import { BOARDS, wiringOn } from '../../../core/hardware'
import { readRobot } from '../../../core/robot'
import { Interpreter } from '../../../prove/export/interpreter'
import { demo, demoText } from '../kit'

/** Drivers on a board of the test's own, down to pins and pulses; time passes when they sleep. */

const FAKES = {
  'board.py': readFileSync(new URL('board.py', import.meta.url), 'utf8'),
  'machine.py': 'from board import Pin, PWM, ADC, I2C\n',
  'time.py': 'import board\n\n\ndef ticks_us():\n    return board.us\n\n\ndef ticks_diff(a, b):\n    return a - b\n\n\ndef ticks_add(a, b):\n    return a + b\n\n\ndef sleep_us(n):\n    board.pass_us(n)\n\n\ndef sleep_ms(n):\n    board.pass_us(n * 1000)\n',
}

let interpreter: Interpreter
beforeAll(async () => { interpreter = await Interpreter.load() })

/** Runs a script that uses drivers; what it printed. */
function driven(script: string): readonly string[] {
  const drivers = driverLibrary().for(script)
  const files = { ...FAKES, 'drivers.py': `import machine\nimport time\nimport math\n${drivers.includes('framebuf.') ? 'import framebuf\n' : ''}from mindpath import *\n\n\n${drivers}\n`, 'mindpath.py': `import math\n\n\n${meaningLibrary().for(`${drivers} ${script} Device now run_tick`)}\n` }
  return interpreter.script(files, `import board, math\nfrom mindpath import *\nfrom drivers import *\n${script}`)
}
const numbers = (lines: readonly string[]): readonly number[] => lines.flatMap(l => l.split(' ')).map(Number)

/** Motors of wheels with their encoders: a share of power is the duty of its pulses, and at full power they turn at `top`. */
const ROLLS = `
class Rolls:
    def __init__(self, power, direction, a, b, counts, top):
        self.power, self.direction, self.a, self.b = power, direction, a, b
        self.angle = self.speed = 0.0
        self.one = 2 * math.pi / counts
        self.top = top
        self.edges = 0
        self.blocked = False
    def step(self):
        share = board.pulses[self.power]["duty"] / 65535 * (-1 if board.pins[self.direction]["value"] else 1)
        if abs(share) < 0.05:
            share = 0.0
        self.speed += (share * self.top - self.speed) * 0.001 / 0.06
        if self.blocked:
            self.speed = 0.0
        self.angle += self.speed * 0.001
        # Edges of a at whole counts, of b half a count on.
        while self.edges < int(self.angle / self.one):
            self.edges += 1
            a = 1 - board.pins[self.a]["value"]
            board.set_pin(self.b, 1 - a)
            board.set_pin(self.a, a)
        while self.edges > int(self.angle / self.one):
            self.edges -= 1
            a = 1 - board.pins[self.a]["value"]
            board.set_pin(self.b, a)
            board.set_pin(self.a, a)
`

const WHEELS = `${ROLLS}
now.seconds = 0.02
left = Rolls(2, 3, 8, 9, 720, 20.0)
right = Rolls(10, 11, 12, 13, 720, 19.0)
wheels = Device("wheels", ["speed", "travel", "stalled", "_turned", "_rate"], (0.0, 0.0, 0.0), (False, False, False))
part = WheelPair(wheels, Shaft(PinAndDirection(2, 3), Encoder(8, 9, 720), 20.0, 25.0), Shaft(PinAndDirection(10, 11), Encoder(12, 13, 720), 20.0, 25.0), 0.03, 0.14)
def both():
    left.step()
    right.step()
board.world = both
def drive_for(told, seconds):
    for _ in range(int(seconds / 0.02)):
        part.tell(told)
        board.pass_us(20000)
        read = part.look()
    return read
`

describe('a driver', () => {
  test('of a sonar times its echo: centimetres within 2 mm, nothing beyond its range or without an echo', () => {
    const read = numbers(driven(`
sonar = Echo(Device("sonar", ["distance", "sees"]), 14, 15, 0.02, 2.5, 0.05)
# The ping goes out when its trigger falls; the echo is high for as long as it is away.
def ping(metres):
    if metres is not None:
        board.pass_us(300)
        board.set_pin(15, 1)
        board.pass_us(int(metres * 2 / 343e-6))
        board.set_pin(15, 0)
    board.pass_us(30000)
first = sonar.look()
print(1 if first is None else 0)
for metres in (0.05, 0.1, 0.333, 1.2, 2.4, 3.0, None):
    ping(metres)
    distance, sees = sonar.look()
    print(9 if distance == INF else distance, sees)
print(board.us)
`))
    expect(read[0]).toBe(1)
    const distances = [0.05, 0.1, 0.333, 1.2, 2.4]
    distances.forEach((d, i) => { expect(Math.abs(read[1 + 2 * i]! - d)).toBeLessThan(0.002); expect(read[2 + 2 * i]).toBe(1) })
    expect(read.slice(11, 15)).toEqual([9, 0, 9, 0])
  })

  test('of a switch reads its pull-up: open is not pressed, to ground is', () => {
    expect(driven(`
bumper = Switch(Device("bumper", ["pressed"]), 16, 0.02)
print(bumper.look()[0])
board.set_pin(16, 0)
print(bumper.look()[0])
`)).toEqual(['0.0', '1.0'])
  })

  test('of a voltage goes by its curve, straight in between and no farther than its ends', () => {
    const read = numbers(driven(`
light = Voltage(Device("light", ["level"]), 26, 3.3, ((0.3, 0.05), (1.3, 0.25), (2.9, 0.95)), 0.02)
for volts in (0.0, 0.3, 0.8, 1.3, 2.1, 2.9, 3.3):
    board.volts[26] = volts
    print(light.look()[0])
eye = FarVoltage(Device("eye", ["distance", "sees"]), 26, 3.3, ((0.5, 0.8), (2.5, 0.1)), 0.02)
board.volts[26] = 1.5
print(eye.look()[0])
board.volts[26] = 0.2
print(9 if eye.look()[0] == INF else 0)
`))
    ;[0.05, 0.05, 0.15, 0.25, 0.6, 0.95, 0.95, 0.45, 9].forEach((x, i) => expect(read[i]).toBeCloseTo(x, 3))
  })

  const GEARED = `${ROLLS}
now.seconds = 0.02
# From -35 to 60 deg are 95 deg, in which its encoder counts 950; an arm between two ends, or with something in its way.
class Arm(Rolls):
    low, high = -100.0, 600.0
    def step(self):
        super().step()
        if not self.low <= self.angle / self.one <= self.high:
            self.angle = min(max(self.angle, self.low * self.one), self.high * self.one)
            self.speed = 0.0
arm = Arm(2, 3, 8, 9, 720, 12.0)
board.world = arm.step
DEG = math.pi / 180
shaft = Shaft(PinAndDirection(2, 3), Encoder(8, 9, 950 * 360 / 95), 130 * DEG, 800 * DEG)
def told(how, ticks):
    for _ in range(ticks):
        part.tell(how)
        board.pass_us(20000)
        read = part.look()
    return read
`
  test('of a joint behind a motor goes where it is told, stays, and says where it is and that it is blocked', () => {
    const read = numbers(driven(`${GEARED}
part = MotorJoint(Device("lift", ["angle", "moving", "stalled"], (0.0, 0.0, 1.0), (True, True, True)), shaft, -35 * DEG, 60 * DEG, 0.0, 0.0)
at, moving, stalled = told([0.0, 40 * DEG, 130 * DEG], 5)
print(at / DEG, moving)
at, moving, stalled = told([0.0, 40 * DEG, 130 * DEG], 100)
print(at / DEG, moving, stalled)
at, moving, stalled = told([0.0, -10 * DEG, 20 * DEG], 50)
print(at / DEG)
arm.low = 0.0
at, moving, stalled = told([0.0, -30 * DEG, 130 * DEG], 100)
print(at / DEG, stalled)
`))
    expect(read[0]).toBeLessThan(30)
    expect([read[1], Math.abs(read[2]! - 40) < 1, read[3], read[4]]).toEqual([1, true, 0, 0])
    // At 20 deg/s it is on its way still.
    expect(read[5]).toBeGreaterThan(15)
    expect(read[5]).toBeLessThan(30)
    expect([Math.abs(read[6]!) < 1, read[7]]).toEqual([true, 1])
  })
  test('of a joint behind a motor finds its home by the end at which it is blocked', () => {
    // It was put down 25 deg from where it should have been: its lower end is where it counts -100.
    const read = numbers(driven(`${GEARED}
part = MotorJoint(Device("lift", ["angle", "moving", "stalled"], (0.0, 0.0, 1.0), (True, True, True)), shaft, -35 * DEG, 60 * DEG, 0.0, 0.0)
at, moving, stalled = told([1.0, 0.0, 130 * DEG], 250)
print(at / DEG, moving, stalled, arm.angle / arm.one)
`))
    expect(Math.abs(read[0]!)).toBeLessThan(1)
    expect(read.slice(1, 3)).toEqual([0, 0])
    expect(Math.abs(read[3]! - 250)).toBeLessThan(12)
  })
  test('of a claw behind a motor closes until something is between its jaws, keeps pressing, and opens', () => {
    const read = numbers(driven(`${GEARED}
shaft = Shaft(PinAndDirection(2, 3), Encoder(8, 9, 950 * 2 * math.pi / 0.08), 0.1, 0.6)
part = MotorClaw(Device("claw", ["gap", "holding", "moving", "stalled"], (0.0,), (True,)), shaft, 0.08)
arm.low, arm.high = -475.0, 10.0
print(*told([2.0], 100))
print(board.pulses[2]["duty"] / 65535)
print(*told([1.0], 100))
arm.low = -960.0
print(*told([2.0], 150))
`))
    expect(read.slice(0, 4).map(x => Math.round(x * 100) / 100)).toEqual([0.04, 1, 0, 0])
    expect(read[4]).toBeCloseTo(0.25, 2)
    expect(read.slice(5, 9).map(x => Math.round(x * 100) / 100)).toEqual([0.08, 0, 0, 0])
    expect(read.slice(9, 11).map(x => Math.round(x * 100) / 100)).toEqual([0, 0])
  })

  test('of a servo sends pulses of 1 ms at one end and 2 ms at the other, and takes its time', () => {
    expect(driven(`
lift = Device("lift", ["angle", "moving", "stalled"], (0.0, 0.0, 1.0), (True, True, True))
part = ServoJoint(lift, Servo(12, -1.0, 1.0), 0.0, 2.0, 0.5)
def at(target, ticks):
    lift.told = [0.0, target, 2.0]
    part.tell(lift.told)
    for _ in range(ticks):
        angle, moving, stalled = part.look()
    print(board.pulses[12]["ns"], moving)
now.seconds = 0.02
at(0.0, 1)
at(1.0, 5)
at(1.0, 30)
at(-1.0, 60)
lift.told[0] = 1.0
part.tell(lift.told)
for _ in range(60):
    part.look()
print(board.pulses[12]["ns"], board.pulses[12]["freq"])
`)).toEqual(['1500000 0.0', '1600000 1.0', '2000000 0.0', '1000000 0.0', '1750000 50'])
  })

  test('of a sounder gives the pitch and is silent at 0; of a lamp, colours by three pins; of a magnet, on and off', () => {
    expect(driven(`
horn = Sounder(Device("horn", ["sounding"], (0.0, 0.0, 0.0, 0.0)), 21)
horn.tell([440.0, 0, 0, 0])
print(board.pulses[21]["freq"], board.pulses[21]["duty"], horn.look()[0])
horn.tell([0.0, 0, 0, 0])
print(board.pulses[21]["duty"], horn.look()[0])
lamp = ThreePinLamp(Device("lamp", ["color"], (0.0,)), 18, 19, 20)
for color in (4, 5, 6, 7, 8, 3, 0):
    lamp.tell([float(color)])
    print(board.pins[18]["value"], board.pins[19]["value"], board.pins[20]["value"])
magnet = Transistor(Device("magnet", ["holding", "on"], (0.0,)), 22)
magnet.tell([1.0])
print(board.pins[22]["value"], magnet.look()[1])
magnet.rest()
print(board.pins[22]["value"])
`)).toEqual(['440 32768 1.0', '0 0.0', '1 0 0', '1 1 0', '1 1 0', '0 1 0', '0 0 1', '1 1 1', '0 0 0', '1 1.0', '0'])
  })

  test('of two wheels keeps the speed that it is told, though the motors differ, and counts the way by edges', () => {
    const read = numbers(driven(`${WHEELS}
read = drive_for([2.0, 0.2, 0.2], 3)
print(read[0], read[3], read[1], (left.angle + right.angle) / 2 * 0.03)
read = drive_for([2.0, 0.1, -0.1], 3)
print(read[0], read[4])
read = drive_for([0.0, 0.0, 0.0], 0.5)
print(read[0], board.pulses[2]["duty"], board.pulses[10]["duty"])
board.pass_us(0)
`))
    const [speed, turned, travel, rolled, onSpot, rate, rests, ...off] = read
    expect(Math.abs(speed! - 0.2)).toBeLessThan(0.01)
    expect(Math.abs(turned!)).toBeLessThan(0.06)
    expect(Math.abs(travel! - rolled!)).toBeLessThan(0.0006)
    expect(travel!).toBeGreaterThan(0.5)
    expect(Math.abs(onSpot!)).toBeLessThan(0.01)
    expect(Math.abs(rate! - 0.2 / 0.14)).toBeLessThan(0.15)
    expect(Math.abs(rests!)).toBeLessThan(0.003)
    expect(off).toEqual([0, 0])
  })

  test('of two wheels gives power as the duty of its pulses, either way, and tells that a wheel stands', () => {
    expect(numbers(driven(`${WHEELS}
drive_for([3.0, 0.5, -0.25], 0.02)
print(board.pulses[2]["duty"], board.pins[3]["value"], board.pulses[10]["duty"], board.pins[11]["value"], board.pulses[2]["freq"])
left.blocked = True
print(drive_for([2.0, 0.2, 0.2], 0.1)[2], drive_for([2.0, 0.2, 0.2], 1)[2])
`))).toEqual([32767, 0, 16383, 1, 1000, 0, 1])
  })

  test('of a chip for turning leaves its error at rest out, counts right turns up, and tells its lean', () => {
    const read = numbers(driven(`
class Chip:
    rate = 0
    def write(self, register, data):
        print(register, data[0])
    def read(self, register, count):
        words = [0, 8192, 14189, 0, 0, 0, self.rate]
        return bytes([b for w in words for b in ((w >> 8) & 255, w & 255)])
chip = board.bus[0x68] = Chip()
chip.rate = 65536 - 40
gyro = RateChip(Device("gyro", ["turned", "heading", "rate", "tilt"]), machine.I2C(0), 0x68, 440 * math.pi / 180, 0.02)
# 90 degrees a second to the right, for a second; at 500 degrees a second a count is 0.01526 of one.
chip.rate = 65536 - 40 - 5898
for _ in range(50):
    board.pass_us(20000)
    turned, heading, rate, tilt = gyro.look()
print(turned, rate, tilt)
`.replace('class Chip', 'import machine\nclass Chip')))
    expect(read.slice(0, 4)).toEqual([0x6b, 0, 0x1b, 8])
    expect(read[4]).toBeCloseTo(Math.PI / 2, 2)
    expect(read[5]).toBeCloseTo(Math.PI / 2, 2)
    expect(read[6]).toBeCloseTo(Math.PI / 6, 2)
  })

  test('of parts that time light wakes one after the other and gives each its address, tells millimetres when one is measured, and nothing where it went wrong', () => {
    const said = driven(`
import machine
class Eye:
    def __init__(self):
        self.millimetres, self.how, self.asked = 0, 11, False
    def write(self, register, data):
        if register == 0x8A:
            board.bus[data[0]] = board.bus.pop(0x29)
        elif register == 0:
            self.asked = True
    def read(self, register, count):
        ready, self.asked = self.asked, False
        return bytes([(1 if ready else 0) | self.how << 3] + [0] * 9 + [self.millimetres >> 8, self.millimetres & 255])[register - 0x14:][:count]
eyes = (Eye(), Eye())
def listens(number, eye):
    def heard():
        if board.pins[number]["value"]:
            board.bus[0x29] = eye
    return heard
names = ["distance", "sees"]
parts = [FlashChip(Device(n, names, (), ()), machine.I2C(0), a, 0.02, 0.8, 0.03, shut) for n, a, shut in (("left", 0x30, 5), ("right", 0x31, 6))]
for number, eye in ((5, eyes[0]), (6, eyes[1])):
    board.pins[number]["hears"] = listens(number, eye)
print(board.pins[5]["value"], board.pins[6]["value"])
print([p.look() for p in parts], sorted(board.bus) == [0x30, 0x31])
for millimetres, how in ((250, 11), (431, 11), (5, 11), (900, 11), (250, 2)):
    eyes[0].millimetres, eyes[0].how, eyes[1].millimetres = millimetres, how, millimetres + 1
    print(*[9 if x == INF else x for p in parts for x in p.look()])
eyes[0].asked = False
print(parts[0].look())
alone = board.bus[0x29] = Eye()
part = FlashChip(Device("alone", names, (), ()), machine.I2C(0), 0x29, 0.02, 0.8, 0.03)
alone.millimetres = 120
print(part.look(), *part.look())
`)
    expect(said).toEqual(['0 0', '[None, None] True', '0.25 1.0 0.251 1.0', '0.431 1.0 0.432 1.0', '0.02 1.0 0.02 1.0', '9 0.0 9 0.0', '9 0.0 0.251 1.0', 'None', 'None 0.12 1.0'])
  })
})

describe('a display on the bus', () => {
  test('shows small and large letters, sends a strip a tick and only those that changed, and all of them at the end', () => {
    const said = driven(`
import machine, framebuf
class Glass:
    commands = []
    strips = {}
    def take(self, data):
        if data[0] == 0x80:
            self.commands.append(data[1])
        else:
            self.strips[self.commands[-1]] = bytes(data[1:])
glass = board.bus[0x3c] = Glass()
device = Device("display", ["shows"], (0.0,), (True,), shared=True)
screen = Screen(device, 21, 8)
part = TextDisplay(device, machine.I2C(0), 0x3c)
print(glass.commands[0] == 0xae, glass.commands[-1] == 0xaf)
now.devices = (device,)
def tick():
    run_tick()
    part.tell(device.told)
screen.put(1, "go", False)
screen.put(3, "A", True)
for _ in range(2):
    tick()
    print(len(glass.strips))
tick()
print(sorted(glass.strips))
def lit(strip, x, y):
    return glass.strips[strip][x] >> y & 1
small = framebuf.FrameBuffer(bytearray(1024), 128, 64, framebuf.MONO_VLSB)
small.text("go", 0, 0)
small.text("A", 0, 16)
print(all([lit(0, x, y) == small.pixel(x, y) for x in range(128) for y in range(8)]))
print(all([lit(2 + y // 4, 2 * x + i, (2 * y + j) % 8) == small.pixel(x, 16 + y) for x in range(64) for y in range(8) for i in (0, 1) for j in (0, 1)]))
glass.strips.clear()
screen.put(1, "stay", False)
tick()
tick()
print(sorted(glass.strips))
screen.fill("", False)
run_tick()
part.tell(device.told)
part.rest()
print(sorted(glass.strips), sum([sum(s) for s in glass.strips.values()]))
`)
    expect(said).toEqual(['True True', '1', '2', '[0, 2, 3]', 'True', 'True', '[0]', '[0, 2, 3] 0'])
  })
})

describe('a robot on a board', () => {
  test('Kiss the fender rolls up to a wall, stops before it, says so, and leaves its motors off', () => {
    const read = readRobot(demo('robots/limpet.json'))
    if (!read.ok) throw new Error('no robot')
    const robot = read.value
    const board = BOARDS.find(b => b.name === 'rp2040')!
    const text = demoText('projects/kiss-the-fender/program.mindpath')
    const made = exportTo('micropython', { text, robot, board, wiring: wiringOn(robot, board).wiring, seed: 1 })
    if (!made.ok) throw new Error(made.says)
    const { files } = made
    const { wiring: { ports } } = wiringOn(robot, board)
    const pin = (port: string, line: string): number => Number(/\d+$/.exec(ports[port]!.pins[line]!)![0])
    const [a, b] = robot.drive!.ports as [string, string]
    const { radius, 'encoder ticks': counts } = robot.drive!
    const rolls = (port: string, top: number): string => `Rolls(${['power', 'direction', 'encoder a', 'encoder b'].map(l => pin(port, l)).join(', ')}, ${counts}, ${top})`
    const said = [...interpreter.script({ ...FAKES, ...Object.fromEntries(Object.entries(files).filter(([name]) => name.endsWith('.py'))) }, `
import board, math
class Still:
    def write(self, register, data):
        pass
    def read(self, register, count):
        return bytes([0, 0, 0, 0, 64, 0] + [0] * 8)
board.bus[0x68] = Still()
import hardware
${ROLLS}
left = ${rolls(a, 20)}
right = ${rolls(b, 18.5)}
def wall():
    return 1.5 - (left.angle + right.angle) / 2 * ${radius}
def step():
    left.step()
    right.step()
# The echo of a ping is over before anybody looks.
def hear():
    if board.pins[${pin('P2', 'trigger')}]["value"] == 0:
        us = int(wall() * 2 / 343e-6)
        board.set_pin(${pin('P2', 'echo')}, 1)
        board.us += us
        board.set_pin(${pin('P2', 'echo')}, 0)
        board.us -= us
board.pins[${pin('P2', 'trigger')}]["hears"] = hear
board.world = step
# Stopped in the middle of its way, its motors are off too.
hardware.run(hardware.parts, 1)
print(left.angle > 1)
print("off %d %d" % (board.pulses[left.power]["duty"], board.pulses[right.power]["duty"]))
hardware.run(hardware.parts, 20)
print("wall %.4f" % wall())
print("off %d %d" % (board.pulses[left.power]["duty"], board.pulses[right.power]["duty"]))
`)]
    expect(said.splice(0, 3)).toEqual(['late ticks: 0', 'True', 'off 0 0'])
    expect(said.slice(0, 3).map(l => l.replace(/[\d.]+ cm/, 'N cm'))).toEqual(['note main: stopped at N cm', 'finish main: alongside', 'late ticks: 0'])
    const wall = Number(said[3]!.slice(5))
    expect(wall).toBeGreaterThan(0.03)
    expect(wall).toBeLessThan(0.13)
    expect(Math.abs(Number(/at ([\d.]+) cm/.exec(said[0]!)![1]) / 100 - wall)).toBeLessThan(0.004)
    expect(said[4]).toBe('off 0 0')
  })
})
