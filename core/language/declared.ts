import type { RobotFacts } from '../robot'
import { findUnit, formatQuantity, sameKind, unitsOfKind } from '../units'
import { isConstant, numberOf } from './constants'
import type { Findings } from './diagnostics'
import type { Dial, Let, Memory, Name, Program, Range, Remembered, Routine } from './tree'
import { UNKNOWN, bareFigure, fixed, typeName, typeOf, type Called, type Entry, type Scope, type Several, type Type } from './types'
import { say } from './wording'
import { CALLED, RESERVED } from './words'

/** The most values that a memory holds by number. */
export const MAX_SEVERAL = 100

export interface DeclaredDial extends Entry { readonly node: Dial }
export interface DeclaredMemory extends Entry { readonly node: Memory }
export interface DeclaredLet extends Entry { readonly node: Let }

/** Names and readings that a program uses, for what is never used. */
export interface Uses {
  readonly names: Set<string>
  readonly readings: Set<string>
  readonly sets: Set<string>
  readonly sent: Set<string>
  readonly heard: Map<string, Range>
}

/** What a program names at its margin: dials, memories, named values, functions and routines. Says what is wrong with them. */
export class Declared {
  readonly dials = new Map<string, DeclaredDial>()
  readonly memories = new Map<string, DeclaredMemory>()
  readonly lets = new Map<string, DeclaredLet>()
  readonly functions = new Map<string, LetFunction>()
  readonly routines = new Map<string, Routine>()
  readonly uses: Uses = { names: new Set(), readings: new Set(), sets: new Set(), sent: new Set(), heard: new Map() }
  private readonly names = new Map<string, { what: string, range: Range }>()
  /** Lets that are not read yet, by name: what uses them stands above them. */
  private readonly later = new Map<string, Range>()

  constructor(private readonly tree: Program, private readonly facts: RobotFacts, private readonly findings: Findings, private readonly lineOf: (range: Range) => number) {}

  read(): void {
    const { items } = this.tree
    for (const item of items) {
      if (item.tag === 'dial') {
        if (this.name(item.name, 'dial')) this.dials.set(item.name.text, { node: item, ...fixed(this.dialType(item)) })
      } else if (item.tag === 'memory') {
        if (this.name(item.name, 'memory')) this.memories.set(item.name.text, { node: item, ...this.remembered(item) })
      } else if (item.tag === 'routine') {
        if (this.name(item.name, 'routine')) this.routines.set(item.name.text, item)
        this.parameters(item.parameters)
      } else if (item.tag === 'lane') this.name(item.name, 'lane')
    }
    const lets = items.filter((i): i is Let => i.tag === 'let').filter(item => this.name(item.name, 'named value'))
    for (const item of lets) this.later.set(item.name.text, item.range)
    for (const item of lets) {
      this.parameters(item.parameters)
      if (item.parameters.length > 0) {
        if (CALLED.has(item.name.text)) this.findings.error(say.calledName(item.name.text), item.name.range)
        this.functions.set(item.name.text, new LetFunction(item, this.margin([...this.functions.keys(), ...this.lets.keys()]), this.findings))
      } else {
        const type = typeOf(item.value, this.margin(), this.findings, { condition: false })
        if (type.type === 'text') this.findings.error(say.wrongKind('number, truth or colour', 'text', `in ${item.name.text}`), item.value.range)
        this.lets.set(item.name.text, { node: item, ...fixed(type.type === 'text' ? UNKNOWN : type) })
      }
      this.later.delete(item.name.text)
    }
  }

  /** Functions that nothing calls are read too. */
  finish(): void {
    for (const one of this.functions.values()) one.finish(this.uses.names)
  }

  /** Takes a name for something. False, and told, where it is a word of the language or taken. */
  name(name: Name, what: string): boolean {
    if (name.text === '') return false
    if (RESERVED.has(name.text)) {
      this.findings.error(say.reserved(name.text), name.range)
      return false
    }
    const before = this.names.get(name.text)
    if (before !== undefined) {
      this.findings.error(say.twice(before.what, name.text, this.lineOf(before.range)), name.range)
      return false
    }
    this.names.set(name.text, { what, range: name.range })
    return true
  }

  /** Whether a name may be given in a block: it is no word of the language, and means nothing there yet. */
  localName(name: Name, scope: Scope): boolean {
    if (name.text === '') return false
    const before = this.names.get(name.text)
    if (RESERVED.has(name.text)) this.findings.error(say.reserved(name.text), name.range)
    else if (before !== undefined) this.findings.error(say.twice(before.what, name.text, this.lineOf(before.range)), name.range)
    else if (scope.lookup(name.text) !== undefined) this.findings.error(say.twiceHere(name.text), name.range)
    else return true
    return false
  }

  private parameters(parameters: readonly Name[]): void {
    parameters.forEach((p, i) => {
      if (RESERVED.has(p.text)) this.findings.error(say.reserved(p.text), p.range)
      else if (parameters.findIndex(q => q.text === p.text) < i) this.findings.error(say.twice('parameter', p.text, this.lineOf(p.range)), p.range)
    })
  }

  /** What a memory holds, and how many values. */
  remembered(item: Remembered): Entry {
    const { findings } = this
    const constant = isConstant(item.value)
    const type = constant ? typeOf(item.value, { ...this.margin(), lookup: () => undefined, called: () => undefined }, findings, { condition: false }) : UNKNOWN
    if (!constant || type.type === 'text') findings.error(say.memoryChanges(), item.value.range)
    let several: Several | null = item.perColor ? { per: 'color', count: this.facts.colors.length, first: 0 } : null
    if (item.count !== null) {
      const count = item.count.tag === 'number' && item.count.unit === null ? item.count.value : Number.NaN
      if (Number.isInteger(count) && count >= 1 && count <= MAX_SEVERAL) several = { per: 'number', count, first: 1 }
      else findings.error(say.severalCount(MAX_SEVERAL), item.count.range)
    }
    if (several !== null && CALLED.has(item.name.text)) findings.error(say.calledName(item.name.text), item.name.range)
    return { type: type.type === 'text' ? UNKNOWN : type, several, settable: true }
  }

  private dialType(item: Dial): Type {
    const parts = [item.value, item.from, item.to].filter(e => e !== null)
    for (const part of parts) {
      if (numberOf(part) === null) {
        this.findings.error(say.dialLiteral(), part.range)
        return UNKNOWN
      }
    }
    const scope = this.margin()
    const type = typeOf(item.value, scope, this.findings, { condition: false })
    if (type.type !== 'quantity') return UNKNOWN
    for (const part of [item.from, item.to]) {
      if (part === null) continue
      const t = typeOf(part, scope, this.findings, { condition: false })
      if (t.type !== 'quantity') return UNKNOWN
      const figure = bareFigure(part)
      if (!sameKind(type.kind, t.kind) || (figure !== null && Number(figure) !== 0 && bareFigure(item.value) === null)) {
        this.findings.error(figure !== null ? say.whatUnit(figure, type.kind) : say.wrongKind(typeName(type), typeName(t), 'in the range of this dial'), part.range)
        return type
      }
    }
    if (item.from !== null && item.to !== null) {
      const [value, from, to] = [numberOf(item.value)!, numberOf(item.from)!, numberOf(item.to)!]
      if (from >= to) this.findings.error(say.dialTurned(), item.from.range)
      else if (value < from || value > to) {
        const unit = (item.value.tag === 'number' && item.value.unit !== null ? findUnit(item.value.unit) : undefined) ?? unitsOfKind(type.kind)[0]
        const show = (x: number) => unit === undefined ? String(x) : formatQuantity(x, unit)
        this.findings.error(say.dialRange(show(value), show(from), show(to)), item.value.range)
      }
    }
    return type
  }

  /** What names mean at the margin, where values are worked out on every tick. `known`: only these lets; all that are read where it is left out. */
  private margin(known?: readonly string[]): Scope {
    const scope: Scope = { ...this.scope(new Map(), known === undefined ? undefined : new Set(known)), tick: () => scope, onEveryTick: true }
    return scope
  }

  /** What names mean in a block: what the program names, and what the block does. */
  scope(locals: ReadonlyMap<string, Entry>, known?: ReadonlySet<string>): Scope {
    const sees = (name: string): boolean => known === undefined || known.has(name)
    const scope: Scope = {
      facts: this.facts,
      lookup: name => locals.get(name) ?? this.dials.get(name) ?? this.memories.get(name) ?? (sees(name) ? this.lets.get(name) : undefined),
      called: name => this.called(name, locals, sees),
      names: [...locals.keys(), ...this.dials.keys(), ...this.memories.keys(), ...this.lets.keys()],
      local: name => locals.has(name),
      below: (name) => {
        const at = this.later.get(name) ?? (sees(name) ? undefined : (this.lets.get(name) ?? this.functions.get(name))?.node.range)
        return at === undefined ? null : this.lineOf(at)
      },
      dial: name => locals.has(name) ? null : this.dials.get(name)?.node ?? null,
      used: (kind, name, range) => {
        if (kind === 'name') this.uses.names.add(name)
        else if (kind === 'reading') this.uses.readings.add(name)
        else if (!this.uses.heard.has(name)) this.uses.heard.set(name, range)
      },
      with: (name, entry) => this.scope(new Map([...locals, [name, entry]]), known),
      tick: () => ({ ...this.margin(), local: name => locals.has(name) }),
      onEveryTick: false,
    }
    return scope
  }

  private called(name: string, locals: ReadonlyMap<string, Entry>, sees: (name: string) => boolean): Called | undefined {
    const entry = locals.get(name) ?? this.memories.get(name)
    if (entry !== undefined && entry.several !== null) return { what: 'several', several: entry.several, type: entry.type }
    const made = sees(name) ? this.functions.get(name) : undefined
    return made === undefined ? undefined : { what: 'function', made }
  }
}

/** A `let` with parameters. What its parameters are is settled by the first call, as for routines. */
export class LetFunction {
  /** Parameters that are worked out on every tick: what is given for them may use nothing of a block. */
  readonly ofTick = new Set<string>()
  private types: readonly Type[] | null = null
  private result: Type = UNKNOWN

  constructor(readonly node: Let, private readonly margin: Scope, private readonly findings: Findings) {}

  get parameters(): readonly string[] { return this.node.parameters.map(p => p.text) }

  /** What a call with values of these types is worth; says which does not fit what an earlier call gave. */
  apply(types: readonly Type[], places: readonly Range[], findings: Findings): Type {
    if (this.types === null) this.read(types)
    types.forEach((t, i) => {
      const known = this.types![i]!
      if (t.type !== 'unknown' && known.type !== 'unknown' && typeName(t) !== typeName(known)) {
        findings.error(say.wrongKind(typeName(known), typeName(t), `for ${this.parameters[i]!} of ${this.node.name.text}`), places[i]!)
      }
    })
    return this.result
  }

  /** `used`: names that the program uses, rightly or not. */
  finish(used: ReadonlySet<string>): void {
    if (this.types !== null) return
    this.read(this.parameters.map(() => UNKNOWN))
    if (!used.has(this.node.name.text)) this.findings.warning(say.unused('function', this.node.name.text), this.node.name.range)
  }

  private read(types: readonly Type[]): void {
    this.types = types
    const entries = new Map(this.parameters.map((p, i): [string, Entry] => [p, fixed(types[i] ?? UNKNOWN)]))
    const { margin } = this
    // A function is worked out where it is called, and so may not use what only that place knows: its parameters alone.
    const scope: Scope = {
      ...margin, onEveryTick: true,
      lookup: name => entries.get(name) ?? margin.lookup(name),
      names: [...entries.keys(), ...margin.names],
      tick: () => ({ ...scope, lookup: (name) => { if (entries.has(name)) this.ofTick.add(name); return scope.lookup(name) } }),
    }
    const result = typeOf(this.node.value, scope, this.findings, { condition: false })
    if (result.type === 'text') this.findings.error(say.wrongKind('number, truth or colour', 'text', `in ${this.node.name.text}`), this.node.value.range)
    this.result = result.type === 'text' ? UNKNOWN : result
  }
}

