import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { wiringOn } from '../../../core/hardware'
import { readKept } from '../../../core/runs/kept'
import { readReport, runReport } from '../../../core/runs/report'
import { replay, type RunInputs } from '../../../core/simulation'
import { ATMEGA, Sketches } from '../../../prove/export/sketch'
import { demo, demoText, facts, limpet } from '../kit'

/** What boards report over their serial line, opened as runs. */

let sketches: Sketches
beforeAll(() => { sketches = new Sketches() }, 120_000)
afterAll(() => sketches.free())

const program = demoText('projects/kiss-the-fender/program.mindpath')
const inputs = (text = program): RunInputs => ({ robot: demo('robots/limpet.json'), arena: demo('arenas/fender-quay.json'), task: demo('tasks/kiss-the-fender.json'), program: text, realism: 'ideal', seed: 1, limit: null })

/** What an exported sketch of limpet says on a simulated board that rolls up to a wall, when a letter asks it for a line a tick at a time (s). */
function said(text: string, seconds: number, asks = 0.02): string {
  const robot = limpet()
  const { wiring } = wiringOn(robot, ATMEGA)
  const pin = (port: string, line: string): number => { const at = wiring.ports[port]!.pins[line]!; return at.startsWith('A') ? 14 + Number(at.slice(1)) : Number(at.slice(1)) }
  const wheels = ['A', 'B'].map(port => `wheel ${['power', 'direction', 'encoder a', 'encoder b'].map(line => pin(port, line)).join(' ')} 720 18.75 0.032`)
  const { elf } = sketches.compile(text, robot)
  const ran = sketches.run(elf, seconds, [...wheels, 'ahead 0.5', `echo ${pin('P2', 'trigger')} ${pin('P2', 'echo')} ahead`, `key r ${asks}`])
  return ran.said.map(s => s.line).join('\n')
}

async function opened(text: string, of = inputs()) {
  const run = await runReport('board', of, text)
  if (!run.ok) throw new Error(JSON.stringify([run.problems, run.diagnostics]))
  const kept = readKept(run.file)
  if (!kept.ok) throw new Error(JSON.stringify(kept.problems))
  return { ...run, kept: kept.value }
}

describe('what a simulated board reports', () => {
  test('is a run: in every tick it did what is done here with the same readings, and the run is the same when it is run again', async () => {
    const lines = said(program, 7)
    const { report, differs, kept } = await opened(lines)
    expect(differs).toBeNull()
    expect(report).toMatchObject({ lost: 0, late: expect.any(Number) as number })
    expect(report.ticks[0]!.tick).toBe(0)
    expect(report.ticks.length).toBeGreaterThan(150)
    expect(kept.standing.end).toMatchObject({ reason: 'alongside' })
    // Its sonar looked again and again, not in every tick.
    const looks = report.ticks.filter(t => t.read.get('sonar')!.looked).length
    expect(looks).toBeGreaterThan(report.ticks.length / 6)
    expect(looks).toBeLessThan(report.ticks.length / 2)
    expect(await replay(kept.record)).toMatchObject({ ok: true, same: true })
  }, 60_000)
  test('differs where the program is another than the one that was carried, and says in what', async () => {
    const lines = said(program, 4)
    const { differs } = await opened(lines, inputs(program.replace('near = 13 cm', 'near = 30 cm')))
    expect(differs).toMatchObject({ what: 'control of main', board: 'the rule of line 12', here: 'the rule of line 7' })
    const { differs: slower } = await opened(lines, inputs(program.replace('cruise = 25 cm/s', 'cruise = 20 cm/s')))
    expect(slower!.what).toBe('what wheels is told')
  }, 60_000)
  test('from a later tick on begins there', async () => {
    const { report, kept } = await opened(said(program, 3, 1))
    expect(report.ticks[0]!.tick).toBeGreaterThan(20)
    expect(kept.record.wire).toMatchObject({ first: report.ticks[0]!.tick, ticks: report.ticks.length })
  }, 60_000)
})

describe('a report', () => {
  const wheels = 'wheels* 0 0 0 0 0'
  const line = (tick: number, sonar: string, control = '13', told = 'wheels 2 0.25 0.25'): string => `tick ${tick} | ${control} | ${wheels}; sonar${sonar} | ${told}`
  test('is read with its lanes, looks, readings and what was told; other lines are passed over', () => {
    const read = readReport(['note main: hello', line(0, '* 0.8 1'), line(1, ' Infinity 0', '-'), 'late ticks: 3', 'finish main: done'].join('\r\n'), facts)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const { ticks, lost, late } = read.value
    expect({ lost, late }).toEqual({ lost: 0, late: 3 })
    expect(ticks.map(t => [t.tick, t.control, t.read.get('sonar')])).toEqual([[0, [13], { looked: true, values: [0.8, 1] }], [1, [null], { looked: false, values: [Infinity, 0] }]])
    expect(ticks[0]!.told.get('wheels')).toEqual([2, 0.25, 0.25])
  })
  test('of which lines were cut off or lost has those as they were before, and counts them; of two runs the last counts', () => {
    const whole = [line(0, '* 0.8 1'), line(1, '* 0.79 1').slice(0, 20), line(2, '* 0.78 1'), line(5, '* 0.7 1')]
    const read = readReport(whole.join('\n'), facts)
    expect(read.ok && [read.value.lost, read.value.ticks.map(t => t.read.get('sonar')!.values[0])]).toEqual([3, [0.8, 0.8, 0.78, 0.78, 0.78, 0.7]])
    const twice = readReport([...whole, line(0, '* 0.5 1'), line(1, '* 0.4 1')].join('\n'), facts)
    expect(twice.ok && [twice.value.lost, twice.value.ticks.map(t => t.read.get('sonar')!.values[0])]).toEqual([0, [0.5, 0.4]])
  })
  test('of another robot, or of none, is refused with its place', () => {
    const problem = (text: string) => { const read = readReport(text, facts); return read.ok ? null : read.problems[0] }
    expect(problem('hello\nworld')).toMatchObject({ path: 'the report', value: '2 lines', message: expect.stringContaining('expected lines such as "tick 12 |') as string })
    expect(problem(`x\n${line(0, '* 0.8 1').replace('sonar', 'periscope')}`)).toMatchObject({ path: 'line 2', value: 'periscope' })
    expect(problem(line(0, '* 0.8'))).toMatchObject({ path: 'line 1', value: 'sonar with 1 readings', message: expect.stringContaining('expected 2') as string })
    expect(problem(line(0, '* 0.8 1', '13', 'wheels 2 0.25'))).toMatchObject({ value: 'wheels, told 2 numbers', message: 'expected 3' })
    expect(problem(line(0, '* 0.8 1', '13', 'sonar 1'))).toMatchObject({ message: 'nothing of that name can be told something' })
  })
})
