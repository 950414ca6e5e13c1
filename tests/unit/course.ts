import { readFileSync } from 'node:fs'
import { COLORS } from '../../core/colors'
import { findUnit } from '../../core/units'
import { play, type Moment } from './kit'

/**
 * A scripted course of readings and what must come of it, a line each, as the reference of the language writes it:
 *
 *     sonar.distance 50 cm           -> rule 2, drive 20 cm/s
 *     sonar.distance 10 cm, 3 ticks  -> rule 1, brake, note "near"
 *
 * Readings stay until they are changed. What is said of rule, mode and motion holds in the last tick of the line;
 * notes, finish and errors are those of all its ticks, and no others may come.
 */
export interface CourseLine { readonly text: string, readonly ticks: number, readonly set: Readonly<Record<string, number>>, readonly wanted: readonly string[] }

export function readCourse(text: string): readonly CourseLine[] {
  return text.trim().split('\n').map((line) => {
    const [left, right] = line.split('->') as [string, string]
    const set: Record<string, number> = {}
    let ticks = 1
    for (const part of left.split(',').map(p => p.trim()).filter(p => p !== '' && p !== 'a tick')) {
      const count = /^(\d+) ticks$/.exec(part)
      if (count !== null) { ticks = Number(count[1]); continue }
      const [, name, value] = /^([\w.]+) (.*)$/.exec(part)!
      set[name!] = valueOf(value!)
    }
    return { text: line.trim(), ticks, set, wanted: [...right.matchAll(/(?:[^,"]|"[^"]*")+/g)].map(m => m[0].trim()) }
  })
}

function valueOf(text: string): number {
  if (text === 'yes' || text === 'no') return text === 'yes' ? 1 : 0
  if (text === 'no echo') return Infinity
  if ((COLORS as readonly string[]).includes(text)) return (COLORS as readonly string[]).indexOf(text)
  const [, figure, unit] = /^(-?[\d.]+)\s*(.*)$/.exec(text)!
  return Number(figure) * (unit === '' ? 1 : findUnit(unit!)!.scale)
}

/** The rules of meaning in the reference of the language: name, program and course of each. */
export const rulesOfMeaning = (): readonly (readonly [name: string, program: string, course: string])[] =>
  [...readFileSync(new URL('../../docs/language.md', import.meta.url), 'utf8').matchAll(/\*\*M(\d+)\.\*\*[\s\S]*?```program\n([\s\S]*?)```\n```course\n([\s\S]*?)```/g)].map(m => [`M${m[1]!}`, m[2]!, m[3]!] as const)

/** The sets of readings of a course, one a tick. */
export const settingsOf = (course: readonly CourseLine[]): readonly Readonly<Record<string, number>>[] => course.flatMap(l => Array.from({ length: l.ticks }, (_, i) => i === 0 ? l.set : {}))

/** What a course did otherwise than it should, line by line; none where all is right. */
export function courseProblems(program: string, course: readonly CourseLine[]): string[] {
  const all = play(program, settingsOf(course))
  const problems: string[] = []
  let at = 0
  for (const line of course) {
    const moments = all.slice(at, at + line.ticks)
    at += line.ticks
    const said = moments.flatMap(m => m.events).flatMap(wordsOf)
    for (const event of said) if (!line.wanted.includes(event)) problems.push(`${line.text}: came ${event}`)
    for (const wanted of line.wanted) if (!holds(wanted, moments.at(-1)!, said)) problems.push(`${line.text}: ${wanted}, but ${JSON.stringify({ ...moments.at(-1)!, events: said })}`)
    for (const event of new Set(said)) if (said.filter(e => e === event).length !== line.wanted.filter(w => w === event).length) problems.push(`${line.text}: ${event} came ${said.filter(e => e === event).length} times`)
  }
  return problems
}

function wordsOf(event: Moment['events'][number]): string[] {
  switch (event.type) {
    case 'note': return [`note "${event.text}"`]
    case 'finish': return ['finish']
    case 'error': return ['error']
    default: return []
  }
}

function holds(wanted: string, m: Moment, said: readonly string[]): boolean {
  const [first, ...rest] = wanted.split(' ')
  const speeds = /^speed (\S+) (\S+)$/.exec(m.command)
  switch (first) {
    case 'rule': return m.rule === Number(rest[0])
    case 'no': return m.rule === 0
    case 'mode': return m.mode === rest[0]
    case 'brake':
    case 'coast': return m.command === first
    case 'drive': { const back = rest[0] === 'back'; const speed = valueOf(rest.slice(back ? 1 : 0).join(' ')) * (back ? -1 : 1); return speeds !== null && speeds.slice(1).every(s => Math.abs(Number(s) - speed) < 0.006) }
    case 'turn': return speeds !== null && Math.sign(Number(speeds[1])) === (rest[0] === 'right' ? 1 : -1) && Math.sign(Number(speeds[2])) === (rest[0] === 'right' ? -1 : 1)
    case 'note':
    case 'finish':
    case 'error': return said.includes(wanted)
    default: throw new Error(`a course cannot say ${wanted}`)
  }
}
