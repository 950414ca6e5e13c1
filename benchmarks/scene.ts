import { readFileSync } from 'node:fs'
import { checkProgram, compileProgram } from '../core/language'
import type { ProgramData } from '../core/program'
import { factsOf } from '../core/robot'
import { readProject, type ProjectParts } from '../core/simulation'

/** A walled deck with loose pieces. */
export function looseArena(count: number): object {
  const edge = { height: '20 cm', thickness: '4 cm' }
  return {
    mindpath: 'arena', version: 1, name: 'loose', size: ['3 m', '3 m'],
    walls: [
      { from: ['0 m', '0 m'], to: ['3 m', '0 m'], ...edge }, { from: ['0 m', '3 m'], to: ['3 m', '3 m'], ...edge },
      { from: ['0 m', '0 m'], to: ['0 m', '3 m'], ...edge }, { from: ['3 m', '0 m'], to: ['3 m', '3 m'], ...edge },
    ],
    scatter: [{
      kind: 'driftwood', shape: 'box', length: '14 cm', width: '8 cm', height: '8 cm', mass: '150 g', color: 'orange', count,
      area: { at: ['1.5 m', '1.5 m'], size: ['2.4 m', '2.4 m'] }, apart: '15 cm',
    }],
    start: { at: ['40 cm', '40 cm'], heading: '-45 deg' },
  }
}

/** The demo robot on that deck with twelve pieces that it runs into again and again. */
export function twelveLoose(): ProjectParts {
  const read = readProject({ robot: JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')), arena: looseArena(12), task: null })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

/** Pushes what it meets, and turns away where it cannot go on. */
export const PUSHER = `dial sight = 60 cm
memory pushes = 0

when wheels.stalled for 0.2 s
  drive back 15 cm at most 2 s
  turn right random 60 deg to 160 deg
when bumper_left.pressed and not bumper_right.pressed
  wheels left 45 % right 30 % for 0.4 s
when bumper_right.pressed and not bumper_left.pressed
  wheels left 30 % right 45 % for 0.4 s
when sonar.distance < sight for 0.1 s
  set pushes = pushes + 1
  drive 30 cm/s for 1.5 s
  drive back 10 cm
  turn left random 20 deg to 90 deg
otherwise
  drive 25 cm/s turning right 20 deg/s
`

export function pusher(parts: ProjectParts): ProgramData {
  const checked = checkProgram(PUSHER, factsOf(parts.robot))
  if (!checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  return compileProgram(checked.analysis)
}
