import { channelCount, type RobotFacts } from '../robot'

/**
 * What stands where in a row of the tape. A row is one tick: all numbers are SI, poses are
 * x y z and a quaternion.
 */
export interface TapeLayout {
  readonly width: number
  /** Seconds per row. */
  readonly dt: number
  /** First column of the readings, in the order of the robot's facts. */
  readonly readings: number
  readonly commands: number
  /** Seven numbers. */
  readonly body: number
  /** Angle of the left and the right wheel. */
  readonly wheels: number
  /** Four numbers a lane: phase, mode, rule in control, step. */
  readonly lanes: number
  /** Seven numbers per device that has a beam: origin, end, met. */
  readonly beams: number
  readonly beamDevices: readonly string[]
  /** Seven numbers a loose piece. */
  readonly pieces: number
  readonly pieceNames: readonly string[]
  /** Seven numbers for each of the robot's parts that can move against its chassis. */
  readonly parts: number
  readonly partCount: number
  /** Three numbers a visitor. */
  readonly visitors: number
  readonly visitorNames: readonly string[]
  readonly laneNames: readonly string[]
  /** The tick in which each lane entered its mode. */
  readonly entered: number
  /** Dials, then memories, in the order of the program. */
  readonly named: number
  /** Whether the robot was still, 1 or 0. */
  readonly still: number
  /** `wants` of every rule, 1 or 0. */
  readonly wants: number
  readonly ruleCount: number
}

export function layoutOf(facts: RobotFacts, laneNames: readonly string[], ruleCount: number, beamDevices: readonly string[], pieceNames: readonly string[], visitorNames: readonly string[], partCount: number, namedCount = 0): TapeLayout {
  let width = 0
  const take = (n: number): number => { width += n; return width - n }
  const layout = {
    readings: take(facts.readingCount),
    commands: take(channelCount(facts)),
    body: take(7),
    wheels: take(2),
    lanes: take(4 * laneNames.length),
    entered: take(laneNames.length),
    named: take(namedCount),
    still: take(1),
    wants: take(ruleCount),
    beams: take(7 * beamDevices.length),
    pieces: take(7 * pieceNames.length),
    parts: take(7 * partCount),
    visitors: take(3 * visitorNames.length),
  }
  return { ...layout, width, dt: facts.tick, beamDevices, pieceNames, visitorNames, partCount, laneNames, ruleCount }
}
