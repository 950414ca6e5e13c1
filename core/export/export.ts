import { checkWiring, wiredPorts, wiringPlan, type Board } from '../hardware'
import { checkProgram, compileProgram, type Diagnostic } from '../language'
import type { ProgramData } from '../program'
import { factsOf, type Robot, type RobotFacts, type Wiring } from '../robot'
import { differences, lookTime, type Difference } from './differs'
import { lineText } from './lines'
import { Source } from './source'
import * as arduino from './arduino'
import * as python from './micropython'
import { needsOn, type Need, type Takes } from './needs'
import type { Parts } from './parts'
import type { WrittenProgram } from './written'

/** Languages that programs are carried to. */
export type Carried = 'micropython' | 'arduino'

export const CARRIED: readonly Carried[] = ['micropython', 'arduino']

/** What an export is made of; all of it has been read. `seed`: what the program draws by. */
export interface ExportInputs { readonly text: string, readonly robot: Robot, readonly board: Board, readonly wiring: Wiring, readonly seed: number }

export type Exported =
  /** What each file is called, and what stands in it; `needs`: what it takes of the board. */
  | { readonly ok: true, readonly files: Readonly<Record<string, string>>, readonly differs: readonly Difference[], readonly needs: readonly Need[] }
  /** `diagnostics`: why the program cannot run; empty where it can and something else is in the way. */
  | { readonly ok: false, readonly says: string, readonly diagnostics: readonly Diagnostic[] }

/** What a language makes of a program, and of a robot's parts. */
interface Target {
  write(program: ProgramData, facts: RobotFacts, text: string, seed: number): WrittenProgram
  parts(robot: Robot, facts: RobotFacts, board: Board, wiring: Wiring, made: WrittenProgram): Parts
  runtime(facts: RobotFacts, code: string): string
  /** What each file is called, and what stands in it. */
  files(robot: Robot, program: string, hardware: string, runtime: string): Readonly<Record<string, string>>
  /** What a program and its files take of a board. `tick`: s. */
  takes(files: Readonly<Record<string, string>>, program: ProgramData, tick: number): Takes
  /** How it gets onto a board, step by step, behind the wiring. */
  steps(robot: Robot): readonly string[]
  /** Which file is what. */
  readonly about: string
  /** What of a part is to be known, by what stands in the file of the parts. */
  readonly notes: readonly (readonly [part: string, note: string])[]
}

const WHITE_PAPER = 'A colour sensor has to be told what it counts over white paper, as it is mounted'

const TARGETS: Readonly<Record<Carried, Target>> = {
  micropython: {
    write: python.toMicroPython, parts: python.partsIn, runtime: python.runtimeFor,
    files: (robot, program, hardware, runtime) => ({
      'main.py': `# Runs ${robot.name}. With \`report.wanted = True\` it tells all that it reads and does, a line for each tick.\nfrom hardware import parts, run\n\nrun(parts)\n`,
      'program.py': program, 'hardware.py': hardware, 'mindpath.py': runtime,
    }),
    steps: () => [
      'Put MicroPython on the board, as its maker describes.',
      'Copy the four `.py` files to it, with `mpremote cp *.py :` or the file view of an editor for MicroPython.',
      'Put the robot on a stand, its wheels in the air, and reset the board. `main.py` begins by itself; `Ctrl-C` on its serial line stops it and its motors.',
    ],
    takes: python.takesOf,
    about: '`program.py` is the program, a function for each rule; `hardware.py` says how its parts are connected; `mindpath.py` is what the words of the program mean.',
    notes: [['ColorChip(', `${WHITE_PAPER}: \`white\` in \`hardware.py\`.`], ['TextDisplay(', 'A display shows sixteen letters a line, and of a picture its name.']],
  },
  arduino: {
    write: arduino.toArduino, parts: arduino.partsIn, runtime: arduino.runtimeFor,
    files: (robot, program, hardware, runtime) => ({
      [`${robot.name}/${robot.name}.ino`]: `// Runs ${robot.name}. On its serial line (115200 a second) \`s\` stops it, and \`r\` begins and ends a line for each tick of all that it reads and does.\n#include "hardware.h"\n\nvoid setup() { begin_robot(); }\n\nvoid loop() { run_robot(); }\n`,
      [`${robot.name}/program.h`]: program, [`${robot.name}/hardware.h`]: hardware, [`${robot.name}/mindpath.h`]: runtime,
    }),
    steps: robot => [
      `Open \`${robot.name}/${robot.name}.ino\` in an editor for such boards, or compile the folder \`${robot.name}\` with its command line. Nothing but the boards' own library is needed.`,
      'Upload it, the battery of the motors off.',
      'Put the robot on a stand, its wheels in the air, and reset the board. It begins by itself; `s` on its serial line (115200 a second) stops it and its motors, `r` begins and ends a line for each tick.',
    ],
    takes: (files, program, tick) => ({ ...arduino.needsOf(files), besides: arduino.CALLS, why: 'for its calls', cycles: arduino.cyclesOf(program, tick) }),
    about: '`program.h` is the program, a function for each rule; `hardware.h` says how its parts are connected; `mindpath.h` is what the words of the program mean.',
    notes: [['TextDisplay ', 'Of a picture a display shows its name.'], ['ColorChip ', `${WHITE_PAPER}: \`WHITE\` in \`hardware.h\`.`], ['TEXT_ROOM', 'A note is cut behind 80 letters.']],
  },
}

/** A program as files for a board, in the language that it is programmed in. */
export function exportTo(language: Carried, { text, robot, board, wiring, seed }: ExportInputs): Exported {
  const facts = factsOf(robot)
  const { runs, diagnostics, analysis } = checkProgram(text, facts)
  if (!runs) return { ok: false, says: 'the program cannot run', diagnostics }
  const wrong = checkWiring(robot, board, wiring).filter(p => p.severity === 'error')
  if (wrong.length > 0) return { ok: false, says: wrong.map(p => `${p.path}: found ${p.value}; ${p.message}`).join('\n'), diagnostics: [] }
  const target = TARGETS[language]
  try {
    const program = compileProgram(analysis)
    const made = target.write(program, facts, text, seed)
    const { hardware, missing } = target.parts(robot, facts, board, wiring, made)
    const source = new Source(text)
    const differs = differences(program, source, robot, board, wiring, missing)
    const files = target.files(robot, made.program, hardware, target.runtime(facts, `${made.program}\n${hardware}`))
    const needs = needsOn(target.takes(files, program, facts.tick), board, lookTime(facts, wiring, new Set([...made.devices.keys()].filter(d => !missing.some(m => m.device === d)))), facts.tick)
    return { ok: true, differs, needs, files: { ...files, 'wiring.svg': wiringPlan(robot, board, wiring), 'README.md': readme(target, made.title, { robot, board, wiring }, hardware, differs, needs) } }
  } catch (error) {
    if (error instanceof RangeError) return { ok: false, says: error.message, diagnostics: [] }
    throw error
  }
}

function readme(target: Target, title: string | null, { robot, board, wiring }: Pick<ExportInputs, 'robot' | 'board' | 'wiring'>, hardware: string, differs: readonly Difference[], needs: readonly Need[]): string {
  const rows = wiredPorts(robot, board, wiring).flatMap(({ fitted, wires }) => wires.map(w => `| ${fitted.port} | ${fitted.name} | ${w.line} | ${w.pin} | ${w.note} |`))
  const steps = [`Connect the parts as in \`wiring.svg\` and the table below. The board's pins take ${board.volts} V.`, ...target.steps(robot)]
  return [
    `# ${title ?? 'A program'} for ${robot.name}, on ${board.name}`, '', `Made by Mindpath. ${target.about} Everything is in metres, seconds and radians.`, '',
    '## To run it', '', ...steps.map((step, i) => `${i + 1}. ${step}`), '',
    'A wheel that turns the wrong way: swap the two wires of its motor. One that runs away: swap `a` and `b` of its encoder.', '',
    '## What goes where', '', '| Port | What | Line | Pin | |', '| --- | --- | --- | --- | --- |', ...rows, '',
    '## What is not as in the simulator', '',
    ...differs.map(d => `- ${d.device} (${lineText(d.lines)} of the program): ${d.says}.${d.absent ? ' It reads nothing, and what it is told is not heard.' : ''}`),
    ...target.notes.flatMap(([part, note]) => hardware.includes(part) ? [`- ${note}`] : []), '- Numbers on the board have 32 bits: some seven figures.',
    '- Wheels, grip, noise and light are those of your robot and room: where a threshold is near, try others.', '',
    '## What it needs', '', ...needs.map(n => `- ${n.says}`), '',
  ].join('\n')
}
