import { readFileSync } from 'node:fs'
import { checkProgram, compileProgram } from '../core/language'
import { factsOf, readRobot } from '../core/robot'

/** A program of so many lines, of modes that push, look about and come back. */
export function longProgram(length: number): string {
  const lines: string[] = ['program "Five hundred lines"', 'dial sight = 90 cm from 20 cm to 200 cm', 'memory count = 0']
  for (let i = 0; lines.length < length - 14; i++) {
    lines.push(
      `mode m${i}  # one of many`, '  start -> reset gyro.turned', `  when sonar.distance < sight - ${i % 40} cm for 0.1 s`,
      '    if bumper_left.pressed or bumper_right.pressed', '      drive 6 cm at 12 cm/s at most 2 s', '    else',
      '      set count = min(count + 1, 40)', '    drive back 28 cm', '    turn right random 45 deg to 110 deg', `    go m${i + 1}`,
      '  when gyro.turned > 370 deg -> finish "{count} seen"', '  otherwise', '    drive (sonar.distance - 10 cm) * 0.8 cm/s per cm turning right 5 deg/s', '',
    )
  }
  const last = Math.floor((lines.length - 3) / 14)
  lines.push(`mode m${last}`, '  otherwise -> halt')
  while (lines.length < length) lines.push('# to the end')
  return lines.join('\n')
}

const WARM = 150
const ROUNDS = 121

/** Milliseconds to parse, check and compile 500 lines: the median of many. */
export function parse500(): number {
  const robot = readRobot(JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')))
  if (!robot.ok) throw new Error('the demo robot')
  const facts = factsOf(robot.value)
  const text = longProgram(500)
  const times: number[] = []
  // The first rounds warm the engine up, as a few minutes of typing do.
  for (let i = 0; i < ROUNDS + WARM; i++) {
    const begin = performance.now()
    const checked = checkProgram(`${text}\n# ${i}`, facts)
    if (!checked.runs) throw new Error(checked.diagnostics[0]!.message)
    compileProgram(checked.analysis)
    if (i >= WARM) times.push(performance.now() - begin)
  }
  return times.sort((a, b) => a - b)[times.length >> 1]!
}
