import { describe, expect, test } from 'vitest'
import { COLORS, REFLECTS } from '../../../core/colors'
import { DEVICE_KINDS } from '../../../core/devices'
import { PLAIN_SURFACE, Solid, yawQuaternion } from '../../../core/geometry'
import { DEG, arenaWith, bodyAt, look, make, surroundings } from './around'

/** What the colour sensor, the camera and the light gate tell, against figures of light and chance. */

const down = { mount: { up: 0.02, pitch: -90 * DEG }, settings: { spot: '20 mm', reach: '6 cm' } } as const

describe('a colour sensor over an edge of black and white', () => {
  const arena = arenaWith({ floor: { color: 'black' }, patches: [{ shape: 'box', at: ['2 m', '1.5 m'], size: ['2 m', '3 m'], color: 'white' }] })
  // The white begins at 1 m; the spot's middle is `mm` beyond it.
  const reflect = (mm: number, y = 1.5): number => look('color', { arena, body: bodyAt(1 + mm / 1000, y, 0) }, down)['reflect']!
  test('passes from one to the other in steps of no more than 1 % of the way a tenth of a millimetre, as the lit share of the spot does', () => {
    const all = Array.from({ length: 261 }, (_, i) => reflect((i - 130) / 10))
    const [low, high] = [all[0]!, all.at(-1)!]
    const steps = all.slice(1).map((v, i) => (v - all[i]!) / (high - low))
    expect(Math.min(...steps)).toBeGreaterThanOrEqual(-1e-12)
    expect(Math.max(...steps)).toBeLessThan(0.01)
    // Half of the light at the edge, and what the integral of 2 (1 - r²) says 4 mm from it, by a sum over a fine grid.
    expect((reflect(0) - low) / (high - low)).toBeCloseTo(0.5, 9)
    let lit = 0
    let light = 0
    for (let x = -0.995; x < 1; x += 0.01) {
      for (let y = -0.995; y < 1; y += 0.01) {
        const r2 = x * x + y * y
        if (r2 > 1) continue
        light += 1 - r2
        if (x > -0.4) lit += 1 - r2
      }
    }
    expect((reflect(4) - low) / (high - low)).toBeCloseTo(lit / light, 2)
  })
  test('sees a line narrower than its spot as the share that it covers', () => {
    const lined = arenaWith({ floor: { color: 'white' }, lines: [{ name: 'l', points: [['1 m', '0 m'], ['1 m', '3 m']], width: '4 mm', color: 'black' }] })
    const over = (mm: number): number => look('color', { arena: lined, body: bodyAt(1 + mm / 1000, 1.5, 0) }, down)['reflect']!
    expect(over(0)).toBeLessThan(over(5))
    expect(over(5)).toBeLessThan(over(13))
    expect(over(13)).toBeCloseTo(over(30), 9)
    expect(over(3)).toBeCloseTo(over(-3), 9)
  })
})

describe('a colour sensor with nothing before it', () => {
  test.each(['typical', 'rough'] as const)('names nothing at %s, and black where it is black', (realism) => {
    const named = (setup: Parameters<typeof surroundings>[0], mount: object): number[] => {
      const around = surroundings(setup)
      const counts = COLORS.map(() => 0)
      const into = new Float64Array(3)
      for (let seed = 1; seed <= 200; seed++) {
        make('color', { mount, settings: { reach: '6 cm' }, realism, seed }).look(around, into)
        counts[into[0]!]!++
      }
      return counts
    }
    // It looks out over the deck, and there is nothing within its reach.
    expect(named({ body: bodyAt(1, 1, 0.2) }, { up: 0 })[0]! / 200).toBeGreaterThan(realism === 'typical' ? 0.98 : 0.85)
    expect(named({ arena: arenaWith({ floor: { color: 'black' } }), body: bodyAt(1, 1, 0.01) }, { pitch: -90 * DEG })[1]! / 200).toBeGreaterThan(realism === 'typical' ? 0.95 : 0.6)
  })
  test('knows white to the end of its reach', () => {
    for (const mm of [5, 20, 40, 50, 58]) expect([mm, COLORS[look('color', { arena: arenaWith({ floor: { color: 'white' } }), body: bodyAt(1, 1, mm / 1000) }, { mount: { pitch: -90 * DEG }, settings: { reach: '6 cm' } })['color']!]]).toEqual([mm, 'white'])
  })
})

describe('a camera', () => {
  const settings = { 'field of view': '60 deg', colors: ['orange'] }
  const solid = new Solid('buoy', { shape: 'cylinder', radius: 0.05, hz: 0.06 }, { ...PLAIN_SURFACE, paint: REFLECTS['orange'] }, { x: 2, y: 1.2, z: 0.06 }, yawQuaternion(0))
  const spread = (realism: 'ideal' | 'typical' | 'rough', reading: 'bearing(orange)' | 'size(orange)'): number => {
    const kind = DEVICE_KINDS.find(k => k.kind === 'camera')!
    const names = kind.readings(kind.schema.validateSync(settings)).map(r => `${r.name}(${r.of})`)
    const around = surroundings({ solids: [solid], body: bodyAt(1, 1, 0.1) })
    const model = make('camera', { settings, realism, mount: { up: 0.02 } })
    const all = Array.from({ length: 60 }, () => {
      const into = new Float64Array(names.length)
      model.look(around, into)
      return into[names.indexOf(reading)]!
    })
    const mean = all.reduce((a, b) => a + b) / all.length
    return Math.sqrt(all.reduce((s, x) => s + (x - mean) * (x - mean), 0) / all.length) / (reading === 'size(orange)' ? mean : 1)
  }
  test('tells a bearing and a size that waver as its realism says', () => {
    expect(Math.max(spread('ideal', 'bearing(orange)'), spread('ideal', 'size(orange)'))).toBeLessThan(1e-12)
    // Sixty looks know a deviation within about a fifth.
    expect(spread('typical', 'bearing(orange)') / DEG).toBeGreaterThan(0.25)
    expect(spread('typical', 'bearing(orange)') / DEG).toBeLessThan(0.6)
    expect(spread('rough', 'bearing(orange)') / DEG).toBeGreaterThan(0.8)
    expect(spread('rough', 'size(orange)')).toBeGreaterThan(0.06)
    expect(spread('rough', 'size(orange)')).toBeLessThan(0.16)
  })
})

test('a light gate hardly ever flickers: at rough once in some twenty seconds', () => {
  const around = surroundings({ body: bodyAt(1, 1, 0.2) })
  const model = make('gate', { realism: 'rough', seed: 3 })
  const into = new Float64Array(1)
  let flickers = 0
  for (let i = 0; i < 30_000; i++) {
    model.look(around, into)
    flickers += into[0]!
  }
  // 300 s at 100 looks a second: 12 are expected.
  expect(flickers).toBeGreaterThan(2)
  expect(flickers).toBeLessThan(30)
})
