import type { VmInput } from '../vm'

/**
 * What a controller is wired to, a clock among it: readings come in at the beginning of a tick, commands go out at its end. The
 * simulated robot is one; a course that was recorded is another; a board is a third.
 */
export interface Rig {
  /** What the devices say at the beginning of a tick; the arrays stay the rig's own. */
  sense(): VmInput
  /** Takes the commands that were settled in the tick: SI numbers by channel, as the robot's facts say. The array stays the controller's own. */
  obey(commands: Float64Array): void
}
