import { WireError, findPorts, openWire, type Wire } from '../../wires'
import { endsWithServer } from '../utils/streams'

/** Wires of this machine that pages may use: its serial ports, and what was named when the server was started. Nothing else is opened. */

/** What was named when the server was started. */
const named = (): readonly string[] => (process.env['MINDPATH_WIRES'] ?? '').split(',').filter(a => a !== '')

export interface Wires {
  /** Their addresses, and what is known of each. */
  readonly wires: readonly { readonly address: string, readonly title: string }[]
  /** Why serial ports are not among them; null where they are. */
  readonly without: string | null
}

/** The wires that there are now. */
export async function wiresNow(): Promise<Wires> {
  const ports = await findPorts()
  const others = named().filter(a => ports?.some(p => p.address === a) !== true)
  return {
    wires: [...ports ?? [], ...others.map(address => ({ address, title: 'named at the start' }))],
    without: ports === null ? 'serial ports cannot be listed here: udevadm is missing. Name one at the start: ./mindpath start --wire /dev/ttyACM0' : null,
  }
}

/** Who uses a wire: hears what comes, and that it ended. */
export interface WireUser {
  heard(bytes: Uint8Array): void
  gone(why: string): void
}

const taken = new Set<string>()

/** A wire in use by one page. When it is let go, or this server ends, the last words that were left with it go out before it is closed. */
export class UsedWire {
  /** What is sent last; nothing where nobody left any. */
  lastWords = new Uint8Array(0)
  private wire: Wire | null = null
  /** Whether it is this one that has the wire taken, and whether nobody is at this end any more. */
  private holds = false
  private over = false
  private readonly done: () => void

  constructor(private readonly address: string, private readonly user: WireUser) { this.done = endsWithServer(() => this.letGo()) }

  /** Opens it. Throws WireError where it may not be used, is in use, or cannot be opened. */
  async open(baud: number): Promise<void> {
    try {
      const { wires } = await wiresNow()
      if (!wires.some(w => w.address === this.address)) throw new WireError(`${this.address} is none of this machine's wires; there are ${wires.map(w => w.address).join(', ') || 'none'}`)
      if (taken.has(this.address)) throw new WireError(`${this.address} is in use by another page`)
      taken.add(this.address)
      this.holds = true
      this.wire = await openWire(this.address, baud, { heard: (bytes) => { this.user.heard(bytes) }, gone: (why) => { this.ended(); this.user.gone(why) } })
      // The page has gone meanwhile.
      if (this.over) { await this.wire.close(); this.ended() }
    } catch (error) {
      this.ended()
      throw error
    }
  }

  send(bytes: Uint8Array): void { this.wire?.send(bytes) }

  /** Says the last words and closes it; resolves once they are out. What is still being opened is closed as soon as it is. */
  async letGo(): Promise<void> {
    const { wire, lastWords } = this
    if (this.over) return
    this.over = true
    if (wire === null) return
    if (lastWords.length > 0) wire.send(lastWords)
    await wire.close()
    this.ended()
  }

  private ended(): void {
    this.over = true
    this.wire = null
    if (this.holds) taken.delete(this.address)
    this.holds = false
    this.done()
  }
}
