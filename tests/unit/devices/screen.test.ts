import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram } from '../../../core/language'
import { readScreen, screenWords } from '../../../core/devices'
import { writeScreen } from '../../../core/devices/screen'
import { dotsOf, factsOf, readRobot, reduced } from '../../../core/robot'
import { loadPhysics } from '../../../core/physics'
import { RandomStream } from '../../../core/random'
import type { Simulation } from '../../../core/simulation'
import { demo, ran, type Doc } from '../kit'

beforeAll(loadPhysics)

/** What stands on each display. */
const textsOf = (s: Simulation): readonly string[] => s.snapshot().controller.vm!.texts
/** What stands on cuttle's display after a program ended. */
function shown(steps: string, change?: (robot: Doc) => void): ReturnType<typeof readScreen> & { readonly told: readonly string[] } {
  const s = ran('cuttle', `start\n${steps.split('\n').map(line => `  ${line}`).join('\n')}\n  wait 0.1 s\n  finish`, { ...change === undefined ? {} : { change } })
  return { ...readScreen(textsOf(s)[0]!), told: s.tape.events.filter(e => e.type === 'clipped').map(e => e.about) }
}
const texts = (lines: ReturnType<typeof readScreen>['lines']): (string | null)[] => lines.map(line => line === null ? null : line.large ? `${line.text} (large)` : line.text)
const GULL = { name: 'gull', size: [8, 2], dots: '/wE=' }
const withGull = (robot: Doc): void => { robot['pictures'] = [GULL] }

describe('what stands on a display', () => {
  test('a text fills it from the top, broken between words; it wipes what stood there', () => {
    expect(texts(shown('show "first" at line 4\nwait 0.1 s\nshow "near: 12 cm, that is closer than the fender"').lines)).toEqual(['near: 12 cm, that is', 'closer than the', 'fender'])
  })
  test('a word longer than a line is cut into lines, and what has no room is left away', () => {
    const { lines } = shown(`show "${'a'.repeat(30)} ${'b '.repeat(200)}"`)
    expect(lines.slice(0, 2).map(line => line?.text.length)).toEqual([21, 21])
    expect(lines).toHaveLength(8)
  })
  test('a line is written alone, in letters of two sizes; large ones take the line below too', () => {
    expect(texts(shown('show "speed" at line 1\nshow "{1 + 1} cm" large at line 2\nshow "below" at line 4').lines)).toEqual(['speed', '2 cm (large)', null, 'below'])
    expect(texts(shown('show "under" at line 3\nshow "over" large at line 2').lines)).toEqual([null, 'over (large)'])
    expect(texts(shown('show "over" large at line 2\nshow "under" at line 3').lines)).toEqual([null, null, 'under'])
  })
  test('it is cleared line by line, or all', () => {
    expect(texts(shown('show "a" at line 1\nshow "b" at line 2\nclear line 1').lines)).toEqual([null, 'b'])
    expect(shown('show "a" at line 1\nclear display').lines).toEqual([])
  })
  test('a line that it does not have is the nearest, and that is told', () => {
    const { lines, told } = shown('show "deep" at line 20')
    expect([lines.findIndex(l => l?.text === 'deep') + 1, told]).toEqual([8, ['display']])
  })
  test('a picture that the robot keeps; texts stand over it', () => {
    const { picture, lines } = shown('show picture gull\nshow "on it" at line 2', withGull)
    expect([picture, texts(lines)]).toEqual(['gull', [null, 'on it']])
    expect(shown('show picture gull\nclear display', withGull).picture).toBeNull()
    expect(shown('show picture gull\nshow "plain"', withGull).picture).toBeNull()
  })
  test('with two displays, the one that is named', () => {
    const s = ran('cuttle', 'start\n  show "first"\n  show "second" at line 2 on aft\n  wait 0.1 s\n  finish', { change: (r) => {
      r['controller']['ports']['P9'] = 'bus'
      r['devices'].push({ name: 'aft', kind: 'display', port: 'P9', mount: {} })
    } })
    expect(textsOf(s)).toEqual(['first', '\nsecond'])
  })
  test('what is told reads as words', () => {
    const kept = writeScreen({ picture: 'gull', lines: [null, { text: '12 cm', large: true }, null, { text: 'near', large: false }] })
    expect(screenWords(kept)).toBe('picture gull / 12 cm / near')
  })
  test('any screen is the same after being kept as text', () => {
    const stream = RandomStream.named(7, 'screens')
    for (let n = 0; n < 500; n++) {
      const lines = Array.from({ length: Math.floor(stream.unit() * 9) }, () => stream.unit() < 0.3 ? null : { text: 'x'.repeat(1 + Math.floor(stream.unit() * 20)), large: stream.unit() < 0.5 })
      while (lines.at(-1) === null) lines.pop()
      const screen = { picture: stream.unit() < 0.5 ? null : 'p1', lines }
      expect(readScreen(writeScreen(screen))).toEqual(screen)
    }
  })
})

describe('mistakes with displays', () => {
  const facts = (change: (robot: Doc) => void = () => {}) => {
    const robot = demo('robots/cuttle.json') as Doc
    change(robot)
    const read = readRobot(robot)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    return factsOf(read.value)
  }
  const said = (step: string) => checkProgram(`start\n  ${step}\n`, facts(withGull)).diagnostics.find(d => d.severity === 'error')
  test('a picture that is not kept is named, with the nearest', () => {
    expect([said('show picture gul')?.code, said('show picture gul')?.fix?.text]).toEqual(['not-kept', 'gull'])
    expect(said('show picture gull')).toBeUndefined()
  })
  test('a line is a plain number', () => { expect(said('show "x" at line 2 cm')?.code).toBe('wrong-kind') })
  test('a robot document: dots that do not fit the size, and a name twice', () => {
    const robot = { ...demo('robots/cuttle.json') as object, pictures: [GULL, { ...GULL, size: [9, 2] }] }
    const read = readRobot(robot)
    expect(read.ok ? [] : read.problems.map(p => p.path)).toEqual(['pictures[1].name', 'pictures[1].dots'])
  })
})

describe('a picture is reduced to dots', () => {
  const grey = (width: number, height: number, at: (x: number, y: number) => number) =>
    Uint8ClampedArray.from({ length: 4 * width * height }, (_, i) => i % 4 === 3 ? 255 : at((i >> 2) % width, Math.floor((i >> 2) / width)))
  const lit = (pixels: Uint8ClampedArray, width: number, height: number, room: readonly [number, number]) => {
    const picture = reduced('p', pixels, width, height, room)
    const dots = dotsOf(picture)!
    return { size: picture.size, dots, share: dots.reduce((sum, d) => sum + d, 0) / dots.length }
  }
  test('its shape stays, and it never grows', () => {
    expect(lit(grey(1000, 200, () => 255), 1000, 200, [126, 64]).size).toEqual([126, 25])
    expect(lit(grey(100, 1000, () => 255), 100, 1000, [126, 64]).size).toEqual([6, 64])
    expect(lit(grey(20, 10, () => 255), 20, 10, [126, 64]).size).toEqual([20, 10])
  })
  test('white is lit, black and what is transparent are not', () => {
    expect(lit(grey(40, 40, () => 255), 40, 40, [20, 20]).share).toBe(1)
    expect(lit(grey(40, 40, () => 0), 40, 40, [20, 20]).share).toBe(0)
    expect(lit(new Uint8ClampedArray(4 * 40 * 40).map((_, i) => i % 4 === 3 ? 0 : 255), 40, 40, [20, 20]).share).toBe(0)
  })
  test('as many dots are lit as a grey is bright, as light', () => {
    for (const [byte, share] of [[188, 0.544], [128, 0.252], [230, 0.814]] as const) expect(lit(grey(60, 60, () => byte), 60, 60, [60, 60]).share).toBeCloseTo(share, 1)
  })
  test('an edge stays where it is', () => {
    const { dots } = lit(grey(80, 40, x => x < 40 ? 0 : 255), 80, 40, [40, 20])
    expect(Array.from(dots.slice(0, 40))).toEqual([...Array.from({ length: 20 }, () => 0), ...Array.from({ length: 20 }, () => 1)])
  })
})
