import { object } from 'yup'
import { COLORS } from '../colors'
import { plainNumber, quantity } from '../document'
import { defineDevice, type DeviceModel, type DeviceStep, type StepPlan, type Surroundings } from './device'
import { choice, device, flag, kept, value, word } from './form'
import { colorReading, truthReading } from './reading'

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
  schema: noSettings,
  takesTurns: false,
  readings: () => [colorReading('color', 'the colour it shows; none when it is off')],
  timing: () => ({ period: 0, latency: 0 }),
  actuator: () => ({ channels: 1, shared: true, stays: true, initial: [0] }),
  create: ({ channel }) => new Told((around, into) => { into[0] = around.commands[channel]! }),
})

export const display = defineDevice({
  kind: 'display',
  title: 'display',
  port: 'bus',
  schema: noSettings,
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
  return { timing: 'setting', cells: 0, begin: () => true, apply, done: () => true }
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
      begin: () => true,
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
        timing: 'setting', cells: 0, begin: () => true, done: () => true,
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

const show: DeviceStep = {
  form: {
    id: 'show', parts: [word('show'), value('text', 'text')],
    mayLast: false, summary: 'write on the display', example: 'show "near: {sonar.distance}"',
  },
  needs: ['display'],
  moves: firstOf('display'),
  plan(slots, robot) {
    const name = robot.hasDevice('display')!
    const channel = robot.channel(name)
    const index = robot.textIndex(name)
    const { text } = slots.get('text')!
    return setting(m => { m.texts[index] = text!(m); m.commands[channel] = m.texts[index] === '' ? 0 : 1 })
  },
}

const clear: DeviceStep = {
  form: { id: 'clear', parts: [word('clear'), device('device', 'display')], mayLast: false, summary: 'wipe the display', example: 'clear display' },
  needs: ['display'],
  moves: slotDevice,
  plan(slots, robot) {
    const name = slots.get('device')!.word!
    const channel = robot.channel(name)
    const index = robot.textIndex(name)
    return setting(m => { m.texts[index] = ''; m.commands[channel] = 0 })
  },
}

export const signSteps: readonly DeviceStep[] = [lightState, lightColor, tone, play, show, clear]
