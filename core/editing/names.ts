import { CALLED, RESERVED, expressionsIn, expressionsOf, type Tree } from '../language'
import { findUnit } from '../units'
import { ruleLists, stepLists } from './places'
import { applyChanges, insertLines, lineEnd, sheetOf, type Change, type Sheet } from './sheet'
import type { Edit } from './structure'

export type Naming = 'mode' | 'memory' | 'dial' | 'value' | 'routine' | 'signal' | 'lane'

interface Found { readonly what: Naming | 'name', readonly text: string, readonly range: Tree.Range }

/** What names a value at the margin. */
const VALUES = { dial: 'dial', memory: 'memory', let: 'value' } as const

/** Every name that a program gives or uses, with its place. `name` is a use of a dial, memory or parameter. */
export function* namesIn(tree: Tree.Program): Generator<Found> {
  const of = (what: Found['what'], n: Tree.Name): Found => ({ what, text: n.text, range: n.range })
  for (const list of ruleLists(tree)) {
    for (const item of list.items) {
      if (item.tag === 'dial' || item.tag === 'memory' || item.tag === 'mode' || item.tag === 'lane' || item.tag === 'routine') yield of(item.tag, item.name)
      else if (item.tag === 'let') yield of('value', item.name)
      if (item.tag !== 'mode' && item.tag !== 'lane') yield* inExpressions(item)
    }
  }
  for (const { body } of stepLists(tree)) {
    for (const step of body.steps) {
      if (step.tag === 'go') yield of('mode', step.mode)
      else if (step.tag === 'send') yield of('signal', step.signal)
      else if (step.tag === 'set' || step.tag === 'local' || step.tag === 'keep') yield of('name', step.name)
      else if (step.tag === 'repeat' && step.each !== null) yield of('name', step.each.name)
      else if (step.tag === 'do') yield of('routine', step.routine)
      yield* inExpressions(step)
    }
  }
}

function* inExpressions(line: Tree.Item | Tree.Step): Generator<Found> {
  for (const outer of expressionsOf(line)) {
    for (const e of expressionsIn(outer)) {
      if (e.tag === 'name') yield { what: 'name', text: e.name, range: e.range }
      else if (e.tag === 'call' && !CALLED.has(e.name.text)) yield { what: 'name', text: e.name.text, range: e.name.range }
      else if (e.tag === 'heard') yield { what: 'signal', text: e.signal.text, range: e.signal.range }
    }
  }
}

/** All names that a program has given. */
export function givenNames(tree: Tree.Program): ReadonlySet<string> {
  return new Set([...namesIn(tree)].map(n => n.text))
}

/** Why a word may not be a new name; null when it may. */
export function nameProblem(tree: Tree.Program, name: string): string | null {
  if (!/^[A-Za-z][A-Za-z0-9_]*$/.test(name)) return 'a name is letters, digits and _, and begins with a letter'
  if (RESERVED.has(name)) return `${name} is a word of the language`
  return givenNames(tree).has(name) ? `${name} is taken` : null
}

/** The name that stands at an offset, as what: a use of a dial or memory counts as what it was declared as. */
export function nameAt(sheet: Sheet, offset: number): { readonly what: Naming, readonly name: string, readonly range: Tree.Range } | null {
  const found = [...namesIn(sheet.tree)].find(n => n.range.from <= offset && offset <= n.range.to)
  if (found === undefined) return null
  if (found.what !== 'name') return { what: found.what, name: found.text, range: found.range }
  const declared = sheet.tree.items.find(i => i.tag in VALUES && 'name' in i && i.name.text === found.text)
  return declared === undefined ? null : { what: VALUES[declared.tag as keyof typeof VALUES], name: found.text, range: found.range }
}

/** Gives something another name everywhere. null when the name may not be. */
export function rename(sheet: Sheet, what: Naming, from: string, to: string): Edit {
  if (nameProblem(sheet.tree, to) !== null) return null
  const value = what === 'dial' || what === 'memory' || what === 'value'
  // A routine's parameter hides a dial of its name: there the name is another thing.
  const hidden = sheet.tree.items.filter(i => (i.tag === 'routine' || i.tag === 'let') && i.parameters.some(p => p.text === from)).map(i => i.range)
  const changes: Change[] = []
  for (const n of namesIn(sheet.tree)) {
    if (n.text !== from || !(n.what === what || (value && n.what === 'name'))) continue
    if (value && hidden.some(h => h.from <= n.range.from && n.range.to <= h.to)) continue
    changes.push({ ...n.range, insert: to })
  }
  return changes.length === 0 ? null : changes
}

/** A name that is free: the base, or the base with a number. */
export function freeName(tree: Tree.Program, base: string): string {
  for (let n = 1; ; n++) {
    const name = n === 1 ? base : `${base}_${n}`
    if (nameProblem(tree, name) === null) return name
  }
}

/** Where a line that names something goes: behind the last of its kind. */
function endOfNamed(sheet: Sheet, ...kinds: Tree.Item['tag'][]): number | null {
  const last = sheet.tree.items.findLast(i => kinds.includes(i.tag))
  return last === undefined ? null : Math.min(sheet.text.length, lineEnd(sheet.text, last.range.to) + 1)
}

/** Adds a memory, written as `name = first value`. null where it cannot be one, or the name is taken. */
export function addMemoryLine(sheet: Sheet, words: string): Edit {
  const name = /^([A-Za-z]\w*)\s*=\s*\S/.exec(words)?.[1]
  if (name === undefined || words.includes('\n') || nameProblem(sheet.tree, name) !== null) return null
  const put = endOfNamed(sheet, 'memory', 'dial', 'title')
  const changes = [insertLines(sheet.text, put ?? 0, `memory ${words}\n${put === null ? '\n' : ''}`)]
  return sheetOf(applyChanges(sheet.text, changes)).problems > sheet.problems ? null : changes
}

/** How far a new dial's range reaches below and above its value. */
const LOWEST = 0.25
const HIGHEST = 3

/** Makes a dial of a number that stands in the program: named by what it is for, its range around the value. */
export function makeDial(sheet: Sheet, from: number, to: number, base: string): { readonly changes: readonly Change[], readonly name: string } | null {
  const match = /^(-?\d+(?:\.\d+)?)\s*(.*)$/.exec(sheet.text.slice(from, to))
  if (match === null) return null
  // A dial's own line is no place for another dial.
  if (sheet.tree.items.some(i => (i.tag === 'dial' || i.tag === 'memory') && i.range.from <= from && to <= i.range.to)) return null
  const value = Number(match[1])
  const unit = match[2]!
  const name = freeName(sheet.tree, base)
  const round = (x: number): string => String(Math.abs(x) >= 10 ? Math.round(x) : Number(x.toPrecision(2)))
  const [low, high] = [value * LOWEST, value * HIGHEST].sort((a, b) => a - b)
  const write = (x: string): string => unit === '' ? x : `${x} ${unit}`
  const range = value === 0 ? [write('-1'), write('1')] : [write(round(low!)), write(round(high!))]
  const line = `dial ${name} = ${write(match[1]!)} from ${range[0]!} to ${range[1]!}\n`
  const put = endOfNamed(sheet, 'dial') ?? endOfNamed(sheet, 'title')
  return { changes: [insertLines(sheet.text, put ?? 0, line + (put === null ? '\n' : '')), { from, to, insert: name }], name }
}

/** A quantity as written, moved by so many of its last digits' steps: "0.30 s" by 0.01 s. null for what is no number. */
export function nudge(text: string, steps: number): string | null {
  const match = /^(-?\d+(?:\.\d+)?)(\s*)(.*)$/.exec(text)
  if (match === null) return null
  const [, figure, space, unit] = match
  const decimals = figure!.includes('.') ? figure!.length - figure!.indexOf('.') - 1 : 0
  const next = (Number(figure) + steps * Number(`1e-${decimals}`)).toFixed(decimals)
  return `${Number(next) === 0 ? (0).toFixed(decimals) : next}${space!}${unit!}`
}

/** The same quantity in another unit of its kind, with as many digits as matter. null where the unit is unknown. */
export function converted(text: string, unit: string): string | null {
  const match = /^(-?\d+(?:\.\d+)?)\s*(\S.*)$/.exec(text)
  const from = match === null ? undefined : findUnit(match[2]!)
  const to = findUnit(unit)
  if (match === null || from === undefined || to === undefined) return null
  return `${Number((Number(match[1]) * from.scale / to.scale).toPrecision(4))} ${unit}`
}
