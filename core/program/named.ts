import type { EveryTick, ProgramData, ShownAs } from './format'

/** A cell that people know by a name: what is shown while a program runs, and kept on the tape. */
export interface NamedCell { readonly name: string, readonly cell: number, readonly shown: ShownAs }

/** Dials, memories (each of their values), named values and what is followed over time, in this order. */
export function namedCells(program: ProgramData): readonly NamedCell[] {
  return [
    ...program.dials.map(({ name, cell, kind, share }): NamedCell => ({ name, cell, shown: { type: 'quantity', kind, share } })),
    ...program.memories.flatMap(({ name, cell, count, per, shown }) => Array.from({ length: count }, (_, i): NamedCell => ({
      name: per === null ? name : `${name}(${per === 'color' ? program.colors[i] ?? String(i) : String(i + 1)})`, cell: cell + i, shown,
    }))),
    ...program.everyTick.map(({ name, cell, shown }): NamedCell => ({ name, cell, shown })),
  ]
}

/** How many cells something that is worked out on every tick has, its own among them. */
export function cellsOf(what: EveryTick): number {
  return 1 + ('most' in what ? 1 + what.most : what.does === 'rate' ? 2 + what.devices.length : 0)
}
