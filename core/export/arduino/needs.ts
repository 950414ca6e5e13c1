import { withoutRemarks } from '../library'

/**
 * What a sketch needs of a chip with 8 bits, worked out from its own text without a compiler. Sizes are those that avr-g++ gives to the runtime's
 * classes; `./mindpath prove hardware` holds the sums against what it makes of whole sketches (docs/hardware.md has how near they come).
 */
export interface Needs {
  /** Bytes that stand in its memory all the time; calls need some hundred besides. */
  readonly memory: number
  /** Bytes of flash, less surely known. */
  readonly flash: number
}

/** Bytes that a program's calls need on the stack while it runs (docs/hardware.md has what those of the demo projects do). */
export const CALLS = 300

/** Bytes of an object of each class. */
const SIZES: Readonly<Record<string, number>> = {
  Rule: 17, Mode: 7, Rest: 7, DriveAt: 17, DriveBy: 24, TurnAt: 8, TurnBy: 15, TurnTo: 15, Wheels: 11, Run: 9, RunBy: 23, StopMotor: 6, MoveTo: 23, StopJoint: 8, Home: 18, Perform: 23, Jaws: 11, Set: 8,
  Play: 15, PlayBeside: 11, Look: 12, Show: 13, ShowPicture: 10, Clear: 8, Screen: 14, Ends: 12, OverTime: 14, Total: 4, Since: 4,
  Nothing: 15, PinAndDirection: 4, TwoPins: 4, Encoder: 12, Shaft: 49, WheelPair: 25, Turning: 15, Servo: 11, ServoJoint: 35, ServoClaw: 31, MotorJoint: 44, MotorClaw: 40, Switch: 14, Echo: 35, Voltage: 21, FarVoltage: 21, RateChip: 42,
  ColorChip: 25, RangingChip: 23, FlashChip: 24, Transistor: 14, ThreePinLamp: 16, OnePinLamp: 14, DataLineLamp: 15, Sounder: 18, TextDisplay: 32,
}
/** Bytes of one of several in a row. */
const ROW_SIZES: Readonly<Record<string, number>> = { 'Rule* const': 2, 'Mode* const': 2, 'Lane* const': 2, 'Device* const': 2, 'Part* const': 2, 'const Pose': 7, 'const JointTo': 8, 'const OnCurve': 8, 'Draws': 16, 'Number': 4, 'const Number': 4 }
const DEVICE = 26
const LANE = 35
const RATE = 18
const RATE_OF_ONE = 6
/** The table of a class's own functions, once for each class: of steps, and of parts, most of which the compiler does without. */
const STEP_TABLE = 14
const PART_TABLE = 4
const PARTS = new Set('Nothing PinAndDirection TwoPins WheelPair Turning ServoJoint ServoClaw MotorJoint MotorClaw Switch Echo Voltage FarVoltage RateChip ColorChip RangingChip FlashChip Transistor ThreePinLamp OnePinLamp DataLineLamp Sounder TextDisplay'.split(' '))
const WITHOUT_TABLE = new Set(['Rule', 'Mode', 'Screen', 'OverTime', 'Encoder', 'Shaft', 'Servo'])
/** What is not by class: the boards' library with its serial line, the text at hand, the tick; and the bus. */
const BASE = 301
const BUS = 179
/** Bytes of code for each letter of the files (without remarks), and for the bus: fitted to 42 sketches. */
const CODE = { base: 350, program: 0.838, hardware: 0.616, runtime: 0.366, bus: 3524 }

export function needsOf(files: Readonly<Record<string, string>>): Needs {
  const file = (end: string): string => Object.entries(files).find(([name]) => name.endsWith(end))?.[1] ?? ''
  const code = (end: string): string => withoutRemarks(file(end), '//')
  const [program, hardware, runtime] = [code('program.h'), code('hardware.h'), code('mindpath.h')]
  const lines = `${program}\n${hardware.slice(hardware.indexOf('Part* const parts[PARTS];'))}`.split('\n')
  const acting = Number(/#define ACTING (\d+)/.exec(program)?.[1] ?? 0)
  const bus = hardware.includes('Wire.h')
  let memory = BASE + (bus ? BUS : 0)
  const tables = new Set<string>()
  for (const line of lines) {
    const object = /^(\w+) \w+\(/.exec(line)
    const row = /^(?:extern )?((?:const )?\w+(?:\* const)?) \w+\[[^\]]*\] = \{(.*)\};$/.exec(line)
    const numbers = /^\s*Number \w+(?:\[(\d+)\])?(?: = .*)?;$/.exec(line)
    const all = /^ {2}union \{ Number all\[(\d+)\]/.exec(line)
    const letters = /^char \w+\[(\d+) \* (\d+)\]/.exec(line)
    const rate = /^Rate<(\d+)>/.exec(line)
    const drawing = /^struct \w+_drawing : (\w+)/.exec(line)
    if (/^struct \w+ : Device/.test(line)) memory += DEVICE
    else if (drawing !== null) memory += STEP_TABLE + (SIZES[drawing[1]!] ?? 0)
    else if (all !== null) memory += 4 * Number(all[1])
    else if (letters !== null) memory += Number(letters[1]) * Number(letters[2])
    else if (rate !== null) memory += RATE + RATE_OF_ONE * Number(rate[1])
    else if (object !== null && object[1] === 'Lane') memory += LANE + 2 * (acting + 1)
    else if (object !== null && SIZES[object[1]!] !== undefined) {
      memory += SIZES[object[1]!]!
      tables.add(object[1]!)
    } else if (/^const Ends /.test(line)) memory += SIZES['Ends']!
    else if (/^(?:Total|Since) \w+;/.test(line)) memory += 4
    else if (numbers !== null) memory += 4 * Number(numbers[1] ?? 1)
    else if (row !== null && ROW_SIZES[row[1]!] !== undefined) memory += ROW_SIZES[row[1]!]! * entries(row[2]!)
  }
  for (const t of tables) if (!WITHOUT_TABLE.has(t)) memory += PARTS.has(t) ? PART_TABLE : STEP_TABLE
  const flash = CODE.base + CODE.program * program.length + CODE.hardware * hardware.length + CODE.runtime * runtime.length + (bus ? CODE.bus : 0)
  return { memory, flash: Math.round(flash) }
}

/** How many stand between braces: what is within braces of its own counts once. */
function entries(text: string): number {
  if (text.trim() === '') return 0
  let depth = 0
  let count = 1
  for (const c of text) {
    if (c === '{' || c === '(') depth++
    else if (c === '}' || c === ')') depth--
    else if (c === ',' && depth === 0) count++
  }
  return count
}
