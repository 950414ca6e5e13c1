import type { EveryTick, ProgramData, ShownAs } from './format'

/** A cell that people know by a name: what is shown while a program runs, and kept on the tape. */
export interface NamedCell {
  readonly name: string
  readonly cell: number
  readonly shown: ShownAs
  readonly what: 'dial' | 'memory' | 'let' | 'followed'
  /** Of one of a memory's values: the memory. */
  readonly of: string | null
  /** The cell holds the tick in which something was true last, -1 for never; people see how long ago that was. */
  readonly ago: boolean
}

/** Dials, memories (each of their values), named values and what is followed over time, in this order. */
export function namedCells(program: ProgramData): readonly NamedCell[] {
  return [
    ...program.dials.map(({ name, cell, kind, share }): NamedCell => ({ name, cell, shown: { type: 'quantity', kind, share }, what: 'dial', of: null, ago: false })),
    ...program.memories.flatMap(({ name, cell, count, per, shown }) => Array.from({ length: count }, (_, i): NamedCell => ({
      name: per === null ? name : `${name}(${per === 'color' ? program.colors[i] ?? String(i) : String(i + 1)})`, cell: cell + i, shown, what: 'memory', of: per === null ? null : name, ago: false,
    }))),
    ...program.everyTick.map(({ name, cell, shown, does }): NamedCell => ({ name, cell, shown, what: does === 'let' ? 'let' : 'followed', of: null, ago: does === 'since' })),
  ]
}

/** What a named cell is worth in a tick, in SI; infinite for what never was. */
export function namedValue(named: NamedCell, held: number, tick: number, dt: number): number {
  return !named.ago ? held : held < 0 ? Infinity : (tick - held) * dt
}

/** How many cells something that is worked out on every tick has, its own among them. */
export function cellsOf(what: EveryTick): number {
  return 1 + ('most' in what ? 1 + what.most : what.does === 'rate' ? 2 + what.devices.length : 0)
}
