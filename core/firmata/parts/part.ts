import type { FirmataHost } from '../host'

/** A device at the other end of a wire. */
export interface Part {
  /** Says to the board what its pins are for; what the board cannot do, in words, else null. Called again where the board began anew. */
  begin(): string | null
  /** What it reads, SI, in the order of its readings; false where nothing new came since it was asked last. Once in each of its looks. */
  look(into: Float64Array): boolean
  /** Passes on what its device is told, once a tick: the numbers of its channels. */
  tell(told: Float64Array): void
  /** Has whatever moves stand, and what shines or pulls go out. */
  rest(): void
}

/** What a part is reached by: its end of the wire, and the board's pins by their numbers. */
export interface Reached {
  readonly host: FirmataHost
  /** The number of the pin that one of its lines goes to. */
  pin(line: string): number
  /** How a person calls that pin. */
  called(line: string): string
  /** Seconds of a tick. */
  readonly tick: number
}

/** Of pins that are to be something: the first that the board cannot have so, in words. */
export function cannot(of: Reached, ...wanted: readonly (readonly [line: string, mode: number, title: string])[]): string | null {
  for (const [line, mode, title] of wanted) {
    if (!of.host.mode(of.pin(line), mode)) return `the board says that its pin ${of.called(line)} (number ${of.pin(line)}) cannot be ${title}`
  }
  return null
}
