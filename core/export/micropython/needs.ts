import { withoutRemarks } from '../library'
import type { Takes } from '../needs'

/** Bytes of an interpreter's memory for each letter of the files (without remarks): what stays of them, and what the last of them takes besides while it is read. Fitted to the demo projects' in MicroPython's own interpreter, whose words and blocks are as long as those of boards. */
const KEPT = { runtime: 0.75, program: 2.8, hardware: 1.05 }
const WHILE_READ = 0.8

/** What a program's files take of a board's memory. */
export function takesOf(files: Readonly<Record<string, string>>): Takes {
  const letters = (name: string): number => withoutRemarks(files[name] ?? '', '#').split('\n').filter(line => line !== '').join('\n').length
  const hardware = letters('hardware.py')
  return {
    memory: Math.round(KEPT.runtime * letters('mindpath.py') + KEPT.program * letters('program.py') + KEPT.hardware * hardware), besides: Math.round(WHILE_READ * hardware),
    why: 'while it starts', flash: null, cycles: null,
  }
}
