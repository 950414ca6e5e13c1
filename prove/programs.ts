import { DEVICE_STEPS, plainParts, type Part, type PlainPart, type ReadingType, type SlotKind } from '../core/devices'
import type { RandomStream } from '../core/random'
import { driveOf, type RobotFacts } from '../core/robot'
import { kindOf, sameKind, unitsOfKind, type KindName } from '../core/units'

/** Random programs over the whole grammar, for a robot: most of them check, all of them are well formed but for what `wild` changes. */

/** Steps that no lane owns the device of. */
const OF_ANY_LANE: ReadonlySet<string> = new Set(['tone', 'play', 'light', 'lightState', 'switch', 'show', 'clear', 'look'])

interface World {
  /** A lane beside the one that moves. */
  side: boolean
  readonly r: RandomStream
  readonly facts: RobotFacts
  readonly names: Map<string, KindName | 'truth' | 'color'>
  readonly memories: Map<string, KindName | 'truth' | 'color'>
  readonly routines: { name: string, parameters: KindName[] }[]
  readonly signals: string[]
  modes: string[]
  /** Parameters, and what the blocks around name. */
  parameters: Map<string, KindName>
  /** Memories of several values: for each colour, or by number. */
  readonly several: { name: string, kind: KindName | 'truth', color: boolean }[]
  readonly functions: { name: string, kind: KindName }[]
  /** What is written is worked out on every tick: what a block names is not known. */
  onTick: boolean
  count: number
}

const COLORS = ['red', 'green', 'blue', 'yellow']

const DIMENSIONS: readonly KindName[] = ['length', 'time', 'angle', 'speed', 'turning speed', 'number']

const pick = <T>(r: RandomStream, list: readonly T[]): T => list[Math.floor(r.unit() * list.length)]!
const whole = (r: RandomStream, low: number, high: number): number => low + Math.floor(r.unit() * (high - low + 1))

function literal(w: World, kind: KindName): string {
  const { r } = w
  if (kind === 'number') return pick(r, ['0', '1', '2', '0.5', '3'])
  const units = unitsOfKind(kindOf(kind))
  const unit = pick(r, units)
  const figure = r.chance(0.1) ? 0 : kind === 'time' ? whole(r, 1, 40) / 20 / unit.scale : whole(r, 1, 90) / 100 / unit.scale
  return `${Number(figure.toPrecision(3))} ${unit.name}`
}

/** Readings of a kind, by their names; hidden ones and those that are asked with values are left out. */
function readingsOf(w: World, wanted: (type: ReadingType) => boolean): string[] {
  return w.facts.devices.flatMap(d => d.readings
    .filter(x => !x.hidden && x.takes.length === 0 && wanted(x.type))
    .map(x => `${d.name}.${x.name.replace(/\(.*/, '')}${x.of === null ? '' : `(${x.of.replace(/^tag (\d+)$/, 'tag($1)')})`}`))
}

function quantity(w: World, kind: KindName, depth = 0): string {
  const { r } = w
  const own = [...w.names, ...w.onTick ? [] : w.parameters].filter(([, k]) => k === kind).map(([n]) => n)
  const roll = r.unit()
  if (depth < 2) {
    const rare = r.unit()
    if (rare < 0.04) return overTime(w, kind)
    if (rare < 0.06 && w.functions.some(f => f.kind === kind)) return `${pick(r, w.functions.filter(f => f.kind === kind)).name}(${quantity(w, kind, depth + 1)})`
    const several = w.several.filter(s => s.kind === kind)
    if (rare < 0.1 && several.length > 0) return oneOf(w, pick(r, several))
    if (roll < 0.1) return `${quantity(w, kind, depth + 1)} ${pick(r, ['+', '-'])} ${quantity(w, kind, depth + 1)}`
    if (roll < 0.15) return `(${quantity(w, kind, depth + 1)}) ${pick(r, ['*', '/'])} ${pick(r, ['2', '0.5', '3'])}`
    if (roll < 0.2) return `${pick(r, ['min', 'max'])}(${quantity(w, kind, depth + 1)}, ${quantity(w, kind, depth + 1)})`
    if (roll < 0.23) return `-${quantity(w, kind, 9)}`
    if (roll < 0.25) return `clamp(${quantity(w, kind, 9)}, ${literal(w, kind)}, ${literal(w, kind)})`
  }
  if (roll < 0.5 && own.length > 0) return pick(r, own)
  const readings = readingsOf(w, t => t.type === 'quantity' && !t.share && sameKind(t.kind, kindOf(kind)))
  if (roll < 0.6 && readings.length > 0) return pick(r, readings)
  return literal(w, kind)
}

/** One of a memory's values. */
const oneOf = (w: World, s: World['several'][number]): string => `${s.name}(${s.color ? pick(w.r, [...COLORS, ...readingsOf(w, t => t.type === 'color')]) : w.r.chance(0.1) ? quantity(w, 'number', 1) : pick(w.r, ['1', '2', '2.4'])})`

/** Something followed over time that is of a kind. */
function overTime(w: World, kind: KindName): string {
  const before = w.onTick
  w.onTick = true
  const text = kind === 'time' && w.r.chance(0.6) ? `since(${truth(w, 1)})`
    : kind === 'speed' && w.r.chance(0.5) ? `rate(${quantity(w, 'length', 1)})`
      : kind === 'turning speed' && w.r.chance(0.5) ? `rate(${quantity(w, 'angle', 1)})`
        : kind === 'length' && w.r.chance(0.4) ? `total(${quantity(w, 'speed', 1)})`
          : kind === 'time' ? `total(${quantity(w, 'number', 1)})`
            : `${pick(w.r, ['mean', 'lowest', 'highest'])}(${quantity(w, kind, 1)}, ${pick(w.r, ['0.1 s', '0.02 s', '1 s', '0.5 s'])})`
  w.onTick = before
  return text
}

function truth(w: World, depth = 0, moments = false): string {
  const { r } = w
  const roll = r.unit()
  const rare = r.unit()
  if (rare < 0.03 && w.several.some(s => s.kind === 'truth')) return oneOf(w, pick(r, w.several.filter(s => s.kind === 'truth')))
  if (rare < 0.04 && w.several.some(s => s.kind === 'truth')) return `count(${pick(r, w.several.filter(s => s.kind === 'truth')).name}) > 1`
  if (depth < 2) {
    if (roll < 0.12) return `(${truth(w, depth + 1, moments)}) and (${truth(w, depth + 1, moments)})`
    if (roll < 0.2) return `(${truth(w, depth + 1, moments)}) or (${truth(w, depth + 1, moments)})`
    if (roll < 0.26) return `not (${truth(w, depth + 1, moments)})`
  }
  if (moments && roll < 0.32) return r.chance(0.6) || w.signals.length === 0 ? `every ${pick(r, ['0.02 s', '0.1 s', '0.5 s', '1 s'])}` : `heard ${pick(r, w.signals)}`
  const truths = [...readingsOf(w, t => t.type === 'truth'), ...[...w.names].filter(([, k]) => k === 'truth').map(([n]) => n), 'robot.still']
  if (roll < 0.5) return pick(r, truths)
  const colors = [...readingsOf(w, t => t.type === 'color'), ...[...w.names].filter(([, k]) => k === 'color').map(([n]) => n)]
  if (roll < 0.58 && colors.length > 0) return `${pick(r, colors)} is ${r.chance(0.2) ? 'not ' : ''}${r.chance(0.3) ? 'red, blue' : 'yellow'}`
  const kind = pick(r, DIMENSIONS)
  if (roll < 0.66) return `${quantity(w, kind, 1)} between ${literal(w, kind)} and ${literal(w, kind)}`
  return `${quantity(w, kind, 1)} ${pick(r, ['<', '>', '<=', '>='])} ${quantity(w, kind, 1)}`
}

const condition = (w: World, moments = true): string => `${truth(w, 0, moments)}${w.r.chance(0.2) ? ` for ${pick(w.r, ['0.1 s', '0.02 s', '0 s', '0.3 s'])}` : ''}`

function slot(w: World, kinds: readonly SlotKind[]): string {
  const kind = pick(w.r, kinds)
  if (kind === 'text') return text(w)
  if (kind === 'color') return pick(w.r, ['red', 'green', 'blue'])
  if (kind === 'share') return pick(w.r, ['10 %', '60 %', '-30 %', '100 %'])
  if (w.r.chance(0.1)) return `random ${literal(w, kind)} to ${literal(w, kind)}`
  return quantity(w, kind)
}

function text(w: World): string {
  const inner = w.r.unit()
  if (inner < 0.2) {
    const dimension = pick(w.r, DIMENSIONS)
    return `"{${quantity(w, dimension, 2)} ${w.r.chance(0.5) ? `in ${pick(w.r, unitsOfKind(kindOf(dimension)))?.name ?? ''}` : `to ${literal(w, dimension)}`}}"`
  }
  return inner < 0.4 ? '"x"' : inner < 0.7 ? `"at {${quantity(w, pick(w.r, DIMENSIONS), 2)}}"` : `"{${pick(w.r, readingsOf(w, () => true))}} # no comment"`
}

/** A part of a step as text; null when this robot has nothing that fits. */
function partText(w: World, part: PlainPart): string | null {
  switch (part.part) {
    case 'word': return part.word
    case 'flag': return w.r.chance(0.4) ? part.words.join(' ') : ''
    case 'choice': return pick(w.r, part.words)
    case 'value': return part.optional && w.r.chance(0.5) ? '' : slot(w, part.kinds)
    case 'device': {
      const fitting = w.facts.devices.filter(d => part.kinds.length === 0 || part.kinds.includes(d.kind))
      return fitting.length === 0 ? null : pick(w.r, fitting).name
    }
    case 'kept': {
      const all = part.what === 'gesture' ? Object.keys(w.facts.gestures) : w.facts.clips.map(c => c.name)
      return all.length === 0 ? null : pick(w.r, all)
    }
  }
}

function deviceStep(w: World): string {
  for (let tries = 0; tries < 20; tries++) {
    const { form, needs } = pick(w.r, DEVICE_STEPS)
    if (needs.length > 0 && !needs.some(kind => w.facts.devices.some(d => d.kind === kind))) continue
    if (w.side && !OF_ANY_LANE.has(form.id)) continue
    if (plainParts(form).some(p => p.part === 'device' && partText(w, p) === null)) continue
    if (form.id === 'wheels') return `wheels left ${pick(w.r, ['40 %', '-10 %'])} right ${slot(w, ['share'])}`
    const words: string[] = []
    const add = (part: Part): boolean => {
      if (part.part === 'clause') return w.r.chance(0.6) || part.parts.every(add)
      const piece = partText(w, part)
      if (piece === null) return false
      if (piece !== '') words.push(piece)
      return true
    }
    if (!form.parts.every(add)) continue
    const end = form.mayLast ? w.r.unit() : 1
    const lasts = end < 0.2 ? ` for ${quantity(w, 'time', 2)}` : end < 0.35 ? ` until ${condition(w)}` : ''
    return words.join(' ') + lasts + (w.r.chance(0.08) ? ' at most 0.5 s' : '')
  }
  return 'wait 0.1 s'
}

function steps(w: World, depth: number, inLoop: boolean, indent: number): string[] {
  // What a block names is forgotten at its end.
  const { parameters } = w
  w.parameters = new Map(parameters)
  const out = stepsOf(w, depth, inLoop, indent)
  w.parameters = parameters
  return out
}

function stepsOf(w: World, depth: number, inLoop: boolean, indent: number): string[] {
  const { r } = w
  const pad = '  '.repeat(indent)
  const out: string[] = []
  for (let n = whole(r, 1, depth === 0 ? 4 : 2); n > 0; n--) {
    const roll = r.unit()
    const off = r.chance(0.04) ? 'off ' : ''
    const line = (t: string): void => { out.push(`${pad}${off}${t}${r.chance(0.05) ? '  # said' : ''}`) }
    const waits = (): void => { if (r.chance(0.8)) out.push(`${pad}  wait 0.1 s`) }
    const block = (head: string): void => { line(head); out.push(...steps(w, depth + 1, inLoop, indent + 1)) }
    const late = (): void => {
      const last = out.at(-1)!
      if (!last.includes(' at most ') || last.includes(' off ') || !r.chance(0.4)) return
      out.push(`${pad}else`, ...steps(w, depth + 1, inLoop, indent + 1))
    }
    const rare = r.unit()
    if (rare < 0.03) {
      const kind = pick(r, DIMENSIONS)
      const name = `v${w.count++}`
      // One that is switched off names nothing.
      out.push(`${pad}let ${name} = ${r.chance(0.3) ? `random ${literal(w, kind)} to ${literal(w, kind)}` : quantity(w, kind)}`)
      w.parameters.set(name, kind)
    } else if (rare < 0.06 && w.several.length > 0) {
      const s = pick(r, w.several)
      line(`set ${oneOf(w, s)} = ${s.kind === 'truth' ? truth(w, 1) : quantity(w, s.kind, 1)}`)
    } else if (rare < 0.08 && depth < 3) {
      const kind = pick(r, DIMENSIONS)
      const name = `v${w.count++}`
      line(`repeat for ${name} in ${quantity(w, kind, 1)}, ${quantity(w, kind, 1)}`)
      const { parameters } = w
      w.parameters = new Map([...parameters, [name, kind]])
      out.push(...steps(w, depth + 1, true, indent + 1))
      w.parameters = parameters
    } else if (roll < 0.42) { line(deviceStep(w)); late() }
    else if (roll < 0.48) line(`note ${text(w)}`)
    else if (roll < 0.55 && w.memories.size > 0) {
      const [name, kind] = pick(r, [...w.memories])
      line(`set ${name} = ${kind === 'truth' ? pick(r, ['true', 'false', 'robot.still']) : kind === 'color' ? pick(r, ['red', 'blue']) : quantity(w, kind, 0)}`)
    } else if (roll < 0.62) {
      line(r.chance(0.5) ? `wait ${pick(r, ['0.1 s', '0 s', '0.5 s', '20 ms'])}` : `wait until ${condition(w)}${r.chance(0.5) ? ' at most 1 s' : ''}`)
      late()
    } else if (roll < 0.7 && depth < 3) {
      block(`if ${truth(w)}`)
      if (r.chance(0.4)) { out.push(`${pad}else if ${truth(w)}`); out.push(...steps(w, depth + 1, inLoop, indent + 1)) }
      if (r.chance(0.5)) { out.push(`${pad}else`); out.push(...steps(w, depth + 1, inLoop, indent + 1)) }
    } else if (roll < 0.76 && depth < 3) {
      line(`repeat${pick(r, ['', ' 3 times', ` while ${truth(w)}`, ` until ${truth(w)}`])}`)
      out.push(...steps(w, depth + 1, true, indent + 1))
      waits()
    } else if (roll < 0.8 && depth < 3) {
      line(`choose ${pick(r, [...readingsOf(w, t => t.type === 'color'), 'run.time > 1 s'].slice(0, 1))}`)
      const color = !out.at(-1)!.includes('run.time')
      out.push(`${pad}  is ${color ? 'red, yellow' : 'true'}`)
      out.push(...steps(w, depth + 1, inLoop, indent + 2))
      if (r.chance(0.5)) { out.push(`${pad}  else`); out.push(...steps(w, depth + 1, inLoop, indent + 2)) }
    } else if (roll < 0.84 && w.routines.length > 0) {
      const routine = pick(r, w.routines)
      line(`do ${routine.name}${routine.parameters.length === 0 ? '' : `(${routine.parameters.map(k => r.chance(0.15) ? `random ${literal(w, k)} to ${literal(w, k)}` : quantity(w, k, 1)).join(', ')})`}${r.chance(0.2) ? ' at most 0.4 s' : ''}`)
      late()
    } else if (roll < 0.87) {
      const signal = pick(r, ['bell', 'done'])
      if (!w.signals.includes(signal)) w.signals.push(signal)
      line(`send ${signal}`)
    } else if (roll < 0.9 && inLoop) { line('leave'); break }
    else if (roll < 0.93 && w.modes.length > 0) { line(`go ${pick(r, w.modes)}`); break }
    else if (roll < 0.935) { line(`finish ${text(w)}`); break }
    else if (roll < 0.96) {
      const all = w.facts.devices.flatMap(d => d.readings.filter(x => x.resettable && !x.hidden).map(x => `${d.name}.${x.name}`))
      if (all.length > 0) line(`reset ${pick(r, all)}`)
    } else line(w.side || driveOf(w.facts) === null ? 'wait 0.1 s' : 'halt')
  }
  return out.length === 0 ? [`${pad}wait 0.1 s`] : out
}

function rules(w: World, indent: number): string[] {
  const { r } = w
  const pad = '  '.repeat(indent)
  const out: string[] = []
  if (r.chance(0.4)) out.push(`${pad}start`, ...steps(w, 0, false, indent + 1))
  for (let n = whole(r, 0, 3); n > 0; n--) {
    const until = r.chance(0.2) ? ` until ${condition(w)}` : ''
    const head = `${pad}${r.chance(0.05) ? 'off ' : ''}when ${condition(w)}${until}${r.chance(0.2) ? ' once' : ''}`.replace(') and (', r.chance(0.3) ? `) and  # both\n${pad}      (` : ') and (')
    if (r.chance(0.2)) out.push(`${head} ->  ${r.chance(0.1) ? 'off ' : ''}${deviceStep(w)}`)
    else out.push(head, ...steps(w, 0, false, indent + 1))
  }
  if (r.chance(0.6)) out.push(`${pad}otherwise`, ...steps(w, 0, false, indent + 1))
  return out
}

export function randomProgram(r: RandomStream, facts: RobotFacts): string {
  const w: World = { r, facts, names: new Map(), memories: new Map(), routines: [], signals: [], modes: [], parameters: new Map(), side: r.chance(0.3), several: [], functions: [], onTick: false, count: 1 }
  const out: string[] = []
  for (let n = whole(r, 0, 2); n > 0; n--) {
    const kind = pick(r, DIMENSIONS.filter(k => k !== 'number'))
    const unit = pick(r, unitsOfKind(kindOf(kind))).name
    out.push(`dial d${n} = ${whole(r, 1, 9)} ${unit} from 0 ${unit} to ${whole(r, 10, 90)} ${unit}`)
    w.names.set(`d${n}`, kind)
  }
  for (let n = whole(r, 0, 3); n > 0; n--) {
    const kind = pick(r, [...DIMENSIONS, 'truth', 'color'] as const)
    out.push(`memory m${n} = ${kind === 'truth' ? 'false' : kind === 'color' ? 'red' : literal(w, kind)}`)
    w.names.set(`m${n}`, kind)
    w.memories.set(`m${n}`, kind)
  }
  if (r.chance(0.3)) {
    out.push('memory home_of of color = false')
    w.several.push({ name: 'home_of', kind: 'truth', color: true })
  }
  if (r.chance(0.3)) {
    const kind = pick(r, DIMENSIONS)
    out.push(`memory row = 3 of ${literal(w, kind)}`)
    w.several.push({ name: 'row', kind, color: false })
  }
  w.onTick = true
  for (let n = whole(r, 0, 3); n > 0; n--) {
    const kind = pick(r, [...DIMENSIONS, 'truth'] as const)
    if (kind !== 'truth' && r.chance(0.3)) {
      w.parameters = new Map()
      w.onTick = false
      w.parameters.set('x', kind)
      out.push(`let g${n}(x) = ${quantity(w, kind)}`)
      w.parameters = new Map()
      w.onTick = true
      w.functions.push({ name: `g${n}`, kind })
    } else {
      out.push(`let l${n} = ${kind === 'truth' ? truth(w) : quantity(w, kind)}`)
      w.names.set(`l${n}`, kind)
    }
  }
  w.onTick = false
  // A routine may call those written before it.
  const routineLines: string[] = []
  for (let n = whole(r, 0, 3); n > 0; n--) {
    const parameters = Array.from({ length: whole(r, 0, 2) }, () => pick(r, DIMENSIONS.filter(k => k !== 'number')))
    w.parameters = new Map(parameters.map((k, i) => [`p${i}`, k]))
    routineLines.push(`routine f${n}${parameters.length === 0 ? '' : `(${parameters.map((_, i) => `p${i}`).join(', ')})`}`)
    if (r.chance(0.4)) {
      const kind = pick(r, DIMENSIONS)
      routineLines.push(`  memory kept = ${literal(w, kind)}`, `  set kept = ${quantity(w, kind, 1)}`)
      w.parameters.set('kept', kind)
    }
    routineLines.push(...steps(w, 0, false, 1))
    w.parameters = new Map()
    w.routines.push({ name: `f${n}`, parameters })
  }
  for (const lane of ['', 'side', 'third'].slice(0, whole(r, 1, 3))) {
    const indent = lane === '' ? 0 : 1
    w.side = lane !== '' || (w.side && r.chance(0.5))
    if (lane !== '') out.push(`${r.chance(0.08) ? 'off ' : ''}lane ${lane}`)
    const count = r.chance(0.4) ? whole(r, 1, 3) : 0
    w.modes = Array.from({ length: count }, (_, i) => `${lane === '' ? 'main' : lane}_${i + 1}`)
    const before = rules(w, indent).filter((_, i, all) => count === 0 || !isOtherwise(all, i, indent))
    out.push(...before)
    for (const mode of w.modes) out.push(`${'  '.repeat(indent)}${r.chance(0.04) ? 'off ' : ''}mode ${mode}`, ...ensure(rules(w, indent + 1), indent + 1))
    if (lane !== '' && before.length === 0 && count === 0) out.push('  when robot.still -> note "still"')
  }
  return `${[...out, ...routineLines].join('\n')}\n`
}

/** Whether a line belongs to an `otherwise`, which may not stand above modes. */
function isOtherwise(lines: readonly string[], at: number, indent: number): boolean {
  const head = lines.slice(0, at + 1).findLast(l => !l.startsWith('  '.repeat(indent + 1)))
  return head?.trim() === 'otherwise'
}

const ensure = (lines: string[], indent: number): string[] => lines.length > 0 ? lines : [`${'  '.repeat(indent)}otherwise`, `${'  '.repeat(indent + 1)}wait 0.1 s`]

const SCRAPS = ['when ', 'otherwise', '->', '(', ')', '"', '{', '}', ' for ', '#', '  ', '\t', '\n', 'random ', '9e99', '.', '-', 'off ', 'mode x', 'lane y', 'is ', ',', 'é', '\u0000', '1e-300 m', 'constructor', '__proto__']

/** The program with some of its text cut, doubled or replaced: what people type on their way, and worse. */
export function wild(r: RandomStream, program: string): string {
  let text = program
  for (let n = whole(r, 1, 6); n > 0; n--) {
    const at = whole(r, 0, text.length)
    const to = Math.min(text.length, at + whole(r, 0, 12))
    const how = r.unit()
    if (how < 0.4) text = text.slice(0, at) + text.slice(to)
    else if (how < 0.7) text = text.slice(0, at) + pick(r, SCRAPS) + text.slice(at)
    else text = text.slice(0, at) + text.slice(at, to) + text.slice(at)
  }
  return text
}
