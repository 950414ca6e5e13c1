import { describe, expect, test } from 'vitest'
import { seenOf } from '../../../app/features/guide/seen'
import { GUIDE, type RunSeen, type Seen } from '../../../app/features/guide/steps'
import { checkProgram } from '../../../core/language'
import { facts } from '../kit'

/** What the guide takes as done. */

function run(text: string, options: { project?: string, seconds?: number, modes?: number } = {}): RunSeen {
  const checked = checkProgram(text, facts)
  if (!checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  return { project: options.project ?? 'p', seconds: options.seconds ?? 2, modes: options.modes ?? 1, ...seenOf(text) }
}
const done = (step: string, ...runs: RunSeen[]): boolean => GUIDE.find(s => s.id === step)!.done({ runs, handled: 0, asked: false })
const nothing: Seen = { runs: [], handled: 0, asked: false }

const ONE = 'when sonar.distance < 30 cm -> halt\notherwise -> drive 20 cm/s\n'
const NEARER = ONE.replace('30', '25')
const TWO = 'when sonar.distance < 30 cm -> halt\nwhen bumper_left.pressed -> drive -10 cm\notherwise -> drive 20 cm/s\n'
const SWAPPED = 'when bumper_left.pressed -> drive -10 cm\nwhen sonar.distance < 30 cm -> halt\notherwise -> drive 20 cm/s\n'

describe('the guide', () => {
  test('takes nothing as done before anything was done', () => { expect(GUIDE.filter(s => s.done(nothing))).toEqual([]) })
  test('what a program is, by its conditions and rules', () => {
    const read = run(TWO)
    expect([read.senses, read.lanes, read.rules.length]).toEqual([['sonar', 'bumper_left'], 1, 3])
    // What a step shows or a comment says is no sense of a condition.
    expect(run('# rear.distance is not asked\nwhen sonar.distance < 30 cm -> note "{rear.distance}"\notherwise -> drive 20 cm/s\n').senses).toEqual(['sonar'])
  })
  test('the robot in the hand goes two hand’s breadths', () => {
    const { done: met } = GUIDE.find(s => s.id === 'hands')!
    expect([met({ ...nothing, handled: 0.1 }), met({ ...nothing, handled: 0.25 })]).toEqual([false, true])
  })
  test('the smallest program runs for a while and asks one device', () => {
    expect([done('smallest', run(ONE)), done('smallest', run(ONE, { seconds: 0.3 })), done('smallest', run(TWO))]).toEqual([true, false, false])
  })
  test('tuning changes numbers and nothing else, in one project', () => {
    expect([done('tune', run(ONE), run(NEARER)), done('tune', run(ONE), run(ONE)), done('tune', run(ONE), run(TWO)), done('tune', run(ONE, { project: 'q' }), run(NEARER))]).toEqual([true, false, false, false])
  })
  test('a sense more than in the run before', () => {
    expect([done('sense', run(ONE), run(TWO)), done('sense', run(TWO), run(TWO)), done('sense', run(TWO))]).toEqual([true, false, false])
  })
  test('the same rules in another order', () => {
    expect([done('urgency', run(TWO), run(SWAPPED)), done('urgency', run(TWO), run(TWO)), done('urgency', run(ONE), run(SWAPPED))]).toEqual([true, false, false])
  })
  test('two modes count once the run was in both', () => {
    const modes = 'mode rounds\n  when run.time > 1 s once -> go rest\n  otherwise -> drive 20 cm/s\nmode rest\n  start\n    wait 1 s\n    go rounds\n'
    expect([done('modes', run(ONE), run(modes)), done('modes', run(ONE), run(modes, { modes: 2 })), done('modes', run(modes, { modes: 2 }))]).toEqual([false, true, false])
  })
  test('a second lane', () => {
    const lanes = 'lane rounds\n  otherwise -> drive 20 cm/s\nlane lights\n  otherwise -> light lamp red\n'
    const beside = `${ONE}lane lights\n  otherwise -> light lamp red\n`
    expect([done('lane', run(ONE), run(lanes)), done('lane', run(ONE), run(beside)), done('lane', run(ONE), run(TWO))]).toEqual([true, true, false])
  })
})
