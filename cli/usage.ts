/** A call that cannot be understood: told in one line, exit code 2. */
export class UsageError extends Error {}

export interface Options {
  readonly positional: readonly string[]
  readonly flags: ReadonlySet<string>
  readonly values: ReadonlyMap<string, string>
  /** Values of options that may be given several times. */
  readonly lists: ReadonlyMap<string, readonly string[]>
}

/** Reads `--name value` and `--flag`; anything unknown is a usage error. */
export function readOptions(args: readonly string[], known: { readonly flags: readonly string[], readonly values: readonly string[], readonly lists?: readonly string[] }, usage: string): Options {
  const positional: string[] = []
  const flags = new Set<string>()
  const values = new Map<string, string>()
  const lists = new Map<string, string[]>()
  for (let i = 0; i < args.length; i++) {
    const arg = args[i]!
    if (!arg.startsWith('--')) { positional.push(arg); continue }
    if (known.flags.includes(arg)) { flags.add(arg); continue }
    const many = known.lists?.includes(arg) === true
    if (!many && !known.values.includes(arg)) throw new UsageError(`unknown option ${arg}. Usage: ${usage}`)
    const value = args[++i]
    if (value === undefined) throw new UsageError(`${arg} needs a value. Usage: ${usage}`)
    if (many) lists.set(arg, [...lists.get(arg) ?? [], value])
    else values.set(arg, value)
  }
  return { positional, flags, values, lists }
}

/** A number option within bounds; undefined when it was not given. */
export function numberOption(options: Options, name: string, low: number, high: number, whole: boolean): number | undefined {
  const text = options.values.get(name)
  if (text === undefined) return undefined
  const value = Number(text)
  if (text.trim() === '' || !Number.isFinite(value) || value < low || value > high || (whole && !Number.isInteger(value))) {
    throw new UsageError(`${name} is ${JSON.stringify(text)}; allowed is a ${whole ? 'whole ' : ''}number from ${low} to ${high}`)
  }
  return value
}
