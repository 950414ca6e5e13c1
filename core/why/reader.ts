import { ExpressionLowerer, Findings, expr, typeOf, type Analysis, type Names, type Tree } from '../language'
import { namedCells, valueText, type ProgramData } from '../program'
import type { TapeEvent, TapeLayout } from '../tape'
import { ValueLoader, type Machine } from '../vm'

/** A tape as this question reads it. */
export interface WhyTape {
  /** The first tick that it has. */
  readonly first: number
  readonly rows: number
  readonly layout: TapeLayout
  readonly events: readonly TapeEvent[]
  at(tick: number): Float64Array
}

/** Works out expressions on rows of a tape. */
export class TapeReader {
  private readonly lower: ExpressionLowerer
  private readonly values: ValueLoader
  private readonly machine: Machine & { row: Float64Array }
  private readonly names: Names
  private now = 0
  /** The mode, or lane without modes, whose conditions are asked: sums over time are its own. */
  owner = ''

  constructor(private readonly analysis: Analysis, program: ProgramData, private readonly tape: WhyTape, private readonly lane: number) {
    this.lower = new ExpressionLowerer(analysis)
    this.values = new ValueLoader(analysis.facts, program.colors)
    const { layout } = tape
    const kept = namedCells(program)
    const named = kept.map(n => n.name)
    // The first of a memory's values stands for it.
    const several = new Map(program.memories.map(m => [m.name, kept.findIndex(n => n.cell === m.cell)]))
    const signals: string[] = []
    // A machine that only tells what the tape has: expressions ask nothing else of it.
    const reader = this as TapeReader
    const { facts } = analysis
    const readings = new Float64Array(facts.readingCount)
    const cells = new Float64Array(named.length)
    const machine = {
      row: new Float64Array(0), readings, raw: readings, cells, dt: layout.dt,
      get tick() { return reader.now },
      get still() { return machine.row[layout.still] === 1 },
      modeEntered: () => machine.row[layout.entered + lane]!,
      // A signal is heard in the tick after it was sent.
      heard: (signal: number) => tape.events.some(e => e.type === 'signal' && e.tick === reader.now - 1 && e.text === signals[signal]),
      fail: () => undefined,
    }
    this.machine = machine as unknown as Machine & { row: Float64Array }
    this.names = {
      scope: analysis.scope(new Map()),
      cell: (name) => { const i = several.get(name) ?? named.indexOf(name); return i === -1 ? undefined : i },
      timer: () => 0,
      signal: (name) => { const i = signals.indexOf(name); return i === -1 ? signals.push(name) - 1 : i },
      step: 0,
      // What is followed over time is on the tape by its name; what no tick has followed is nothing.
      follow: (name) => Math.max(0, named.indexOf(this.owner !== '' && named.includes(`${name} in ${this.owner}`) ? `${name} in ${this.owner}` : name)),
    }
  }

  /** To a tick: what is asked next is asked of it. */
  go(tick: number): void {
    const { layout } = this.tape
    this.now = tick
    this.machine.row = this.tape.at(tick)
    this.machine.readings.set(this.machine.row.subarray(layout.readings, layout.readings + this.machine.readings.length))
    this.machine.cells.set(this.machine.row.subarray(layout.named, layout.named + this.machine.cells.length))
  }

  /** The tick in which the lane entered its mode. */
  get entered(): number { return this.machine.modeEntered() }

  /** A number in SI, at the tick gone to. */
  number(e: Tree.Expression): number { return this.values.number(this.lower.number(e, this.names))(this.machine) }

  /** A truth that can be asked at each tick gone to. `above`: it is of a rule above all modes, whose timers run on across them. */
  truth(e: Tree.Expression, above: boolean): () => boolean {
    switch (e.tag) {
      case 'bracket': return this.truth(e.inner, above)
      case 'not': { const of = this.truth(e.of, above); return () => !of() }
      case 'logic': {
        const parts = e.operands.map(o => this.truth(o, above))
        return e.operator === 'and' ? () => parts.every(p => p()) : () => parts.some(p => p())
      }
      // The tape has no timers, but they count from a tick that it has: true once every so often after it.
      case 'every': {
        const time = this.values.number(this.lower.number(e.time, this.names))
        return () => {
          const since = this.now - (above ? this.firstEntered() : this.entered)
          return since > 0 && since % ticksOf(time(this.machine), this.machine.dt) === 0
        }
      }
      default: {
        const truth = this.values.truth(this.lower.truth(e, this.names))
        return () => truth(this.machine)
      }
    }
  }

  private first: number | null = null
  /** The tick in which the lane first entered a mode. */
  private firstEntered(): number {
    if (this.first !== null) return this.first
    const { layout } = this.tape
    for (let tick = this.tape.first; tick <= this.now; tick++) if (this.tape.at(tick)[layout.lanes + 4 * this.lane + 1]! >= 0) return this.first = tick
    return this.now
  }

  /** What a value is, as people read it, at each tick gone to. */
  valueOf(e: Tree.Expression): () => string {
    const number = this.values.number(this.lower.compared(e, this.names))
    const type = typeOf(e, this.names.scope, new Findings(), { condition: true })
    return () => valueText(number(this.machine), type, this.analysis.facts.colors)
  }

  value(e: Tree.Expression): { text: string, value: string, number: number } {
    // No echo stays what it is in a comparison.
    const number = this.values.number(this.lower.compared(e, this.names))(this.machine)
    return { text: expr(e), value: this.written(e, number), number }
  }

  written(e: Tree.Expression, value: number): string {
    return valueText(value, typeOf(e, this.names.scope, new Findings(), { condition: true }), this.analysis.facts.colors)
  }
}

/** Whole ticks that a time takes, at least one. */
function ticksOf(time: number, dt: number): number { return Math.max(1, Math.ceil(time / dt - 1e-9)) }
