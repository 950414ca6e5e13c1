import { readFileSync, readdirSync } from 'node:fs'
import { readArena, type Arena } from '../core/arena'
import { RandomStream } from '../core/random'
import { worked } from './worked'
import { floorViews, lookBudget, readRobot, selfViews } from '../core/robot'
import { readTask } from '../core/task'

export interface DocumentFuzz {
  readonly read: number
  readonly taken: number
  readonly failures: readonly string[]
}

/** A read that takes longer is a failure, milliseconds of this process's own work. */
const LONGEST = 1000

const WORDS = ['constructor', '__proto__', 'toString', 'hasOwnProperty', 'valueOf', 'NaN', '', ' ', '-5 cm', '1e308 m', '5', 'cm', '10 kg', '90 deg', 'sonar', 'P1', 'é', '\u0000', '9999999 s', 'any']
const VALUES: readonly unknown[] = [null, true, false, 0, -1, 1e308, -0, 0.5, [], {}, [null], [[]], { a: 1 }, ['1 m', '2 m'], ['1 m'], [1, 2], '']

function documents(): readonly { readonly kind: 'robot' | 'arena' | 'task', readonly value: unknown }[] {
  return (['robot', 'arena', 'task'] as const).flatMap(kind => readdirSync(`demo/${kind}s`).sort().map(name => ({ kind, value: JSON.parse(readFileSync(`demo/${kind}s/${name}`, 'utf8')) as unknown })))
}

/** Every place in a value that holds something: its holder and key. */
function places(value: unknown): { holder: Record<string, unknown>, key: string }[] {
  if (typeof value !== 'object' || value === null) return []
  const holder = value as Record<string, unknown>
  return Object.keys(holder).flatMap(key => [{ holder, key }, ...places(holder[key])])
}

/** Changes one to four things: values replaced, left out, doubled, moved, renamed, nested. */
function mutated(r: RandomStream, value: unknown): unknown {
  const root = { root: structuredClone(value) }
  for (let n = 1 + Math.floor(r.unit() * 4); n > 0; n--) {
    const all = places(root)
    const { holder, key } = all[Math.floor(r.unit() * all.length)]!
    const pick = <T>(list: readonly T[]): T => list[Math.floor(r.unit() * list.length)]!
    const how = r.unit()
    if (how < 0.3) holder[key] = structuredClone(pick(VALUES))
    else if (how < 0.5) holder[key] = pick(WORDS)
    else if (how < 0.6) { if (holder !== root) Reflect.deleteProperty(holder, key) }
    else if (how < 0.7) { const from = pick(all); holder[key] = structuredClone(from.holder[from.key]) }
    else if (how < 0.8 && !Array.isArray(holder)) Object.defineProperty(holder, pick(WORDS), { value: structuredClone(holder[key]), enumerable: true, writable: true, configurable: true })
    else if (how < 0.9 && Array.isArray(holder)) holder.push(structuredClone(holder[Number(key)]))
    else { let deep: unknown = holder[key]; for (let i = Math.floor(r.unit() * 40); i > 0; i--) deep = [deep]; holder[key] = deep }
  }
  // As it would come from a file.
  return JSON.parse(JSON.stringify(root.root ?? null)) as unknown
}

/** Documents of the demo, mutated, are read: no throw, no hang; every problem says where, what and why; what is taken can be worked with. */
export function fuzzDocuments(from: number, count: number, tell: (line: string) => void = () => undefined): DocumentFuzz {
  const all = documents()
  const arenas = all.filter(d => d.kind === 'arena').flatMap((d) => { const read = readArena(d.value); return read.ok ? [read.value] : [] })
  const failures: string[] = []
  let taken = 0
  for (let seed = from; seed < from + count; seed++) {
    const r = RandomStream.named(seed, 'documents')
    const { kind, value } = all[seed % all.length]!
    const document = mutated(r, value)
    const begin = worked()
    try {
      const read = kind === 'robot' ? readRobot(document) : kind === 'arena' ? readArena(document) : readTask(document, arenas[seed % arenas.length] as Arena)
      if (read.ok) {
        taken++
        if (kind === 'robot') { const robot = read.value as Parameters<typeof lookBudget>[0]; lookBudget(robot); selfViews(robot); floorViews(robot) }
        if (JSON.stringify(read.value, (_k, v: unknown) => typeof v === 'number' && Number.isNaN(v) ? 'NaN!' : v).includes('NaN!')) failures.push(`seed ${seed}: a ${kind} was taken that holds no number: ${JSON.stringify(document).slice(0, 300)}`)
      } else for (const p of read.problems) if (p.path === '' || p.value === '' || p.message === '' || /undefined|\[object/.test(p.message)) failures.push(`seed ${seed}: a problem without place, value or sense: ${JSON.stringify(p)}`)
    } catch (error) {
      failures.push(`seed ${seed} (${kind}): ${error instanceof Error ? error.stack ?? error.message : String(error)}`)
    }
    if (worked() - begin > LONGEST) failures.push(`seed ${seed}: took ${Math.round(worked() - begin)} ms`)
    if (failures.length > 20) break
    if ((seed - from) % 5000 === 4999) tell(`${seed - from + 1} read, ${failures.length} failures`)
  }
  return { read: count, taken, failures }
}
