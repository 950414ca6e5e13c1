import type { Controller } from '../controller'
import { namedCells, type ProgramData } from '../program'
import { Tape, layoutOf, type Keeping } from '../tape'
import { writePose, type PhysicalRig } from './physical-rig'

/** Writes what happens onto the tape: a row a tick. */
export class Recorder {
  readonly tape: Tape
  /** Cells of what the program names. */
  private readonly named: readonly number[]

  constructor(private readonly rig: PhysicalRig, private readonly controller: Controller, private readonly program: ProgramData | null, keeping: Keeping) {
    this.named = program === null ? [] : namedCells(program).map(n => n.cell)
    this.tape = new Tape(layoutOf(
      rig.facts, program?.lanes.map(l => l.name) ?? [], program?.rules.length ?? 0,
      rig.senses.beams().map(b => b.name), rig.pieces.map(p => p.name),
      rig.world.visitors.map(v => v.name), rig.limbs.movingParts().length, this.named.length,
    ), keeping)
  }

  /** A row for this tick, once the controller has settled its commands. */
  record(): void {
    if (this.tape.keeping !== 'events') this.fill(this.controller.readings ?? this.rig.senses.raw)
    this.tape.commit()
  }

  /** How things stand before the first tick, as a row; nothing is recorded. */
  peek(): Float64Array {
    const { layout } = this.tape
    this.fill(this.rig.senses.raw)
    const row = this.tape.row.slice()
    for (let i = 0; i < layout.laneNames.length; i++) row.fill(-1, layout.lanes + 4 * i + 1, layout.lanes + 4 * i + 4)
    row.fill(0, layout.wants, layout.wants + layout.ruleCount)
    return row
  }

  private fill(readings: Float64Array): void {
    const { rig } = this
    const { row, layout } = this.tape
    row.set(readings, layout.readings)
    row.set(this.controller.commands, layout.commands)
    writePose(row, layout.body, rig.body.pose)
    const { spins } = rig
    if (spins !== null) row.set(spins, layout.wheels)
    const parts = rig.limbs.movingParts()
    for (let i = 0; i < parts.length; i++) writePose(row, layout.parts + 7 * i, parts[i]!)
    const { visitors } = rig.world
    for (let i = 0; i < visitors.length; i++) {
      const { solid } = visitors[i]!
      row[layout.visitors + 3 * i] = solid.px
      row[layout.visitors + 3 * i + 1] = solid.py
      row[layout.visitors + 3 * i + 2] = solid.pz
    }
    this.fillProgram()
    let at = layout.beams
    for (const { beam } of rig.senses.beams()) {
      row.set(beam, at)
      at += 7
    }
    row.set(rig.poses, layout.pieces)
  }

  private fillProgram(): void {
    const { controller, program, named } = this
    const { row, layout } = this.tape
    if (program === null) return
    for (let i = 0; i < layout.laneNames.length; i++) {
      const lane = controller.lane(i)
      row[layout.lanes + 4 * i] = lane.phase
      row[layout.lanes + 4 * i + 1] = lane.mode
      row[layout.lanes + 4 * i + 2] = lane.rule
      row[layout.lanes + 4 * i + 3] = lane.step
      row[layout.entered + i] = lane.entered
    }
    const { cells } = controller
    for (let i = 0; i < named.length; i++) row[layout.named + i] = cells[named[i]!]!
    row[layout.still] = this.rig.still ? 1 : 0
    const { rules } = program
    for (let i = 0; i < rules.length; i++) row[layout.wants + i] = cells[rules[i]!.wantCell]!
  }
}
