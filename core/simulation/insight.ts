import { namedCells } from '../program'
import type { Tape } from '../tape'
import type { Simulation } from './simulation'
import { trueSum } from './sums'

/** What a device said, and what was true. SI. */
export interface KnownReading {
  readonly device: string
  /** Place of the reading among all readings. */
  readonly reading: number
  readonly said: number
  /** What was true in that tick: what an ideal device of its kind would have read, or what its kind says. */
  readonly truth: number
  /** Seconds since the look was begun that it tells of. */
  readonly age: number
}

/** What a step of a program does to a motor, or did to a memory: by line, and the lane that it was done in. */
export interface Doing { readonly name: string, readonly lane: string, readonly line: number }

/** What no tape tells of a tick: asked of the run itself, run again as far as that. */
export interface Insight {
  readonly tick: number
  readonly known: readonly KnownReading[]
  /** What moves each motor; motors that brake are left out. */
  readonly moving: readonly Doing[]
  /** Memories that were set in this tick, by their names as the tape has them, in the order in which that happened. */
  readonly set: readonly Doing[]
}

/**
 * Runs the next tick of a simulation and tells what was behind it. null when the run is over before that. `tape`: of the same run, where
 * the simulation's own keeps no rows; what is true of sums is told as far as it goes back.
 */
export function lookInto(simulation: Simulation, tape: Tape = simulation.tape): Insight | null {
  if (simulation.end !== null) return null
  const { facts, input: { program, robot } } = simulation
  const tick = simulation.tape.rows
  const truths = simulation.truths()
  const sets = simulation.advanceWatched()
  const said = simulation.readings
  const named = new Map((program === null ? [] : namedCells(program)).map(n => [n.cell, n.name]))
  const doing = (name: string, { lane, step }: { readonly lane: number, readonly step: number }): Doing =>
    ({ name, lane: program!.lanes[lane]!.name, line: program!.steps[step]!.line })
  return {
    tick,
    known: facts.devices.flatMap(d => d.readings.flatMap((reading, i): KnownReading[] => {
      const at = d.first + i
      // What sits on a joint turns with it, too.
      const sum = d.on === null ? robot.fitted.find(f => f.name === d.name)?.kind.sums?.[reading.name] : undefined
      const truth = sum === undefined ? truths[at]! : trueSum(tape, sum, Math.max(0, simulation.resetAt(at)), tick) ?? NaN
      if (reading.hidden || Number.isNaN(truth)) return []
      // A sum is told since its reset, as the program has it.
      return [{ device: d.name, reading: at, said: sum === undefined ? said[at]! : tape.value(tick, tape.layout.readings + at), truth, age: Math.max(0, tick - simulation.lookedAt[d.first]!) * facts.tick }]
    })),
    moving: simulation.moving().map(m => doing(m.actuator, m)),
    set: sets.flatMap((s) => { const name = named.get(s.cell); return name === undefined ? [] : [doing(name, s)] }),
  }
}
