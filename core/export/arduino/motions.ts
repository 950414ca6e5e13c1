import type { StepRobot } from '../../devices'
import type { MotionData, SlotData, Value } from '../../program'
import type { Names } from '../names'
import { float, type CppValues } from './values'

/** What writing a motion stands on. */
export interface MotionWords {
  readonly robot: StepRobot
  readonly colors: readonly string[]
  readonly values: CppValues
  readonly names: Names
  device(name: string): string
  /** Where a joint can go and how fast: a name for what `made` says. */
  ends(device: string, made: () => string): string
  /** The screen of a display. */
  screen(device: string): string
  line(step: number): number
}

/** A motion in C++: a class of the runtime, what it is made of, and lines that stand before it. */
export interface CppMotion { readonly type: string, readonly given: readonly string[], readonly before: readonly string[] }

type Ends = { readonly from: number, readonly to: number, readonly home: number, readonly speed: number }

/** C++ for a program's motion; `name` is what it is called. Throws RangeError for a form that it does not know. */
export function motionOf(motion: MotionData, name: string, words: MotionWords): CppMotion {
  const { robot, values } = words
  const slot = (wanted: string): SlotData | undefined => motion.slots.find(s => s.name === wanted)
  const has = (wanted: string): boolean => slot(wanted) !== undefined
  const word = (wanted: string): string | null => slot(wanted)?.word ?? null
  const before: string[] = []
  /** What is worked out later: a function, so that a motion is made when the program is compiled and not when it begins. */
  const later = (type: 'Number' | 'void' | 'Letters', of: string, code: string): string => {
    const own = words.names.make(`${name}_${of}`)
    before.push(`${type} ${own}() { ${code} }`)
    return own
  }
  const number = (of: string, text: string): string => later('Number', of, `return ${text};`)
  const value = (wanted: string): string => number(wanted, values.text(slot(wanted)!.value!))
  /** Clauses that may be left out, in their order; those at the end are. */
  const given = (...all: readonly (string | null | undefined)[]): readonly string[] => {
    const last = all.reduce<number>((at, x, i) => x == null ? at : i, -1)
    return all.slice(0, last + 1).map(x => x ?? 'nullptr')
  }
  const clause = (wanted: string): string | null => slot(wanted)?.value == null ? null : value(wanted)
  const make = (type: string, ...parts: readonly string[]): CppMotion => ({ type, given: [String(words.line(motion.step)), ...parts], before })
  const timed = (wanted: string): boolean => slot(wanted)?.kind?.time !== 0
  const wheels = (): string => words.device('wheels')
  const own = (): string => words.device(motion.actuators[0]!)
  const turned = (of: string, amount: Value): string => number(of, word('side') === 'left' ? `-(${values.text(amount)})` : values.text(amount))
  const parametersOf = (device: string): Ends => robot.parametersOf(device) as Ends
  const ends = (device: string): string => words.ends(device, () => { const { from, to, speed } = parametersOf(device); return `{${float(from)}, ${float(to)}, ${float(speed)}}` })
  const either = (...all: readonly (string | null)[]): string => all.filter(x => x !== null).join(' | ')
  switch (motion.form) {
    case 'drive': {
      const bend = slot('bend')?.value
      const how = either(has('back') ? 'BACK' : null, has('held') ? 'HOLDING' : null) || 'FORWARDS'
      const bends = bend == null ? null : turned('bend', bend)
      return timed('amount') ? make('DriveAt', wheels(), how, value('amount'), ...given(bends, clause('heading'))) : make('DriveBy', wheels(), how, value('amount'), ...given(clause('speed'), bends, clause('heading')))
    }
    case 'turn': return timed('amount') ? make('TurnAt', wheels(), turned('amount', slot('amount')!.value!)) : make('TurnBy', wheels(), turned('amount', slot('amount')!.value!), ...given(clause('speed')))
    case 'turnTo': return make('TurnTo', wheels(), value('heading'), ...given(clause('speed')))
    case 'wheels': return make('Wheels', wheels(), timed('left') ? 'SPEED' : 'POWER', value('left'), value('right'))
    case 'halt': return make('Rest', wheels(), 'BRAKE')
    case 'coast': return make('Rest', wheels(), 'COAST')
    case 'run': return make('Run', own(), timed('amount') ? 'MOTOR_SPEED' : 'MOTOR_POWER', value('amount'))
    case 'runBy': {
      const { speed, ticks } = robot.parametersOf(motion.actuators[0]!) as { readonly speed: number, readonly ticks: number }
      return make('RunBy', own(), value('amount'), float(speed), float(2 * Math.PI / ticks), ...given(clause('speed')))
    }
    case 'stop': {
      const device = motion.actuators[0]!
      return robot.kindOf(device) === 'motor' ? make('StopMotor', own()) : make('StopJoint', own(), ends(device))
    }
    case 'move': return make('MoveTo', own(), ends(motion.actuators[0]!), has('free') ? 'WITHOUT_WAITING' : 'TO', value('target'), ...given(clause('speed'), clause('near')))
    case 'moveBy': return make('MoveTo', own(), ends(motion.actuators[0]!), 'BY', value('target'), ...given(clause('speed'), clause('near')))
    case 'home': { const { home, speed } = parametersOf(motion.actuators[0]!); return make('Home', own(), float(home), float(speed)) }
    case 'perform': {
      const { poses } = robot.gesture(word('gesture')!)!
      const parts = [`Device* const ${name}_parts[] = {${motion.actuators.map(a => `&${words.device(a)}`).join(', ')}};`]
      const joints = poses.map((p, i) => `const JointTo ${name}_pose_${i}[] = {${Object.entries(p.joints).map(([joint, to]) => `{&${words.device(joint)}, ${float(to)}, &${ends(joint)}}`).join(', ')}};`)
      const all = `const Pose ${name}_poses[] = {${poses.map((p, i) => `{${float(p.after)}, ${name}_pose_${i}, ${Object.keys(p.joints).length}}`).join(', ')}};`
      return { ...make('Perform', `${name}_parts`, String(motion.actuators.length), `${name}_poses`, String(poses.length), ...given(clause('speed'))), before: [...before, ...parts, ...joints, all] }
    }
    case 'open': return make('Jaws', own(), 'OPEN')
    case 'close': return make('Jaws', own(), 'CLOSE')
    case 'switch': return make('Set', own(), number('amount', word('state') === 'on' ? '1.0' : '0.0'))
    case 'lightState': return make('Set', own(), number('amount', float(word('state') === 'off' ? 0 : words.colors.indexOf('white'))))
    case 'light': return make('Set', own(), value('color'))
    case 'tone': return make('Set', own(), value('pitch'))
    case 'play': {
      const { index, length } = robot.clip(word('clip')!)!
      return make(has('beside') ? 'PlayBeside' : 'Play', own(), String(index + 1), float(length))
    }
    case 'show': return make('Show', words.screen(motion.actuators[0]!), later('void', 'text', `${values.said(slot('text')!.text!)};`), has('large') ? 'LARGE' : 'SMALL', ...given(clause('line')))
    case 'showPicture': return make('ShowPicture', words.screen(motion.actuators[0]!), later('Letters', 'picture', `return ${values.quoted(word('picture')!)};`))
    // What is on the line goes: an empty text is put there.
    case 'clearLine': return make('Show', words.screen(motion.actuators[0]!), later('void', 'text', 'TEXT;'), 'SMALL', value('line'))
    case 'clear': return make('Clear', words.screen(motion.actuators[0]!))
    case 'look': return make('Look', words.device(word('device')!))
    default: throw new RangeError(`the step "${motion.form}" cannot be carried`)
  }
}
