import { WiredRobot, reachable } from '~~/core/firmata'
import { drivenBoard, unbuildable, wiringOn } from '~~/core/hardware'
import { factsOf, readRobot } from '~~/core/robot'
import type { FromSimulation, LinkState, ToSimulation } from './protocol'

/** Milliseconds between two looks at the wire, and between two tellings of how it stands. */
const OFTEN = 4
const TELLS = 250

/** The worker's end of a wire that the page holds: the real devices of the robot, for a run to ask and to tell. */
export class Link {
  /** Ticks of the run that came later than they should. */
  late = 0
  private wired: WiredRobot | null = null
  private timer: ReturnType<typeof setInterval> | null = null
  private out: number[] = []
  private toldAt = -Infinity
  private toldAs = ''
  /** Why there can be none; null where there can. */
  private refused: string | null = null
  private lastWords: Uint8Array | null = null
  private waiting: (() => void)[] = []

  constructor(private readonly post: (message: FromSimulation) => void) {}

  /** The robot's devices that are to be real from now on: all that can be reached but those that are to be simulated. */
  join({ robot: document, simulated }: Extract<ToSimulation, { type: 'join' }>): void {
    this.part()
    const read = readRobot(document)
    if (!read.ok) return this.refuse('the robot cannot be: see the Robot view')
    const robot = read.value
    const facts = factsOf(robot)
    const board = drivenBoard(robot)
    const { wiring } = wiringOn(robot, board)
    const [wrong] = unbuildable(robot, board, wiring)
    if (wrong !== undefined) return this.refuse(`its wiring cannot be built: ${wrong.message}`)
    const real = reachable(robot, facts, board, wiring).filter(d => d.why === null && !simulated.includes(d.device)).map(d => d.device)
    if (real.length === 0) return this.refuse('no device is real')
    this.wired = new WiredRobot({ robot, facts, board, wiring, real }, bytes => this.tell(bytes), () => performance.now())
    this.timer = setInterval(() => { this.pass() }, OFTEN)
    this.pass()
  }

  /** Lets go: whatever is real stands. */
  part(): void {
    this.wired?.rest()
    if (this.timer !== null) clearInterval(this.timer)
    this.timer = null
    this.wired = null
    this.refused = null
    this.lastWords = null
    this.toldAs = ''
    this.answer()
  }

  heard(bytes: Uint8Array): void { this.wired?.receive(bytes) }

  /** The real devices, once each has looked; null where there are none. */
  get robot(): WiredRobot | null { return this.wired?.stage === 'ready' ? this.wired : null }

  /** Why nothing comes of it; null while it goes well. */
  get lost(): string | null { return this.refused ?? (this.wired === null ? 'there is no wire' : this.wired.lost) }

  /** Waits until the real devices are there, or it is known that they will not be: why, else null. */
  async ready(): Promise<string | null> {
    while (this.robot === null && this.lost === null) await new Promise<void>((resolve) => { this.waiting.push(resolve) })
    return this.lost
  }

  private refuse(why: string): void {
    this.refused = why
    this.say()
    this.answer()
  }

  private answer(): void {
    const waiting = this.waiting
    this.waiting = []
    for (const go of waiting) go()
  }

  /** Bytes for the board: those of one moment together. */
  private tell(bytes: readonly number[]): void {
    if (this.out.length === 0) {
      queueMicrotask(() => {
        const all = Uint8Array.from(this.out)
        this.out = []
        this.post({ type: 'tell', bytes: all })
      })
    }
    this.out.push(...bytes)
  }

  private pass(): void {
    const { wired } = this
    if (wired === null) return
    wired.pass()
    if (wired.stage === 'ready' && this.lastWords === null) this.lastWords = Uint8Array.from(wired.lastWords())
    if (wired.stage === 'ready' || wired.lost !== null) this.answer()
    this.say()
  }

  /** How it stands, where that is something new; figures that always change a few times a second. */
  private say(): void {
    const { wired, lost } = this
    const stage = lost !== null ? 'lost' : wired!.stage
    const [board, restarts] = [wired?.host.name ?? '', wired?.restarts ?? 0]
    const now = performance.now()
    const as = `${stage} ${board} ${restarts} ${this.lastWords !== null}`
    if (as === this.toldAs && now - this.toldAt < TELLS) return
    this.toldAs = as
    this.toldAt = now
    const link: LinkState = {
      stage, board, why: lost, waiting: wired?.waiting ?? [], real: wired?.devices ?? [], roundTrip: wired?.host.roundTrip ?? null, volts: wired?.volts ?? {}, restarts, late: this.late, lastWords: this.lastWords,
    }
    this.post({ type: 'link', link })
  }
}
