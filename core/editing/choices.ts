import { COLORS } from '../colors'
import { DEVICE_STEPS, type DeviceStep, type Part, type ReadingSpec, type SlotKind } from '../devices'
import type { Tree } from '../language'
import { driveOf, namesKept, type RobotFacts } from '../robot'
import { findUnit, formatQuantity, KINDS, sameKind, unitsOfKind, type Kind } from '../units'
import { namesIn } from './names'
import { ruleLists } from './places'

/** Something that can be put into a program: what is written, and a line on what it does. */
export interface Choice {
  readonly text: string
  readonly says: string
  /** What it is of, for finding: a device, or a word for the group. */
  readonly group: string
}

/** What a new value is at first, by its kind. */
const FIRST: Readonly<Record<SlotKind, string>> = {
  'length': '20 cm', 'speed': '20 cm/s', 'angle': '90 deg', 'turning speed': '60 deg/s', 'time': '1 s', 'share': '50 %', 'number': '1', 'frequency': '440 Hz',
  'text': '"here"', 'color': 'red', 'acceleration': '1', 'mass': '1', 'force': '1', 'torque': '1',
}

/** Names that a program gives, by what they name. */
export interface Given {
  readonly modes: readonly string[]
  readonly routines: readonly Tree.Routine[]
  readonly memories: readonly Tree.Memory[]
  readonly dials: readonly Tree.Dial[]
  /** Named values; functions are left out. */
  readonly lets: readonly Tree.Let[]
  readonly signals: readonly string[]
}

export function givenBy(tree: Tree.Program): Given {
  const lists = [...ruleLists(tree)].flatMap(l => l.items)
  const signals = [...new Set([...namesIn(tree)].filter(n => n.what === 'signal').map(n => n.text))]
  return {
    modes: lists.flatMap(i => i.tag === 'mode' ? [i.name.text] : []),
    routines: tree.items.filter(i => i.tag === 'routine'), memories: tree.items.filter(i => i.tag === 'memory'), dials: tree.items.filter(i => i.tag === 'dial'), lets: tree.items.filter(i => i.tag === 'let').filter(l => l.parameters.length === 0), signals,
  }
}

/** Steps that this robot can do, with the names that the program has; the commonest first. */
export function stepChoices(facts: RobotFacts, tree: Tree.Program): readonly Choice[] {
  const given = givenBy(tree)
  const out: Choice[] = []
  for (const step of DEVICE_STEPS) {
    if (step.needs.length > 0 && !step.needs.some(kind => facts.devices.some(d => d.kind === kind))) continue
    const group = step.needs.length === 0 ? 'senses' : facts.devices.find(d => step.needs.includes(d.kind))?.name ?? ''
    for (const text of samples(step, facts)) out.push({ text, says: step.form.summary, group })
  }
  const add = (group: string, text: string, says: string): void => { out.push({ group, text, says }) }
  const default_ = defaultStep(facts)
  const condition = conditionChoices(facts, tree)[0]?.text ?? 'run.time > 5 s'
  for (const mode of given.modes) add('modes', `go ${mode}`, `change to the mode ${mode}`)
  add('time', 'wait 0.5 s', 'let time pass')
  add('time', `wait until ${condition} at most 5 s`, 'wait for a condition')
  add('branches', `if ${condition}\n  ${default_}`, 'do something only if')
  add('branches', `if ${condition}\n  ${default_}\nelse\n  ${default_}`, 'one thing or another')
  add('branches', `repeat 3 times\n  ${default_}`, 'do something so many times')
  add('branches', `repeat until ${condition}\n  ${default_}\n  wait 0.1 s`, 'do something until')
  const color = facts.devices.flatMap(d => d.readings.filter(r => r.type.type === 'color' && !r.hidden).map(r => `${d.name}.${r.name}`))[0]
  if (color !== undefined) add('branches', `choose ${color}\n  is red -> ${default_}\n  else -> ${default_}`, 'many ways by one value')
  for (const m of given.memories) add('memories', `set ${m.name.text}${inBrackets(m)} = ${firstOf(m)}`, `give ${m.name.text} a value`)
  for (const d of facts.devices) for (const r of d.readings) if (r.resettable && !r.hidden) add(d.name, `reset ${d.name}.${r.name}`, `${r.summary}: from zero again`)
  for (const r of given.routines) if (r.parameters.length === 0) add('routines', `do ${r.name.text}`, 'do a routine')
  add('says', 'note "here"', 'a line on the tape')
  for (const s of given.signals) add('signals', `send ${s}`, 'tell all lanes')
  if (given.signals.length === 0) add('signals', 'send alarm', 'tell all lanes')
  add('ends', 'finish "done"', 'end the run')
  return out
}

const isSeveral = (m: Tree.Memory): boolean => m.perColor || m.count !== null
const inBrackets = (m: Tree.Memory): string => m.perColor ? '(red)' : m.count !== null ? '(1)' : ''
const firstOf = (m: Tree.Memory): string => m.value.tag === 'number' ? `${m.value.figure}${m.value.unit === null ? '' : ` ${m.value.unit}`}` : m.value.tag === 'truth' ? String(m.value.value) : m.value.tag === 'name' ? m.value.name : '0'

/** A step that any robot of this kind can do, for what must not be empty. */
export function defaultStep(facts: RobotFacts): string {
  return driveOf(facts) === null ? 'wait 0.5 s' : 'halt'
}

/** A form filled in for this robot: each device, and each kind of value, once. */
function samples(step: DeviceStep, facts: RobotFacts): readonly string[] {
  let texts = ['']
  const then = (options: readonly string[]): void => { texts = texts.flatMap(t => options.map(o => o === '' ? t : `${t} ${o}`)) }
  for (const part of step.form.parts) {
    const options = optionsOf(part, facts)
    if (options.length === 0) return []
    then(options)
  }
  // What a joint is moved to depends on whether it turns or slides: the other kind is left out.
  return texts.map(t => t.trim()).filter(t => fits(t, facts)).map(t => step.form.id === 'wheels' ? 'wheels left 40 % right 40 %' : t).filter((t, i, all) => all.indexOf(t) === i)
}

function optionsOf(part: Part, facts: RobotFacts): readonly string[] {
  switch (part.part) {
    case 'word': return [part.word]
    case 'flag':
    case 'clause': return ['']
    case 'choice': return part.words.slice(0, part.slot === 'side' ? 2 : part.words.length)
    case 'value': return part.optional ? [''] : part.kinds.map(k => FIRST[k])
    case 'device': return facts.devices.filter(d => part.kinds.length === 0 ? d.kind !== 'wheels' && d.readings.some(r => !r.hidden) && !facts.actuators.some(a => a.name === d.name) : part.kinds.includes(d.kind)).map(d => d.name)
    case 'kept': return namesKept(facts, part.what)
  }
}

function fits(text: string, facts: RobotFacts): boolean {
  const [, name] = /^move (\w+)/.exec(text) ?? []
  if (name === undefined) return true
  return (facts.devices.find(d => d.name === name)?.kind === 'slide') === / cm/.test(text)
}

/** A reading as programs write it. */
function written(device: string, spec: ReadingSpec): string {
  return spec.of === null ? `${device}.${spec.name}` : `${device}.${spec.name}(${spec.of.replace(/^tag (.*)$/, 'tag($1)')})`
}

/** The comparison that a condition begins with for a reading: a truth is one itself. */
export function conditionOf(device: string, spec: ReadingSpec): string {
  const name = written(device, spec)
  if (spec.takes.length > 0) return `${device}.${spec.name}(${spec.takes.map(k => FIRST[k]).join(', ')}) < ${firstBound(spec)}`
  switch (spec.type.type) {
    case 'truth': return name
    case 'color': return `${name} is red`
    case 'quantity': return `${name} < ${firstBound(spec)}`
  }
}

/** A bound that lies within a reading's range. */
function firstBound(spec: ReadingSpec): string {
  if (spec.type.type !== 'quantity') return ''
  const { kind, share } = spec.type
  if (share) return '50 %'
  const usual: readonly (readonly [Kind, string])[] = [[KINDS.length, '30 cm'], [KINDS.angle, '90 deg'], [KINDS.speed, '10 cm/s'], [KINDS['turning speed'], '30 deg/s'], [KINDS.time, '2 s'], [KINDS.number, '1']]
  const first = usual.find(([k]) => sameKind(k, kind))?.[1] ?? '1'
  if (spec.range === null) return first
  const unit = findUnit(first.split(' ')[1] ?? '') ?? unitsOfKind(kind)[0]
  const value = Number.parseFloat(first) * (unit?.scale ?? 1)
  const [low, high] = spec.range
  if (value > low && value < high) return first
  const middle = low + (high - low) / 3
  return unit === undefined ? String(Number(middle.toPrecision(2))) : formatQuantity(middle, unit, 2)
}

/** Conditions that this robot's readings can make; sensors first. */
export function conditionChoices(facts: RobotFacts, tree: Tree.Program): readonly Choice[] {
  const out: Choice[] = []
  const sensors = [...facts.devices].sort((a, b) => Number(isOwn(facts, a.name)) - Number(isOwn(facts, b.name)))
  for (const d of sensors) for (const r of d.readings) if (!r.hidden) out.push({ text: conditionOf(d.name, r), says: r.summary, group: d.name })
  const given = givenBy(tree)
  out.push({ text: 'mode.time > 2 s', says: 'time in this mode', group: 'time' }, { text: 'run.time > 30 s', says: 'time of the run', group: 'time' }, { text: 'every 2 s', says: 'once every so often', group: 'time' })
  out.push({ text: 'robot.still', says: 'nothing of its own moves or sounds', group: 'robot' })
  for (const s of given.signals) out.push({ text: `heard ${s}`, says: 'a signal of the tick before', group: 'signals' })
  for (const m of given.memories) {
    const first = firstOf(m)
    const name = m.name.text + inBrackets(m)
    out.push({ text: first === 'true' || first === 'false' ? name : COLORS.includes(first as never) ? `${name} is ${first}` : `${name} > ${first}`, says: 'a memory', group: 'memories' })
  }
  return out
}

/** Whether a device acts: its readings are of what the robot does itself. */
const isOwn = (facts: RobotFacts, name: string): boolean => facts.actuators.some(a => a.name === name)

/** What could stand where a value stands: dials, memories and readings of the same kind, and colours. */
export function valueChoices(facts: RobotFacts, tree: Tree.Program, text: string): readonly Choice[] {
  const given = givenBy(tree)
  if (facts.colors.includes(text)) return facts.colors.map(c => ({ text: c, says: 'a colour', group: 'colours' }))
  const kind = kindOfText(facts, given, text)
  if (kind === null) return []
  const out: Choice[] = []
  for (const d of given.dials) if (sameAs(kind, kindOfText(facts, given, d.name.text))) out.push({ text: d.name.text, says: 'a dial', group: 'dials' })
  for (const m of given.memories) if (!isSeveral(m) && sameAs(kind, kindOfText(facts, given, m.name.text))) out.push({ text: m.name.text, says: 'a memory', group: 'memories' })
  for (const l of given.lets) out.push({ text: l.name.text, says: 'a named value', group: 'values' })
  for (const d of facts.devices) {
    for (const r of d.readings) {
      if (!r.hidden && r.takes.length === 0 && r.type.type === 'quantity' && sameKind(r.type.kind, kind)) out.push({ text: written(d.name, r), says: r.summary, group: d.name })
    }
  }
  return out
}

const sameAs = (a: Kind, b: Kind | null): boolean => b !== null && sameKind(a, b)

/** The kind of what is written: a number with its unit, a dial, a memory, a reading. null where it is no quantity. */
function kindOfText(facts: RobotFacts, given: Given, text: string): Kind | null {
  const match = /^-?\d+(?:\.\d+)?\s*(.*)$/.exec(text)
  if (match !== null) return match[1] === '' ? KINDS.number : findUnit(match[1]!)?.kind ?? null
  const named = [...given.dials, ...given.memories].find(n => n.name.text === text)
  if (named !== undefined) return named.value.tag === 'number' ? named.value.unit === null ? KINDS.number : findUnit(named.value.unit)?.kind ?? null : null
  for (const d of facts.devices) for (const r of d.readings) if (written(d.name, r) === text) return r.type.type === 'quantity' ? r.type.kind : null
  return null
}

/** A name that a dial made of a piece of a sentence might have: what it bounds, or what it sets. */
export function dialName(facts: RobotFacts, tree: Tree.Program, text: string, comparedWith: string | null): string {
  if (comparedWith !== null) return `${comparedWith.split('.')[0]!}_limit`
  const kind = kindOfText(facts, givenBy(tree), text)
  return kind === null ? 'value' : BASES.find(([k]) => sameKind(k, kind))?.[1] ?? 'share'
}

const BASES: readonly (readonly [Kind, string])[] = [[KINDS.speed, 'cruise'], [KINDS['turning speed'], 'spin'], [KINDS.length, 'way'], [KINDS.angle, 'angle'], [KINDS.time, 'pause']]
