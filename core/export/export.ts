import { checkWiring, wiredPorts, wiringPlan, type Board } from '../hardware'
import type { ProgramData } from '../program'
import { factsOf, type Robot, type Wiring } from '../robot'
import { Source } from './source'
import { partsIn, runtimeFor, toMicroPython, type Missing } from './micropython'

/** What an export is made of. `text` is what the program was compiled from. */
export interface ExportInputs { readonly program: ProgramData, readonly text: string, readonly robot: Robot, readonly board: Board, readonly wiring: Wiring, readonly seed: number }

export interface Exported {
  /** What each file is called, and what stands in it. */
  readonly files: Readonly<Record<string, string>>
  /** What the program has to do with and the board has not: why, and in which lines. */
  readonly missing: readonly (Missing & { readonly lines: readonly number[] })[]
}

/** A program as files for a board with MicroPython. Throws RangeError where a step or the wiring cannot be carried. */
export function exportMicroPython({ program, text, robot, board, wiring, seed }: ExportInputs): Exported {
  const facts = factsOf(robot)
  const made = toMicroPython(program, facts, text, seed)
  const { hardware, missing: absent } = partsIn(robot, facts, board, wiring, made.devices)
  const source = new Source(text)
  const missing = absent.map(m => ({ ...m, lines: source.linesWith(m.device) }))
  const main = `# Runs ${robot.name}. With \`report.wanted = True\` it tells all that it reads and does, a line for each tick.\nfrom hardware import parts, run\n\nrun(parts)\n`
  return {
    missing,
    files: {
      'main.py': main, 'program.py': made.program, 'hardware.py': hardware, 'mindpath.py': runtimeFor(facts, `${made.program}\n${hardware}`),
      'wiring.svg': wiringPlan(robot, board, wiring), 'README.md': readme({ program, text, robot, board, wiring, seed }, missing),
    },
  }
}

function readme({ program, robot, board, wiring }: ExportInputs, missing: Exported['missing']): string {
  const rows = wiredPorts(robot, board, wiring).flatMap(({ fitted, wires }) => wires.map(w => `| ${fitted.port} | ${fitted.name} | ${w.line} | ${w.pin} | ${w.note} |`))
  const notes = checkWiring(robot, board, wiring).map(p => `- ${p.path.replace(/^wiring\.ports\.(\w+)\..*$/, 'Port $1')}: ${p.message}.`)
  return [
    `# ${program.title ?? 'A program'} for ${robot.name}, on ${board.name}`, '',
    'Made by Mindpath. `program.py` is the program, a function for each rule; `hardware.py` says how its parts are connected; `mindpath.py` is what the words of the',
    'program mean. Everything is in metres, seconds and radians.', '',
    '## To run it', '',
    `1. Connect the parts as in \`wiring.svg\` and the table below. The board's pins take ${board.volts} V.`,
    '2. Put MicroPython on the board, as its maker describes.',
    '3. Copy the four `.py` files to it, with `mpremote cp *.py :` or the file view of an editor for MicroPython.',
    '4. Put the robot on a stand, its wheels in the air, and reset the board. `main.py` begins by itself; `Ctrl-C` on its serial line stops it and its motors.', '',
    'A wheel that turns the wrong way: swap the two wires of its motor. One that runs away: swap `a` and `b` of its encoder.', '',
    '## What goes where', '', '| Port | What | Line | Pin | |', '| --- | --- | --- | --- | --- |', ...rows, '',
    '## What is not as in the simulator', '',
    ...missing.map(m => `- ${m.device} (${lineText(m.lines)} of the program): ${m.why}. It reads nothing, and what it is told is not heard.`), ...notes,
    ...robot.fitted.some(f => f.kind.kind === 'color') && !missing.some(m => m.device === robot.fitted.find(f => f.kind.kind === 'color')!.name) ? ['- A colour sensor has to be told what it counts over white paper, as it is mounted: `white` in `hardware.py`.'] : [],
    '- Numbers on the board have 32 bits: some seven figures.', '',
  ].join('\n')
}

/** `line 3`, `lines 3, 7`. */
export const lineText = (lines: readonly number[]): string => `line${lines.length === 1 ? '' : 's'} ${lines.join(', ')}`
