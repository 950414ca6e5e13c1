import { describe, expect, test } from 'vitest'
import { COLORS, REFLECTS } from '../../../core/colors'
import { DEVICE_KINDS } from '../../../core/devices'
import { PLAIN_SURFACE, Solid, multiply, yawQuaternion, type Surface } from '../../../core/geometry'
import { DEG, arenaWith, bodyAt, look, make, surroundings } from './around'

/** Each sense against an answer worked out by hand. */

const painted = (color: keyof typeof REFLECTS, rest: Partial<Surface> = {}): Surface => ({ ...PLAIN_SURFACE, paint: REFLECTS[color], ...rest })
const box = (x: number, y: number, z: number, half: readonly [number, number, number], surface = PLAIN_SURFACE, yaw = 0) =>
  new Solid('box', { shape: 'box', hx: half[0], hy: half[1], hz: half[2] }, surface, { x, y, z }, yawQuaternion(yaw))

describe('a time-of-flight sensor', () => {
  const ahead = (x: number, surface: Surface) => look('tof', { solids: [box(x + 0.1, 0.2, 0.3, [0.1, 0.5, 0.3], surface)], body: bodyAt(0, 0.2, 0.1) }, { settings: { range: '80 cm', cone: '0 deg' } })
  test('tells how far a face is', () => {
    expect(ahead(0.37, painted('white'))['distance']).toBeCloseTo(0.37, 9)
  })
  test('sees dark faces near by only', () => {
    expect(ahead(0.3, painted('black'))['sees']).toBe(1)
    expect(ahead(0.45, painted('black'))['sees']).toBe(0)
    expect(ahead(0.75, painted('white'))['sees']).toBe(1)
  })
  test('looks past what lies beside its narrow beam', () => {
    expect(look('tof', { solids: [box(0.4, 0.16, 0.1, [0.05, 0.05, 0.1])], body: bodyAt(0, 0, 0.1) })['sees']).toBe(0)
  })
})

describe('a colour sensor', () => {
  const arena = arenaWith({ patches: [{ shape: 'box', at: ['1 m', '1 m'], size: ['40 cm', '30 cm'], color: 'yellow' }], floor: { color: 'black' } })
  const down = { mount: { pitch: -90 * DEG }, settings: { spot: '2 cm', reach: '6 cm' } }
  const at = (x: number, options: Parameters<typeof look>[2] = down) => look('color', { arena, body: bodyAt(x, 1, 0.001) }, options)
  test('names the paint below it', () => {
    expect(COLORS[at(1)['color']!]).toBe('yellow')
    expect(COLORS[at(1.5)['color']!]).toBe('black')
  })
  test('over an edge it reads the mixture, half of each', () => {
    const brightness = (c: keyof typeof REFLECTS) => REFLECTS[c].reduce((a, b) => a + b) / 3
    expect((at(1.1999)['reflect']! + at(1.2001)['reflect']!) / 2).toBeCloseTo((brightness('yellow') + brightness('black')) / 2, 1)
    expect(at(1.194)['reflect']!).toBeGreaterThan(at(1.206)['reflect']!)
  })
  test('tells the tint as an angle: green a third of the circle from red', () => {
    const patch = (color: string) => look('color', { arena: arenaWith({ patches: [{ shape: 'disc', at: ['1 m', '1 m'], diameter: '20 cm', color }] }), body: bodyAt(1, 1, 0.001) }, down)
    expect(patch('green')['hue']! / DEG).toBeGreaterThan(115)
    expect(patch('green')['hue']! / DEG).toBeLessThan(150)
    expect(patch('blue')['hue']! / DEG).toBeGreaterThan(205)
  })
  test('sees nothing over water, and the piece that comes before it', () => {
    expect(at(4.5)['color']).toBe(0)
    const piece = look('color', { arena, solids: [box(1.06, 1, 0.05, [0.03, 0.03, 0.05], painted('orange'))], body: bodyAt(1, 1, 0.05) }, { settings: { reach: '5 cm' } })
    expect(COLORS[piece['color']!]).toBe('orange')
  })
  test.each(COLORS.filter(c => c !== 'none'))('%s is known again by a cheap sensor, nine times of ten', (color) => {
    const setup = surroundings({ arena: arenaWith({ floor: { color } }), body: bodyAt(1, 1, 0.001) })
    let known = 0
    for (let seed = 1; seed <= 40; seed++) {
      const into = new Float64Array(3)
      make('color', { ...down, realism: 'typical', seed }).look(setup, into)
      if (COLORS[into[0]!] === color) known++
    }
    expect(known).toBeGreaterThanOrEqual(36)
  })
})

describe('a light sensor', () => {
  const upwards = { mount: { pitch: 90 * DEG } }
  const lamp = { name: 'quay_lamp', at: ['1.6 m', '1 m'], up: '30 cm', brightness: '40 %', on: [{ from: '0 s', to: '20 s' }] }
  const arena = arenaWith({ light: { level: '10 %', changes: [{ at: '10 s', level: '5 %' }] }, lamps: [lamp] })
  const at = (time: number, solids: readonly Solid[] = []) => look('light', { arena, body: bodyAt(1, 1, 0), time, solids }, upwards)['level']!
  test('adds the lamp by the inverse square and the cosine to the room', () => {
    // 60 cm beside and 30 cm above: distance 67.1 cm, cosine 0.447; brightness is that at 50 cm.
    expect(at(0)).toBeCloseTo(0.1 + 0.4 * 0.25 / 0.45 * (0.3 / Math.sqrt(0.45)), 6)
  })
  test('follows the timetables of room and lamp', () => {
    expect(at(10) - at(0)).toBeCloseTo(-0.05, 6)
    expect(at(21)).toBeCloseTo(0.05, 6)
  })
  test('sits in the shadow of what stands between', () => {
    expect(at(0, [box(1.3, 1, 0.2, [0.02, 0.3, 0.2])])).toBeCloseTo(0.1, 6)
  })
})

describe('a sound sensor', () => {
  test('hears a noise by its distance, while it lasts', () => {
    const arena = arenaWith({ hush: '0 %', noises: [{ at: ['2 m', '1 m'], first: '3 s', every: '10 s', lasts: '0.5 s', loudness: '80 %' }] })
    const at = (time: number) => look('sound', { arena, body: bodyAt(1, 1, 0), time })['level']!
    expect(at(2.9)).toBe(0)
    // A metre away, twice the half metre at which loudness is told: a quarter.
    expect(at(3.2)).toBeCloseTo(0.2, 6)
    expect(at(3.6)).toBe(0)
    expect(at(13.2)).toBeCloseTo(0.2, 6)
  })
  test('feels the knocks of its own body, and they die away', () => {
    const setup = surroundings({ arena: arenaWith({ hush: '0 %' }) })
    const model = make('sound')
    const into = new Float64Array(1)
    const at = (time: number) => { model.look(Object.assign(setup, { time }), into); return into[0]! }
    at(0)
    setup.sound.knock(0.6, 1)
    expect(at(1)).toBeCloseTo(0.6, 6)
    expect(at(1.05)).toBeLessThan(0.4)
    expect(at(2)).toBeLessThan(0.02)
  })
})

describe('a beacon', () => {
  test('tells where it is, which way a place lies and how far', () => {
    // At (1, 2), facing 30 deg to the left of east; the place at (2, 2) lies 30 deg to the right.
    const model = make('beacon')
    const into = new Float64Array(5)
    model.look(surroundings({ body: bodyAt(1, 2, 0, yawQuaternion(30 * DEG)) }), into)
    expect([into[0], into[1]]).toEqual([1, 2])
    const { bearing, distance } = DEVICE_KINDS.find(k => k.kind === 'beacon')!.computed!
    expect(bearing!(into, 0, [2, 2]) / DEG).toBeCloseTo(30, 9)
    expect(bearing!(into, 0, [1, 3]) / DEG).toBeCloseTo(-60, 9)
    expect(distance!(into, 0, [1.3, 1.6])).toBeCloseTo(0.5, 9)
  })
})

describe('a light gate', () => {
  const post = (x: number) => new Solid('post', { shape: 'cylinder', radius: 0.02, hz: 0.1 }, PLAIN_SURFACE, { x, y: 1.005, z: 0.1 }, yawQuaternion(0))
  test.each([[1.08, 1], [1.2, 0]])('something at %f m: blocked %i', (x, blocked) => {
    expect(look('gate', { solids: [post(x)], body: bodyAt(1, 1, 0.1) }, { settings: { span: '12 cm' } })['blocked']).toBe(blocked)
  })
})

describe('a camera', () => {
  const settings = { 'field of view': '60 deg', colors: ['orange', 'green'], tags: [5] }
  const float = (x: number, y: number, color: keyof typeof REFLECTS, radius = 0.03) =>
    new Solid(color, { shape: 'cylinder', radius, hz: 0.04 }, painted(color), { x, y, z: 0.04 }, yawQuaternion(0))
  const see = (solids: readonly Solid[], body = bodyAt(1, 1, 0.08), rest: Parameters<typeof look>[2] = {}) =>
    look('camera', { solids, body, arena: arenaWith({ light: { level: '60 %' } }) }, { settings, ...rest })

  test('a blob lies at the bearing that trigonometry gives, right positive', () => {
    // 80 cm ahead, 25 cm to the right.
    const seen = see([float(1.8, 0.75, 'orange')])
    expect(seen['sees(orange)']).toBe(1)
    expect(seen['bearing(orange)']! / DEG).toBeCloseTo(Math.atan2(0.25, 0.8) / DEG, 0)
  })
  test('its size is the share of the picture that the lens gives it', () => {
    const d = 0.8
    const focal = 80 / Math.tan(30 * DEG)
    const pixels = 2 * 0.03 * focal / (d - 0.01) * 0.08 * focal / d
    expect(see([float(1 + d, 1, 'green')])['size(green)']! / (pixels / (160 * 120))).toBeCloseTo(1, 0)
  })
  test('turns with the robot, and what is behind is not seen', () => {
    const left = see([float(1.1, 1.7, 'orange')], bodyAt(1, 1, 0.08, yawQuaternion(70 * DEG)))
    expect(left['bearing(orange)']! / DEG).toBeCloseTo(70 - Math.atan2(0.7, 0.1) / DEG, 0)
    expect(see([float(0.5, 1, 'orange')])['sees(orange)']).toBe(0)
  })
  test('counts what is apart, and not what hides behind another', () => {
    expect(see([float(1.7, 0.85, 'green'), float(1.7, 1.15, 'green')])['count(green)']).toBe(2)
    expect(see([float(1.5, 1, 'orange', 0.08), float(1.9, 1.01, 'green')])['sees(green)']).toBe(0)
  })
  test('does not take yellow for orange, nor the floor for anything', () => {
    const seen = see([float(1.6, 1, 'yellow')])
    expect([seen['sees(orange)'], seen['sees(green)']]).toEqual([0, 0])
  })
  test('reads a tag: its number, where it is, and how far', () => {
    const tagged = (n: number, x: number, yaw = 0) => new Solid('crate', { shape: 'box', hx: 0.05, hy: 0.05, hz: 0.05 }, painted('grey', { tag: n }), { x, y: 1.04, z: 0.08 }, yawQuaternion(yaw))
    const seen = see([tagged(5, 1.4)])
    expect(seen['sees(tag 5)']).toBe(1)
    // The face is 35 cm ahead and 4 cm to the left.
    expect(seen['distance(tag 5)']! * 100).toBeCloseTo(35, -0.7)
    expect(seen['bearing(tag 5)']! / DEG).toBeCloseTo(-Math.atan2(0.04, 0.35) / DEG, -0.3)
    expect(see([tagged(6, 1.4)])['sees(tag 5)']).toBe(0)
    expect(see([tagged(5, 1.4, 20 * DEG)])['sees(tag 5)']).toBe(1)
  })
  test('a bearing that is no more seen stays what it was', () => {
    const model = make('camera', { settings })
    const into = new Float64Array(13)
    model.look(surroundings({ solids: [float(1.8, 0.75, 'orange')], body: bodyAt(1, 1, 0.08) }), into)
    const before = into[1]
    model.look(surroundings({ body: bodyAt(1, 1, 0.08) }), into)
    expect([into[0], into[1], into[2]]).toEqual([0, before, 0])
  })
  test('leans with what carries it: looking down, the far float leaves the picture', () => {
    const down = multiply(yawQuaternion(0), { x: 0, y: Math.sin(25 * DEG), z: 0, w: Math.cos(25 * DEG) })
    expect(see([float(2.2, 1, 'orange')], bodyAt(1, 1, 0.08, down))['sees(orange)']).toBe(0)
  })
})
