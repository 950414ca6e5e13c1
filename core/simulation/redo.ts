import { layOut, type Arena } from '../arena'
import { channelCount, factsOf, type Robot } from '../robot'
import type { Tape } from '../tape'
import { PhysicalRig } from './physical-rig'

/**
 * What an ideal simulated robot reads at whose motors the commands of a tape come again, tick by tick, whatever it reads: rows of readings, SI, one behind
 * another, as many as the tape has. Of a tape whose first rows are not kept, from where it begins. The physics library has to be there.
 */
export function readAgain(tape: Tape, robot: Robot, arena: Arena, seed: number): Float64Array {
  const facts = factsOf(robot)
  const commands = new Float64Array(channelCount(facts))
  const rig = new PhysicalRig(robot, facts, arena, layOut(arena, seed), 'ideal', seed, commands, { touched: () => undefined, fed: () => undefined, clipped: () => undefined })
  const rows = tape.rows - tape.first
  const read = new Float64Array(rows * facts.readingCount)
  for (let tick = 0; tick < rows; tick++) {
    const time = tick * facts.tick
    rig.look(time, tick)
    read.set(rig.sense().raw, tick * facts.readingCount)
    commands.set(tape.at(tape.first + tick).subarray(tape.layout.commands, tape.layout.commands + commands.length))
    rig.move(time, tick)
  }
  rig.free()
  return read
}
