import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { readFolder } from '../../../cli/project'
import { wiringOn } from '../../../core/hardware'
import { readRobot, type Robot } from '../../../core/robot'
import { ATMEGA, Sketches, type BoardRan } from '../../../prove/export/sketch'
import { demo, demoText } from '../kit'

/** Exported sketches on a simulated board, down to levels, pulses and edges. */

let sketches: Sketches
beforeAll(() => { sketches = new Sketches() }, 120_000)
afterAll(() => sketches.free())

function robotOf(name: string): Robot {
  const read = readRobot(demo(`robots/${name}.json`))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
/** A program on a robot with `connected` at the pins; pins stand in it as {PORT line}. */
function ranOn(name: string | Robot, program: string, seconds: number, connected: readonly string[] = []): BoardRan & { pin(port: string, line: string): number } {
  const robot = typeof name === 'string' ? robotOf(name) : name
  const { wiring } = wiringOn(robot, ATMEGA)
  const pin = (port: string, line: string): number => { const at = wiring.ports[port]!.pins[line]!; return at.startsWith('A') ? 14 + Number(at.slice(1)) : Number(at.slice(1)) }
  const { elf } = sketches.compile(program, robot)
  return { ...sketches.run(elf, seconds, connected.map(l => l.replace(/\{(\w+) ([\w ]+)\}/g, (_, port: string, line: string) => String(pin(port, line))))), pin }
}
const notes = (ran: BoardRan): readonly string[] => ran.said.filter(s => s.line.startsWith('note ')).map(s => s.line.replace(/^note \w+: /, ''))

describe('a sketch on a simulated board', () => {
  test.each([0.1, 0.5, 1.8])('a sonar\u2019s echo of %f m is read to half a centimetre; one that does not come back is none', (metres) => {
    const ran = ranOn('limpet', 'when every 0.2 s\n  note "{sonar.distance to 0.1 cm}"\n', 1.5, [`echo {P2 trigger} {P2 echo} ${metres}`])
    const read = notes(ran)
    expect(read.length).toBeGreaterThan(3)
    for (const text of read) expect(Math.abs(Number.parseFloat(text) / 100 - metres)).toBeLessThan(0.005)
    if (metres === 0.5) expect(notes(ranOn('limpet', 'when every 0.2 s\n  note "{sonar.distance}"\n', 1))).toContain('no echo')
  })

  test('a share of power is the duty of pulses, and its sign a level', () => {
    const { pins, pin } = ranOn('limpet', 'start\n  wheels left 40 % right -60 % for 1 s\n', 0.9)
    expect(pins.get(pin('A', 'power'))!.duty).toBeCloseTo(0.4, 2)
    expect(pins.get(pin('B', 'power'))!.duty).toBeCloseTo(0.6, 2)
    expect(pins.get(pin('A', 'direction'))?.level ?? 0).toBe(0)
    expect(pins.get(pin('B', 'direction'))!.level).toBe(1)
  })
  test('edges of encoders are the way that the wheels rolled, forwards and back', () => {
    const wheels = ['A', 'B'].map(port => `wheel {${port} power} {${port} direction} {${port} encoder a} {${port} encoder b} 720 18.75 0.032`)
    const ran = ranOn('limpet', 'start\n  drive 20 cm\n  note "{wheels.travel to 0.1 cm}"\n  drive back 5 cm\n  wait 0.5 s\n  note "{wheels.travel to 0.1 cm}"\n', 5, wheels)
    const [there, back] = notes(ran).map(t => Number.parseFloat(t))
    expect(Math.abs(there! - 20)).toBeLessThan(1)
    expect(Math.abs(back! - 15)).toBeLessThan(1)
    for (const angle of ran.wheels) expect(Math.abs(angle * 3.2 - back!)).toBeLessThan(0.3)
  })
  test('a servo’s pulse is its angle', () => {
    const { pins, pin } = ranOn('cuttle', 'start\n  move lift to 20 deg\n  wait 1 s\n', 2.5)
    const lift = pins.get(pin('C', 'signal'))!
    // From -35 deg at 1 ms to 60 deg at 2 ms, fifty a second.
    expect(lift.high).toBeCloseTo(1000 + 1000 * 55 / 95, -1)
    expect(lift.period).toBeCloseTo(20_000, -2)
  })
  test('a joint behind a motor goes where it is told by what its encoder counts; without a count nothing moves it, and that is said', () => {
    const document = demo('robots/cuttle.json') as { devices: { name: string }[] }
    const read = readRobot({ ...document, drive: undefined, gestures: undefined, devices: document.devices.filter(d => d.name === 'lift') })
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const wired = { by: 'pin and direction', pins: { power: 'D5', direction: 'D4', 'encoder a': 'D2', 'encoder b': 'D7' } }
    const robot = (counts: object): Robot => ({ ...read.value, wiring: { board: ATMEGA.name, ports: { C: { ...wired, ...counts } } } })
    const program = 'start\n  move lift to 20 deg\n  note "{lift.angle to 1 deg}"\n  wait 0.5 s\n'
    const motor = 'wheel {C power} {C direction} {C encoder a} {C encoder b} 720 12 0.03'
    const ran = ranOn(robot({ counts: 950 }), program, 4, [motor])
    expect(Math.abs(Number.parseFloat(notes(ran)[0]!) - 20)).toBeLessThanOrEqual(1)
    expect(sketches.compile(program, robot({})).missing).toEqual(['lift'])
  })
  test('a claw behind a motor closes and opens by what its encoder counts', () => {
    const document = demo('robots/cuttle.json') as { devices: { name: string, kind: string }[] }
    const read = readRobot({ ...document, drive: undefined, gestures: undefined, devices: document.devices.filter(d => d.kind === 'claw').map(d => ({ ...d, mount: { forward: '4 cm', right: '0 cm', up: '5 cm' } })) })
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const port = read.value.fitted.find(f => f.kind.kind === 'claw')!.port
    const robot: Robot = { ...read.value, wiring: { board: ATMEGA.name, ports: { [port]: { by: 'pin and direction', pins: { power: 'D5', direction: 'D4', 'encoder a': 'D2', 'encoder b': 'D7' }, counts: 400 } } } }
    const turns = ranOn(robot, 'start\n  close claw\n  note "{claw.gap to 1 mm} {claw.holding}"\n  open claw\n  note "{claw.gap to 1 mm} {claw.holding}"\n', 6, [`wheel {${port} power} {${port} direction} {${port} encoder a} {${port} encoder b} 720 6 0.03`])
    expect(notes(turns)).toEqual([expect.stringMatching(/^-?[01] mm false$/), expect.stringMatching(/^(79|80|81) mm false$/)])
    // A motor that does not turn is blocked by what is between the jaws.
    expect(notes(ranOn(robot, 'start\n  close claw at most 1 s\n  note "{claw.gap to 1 mm} {claw.holding}"\n', 2))).toEqual(['80 mm true'])
  })
  test('a bumper with its pull-up is pressed by a low level', () => {
    const ran = ranOn('limpet', 'when bumper_left.pressed once\n  note "hit"\n', 1, ['level {P4 signal} 1 0', 'level {P4 signal} 0 0.5'])
    expect(notes(ran)).toEqual(['hit'])
    expect(ran.said.find(s => s.line.endsWith('hit'))!.at).toBeGreaterThan(0.5)
  })
  test('names that a chip keeps for itself may stand in a program', () => {
    expect(notes(ranOn('limpet', 'memory SP = 1\nmemory B1 = 2\nmemory F = 3\nmemory loop = 4\nmode PORTB\n  start\n    note "{SP + B1 + F + loop}"\n', 0.3))).toEqual(['10'])
  })
  test('a tone has its pitch', () => {
    const { pins, pin } = ranOn('limpet', 'start\n  tone 440 Hz for 1 s\n', 0.9)
    expect(1e6 / pins.get(pin('P9', 'signal'))!.period).toBeCloseTo(440, -1)
  })
  test('a lamp on a data line is told green, red and blue', () => {
    const { pins, pin } = ranOn('limpet', 'start\n  light lamp red\n  wait 1 s\n', 0.5)
    const off = '0'.repeat(24)
    expect(pins.get(pin('P8', 'signal'))?.bits ?? wiringOn(robotOf('limpet'), ATMEGA).wiring.ports['P8']).toBe(`${off}${'0'.repeat(8)}01010000${'0'.repeat(8)}`)
  })
  test('a display shows letters, small ones and large ones, and wipes what stood there', () => {
    const { dots } = ranOn('cuttle', 'start\n  show "gone" at line 1\n  wait 0.4 s\n  show "i" at line 1\n  show "T" large at line 3\n  wait 1 s\n', 1.2, ['display 0x3c'])
    const shown = (top: number, rows: number, columns: number): readonly string[] => dots.slice(top, top + rows).map(line => line.slice(0, columns))
    expect(shown(0, 8, 12)).toEqual(['..#.........', '............', '.##.........', '..#.........', '..#.........', '..#.........', '.###........', '............'])
    // Twice as wide and high, over two lines.
    expect(shown(16, 4, 12)).toEqual(['##########..', '##########..', '....##......', '....##......'])
    expect(shown(24, 8, 12)).toEqual([...Array.from({ length: 6 }, () => '....##......'), '............', '............'])
    expect(dots.slice(32).join('')).not.toContain('#')
  })
  test('a voltage is what its curve says', () => {
    const ran = ranOn('cuttle', 'when every 0.2 s\n  note "{light.level to 1 %}"\n', 1, [`volts ${wiringOn(robotOf('cuttle'), ATMEGA).wiring.ports['P2']!.pins['signal']!.slice(1)} 2000 0`])
    expect(notes(ran).at(-1)).toBe('40 %')
  })
  test('a gyro on the bus is read by its registers: its own error at the start, then how far it turned', () => {
    // 16,384 on z, upright, and 40 counts about it of its own; then 1,000 more, of 500 deg/s in 32,768, to the right for half a second.
    const registers = `bus 0x68 ${'00'.repeat(0x3f)}4000${'00'.repeat(6)}0028`
    const ran = ranOn('limpet', 'when every 0.1 s\n  note "{gyro.rate to 0.1 deg/s} {gyro.turned to 0.1 deg} {gyro.tilt to 1 deg}"\n', 2, [registers, 'register 0x47 0xfc 1', 'register 0x48 0x40 1', 'register 0x47 0 1.5', 'register 0x48 40 1.5'])
    const read = notes(ran).map(t => t.split(/[^-\d.]+/).slice(0, 3).map(Number))
    expect(read[0]).toEqual([0, 0, 0])
    expect(Math.max(...read.map(r => r[0]!))).toBeCloseTo(1000 * 500 / 32_768, 1)
    expect(Math.abs(read.at(-1)![1]! - 0.5 * 1000 * 500 / 32_768)).toBeLessThan(0.5)
  })
  test('a part that times light is woken, given its address, and read in millimetres; one that measured nothing sees nothing', () => {
    // Ready, and well (11); then 300 mm at its twelfth byte. It wakes at 0x29, where a part stands here that keeps what is written to it.
    const answers = (how: string): string => `${'00'.repeat(0x14)}${how}${'00'.repeat(9)}012c${'00'.repeat(0x90 - 0x20)}`
    const program = 'when every 0.2 s\n  note "{rear.distance to 1 mm} {rear.sees}"\n'
    const { ports } = wiringOn(robotOf('limpet'), ATMEGA).wiring
    expect(ports['P7']).toMatchObject({ by: 'bus and shut line', address: 0x30 })
    const ran = ranOn('limpet', program, 1, [`bus 0x29 ${'00'.repeat(0x90)}`, `bus 0x30 ${answers('59')}`])
    expect(new Set(notes(ran))).toEqual(new Set(['300 mm true']))
    expect(ran.pins.get(ran.pin('P7', 'shut'))!.level).toBe(1)
    expect(new Set(notes(ranOn('limpet', program, 1, [`bus 0x30 ${answers('11')}`])))).toEqual(new Set(['no echo false']))
  })
  test('Kiss the fender rolls up to a wall, stops before it, says so, and leaves its motors off', () => {
    const wheels = ['A', 'B'].map(port => `wheel {${port} power} {${port} direction} {${port} encoder a} {${port} encoder b} 720 18.75 0.032`)
    const ran = ranOn('limpet', demoText('projects/kiss-the-fender/program.mindpath'), 9, [...wheels, 'ahead 1', 'echo {P2 trigger} {P2 echo} ahead'])
    expect(ran.ahead).toBeGreaterThan(0.05)
    expect(ran.ahead).toBeLessThan(0.13)
    expect(ran.said.slice(-2).map(s => s.line)).toEqual(['finish main: alongside', 'late ticks: 0'])
    for (const port of ['A', 'B']) expect(ran.pins.get(ran.pin(port, 'power'))!.duty).toBe(0)
  })
  test('a letter on the serial line stops it in the middle of its way, and asks for a line for each tick', () => {
    const ran = ranOn('limpet', 'start\n  drive 20 cm/s for 10 s\n', 2, ['key r 0.6', 'key s 1'])
    const ticks = ran.said.filter(s => s.line.startsWith('tick '))
    expect(ticks.length).toBeGreaterThan(10)
    expect(ticks[0]!.line).toMatch(/^tick \d+ \| - \| wheels\* .*\| wheels 2 0\.2 0\.2$/)
    expect(ran.said.at(-1)!.at).toBeLessThan(1.1)
    for (const port of ['A', 'B']) expect(ran.pins.get(ran.pin(port, 'power'))!.duty).toBe(0)
  })
  test.each(['kiss-the-fender', 'startle', 'sort-the-floats'])('what %s needs of a board is known beforehand, as near as docs/hardware.md says', async (project) => {
    const { documents, program } = await readFolder(`demo/projects/${project}`)
    const read = readRobot(documents.robot)
    const { expected, memory, flash } = sketches.compile(program, read.ok ? read.value : robotOf('limpet'))
    expect(Math.abs(expected.memory / memory - 1)).toBeLessThan(0.06)
    expect(Math.abs(expected.flash / flash - 1)).toBeLessThan(0.15)
  })
})
