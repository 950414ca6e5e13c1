import { checkWiring, wiredPorts, wiringPlan, type Board } from '../hardware'
import { checkProgram, compileProgram, type Diagnostic } from '../language'
import { factsOf, type Robot, type Wiring } from '../robot'
import { lineText } from './lines'
import { Source } from './source'
import { partsIn, runtimeFor, toMicroPython, type Missing } from './micropython'

/** What an export is made of; all of it has been read. `seed`: what the program draws by. */
export interface ExportInputs { readonly text: string, readonly robot: Robot, readonly board: Board, readonly wiring: Wiring, readonly seed: number }

/** What the program has to do with and the board has not: why, and in which lines. */
export type Absent = Missing & { readonly lines: readonly number[] }

export type Exported =
  /** What each file is called, and what stands in it. */
  | { readonly ok: true, readonly files: Readonly<Record<string, string>>, readonly missing: readonly Absent[] }
  /** `diagnostics`: why the program cannot run; empty where it can and something else is in the way. */
  | { readonly ok: false, readonly says: string, readonly diagnostics: readonly Diagnostic[] }

/** A program as files for a board with MicroPython. */
export function exportMicroPython({ text, robot, board, wiring, seed }: ExportInputs): Exported {
  const facts = factsOf(robot)
  const { runs, diagnostics, analysis } = checkProgram(text, facts)
  if (!runs) return { ok: false, says: 'the program cannot run', diagnostics }
  try {
    const program = compileProgram(analysis)
    const made = toMicroPython(program, facts, text, seed)
    const { hardware, missing: absent } = partsIn(robot, facts, board, wiring, made.devices)
    const source = new Source(text)
    // Where it is named, and where a step moves it without its name.
    const moved = (device: string): readonly number[] => program.motions.flatMap(m => m.actuators.includes(device) ? [program.steps[m.step]!.line] : [])
    const missing = absent.map((m): Absent => ({ ...m, lines: [...new Set([...source.linesWith(m.device), ...moved(m.device)])].sort((a, b) => a - b) }))
    const main = `# Runs ${robot.name}. With \`report.wanted = True\` it tells all that it reads and does, a line for each tick.\nfrom hardware import parts, run\n\nrun(parts)\n`
    return {
      ok: true, missing,
      files: {
        'main.py': main, 'program.py': made.program, 'hardware.py': hardware, 'mindpath.py': runtimeFor(facts, `${made.program}\n${hardware}`),
        'wiring.svg': wiringPlan(robot, board, wiring), 'README.md': readme(made.title, { robot, board, wiring }, hardware, missing),
      },
    }
  } catch (error) {
    if (error instanceof RangeError) return { ok: false, says: error.message, diagnostics: [] }
    throw error
  }
}

function readme(title: string | null, { robot, board, wiring }: Pick<ExportInputs, 'robot' | 'board' | 'wiring'>, hardware: string, missing: readonly Absent[]): string {
  const rows = wiredPorts(robot, board, wiring).flatMap(({ fitted, wires }) => wires.map(w => `| ${fitted.port} | ${fitted.name} | ${w.line} | ${w.pin} | ${w.note} |`))
  const notes = checkWiring(robot, board, wiring).map(p => `- ${p.path.replace(/^wiring\.ports\.(\w+)\..*$/, 'Port $1')}: ${p.message}.`)
  return [
    `# ${title ?? 'A program'} for ${robot.name}, on ${board.name}`, '',
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
    ...hardware.includes('ColorChip(') ? ['- A colour sensor has to be told what it counts over white paper, as it is mounted: `white` in `hardware.py`.'] : [],
    ...hardware.includes('TextDisplay(') ? ['- A display shows sixteen letters a line, and of a picture its name.'] : [],
    '- Numbers on the board have 32 bits: some seven figures.', '',
  ].join('\n')
}
