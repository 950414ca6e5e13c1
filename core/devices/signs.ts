import { object } from 'yup'
import { COLORS } from '../colors'
import { plainNumber, quantity } from '../document'
import { onBus } from './connection'
import { defineDevice, type DeviceModel, type DeviceStep, type StepMachine, type StepPlan, type Surroundings } from './device'
import { choice, clause, device, flag, kept, value, word } from './form'
import { colorReading, truthReading } from './reading'
import { filled, lined, readScreen, writeScreen, type Screen, type ScreenSize } from './screen'

/** What a robot shows and sounds: lamp, display and horn. Any lane may set them. */

/** Reads back what an actuator is told, for the rail and for `robot.still`. */
class Told implements DeviceModel {
  readonly beam = null
  constructor(private readonly tell: (around: Surroundings, into: Float64Array) => void) {}
  look(around: Surroundings, into: Float64Array): void { this.tell(around, into) }
  snapshot(): unknown { return null }
  restore(): void { /* The commands hold all of it. */ }
}

const noSettings = object({})

export const lamp = defineDevice({
  kind: 'lamp',
  title: 'lamp',
  port: 'digital',
  connections: [
    { name: 'three pins', says: 'a diode of three colours, each by a resistor of 330 Ω', lines: ['red', 'green', 'blue'].map(name => ({ name, needs: 'output', draws: 8 })), feeds: 0 },
    { name: 'data line', says: 'a diode that is told its colour over one wire', lines: [{ name: 'signal', needs: 'output' }], feeds: 40 },
    { name: 'one pin', says: 'a diode of one colour, by a resistor of 330 Ω', lines: [{ name: 'signal', needs: 'output', draws: 8 }], feeds: 0, loses: 'it is on or off: all colours look alike' },
  ],
  schema: noSettings,
  takesTurns: false,
  readings: () => [colorReading('color', 'the colour it shows; none when it is off')],
  timing: () => ({ period: 0, latency: 0 }),
  actuator: () => ({ channels: 1, shared: true, stays: true, initial: [0] }),
  create: ({ channel }) => new Told((around, into) => { into[0] = around.commands[channel]! }),
})

const displaySchema = object({
  /** Small letters on a line, and lines of them: 6 by 8 dots each. */
  columns: plainNumber().integer('expected a whole number').min(4).max(42).default(21),
  lines: plainNumber().integer('expected a whole number').min(1).max(16).default(8),
  /** Of its glass. */
  width: quantity('length', { min: 0.01, max: 0.3 }).default(0.06),
})

export const display = defineDevice({
  kind: 'display',
  title: 'display',
  port: 'bus',
  connections: [onBus('it is written to over the bus', [0x3c, 0x3d], 20)],
  schema: displaySchema,
  takesTurns: false,
  readings: () => [truthReading('shows', 'whether anything stands on it')],
  timing: () => ({ period: 0, latency: 0 }),
  actuator: () => ({ channels: 1, shared: true, stays: true, initial: [0] }),
  create: ({ channel }) => new Told((around, into) => { into[0] = around.commands[channel]! }),
})

/** Channels of a horn: pitch in Hz, clip (from 1), clip that goes on by itself, the tick in which that ends. */
const HORN = { pitch: 0, clip: 1, beside: 2, until: 3 } as const

const hornSchema = object({
  /** Loudness at half a metre. */
  volume: quantity('number', { min: 0, max: 2 }).default(0.8),
  highest: plainNumber().min(200).max(20000).default(12000),
})

export const horn = defineDevice({
  kind: 'horn',
  title: 'horn',
  port: 'digital',
  connections: [{ name: 'tone', says: 'a small loudspeaker by a resistor of 100 Ω, or a sounder', lines: [{ name: 'signal', needs: 'tone', draws: 8 }], feeds: 0, loses: 'clips do not sound: it has a pitch and no more' }],
  schema: hornSchema,
  takesTurns: false,
  readings: () => [truthReading('sounding', 'whether it sounds')],
  timing: () => ({ period: 0, latency: 0 }),
  actuator: () => ({ channels: 4, shared: true, stays: [false, false, true, true], initial: [0, 0, 0, 0] }),
  create: ({ channel, tick, parameters }) => new Told((around, into) => {
    const { commands, time } = around
    const sounds = commands[channel + HORN.pitch]! > 0 || commands[channel + HORN.clip]! > 0
      || (commands[channel + HORN.beside]! > 0 && time < commands[channel + HORN.until]! * tick)
    into[0] = sounds ? 1 : 0
    if (sounds) around.sound.add({ x: around.body.pose.position.x, y: around.body.pose.position.y, loudness: parameters.volume, until: time + tick })
  }),
})

function setting(apply: StepPlan['apply']): StepPlan {
  return { timing: 'setting', cells: 0, apply, done: () => true }
}

const slotDevice: DeviceStep['moves'] = slots => [slots.get('device')!.word!]
const firstOf = (kind: string): DeviceStep['moves'] => (_slots, robot) => [robot.hasDevice(kind)!]

const lightState: DeviceStep = {
  form: {
    id: 'lightState', parts: [word('light'), device('device', 'lamp'), choice('state', 'off', 'on')],
    mayLast: false, summary: 'put a lamp out, or on', example: 'light lamp off',
  },
  needs: ['lamp'],
  moves: slotDevice,
  plan(slots, robot) {
    const channel = robot.channel(slots.get('device')!.word!)
    const shown = slots.get('state')!.word === 'off' ? 0 : COLORS.indexOf('white')
    return setting(m => { m.commands[channel] = shown })
  },
}

const lightColor: DeviceStep = {
  form: {
    id: 'light', parts: [word('light'), device('device', 'lamp'), value('color', 'color')],
    mayLast: false, summary: 'light a lamp in a colour', example: 'light lamp red',
  },
  needs: ['lamp'],
  moves: slotDevice,
  plan(slots, robot) {
    const channel = robot.channel(slots.get('device')!.word!)
    const shown = slots.get('color')!.value!
    return setting(m => { m.commands[channel] = shown(m) })
  },
}

const tone: DeviceStep = {
  form: {
    id: 'tone', parts: [word('tone'), value('pitch', 'frequency')],
    mayLast: true, summary: 'sound the horn at a pitch', example: 'tone 440 Hz for 0.3 s',
  },
  needs: ['horn'],
  moves: firstOf('horn'),
  plan(slots, robot) {
    const channel = robot.channel(robot.hasDevice('horn')!)
    const pitch = slots.get('pitch')!.value!
    return {
      timing: 'held', cells: 0,
      apply(m) { m.commands[channel + HORN.pitch] = pitch(m) },
      done: () => false,
    }
  },
}

const play: DeviceStep = {
  form: {
    id: 'play', parts: [word('play'), kept('clip', 'clip'), flag('beside', 'without', 'waiting')],
    mayLast: false, summary: 'play a clip that the robot keeps', example: 'play gull',
  },
  needs: ['horn'],
  moves: firstOf('horn'),
  plan(slots, robot) {
    const channel = robot.channel(robot.hasDevice('horn')!)
    const { index, length } = robot.clip(slots.get('clip')!.word!)!
    if (slots.has('beside')) {
      return {
        timing: 'setting', cells: 0, done: () => true,
        apply(m) {
          m.commands[channel + HORN.beside] = index + 1
          m.commands[channel + HORN.until] = m.tick + Math.ceil(length / m.dt)
        },
      }
    }
    return {
      timing: 'timed', cells: 1,
      begin(m, at) { m.cells[at] = m.tick + Math.ceil(length / m.dt); return true },
      apply(m) { m.commands[channel + HORN.clip] = index + 1 },
      done: (m, at) => m.tick >= m.cells[at]!,
    }
  },
}

/** A step that changes what stands on the display that it names, or on the first. */
function onScreen(form: DeviceStep['form'], change: (slots: Parameters<DeviceStep['plan']>[0]) => (screen: Screen, m: StepMachine, size: ScreenSize, display: string) => Screen): DeviceStep {
  const named: DeviceStep['moves'] = (slots, robot) => [slots.get('device')?.word ?? robot.hasDevice('display')!]
  return {
    form, needs: ['display'], moves: named,
    plan(slots, robot) {
      const name = named(slots, robot)[0]!
      const channel = robot.channel(name)
      const index = robot.textIndex(name)
      const size = robot.parametersOf(name) as ScreenSize
      const put = change(slots)
      return setting((m) => {
        m.texts[index] = writeScreen(put(readScreen(m.texts[index]!), m, size, name))
        m.commands[channel] = m.texts[index] === '' ? 0 : 1
      })
    },
  }
}

/** A line of a display, from 1; beyond its ends it is the nearest, and that is told. */
function lineAt(wanted: number, m: StepMachine, size: ScreenSize, display: string): number {
  const line = Math.min(size.lines, Math.max(1, Math.round(wanted)))
  if (!(Math.abs(line - wanted) < 0.5)) m.clip(display)
  return Number.isNaN(line) ? 1 : line
}

const NOTHING: Screen = { picture: null, lines: [] }

const show = onScreen({
  id: 'show', parts: [word('show'), value('text', 'text'), flag('large'), clause(word('at'), word('line'), value('line', 'number')), clause(word('on'), device('device', 'display'))],
  mayLast: false, summary: 'write on the display, all of it or one line', example: 'show "near: {sonar.distance}"',
}, (slots) => {
  const text = slots.get('text')!.text!
  const line = slots.get('line')?.value ?? null
  const large = slots.has('large')
  return (screen, m, size, display) => line === null ? filled(text(m), large, size) : lined(screen, lineAt(line(m), m, size, display), text(m), large, size)
})

const showPicture = onScreen({
  id: 'showPicture', parts: [word('show'), word('picture'), kept('picture', 'picture'), clause(word('on'), device('device', 'display'))],
  mayLast: false, summary: 'show a picture that the robot keeps', example: 'show picture gull',
}, slots => () => ({ picture: slots.get('picture')!.word!, lines: [] }))

const clearLine = onScreen({
  id: 'clearLine', parts: [word('clear'), word('line'), value('line', 'number'), clause(word('on'), device('device', 'display'))],
  mayLast: false, summary: 'wipe one line of the display', example: 'clear line 2',
}, (slots) => {
  const line = slots.get('line')!.value!
  return (screen, m, size, display) => lined(screen, lineAt(line(m), m, size, display), '', false, size)
})

const clear = onScreen({
  id: 'clear', parts: [word('clear'), device('device', 'display')], mayLast: false, summary: 'wipe the display', example: 'clear display',
}, () => () => NOTHING)

export const signSteps: readonly DeviceStep[] = [lightState, lightColor, tone, play, show, showPicture, clearLine, clear]
