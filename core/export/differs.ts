import { checkWiring, fittedOn, type Board, type Fitted } from '../hardware'
import { WHEELS } from '../devices'
import type { ProgramData } from '../program'
import type { Robot, RobotFacts, Wiring } from '../robot'
import type { Missing } from './parts'
import type { Source } from './source'

/** What a program will do otherwise on a board than in the simulator, and in which of its lines (from 1) that is met. */
export interface Difference {
  readonly device: string
  readonly says: string
  readonly lines: readonly number[]
  /** The board has nothing of the kind, or it is not driven: it reads nothing, and what it is told is not heard. */
  readonly absent: boolean
}

/** Those that are known beforehand: devices that are missing first, then what the way in which others are connected loses. */
export function differences(program: ProgramData, source: Source, robot: Robot, board: Board, wiring: Wiring, missing: readonly Missing[]): readonly Difference[] {
  // Where it is named, and where a step moves it without its name.
  const moved = (device: string, form: string | null = null): readonly number[] =>
    program.motions.flatMap(m => m.actuators.includes(device) && (form === null || m.form === form) ? [program.steps[m.step]!.line] : [])
  const lines = (all: readonly number[]): readonly number[] => [...new Set(all)].sort((a, b) => a - b)
  const absent = missing.map((m): Difference => ({ device: m.device, says: m.why, lines: lines([...source.linesWith(m.device), ...moved(m.device)]), absent: true }))
  const fitted = fittedOn(robot)
  const lost = checkWiring(robot, board, wiring).flatMap((p): readonly Difference[] => {
    const of = fitted.find(f => f.port === p.port)
    if (p.severity !== 'note' || of === undefined || absent.some(a => a.device === of.name)) return []
    const device = deviceOf(robot, of)
    const met = robot.fitted.find(f => f.name === device)?.kind.kind === 'horn' ? moved(device, 'play') : [...source.linesWith(device), ...moved(device)]
    return met.length === 0 ? [] : [{ device, says: p.message, lines: lines(met), absent: false }]
  })
  // Two wheels lose the same.
  return [...absent, ...lost.filter((d, i) => lost.findIndex(other => other.device === d.device && other.says === d.says) === i)]
}

const deviceOf = (robot: Robot, of: Fitted): string => robot.drive !== null && robot.drive.ports.includes(of.port) ? WHEELS : of.name

/** Bytes that go over the bus for a look, addresses and all; a display is told a strip in a tick. */
const BUS_BYTES: Readonly<Record<string, number>> = { gyro: 18, color: 10, sonar: 9, tof: 21, display: 145 }
/** Seconds of a byte at 400 kHz, its answer with it. */
const BYTE = 9 / 400_000
/** Of a converter on a chip with 8 bits (13 clocks of 125 kHz, and the first one more); others are quicker. */
const CONVERTED = 0.000112
const PINGED = 0.000012

/** Seconds of a tick that the looks of some devices take, as the drivers go about them. */
export function lookTime(facts: RobotFacts, wiring: Wiring, devices: ReadonlySet<string>): number {
  return facts.devices.filter(d => devices.has(d.name)).reduce((sum, d) => {
    const by = wiring.ports[d.port]?.by
    if (by === undefined) return sum
    if (by.startsWith('bus')) return sum + (BUS_BYTES[d.kind] ?? 0) * BYTE
    return sum + (by === 'voltage' ? CONVERTED : by === 'trigger and echo' ? PINGED : 0)
  }, 0)
}
