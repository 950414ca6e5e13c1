import type { ProgramData, Value } from '../program'

/** Gives names of a program such as another language takes, each once. `taken`: words that it keeps for itself; `noCapitals`: and all names in capitals alone. */
export class Names {
  private readonly used: Set<string>

  constructor(taken: Iterable<string>, private readonly noCapitals = false) { this.used = new Set(taken) }

  /** One that nothing else has: as it is wished, or that with a sign or a number behind. */
  make(wish: string): string {
    const plain = wish.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^_+|_+$/g, '').replace(/^(?=\d)/, 'n')
    const base = plain === '' ? 'it' : this.noCapitals && plain === plain.toUpperCase() ? plain.toLowerCase() : plain
    let name = base
    for (let i = 2; this.used.has(name); i++) name = `${base}_${i}`
    this.used.add(name)
    return name
  }
}

/** Every expression in a program, with those inside it. */
export function* valuesIn(data: unknown): Generator<Value> {
  if (typeof data !== 'object' || data === null) return
  if ('is' in data) yield data as Value
  for (const part of Object.values(data)) yield* valuesIn(part)
}

/** What each cell is called that a program names: dials, memories (their first), named values, parameters; the others are its own affair. */
export function cellNames(program: ProgramData): ReadonlyMap<number, string> {
  const names = new Map<number, string>()
  for (const { cell, name } of [...program.dials, ...program.memories]) names.set(cell, name)
  for (const what of program.everyTick) if (what.does === 'let') names.set(what.cell, what.name)
  const followed = new Set(program.everyTick.map(e => e.cell))
  const drawn = new Set(program.code.flatMap(op => 'draws' in op ? op.draws.map(d => d.cell) : []))
  for (const v of valuesIn([program.everyTick, program.rules, program.code, program.motions])) {
    if (v.is === 'cell' && !names.has(v.cell) && !followed.has(v.cell) && !drawn.has(v.cell)) names.set(v.cell, v.name)
  }
  return names
}
