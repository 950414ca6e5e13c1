import type { VmInput } from '../vm'
import type { Rig } from './rig'

/** What came in and went out in a tick. */
export interface CourseTick { readonly input: VmInput, readonly commands: readonly number[] }

/** A rig that remembers what goes through it: the course of a run, for another machine to be held against. */
export class CourseRecorder implements Rig {
  readonly course: CourseTick[] = []
  private input: VmInput | null = null

  constructor(private readonly rig: Rig) {}

  sense(): VmInput {
    const { raw, looks, began, still } = this.rig.sense()
    this.input = { raw: raw.slice(), looks: looks.slice(), began: began.slice(), still }
    return this.input
  }

  obey(commands: Float64Array): void {
    if (this.input !== null) this.course.push({ input: this.input, commands: [...commands] })
    this.rig.obey(commands)
  }
}

/** A rig that plays a course: its readings come in, whatever is commanded. Throws RangeError behind its end. */
export class CourseRig implements Rig {
  private at = 0
  /** The first tick in which something else was commanded than then; null while there was none. */
  differs: number | null = null

  constructor(private readonly course: readonly CourseTick[]) {}

  sense(): VmInput {
    const tick = this.course[this.at]
    if (tick === undefined) throw new RangeError(`the course has ${this.course.length} ticks`)
    return tick.input
  }

  obey(commands: Float64Array): void {
    const { commands: then } = this.course[this.at]!
    if (this.differs === null && then.some((x, i) => !Object.is(x, commands[i]))) this.differs = this.at
    this.at++
  }
}
