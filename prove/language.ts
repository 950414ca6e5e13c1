import { readFileSync } from 'node:fs'
import { STEP_FORMS } from '../core/devices'
import { checkProgram, compileProgram, formatProgram, parseProgram } from '../core/language'
import type { ProgramData } from '../core/program'
import { RandomStream } from '../core/random'
import { factsOf, readRobot, type RobotFacts } from '../core/robot'
import { Vm } from '../core/vm'
import { randomCourse } from './course'
import { randomProgram, wild } from './programs'
import { worked } from './worked'

const ROBOTS = ['limpet', 'cuttle', 'winkle', 'heron']

export function demoFacts(): readonly RobotFacts[] {
  return ROBOTS.map((name) => {
    const read = readRobot(JSON.parse(readFileSync(`demo/robots/${name}.json`, 'utf8')))
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    return factsOf(read.value)
  })
}

export interface LanguageFuzz {
  readonly checked: number
  readonly ran: number
  /** What went wrong, with the seed and the program; empty when nothing did. */
  readonly failures: readonly string[]
}

/** A check that takes longer is a failure, milliseconds of this process's own work. */
const LONGEST = 1000

/** Random programs are checked; those that may run are compiled, formatted and run on random readings. */
export function fuzzLanguage(from: number, checks: number, runs: number, tell: (line: string) => void = () => undefined): LanguageFuzz {
  const robots = demoFacts()
  const failures: string[] = []
  let ran = 0
  let checked = 0
  for (let seed = from; checked < checks || ran < runs; seed++) {
    if (seed - from > checks + runs * 8 || failures.length > 20) break
    const r = RandomStream.named(seed, 'fuzz')
    const facts = robots[seed % robots.length]!
    const program = randomProgram(r, facts)
    const text = seed % 3 === 2 ? wild(r, program) : program
    checked++
    const begin = worked()
    try {
      const { diagnostics, runs: may, analysis } = checkProgram(text, facts)
      for (const d of diagnostics) {
        if (!(d.range.from >= 0 && d.range.to >= d.range.from && d.range.to <= text.length) || d.message === '' || /undefined|NaN|\[object/.test(d.message)) failures.push(`seed ${seed}: a message without place or sense: ${JSON.stringify(d)}\n${text}`)
      }
      if (may && ran < runs) {
        ran++
        const compiled = compileProgram(analysis)
        const formatted = formatProgram(parseProgram(text, STEP_FORMS).tree, STEP_FORMS)
        if (formatProgram(parseProgram(formatted, STEP_FORMS).tree, STEP_FORMS) !== formatted) failures.push(`seed ${seed}: formatting twice differs\n${text}`)
        const again = checkProgram(formatted, facts)
        const first = course(compiled, facts, seed)
        const carried = JSON.parse(JSON.stringify(compiled)) as ProgramData
        if (course(carried, facts, seed) !== first) failures.push(`seed ${seed}: carried as JSON it runs otherwise\n${text}`)
        if (!again.runs) failures.push(`seed ${seed}: formatted it does not check: ${again.diagnostics[0]!.message}\n${text}\n---\n${formatted}`)
        else if (course(compileProgram(again.analysis), facts, seed) !== first) failures.push(`seed ${seed}: formatted it runs otherwise\n${text}\n---\n${formatted}`)
      }
    } catch (error) {
      failures.push(`seed ${seed}: ${error instanceof Error ? error.stack ?? error.message : String(error)}\n${text}`)
    }
    if (worked() - begin > LONGEST) failures.push(`seed ${seed}: took ${Math.round(worked() - begin)} ms\n${text}`)
    if (checked % 2000 === 0) tell(`${checked} checked, ${ran} run, ${failures.length} failures`)
  }
  return { checked, ran, failures }
}

/** Ticks of a course on random readings. */
const TICKS = 150

/** What a program does on a course of random readings, as text: commands, notes, errors. Throws where a command is no number. */
function course(program: ProgramData, facts: RobotFacts, seed: number): string {
  const vm = new Vm(program, facts, seed)
  const inputs = randomCourse(facts, seed)
  const said: string[] = []
  for (let tick = 0; tick < TICKS; tick++) {
    vm.run(inputs.next().value)
    for (const command of vm.commands) if (Number.isNaN(command)) throw new Error(`a command is no number in tick ${tick}`)
    // Lines move when a program is formatted; what is done does not.
    said.push(`${[...vm.commands].map(c => c.toPrecision(9)).join(' ')} ${vm.events.map(e => e.type === 'note' ? e.text : e.type).join(';')}`)
    if (vm.finished !== null || vm.over) break
  }
  return said.join('\n')
}
