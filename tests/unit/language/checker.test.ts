import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { checkProgram } from '../../../core/language'
import { factsOf, readRobot } from '../../../core/robot'
import { codesOf, demo, demoText, diagnosticsOf, facts, factsFor } from '../kit'

const cuttle = factsFor('cuttle')

/** Each mistake with a program that makes it, and one that nearly does and is right: as docs/checker.md shows them. */
const page = readFileSync(new URL('../../../docs/checker.md', import.meta.url), 'utf8')
const CASES = page.split(/^## /m).slice(1).flatMap(section => [...section.matchAll(/```mindpath wrong(.*)\n([\s\S]*?)\n```\n```mindpath right.*\n([\s\S]*?)\n```/g)].map(m => ({
  code: /^[\w-]+/.exec(section)![0], robot: m[1]!.includes('cuttle') ? cuttle : facts, finish: m[1]!.includes('finish'), wrong: m[2]!, right: m[3]!,
})))
const told = (program: string, c: (typeof CASES)[number]) => checkProgram(program, c.robot, { finish: c.finish }).diagnostics

describe('the checker', () => {
  test.each(CASES.map(c => [c.code, c] as const))('%s', (code, c) => {
    expect(told(c.wrong, c).map(d => d.code)).toContain(code)
    // The mended one runs, and is told nothing of the kind.
    expect(told(c.right, c).filter(d => d.code === code || d.severity === 'error').map(d => d.message)).toEqual([])
  })
  test('has a section of the page for everything that it can say', () => {
    const said = new Set([...readFileSync(new URL('../../../core/language/wording.ts', import.meta.url), 'utf8').matchAll(/it\('([\w-]+)'/g)].map(m => m[1]!))
    const sections = new Set([...page.matchAll(/^## ([\w-]+)/gm)].map(m => m[1]!))
    expect([...said].filter(c => !sections.has(c))).toEqual([])
    expect([...sections].filter(c => !said.has(c))).toEqual([])
    expect([...said].filter(c => !CASES.some(x => x.code === c))).toEqual(['sees-floor', 'arm-before', 'too-long'])
  })
  test('says nothing about the demo programs', () => {
    for (const [name, robot] of [['kiss-the-fender', 'limpet'], ['night-rounds', 'limpet'], ['fetch-the-floats', 'cuttle'], ['find-the-buoy', 'cuttle'], ['lids-home', 'winkle'], ['sort-the-floats', 'heron']] as const) {
      const said = checkProgram(demoText(`projects/${name}/program.mindpath`), factsFor(robot), { finish: true }).diagnostics.filter(d => d.severity !== 'hint')
      if (name !== 'night-rounds') expect(said.map(d => `${name}: ${d.message}`)).toEqual([])
      else expect(said.map(d => d.code)).toEqual(['never-finishes'])
    }
  })
  test('a task that asks for an end, and a program without one', () => {
    const asked = (program: string, finish: boolean) => checkProgram(program, facts, { finish }).diagnostics.map(d => d.code)
    expect(asked('otherwise -> drive 9 cm/s', true)).toContain('never-finishes')
    expect(asked('otherwise -> drive 9 cm/s', false)).not.toContain('never-finishes')
    expect(asked('when sonar.sees -> finish "x"\notherwise -> drive 9 cm/s', true)).not.toContain('never-finishes')
    expect(asked('start -> drive 9 cm', true)).not.toContain('never-finishes')
  })
  test('a program with five mistakes shows five', () => {
    const text = 'when sonar.distnce < 20 cm -> halt\nwhen sonar.distance < 20 -> halt\nwhen bumper.pressed -> halt\nwhen sonar.sees -> turn 90 deg\nwhen gyro.rate > 3 cm -> halt\n'
    expect(diagnosticsOf(text).filter(d => d.severity === 'error').map(d => d.code))
      .toEqual(['unknown-reading', 'unit-missing', 'unknown-device', 'expected', 'kinds'])
  })
  test('applying a fix mends its mistake', () => {
    for (const c of CASES) {
      const said = told(c.wrong, c).find(d => d.code === c.code && d.fix !== null)
      if (said?.fix == null) continue
      const { from, to, text } = said.fix
      const mended = c.wrong.slice(0, from) + text + c.wrong.slice(to)
      expect(told(mended, c).filter(d => d.code === c.code && d.message === said.message), `${c.code}: ${mended}`).toEqual([])
    }
  })
})

describe('units never mix', () => {
  const kinds = { length: ['cm', 'mm', 'm', 'in'], time: ['s', 'ms', 'min'], angle: ['deg', 'turn'], speed: ['cm/s', 'm/s'], rate: ['deg/s', 'rpm'] } as const
  const kind = fc.constantFrom(...Object.keys(kinds) as (keyof typeof kinds)[])
  const quantity = (k: keyof typeof kinds) => fc.tuple(fc.integer({ min: 1, max: 99 }), fc.constantFrom(...kinds[k])).map(([n, u]) => `${n} ${u}`)
  test('comparing and adding needs one kind', () => {
    const pair = fc.tuple(kind, kind).chain(([a, b]) => fc.tuple(fc.constant(a), fc.constant(b), quantity(a), quantity(b)))
    fc.assert(fc.property(pair, fc.constantFrom('<', '>', '<=', '>='), fc.constantFrom('+', '-'), ([a, b, x, y], compare, add) => {
      const wrong = codesOf(`when ${x} ${compare} ${y} -> halt`).includes('kinds')
      const wrongSum = codesOf(`when ${x} ${add} ${y} < 3 * ${x} -> halt`).includes('kinds')
      expect(wrong).toBe(a !== b)
      expect(wrongSum).toBe(a !== b)
    }), { numRuns: 300 })
  })
})

describe('what beginners do', () => {
  const warned = (text: string, robot = facts): string[] => checkProgram(text, robot).diagnostics.filter(d => d.severity !== 'hint').map(d => d.code)
  test.each([
    ['a nearer threshold below a farther one', 'when sonar.distance < 40 cm -> turn left 90 deg/s\nwhen sonar.distance < 10 cm -> drive back 10 cm/s\notherwise -> drive 9 cm/s\n', 1],
    ['the other way round', 'when sonar.distance < 10 cm -> drive back 10 cm/s\nwhen sonar.distance < 40 cm -> turn left 90 deg/s\notherwise -> drive 9 cm/s\n', 0],
    ['one of two above the other', 'when bumper_left.pressed or bumper_right.pressed -> halt\nwhen bumper_left.pressed -> drive back 9 cm/s\notherwise -> drive 9 cm/s\n', 1],
    ['both above one', 'when bumper_left.pressed and bumper_right.pressed -> halt\nwhen bumper_left.pressed -> drive back 9 cm/s\notherwise -> drive 9 cm/s\n', 0],
    ['one that waits longer above', 'when sonar.distance < 40 cm for 1 s -> halt\nwhen sonar.distance < 10 cm -> drive back 9 cm/s\notherwise -> drive 9 cm/s\n', 0],
    ['in else if', 'otherwise\n  if sonar.distance < 40 cm\n    turn left 90 deg/s\n  else if sonar.distance < 10 cm\n    drive back 9 cm/s\n  else\n    drive 9 cm/s\n', 1],
    ['colours of a list', 'when floor.color is red, blue -> halt\nwhen floor.color is blue -> drive back 9 cm/s\notherwise -> drive 9 cm/s\n', 1],
  ])('never wins: %s', (_what, text, times) => {
    expect(warned(text).filter(c => c === 'never-wins').length).toBe(times)
  })
  test('thresholds beyond the range are told in if, wait until and until as in rules', () => {
    for (const text of ['otherwise\n  if sonar.distance < 9 m\n    drive 9 cm/s\n', 'start\n  wait until sonar.distance < 9 m\n  halt\n', 'start\n  drive 9 cm/s until sonar.distance < 9 m\n  halt\n']) expect(warned(text)).toContain('beyond-range')
  })
  test('a distance behind the floor that the eye sees is told', () => {
    const document = structuredClone(demo('robots/limpet.json')) as { devices: { name: string, settings: Record<string, unknown> }[] }
    const text = (cm: number): string => `when rear.distance < ${cm} cm -> drive 9 cm/s\notherwise -> drive back 9 cm/s\n`
    expect(warned(text(40))).not.toContain('sees-floor')
    document.devices.find(d => d.name === 'rear')!.settings['cone'] = '20 deg'
    const read = readRobot(document)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    expect(warned(text(40), factsOf(read.value))).toContain('sees-floor')
    expect(warned(text(20), factsOf(read.value))).not.toContain('sees-floor')
  })
  test('an arm that is sent before a sensor that is asked is told, with its stretch', () => {
    const doc = structuredClone(demo('robots/cuttle.json')) as { devices: { name: string, settings?: Record<string, unknown>, mount: Record<string, unknown> }[] }
    Object.assign(doc.devices.find(d => d.name === 'lift')!.settings!, { from: '-70 deg', start: '40 deg', home: '40 deg' })
    const read = readRobot(doc)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const told = (angle: number, asks: string) => checkProgram(`when ${asks} -> halt\notherwise\n  move lift to ${angle} deg\n  drive 10 cm\n`, factsOf(read.value)).diagnostics.filter(d => d.code === 'arm-before')
    expect(told(-50, 'sonar.distance < 20 cm').map(d => d.message)).toEqual([expect.stringMatching(/^With lift from -[\d.]+ deg to -[\d.]+ deg, (lift|claw) stands before sonar/)])
    expect(told(40, 'sonar.distance < 20 cm')).toEqual([])
    expect(told(-50, 'sound.level > 40 %')).toEqual([])
  })
  test('devices asked in turn make a round that the reaction distance counts', () => {
    const document = structuredClone(demo('robots/limpet.json')) as { controller: Record<string, unknown>, devices: { settings?: Record<string, unknown> }[] }
    const text = 'when sonar.distance < 6 cm -> halt\notherwise -> drive 40 cm/s\n'
    expect(warned(text)).not.toContain('reaction')
    document.controller['looks'] = 'in turn'
    const read = readRobot(document)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    expect(warned(text, factsOf(read.value))).toContain('reaction')
  })
  test('a rule that goes to a mode which begins by opening the claw drops nothing', () => {
    const cut = (start: string): string[] => checkProgram(`when sonar.distance < 5 cm -> go flee\nmode work\n  otherwise\n    close claw\n    drive 20 cm\n    open claw\nmode flee\n  start -> ${start}\n  otherwise -> go work\n`, cuttle).diagnostics.map(d => d.code)
    expect(cut('halt')).toContain('may-drop')
    expect(cut('open claw')).not.toContain('may-drop')
  })
  test('a name in a line that cannot be read is not called unused as well', () => {
    expect(codesOf('memory seen = 0\nstart\n  sett seen = 1\n  wait 1 s\n')).not.toContain('unused')
    expect(codesOf('memory seen = 0\nstart\n  wait 1 s\n')).toContain('unused')
  })
  test('what is switched off is used all the same, and claims nothing', () => {
    expect(codesOf('memory seen = 0\noff when seen > 1 -> set seen = 2\notherwise -> drive 9 cm/s\n')).not.toContain('unused')
    expect(codesOf('otherwise -> drive 9 cm/s\nlane b\n  when sonar.sees\n    off drive 9 cm/s\n    note "x"\n')).not.toContain('two-lanes')
  })
  test('a random turn within what is switched off does not make the turns differ', () => {
    const text = (off: string) => `when sonar.distance < 20 cm\n  turn left 90 deg\n  ${off}if rear.sees\n    turn left random 60 deg to 120 deg\notherwise -> drive 20 cm/s`
    expect(codesOf(text(''))).not.toContain('same-turn')
    expect(codesOf(text('off '))).toContain('same-turn')
  })
  test('no mend changes a short word into another', () => {
    const said = diagnosticsOf('when side.distance < 9 cm -> halt\notherwise -> drive 9 cm/s\n').map(d => d.message).join(' ')
    expect(said).not.toContain('Did you mean mode')
    expect(diagnosticsOf('memory r = 1\nwhen g > 2 -> set r = 2\notherwise -> drive 9 cm/s\n').every(d => d.fix?.text !== 'r')).toBe(true)
  })
  test('articles are right before vowels', () => {
    expect(diagnosticsOf('start\n  switch sonar on\n').map(d => d.message).join(' ')).toMatch(/an electromagnet/)
  })
  test('wheels are told both in power or both as speeds', () => {
    expect(codesOf('otherwise -> wheels left 10 cm/s right 40 %')).toContain('misfit')
    expect(codesOf('otherwise -> wheels left 10 cm/s right 20 cm/s')).not.toContain('misfit')
  })
  test('a moment that holds a motion is refused, itself and through a routine', () => {
    expect(codesOf('when every 1 s -> drive 20 cm/s')).toContain('held-once')
    expect(codesOf('when every 1 s -> do go_on\nroutine go_on\n  drive 20 cm/s\n')).toContain('held-once')
  })
  test('go in a routine that another routine does is refused where two lanes use it', () => {
    const text = 'mode a\n  otherwise -> do outer\nmode b\n  otherwise -> halt\nlane side\n  when sonar.sees -> do outer\nroutine outer\n  do inner\nroutine inner\n  go b\n'
    expect(codesOf(text)).toContain('shared-go')
  })
})
