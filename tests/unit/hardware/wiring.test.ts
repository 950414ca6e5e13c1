import fc from 'fast-check'
import { readdirSync, readFileSync } from 'node:fs'
import { SaxesParser } from 'saxes'
import { describe, expect, test } from 'vitest'
import { BOARDS, boardsFor, checkWiring, drivenBoard, ownBoard, readOwnBoard, connectedBy, fittedOn, readBoard, suggestWiring, wiredPorts, wiringOn, wiringPlan, withPoint, type Board } from '../../../core/hardware'
import { readRobot, type PortWiring, type Robot, type Wiring } from '../../../core/robot'
import atmega328p from '../../../core/hardware/boards/atmega328p.json'

const documentOf = (file: string): Record<string, unknown> => JSON.parse(readFileSync(`demo/robots/${file}`, 'utf8')) as Record<string, unknown>
function robotOf(document: unknown): Robot {
  const read = readRobot(document)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const board = (name: string): Board => BOARDS.find(b => b.name === name)!
const ROBOTS = readdirSync('demo/robots').map(file => robotOf(documentOf(file)))
const LIMPET = robotOf(documentOf('limpet.json'))

/** What is wrong, as lines; with one port of what would do wired otherwise. */
function wrong(on: string, port: string, other: Partial<PortWiring> | null, robot = LIMPET): readonly string[] {
  const { wiring } = suggestWiring(robot, board(on))
  const ports: Wiring['ports'] = other === null ? Object.fromEntries(Object.entries(wiring.ports).filter(([p]) => p !== port)) : { ...wiring.ports, [port]: { ...wiring.ports[port]!, ...other } }
  return checkWiring(robot, board(on), { board: on, ports }).filter(p => p.severity === 'error').map(p => `${p.path}: found ${p.value}; ${p.message}`)
}

describe('a board', () => {
  test.each([
    ['a pin twice', { buses: [], pins: [{ name: 'D1', side: 'left', can: [] }, { name: 'D1', side: 'left', can: [] }] }, 'pins[1].name', 'taken'],
    ['what no pin can do', { pins: [{ name: 'D1', side: 'left', can: ['fly'] }] }, 'pins[0].can[0]', 'allowed is one of input, pull-up'],
    ['a bus on no pin', { buses: [{ name: 'i2c', sda: 'Z9', scl: 'A5' }] }, 'buses[0].sda', 'the board has no such pin; it has D0'],
    ['too many volts', { volts: 12 }, 'volts', 'allowed is 5.5 or less'],
    ['what takes a timer and does not beat', { takes: { sing: 'timer 1' } }, 'takes', 'does not know sing'],
  ])('is refused with %s', (_, part, path, message) => {
    const read = readBoard({ ...atmega328p, ...part })
    expect(read).toMatchObject({ ok: false, problems: [{ path: expect.stringContaining(path), message: expect.stringContaining(message) }] })
  })
})

describe('a board of one’s own', () => {
  const bringing = (document: unknown, name = 'workbench'): Robot => ({ ...LIMPET, wiring: { board: name, ports: {}, 'own board': document } })

  test('comes with the robot’s document, through reading it, and stands behind ours', () => {
    const document = { ...documentOf('limpet.json'), wiring: { board: 'workbench', ports: {}, 'own board': { ...atmega328p, name: 'workbench' } } }
    const read = readRobot(document)
    expect(read.ok && boardsFor(read.value).map(b => b.name)).toEqual([...BOARDS.map(b => b.name), 'workbench'])
    expect(boardsFor(LIMPET)).toEqual(BOARDS)
    expect(ownBoard(LIMPET)).toBe(null)
  })
  test('has a name that none of ours has, and is left out where it cannot be read', () => {
    expect(readOwnBoard(atmega328p)).toMatchObject({ ok: false, problems: [{ path: 'name', value: '"atmega328p"' }] })
    const broken = bringing({ ...atmega328p, name: 'workbench', volts: 12 })
    expect(ownBoard(broken)).toMatchObject({ ok: false, problems: [{ path: 'wiring.own board.volts' }] })
    expect(boardsFor(broken)).toEqual(BOARDS)
  })
  test('drives the robot over a wire where it speaks Firmata and the robot is wired to it', () => {
    const speaks = { ...atmega328p, name: 'workbench', language: 'firmata' }
    expect(drivenBoard(bringing(speaks)).name).toBe('workbench')
    expect(drivenBoard(bringing(speaks, 'rp2040')).name).toBe('firmata')
    expect(drivenBoard(bringing({ ...atmega328p, name: 'workbench' })).name).toBe('firmata')
  })
})

describe('what would do', () => {
  test('connects every demo robot to every board, or says what it leaves out and why; nothing is wrong with the rest', () => {
    for (const robot of ROBOTS) {
      for (const on of BOARDS) {
        const { wiring, leftOut } = suggestWiring(robot, on)
        const problems = checkWiring(robot, on, wiring)
        const missing = fittedOn(robot).filter(f => wiring.ports[f.port] === undefined && f.connections.length > 0)
        expect(missing.map(f => f.name).sort(), `${robot.name} on ${on.name}`).toEqual([...leftOut].sort())
        expect(problems.filter(p => p.severity === 'error' && !missing.some(f => f.port === p.port)), `${robot.name} on ${on.name}`).toEqual([])
        for (const f of missing) expect(problems.some(p => p.port === f.port && /not connected|cannot have/.test(p.message))).toBe(true)
      }
    }
  })
  test('of any robot with some of that, in whatever order, is a wiring that can be built', () => {
    const all = ROBOTS.map(r => r.name)
    fc.assert(fc.property(fc.constantFrom(...all), fc.constantFrom(...BOARDS), fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })), fc.double({ min: 0.2, max: 1, noNaN: true }), (name, on, ranks, share) => {
      const document = documentOf(`${name.replace('_', '-')}.json`) as { devices: { name: string, mount: { on?: string } }[] }
      const rank = new Map(document.devices.map(d => [d.name, ranks.next().value as number]))
      const devices = document.devices.filter(d => d.mount.on === undefined && rank.get(d.name)! <= share).sort((a, b) => rank.get(a.name)! - rank.get(b.name)!)
      const robot = robotOf({ ...document, devices, gestures: [] })
      const { wiring, leftOut } = suggestWiring(robot, on)
      const open = fittedOn(robot).filter(f => leftOut.includes(f.name)).map(f => f.port)
      expect(checkWiring(robot, on, wiring).filter(p => p.severity === 'error' && !open.includes(p.port!))).toEqual([])
      expect(robotOf({ ...document, devices, gestures: [], wiring }).wiring).toEqual(wiring)
    }), { numRuns: 150 })
  })
  test('takes another part where two would answer at once, and a divider where the board takes less', () => {
    const on5 = suggestWiring(LIMPET, board('atmega328p')).wiring.ports
    expect([on5['P6']!.address, on5['P7']]).toEqual([0x29, { by: 'bus and shut line', bus: 'i2c', address: 0x30, pins: { shut: expect.any(String) as string } }])
    expect(on5['P2']!.divider).toBeUndefined()
    const on3 = suggestWiring(LIMPET, board('rp2040')).wiring.ports
    expect([on3['P6']!.bus, on3['P7']!.bus, on3['P7']!.by]).toEqual(['i2c0', 'i2c1', 'bus'])
    expect(on3['P2']).toMatchObject({ by: 'trigger and echo', divider: [10, 20] })
  })
  test('gives each of several that wake at one address a shut line; one beside them that stays there is told, as it would take theirs', () => {
    const document = documentOf('limpet.json') as { devices: { name: string, kind: string }[] }
    const rear = document.devices.find(d => d.name === 'rear')!
    const others = document.devices.filter(d => ['bumper_left', 'sonar'].includes(d.name))
    const robot = robotOf({ ...document, gestures: [], devices: [...others, rear, { ...rear, name: 'side', port: 'P6' }, { ...rear, name: 'nose', port: 'P1' }] })
    for (const name of ['atmega328p', 'rp2040']) {
      const on = board(name)
      const { wiring } = suggestWiring(robot, on)
      expect(checkWiring(robot, on, wiring).filter(p => p.severity === 'error')).toEqual([])
      const { bus } = wiring.ports['P7']!
      const stays = { ...wiring, ports: { ...wiring.ports, P7: { by: 'bus', pins: {}, bus, address: 0x29 }, P6: { ...wiring.ports['P6']!, by: 'bus and shut line', bus, address: 0x30, pins: { shut: wiring.ports['P1']!.pins['shut']! } }, P1: { ...wiring.ports['P6']!, by: 'bus and shut line', bus, address: 0x31 } } }
      expect(checkWiring(robot, on, stays).filter(p => p.path.endsWith('P6.address')).map(p => `${p.value}; ${p.message}`)).toEqual(['0x29; side begins at this address, where rear stays: both would take the address that it is given; give rear a shut line as well'])
    }
  })
  test('another way to connect a device keeps what fits it: its pins by name, an address that is free, a divider where one is needed', () => {
    const on = board('rp2040')
    const { wiring } = suggestWiring(LIMPET, on)
    const [sonar, rear] = ['P2', 'P7'].map(port => fittedOn(LIMPET).find(f => f.port === port)!)
    expect(connectedBy(LIMPET, on, wiring, sonar!, 'voltage')).toEqual({ by: 'voltage', pins: { signal: 'GP26' } })
    expect(connectedBy(LIMPET, on, wiring, sonar!, 'bus')).toEqual({ by: 'bus', pins: {}, bus: 'i2c0', address: 0x70 })
    const other = { ...wiring, ports: { ...wiring.ports, P2: { by: 'bus', pins: { trigger: 'GP22' }, bus: 'i2c0', address: 0x30 } } }
    expect(connectedBy(LIMPET, on, other, rear!, 'bus and shut line')).toEqual({ by: 'bus and shut line', pins: { shut: expect.stringMatching(/^GP\d+$/) as string }, bus: 'i2c0', address: 0x31 })
    // Of the usual way, the pins that would do.
    expect(connectedBy(LIMPET, on, other, sonar!, 'trigger and echo')).toEqual(wiring.ports['P2'])
    expect([wiringOn(LIMPET, on).own, wiringOn({ ...LIMPET, wiring: other }, on), wiringOn({ ...LIMPET, wiring: other }, board('esp32')).own]).toEqual([false, { wiring: other, leftOut: [], own: true }, false])
  })
  test.each(['atmega328p', 'atmega2560', 'rp2040', 'esp32'])('proposes pins for any other way, beside all else as it is wired, on %s', (name) => {
    const on = board(name)
    let [placed, without] = [0, 0]
    for (const robot of ROBOTS) {
      const { wiring } = suggestWiring(robot, on)
      for (const of of fittedOn(robot)) {
        for (const { name: by, lines } of of.connections) {
          const ports = { ...wiring.ports, [of.port]: connectedBy(robot, on, wiring, of, by) }
          const at = Object.keys(ports[of.port]!.pins)
          const errors = checkWiring(robot, on, { board: name, ports }).filter(p => p.severity === 'error' && p.port === of.port).map(p => `${robot.name} ${p.path}: ${p.value}; ${p.message}`)
          // Where there are not enough pins, what is missing is told; else nothing stands in the way of it.
          if (at.length < lines.length) without++
          else { placed++; expect(errors.filter(e => !e.includes('address'))).toEqual([]) }
        }
      }
    }
    expect(placed).toBeGreaterThan(3 * without)
  })
  test('proposes the four pins of a joint behind a motor; those that it has stay where they will do', () => {
    const heron = ROBOTS.find(r => r.name === 'heron')!
    const on = board('atmega2560')
    const { wiring } = suggestWiring(heron, on)
    const joint = fittedOn(heron).find(f => f.title === 'joint')!
    const behind = connectedBy(heron, on, wiring, joint, 'pin and direction')
    expect(Object.keys(behind.pins)).toEqual(['power', 'direction', 'encoder a', 'encoder b'])
    expect(new Set(Object.values(behind.pins)).size).toBe(4)
    const other = connectedBy(heron, on, { ...wiring, ports: { ...wiring.ports, [joint.port]: behind } }, joint, 'two pins')
    expect([other.pins['encoder a'], other.pins['encoder b']]).toEqual([behind.pins['encoder a'], behind.pins['encoder b']])
  })
  test('keeps the lines of a part on one side of the board where there is room', () => {
    const on = board('atmega2560')
    const robot = robotOf(documentOf('limpet-watch.json'))
    const { wiring, leftOut } = suggestWiring(robot, on)
    expect(leftOut).toEqual([])
    const across = Object.entries(wiring.ports).filter(([, { pins }]) => new Set(Object.values(pins).map(pin => on.pins.find(p => p.name === pin)!.side)).size > 1).map(([port]) => port)
    // The sonar's trigger is chosen first; of the pins that can be its echo, those on that side can do more.
    expect(across).toEqual(['P2'])
  })
  test('leaves out no more than it must: a third motor with an encoder has no pin that counts edges', () => {
    const document = documentOf('limpet.json') as { devices: object[] }
    const robot = robotOf({ ...document, devices: [{ name: 'winch', kind: 'motor', port: 'C', mount: { up: '5 cm' } }] })
    const { wiring, leftOut } = suggestWiring(robot, board('atmega328p'))
    expect(leftOut).toEqual([])
    expect(['A', 'B', 'C'].map(port => wiring.ports[port]!.by).sort()).toEqual(['no encoder', 'pin and direction', 'pin and direction'])
  })
})

describe('what is wrong with a wiring', () => {
  test.each([
    ['winkle.json', 'atmega328p', 'eye is not connected: others have its address on i2c already (0x29)'],
    ['limpet-watch.json', 'atmega328p', 'horn is not connected: no pin is left that can be its signal: tone'],
  ])('of %s on %s, why something found no place', (file, name, says) => {
    const [robot, on] = [robotOf(documentOf(file)), board(name)]
    expect(checkWiring(robot, on, suggestWiring(robot, on).wiring).filter(p => p.severity === 'error').map(p => p.message)).toEqual([says])
  })
  test.each<[string, string, string, Partial<PortWiring> | null, RegExp]>([
    ['a port that is not connected', 'atmega328p', 'P2', null, /^wiring\.ports\.P2: found nothing; sonar is not connected$/],
    ['a way that its device does not have', 'atmega328p', 'P2', { by: 'telepathy' }, /ports\.P2\.by: found telepathy; a sonar is connected by trigger and echo, voltage, bus$/],
    ['a line on no pin', 'atmega328p', 'P2', { pins: { trigger: 'D9' } }, /ports\.P2\.pins\.echo: found nothing; echo of sonar is on no pin$/],
    ['a line that it has not', 'atmega328p', 'P4', { pins: { signal: 'D11', led: 'A3' } }, /ports\.P4\.pins\.led: found A3; by switch, bumper_left has no line led; it has signal$/],
    ['a pin that there is not', 'atmega328p', 'P4', { pins: { signal: 'D99' } }, /pins\.signal: found D99; the board has no such pin; it has D0, D1/],
    ['a pin taken twice', 'atmega328p', 'P4', { pins: { signal: 'D2' } }, /pins\.signal: found D2; D2 has encoder a of left wheel already; a pin takes one$/],
    ['a pin of the bus', 'atmega328p', 'P4', { pins: { signal: 'A4' } }, /A4 has sda of the bus i2c already/],
    ['a pin that is left alone', 'atmega328p', 'P4', { pins: { signal: 'D0' } }, /D0 is left alone: serial line from the computer$/],
    ['a pin that cannot do it', 'atmega328p', 'A', { pins: { 'power': 'A3', 'direction': 'D7', 'encoder a': 'D2', 'encoder b': 'D8' } }, /pins\.power: found A3; A3 cannot do what this needs, pwm \(power by pulses\); it can do input/],
    ['no pull-up where it needs one', 'esp32', 'P4', { pins: { signal: 'IO34' } }, /IO34 cannot do what this needs, pull-up/],
    ['a beat that a tone takes', 'atmega328p', 'A', { pins: { 'power': 'D3', 'direction': 'D7', 'encoder a': 'D2', 'encoder b': 'D8' } }, /timer 2, which power of left wheel has for the strength of a motor or lamp$/],
    ['the same output twice', 'rp2040', 'A', { pins: { 'power': 'GP26', 'direction': 'GP3', 'encoder a': 'GP8', 'encoder b': 'GP9' } }, /GP10 and GP26 \(power of left wheel\) are the same output of slice 5: both would do the same$/],
    ['an address that such a part has not', 'atmega328p', 'P1', { address: 0x29 }, /ports\.P1\.address: found 0x29; such a part has the address 0x68, 0x69$/],
    ['an address twice on a bus', 'rp2040', 'P7', { bus: 'i2c0' }, /ports\.P7\.address: found 0x29; floor has this address on i2c0 already: both would answer at once$/],
    ['a bus that there is not', 'atmega328p', 'P1', { bus: 'i2c7' }, /ports\.P1\.bus: found i2c7; expected one of the board's buses: i2c$/],
    ['too many volts', 'rp2040', 'P2', { divider: undefined }, /pins\.echo: found GP15; echo gives 5 V: 5\.0 V would damage a pin that takes 3\.3 V; two resistors, a divider, bring it down$/],
    ['a divider that leaves too much', 'rp2040', 'P2', { divider: [1, 20] }, /ports\.P2\.divider: found 1 and 20; echo gives 5 V, and with the divider: 4\.8 V would damage/],
    ['a divider that leaves too little', 'rp2040', 'P2', { divider: [30, 10] }, /1\.3 V is too little to be told from nothing: 2\.0 V or more is$/],
    ['a curve of another kind', 'atmega328p', 'P2', { by: 'voltage', pins: { signal: 'A3' }, curve: [{ volts: 0, reads: '0 cm' }, { volts: 5, reads: '20 deg' }] }, /curve\[1\]\.reads: found 20 deg; expected a length/],
  ])('%s', (_, on, port, other, message) => {
    const said = wrong(on, port, other)
    expect(said.filter(line => message.test(line)), said.join('\n')).toHaveLength(1)
  })
  test('a port that nothing is on', () => {
    const { wiring } = suggestWiring(LIMPET, board('atmega328p'))
    expect(checkWiring(LIMPET, board('atmega328p'), { ...wiring, ports: { ...wiring.ports, X: { by: 'switch', pins: {} } } })).toContainEqual(expect.objectContaining({ path: 'wiring.ports.X', message: expect.stringContaining('there is something on A, B, P2') }))
  })
  test('a curve with one more point rises; one at the same voltage gives way', () => {
    const curve = [{ volts: 1, reads: '50 cm' }, { volts: 2, reads: '100 cm' }]
    expect(withPoint(curve, { volts: 1.5, reads: '80 cm' }).map(p => p.reads)).toEqual(['50 cm', '80 cm', '100 cm'])
    expect(withPoint(curve, { volts: 1, reads: '55 cm' }).map(p => p.reads)).toEqual(['55 cm', '100 cm'])
    expect(withPoint([], curve[0]!)).toEqual([curve[0]])
  })
  test('more than the board feeds', () => {
    const weak = { ...board('atmega328p'), current: { pin: 0.02, pins: 0.15, supply: 0.1 } }
    expect(checkWiring(LIMPET, weak, suggestWiring(LIMPET, weak).wiring)).toContainEqual(expect.objectContaining({ severity: 'error', port: null, value: '138 mA', message: 'all together take more than the board feeds, 100 mA: feed some of them from the battery' }))
  })
  test('what is lost is told, and is no error', () => {
    const notes = checkWiring(LIMPET, board('firmata'), suggestWiring(LIMPET, board('firmata')).wiring).map(p => `${p.severity} ${p.port}: ${p.message}`)
    expect(notes).toContainEqual(expect.stringMatching(/^note A: how far and how fast it turns is not known/))
    expect(notes).toContainEqual('note P9: this board cannot have horn: no pin of it can do tone; the robot is without it')
    expect(notes).toContainEqual(expect.stringMatching(/^note P2: what a voltage of sonar means is not given/))
    const cuttle = ROBOTS.find(r => r.name === 'cuttle')!
    expect(checkWiring(cuttle, board('esp32'), suggestWiring(cuttle, board('esp32')).wiring).map(p => p.message)).toContain('no board here can have a camera: the robot is without it')
  })
  test('is told of the document, with place and value, before any board is known', () => {
    const read = readRobot({ ...documentOf('limpet.json'), wiring: { board: 'atmega328p', ports: { P1: { by: 'bus', pins: {}, address: 3 }, P2: { by: 'voltage', pins: {}, curve: [{ volts: 2, reads: '1 m' }, { volts: 1, reads: '2 m' }] } } } })
    expect(read).toMatchObject({ ok: false, problems: [{ path: 'wiring.ports.P1.address', message: 'allowed is from 8 (0x08) to 119 (0x77)' }, { path: 'wiring.ports.P2.curve', message: 'expected the points with rising volts' }] })
  })
})

describe('what a motor moves between two ends', () => {
  const CUTTLE = robotOf(documentOf('cuttle.json'))
  const notes = (counts: object): readonly string[] => {
    const lift = { by: 'pin and direction', pins: { power: 'D5', direction: 'D4', 'encoder a': 'D2', 'encoder b': 'D7' }, ...counts }
    return checkWiring(CUTTLE, board('atmega328p'), { board: 'atmega328p', ports: { C: lift } }).filter(p => p.path.endsWith('counts')).map(p => `${p.severity} ${p.path}`)
  }
  test('needs to be told what its encoder counts from end to end', () => {
    expect(notes({})).toEqual(['note wiring.ports.C.counts'])
    expect(notes({ counts: 950 })).toEqual([])
  })
  test.each([[3, 'allowed is 4 or more'], [9.5, 'expected a whole number of edges'], ['950', 'expected a plain number without quotes']])('and is not told by %j', (counts, message) => {
    const read = readRobot({ ...documentOf('cuttle.json'), wiring: { board: 'atmega328p', ports: { C: { by: 'pin and direction', pins: {}, counts } } } })
    expect(read).toMatchObject({ ok: false, problems: [{ path: 'wiring.ports.C.counts', message }] })
  })
})

describe('the plan to build from', () => {
  test.each(ROBOTS.flatMap(robot => BOARDS.map(on => [robot, on] as const)).map(([robot, on]) => [robot.name, on.name, robot, on] as const))('of %s on %s has every device, line and pin', (_, __, robot, on) => {
    const { wiring } = suggestWiring(robot, on)
    const words: string[] = []
    let wires = 0
    let height = 0
    const parser = new SaxesParser()
    parser.on('opentag', ({ name, attributes }) => {
      const a = attributes as Record<string, string>
      if (name === 'path') wires++
      if (name === 'svg') height = Number(a['height'])
      if (name === 'rect' && 'data-box' in a) expect(Number(a['y']) + Number(a['height']) + 76).toBeLessThanOrEqual(height)
    })
    parser.on('text', (text) => { if (text.trim() !== '') words.push(text.trim()) })
    parser.write(wiringPlan(robot, on, wiring)).close()
    const ports = wiredPorts(robot, on, wiring).filter(p => p.by !== null)
    const lines = ports.flatMap(p => p.wires)
    for (const p of ports) expect(words).toEqual(expect.arrayContaining([p.fitted.name, `port ${p.fitted.port}`]))
    for (const line of lines) expect(words.some(w => w.startsWith(line.line))).toBe(true)
    for (const pin of on.pins) expect(words).toContain(pin.name)
    // A wire that is not drawn through has an end at either side.
    expect(wires).toBe(lines.length + words.filter(w => w.startsWith('to ')).length)
  })
})
