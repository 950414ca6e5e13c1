import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { checkProgram } from '../../../core/language'
import { codesOf, demoText, diagnosticsOf, facts, factsFor } from '../kit'

const cuttle = factsFor('cuttle')

/** Each mistake with a program that makes it, and one that nearly does and is right. */
const CASES: readonly (readonly [code: string, wrong: string, right: string])[] = [
  ['unknown-device', 'when sonr.distance < 20 cm -> halt', 'when sonar.distance < 20 cm -> halt'],
  ['unknown-reading', 'when sonar.pressed -> halt', 'when bumper_left.pressed -> halt'],
  ['unknown-name', 'when sonar.distance < far -> halt', 'dial far = 2 m\nwhen sonar.distance < far -> halt'],
  ['unit-missing', 'when sonar.distance < 20 -> halt', 'when sonar.distance < 0 + 20 cm -> halt'],
  ['unit-missing', 'start\n  wheels left 40 right 40 % for 1 s', 'start\n  wheels left 40 % right 40 % for 1 s'],
  ['kinds', 'when sonar.distance < 20 deg -> halt', 'when gyro.turned < 20 deg -> halt'],
  ['kinds', 'when sonar.distance + 1 s < 20 cm -> halt', 'when sonar.distance + 1 s * 10 cm/s < 20 cm -> halt'],
  ['wrong-kind', 'start\n  turn left 20 cm', 'start\n  turn left 20 deg'],
  ['not-truth', 'when sonar.distance -> halt', 'when sonar.sees -> halt'],
  ['not-ordered', 'when sonar.sees < true -> halt', 'when sonar.sees is true -> halt'],
  ['condition-only', 'start\n  if heard bell\n    halt', 'start\n  send bell\nlane b\n  when heard bell -> note "x"'],
  ['negative-time', 'start\n  wait -1 s', 'start\n  wait 1 s'],
  ['dial-range', 'dial a = 5 cm from 10 cm to 20 cm\nwhen sonar.distance < a -> halt', 'dial a = 15 cm from 10 cm to 20 cm\nwhen sonar.distance < a -> halt'],
  ['dial-literal', 'dial a = 5 cm + 2 cm\nwhen sonar.distance < a -> halt', 'dial a = 7 cm\nwhen sonar.distance < a -> halt'],
  ['set-dial', 'dial a = 5 cm\nwhen sonar.distance < a -> set a = 6 cm', 'memory a = 5 cm\nwhen sonar.distance < a -> set a = 6 cm'],
  ['unknown-memory', 'when sonar.sees -> set seen = 1', 'memory seen = 0\nwhen seen < 3 -> set seen = seen + 1'],
  ['reserved', 'memory drive = 0\nstart -> set drive = 1', 'memory drives = 0\nwhen drives < 2 -> set drives = 1'],
  ['twice', 'dial a = 1 cm\nmemory a = 2\nwhen sonar.distance < a -> halt', 'dial a = 3 cm\nmemory b = 2\nwhen sonar.distance < a * b -> halt'],
  ['unknown-mode', 'mode a\n  when sonar.sees -> go c', 'mode a\n  when sonar.sees -> go b\nmode b\n  otherwise -> go a'],
  ['unknown-routine', 'start -> do dance', 'start -> do dance\nroutine dance\n  turn left 1 turn'],
  ['given', 'start -> do dance(1)\nroutine dance\n  turn left 1 turn', 'start -> do dance(90 deg)\nroutine dance(far)\n  turn left far'],
  ['recursion', 'start -> do a\nroutine a\n  do b\nroutine b\n  do a', 'start -> do a\nroutine a\n  do b\nroutine b\n  halt'],
  ['not-resettable', 'start -> reset sonar.distance', 'start -> reset gyro.turned'],
  ['no-time', 'start\n  repeat\n    note "x"', 'start\n  repeat\n    note "x"\n    wait 1 s'],
  ['leave-alone', 'start\n  wait 1 s\n  leave', 'start\n  repeat\n    wait 1 s\n    leave'],
  ['held-replaced', 'start\n  drive 20 cm/s\n  turn left 90 deg', 'start\n  drive 20 cm/s for 1 s\n  turn left 90 deg'],
  ['held-last', 'when sonar.sees\n  turn left 90 deg\n  drive 20 cm/s', 'when sonar.sees\n  turn left 90 deg\n  drive 20 cm'],
  ['held-once', 'when sonar.sees once -> drive 20 cm/s', 'when sonar.sees once -> drive 20 cm'],
  ['two-lanes', 'when sonar.sees -> halt\nlane b\n  when bumper_left.pressed -> drive 10 cm', 'when sonar.sees -> halt\nlane b\n  when bumper_left.pressed -> note "x"'],
  ['otherwise-last', 'otherwise -> halt\nwhen sonar.sees -> coast', 'when sonar.sees -> coast\notherwise -> halt'],
  ['never-reached', 'when sonar.sees\n  finish "x"\n  halt', 'when sonar.sees\n  halt\n  finish "x"'],
  ['never-entered', 'mode a\n  otherwise -> halt\nmode b\n  otherwise -> halt', 'mode a\n  otherwise -> go b\nmode b\n  otherwise -> halt'],
  ['never-wins', 'when sonar.sees -> halt\nwhen sonar.sees -> coast', 'when sonar.sees once -> halt\nwhen sonar.sees -> coast'],
  ['beyond-range', 'when sonar.distance < 9 m -> halt', 'when sonar.distance < 2 m -> halt'],
  ['beyond-range', 'when sonar.distance < 1 cm -> halt', 'when sonar.distance < 3 cm -> halt'],
  ['unused', 'dial a = 5 cm\nstart -> halt', 'dial a = 5 cm\nstart -> drive a'],
  ['never-read', 'memory a = 0\nstart -> set a = 2', 'memory a = 0\nwhen a is 0 -> set a = 2'],
  ['acts-once', 'start\n  wait until sonar.distance < 20 cm\n  turn left 90 deg', 'when sonar.distance < 20 cm -> turn left 90 deg'],
  ['gap', 'when sonar.distance < 10 cm -> halt\nwhen sonar.distance > 20 cm -> drive 9 cm/s', 'when sonar.distance < 10 cm -> halt\nwhen sonar.distance > 20 cm -> drive 9 cm/s\notherwise -> drive 3 cm/s'],
  ['gap', 'dial t = 15 cm\nwhen sonar.distance < t -> halt\nwhen sonar.distance > t -> drive 9 cm/s', 'dial t = 15 cm\nwhen sonar.distance < t -> halt\nwhen sonar.distance >= t -> drive 9 cm/s'],
  ['overlap', 'when sonar.distance < 30 cm -> halt\nwhen sonar.distance > 20 cm -> drive 9 cm/s', 'when sonar.distance < 30 cm -> halt\nwhen sonar.distance >= 30 cm -> drive 9 cm/s'],
  ['undo-each-other', 'when sonar.distance < 20 cm -> drive back 9 cm/s\notherwise -> drive 9 cm/s', 'when sonar.distance < 20 cm until sonar.distance > 30 cm -> drive back 9 cm/s\notherwise -> drive 9 cm/s'],
  ['reaction', 'when sonar.distance < 4 cm -> halt\notherwise -> drive 60 cm/s', 'when sonar.distance < 6 cm -> halt\notherwise -> drive 60 cm/s'],
  ['shorter-than-look', 'when sonar.sees for 0.02 s -> halt', 'when sonar.sees for 0.05 s -> halt'],
  ['same-turn', 'when sonar.distance < 20 cm -> turn left 90 deg\notherwise -> drive 20 cm/s', 'when sonar.distance < 20 cm -> turn left random 60 deg to 120 deg\notherwise -> drive 20 cm/s'],
  ['blocks', 'when sonar.sees -> light lamp red\notherwise -> drive 20 cm/s', 'when sonar.sees once -> light lamp red\notherwise -> drive 20 cm/s'],
  ['cuts-itself', 'memory tired = 0\nwhen tired > 0 -> halt\nwhen sonar.sees\n  set tired = 1\n  drive 10 cm', 'memory tired = 0\nwhen tired > 0 -> halt\nwhen sonar.sees\n  drive 10 cm\n  set tired = 1'],
  ['signal-unsent', 'when heard bell -> halt', 'when heard bell -> halt\nlane b\n  when every 1 s -> send bell'],
]

describe('the checker', () => {
  test.each(CASES)('%s', (code, wrong, right) => {
    expect(codesOf(wrong)).toContain(code)
    expect(codesOf(right)).not.toContain(code)
  })
  test('says nothing about the demo programs', () => {
    for (const [name, robot] of [['kiss-the-fender', 'limpet'], ['night-rounds', 'limpet'], ['fetch-a-float', 'cuttle'], ['find-the-buoy', 'cuttle'], ['lids-home', 'winkle'], ['sort-the-floats', 'heron']] as const) {
      const said = checkProgram(demoText(`projects/${name}/program.mindpath`), factsFor(robot), { finish: true }).diagnostics.filter(d => d.severity !== 'hint')
      if (name !== 'night-rounds') expect(said.map(d => `${name}: ${d.message}`)).toEqual([])
      else expect(said.map(d => d.code)).toEqual(['never-finishes'])
    }
  })
  test.each([
    ['never-released', 'when sonar.distance < 5 cm -> close claw', 'start\n  close claw\n  drive back 5 cm\n  open claw'],
    ['may-drop', 'when light.level < 10 % -> halt\nwhen sonar.distance < 5 cm\n  close claw\n  drive back 30 cm\n  open claw', 'when sonar.distance < 5 cm\n  close claw\n  drive back 30 cm\n  open claw\nwhen light.level < 10 % -> halt'],
    ['wrong-device', 'start -> open lift', 'start -> open claw'],
    ['unknown-target', 'when cam.sees(violet) -> halt', 'when cam.sees(red) -> halt'],
    ['misfit', 'start -> move lift to 3 cm', 'start -> move lift to 3 deg'],
  ])('%s, on a robot with arm and claw', (code, wrong, right) => {
    expect(codesOf(wrong, cuttle)).toContain(code)
    expect(codesOf(right, cuttle)).not.toContain(code)
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
    for (const [code, wrong] of CASES) {
      const said = diagnosticsOf(wrong).find(d => d.code === code && d.fix !== null)
      if (said?.fix == null) continue
      const { from, to, text } = said.fix
      const mended = wrong.slice(0, from) + text + wrong.slice(to)
      expect(diagnosticsOf(mended).filter(d => d.code === code && d.message === said.message), `${code}: ${mended}`).toEqual([])
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
