import { object } from 'yup'
import { plainNumber, quantity, text } from '../document'
import { clamp } from '../maths'
import { MOTOR_CONNECTIONS } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DevicePart, type DeviceSetting, type DeviceStep, type StepPlan, type StepRobot, type Surroundings, type Work, type ParametersOf } from './device'
import { clause, device, value, word } from './form'
import { aim, jointPlaces } from './joint'
import { quantityReading, truthReading } from './reading'

/** Channels of a motor: what to do, and how much. */
export const MOTOR = { mode: 0, amount: 1 } as const
export const MOTOR_MODE = { brake: 0, power: 1, speed: 2 } as const

/** How much the free speed of two motors of one make differs (deviation). */
const WEAR: ByRealism<number> = { ideal: 0, typical: 0.03, rough: 0.1 }
/** How fast it comes to speed and to rest, seconds. */
const LAG = 0.08
/** How hard the last stretch of a measured turn is closed, per second (a quarter of what its lag allows, so that it does not run past), and the slowest it creeps (share of full speed). */
const CLOSING = 3
const CREEP = 0.01

const schema = object({
  speed: quantity('turning speed', { min: 0.1, max: 2000 }).default(10),
  ticks: plainNumber().integer().min(4).max(10000).default(360),
  carries: text().oneOf(['nothing', 'roller', 'brush'], 'allowed is nothing, roller or brush').default('nothing'),
  axis: text().oneOf(['across', 'upright'], 'allowed is across (draws in what lies before it) or upright (sweeps to the side)').default('across'),
  diameter: quantity('length', { min: 0.005, max: 0.5 }).default(0.04),
  width: quantity('length', { min: 0.005, max: 1 }).default(0.1),
  press: quantity('force', { min: 0.01, max: 100 }).default(1),
})
type Parameters = ParametersOf<typeof schema>

/** What a roller touches is this near, metres; a brush's bristles are this share of its radius, on a solid core. */
const RUBBER = 0.002
const BRISTLES = 0.5

/** A roller or brush in the motor's place. Across, its lower side goes backward as it turns forward: it draws in; upright, it turns right. */
function roller(p: Parameters): readonly DevicePart[] {
  if (p.carries === 'nothing') return []
  const radius = p.diameter / 2
  const soft = p.carries === 'brush' ? BRISTLES * radius : 0
  const half = Math.SQRT1_2
  return [{
    shape: { shape: 'cylinder', radius: radius - soft, hz: p.width / 2 },
    // Its own axis points left, or down: so a turn forward, or to the right, is a positive one about it.
    pose: { position: { x: 0, y: 0, z: 0 }, rotation: p.axis === 'across' ? { x: -half, y: 0, z: 0, w: half } : { x: 1, y: 0, z: 0, w: 0 } },
    friction: 0.8, pad: false, onLink: false, rubs: { force: p.press, reach: soft + RUBBER },
  }]
}

/** A plain motor with an encoder: a spinner, a winch, or what runs a belt of the arena that names it. */
export const motor = defineDevice({
  kind: 'motor',
  title: 'motor',
  port: 'motor',
  connections: MOTOR_CONNECTIONS,
  schema,
  takesTurns: false,
  readings: () => [
    quantityReading('angle', 'angle', 'how far it has turned since the last reset', { resettable: true }),
    quantityReading('speed', 'turning speed', 'how fast it turns'),
    truthReading('moving', 'whether it turns'),
  ],
  timing: () => ({ period: 0, latency: 0 }),
  parts: roller,
  actuator: () => ({ channels: 2, shared: false, stays: false, initial: [0, 0] }),
  create: setting => new Motor(setting),
})

class Motor implements DeviceModel {
  readonly beam = null
  private readonly free: number
  private readonly state = { angle: 0, speed: 0 }

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.free = setting.parameters.speed * (1 + WEAR[setting.realism] * setting.noise.normal())
  }

  act(work: Work): void {
    const { parameters: p } = this.setting
    const mode = work.commands[work.channel + MOTOR.mode]!
    const amount = work.commands[work.channel + MOTOR.amount]!
    // Power makes it turn as this one motor turns; a speed is regulated.
    const wanted = mode === MOTOR_MODE.power ? clamp(amount, -1, 1) * this.free : mode === MOTOR_MODE.speed ? clamp(amount, -p.speed, p.speed) : 0
    const { state } = this
    state.speed += (wanted - state.speed) * work.dt / (LAG + work.dt)
    if (wanted === 0 && Math.abs(state.speed) < 0.001 * p.speed) state.speed = 0
    state.angle += state.speed * work.dt
    // A gearbox: what the roller rubs on does not slow it.
    work.go(state.speed, Infinity, -Infinity, Infinity)
  }

  /** Share of its full speed at which it turns, for the belt that it runs. */
  get share(): number { return this.state.speed / this.setting.parameters.speed }

  look(_around: Surroundings, into: Float64Array): void {
    const { state } = this
    const step = 2 * Math.PI / this.setting.parameters.ticks
    into[0] = Math.round(state.angle / step) * step
    into[1] = state.speed
    into[2] = Math.abs(state.speed) > 0.02 * this.setting.parameters.speed ? 1 : 0
  }

  snapshot(): unknown { return { ...this.state } }
  restore(state: unknown): void { Object.assign(this.state, state) }
}

/** Share of full speed of a motor's model, -1 to 1; null for another kind of device. */
export function motorShare(model: DeviceModel): number | null {
  return model instanceof Motor ? model.share : null
}

const slotDevice: DeviceStep['moves'] = slots => [slots.get('device')!.word!]

function held(channel: number, mode: number, amount: NonNullable<StepPlan['apply']>): StepPlan {
  return {
    timing: 'held', cells: 0,
    apply(m, at) { m.commands[channel + MOTOR.mode] = mode; amount(m, at) },
    done: () => false,
  }
}

const run: DeviceStep = {
  form: {
    id: 'run', parts: [word('run'), device('device', 'motor'), value('amount', 'share', 'turning speed')],
    mayLast: true, summary: 'let a motor turn', example: 'run spinner 50 %',
  },
  needs: ['motor'],
  moves: slotDevice,
  plan(slots, robot) {
    const channel = robot.channel(slots.get('device')!.word!)
    const amount = slots.get('amount')!
    const given = amount.value!
    return held(channel, amount.kind!.time !== 0 ? MOTOR_MODE.speed : MOTOR_MODE.power, m => { m.commands[channel + MOTOR.amount] = given(m) })
  },
}

const runBy: DeviceStep = {
  form: {
    id: 'runBy', parts: [word('run'), device('device', 'motor'), word('by'), value('amount', 'angle'), clause(word('at'), value('speed', 'turning speed'))],
    mayLast: false, summary: 'turn a motor by an angle', example: 'run spinner by 2 turn',
  },
  needs: ['motor'],
  moves: slotDevice,
  plan(slots, robot) {
    const name = slots.get('device')!.word!
    const channel = robot.channel(name)
    const angle = robot.readingIndex(name, 'angle')
    const moving = robot.readingIndex(name, 'moving')
    const { speed: full, ticks } = robot.parametersOf(name) as Parameters
    const amount = slots.get('amount')!.value!
    const fastest = slots.get('speed')?.value ?? (() => full)
    const near = 2 * Math.PI / ticks
    // Cells: where it ends, 1 once it was there.
    return {
      timing: 'timed', cells: 2,
      begin(m, at) {
        const by = amount(m)
        m.cells[at] = m.raw[angle]! + by
        m.cells[at + 1] = 0
        return by !== 0
      },
      apply(m, at) {
        const left = m.cells[at]! - m.raw[angle]!
        if (Math.abs(left) <= near) m.cells[at + 1] = 1
        if (m.cells[at + 1] === 1) { m.commands[channel + MOTOR.mode] = MOTOR_MODE.brake; return }
        const speed = Math.min(Math.abs(fastest(m)), Math.max(full * CREEP, Math.abs(left) * CLOSING))
        m.commands[channel + MOTOR.mode] = MOTOR_MODE.speed
        m.commands[channel + MOTOR.amount] = Math.sign(left) * speed
      },
      done: (m, at) => m.cells[at + 1] === 1 && m.raw[moving] === 0,
    }
  },
}

/** `stop` brakes a motor, and holds a joint where it is. */
const stop: DeviceStep = {
  form: { id: 'stop', parts: [word('stop'), device('device', 'motor', 'joint', 'slide')], mayLast: false, summary: 'stop a motor; hold a joint where it is', example: 'stop spinner' },
  needs: ['motor', 'joint', 'slide'],
  moves: slotDevice,
  plan: (slots, robot) => stopPlan(slots.get('device')!.word!, robot),
}

function stopPlan(name: string, robot: StepRobot): StepPlan {
  if (robot.kindOf(name) === 'motor') {
    const channel = robot.channel(name)
    return { timing: 'instant', cells: 0, done: () => true, apply(m) { m.commands[channel + MOTOR.mode] = MOTOR_MODE.brake } }
  }
  const j = jointPlaces(name, robot)
  return { timing: 'setting', cells: 0, done: () => true, apply(m) { aim(m, j, m.raw[j.at]!, j.parameters.speed) } }
}

export const motorSteps: readonly DeviceStep[] = [run, runBy, stop]
