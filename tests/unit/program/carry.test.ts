import { describe, expect, test } from 'vitest'
import { randomCourse } from '../../../prove/course'
import { randomProgram } from '../../../prove/programs'
import { STEP_FORMS } from '../../../core/devices'
import { checkProgram, compileProgram, formatProgram, parseProgram } from '../../../core/language'
import type { ProgramData } from '../../../core/program'
import { RandomStream } from '../../../core/random'
import { carryOver, Vm, type Carried } from '../../../core/vm'
import { times } from '../../sample'
import { column, compile, facts as limpet, factsFor } from '../kit'

/** A changed program goes on from where another was. */

const did = (vm: Vm): string => [vm.commands.join(' '), ...vm.events.map(e => e.type === 'note' ? e.text : e.type)].join('; ')

describe('a program whose text changed where nothing is meant', () => {
  test.each(['limpet', 'cuttle', 'winkle', 'heron'])('goes on as if it had not: random programs on %s', (robot) => {
    const facts = factsFor(robot)
    let went = 0
    for (let seed = 0; went < times(50, 120) && seed < 2000; seed++) {
      const text = randomProgram(RandomStream.named(seed, `carry/${robot}`), facts)
      const one = checkProgram(text, facts)
      if (!one.runs) continue
      // Other places, other numbers of cells, of rules and of lanes, and none of it of any consequence.
      const changed = `memory other = 3\ndial another = 4 from 0 to 9\n${formatProgram(parseProgram(text, STEP_FORMS).tree, STEP_FORMS)}lane aside\n  when other > another -> note "never"\n`
      const two = checkProgram(changed, facts)
      if (!two.runs) continue
      const program = compileProgram(one.analysis)
      const vm = new Vm(program, facts, seed)
      const course = randomCourse(facts, seed)
      const ticks = 1 + seed % 97
      for (let i = 0; i < ticks && !vm.over && vm.finished === null; i++) vm.run(course.next().value)
      if (vm.over || vm.finished !== null || vm.failed) continue
      went++
      const other = compileProgram(two.analysis)
      const { state, parts } = carryOver(program, JSON.parse(JSON.stringify(vm.snapshot())) as ReturnType<Vm['snapshot']>, other, facts, seed)
      expect(parts.filter(p => !p.goesOn).map(p => p.name)).toEqual(['another', 'other', 'aside'])
      const next = new Vm(other, facts, seed)
      next.restore(state)
      for (let i = 0; i < 120 && !vm.over && vm.finished === null; i++) {
        const input = course.next().value
        vm.run(input)
        next.run(input)
        if (did(vm) !== did(next)) throw new Error(`seed ${seed}, carried in tick ${ticks}, tick ${vm.tick}\n${text}\n${did(vm)}\n${did(next)}`)
      }
    }
    expect(went).toBe(times(50, 120))
  })
})

/** Runs one program, changes it for another and runs on; readings stay as set. */
function change(before: string, after: string, ticks: number, set: Readonly<Record<string, number>> = {}, turn: (vm: Vm) => void = () => undefined) {
  const raw = new Float64Array(limpet.readingCount)
  const looks = new Float64Array(limpet.readingCount)
  raw[column('sonar.distance')] = Infinity
  for (const [name, value] of Object.entries(set)) raw[column(name)] = value
  const run = (vm: Vm, count: number): string[] => {
    const notes: string[] = []
    for (let i = 0; i < count; i++) {
      for (const d of limpet.devices) looks[d.first] = looks[d.first]! + 1
      vm.run({ raw, looks, began: looks, still: true })
      notes.push(...vm.events.flatMap(e => e.type === 'note' ? [e.text] : []))
    }
    return notes
  }
  const [one, two]: [ProgramData, ProgramData] = [compile(before), compile(after)]
  const vm = new Vm(one, limpet, 1)
  run(vm, ticks)
  turn(vm)
  const { state, parts } = carryOver(one, vm.snapshot(), two, limpet, 1)
  const next = new Vm(two, limpet, 1)
  next.restore(state)
  const said = run(next, 50)
  return { said, parts, lane: vm.lane(0), next: next.lane(0), state, two }
}
const told = (parts: readonly Carried[]): string[] => parts.filter(p => !p.goesOn).map(p => `${p.part} ${p.name}${p.line === null ? '' : ` ${p.line}`}: ${p.why}`)

describe('what fits is carried over, and the rest is told', () => {
  const steps = (condition: string, last: string): string => `when ${condition}\n  note "a"\n  wait 0.4 s\n  note "${last}"\n  wait 10 s\notherwise -> halt\n`
  test('a threshold is another: the steps that had begun go on', () => {
    const { said, parts } = change(steps('sonar.distance > 30 cm', 'b'), steps('sonar.distance > 40 cm', 'b'), 10)
    expect(said).toEqual(['b'])
    expect(told(parts)).toEqual(['rule main 1: its condition is another; steps that had begun go on'])
  })
  test('a step is another: the rule begins anew', () => {
    const { said, parts } = change(steps('sonar.distance > 30 cm', 'b'), steps('sonar.distance > 30 cm', 'c'), 10)
    expect(said).toEqual(['a', 'c'])
    expect(told(parts)).toEqual(['rule main 1: its steps are others'])
  })
  test('how long a condition has held stays, though the steps are others', () => {
    const { said } = change('when not bumper_left.pressed for 1 s once -> note "held"', 'when not bumper_left.pressed for 1 s once -> note "1 s"', 40)
    expect(said).toEqual(['1 s'])
    // Fifty ticks of 20 ms from the beginning would be just enough, forty and ten are; twelve are not.
    expect(change('when not bumper_left.pressed for 1.4 s once -> note "held"', 'when not bumper_left.pressed for 1.4 s once -> note "yes"', 40).said).toEqual(['yes'])
    expect(change('when not bumper_left.pressed for 1.4 s once -> note "held"', 'when not bumper_left.pressed for 1.3 s once -> note "yes"', 40).said).toEqual([])
  })
  test('a rule that stands elsewhere now is the same rule', () => {
    const rule = 'when not bumper_left.pressed\n  note "a"\n  wait 0.4 s\n  note "b"\n  wait 10 s\n'
    const { said, parts } = change(rule, `when bumper_right.pressed -> halt\n${rule}`, 10)
    expect(said).toEqual(['b'])
    expect(told(parts)).toEqual(['rule main 1: it is new'])
  })
  test('a mode by its name; where it is gone the lane begins anew', () => {
    const modes = (second: string, first = 'note "one"'): string => `mode first\n  start\n    ${first}\n  when run.time > 0.1 s -> go ${second}\nmode ${second}\n  start -> note "${second}"\n  otherwise -> halt\n`
    const stays = change(modes('second'), `mode zero\n  otherwise -> halt\n${modes('second')}`, 20)
    expect([stays.lane.mode, stays.next.mode, stays.said]).toEqual([1, 2, []])
    const gone = change(modes('second'), modes('other'), 20)
    expect(gone.said).toEqual(['one', 'other'])
    expect(told(gone.parts)).toContain('lane main: its mode second is gone')
  })
  test('a start goes on where it is the same, and begins anew where it is not', () => {
    const start = (last: string): string => `start\n  note "a"\n  wait 0.4 s\n  note "${last}"\n`
    expect(change(start('b'), start('b'), 10).said).toEqual(['b'])
    const { said, parts } = change(start('b'), start('c'), 10)
    expect(said).toEqual(['a', 'c'])
    expect(told(parts)).toEqual(['lane main: its start is another'])
  })
  test('memories by name and kind', () => {
    const count = (memory: string, rest = ''): string => `memory ${memory}\nstart\n  set n = n + n\n  wait 0.1 s\n  ${rest}wait 9 s\n`
    const kept = change(count('n = 3'), count('n = 100'), 3)
    expect(kept.state.cells[kept.two.memories[0]!.cell]).toBe(6)
    const other = change('memory n = 3 cm\nstart -> set n = 5 cm', 'memory n = 2 s\nstart -> set n = 4 s', 0)
    expect(told(other.parts)).toContain('memory n: it holds another kind of value')
    expect(other.state.cells[other.two.memories[0]!.cell]).toBe(2)
  })
  test('a dial that was turned stays, within its new range; one that was not follows the text', () => {
    const dial = (value: string, to: string): string => `dial near = ${value} from 0 cm to ${to}\nwhen sonar.distance < near -> halt\notherwise -> coast`
    const value = ({ state, two }: ReturnType<typeof change>): number => state.cells[two.dials[0]!.cell]!
    expect(value(change(dial('10 cm', '50 cm'), dial('20 cm', '50 cm'), 5))).toBeCloseTo(0.2)
    expect(value(change(dial('10 cm', '50 cm'), dial('20 cm', '50 cm'), 5, {}, vm => vm.setDial('near', 0.4)))).toBeCloseTo(0.4)
    expect(value(change(dial('10 cm', '50 cm'), dial('20 cm', '30 cm'), 5, {}, vm => vm.setDial('near', 0.4)))).toBeCloseTo(0.3)
  })
  test('a lane that stopped with an error begins anew in a program that does not', () => {
    const { said, parts } = change('memory n = 0\nstart\n  wait 0.1 s\n  set n = 1 / n\n  note "x"\n', 'memory n = 0\nstart\n  wait 0.1 s\n  set n = 1 / (n + 1)\n  note "x"\n', 20)
    expect(said).toEqual(['x'])
    expect(told(parts)).toEqual(['lane main: it had stopped with an error'])
  })

  test('each value of a memory of several, where there are as many; what is followed over time, where it is written the same', () => {
    const program = (row: string, over: string, note = 'a'): string => `memory seen of color = false\nmemory row = ${row}\nstart\n  set seen(red) = true\n  set row(2) = 7 cm\n  wait 0.3 s\n  note "${note} {count(seen)} {row(2)} ${over}"\n  wait 9 s\n`
    const mean = '{mean(sonar.distance, 0.2 s)}'
    const same = change(program('3 of 1 cm', mean), program('3 of 1 cm', mean), 10, { 'sonar.distance': 0.5 })
    expect([same.said, told(same.parts)]).toEqual([['a 1 7 cm 50 cm'], []])
    const longer = change(program('3 of 1 cm', mean), program('4 of 1 cm', mean), 10, { 'sonar.distance': 0.5 })
    expect([longer.said, told(longer.parts)]).toEqual([['a 1 7 cm 50 cm'], ['memory row: it holds another kind of value', 'lane main: its start is another']])
    const other = change(program('3 of 1 cm', mean), program('3 of 1 cm', '{mean(sonar.distance, 0.3 s)}', 'b'), 10, { 'sonar.distance': 0.5 })
    expect(told(other.parts)).toEqual(['followed mean(sonar.distance, 0.3 s): it is new', 'lane main: its start is another'])
  })

  test('a routine\'s own memory', () => {
    const program = (margin: string): string => `${margin}start\n  do more\n  wait 0.4 s\n  do more\n  wait 9 s\nroutine more\n  memory n = 5\n  set n = n + 1\n  note "{n}"\n`
    const { said, parts } = change(program(''), program('memory other = 0\n'), 10)
    expect([said, told(parts)]).toEqual([['7'], ['memory other: it is new']])
  })

  test('what was reset stays reset, also in a program that resets nothing', () => {
    expect(change('start\n  reset gyro.turned\n  wait 9 s\n', 'start\n  note "{gyro.turned}"\n  wait 9 s\n', 3, { 'gyro.turned': 1 }).said).toEqual(['0 deg'])
  })
})
