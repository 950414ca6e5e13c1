import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { RandomStream } from '../../../core/random'
import { openRun, readPokes, readRecord, recordOf, replay, type Poke, type Simulation } from '../../../core/simulation'
import { build, demoInputs, reading } from '../kit'

beforeAll(loadPhysics)

const ticks = (s: Simulation, n: number): void => { for (let i = 0; i < n; i++) s.advance() }
/** A reading some looks after the poke. */
function after(s: Simulation, poke: Poke, name: string, n = 12): number {
  s.poke(poke)
  ticks(s, n)
  return reading(s, name)
}
const told = (s: Simulation): readonly string[] => s.tape.events.filter(e => e.type === 'poke').map(e => `${e.about}: ${e.text}`)
const piece = (s: Simulation, name: string) => s.world.pieces.find(p => p.name === name)!.solid
const box = (name: string, x: number, more: object = {}) => ({ name, kind: 'box', shape: 'box', length: '10 cm', width: '10 cm', height: '10 cm', at: [`${x} m`, '1 m'], ...more })

describe('a hand', () => {
  test('before a sonar is as far as it is held, near and far, and what was seen comes back when it goes', () => {
    const s = build('limpet', null, { arena: { pieces: [box('crate', 1.8)] } })
    ticks(s, 12)
    const free = reading(s, 'sonar.distance')
    expect(after(s, { poke: 'hand', device: 'sonar', distance: 0.12 }, 'sonar.distance')).toBeCloseTo(0.12, 3)
    expect(after(s, { poke: 'hand', device: 'sonar', distance: 0.4 }, 'sonar.distance')).toBeCloseTo(0.4, 3)
    expect(after(s, { poke: 'hand', device: 'sonar', distance: null }, 'sonar.distance')).toBeCloseTo(free, 3)
    expect(told(s)).toEqual(['sonar: hand 12 cm before it', 'sonar: hand 40 cm before it', 'sonar: hand away'])
  })
  test('goes with the sensor that it is held before', () => {
    const s = build('limpet', null)
    s.poke({ poke: 'hand', device: 'sonar', distance: 0.2 })
    expect(after(s, { poke: 'carry', forward: 0.5, right: 2 }, 'sonar.distance')).toBeCloseTo(0.2, 3)
  })
  test('over an eye shuts it: nothing but the hand is seen, and no light', () => {
    const lit = { light: { level: '80 %' }, patches: [{ shape: 'box', at: ['1 m', '1 m'], size: ['1 m', '1 m'], color: 'orange' }] }
    const s = build('cuttle', null, { arena: lit })
    ticks(s, 12)
    const orange = reading(s, 'floor.color')
    expect(reading(s, 'light.level')).toBeCloseTo(0.8, 2)
    expect(after(s, { poke: 'cover', device: 'light', on: true }, 'light.level')).toBe(0)
    expect(after(s, { poke: 'cover', device: 'floor', on: true }, 'floor.color')).not.toBe(orange)
    expect(after(s, { poke: 'cover', device: 'sonar', on: true }, 'sonar.distance')).toBeLessThan(0.03)
    s.poke({ poke: 'cover', device: 'cam', on: true })
    ticks(s, 20)
    const [{ picture }] = s.pictures() as [ReturnType<Simulation['pictures']>[number]]
    const bright = picture.pixels.filter((_, i) => i % 4 !== 3)
    expect([Math.max(...bright) < 25, Math.max(...bright) - Math.min(...bright) < 5]).toEqual([true, true])
    // Others see the hand only where it is.
    expect(after(s, { poke: 'cover', device: 'light', on: false }, 'light.level')).toBeCloseTo(0.8, 2)
  })
  test('presses a bumper until it lets go', () => {
    const s = build('limpet', null)
    const name = s.facts.devices.find(d => d.kind === 'bumper')!.name
    expect(after(s, { poke: 'press', device: name, on: true }, `${name}.pressed`)).toBe(1)
    ticks(s, 40)
    expect(reading(s, `${name}.pressed`)).toBe(1)
    expect(after(s, { poke: 'press', device: name, on: false }, `${name}.pressed`)).toBe(0)
  })
  test('dims all light: what the arena does with it goes on from there', () => {
    const s = build('cuttle', null, { arena: { light: { level: '80 %', changes: [{ at: '1 s', level: '40 %' }] } } })
    expect(after(s, { poke: 'dim', to: 0.5 }, 'light.level')).toBeCloseTo(0.4, 3)
    ticks(s, 60)
    expect(reading(s, 'light.level')).toBeCloseTo(0.2, 3)
    expect(after(s, { poke: 'dim', to: 1 }, 'light.level')).toBeCloseTo(0.4, 3)
  })
  test('takes a piece away and puts it back where it was, to the bit; what lay on it falls', () => {
    const s = build('limpet', null, { arena: { pieces: [box('low', 1.5, { name: 'pot', stack: 2 })] } })
    ticks(s, 100)
    const [low, high] = s.world.pieces.map(p => p.solid)
    const stood = [low!.px, low!.py, low!.pz]
    s.poke({ poke: 'take', what: s.world.pieces[0]!.name })
    ticks(s, 60)
    expect(low!.pz).toBeLessThan(-10)
    expect(high!.pz).toBeCloseTo(0.05, 2)
    s.poke({ poke: 'put', what: s.world.pieces[1]!.name, x: 3, y: 2, heading: null })
    s.poke({ poke: 'return', what: s.world.pieces[0]!.name })
    s.advance()
    ;[low!.px, low!.py, low!.pz].forEach((v, i) => expect(v).toBeCloseTo(stood[i]!, 4))
  })
  test('takes a piece out of the claw that holds it', () => {
    const s = build('cuttle', 'start\n  open claw\n  move lift to -35 deg\n  close claw\n  wait 9 s\n', { arena: { pieces: [{ name: 'float', kind: 'float', shape: 'cylinder', diameter: '5 cm', height: '7 cm', mass: '60 g', friction: 0.7, at: ['1.153 m', '1 m'] }] } })
    ticks(s, 150)
    expect(reading(s, 'claw.holding')).toBe(1)
    s.poke({ poke: 'take', what: 'float' })
    ticks(s, 30)
    expect(reading(s, 'claw.holding')).toBe(0)
    expect(piece(s, 'float').pz).toBeLessThan(-10)
  })
  test('puts a piece down on what stands there', () => {
    const s = build('limpet', null, { arena: { pieces: [box('crate', 1.8), box('other', 2.4)] } })
    s.poke({ poke: 'put', what: 'other', x: 1.8, y: 1, heading: null })
    ticks(s, 60)
    expect(piece(s, 'other').pz).toBeCloseTo(0.15, 2)
    expect(piece(s, 'crate').pz).toBeCloseTo(0.05, 2)
  })
  test('knocks a stack over, and the robot off its heading', () => {
    const s = build('limpet', null, { arena: { pieces: [box('pot', 1.8, { height: '30 cm', length: '6 cm', width: '6 cm' })] } })
    s.poke({ poke: 'knock', what: 'pot', speed: 0.8, heading: 0 })
    ticks(s, 80)
    expect(Math.abs(piece(s, 'pot').matrix[8]!)).toBeLessThan(0.2)
    expect(piece(s, 'pot').px).toBeGreaterThan(1.8)
    const { y } = s.pose()
    s.poke({ poke: 'knock', what: 'robot', speed: 0.5, heading: Math.PI / 2 })
    ticks(s, 10)
    // A heading of 90 deg is south.
    expect(s.pose().y).toBeLessThan(y - 0.005)
  })
  test('carries the robot by exact measures, and its wheels do not turn', () => {
    const s = build('limpet', null)
    ticks(s, 20)
    const before = s.pose()
    const turned = reading(s, 'wheels.travel')
    s.poke({ poke: 'carry', forward: 0.1, right: 0 })
    s.advance()
    expect(s.pose().x - before.x).toBeCloseTo(0.1, 5)
    s.poke({ poke: 'carry', forward: 0, right: Math.PI / 2 })
    s.advance()
    expect(s.pose().yaw - before.yaw).toBeCloseTo(-Math.PI / 2, 5)
    expect(reading(s, 'wheels.travel')).toBeCloseTo(turned, 6)
  })
  test.each<Poke>([
    { poke: 'hand', device: 'nobody', distance: 0.1 }, { poke: 'hand', device: 'gyro', distance: 0.1 }, { poke: 'hand', device: 'sonar', distance: -1 }, { poke: 'hand', device: 'sonar', distance: Number.NaN },
    { poke: 'cover', device: 'bumper_left', on: true }, { poke: 'press', device: 'sonar', on: true }, { poke: 'dim', to: Infinity }, { poke: 'dim', to: -0.1 },
    { poke: 'take', what: 'robot' }, { poke: 'take', what: 'nothing' }, { poke: 'return', what: 'crate' }, { poke: 'knock', what: 'post', speed: 1, heading: 0 }, { poke: 'put', what: 'post', x: 1, y: 1, heading: null },
    { poke: 'carry', forward: 1e9, right: 0 }, { poke: 'put', what: 'robot', x: Number.NaN, y: 1, heading: null }, { poke: 'dial', name: 'none', value: 1 },
  ])('that cannot do it does nothing: %j', (poke) => {
    const arena = { pieces: [box('crate', 1.8), box('post', 2.5, { fixed: true })] }
    const s = build('limpet', null, { arena })
    const untouched = build('limpet', null, { arena })
    s.poke(poke)
    ticks(s, 5)
    ticks(untouched, 5)
    expect(told(s)).toEqual([])
    expect(s.tape.digest()).toBe(untouched.tape.digest())
  })
})

/** Something that a hand may do to a run, drawn at random. */
function anyPoke(random: RandomStream, s: Simulation): Poke {
  const pick = <T>(from: readonly T[]): T => from[random.bits() % from.length]!
  const things = s.world.pieces.map(p => p.name)
  const eyes = ['sonar', 'cam', 'floor', 'light', 'tail', 'nobody']
  return pick<() => Poke>([
    () => ({ poke: 'put', what: pick(['robot', ...things]), x: 0.4 + random.unit(), y: 0.4 + random.unit(), heading: pick([null, random.unit() * 6]) }),
    () => ({ poke: 'carry', forward: random.unit() * 0.1, right: random.unit() }),
    () => ({ poke: 'push', forward: random.unit() - 0.5, right: random.unit() - 0.5 }),
    () => ({ poke: 'knock', what: pick(['robot', ...things]), speed: random.unit(), heading: random.unit() * 6 }),
    () => ({ poke: 'take', what: pick(things) }),
    () => ({ poke: 'return', what: pick(things) }),
    () => ({ poke: 'hand', device: pick(eyes), distance: pick([null, 0.05 + random.unit() * 0.5]) }),
    () => ({ poke: 'cover', device: pick(eyes), on: random.unit() < 0.5 }),
    () => ({ poke: 'press', device: pick(s.facts.devices).name, on: random.unit() < 0.5 }),
    () => ({ poke: 'clap', x: random.unit(), y: random.unit() }),
    () => ({ poke: 'dim', to: random.unit() }),
  ])()
}

describe('a run with hands in it', () => {
  test.each(['night-rounds', 'fetch-the-floats', 'lids-home', 'topple-the-pots'])('%s: twenty pokes, kept as a record, are run again to the bit, also over a snapshot in the middle', async (project) => {
    const inputs = demoInputs(project, { realism: 'rough', seed: 4 })
    const opened = await openRun(inputs)
    if (!opened.ok) throw new Error('cannot run')
    const s = opened.simulation
    const random = RandomStream.named(7, project)
    let saved: ReturnType<Simulation['snapshot']> | null = null
    for (let i = 0; i < 20; i++) {
      for (let more = random.bits() % 12; more >= 0; more--) s.advance()
      s.poke(anyPoke(random, s))
      if (i === 10) saved = structuredClone(s.snapshot())
    }
    ticks(s, 30)
    const record = JSON.parse(JSON.stringify(recordOf(project, inputs, s))) as unknown
    const read = readRecord(record)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    expect(read.value.pokes.length).toBeGreaterThan(7)
    const again = await replay(read.value)
    if (!again.ok) throw new Error('cannot run')
    expect(again.same).toBe(true)
    // The run that knows its pokes beforehand goes on from the middle as it went.
    const { simulation } = again
    const opened2 = await openRun(read.value)
    if (!opened2.ok) throw new Error('cannot run')
    opened2.simulation.restore(saved!)
    while (opened2.simulation.tape.rows < read.value.ticks && opened2.simulation.end === null) opened2.simulation.advance()
    expect(opened2.simulation.tape.digest()).toBe(simulation.tape.digest())
    for (const one of [s, simulation, opened2.simulation]) one.free()
  })
  test('a record that was changed is not the same', async () => {
    const inputs = demoInputs('kiss-the-fender', { realism: 'typical', seed: 2 })
    const opened = await openRun(inputs)
    if (!opened.ok) throw new Error('cannot run')
    ticks(opened.simulation, 20)
    opened.simulation.poke({ poke: 'hand', device: 'sonar', distance: 0.3 })
    ticks(opened.simulation, 40)
    const record = recordOf('Kiss', inputs, opened.simulation)
    const same = async (changed: typeof record): Promise<boolean> => { const r = await replay(changed); return r.ok && r.same }
    expect(await same(record)).toBe(true)
    expect(await same({ ...record, seed: 3 })).toBe(false)
    expect(await same({ ...record, pokes: [{ ...record.pokes[0]!, tick: 21 }] })).toBe(false)
    expect(await same({ ...record, ticks: 59 })).toBe(false)
  })
  test('says of pokes in a file what is wrong with which of them', () => {
    const wrong = (pokes: unknown): string[] => { const read = readPokes(pokes); return read.ok ? [] : read.problems.map(p => `${p.path}: ${p.value}; ${p.message}`) }
    expect(wrong([{ tick: 3, poke: 'hand', device: 'sonar', distance: 0.1 }, { tick: 3, poke: 'dim', to: 0 }])).toEqual([])
    expect(wrong('none')).toEqual(['pokes: "none"; expected a list of pokes'])
    expect(wrong([{ tick: 3, poke: 'kick' }])[0]).toMatch(/^pokes\[0\]\.poke: "kick"; allowed is one of dial, put/)
    expect(wrong([{ tick: 3, poke: 'dim', to: 0 }, { tick: 2, poke: 'dim', to: 9 }]).map(w => w.split(':')[0])).toEqual(['pokes[1].to', 'pokes[1].tick'])
    expect(wrong([{ tick: 3, poke: 'dim', to: 0, by: 1 }])).toHaveLength(1)
  })
})
