import { hueOf, type Rgb } from '../../colors'
import { NAMING, nameOf, namedPlaces } from '../../devices'
import { acos, clamp, wrapAngle } from '../../maths'
import type { Robot } from '../../robot'
import { PIN_MODE } from '../protocol'
import type { Registers } from '../host'
import { cannot, type Part, type Reached } from './part'

/** What reads and is told nothing. */
const eye = (begin: () => string | null, look: (into: Float64Array) => boolean): Part => ({ begin, look, tell: () => undefined, rest: () => undefined })

/** A pin's level is told when it changes, by older boards not at first where it is low: silence for so long means that, milliseconds. */
const LOW_AFTER = 300

/** Switches and other parts that pull a pin down. */
export function switched(of: Reached, now: () => number): Part {
  let begun = Infinity
  return eye(() => {
    const problem = cannot(of, ['signal', PIN_MODE.pullUp, 'an input with a pull-up'])
    if (problem === null) of.host.reportLevels(of.pin('signal'))
    begun = now()
    return problem
  }, (into) => {
    const high = of.host.isHigh(of.pin('signal'))
    if (high === null && now() - begun < LOW_AFTER) return false
    into[0] = high === true ? 0 : 1
    return true
  })
}

/** Volts and what they mean, volts rising, straight in between. */
type Curve = readonly (readonly [volts: number, reads: number])[]

function onCurve(curve: Curve, volts: number): number {
  let i = 1
  while (i < curve.length - 1 && volts > curve[i]![0]) i++
  const [v0, x0] = curve[i - 1]!
  const [v1, x1] = curve[i]!
  return x0 + (x1 - x0) * clamp((volts - v0) / (v1 - v0), 0, 1)
}

/** The voltage of what is connected by one, whatever it means. */
export class Volts {
  private channel = -1
  constructor(private readonly of: Reached, private readonly supply: number) {}

  /** Has the board measure it; why it cannot, in words, else null. */
  begin(): string | null {
    const { of } = this
    const problem = cannot(of, ['signal', PIN_MODE.analogue, 'measured'])
    this.channel = of.host.pins?.[of.pin('signal')]?.channel ?? -1
    if (problem !== null || this.channel === -1) return problem ?? `the board says that its pin ${of.called('signal')} has no analogue channel`
    of.host.reportVoltage(this.channel)
    return null
  }

  /** What it was told to be last, and how often it was told; null until it was. */
  get latest(): { readonly volts: number, readonly count: number } | null {
    const told = this.of.host.voltage(this.channel)
    return told === null ? null : { volts: told.value / 1023 * this.supply, count: told.count }
  }
}

/** A voltage by its curve; `far`: of a distance, which sees nothing from the curve's farthest on. */
export function voltage(of: Reached, curve: Curve, supply: number, far: boolean): Part {
  const farthest = Math.max(...curve.map(([, reads]) => reads))
  const measured = new Volts(of, supply)
  let seen = 0
  return eye(() => measured.begin(), (into) => {
    const told = measured.latest
    if (told === null || told.count === seen) return false
    seen = told.count
    const value = onCurve(curve, told.volts)
    into[0] = far && value >= farthest ? Infinity : value
    if (far) into[1] = into[0] === Infinity ? 0 : 1
    return true
  })
}

/** A part on the bus: what is written to it first, and the registers that it is asked for again and again. `look` is given what came, where that is new. */
function onBus(of: Reached, address: number, { register, count, first }: { readonly register: number, readonly count: number, readonly first: readonly (readonly number[])[] }, look: (told: Registers, into: Float64Array) => boolean): Part {
  let seen = 0
  return eye(() => {
    of.host.bus()
    for (const data of first) of.host.write(address, data)
    of.host.watch(address, register, count)
    seen = 0
    return null
  }, (into) => {
    const told = of.host.registers(address, register)
    if (told === null || told.count === seen || told.bytes.length < count) return false
    seen = told.count
    return look(told, into)
  })
}

const DEG = Math.PI / 180
/** Answers of a gyro that stands, before a run, of which its own error is the mean. */
const STANDING = 25

/** Turning and leaning, by a chip with the registers of an MPU-6050 (by its register map): z up, so that a turn to the left counts up. */
export function rateChip(of: Reached, address: number, limit: number): Part {
  let choice = 0
  while (choice < 3 && limit / DEG > 250 << choice) choice++
  const scale = (250 << choice) / 32768 * DEG
  let [at, turned, sum, count] = [0, 0, 0, 0]
  return onBus(of, address, { register: 0x3b, count: 14, first: [[0x6b, 0], [0x1b, choice << 3]] }, (told, into) => {
    const word = (i: number): number => (told.bytes[i]! << 8 | told.bytes[i + 1]!) << 16 >> 16
    const raw = -word(12) * scale
    if (count < STANDING) {
      sum += raw
      count++
      at = told.at
      return false
    }
    const rate = clamp(raw - sum / count, -limit, limit)
    turned += rate * (told.at - at) / 1000
    at = told.at
    const pull = [word(0), word(2), word(4)] as const
    const size = Math.sqrt(pull[0] * pull[0] + pull[1] * pull[1] + pull[2] * pull[2])
    into[0] = turned
    into[1] = wrapAngle(turned)
    into[2] = rate
    into[3] = size > 0 ? acos(pull[2] / size) : 0
    return true
  })
}

/** What white paper gives, until it was measured. */
const WHITE = 6000

/** Red, green, blue and all light, by a chip with the registers of a TCS34725 (by its datasheet). */
export function colorChip(of: Reached, address: number, robot: Robot): Part {
  const names = namedPlaces(robot.taught)
  return onBus(of, address, { register: 0xb6, count: 6, first: [[0x81, 0xf6], [0x8f, 0x01], [0x80, 0x03]] }, (told, into) => {
    const rgb = [0, 2, 4].map(i => clamp((told.bytes[i]! | told.bytes[i + 1]! << 8) / WHITE * 0.9, 0, 1)) as unknown as Rgb
    const bright = (rgb[0] + rgb[1] + rgb[2]) / 3
    into[0] = bright < NAMING.darkest ? 0 : nameOf(rgb, names)
    into[1] = hueOf(rgb).hue
    into[2] = bright
    return true
  })
}
