import type { StepRobot } from '../../devices'
import type { MotionData, SlotData, Value } from '../../program'
import { float, quoted, tuple } from './values'

/** What writing a motion stands on. */
export interface MotionWords {
  readonly robot: StepRobot
  readonly colors: readonly string[]
  value(v: Value): string
  device(name: string): string
  /** The screen of a display. */
  screen(device: string): string
  line(step: number): number
}

type Ends = { readonly from: number, readonly to: number, readonly home: number, readonly speed: number }

/** Python that makes a program's motion: a class of the runtime with what its slots say. Throws RangeError for a form that it does not know. */
export function motionOf(motion: MotionData, words: MotionWords): string {
  const { robot } = words
  const slot = (name: string): SlotData | undefined => motion.slots.find(s => s.name === name)
  const has = (name: string): boolean => slot(name) !== undefined
  const word = (name: string): string | null => slot(name)?.word ?? null
  const later = (v: Value): string => `lambda: ${words.value(v)}`
  const value = (name: string): string => later(slot(name)!.value!)
  /** Clauses that were given, by name. */
  const given = (...names: readonly string[]): string[] => names.flatMap((name) => { const v = slot(name)?.value; return v == null ? [] : [`${name}=${later(v)}`] })
  const make = (name: string, ...parts: readonly string[]): string => `${name}(${[String(words.line(motion.step)), ...parts].join(', ')})`
  const timed = (name: string): boolean => slot(name)?.kind?.time !== 0
  const own = (): string => words.device(motion.actuators[0]!)
  const turned = (amount: Value): string => word('side') === 'left' ? `lambda: -(${words.value(amount)})` : later(amount)
  const ends = (name: string): Ends => robot.parametersOf(name) as Ends
  const reading = (name: string): string => quoted(robot.kindOf(name) === 'slide' ? 'position' : 'angle')
  const joint = (name: string, by: boolean, waits: boolean): string => {
    const { from, to, speed } = ends(name)
    return make('MoveTo', words.device(name), reading(name), value('target'), float(from), float(to), slot('speed')?.value == null ? `lambda: ${float(speed)}` : value('speed'),
      ...waits ? [] : ['waits=False'], ...given('near'), ...by ? ['by=True'] : [])
  }
  switch (motion.form) {
    case 'drive': {
      const bend = slot('bend')?.value
      const clauses = [
        ...given('speed'), ...has('back') ? ['back=True'] : [], ...bend == null ? [] : [`bend=${turned(bend)}`],
        ...has('held') ? ['held=True'] : [], ...given('heading'),
      ]
      return make(timed('amount') ? 'DriveAt' : 'DriveBy', value('amount'), ...clauses)
    }
    case 'turn': return timed('amount') ? make('TurnAt', turned(slot('amount')!.value!)) : make('TurnBy', turned(slot('amount')!.value!), ...given('speed'))
    case 'turnTo': return make('TurnTo', value('heading'), ...given('speed'))
    case 'wheels': return make('Wheels', timed('left') ? 'SPEED' : 'POWER', value('left'), value('right'))
    case 'halt': return make('Rest', 'BRAKE')
    case 'coast': return make('Rest', 'COAST')
    case 'run': return make('Run', own(), timed('amount') ? 'MOTOR_SPEED' : 'MOTOR_POWER', value('amount'))
    case 'runBy': {
      const { speed, ticks } = robot.parametersOf(motion.actuators[0]!) as { readonly speed: number, readonly ticks: number }
      return make('RunBy', own(), value('amount'), float(speed), float(2 * Math.PI / ticks), ...given('speed'))
    }
    case 'stop': {
      const name = motion.actuators[0]!
      if (robot.kindOf(name) === 'motor') return make('StopMotor', own())
      const { from, to, speed } = ends(name)
      return make('StopJoint', own(), reading(name), float(from), float(to), float(speed))
    }
    case 'move': return joint(motion.actuators[0]!, false, !has('free'))
    case 'moveBy': return joint(motion.actuators[0]!, true, true)
    case 'home': { const { home, speed } = ends(motion.actuators[0]!); return make('Home', own(), float(home), float(speed)) }
    case 'perform': {
      const { poses } = robot.gesture(word('gesture')!)!
      const written = poses.map(p => tuple([float(p.after), tuple(Object.entries(p.joints).map(([name, to]) => {
        const { from, to: high, speed } = ends(name)
        return tuple([words.device(name), reading(name), float(to), float(from), float(high), float(speed)])
      }))]))
      return make('Perform', tuple(motion.actuators.map(words.device)), tuple(written), ...given('speed'))
    }
    case 'open': return make('Jaws', own(), '1.0')
    case 'close': return make('Jaws', own(), '2.0')
    case 'switch': return make('Set', own(), `lambda: ${word('state') === 'on' ? '1.0' : '0.0'}`)
    case 'lightState': return make('Set', own(), `lambda: ${float(word('state') === 'off' ? 0 : words.colors.indexOf('white'))}`)
    case 'light': return make('Set', own(), value('color'))
    case 'tone': return make('Tone', own(), value('pitch'))
    case 'play': {
      const { index, length } = robot.clip(word('clip')!)!
      return make(has('beside') ? 'PlayBeside' : 'Play', own(), float(index + 1), float(length))
    }
    case 'show': {
      const { text } = slot('text')!
      return make('Show', words.screen(motion.actuators[0]!), later(text!), ...has('large') ? ['large=True'] : [], ...slot('line')?.value == null ? [] : [`at=${value('line')}`])
    }
    case 'showPicture': return make('ShowPicture', words.screen(motion.actuators[0]!), quoted(word('picture')!))
    // What is on the line goes: an empty text is put there.
    case 'clearLine': return make('Show', words.screen(motion.actuators[0]!), 'lambda: ""', `at=${value('line')}`)
    case 'clear': return make('Clear', words.screen(motion.actuators[0]!))
    case 'look': return make('Look', words.device(word('device')!))
    default: throw new RangeError(`the step "${motion.form}" cannot be carried`)
  }
}
