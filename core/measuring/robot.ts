import { DEVICE_KINDS, WHEELS } from '../devices'
import { driveOf, measuredRobot, type Robot, type RobotFacts } from '../robot'
import { formatQuantity, unitsOfKind, type Kind } from '../units'
import type { TapeMade } from './again'
import { findGrip, isHard } from './grip'
import { findMotors } from './motors'
import { erringReading, findScale, findSensor, type SensorFound } from './sensors'
import { findDeadZone, findWheels, rolledIn, type EndPose, type Found, type WheelsFound } from './wheels'

/** A run that something is to be found by: its tape, where it was made, where it led (null where nobody measured that), and what is true of a device while the robot stands in it, SI. */
export interface MeasuredRun extends TapeMade { readonly end: EndPose | null, readonly truths: Readonly<Record<string, number>> }

/** A device with all that its runs say, and its bias where one of them says what is true. */
export interface SensorLine extends Omit<SensorFound, 'mean'> {
  readonly bias: Found | null
  /** So many times what is true it reads; null where that was not found, or its kind reads no more or less by a share. */
  readonly scale: Found | null
  /** What its first reading is measured in, and whether that is a sum. */
  readonly kind: Kind
  readonly sum: boolean
  /** The latency that it has by its document, seconds. */
  readonly own: number
}

export interface RobotFound {
  readonly wheels: WheelsFound | null
  /** How many of the runs said where they led, and led there without slipping. */
  readonly ways: number
  readonly deadZone: Found | null
  /** By what share the left motor is stronger. */
  readonly motors: Found | null
  readonly grip: Found | null
  /** Those of which something was found. */
  readonly sensors: readonly SensorLine[]
}

/** What runs of one robot say of it. The physics library has to be there: the grip is found by running again. */
export function findRobot(runs: readonly MeasuredRun[], robot: Robot, facts: RobotFacts): RobotFound {
  const drive = driveOf(facts)
  // Where wheels may slip, how far they rolled says nothing of where they led.
  const ways = runs.filter(({ tape }) => !isHard(tape, facts)).flatMap(({ tape, end }) => {
    const rolled = rolledIn(tape, facts)
    return end === null || rolled === null ? [] : [{ ...rolled, end }]
  })
  const sensors = facts.devices.filter(d => d.name !== WHEELS && !facts.actuators.some(a => a.name === d.name)).flatMap((d): SensorLine[] => {
    const first = d.readings[erringReading(d)]
    if (first === undefined || first.type.type !== 'quantity') return []
    // What stands does not turn: nobody need say so of a rate. A sum that goes on has no noise of its own: its lag alone is looked at.
    const found = runs.map(({ tape, truths }) => ({ ...findSensor(tape, facts, d), truth: truths[d.name] ?? (d.kind === 'gyro' ? 0 : null) }))
    const sum = first.resettable
    const [still, moved] = [bestBy(found, f => f.noise), bestBy(found, f => f.latency)]
    const noise = sum ? null : still?.noise ?? null
    const bias = sum ? null : best(found.map(f => f.mean === null || f.truth === null ? null : { value: f.mean.value - f.truth, error: f.mean.error }))
    const lost = found.flatMap(f => f.dropout === null ? [] : [f.dropout])
    const latency = moved?.latency ?? null
    const scales = DEVICE_KINDS.find(k => k.kind === d.kind)?.errs?.scales === true
    const scale = scales ? findScale(runs.flatMap(({ tape, end }) => end === null || end.heading === null ? [] : [{ tape, heading: end.heading }]), facts, d, bias?.value ?? 0) : null
    if (noise === null && bias === null && latency === null && scale === null) return []
    return [{ device: d.name, noise, bias, scale, dropout: lost.length === 0 ? null : lost.reduce((a, b) => a + b, 0) / lost.length, latency, off: sum ? null : still?.off ?? null, lag: moved?.lag ?? null, kind: first.type.kind, sum, own: d.latency }]
  })
  const found = { wheels: drive === null ? null : findWheels(ways, drive.track), ways: ways.length, deadZone: best(runs.map(({ tape }) => findDeadZone(tape, facts))), sensors }
  const motors = findMotors(runs, rollingAs(robot, { ...found, motors: null }), facts)
  return { ...found, motors, grip: findGrip(runs, rollingAs(robot, { ...found, motors }), facts) }
}

/** A robot that rolls as was found, and errs in nothing else. */
function rollingAs(robot: Robot, { wheels, deadZone, motors }: Pick<RobotFound, 'wheels' | 'deadZone' | 'motors'>): Robot {
  const { drive } = robot
  if (drive === null) return robot
  const sizes = wheels === null ? { difference: 0 } : { radius: drive.radius * (1 + wheels.radius.value), track: drive.track * (1 + wheels.track.value), difference: wheels.difference.value }
  return measuredRobot({ ...robot, measured: { wheels: { ...sizes, motors: motors?.value ?? 0, ...deadZone === null ? {} : { 'dead zone': deadZone.value } }, sensors: {} } }) ?? robot
}

/** Whether anything was found at all. */
export const isFound = ({ wheels, deadZone, motors, grip, sensors }: RobotFound): boolean => wheels !== null || deadZone !== null || motors !== null || grip !== null || sensors.length > 0

/** Of what several runs say, what is known best. */
const best = (found: readonly (Found | null)[]): Found | null => bestBy(found, f => f)
/** The one that knows something best; null where none does. */
const bestBy = <T>(all: readonly T[], of: (one: T) => Found | null): T | null => all.reduce<T | null>((a, b) => { const [last, now] = [a === null ? null : of(a), of(b)]; return now !== null && (last === null || now.error < last.error) ? b : a }, null)

const digits = (x: number, count: number): number => Number(x.toPrecision(count))
/** A quantity in the usual unit of its kind, with so many digits. */
function inUnit(value: number, kind: Kind, count = 4): string {
  const [unit] = unitsOfKind(kind)
  return unit === undefined ? String(digits(value, count)) : formatQuantity(digits(value, count), unit)
}

/** What was found as a robot's document keeps it, to be its realism `measured`. Nothing of what was not found. */
export function measuredDocument({ wheels, deadZone, motors, grip, sensors }: RobotFound, facts: RobotFacts): object {
  const drive = driveOf(facts)
  const cm = (metres: number): string => `${digits(metres * 100, 5)} cm`
  return {
    ...drive === null || (wheels === null && deadZone === null && motors === null && grip === null) ? {} : {
      wheels: {
        ...wheels === null ? {} : { radius: cm(drive.radius * (1 + wheels.radius.value)), track: cm(drive.track * (1 + wheels.track.value)), difference: digits(wheels.difference.value, 3) },
        ...deadZone === null ? {} : { 'dead zone': `${digits(deadZone.value * 100, 3)} %` }, ...motors === null ? {} : { motors: digits(motors.value, 3) }, ...grip === null ? {} : { grip: digits(grip.value, 3) },
      },
    },
    sensors: Object.fromEntries(sensors.flatMap(({ device, noise, bias, scale, dropout, latency, kind, sum, own }) => sum ? [] : [[device, {
      ...noise === null ? {} : { noise: inUnit(noise.value, kind, 3) }, ...bias === null ? {} : { bias: inUnit(bias.value, kind, 3) }, ...scale === null ? {} : { scale: digits(scale.value, 5) },
      ...dropout === null || dropout < 0.001 ? {} : { dropout: digits(dropout, 2) }, ...latency === null ? {} : { latency: `${Math.max(0, Math.round((latency.value - own) * 1000))} ms` },
    }]])),
  }
}

/** What was found, in lines for people. */
export function foundSays({ wheels, ways, deadZone, motors, grip, sensors }: RobotFound, facts: RobotFacts): readonly string[] {
  const drive = driveOf(facts)
  const give = (is: Found, scale: number, unit: string): string => `${digits(is.value * scale, 4)} ± ${digits(is.error * scale, 2)} ${unit}`
  const ms = (s: number): string => `${Math.round(s * 1000)} ms`
  const lines: string[] = []
  if (drive !== null && wheels !== null) {
    lines.push(
      `wheels, by ${ways} ways: they ended ${digits(wheels.before * 100, 2)} cm from where they should in the mean, and ${digits(wheels.after * 100, 2)} cm with what was found`,
      `  radius ${give({ value: drive.radius * (1 + wheels.radius.value), error: drive.radius * wheels.radius.error }, 100, 'cm')} (by the document ${digits(drive.radius * 100, 4)} cm)`,
      `  track ${give({ value: drive.track * (1 + wheels.track.value), error: drive.track * wheels.track.error }, 100, 'cm')} (by the document ${digits(drive.track * 100, 4)} cm)`,
      `  the left wheel is larger by ${give(wheels.difference, 100, '%')}`,
    )
  } else if (drive !== null) lines.push(ways === 0 ? 'wheels: of no run it is known where it ended' : `wheels: ${ways} ways do not tell their sizes: a square to the left, one to the right, and a straight way do`)
  if (deadZone !== null) lines.push(`  they do not turn below ${give(deadZone, 100, '%')} of full power (by the document ${digits((drive?.['dead zone'] ?? 0) * 100, 3)} %)`)
  if (motors !== null) lines.push(`  the left motor is stronger by ${give(motors, 100, '%')}`)
  if (grip !== null) lines.push(`  they grip with ${digits(grip.value, 3)} ± ${digits(grip.error, 2)} times what they carry (by the document ${digits(drive?.grip ?? 0, 3)})`)
  for (const { device, noise, bias, scale, dropout, latency, kind, own } of sensors) {
    const of = (is: Found): string => `${inUnit(is.value, kind, 3)} ± ${inUnit(is.error, kind, 2)}`
    lines.push(`${device}: ${[
      ...noise === null ? [] : [`noise ${of(noise)}`], ...bias === null ? [] : [`bias ${of(bias)}`], ...scale === null ? [] : [`${digits(scale.value, 5)} ± ${digits(scale.error, 2)} times what is true`], ...dropout === null ? [] : [`${digits(dropout * 100, 2)} % of looks lost`],
      ...latency === null ? [] : [`latency ${ms(latency.value)} ± ${ms(latency.error)} (by the document ${ms(own)})`],
    ].join(', ')}`)
  }
  return lines
}
