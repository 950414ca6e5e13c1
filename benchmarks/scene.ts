import { readFileSync } from 'node:fs'
import { checkProgram, compileProgram } from '../core/language'
import type { ProgramData } from '../core/program'
import { factsOf } from '../core/robot'
import { readProject, type ProjectParts } from '../core/simulation'

/** How many pieces one scatter area may have. */
const AT_ONCE = 60

/** A walled deck of 3 m with loose pieces, larger for more than thirty of them: as many on a square metre. */
export function looseArena(count: number): object {
  const side = 3 * Math.sqrt(Math.max(1, count / 30))
  const edge = { height: '20 cm', thickness: '4 cm' }
  const [low, high, middle, inner] = ['0 m', `${side} m`, `${side / 2} m`, `${side - 0.6} m`]
  return {
    mindpath: 'arena', version: 1, name: 'loose', size: [high, high],
    walls: [
      { from: [low, low], to: [high, low], ...edge }, { from: [low, high], to: [high, high], ...edge },
      { from: [low, low], to: [low, high], ...edge }, { from: [high, low], to: [high, high], ...edge },
    ],
    scatter: Array.from({ length: Math.ceil(count / AT_ONCE) }, (_, i) => ({
      kind: 'driftwood', shape: 'box', length: '14 cm', width: '8 cm', height: '8 cm', mass: '150 g', color: 'orange', count: Math.min(AT_ONCE, count - i * AT_ONCE),
      area: { at: [middle, middle], size: [inner, inner] }, apart: '15 cm',
    })),
    start: { at: ['40 cm', '40 cm'], heading: '-45 deg' },
  }
}

/** The demo robot on that deck with so many pieces that it runs into again and again. */
export function withLoose(count: number): ProjectParts {
  const read = readProject({ robot: JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')), arena: looseArena(count), task: null })
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
