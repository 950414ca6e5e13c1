import { describe, expect, test } from 'vitest'
import { DEVICE_KINDS, settingsOf } from '../../../core/devices'
import { BARE_ARM, BARE_ROVER, floorViews, framesOf, gripAt, lookBudget, placeFrames, posedBy, readRobot, readWav, selfViews, toUrdf, within, withColor, type Robot } from '../../../core/robot'
import { checkProgram } from '../../../core/language'
import { factsOf } from '../../../core/robot'
import { demo } from '../kit'

type Doc = Record<string, any>
function changed(name: string, change: (d: Doc) => void = () => undefined): Doc {
  const doc = structuredClone(demo(`robots/${name}.json`)) as Doc
  change(doc)
  return doc
}
function robot(name: string, change?: (d: Doc) => void): Robot {
  const read = readRobot(changed(name, change))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const device = (d: Doc, name: string): Doc => d['devices'].find((x: Doc) => x['name'] === name)
const problems = (name: string, change: (d: Doc) => void) => { const read = readRobot(changed(name, change)); return read.ok ? [] : read.problems }

/** A WAV file of one channel and 8 bits, as base64. */
function wav(seconds: number, coding = 1, rate = 8000): string {
  const size = Math.round(seconds * rate)
  const bytes = Buffer.alloc(44 + size)
  bytes.write('RIFF', 0)
  bytes.writeUInt32LE(36 + size, 4)
  bytes.write('WAVEfmt ', 8)
  bytes.writeUInt32LE(16, 16)
  bytes.writeUInt16LE(coding, 20)
  bytes.writeUInt16LE(1, 22)
  bytes.writeUInt32LE(rate, 24)
  bytes.writeUInt32LE(rate, 28)
  bytes.writeUInt16LE(1, 32)
  bytes.writeUInt16LE(8, 34)
  bytes.write('data', 36)
  bytes.writeUInt32LE(size, 40)
  return bytes.toString('base64')
}

describe('a short-range eye near the floor', () => {
  test('is told from where on it sees the floor: its height over the sine of its cone\'s lower edge', () => {
    const document = structuredClone(demo('robots/limpet.json')) as { devices: { name: string, settings: Record<string, string> }[] }
    document.devices.find(d => d.name === 'rear')!.settings['cone'] = '20 deg'
    const read = readRobot(document)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const rear = read.value.devices.find(d => d.name === 'rear')!
    const { cone } = rear.parameters as { cone: number }
    expect(floorViews(read.value)).toEqual([{ device: 'rear', distance: expect.closeTo(0.045 / Math.sin(cone / 2), 9) as number }])
  })
  test('tilted up by half its cone, it sees none', () => {
    const document = structuredClone(demo('robots/limpet.json')) as { devices: { name: string, mount: Record<string, string> }[] }
    document.devices.find(d => d.name === 'rear')!.mount['tilt'] = '30 deg'
    const read = readRobot(document)
    expect(read.ok && floorViews(read.value)).toEqual([])
  })
})

describe('robots that cannot exist', () => {
  test.each<[string, string, (d: Doc) => void, string, RegExp]>([
    ['a joint range turned round', 'heron', (d) => { device(d, 'lift')['settings']['from'] = '60 deg' }, 'devices[1].settings.from', /smaller to the larger/],
    ['a home out of range', 'heron', (d) => { device(d, 'base')['settings']['home'] = '170 deg' }, 'devices[0].settings.home', /within the joint's range/],
    ['a device on nothing', 'cuttle', (d) => { device(d, 'claw')['mount']['on'] = 'mast' }, 'devices[3].mount.on', /this robot has lift/],
    ['a device on what is no joint', 'cuttle', (d) => { device(d, 'claw')['mount']['on'] = 'sonar' }, 'devices[3].mount.on', /name of a joint/],
    ['joints that carry one another', 'heron', (d) => { device(d, 'base')['mount']['on'] = 'lift' }, 'devices[0].mount.on', /carry itself/],
    ['two on one port', 'cuttle', (d) => { device(d, 'light')['port'] = 'P1' }, 'devices[5].port', /sonar is on P1 already/],
    ['the wrong kind of port', 'cuttle', (d) => { device(d, 'gyro')['port'] = 'C' }, 'devices[8].port', /needs bus: P4, P5, P6, P7/],
    ['zero mass', 'heron', (d) => { device(d, 'lift')['settings']['mass'] = '0 g' }, 'devices[1].settings.mass', /from 1 g/],
    ['a camera that looks for a colour nobody knows', 'cuttle', (d) => { device(d, 'cam')['settings']['colors'] = ['orange', 'teal'] }, 'devices[1].settings.colors[1]', /allowed is one of black/],
    ['a gesture beyond a joint', 'cuttle', (d) => { d['gestures'][0]['poses'][0]['joints']['lift'] = '90 deg' }, 'gestures[0].poses[0].joints.lift', /-35 deg to 60 deg/],
    ['a gesture of no joint', 'cuttle', (d) => { d['gestures'][0]['poses'][0]['joints'] = { tail: '9 deg' } }, 'gestures[0].poses[0].joints', /no joint of that name/],
    ['a clip that is no sound', 'limpet', (d) => { d['clips'] = [{ name: 'gull', wav: Buffer.from('hello there, harbour').toString('base64') }] }, 'clips[0].wav', /no WAV file/],
  ])('%s', (_what, name, change, path, says) => {
    const all = problems(name, change)
    expect(all.map(p => p.path)).toContain(path)
    expect(all.find(p => p.path === path)!.message).toMatch(says)
  })
})

describe('robots to begin with', () => {
  test.each([['rover', BARE_ROVER], ['arm', BARE_ARM]])('a bare %s can exist', (_name, document) => { expect(readRobot(document)).toMatchObject({ ok: true }) })
})

describe('clips', () => {
  test('know how long they last', () => { expect(readWav(wav(1.5))).toEqual({ ok: true, seconds: 1.5 }) })
  test.each([['too long', wav(11), /11\.0 s; allowed is up to 10 s/], ['compressed', wav(1, 85), /compressed/], ['cut off', wav(1).slice(0, 40), /cut off/], ['no base64', '***', /base64/]])('%s is said', (_what, file, says) => {
    const read = readWav(file)
    expect(read.ok).toBe(false)
    expect(read.ok ? '' : read.message).toMatch(says)
  })
  test('a program plays those that the robot keeps, and no others', () => {
    const facts = factsOf(robot('limpet', (d) => { d['clips'] = [{ name: 'gull', wav: wav(0.5) }] }))
    expect(checkProgram('start\n  play gull\n  play gull without waiting\n', facts).runs).toBe(true)
    expect(checkProgram('start -> play gul\n', facts).diagnostics[0]).toMatchObject({ code: 'not-kept', fix: { text: 'gull' } })
  })
})

describe('programs that use what the robot lacks', () => {
  const said = (program: string, name: string) => checkProgram(program, factsOf(robot(name))).diagnostics.filter(d => d.severity === 'error').map(d => `${d.code}: ${d.message}`)
  test.each([
    ['limpet', 'start -> close claw', /no-device: close needs a claw; limpet has none/],
    ['heron', 'start -> drive 20 cm', /no-device: drive needs a pair of wheels; heron has none/],
    ['cuttle', 'start -> move claw to 3 cm', /wrong-device: claw is a claw; move needs/],
    ['cuttle', 'start -> move lift to 3 cm', /misfit: lift turns/],
    ['cuttle', 'when rear.distance < 9 cm -> halt', /unknown-device: .*nearest that could do it is sonar\.distance/],
    ['cuttle', 'when cam.sees(blue) -> halt', /unknown-target: .*orange, green/],
    ['cuttle', 'when cam.sees -> halt', /unknown-target/],
    ['winkle', 'when beacon.distance(1 m) < 1 m -> halt', /given: .*two|given: .*2 values/],
    ['winkle', 'when beacon.distance(1 m, 3 s) < 1 m -> halt', /wrong-kind|kinds/],
    ['cuttle', 'start -> note "{tag(3)}"', /tag-here/],
    ['limpet', 'lane a\n  otherwise -> drive 9 cm/s\nlane b\n  otherwise -> turn left 9 deg/s', /two-lanes|belongs/],
  ])('%s: %s', (name, program, says) => { expect(said(program, name).join('\n')).toMatch(says) })
  test('lamps, magnets and displays are anybody’s', () => {
    expect(said('lane a\n  otherwise -> light lamp red\nlane b\n  otherwise -> light lamp green', 'limpet')).toEqual([])
  })
})

describe('a colour that is taught', () => {
  test('is known to the robot and to its camera, and the document given stays', () => {
    const before = changed('cuttle')
    const text = JSON.stringify(before)
    const read = readRobot(withColor(before, 'cam', ['orange'], 'rust', [0.42, 0.2, 0.1]))
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    expect(read.value.taught).toEqual([{ name: 'rust', paint: [0.42, 0.2, 0.1] }])
    expect(checkProgram('when cam.sees(rust) -> halt', factsOf(read.value)).runs).toBe(true)
    expect(JSON.stringify(before)).toBe(text)
  })
})

describe('frames', () => {
  test('a claw on a lift on a base: where trigonometry puts it', () => {
    const r = robot('heron')
    const frames = framesOf(r)
    const at = (base: number, lift: number) => within(placeFrames(frames, [base, lift])[1]!, { position: { x: 0.19, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }).position
    const up = 0.185 - r.height + 0.02
    const deg = Math.PI / 180
    const p = at(40 * deg, 25 * deg)
    const reach = 0.03 + 0.19 * Math.cos(25 * deg)
    expect(p.x).toBeCloseTo(reach * Math.cos(40 * deg), 9)
    // Right is positive, and left is y.
    expect(p.y).toBeCloseTo(-reach * Math.sin(40 * deg), 9)
    expect(p.z).toBeCloseTo(up + 0.19 * Math.sin(25 * deg), 9)
  })
})

describe('posing by hand', () => {
  const r = robot('heron')
  const frames = framesOf(r)
  const deg = Math.PI / 180
  const range = (joint: string): readonly [number, number] => { const { from, to } = r.devices.find(d => d.name === joint)!.parameters as { from: number, to: number }; return [from, to] }
  type Place = { x: number, y: number, z: number }
  const above = (p: Place) => [p.x, -p.y] as const
  const side = (p: Place) => [p.x, -p.z] as const
  const tip = (values: readonly number[]) => within(placeFrames(frames, values)[1]!, { position: { x: 0.19, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }).position
  const grip = (values: readonly number[]) => gripAt(frames, values, 1, tip(values))

  test('the point that is held is the one under the hand', () => {
    const { point } = grip([35 * deg, 12 * deg])
    expect(point.x).toBeCloseTo(0.19, 9)
    expect(Math.hypot(point.y, point.z)).toBeCloseTo(0, 9)
  })
  test('from the side the lift follows, and the base, whose turn does not show, stays', () => {
    const posed = posedBy(frames, [0, 20 * deg], range, grip([0, 20 * deg]), side, side(tip([0, -31 * deg])))
    expect(posed[0]).toBeCloseTo(0, 3)
    expect(posed[1]! / deg).toBeCloseTo(-31, 1)
  })
  test('from above the base follows', () => {
    const posed = posedBy(frames, [10 * deg, 20 * deg], range, grip([10 * deg, 20 * deg]), above, above(tip([75 * deg, 20 * deg])))
    expect(posed[0]! / deg).toBeCloseTo(75, 1)
    expect(posed[1]! / deg).toBeCloseTo(20, 0)
  })
  test('no joint leaves its range, however far one drags', () => {
    const posed = posedBy(frames, [0, 20 * deg], range, grip([0, 20 * deg]), side, [0.05, -3])
    expect(posed[1]).toBeCloseTo(50 * deg, 6)
  })
})

describe('the look budget', () => {
  test('at once, each looks at its own period; sonars share the air', () => {
    const two = robot('limpet', (d) => { d['devices'].push({ ...device(d, 'sonar'), name: 'sonar_2', port: 'P3' }) })
    const line = (r: Robot, name: string) => lookBudget(r).find(l => l.device === name)!
    expect(line(robot('limpet'), 'sonar').round).toBeCloseTo(0.05)
    expect(line(two, 'sonar').round).toBeCloseTo(0.1)
    expect(line(two, 'rear').round).toBeCloseTo(0.03)
    // A round, the latency and a tick.
    expect(line(two, 'sonar').worst).toBeCloseTo(0.1 + 0.01 + 0.02)
  })
  test('in turn, each waits for all', () => {
    const r = robot('limpet', (d) => { d['controller']['looks'] = 'in turn' })
    const sum = lookBudget(robot('limpet')).reduce((n, l) => n + l.period, 0)
    for (const l of lookBudget(r)) expect(l.round).toBeCloseTo(sum)
  })
})

describe('a sensor that sees its own robot', () => {
  test('is found, with the joint that brings the arm before it', () => {
    // High up before the lift, where the arm comes past as it is raised.
    const r = robot('cuttle', (d) => { Object.assign(device(d, 'sonar')['mount'], { forward: '5 cm', up: '15 cm' }) })
    expect(selfViews(r).find(s => s.device === 'sonar')).toMatchObject({ joint: { name: 'lift' } })
  })
  test('and is not, where nothing is in the way', () => {
    expect(selfViews(robot('limpet'))).toEqual([])
    expect(selfViews(robot('cuttle')).map(s => s.device)).toEqual([])
  })
})

describe('the open robot description', () => {
  test('has a link for every part and a joint for every motion, with limits in radians', () => {
    const xml = toUrdf(robot('cuttle'))
    expect(xml).toContain('<joint name="joint_lift" type="revolute">')
    expect(xml).toMatch(/<limit lower="-0\.610865" upper="1\.047198" effort="1\.6" velocity="1\.396263"\/>/)
    expect(xml.match(/type="continuous"/g)).toHaveLength(2)
    expect(xml).toContain('<parent link="lift"/><child link="claw_frame"/>')
  })
})

describe('what can be set', () => {
  test.each(DEVICE_KINDS.map(k => [k.kind, k] as const))('every setting of %s says what it does and what is allowed', (_name, kind) => {
    for (const s of settingsOf(kind, (_kind, value) => String(value))) {
      expect(s.says, s.name).not.toBe('')
      expect(s.allowed, s.name).not.toMatch(/undefined/)
    }
  })
})
