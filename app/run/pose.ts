import { FirmataBoard, RobotPins } from '~~/core/firmata'
import { drivenBoard, wiringOn } from '~~/core/hardware'
import type { Poke, Simulation } from '~~/core/simulation'

/** The run's robot as a board that speaks Firmata, for a client at the other end of a wire: pins that it reads and sets. */
export class Pose {
  private readonly pins: RobotPins
  private readonly board: FirmataBoard
  private gone = false

  constructor(private readonly simulation: Simulation, send: (bytes: readonly number[]) => void) {
    const { input: { robot }, facts } = simulation
    const board = drivenBoard(robot)
    this.pins = new RobotPins(robot, facts, board, wiringOn(robot, board).wiring)
    this.pins.read(simulation.readings)
    this.board = new FirmataBoard(this.pins, robot.name, send)
    this.board.greet()
  }

  heard(bytes: Uint8Array): void { this.board.receive(bytes) }

  /** The client has gone: what moves is told to stop, and the run ends with the next tick. */
  left(): void {
    this.board.reset()
    this.gone = true
  }

  /** What was told since the tick before, as hands in the run. */
  told(): readonly Poke[] {
    return [...this.pins.taken().map((t): Poke => ({ poke: 'tell', ...t })), ...this.gone ? [{ poke: 'end', why: 'the client has gone' } as const] : []]
  }

  /** A tick was run: what is read in it stands at the pins, and reports that are due go out. */
  after(): void {
    this.pins.read(this.simulation.readings)
    this.board.pass(this.simulation.facts.tick * 1000)
  }
}
