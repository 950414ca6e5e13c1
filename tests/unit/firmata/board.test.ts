import { describe, expect, test } from 'vitest'
import { FirmataBoard, FirmataReader, PIN_MODE, RobotPins, SYSEX, bytesOf, fromPairs, inPairs, pinNumbers, type Message } from '../../../core/firmata'
import { BOARDS, wiringOn } from '../../../core/hardware'
import { RandomStream } from '../../../core/random'
import { factsOf, readRobot } from '../../../core/robot'
import { demo } from '../kit'

const board = BOARDS.find(b => b.name === 'firmata')!

/** A demo robot with its wiring: pins are chosen once. */
const wired = new Map(['limpet', 'cuttle'].map((name) => {
  const read = readRobot(demo(`robots/${name}.json`))
  if (!read.ok) throw new Error('no robot')
  return [name, { robot: read.value, facts: factsOf(read.value), wiring: wiringOn(read.value, board).wiring }] as const
}))

/** A demo robot behind the pins of a board; what the board sent, as messages. */
function posed(name: string) {
  const { robot, facts, wiring } = wired.get(name)!
  const pins = new RobotPins(robot, facts, board, wiring)
  const reader = new FirmataReader(true)
  const sent: Message[] = []
  const poses = new FirmataBoard(pins, name, bytes => { sent.push(...reader.take(bytes)) })
  const readings = new Float64Array(facts.readingCount)
  pins.read(readings)
  const pin = (port: string, line = 'signal'): number => pinNumbers(board).get(wiring.ports[port]!.pins[line]!)!
  const set = (device: string, reading: string, value: number): void => {
    const d = facts.devices.find(x => x.name === device)!
    readings[d.first + d.readings.findIndex(r => r.name === reading)] = value
  }
  return { pins, poses, sent, wiring, robot, pin, set, say: (...all: readonly Message[]) => { for (const m of all) poses.receive(bytesOf(m)) } }
}

test('which of its connected devices are not there is known: what no client would find', () => {
  expect(posed('limpet').pins.missing).toEqual(['floor', 'rear'])
})

describe('the bytes of Firmata', () => {
  const messages: readonly Message[] = [
    { says: 'analog', pin: 3, value: 1023 }, { says: 'digital port', port: 1, mask: 0xa5 }, { says: 'report analog', of: 2, on: true }, { says: 'report digital', of: 1, on: false },
    { says: 'pin mode', pin: 9, mode: PIN_MODE.servo }, { says: 'digital pin', pin: 13, high: true }, { says: 'sysex', command: SYSEX.samplingInterval, data: [20, 0] },
  ]
  test('come back as the messages that they were, however they are cut', () => {
    const bytes = messages.flatMap(bytesOf)
    for (const piece of [1, 2, 3, 7, bytes.length]) {
      const reader = new FirmataReader(false)
      const read: Message[] = []
      for (let i = 0; i < bytes.length; i += piece) read.push(...reader.take(bytes.slice(i, i + piece)))
      expect(read).toEqual(messages)
    }
    expect(new FirmataReader(true).take(bytesOf({ says: 'version', version: [2, 6] }))).toEqual([{ says: 'version', version: [2, 6] }])
    expect(new FirmataReader(false).take([...bytesOf({ says: 'version', version: null }), 0xff])).toEqual([{ says: 'version', version: null }, { says: 'reset' }])
    expect(fromPairs(inPairs([0, 127, 128, 255]))).toEqual([0, 127, 128, 255])
  })
  test('that were lost take no other message with them', () => {
    const reader = new FirmataReader(false)
    // A long message without its end, a short one without its last byte, data without a message.
    expect(reader.take([0xf0, 0x6f, 1, 2, ...bytesOf(messages[0]!), 0xe1, 5, ...bytesOf(messages[4]!), 1, 2, 3, ...bytesOf(messages[5]!)])).toEqual([messages[0], messages[4], messages[5]])
  })
})

describe('a robot that poses as a board', () => {
  test('counts its analogue pins behind the digital ones, however many there are', () => {
    const pin = (name: string) => ({ ...board.pins[0]!, name })
    expect([...pinNumbers({ ...board, pins: ['D3', 'A2'].map(pin) })]).toEqual([['D3', 3], ['A2', 16]])
    expect([...pinNumbers({ ...board, pins: ['D53', 'A0'].map(pin) })]).toEqual([['D53', 53], ['A0', 54]])
    expect(() => pinNumbers({ ...board, pins: [pin('GP3')] })).toThrow(/the board firmata has a pin GP3/)
  })
  test('says who it is, what its pins can do and which are analogue', () => {
    const { poses, sent, say } = posed('limpet')
    poses.greet()
    say({ says: 'sysex', command: SYSEX.capabilities, data: [] }, { says: 'sysex', command: SYSEX.analogMapping, data: [] })
    expect(sent[0]).toEqual({ says: 'version', version: [2, 6] })
    const [, firmware, capabilities, mapping] = sent.map(m => m.says === 'sysex' ? m.data : [])
    expect(String.fromCharCode(...fromPairs(firmware!.slice(2)))).toBe('limpet')
    const ofPins: number[][] = [[]]
    for (const x of capabilities!) { if (x === 127) ofPins.push([]); else ofPins.at(-1)!.push(x) }
    expect(ofPins[3]).toEqual([PIN_MODE.input, 1, PIN_MODE.output, 1, PIN_MODE.pwm, 8, PIN_MODE.servo, 14, PIN_MODE.pullUp, 1])
    // The serial line's own pins can do nothing.
    expect(ofPins.slice(0, 2)).toEqual([[], []])
    expect(mapping!.slice(14)).toEqual([0, 1, 2, 3, 4, 5])
    expect(mapping!.slice(0, 14).every(c => c === 127)).toBe(true)
  })
  test('runs its wheels by the strength and the way of its pins, and stops them at a reset', () => {
    const { pins, poses, pin, say, robot } = posed('limpet')
    const [left, right] = robot.drive!.ports as [string, string]
    for (const port of [left, right]) say({ says: 'pin mode', pin: pin(port, 'power'), mode: PIN_MODE.pwm }, { says: 'pin mode', pin: pin(port, 'direction'), mode: PIN_MODE.output })
    expect(pins.taken()).toEqual([3, 0, 0].map((value, channel) => ({ device: 'wheels', channel, value })))
    say({ says: 'analog', pin: pin(left, 'power'), value: 255 }, { says: 'analog', pin: pin(right, 'power'), value: 51 }, { says: 'digital pin', pin: pin(right, 'direction'), high: true })
    expect(pins.taken()).toEqual([{ device: 'wheels', channel: 1, value: 1 }, { device: 'wheels', channel: 2, value: -0.2 }])
    // The same over and over is said once.
    say({ says: 'analog', pin: pin(left, 'power'), value: 255 })
    expect(pins.taken()).toEqual([])
    poses.reset()
    expect(pins.taken().map(t => [t.channel, Math.abs(t.value)])).toEqual([[1, 0], [2, 0]])
  })
  test('puts what it reads on its pins: a pressed bumper is low, a distance is a voltage; levels go out when they change', () => {
    const { poses, sent, pin, set, say } = posed('limpet')
    const bumper = pin('P4')
    say({ says: 'pin mode', pin: bumper, mode: PIN_MODE.pullUp }, { says: 'report digital', of: bumper >> 3, on: true }, { says: 'report analog', of: pin('P2') - 14, on: true })
    expect(sent.splice(0)).toEqual([{ says: 'digital port', port: bumper >> 3, mask: 1 << (bumper & 7) }, { says: 'analog', pin: pin('P2') - 14, value: 0 }])
    set('bumper_left', 'pressed', 1)
    set('sonar', 'distance', 1.25)
    poses.pass(20)
    expect(sent.splice(0)).toEqual([{ says: 'digital port', port: bumper >> 3, mask: 0 }, { says: 'analog', pin: pin('P2') - 14, value: 512 }])
    set('sonar', 'distance', Infinity)
    poses.pass(20)
    expect(sent.splice(0)).toEqual([{ says: 'analog', pin: pin('P2') - 14, value: 1023 }])
    say({ says: 'sysex', command: SYSEX.samplingInterval, data: [100, 0] })
    for (let i = 0; i < 10; i++) poses.pass(20)
    expect(sent).toHaveLength(2)
  })
  test('moves its joints and its claw by servo pulses, lights its lamp by three pins', () => {
    const { pins, pin, say, robot } = posed('cuttle')
    const port = (name: string): string => robot.devices.find(d => d.name === name)!.port!
    const lift = pin(port('lift'))
    say({ says: 'sysex', command: SYSEX.servoConfig, data: [lift, 1000 & 127, 1000 >> 7, 2000 & 127, 2000 >> 7] })
    pins.taken()
    const { from, to } = robot.devices.find(d => d.name === 'lift')!.parameters as { from: number, to: number }
    for (const [value, share] of [[0, 0], [90, 0.5], [180, 1], [1250, 0.25]] as const) {
      say({ says: 'sysex', command: SYSEX.extendedAnalog, data: [lift, value & 127, value >> 7] })
      expect(pins.taken().find(t => t.channel === 1)!.value).toBeCloseTo(from + share * (to - from), 10)
    }
    const claw = pin(port('claw'))
    say({ says: 'pin mode', pin: claw, mode: PIN_MODE.servo }, { says: 'analog', pin: claw, value: 180 })
    expect(pins.taken()).toEqual([{ device: 'claw', channel: 0, value: 1 }])
    const limpet = posed('limpet')
    const lamp = ['red', 'green', 'blue'].map(line => limpet.pin('P8', line))
    for (const p of lamp) limpet.say({ says: 'pin mode', pin: p, mode: PIN_MODE.output })
    limpet.say({ says: 'digital pin', pin: lamp[0]!, high: true }, { says: 'digital pin', pin: lamp[1]!, high: true })
    expect(limpet.pins.taken()).toEqual([{ device: 'lamp', channel: 0, value: 6 }])
  })
  test('answers for its gyro on the bus, and says where nothing is', () => {
    const { sent, set, say } = posed('limpet')
    set('gyro', 'rate', Math.PI / 2)
    set('gyro', 'tilt', 0)
    const ask = (address: number, ...data: readonly number[]): Message => ({ says: 'sysex', command: SYSEX.i2cRequest, data: [address, 8, ...inPairs(data)] })
    say({ says: 'sysex', command: SYSEX.i2cRequest, data: [0x68, 0, ...inPairs([0x1b, 8])] }, ask(0x68, 0x47, 2), ask(0x68, 0x75, 1), ask(0x11, 0, 1))
    const replies = sent.map(m => m.says === 'sysex' ? m : null)
    const [, , high, low] = fromPairs(replies[0]!.data)
    // 90 degrees a second to the right are -90 / 500 of the chip's range.
    expect(((high! << 8 | low!) << 16 >> 16) / 32768 * 500).toBeCloseTo(-90, 1)
    expect(fromPairs(replies[1]!.data)).toEqual([0x68, 0x75, 0x68])
    expect(String.fromCharCode(...fromPairs(replies[2]!.data))).toBe('I2C: nothing at address 17')
  })
  test('whatever bytes come: it neither throws nor tells a device what is no number, and answers afterwards', () => {
    for (let seed = 0; seed < 400; seed++) {
      const { pins, poses, sent, say } = posed(seed % 2 === 0 ? 'limpet' : 'cuttle')
      const r = RandomStream.named(seed, 'bytes')
      const whole = [0xe0, 0x90, 0xc0, 0xd0, 0xf0, 0xf4, 0xf5, 0xf7, 0xf9, 0x6f, 0x70, 0x76, 0x7a]
      poses.receive(Array.from({ length: 600 }, () => r.chance(0.3) ? whole[Math.floor(r.unit() * whole.length)]! + (r.chance(0.5) ? Math.floor(r.unit() * 16) : 0) : Math.floor(r.unit() * (r.chance(0.1) ? 256 : 128))))
      poses.pass(20)
      for (const { channel, value } of pins.taken()) expect(Number.isFinite(value) && channel >= 0).toBe(true)
      sent.length = 0
      say({ says: 'sysex', command: SYSEX.firmware, data: [] })
      expect(sent).toHaveLength(1)
      expect(sent[0]).toMatchObject({ says: 'sysex', command: SYSEX.firmware })
    }
  })
})
