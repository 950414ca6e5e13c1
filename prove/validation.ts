import { readFileSync } from 'node:fs'
import { readArena } from '../core/arena'
import { checkProgram, compileProgram } from '../core/language'
import { factsOf, readRobot } from '../core/robot'
import { Simulation } from '../core/simulation'

/** The simulator against theory: each a figure worked out on paper, and what a run at ideal realism gives. */
export interface Validation {
  readonly name: string
  readonly theory: number
  readonly found: number
  readonly unit: string
  /** The largest deviation that is accepted, as a share of the figure, and why it is not nothing. */
  readonly within: number
  readonly says: string
}

const G = 9.81

interface Doc { drive: Record<string, unknown>, devices: { name: string, kind: string, mount: Record<string, string>, settings?: Record<string, unknown> }[], chassis: Record<string, string> }

function build(robot: string, program: string | null, arena: object = {}, change: (d: Doc) => void = () => undefined, limit = 20): Simulation {
  const document = JSON.parse(readFileSync(`demo/robots/${robot}.json`, 'utf8')) as Doc
  change(document)
  const made = readRobot(document)
  const place = readArena({ mindpath: 'arena', version: 1, name: 'deck', size: ['8 m', '4 m'], start: { at: ['1 m', '2 m'] }, ...arena })
  if (!made.ok || !place.ok) throw new Error(JSON.stringify([made, place]))
  const checked = program === null ? null : checkProgram(program, factsOf(made.value))
  if (checked !== null && !checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  return new Simulation({ program: checked === null ? null : compileProgram(checked.analysis), robot: made.value, arena: place.value, task: null, realism: 'ideal', seed: 1, limit })
}

const height = (s: Simulation): number => s.tape.at(s.tape.rows - 1)[s.tape.layout.body + 2]!
const reading = (s: Simulation, name: string): number => {
  const [device, which] = name.split('.') as [string, string]
  const facts = s.facts.devices.find(d => d.name === device)!
  const [plain, of = null] = which.replace(')', '').split('(')
  return s.tape.at(s.tape.rows - 1)[s.tape.layout.readings + facts.first + facts.readings.findIndex(r => r.name === plain && r.of === of)]!
}

/** Metres that a limpet with locked wheels slides from a speed, and what Coulomb's law with load transfer says. */
function stopping(speed: number): Validation {
  const s = build('limpet', null, {}, undefined, 6)
  s.poke({ poke: 'push', forward: speed, right: 0 })
  s.runToEnd()
  const { drive, height: h } = s.input.robot
  const { forward, grip, castors } = drive!
  const [back] = castors[0]!
  // Moments about the centre: the axle d1 ahead, the castor d2 behind; the tail lifts where the lever says so.
  const [d1, d2] = [forward, -back]
  const mu = grip * s.input.arena.floor.friction
  const share = d1 + d2 - mu * h <= d2 ? 1 : Math.min(1, d2 / (d1 + d2 - mu * h))
  return {
    name: `stopping distance from ${speed} m/s`, theory: speed * speed / (2 * mu * G * share), found: s.pose().x - 1, unit: 'm', within: 0.15,
    says: 'v² / (2 μ g n), n the share of the weight on the braked wheels with load transfer; the tail lifts, and while it rises and falls the wheels are pressed harder and lighter than that',
  }
}

function fall(): Validation {
  const s = build('limpet', 'otherwise -> drive 30 cm/s', { decks: [{ at: ['1 m', '2 m'], size: ['80 cm', '80 cm'] }], surround: 'water' })
  // From where it no longer touches anything: two heights and the speed between.
  const z: number[] = []
  while (s.end === null) { s.advance(); z.push(height(s)) }
  const from = z.findIndex(h => h < -0.25)
  const ticks = 6
  const t = ticks * s.facts.tick
  const second = (z[from + 2 * ticks]! - 2 * z[from + ticks]! + z[from]!) / (t * t)
  return { name: 'free fall', theory: -G, found: second, unit: 'm/s²', within: 0.01, says: 'second difference of the height' }
}

function square(): Validation {
  const s = build('limpet', 'start\n  repeat 4 times\n    drive 60 cm\n    turn right 90 deg\n  finish', {}, undefined, 60)
  const { x, y } = s.pose()
  s.runToEnd()
  const end = s.pose()
  return { name: 'a square of 60 cm: how far from where it began', theory: 0, found: Math.sqrt((end.x - x) ** 2 + (end.y - y) ** 2), unit: 'm', within: 0.03, says: 'each side to an encoder tick and a half, each turn to 0.6 deg (absolute)' }
}

function camera(): Validation {
  const s = build('cuttle', 'start -> wait 1 s', { pieces: [{ name: 'it', kind: 'buoy', shape: 'cylinder', diameter: '8 cm', height: '12 cm', color: 'orange', fixed: true, at: ['1.9 m', '1.75 m'] }] }, undefined, 1)
  s.runToEnd()
  const device = s.input.robot.devices.find(d => d.kind.kind === 'camera')!
  return {
    name: 'camera: bearing of a buoy', theory: Math.atan2(0.25, 0.9 - device.mount.forward) * 180 / Math.PI, found: reading(s, `${device.name}.bearing(orange)`) * 180 / Math.PI, unit: 'deg', within: 0.03,
    says: 'atan of its place; a picture is 160 pixels wide, half a pixel is 0.2 deg',
  }
}

function tipping(): Validation {
  // A tall rover on a narrow track, turned ever faster on the spot would not tip; braked at a limit it does: the smallest deceleration that lifts the tail.
  const s = build('limpet', null, {}, undefined, 1)
  const { drive, height: h } = s.input.robot
  const lift = (speed: number): boolean => {
    const run = build('limpet', null, { floor: { friction: 1 } }, undefined, 2)
    run.poke({ poke: 'push', forward: speed, right: 0 })
    let most = 0
    while (run.end === null) { run.advance(); most = Math.max(most, reading(run, 'gyro.tilt')) }
    return most * 180 / Math.PI > 8
  }
  // The energy that turns it about its wheels until 8 deg: m g (rise of the centre), from the speed that the brake takes.
  const d = drive!.forward
  const r = Math.sqrt(d * d + h * h)
  const lean = Math.atan2(d, h)
  const rise = r * Math.cos(lean - 8 * Math.PI / 180) - h
  const about = s.input.robot.inertia.y / s.input.robot.mass + r * r
  // Angular momentum about the point of contact is kept in a sudden stop: v h = ω (I/m + r²).
  const theory = Math.sqrt(2 * G * Math.max(rise, 0) * about) / h
  let [low, high] = [0.05, 1.5]
  for (let i = 0; i < 9; i++) { const middle = (low + high) / 2; if (lift(middle)) high = middle; else low = middle }
  return { name: 'tipping: the speed from which a sudden stop tips it by 8 deg', theory, found: (low + high) / 2, unit: 'm/s', within: 0.6, says: 'a lower bound: angular momentum about the wheels’ contact, then energy; the brake is not sudden, so it takes more' }
}

export function validate(): readonly Validation[] {
  return [fall(), stopping(0.7), stopping(1), stopping(1.4), tipping(), square(), camera()]
}

/** A validation's deviation: as a share of its figure, or as it is where the figure is 0. */
export const deviation = (v: Validation): number => v.theory === 0 ? Math.abs(v.found) : Math.abs(v.found - v.theory) / Math.abs(v.theory)

export function validationText(all: readonly Validation[]): string {
  const figure = (x: number): string => Number(x.toPrecision(4)).toString()
  return `# The simulator against theory

Made by \`./mindpath prove validation\`, at ideal realism; a test holds each figure within what is accepted.

| what | theory | found | deviation | accepted | how |
| --- | --- | --- | --- | --- | --- |
${all.map(v => `| ${v.name} | ${figure(v.theory)} ${v.unit} | ${figure(v.found)} ${v.unit} | ${v.theory === 0 ? `${figure(v.found)} ${v.unit}` : `${(100 * deviation(v)).toFixed(1)} %`} | ${v.theory === 0 ? `${v.within} ${v.unit}` : `${100 * v.within} %`} | ${v.says} |`).join('\n')}
`
}
