import { describe, expect, test } from 'vitest'
import { FirmataBoard, FirmataHost, PIN_MODE, RobotPins, SYSEX, WiredRobot, bytesOf, inPairs, pinNumbers, reachable, type Pins, type Telling } from '../../../core/firmata'
import { BOARDS, wiringOn } from '../../../core/hardware'
import { RandomStream } from '../../../core/random'
import { factsOf, readRobot, type Wiring } from '../../../core/robot'
import { openRun, recordOf, replay, wireTo, type RunInputs, type Simulation } from '../../../core/simulation'
import { demo, demoText } from '../kit'

const board = BOARDS.find(b => b.name === 'firmata')!

/** What straight voltages mean, by the kind of device that gives them: as the simulated robot behind a board's pins gives them. */
const CURVES: Readonly<Record<string, string>> = { sonar: '2.5 m' }

const known = new Map<string, ReturnType<typeof wire>>()
/** A demo robot with its wiring: pins are chosen once. */
function wired(name: string): ReturnType<typeof wire> {
  const found = known.get(name) ?? wire(name)
  known.set(name, found)
  return found
}

function wire(name: string) {
  const read = readRobot(demo(`robots/${name}.json`))
  if (!read.ok) throw new Error('no robot')
  const robot = read.value
  const facts = factsOf(robot)
  const { wiring } = wiringOn(robot, board)
  const ports = Object.fromEntries(Object.entries(wiring.ports).map(([port, w]) => {
    const reads = CURVES[facts.devices.find(d => d.port === port)?.kind ?? '']
    return [port, w.by === 'voltage' && reads !== undefined ? { ...w, curve: [{ volts: 0, reads: '0 cm' }, { volts: 5, reads }] } : w]
  }))
  return { robot, facts, wiring: { ...wiring, ports } as Wiring }
}

interface Joined {
  readonly pins: RobotPins
  readonly far: WiredRobot
  readonly facts: ReturnType<typeof factsOf>
  readonly readings: Float64Array
  poses: FirmataBoard
  /** Bytes that went to the board. */
  readonly sent: number[]
  /** So many milliseconds pass at both ends. */
  pass(milliseconds: number): void
  /** Whether the board hears and is heard. */
  connected: boolean
}

/** A demo robot behind the pins of a board, and the other end of its wire: bytes are there at once, time passes as it is told. */
function joined(name: string, real: readonly string[], change: (pins: RobotPins) => Pins = pins => pins, hasCurve = true): Joined {
  const { robot, facts, wiring } = wired(name)
  const known = hasCurve ? wiring : { ...wiring, ports: Object.fromEntries(Object.entries(wiring.ports).map(([port, { curve: _, ...w }]) => [port, w])) }
  let time = 0
  const pins = new RobotPins(robot, facts, board, wiring)
  const readings = new Float64Array(facts.readingCount)
  pins.read(readings)
  const far = new WiredRobot({ robot, facts, board, wiring: known, real }, (bytes) => {
    all.sent.push(...bytes)
    if (all.connected) all.poses.receive(bytes)
  }, () => time)
  const all: Joined = {
    pins, far, facts, readings, sent: [], connected: true,
    poses: new FirmataBoard(change(pins), name, (bytes) => { if (all.connected) far.receive(bytes) }),
    pass(milliseconds) {
      for (let t = 0; t < milliseconds; t += 5) {
        time += 5
        far.pass()
        if (all.connected) all.poses.pass(5)
      }
    },
  }
  return all
}

const first = (facts: Joined['facts'], reading: string): number => {
  const [device, name] = reading.split('.') as [string, string]
  const d = facts.devices.find(x => x.name === device)!
  return d.first + d.readings.findIndex(r => r.name === name)
}

describe('a voltage at a port', () => {
  test('is known over the wire before anybody says what it means, and while its device is real', () => {
    for (const [real, curve] of [['bumper_left', false], ['sonar', true]] as const) {
      const far = joined('limpet', [real], undefined, curve)
      far.readings[first(far.facts, 'sonar.distance')] = 0.5
      far.readings[first(far.facts, 'sonar.sees')] = 1
      far.pins.read(far.readings)
      expect(far.far.volts).toEqual({})
      far.pass(400)
      expect(far.far.stage).toBe('ready')
      // The simulated robot gives 5 V at the end of its range, 2.5 m: half a metre is 1 V.
      expect(Object.keys(far.far.volts)).toEqual(['P2'])
      expect(far.far.volts['P2']).toBeCloseTo(1, 1)
    }
  })
})

/** What its devices read in the next tick, by name; those that looked. */
function hear({ far, facts }: Joined): { readonly reads: ReadonlyMap<string, number>, readonly looked: readonly string[] } {
  const devices = facts.devices.filter(d => far.devices.includes(d.name))
  const into = new Float64Array(devices.reduce((n, d) => n + 1 + d.readings.length, 0))
  far.hear(into)
  const reads = new Map<string, number>()
  const looked: string[] = []
  let at = 0
  for (const d of devices) {
    if (into[at++] === 1) looked.push(d.name)
    for (const r of d.readings) reads.set(`${d.name}.${r.name}`, into[at++]!)
  }
  return { reads, looked }
}

/** Tells its devices something: numbers of an actuator's channels. */
function obey({ far, facts, pins }: Joined, told: Readonly<Record<string, readonly number[]>>): readonly Telling[] {
  const commands = new Float64Array(facts.actuators.reduce((n, a) => n + a.channels, 0))
  for (const a of facts.actuators) commands.set(told[a.name] ?? a.initial, a.channel)
  far.obey(commands)
  return pins.taken()
}
const lastOf = (told: readonly Telling[], device: string): readonly number[] => told.filter(t => t.device === device).map(t => t.value)

describe('the computer\u2019s end of a wire', () => {
  test('learns who the board is, what its pins can do, and how long it takes to answer', () => {
    const all = joined('limpet', ['wheels'])
    expect(all.far.stage).toBe('asking')
    all.pass(500)
    expect(all.far.stage).toBe('ready')
    expect(all.far.host).toMatchObject({ name: 'limpet', version: [2, 6] })
    expect([...all.far.host.pins![3]!.modes].sort()).toEqual([PIN_MODE.input, PIN_MODE.output, PIN_MODE.pullUp, PIN_MODE.pwm, PIN_MODE.servo].sort())
    expect(all.far.host.pins![14]!.channel).toBe(0)
    expect(all.far.host.roundTrip).toEqual({ median: 0, longest: 0 })
    expect(all.far.lost).toBeNull()
  })
  test('measures the way there and back', () => {
    let time = 0
    const host = new FirmataHost(() => undefined, () => time)
    const say = (...bytes: readonly number[]) => { host.receive(bytes) }
    say(...bytesOf({ says: 'sysex', command: SYSEX.firmware, data: [2, 6, ...inPairs([65])] }), ...bytesOf({ says: 'sysex', command: SYSEX.capabilitiesAre, data: [0, 1, 0x7f] }), ...bytesOf({ says: 'sysex', command: SYSEX.analogMappingIs, data: [0x7f] }))
    for (const away of [8, 30, 12]) {
      time += 300
      host.pass()
      time += away
      say(...bytesOf({ says: 'version', version: [2, 6] }))
    }
    expect(host.roundTrip).toEqual({ median: 12, longest: 30 })
  })
  test('asks again while the board is still starting, and gives up in the end', () => {
    const late = joined('limpet', ['wheels'])
    late.connected = false
    late.pass(2500)
    expect(late.far.lost).toBeNull()
    late.connected = true
    late.pass(600)
    expect(late.far.stage).toBe('ready')
    const never = joined('limpet', ['wheels'])
    never.connected = false
    never.pass(5100)
    expect(never.far.lost).toBe('nothing at the other end of the wire speaks Firmata')
  })
  test('knows when the board has gone silent, and sets everything up again when it began anew', () => {
    const all = joined('limpet', ['wheels', 'bumper_left'])
    all.pass(2500)
    obey(all, { wheels: [3, 0.5, 0.5] })
    all.connected = false
    all.pass(1500)
    expect(all.far.lost).toMatch(/the board has said nothing for 1\.[3-6] s/)
    // It was reset: it knows nothing any more, and greets.
    const { pins } = all
    all.poses = new FirmataBoard(pins, 'limpet', (bytes) => { all.far.receive(bytes) })
    all.connected = true
    pins.taken()
    all.poses.greet()
    all.pass(50)
    expect(all.far).toMatchObject({ restarts: 1, lost: null })
    all.readings[first(all.facts, 'bumper_left.pressed')] = 1
    all.pass(50)
    expect(hear(all).reads.get('bumper_left.pressed')).toBe(1)
    expect(lastOf(obey(all, { wheels: [3, 0.4, 0.4] }), 'wheels').map(x => Math.round(x * 100) / 100)).toContain(0.4)
  })
  test('does not take for the board\u2019s silence that nobody asked', () => {
    let time = 0
    const host = new FirmataHost(() => undefined, () => time)
    host.pass()
    time = 5000
    host.pass()
    expect(host.silent).toBe(0)
    for (; time < 6300; time += 100) host.pass()
    expect(host.silent).toBeGreaterThan(1200)
  })
  test('says what a board cannot do, and which device does not answer', () => {
    const noPulses = joined('limpet', ['wheels'], pins => Object.assign(Object.create(pins) as Pins, { modes: (pin: number) => pins.modes(pin).filter(([mode]) => mode !== PIN_MODE.pwm) }))
    noPulses.pass(200)
    expect(noPulses.far.lost).toMatch(/the board says that its pin D3 \(number 3\) cannot be told a strength/)
    const noGyro = joined('limpet', ['gyro', 'bumper_left'], pins => Object.assign(Object.create(pins) as Pins, { ask: () => null }))
    noGyro.pass(3300)
    expect(noGyro.far.lost).toBe('nothing comes from gyro (the board said: I2C: nothing at address 104)')
    expect(noGyro.far.host.said).toContain('I2C: nothing at address 104')
  })
  test('has pull-ups from a board that knows no mode for them', () => {
    const old = joined('limpet', ['bumper_left'], pins => Object.assign(Object.create(pins) as Pins, { modes: (pin: number) => pins.modes(pin).filter(([mode]) => mode !== PIN_MODE.pullUp) }))
    old.pass(600)
    expect(hear(old).reads.get('bumper_left.pressed')).toBe(0)
    old.readings[first(old.facts, 'bumper_left.pressed')] = 1
    old.pass(50)
    expect(hear(old).reads.get('bumper_left.pressed')).toBe(1)
  })
  test('whatever bytes come: it neither throws nor reads what is no number, and answers afterwards', () => {
    for (let seed = 0; seed < 300; seed++) {
      const all = joined(seed % 2 === 0 ? 'limpet' : 'cuttle', seed % 2 === 0 ? ['wheels', 'sonar', 'bumper_left', 'gyro'] : ['wheels', 'lift', 'claw'])
      all.pass(seed % 3 === 0 ? 0 : 1000)
      const r = RandomStream.named(seed, 'bytes')
      const whole = [0xe0, 0x90, 0xf0, 0xf7, 0xf9, 0x6c, 0x6a, 0x6e, 0x71, 0x77, 0x79]
      all.far.receive(Array.from({ length: 800 }, () => r.chance(0.3) ? whole[Math.floor(r.unit() * whole.length)]! + (r.chance(0.5) ? Math.floor(r.unit() * 16) : 0) : Math.floor(r.unit() * (r.chance(0.1) ? 256 : 128))))
      all.pass(50)
      for (const [name, value] of hear(all).reads) expect(Number.isNaN(value), `${name}, seed ${seed}`).toBe(false)
      expect(all.far.host.said.length).toBeLessThanOrEqual(20)
    }
  })
})

describe('devices at the other end of a wire', () => {
  test('which of a robot can be real, and why others cannot', () => {
    const { robot, facts, wiring } = wired('limpet')
    const why = new Map(reachable(robot, facts, board, wiring).map(d => [d.device, d.why]))
    expect([...why].filter(([, w]) => w === null).map(([name]) => name)).toEqual(['wheels', 'sonar', 'bumper_left', 'bumper_right', 'gyro', 'floor', 'lamp'])
    expect(why.get('rear')).toBe('a time-of-flight sensor by bus and shut line cannot be reached over a wire')
    expect(why.get('horn')).toBe('it is not connected')
    const { P2, ...others } = wiring.ports
    expect(reachable(robot, facts, board, { ...wiring, ports: { ...others, P2: { ...P2!, curve: undefined } } }).find(d => d.device === 'sonar')!.why).toBe('what its voltage means is not given: a curve, in the wiring')
    expect(() => new WiredRobot({ robot, facts, board, wiring, real: ['horn'] }, () => undefined, () => 0)).toThrow('horn cannot be real: it is not connected')
  })
  test('read what stands at the board\u2019s pins', () => {
    const all = joined('limpet', ['sonar', 'bumper_left', 'bumper_right', 'gyro'])
    const { readings, facts } = all
    readings[first(facts, 'sonar.distance')] = 0.8
    readings[first(facts, 'bumper_right.pressed')] = 1
    // It drifts while it stands: that is taken for its own error.
    readings[first(facts, 'gyro.rate')] = 0.02
    all.pass(1000)
    expect(all.far.stage).toBe('ready')
    all.pass(20)
    const { reads } = hear(all)
    expect(reads.get('sonar.distance')).toBeCloseTo(0.8, 2)
    expect(reads.get('bumper_left.pressed')).toBe(0)
    expect(reads.get('bumper_right.pressed')).toBe(1)
    readings[first(facts, 'sonar.distance')] = Infinity
    readings[first(facts, 'gyro.rate')] = 1.02
    readings[first(facts, 'gyro.tilt')] = 0.1
    const before = hear(all).reads.get('gyro.turned')!
    for (let i = 0; i < 50; i++) { all.pass(20); hear(all) }
    const after = hear(all).reads
    expect(after.get('sonar.distance')).toBe(Infinity)
    expect(after.get('gyro.rate')).toBeCloseTo(1, 2)
    expect(after.get('gyro.turned')! - before).toBeCloseTo(1, 1)
    expect(after.get('gyro.tilt')).toBeCloseTo(0.1, 3)
  })
  test('look as often as the robot has them look, and not where nothing new came', () => {
    const all = joined('limpet', ['sonar', 'wheels'])
    all.pass(600)
    const round = Math.round(all.facts.devices.find(d => d.name === 'sonar')!.round / all.facts.tick)
    const looks = Array.from({ length: 10 * round }, () => { all.pass(20); return hear(all).looked })
    expect(looks.filter(l => l.includes('sonar'))).toHaveLength(10)
    expect(looks.every(l => l.includes('wheels'))).toBe(true)
    all.connected = false
    const silent = Array.from({ length: 10 * round }, () => { all.pass(20); return hear(all).looked })
    expect(silent.filter(l => l.includes('sonar')).length).toBeLessThanOrEqual(1)
  })
  test('wheels take a share of power, gather speed as they can, and tell how far they went by what they were told', () => {
    const all = joined('limpet', ['wheels'])
    all.pass(600)
    const { radius, 'top speed': top, acceleration } = all.facts.devices.find(d => d.name === 'wheels')!.parameters as { radius: number, 'top speed': number, acceleration: number }
    expect(radius).toBeGreaterThan(0)
    expect(lastOf(obey(all, { wheels: [3, 0.8, -0.4] }), 'wheels').slice(-2)).toEqual([0.8, -0.4])
    hear(all)
    expect(hear(all).reads.get('wheels.speed')).toBeCloseTo(0.2 * top, 6)
    obey(all, { wheels: [0, 0, 0] })
    const began = hear(all).reads.get('wheels.travel')!
    obey(all, { wheels: [0, 0, 0] })
    let [ticks, way] = [0, 0]
    for (; ticks < 100; ticks++) {
      obey(all, { wheels: [2, 0.2, 0.2] })
      const { reads } = hear(all)
      way = reads.get('wheels.travel')! - began
      if (reads.get('wheels.speed')! >= 0.2 - 1e-9) break
    }
    expect((ticks + 1) * all.facts.tick).toBeCloseTo(0.2 / acceleration, 1)
    expect(way).toBeCloseTo(0.2 * 0.2 / acceleration / 2, 1)
    // Rest: both at nothing.
    expect(all.far.stop()()).toBe(true)
    expect(lastOf(all.pins.taken(), 'wheels').map(Math.abs)).toEqual([0, 0])
    all.connected = false
    expect(all.far.stop()()).toBe(false)
    expect(hear(all).reads.get('wheels.speed')).toBe(0)
  })
  test('joints, claw and lamp are told what they are to be, and tell what they were told', () => {
    const all = joined('cuttle', ['lift', 'claw'])
    all.pass(600)
    const lift = all.facts.devices.find(d => d.name === 'lift')!.parameters as { from: number, to: number, speed: number }
    const half = (lift.from + lift.to) / 2
    let told: readonly Telling[] = []
    let reads = hear(all).reads
    for (let i = 0; i < 300; i++) {
      told = [...told, ...obey(all, { lift: [0, half, lift.speed], claw: [1] })]
      reads = hear(all).reads
    }
    expect(lastOf(told.filter(t => t.channel === 1), 'lift').at(-1)!).toBeCloseTo(half, 2)
    expect(Object.values(all.facts.devices.find(d => d.name === 'lift')!.readings).map(r => r.name)).toContain('moving')
    expect(reads.get('lift.moving')).toBe(0)
    expect(lastOf(told, 'claw')).toContain(1)
    const limpet = joined('limpet', ['lamp'])
    limpet.pass(600)
    expect(lastOf(obey(limpet, { lamp: [6] }), 'lamp')).toEqual([6])
    expect(hear(limpet).reads.get('lamp.color')).toBe(6)
    limpet.far.rest()
    expect(lastOf(limpet.pins.taken(), 'lamp')).toEqual([0])
  })
  test('have last words, which stop all of it whatever was said before', () => {
    const all = joined('limpet', ['wheels', 'lamp'])
    expect(all.far.lastWords()).toEqual([])
    all.pass(600)
    const words = all.far.lastWords()
    obey(all, { wheels: [3, 1, 1], lamp: [4] })
    all.poses.receive(words)
    const told = all.pins.taken()
    expect(lastOf(told, 'wheels').map(Math.abs)).toEqual([0, 0])
    expect(lastOf(told, 'lamp')).toEqual([0])
  })
})

describe('a run with real devices', () => {
  const inputs = (heard: RunInputs['wire']): RunInputs => ({
    robot: demo('robots/limpet.json'), arena: demo('arenas/fender-quay.json'), task: null, program: demoText('projects/kiss-the-fender/program.mindpath'), realism: 'typical', seed: 3, limit: 20, wire: heard,
  })
  async function opened(of: RunInputs): Promise<Simulation> {
    const run = await openRun(of)
    if (!run.ok) throw new Error(JSON.stringify([run.problems, run.diagnostics]))
    return run.simulation
  }
  /** A run in which the sonar is real: the wall comes nearer with what the wheels, which are real too, are told. */
  async function overWire(): Promise<{ readonly simulation: Simulation, readonly of: RunInputs, readonly all: Joined }> {
    const all = joined('limpet', ['wheels', 'sonar'])
    all.readings[first(all.facts, 'sonar.distance')] = 1
    all.pass(600)
    const of = inputs(wireTo(all.far.devices))
    const simulation = await opened(of)
    simulation.connect(all.far)
    let ahead = 1
    let power = 0
    while (simulation.end === null) {
      all.pass(20)
      simulation.advance()
      for (const t of all.pins.taken()) if (t.channel === 1) power = t.value
      ahead -= power * 0.5 * simulation.facts.tick
      all.readings[first(all.facts, 'sonar.distance')] = ahead
    }
    return { simulation, of, all }
  }

  test('stops where the real sonar says so, wherever the simulated one is, and is the same to the bit when it is run again without the wire', async () => {
    const { simulation, of, all } = await overWire()
    expect(simulation.end).toMatchObject({ ended: 'finished', reason: 'alongside' })
    expect(simulation.readings[first(all.facts, 'sonar.distance')]).toBeLessThan(0.13)
    expect(lastOf(obey(all, {}), 'wheels').every(x => Math.abs(x) === 0)).toBe(true)
    const record = recordOf('wired', of, simulation)
    const again = await replay(JSON.parse(JSON.stringify(record)) as typeof record)
    expect(again).toMatchObject({ ok: true, same: true, ticks: simulation.tape.rows })
    // Back in time and on: what was heard is played again, and nobody is told anything.
    const state = (await opened(record)).snapshot()
    all.sent.length = 0
    simulation.connect(null)
    simulation.restore(state)
    while (simulation.tape.rows < record.ticks && simulation.end === null) simulation.advance()
    expect(simulation.tape.digest()).toBe(record.fingerprint)
    expect(all.sent).toEqual([])
  })
  test('goes on simulated where nothing more was heard', async () => {
    const { simulation, of } = await overWire()
    const record = recordOf('wired', of, simulation)
    const half = Math.floor(record.ticks / 2)
    const { heard } = await opened(record)
    const ofHalf = await opened({ ...of, wire: { ...heard!.inputs() } })
    while (ofHalf.tape.rows < half) ofHalf.advance()
    const branched = await opened({ ...record, wire: null, from: { program: record.program, pokes: [], ticks: half, fingerprint: ofHalf.tape.digest(), from: null, wire: record.wire } })
    expect(branched.tape.rows).toBe(half)
    branched.runToEnd()
    // The simulated wall is elsewhere than the one of the wire.
    expect(branched.tape.rows).not.toBe(record.ticks)
    expect(branched.end).toMatchObject({ reason: 'alongside' })
  })
  test('refuses what was heard where it is cut off, of another robot, or too much, with its place', async () => {
    const { simulation, of } = await overWire()
    const { wire } = recordOf('wired', of, simulation)
    const problem = async (value: unknown) => { const run = await openRun({ ...of, wire: value as RunInputs['wire'] }); return run.ok ? null : run.problems[0] }
    expect(await problem({ ...wire, devices: ['periscope'] })).toMatchObject({ document: 'run', path: 'wire.devices', value: 'periscope' })
    expect(await problem({ ...wire, devices: [] })).toMatchObject({ path: 'wire.devices' })
    for (const heard of ['?', wire!.heard.slice(0, wire!.heard.length >> 1), wire!.heard.slice(40)]) expect(await problem({ ...wire, heard })).toMatchObject({ path: 'wire.heard', message: 'expected numbers as they were kept: this was cut off or changed' })
    expect(await problem({ ...wire, devices: ['gyro'] })).toMatchObject({ path: 'wire.ticks', message: expect.stringMatching(/^expected \d+(\.\d+)?: what was heard are \d+ numbers, and these devices read 5 a tick$/) as unknown })
    expect(await problem({ ...wire, strange: 1 })).toMatchObject({ path: 'wire', message: expect.stringContaining('strange') as unknown })
    expect(await problem(wire)).toBeNull()
  })
})

test('pins of a board are numbered as its Firmata has them', () => { expect(pinNumbers(board).get('A0')).toBe(14) })
