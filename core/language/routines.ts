import type { RobotFacts } from '../robot'
import { rewritten } from './nodes'
import type { Do, Expression, Name, Routine } from './tree'
import type { Type } from './types'

/**
 * The routines of a program as they are done. One that is given devices is made anew for each: with the devices' names in the
 * place of its parameters. What its other parameters are is settled by the first step that does it.
 */
export class Routines {
  /** By name, and by the devices that it is given. */
  private readonly made = new Map<string, Routine>()
  private readonly types = new Map<Routine, readonly Type[]>()
  private readonly done = new Map<Do, { readonly routine: Routine, readonly values: readonly Expression[] }>()

  constructor(private readonly written: ReadonlyMap<string, Routine>, private readonly facts: RobotFacts) {}

  /** Every routine that is done, or read where none does it. */
  get all(): readonly Routine[] { return [...this.types.keys()] }

  /** The routine that a step does, once it was read; undefined where it was wrong. */
  of(step: Do): Routine | undefined { return this.done.get(step)?.routine }

  /** What a step gives for the parameters that are no devices. */
  valuesOf(step: Do): readonly Expression[] { return this.done.get(step)?.values ?? [] }

  /** The types of a routine's parameters; none before they are settled. */
  typesOf(routine: Routine): readonly Type[] { return this.types.get(routine) ?? [] }

  /** Settles what the parameters of a routine are, unless that is settled; what it is. */
  settle(routine: Routine, types: readonly Type[]): readonly Type[] {
    const known = this.types.get(routine)
    if (known !== undefined) return known
    this.types.set(routine, types)
    return types
  }

  /** Routines that no step does. */
  undone(): readonly Routine[] {
    const names = new Set([...this.types.keys()].map(r => r.name.text))
    return [...this.written.values()].filter(r => !names.has(r.name.text))
  }

  /** The routine that a step does with what it gives. `named`: whether a word names a value there, and so no device. */
  doneBy(step: Do, written: Routine, named: (word: string) => boolean): Routine {
    const devices = new Map<string, string>()
    step.given.forEach((e, i) => {
      if (e.tag === 'name' && !named(e.name) && this.facts.devices.some(d => d.name === e.name)) devices.set(written.parameters[i]!.text, e.name)
    })
    const key = [written.name.text, ...[...devices].flat()].join(' ')
    let routine = this.made.get(key)
    if (routine === undefined) {
      routine = devices.size === 0 ? written : { ...withDevices(written, devices), parameters: written.parameters.filter(p => !devices.has(p.text)) }
      this.made.set(key, routine)
    }
    this.done.set(step, { routine, values: step.given.filter((_, i) => !devices.has(written.parameters[i]!.text)) })
    return routine
  }
}

/** A routine with devices' names in the place of parameters: where a step or a reading names its device, and where it is passed on. */
function withDevices<T>(part: T, devices: ReadonlyMap<string, string>): T {
  return rewritten(part, (node) => {
    const { tag, name, device, word, value } = node as { tag?: string, name?: unknown, device?: Name, word?: string | null, value?: unknown }
    if (tag === 'name' && devices.has(name as string)) return { ...node, name: devices.get(name as string) }
    if (tag === 'reading' && devices.has(device!.text)) return { ...withDevices({ ...node, tag: '' }, devices), tag, device: { ...device, text: devices.get(device!.text) } }
    return word != null && value === null && devices.has(word) ? { ...node, word: devices.get(word) } : null
  })
}
