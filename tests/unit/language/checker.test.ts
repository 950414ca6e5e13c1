import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { checkProgram } from '../../../core/language'
import { codesOf, demoText, diagnosticsOf, facts, factsFor } from '../kit'

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
    expect([...said].filter(c => !CASES.some(x => x.code === c))).toEqual(['too-long'])
  })
  test('says nothing about the demo programs', () => {
    for (const [name, robot] of [['kiss-the-fender', 'limpet'], ['night-rounds', 'limpet'], ['fetch-a-float', 'cuttle'], ['find-the-buoy', 'cuttle'], ['lids-home', 'winkle'], ['sort-the-floats', 'heron']] as const) {
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
    fc.assert(fc.property(kind, kind, fc.constantFrom('<', '>', '<=', '>='), fc.constantFrom('+', '-'), (a, b, compare, add) => {
      const [x] = fc.sample(quantity(a), 1)
      const [y] = fc.sample(quantity(b), 1)
      const wrong = codesOf(`when ${x} ${compare} ${y} -> halt`).includes('kinds')
      const wrongSum = codesOf(`when ${x} ${add} ${y} < 3 * ${x} -> halt`).includes('kinds')
      expect(wrong).toBe(a !== b)
      expect(wrongSum).toBe(a !== b)
    }), { numRuns: 300 })
  })
})
