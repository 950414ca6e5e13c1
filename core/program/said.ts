import { namedCells } from './named'
import type { LaneData, ProgramData, RuleData } from './format'

/** What a stretch of a program says, without its places: the same for the same, wherever it stands and whatever its cells are numbered. */
export interface Said {
  readonly text: string
  /** Its own cells and motions, in the order in which they are met. */
  readonly cells: readonly number[]
  readonly motions: readonly number[]
  readonly steps: readonly number[]
}

/** A condition with its timers, and steps: each may stay what it was while the other changes. */
export interface RuleSaid { readonly rule: RuleData, readonly condition: Said, readonly body: Said }

/** Fields that number a cell, and those that number a place in the code. */
const CELLS: ReadonlySet<string> = new Set(['cell', 'ends', 'deadline', 'edge', 'into'])
const PLACES: ReadonlySet<string> = new Set(['to', 'no', 'exit', 'late'])

/** Reads what parts of a program say. */
export class SaidReader {
  private readonly names = new Map<number, string>()
  /** Where a stretch of the code begins, in order. */
  private readonly starts: readonly number[]
  private readonly kept = new Map<number, Said>()
  private text = ''
  private cells: number[] = []
  private motions: number[] = []
  private steps: number[] = []
  private base = 0
  private firstMotion = -1

  constructor(private readonly program: ProgramData) {
    for (const { name, cell } of namedCells(program)) this.names.set(cell, name)
    this.starts = [...new Set([...program.lanes.flatMap(l => [l.start, ...l.modes.map(m => m.start)]), ...program.rules.map(r => r.body), program.code.length])].filter(s => s !== -1).sort((a, b) => a - b)
  }

  rule(rule: RuleData): RuleSaid {
    this.begin(0)
    this.put('when', rule.when)
    this.put('until', rule.until)
    this.text += `${rule.once} ${rule.moments}`
    for (const cell of [rule.wantCell, rule.latch, rule.doneCell]) this.cell(cell)
    return { rule, condition: this.said(), body: this.code(rule.body) }
  }

  /** The stretch of code that begins there; nothing for -1. */
  code(start: number): Said {
    let said = this.kept.get(start)
    if (said === undefined) {
      this.begin(start)
      if (start !== -1) for (let at = start; at < this.starts.find(s => s > start)!; at++) this.put('op', this.program.code[at])
      said = this.said()
      this.kept.set(start, said)
    }
    return said
  }

  private begin(base: number): void {
    this.text = ''
    this.cells = []
    this.motions = []
    this.steps = []
    this.base = base
    this.firstMotion = -1
  }

  private said(): Said { return { text: this.text, cells: this.cells, motions: this.motions, steps: this.steps } }

  private cell(cell: number): void {
    const name = this.names.get(cell)
    if (name !== undefined) { this.text += `@${name} `; return }
    let at = this.cells.indexOf(cell)
    if (at === -1) at = this.cells.push(cell) - 1
    this.text += `#${at} `
  }

  private numbered(sign: string, number: number, list: number[]): void {
    let at = list.indexOf(number)
    if (at === -1) at = list.push(number) - 1
    this.text += `${sign}${at} `
  }

  private put(key: string, value: unknown): void {
    if (key === 'range' || value === undefined) return
    if (Array.isArray(value)) {
      this.text += `${key}[`
      for (const one of value as unknown[]) {
        if (key === 'timers') this.cell(one as number)
        else this.put('', one)
      }
      this.text += ']'
      return
    }
    if (typeof value === 'object' && value !== null) { this.node(key, value); return }
    this.text += `${key}:`
    if (typeof value !== 'number') this.text += `${JSON.stringify(value)} `
    else if (CELLS.has(key)) this.cell(value)
    else if (PLACES.has(key)) this.text += `+${value - this.base} `
    else if (key === 'signal') this.text += `${this.program.signals[value]!} `
    else if (key === 'step') this.numbered('s', value, this.steps)
    else this.text += `${value} `
  }

  private node(key: string, node: object): void {
    this.text += `${key}{`
    const op = 'op' in node ? node.op : null
    for (const [name, value] of Object.entries(node)) {
      if ((op === 'round' || op === 'each') && name === 'end') this.text += `+${(value as number) - this.base} `
      else if (op === 'go' && name === 'mode') this.text += `${this.modeName(value as number)} `
      else if (name === 'motion') this.motion(value as number)
      // Guards: motions among those of this stretch.
      else if ('exit' in node && (name === 'first' || name === 'end')) this.text += this.firstMotion === -1 ? '- ' : `m${(value as number) - this.firstMotion} `
      else this.put(name, value)
    }
    if ('is' in node && node.is === 'for' && 'devices' in node && 'cell' in node) (node.devices as unknown[]).forEach((_, i) => this.cell((node.cell as number) + 1 + i))
    this.text += '}'
  }

  private modeName(mode: number): string {
    const lane = this.program.lanes.find(l => this.within(l))
    return lane?.modes[mode]?.name ?? String(mode)
  }

  /** Whether the stretch at work belongs to a lane. */
  private within(lane: LaneData): boolean {
    const { base } = this
    return lane.start === base || lane.modes.some(m => m.start === base || m.rules.some(n => this.program.rules[n]!.body === base)) || lane.above.some(n => this.program.rules[n]!.body === base)
  }

  private motion(number: number): void {
    const { form, slots, at, cells, actuators, step } = this.program.motions[number]!
    if (this.firstMotion === -1) this.firstMotion = number
    this.numbered('m', number, this.motions)
    this.text += `${form} ${actuators.join(',')} `
    this.put('slots', slots)
    for (let i = 0; i < cells; i++) this.cell(at + i)
    this.numbered('s', step, this.steps)
  }
}
